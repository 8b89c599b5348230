"""Commands about deliveries: plan, deliver, drift."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any, NamedTuple

from texel.checks import Finding, Severity, Wanted, check_sets
from texel.checks.finding import refusal_by_findings
from texel.cli.shared import (
    FINE,
    FOUND_ERRORS,
    HABIT_HELP,
    LICENCES_HELP,
    SETS_HELP,
    Command,
    Usage,
    chosen_sets,
    folder_named,
    given_habit,
    licence_rules,
    show,
    show_findings,
    sorted_folder,
)  # fmt: skip
from texel.delivery import Plan, builtin_targets, deliver_folder, plan_delivery, target_named
from texel.delivery.drift import Choice, Kind
from texel.delivery.folder import read_manifest
from texel.delivery.incremental import deliver_incrementally
from texel.delivery.manifest import MANIFEST
from texel.delivery.place import FolderPlace
from texel.library import Library
from texel.licences import objection
from texel.mirror import builtin_mirrors, mirror_named, reflect
from texel.sets import TextureSet
from texel.sorting.sort import Undecided

__all__ = ["register"]


class _Order(NamedTuple):
    """What a folder's sets would be delivered as. refused: why a set may not be, by name."""

    library: Library
    sets: list[TextureSet]
    undecided: list[Undecided]
    findings: list[Finding]
    refused: dict[str, str]
    args: argparse.Namespace

    def plan(self, previous: dict[str, Any] | None) -> Plan:
        return plan_delivery(self.sets, self.library, target_named(self.args.target), previous, None, self.refused)


def _order(args: argparse.Namespace, judge: bool) -> _Order:
    target_named(args.target)
    root, out = folder_named(args.dir), Path(args.output)
    if out.resolve() == root.resolve() or root.resolve() in out.resolve().parents:
        raise Usage("the delivery must not go into the folder of its sources")
    library, sorted_files = sorted_folder(root, given_habit(args))
    sets = chosen_sets(args, sorted_files)
    rules = licence_rules(args)
    objections = {one.name: objection(one.licence, rules) for one in sets}
    target = target_named(args.target)
    if judge or target.refuses:
        findings = check_sets(sets, library, Wanted(licences=rules))
    else:
        # Judging reads every map once more: only who asks for it waits for it. Licences cost nothing.
        told = [(name, one) for name, one in objections.items() if one]
        findings = [Finding(one.check, Severity(one.harm), name, one.message) for name, one in told]
    refused = {name: told.message for name, told in objections.items() if told and told.refuses}
    for one in sets if target.refuses else ():
        found = [(finding.severity, str(finding.message)) for finding in findings if finding.set == one.name]
        if one.name not in refused and (reason := refusal_by_findings(found, Severity(target.refuses))):
            refused[one.name] = reason
    return _Order(library, sets, [] if args.sets else sorted_files.undecided, findings, refused, args)


def _files(plan: Plan) -> list[dict[str, Any]]:
    return [
        {"path": one.path, "set": one.set, "kind": one.kind, "status": one.status, "why": list(one.why)}
        for one in plan.files
    ]


def _told(args: argparse.Namespace, order: _Order, plan: Plan, more: dict[str, Any], text: str) -> int:
    common = {
        "files": _files(plan),
        "orphaned": list(plan.orphaned),
        "problems": list(plan.problems),
        "undecided": [one.document() for one in order.undecided],
    }
    code = show_findings(args, order.findings, {**more, **common}, text)
    for problem in plan.problems:
        print(f"texel: not delivered: {problem}", file=sys.stderr)
    for one in order.undecided:
        print(f"texel: not delivered: {one.file}: {one.why}", file=sys.stderr)
    # A file named like a map that found no place is a map that the delivery lacks; a stray picture is not.
    lacking = any(one.suffix for one in order.undecided)
    return FOUND_ERRORS if plan.problems or lacking else code


def _plan(args: argparse.Namespace) -> int:
    order, out = _order(args, False), Path(args.output)
    plan = order.plan(read_manifest(out))
    wanted = {one.path: "" for one in plan.files}
    drift = FolderPlace(out).drift(wanted) if out.is_dir() else []
    lines = [f"{one.status:<10} {one.path}" + (f"  ({', '.join(one.why)})" if one.why else "") for one in plan.files]
    lines += [f"orphaned   {path}" for path in plan.orphaned] + [
        f"drift      {one.path}: {_WORDS[one.kind]}" for one in drift
    ]
    text = "\n".join(
        [*lines, f"{len(plan.files)} files, {sum(one.memory for one in plan.files)} bytes of graphics memory"]
    )
    return _told(args, order, plan, {"drift": [one.document() for one in drift]}, text)


