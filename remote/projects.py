"""``texel project``: a project as text, in a folder for version control, kept in step with a studio.

    texel project export PROJECT FOLDER   bring the folder to what the studio has
    texel project status PROJECT FOLDER   what differs, and on which side it changed; exit code 1 where something does
    texel project import PROJECT FOLDER   bring both together; exit code 1 with conflicts, and then nothing changes

``texel build FOLDER`` makes the delivery of such a folder without any studio. Address and token as for
``texel remote``. Exit codes: 0 fine, 1 differences or conflicts, 2 bad usage, or the studio refused.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from remote.cli import FINE, FOUND_ERRORS, Told, run_command, studio_arguments
from remote.client import Studio
from remote.text import export, import_, status

__all__ = ["main"]


def _line(one: dict[str, Any]) -> list[str]:
    if not one["here"]:
        what = "only in the studio"
    elif not one["studio"]:
        what = "only here"
    else:
        what = ", ".join(told["path"] for told in one["differences"][:5])
        what += ", ..." if len(one["differences"]) > 5 else ""
    return [f"{one['state']:<22} {one['path']}: {what}"]


def _status(studio: Studio, args: argparse.Namespace) -> Told:
    found = status(studio, args.project, Path(args.folder))
    lines = [line for one in found for line in _line(one)] or ["folder and studio are the same"]
    return FOUND_ERRORS if found else FINE, {"differences": found}, "\n".join(lines)


def _export(studio: Studio, args: argparse.Namespace) -> Told:
    changed = export(studio, args.project, Path(args.folder), args.replace)
    return FINE, {"written": changed}, "\n".join([*changed, f"{len(changed)} documents changed in {args.folder}"])


def _import(studio: Studio, args: argparse.Namespace) -> Told:
    take = dict.fromkeys(args.take_here, "here") | dict.fromkeys(args.take_studio, "studio")
    sources = [Path(one) for one in args.sources]
    told = import_(studio, args.project, Path(args.folder), {_key(one): side for one, side in take.items()}, sources)
    if told["conflicts"]:
        lines = [line for one in told["conflicts"] for line in _line(one)]
        lines.append("Nothing was changed. Say --take-here or --take-studio with each of these.")
        return FOUND_ERRORS, told, "\n".join(lines)
    lines = [*(f"applied {key}" for key in told["applied"]), *(f"written {path}" for path in told["written"])]
    return FINE, told, "\n".join([*lines, f"{len(told['applied'])} applied, {len(told['written'])} written"])


def _key(named: str) -> str:
    """A key, or the path of its document."""
    return named.removesuffix(".json")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="texel project", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    studio_arguments(parser)
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, run, text in (
        ("export", _export, "Bring the folder to what the studio has."),
        ("status", _status, "What differs between folder and studio."),
        ("import", _import, "Bring folder and studio together."),
    ):
        sub = commands.add_parser(name, help=text, description=text)
        sub.add_argument("project", help="as it stands in the page's address: /p/PROJECT")
        sub.add_argument("folder")
        sub.add_argument("--json", action="store_true", help="print one JSON document")
        sub.set_defaults(run=run)
        if name == "export":
            sub.add_argument("--replace", action="store_true", help="also what was changed in the folder since")
        if name == "import":
            for side in ("here", "studio"):
                sub.add_argument(
                    f"--take-{side}", action="append", default=[], metavar="DOCUMENT",
                    help="of what both sides changed, such as sets/deck",
                )  # fmt: skip
            sub.add_argument(
                "--sources", action="append", default=[], metavar="DIR", help="files to upload that the project lacks"
            )
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code."""
    return run_command("texel project", _parser(), argv)


if __name__ == "__main__":
    sys.exit(main())
