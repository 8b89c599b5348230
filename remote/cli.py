"""``texel remote``: what the studio does, asked for from a script or a build machine.

    texel remote intake PROJECT FOLDER     upload a folder, have it sorted and checked
    texel remote check PROJECT             what was found; exit code 1 with errors
    texel remote deliver PROJECT           deliver, wait until it is whole
    texel remote fetch PROJECT NUMBER DIR  fetch a delivery's files
    texel remote status PROJECT            what waits
    texel remote wait PROJECT              until all jobs have ended

The studio's address and a token stand in FAIR_TEXEL_ADDRESS and FAIR_TEXEL_TOKEN, or behind --address and in the file
behind --token-file; a token on the command line could be seen by everybody on the machine.
Exit codes: 0 fine, 1 errors were found, 2 bad usage, or the studio refused or did not answer.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from remote.client import Studio, StudioRefuses

__all__ = ["BAD", "FINE", "FOUND_ERRORS", "Told", "main", "run_command", "studio_arguments"]

FINE, FOUND_ERRORS, BAD = 0, 1, 2
Told = tuple[int, Any, str]


def _intake(studio: Studio, args: argparse.Namespace) -> Told:
    quiet = args.json or args.quiet
    said = studio.take_in(args.project, Path(args.folder), args.name, lambda path: None if quiet else print(path))
    if not args.no_wait:
        studio.wait_for_jobs(args.project)
        said = studio.call("GET", f"/projects/{args.project}/intakes/{said['id']}")
    refused = f", {said['refused']} refused" if said["refused"] else ""
    code = BAD if said["state"] == "failed" else FINE
    return code, said, f"intake {said['name']}: {said['state']}, {said['files']} files{refused}"


def _check(studio: Studio, args: argparse.Namespace) -> Told:
    if not args.no_wait:
        studio.wait_for_jobs(args.project)
    found = studio.findings(args.project)
    told = [one for one in found if one["severity"] != "note"]
    lines = [f"{one['severity']:<8} {one['set']}: {one['message']}" for one in told]
    errors = any(one["severity"] == "error" for one in found)
    lines.append(f"{len(told)} findings")
    return FOUND_ERRORS if errors else FINE, {"findings": found}, "\n".join(lines)


def _deliver(studio: Studio, args: argparse.Namespace) -> Told:
    wanted = None
    if args.set:
        ids = {row["name"]: row["id"] for row in studio.sets(args.project)}
        missing = sorted(set(args.set) - ids.keys())
        if missing:
            raise StudioRefuses(f"there is no set called {', '.join(missing)}")
        wanted = [ids[name] for name in args.set]
    made = studio.deliver(args.project, args.target, wanted)
    lines = [f"delivery {made['number']} for {made['target']}: {made['sets']} sets", *made["problems"]]
    return FINE, {key: value for key, value in made.items() if key != "manifest"}, "\n".join(lines)


def _fetch(studio: Studio, args: argparse.Namespace) -> Told:
    names = studio.fetch(args.project, args.number, Path(args.to))
    return FINE, {"files": names}, f"{len(names)} files in {args.to}"


def _status(studio: Studio, args: argparse.Namespace) -> Told:
    told = studio.status(args.project)
    waits = told["waiting"]
    words = (
        f"{told['sets']} sets: {waits['errors']} with errors, {waits['warnings']} with warnings, "
        f"{waits['unchecked']} not checked yet; {waits['undecided']} undecided files; "
        f"{len(told['changed'])} sets changed since their delivery"
    )
    return FINE, told, words


def _wait(studio: Studio, args: argparse.Namespace) -> Told:
    studio.wait_for_jobs(args.project)
    failed = [job for job in studio.jobs(args.project) if job["state"] == "failed"]
    lines = [f"failed: {job['title']}: {job['message']}" for job in failed]
    return FOUND_ERRORS if failed else FINE, {"failed": failed}, "\n".join([*lines, "no job waits or runs"])


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="texel remote", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    studio_arguments(parser)
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, run: Callable[[Studio, argparse.Namespace], Told], text: str) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        sub.add_argument("project", help="as it stands in the page's address: /p/PROJECT")
        sub.add_argument("--json", action="store_true", help="print one JSON document")
        sub.set_defaults(run=run)
        return sub

    sub = command("intake", _intake, "Upload a folder, have it sorted and checked.")
    sub.add_argument("folder")
    sub.add_argument("--name", default="", help="of the intake; the folder's name without it")
    sub.add_argument("--no-wait", action="store_true", help="do not wait until it is sorted and checked")
    sub.add_argument("--quiet", action="store_true", help="do not print each file")
    sub = command("check", _check, "What was found about the project's sets.")
    sub.add_argument("--no-wait", action="store_true", help="do not wait until all is checked")
    sub = command("deliver", _deliver, "Deliver, and wait until it is whole.")
    sub.add_argument("--target", default="", help="the project's own without it")
    sub.add_argument("--set", action="append", metavar="NAME", help="only this set; may be given several times")
    sub = command("fetch", _fetch, "Fetch a delivery's files into a new folder.")
    sub.add_argument("number", type=int)
    sub.add_argument("to", metavar="DIR")
    command("status", _status, "What waits in the project.")
    command("wait", _wait, "Wait until all jobs have ended.")
    return parser


def studio_arguments(parser: argparse.ArgumentParser) -> None:
    """Which studio, and with which token."""
    parser.add_argument("--address", default=os.environ.get("FAIR_TEXEL_ADDRESS", ""), help="of the studio")
    parser.add_argument("--token-file", metavar="FILE", help="a file with the token")
    parser.add_argument("--patience", type=float, default=3600, metavar="SECONDS", help="how long to wait for jobs")


def run_command(name: str, parser: argparse.ArgumentParser, argv: Sequence[str] | None) -> int:
    """Run one command against the studio that its arguments name and return its exit code."""
    try:
        args = parser.parse_args(argv)
    except SystemExit as stop:
        return int(stop.code or 0)
    try:
        token = Path(args.token_file).read_text().strip() if args.token_file else os.environ.get("FAIR_TEXEL_TOKEN", "")
        if not args.address or not token:
            raise StudioRefuses("say which studio (FAIR_TEXEL_ADDRESS) and with which token (FAIR_TEXEL_TOKEN)")
        code, document, text = args.run(Studio(args.address, token, args.patience), args)
    except (StudioRefuses, OSError, ValueError) as error:
        print(f"{name}: {error}", file=sys.stderr)
        return BAD
    print(json.dumps(document, indent=2, ensure_ascii=False) if args.json else text)
    return int(code)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code."""
    return run_command("texel remote", _parser(), argv)


if __name__ == "__main__":
    sys.exit(main())
