"""The command that builds a project from its text: build."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from texel.cli.shared import FINE, FOUND_ERRORS, Command, Usage, folder_named, show
from texel.delivery.drift import Choice
from texel.delivery.manifest import MANIFEST
from texel.project import read_folder
from texel.project.build import build_project
from texel.project.orders import project_of

__all__ = ["register"]


def _build(args: argparse.Namespace) -> int:
    root, out = folder_named(args.dir), Path(args.output)
    roots = [folder_named(one) for one in args.sources or [args.dir]]
    for one in (root, *roots):
        if out.resolve() == one.resolve() or one.resolve() in out.resolve().parents:
            raise Usage("the delivery must not go into the folder of the project or of its sources")
    project = project_of(read_folder(root))
    every = Choice.OVERWRITE if args.replace else Choice.KEEP if args.keep else None
    with_others = not args.sets_only
    built = build_project(
        project, roots, out, args.target, casts=with_others, models=with_others, ground=with_others,
        measure=args.measure, every=every, wait=args.wait,
    )  # fmt: skip
    told = [one for findings in built.findings.values() for one in findings]
    errors = [one for one in told if one["severity"] == "error"]
    brought = built.brought
    for problem in built.plan.problems:
        print(f"texel: not delivered: {problem}", file=sys.stderr)
    lines = [f"error    {one['set']}: {one['message']}" for one in errors] if args.check else []
    moved = f"{len(brought.written)} written, {len(brought.removed)} removed, {brought.untouched} untouched in {out}"
    document = {
        "manifest": str(out / MANIFEST), "written": list(brought.written), "removed": list(brought.removed),
        "kept": list(brought.kept), "untouched": brought.untouched, "problems": list(built.plan.problems),
        "findings": [{key: value for key, value in one.items() if key != "waiver"} for one in told],
    }  # fmt: skip
    show(args, document, "\n".join([*lines, moved]))
    return FOUND_ERRORS if built.plan.problems or (args.check and errors) else FINE


def register(command: Command) -> None:
    text = "Build what a project's text orders, as the studio delivers it: only what changed, over all cores."
    sub = command("build", _build, text, ("dir", "folder that `texel project export` wrote"))
    sub.add_argument("--target", default="", metavar="NAME", help="the project's own without it")
    sub.add_argument(
        "--sources", action="append", metavar="DIR", help="folder of the source files, found by path or content; the "
        "project's folder without it; may be given several times",
    )  # fmt: skip
    sub.add_argument("--sets-only", action="store_true", help="without casts, models and ground")
    sub.add_argument("--check", action="store_true", help="exit with 1 when a set has an error that is not waived")
    sub.add_argument("--measure", action="store_true", help="measure what compression changes, for the report")
    some = sub.add_mutually_exclusive_group()
    some.add_argument("--replace", action="store_true", help="overwrite files that others changed")
    some.add_argument("--keep", action="store_true", help="leave files that others changed as they are")
    sub.add_argument("--wait", type=float, default=0, metavar="SECONDS", help="wait for another delivery into OUT")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="folder to write to")