def _deliver(args: argparse.Namespace) -> int:
    order, out = _order(args, args.check), Path(args.output)
    more: dict[str, Any] = {}
    if args.incremental:
        every = Choice.OVERWRITE if args.replace else Choice.KEEP if args.keep else None
        plan, document, brought = deliver_incrementally(order.plan, order.library, out, every, args.wait)
        more = {
            "written": list(brought.written), "removed": list(brought.removed), "kept": list(brought.kept),
            "untouched": brought.untouched,
        }  # fmt: skip
        text = f"{len(brought.written)} written, {len(brought.removed)} removed, {brought.untouched} untouched in {out}"
    else:
        if args.keep or args.wait:
            raise Usage("--keep and --wait go with --incremental")
        plan = order.plan(read_manifest(out))
        if not plan.files:
            problems = "".join(f"; {one}" for one in plan.problems)
            raise Usage("{dir}: there is nothing to deliver{problems}", dir=args.dir, problems=problems)
        plan, document = deliver_folder(plan, order.library, out, args.replace)
        text = f"{len(document['files'])} files in {out}"
    return _told(args, order, plan, {"manifest": str(out / MANIFEST), **more}, text)


_WORDS = {
    Kind.CHANGED: "changed since it was delivered", Kind.MISSING: "gone since it was delivered",
    Kind.ADDED: "added by others", Kind.IN_THE_WAY: "a file of others where the delivery writes",
}  # fmt: skip


def _drift(args: argparse.Namespace) -> int:
    out = folder_named(args.dir)
    if not FolderPlace(out).ledger().files:
        raise Usage("{dir}: nothing was delivered there", dir=args.dir)
    drift = FolderPlace(out).drift(thorough=args.thorough)
    lines = [f"{one.path}: {_WORDS[one.kind]}" for one in drift]
    show(
        args,
        {"drift": [one.document() for one in drift]},
        "\n".join([*lines, f"{_count(len(drift), 'file')} changed"]),
    )
    return FOUND_ERRORS if any(one.kind is not Kind.ADDED for one in drift) else FINE


def _count(number: int, what: str) -> str:
    return f"1 {what}" if number == 1 else f"{number} {what}s"


def _mirror(args: argparse.Namespace) -> int:
    habits = mirror_named(args.habits)
    told = reflect(folder_named(args.dir), habits)
    if not told.files:
        raise Usage("{dir}: there is no picture to read", dir=args.dir)
    lines = [
        f"{one.severity.value:<8} {file.path}: {one.message}" for file in told.files for one in file.differences
    ] + [f"{one.severity.value:<8} {one.message}" for one in told.broken]
    errors = told.count(Severity.ERROR)
    counts = f"{_count(errors, 'error')}, {_count(told.count(Severity.WARNING), 'warning')}"
    lines.append(f"{_count(len(told.files), 'file')} as read by {habits.title}: {counts}")
    show(args, told.document(), "\n".join(lines))
    return FOUND_ERRORS if errors else FINE


def _of_order(sub: argparse.ArgumentParser) -> None:
    names = ", ".join(builtin_targets())
    sub.add_argument("--target", required=True, metavar="NAME|FILE", help=f"a target file, or one of: {names}")
    sub.add_argument("--sets", metavar="FILE", help=SETS_HELP)
    sub.add_argument("--habit", metavar="FILE", help=HABIT_HELP)
    sub.add_argument("--licences", metavar="FILE", help=f"{LICENCES_HELP}; what it refuses is left out")


def register(command: Command) -> None:
    sub = command("plan", _plan, "Say what a delivery would write, and why. Nothing is written.", ("dir", "folder"))
    _of_order(sub)
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="folder that it would go to")
    sub = command("deliver", _deliver, "Deliver the sets in a folder for a target.", ("dir", "folder"))
    _of_order(sub)
    sub.add_argument("--check", action="store_true", help="judge the sets too, and exit with 1 when one has an error")
    sub.add_argument("--incremental", action="store_true", help="build what changed alone; keep the folder in step")
    some = sub.add_mutually_exclusive_group()
    some.add_argument("--replace", action="store_true", help="overwrite files that were edited or not delivered before")
    some.add_argument("--keep", action="store_true", help="leave files that others changed as they are")
    sub.add_argument("--wait", type=float, default=0, metavar="SECONDS", help="wait for another delivery into OUT")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="folder to write to")
    sub = command("drift", _drift, "Say what others changed in a delivered folder since.", ("dir", "delivered folder"))
    sub.add_argument("--thorough", action="store_true", help="read every file, whatever its time of change says")
    sub = command("mirror", _mirror, "Read a folder as an engine would, and say where it differs.", ("dir", "folder"))
    names = ", ".join(builtin_mirrors())
    sub.add_argument(
        "--as", dest="habits", default="by-suffix-y-plus", metavar="NAME|FILE", help=f"its habits: a file, or {names}"
    )
