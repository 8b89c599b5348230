"""Commands on folders of sets: sort, check, deliver."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from texel.checks import Finding, Severity, Wanted, check_sets, check_undecided, undecided_by_set
from texel.cli.shared import (
    FINE,
    FOUND_ERRORS,
    HABIT_HELP,
    SETS_HELP,
    Command,
    Usage,
    chosen_sets,
    folder_named,
    given_habit,
    show,
    sorted_folder,
)  # fmt: skip
from texel.compression import builtin_tables, table_named
from texel.delivery import Target, builtin_targets, deliver_folder, plan_delivery, target_named
from texel.delivery.checks import check_encodings
from texel.delivery.folder import read_manifest
from texel.delivery.manifest import MANIFEST
from texel.files.writing import write_bytes
from texel.licences import LicenceRules, objection, parse_licences
from texel.naming.rules import parse_names
from texel.roles import Green
from texel.schemas import read_json
from texel.sorting import Sorted, Undecided, habit_document

__all__ = ["register"]

_LICENCES_HELP = "which licences are taken (JSON); sets tell theirs in the sets document"


def _sort(args: argparse.Namespace) -> int:
    try:
        _, sorted_files = sorted_folder(folder_named(args.dir), given_habit(args))
    except Usage:
        if args.json and Path(args.dir).is_dir():
            show(args, Sorted().document(), "")
        raise
    if args.learn:
        document = habit_document(sorted_files.habit.lines)
        write_bytes((json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode(), Path(args.learn))
    lines = _habit_table(sorted_files) if args.explain else []
    for one in sorted_files.sets:
        lines.append(one.name)
        for ref in one.maps:
            channel = f" [{ref.channel.upper()}]" if ref.channel else f" [{ref.layer}]" if ref.layer else ""
            lines.append(f"  {ref.role.value:<12} {ref.file}{channel}  {ref.confidence:.0%}  {ref.why}")
    for left in sorted_files.undecided:
        guesses = ", ".join(f"{c['role']} of {c['set']} ({c['confidence']:.0%})" for c in left.candidates)
        lines.append(f"undecided: {left.file}: {left.why}" + (f"; perhaps {guesses}" if guesses else ""))
    show(args, sorted_files.document(), "\n".join(lines))
    return FINE


def _habit_table(found: Sorted) -> list[str]:
    """The habit as a table: suffix, meaning, files, how sure, why."""
    rows = [("suffix", "means", "files", "sure", "why")]
    for line in found.habit.lines:
        word = line.written or ("(no suffix)" if not line.affix.word else line.affix.word)
        where = f" in {line.folder}/" if line.folder else ""
        sure = "taught" if line.taught else f"{line.confidence:.0%}" if line.decided else f"{line.confidence:.0%}, open"
        rows.append((word + where, line.meaning_in_words, str(line.files), sure, line.why))
    widths = [max(len(row[at]) for row in rows) for at in range(4)]
    return [
        "  ".join([*(cell.ljust(width) for cell, width in zip(row, widths, strict=False)), row[4]]).rstrip()
        for row in rows
    ] + [""]


def _findings(args: argparse.Namespace, findings: list[Any], more: dict[str, Any], text: str) -> int:
    errors = sum(f.severity is Severity.ERROR for f in findings)
    lines = [
        f"{f.severity.value:<8} {f.set or '-'}: {f.role.value if f.role else f.file or ''}: {f.message}"
        for f in findings
        if f.severity is not Severity.NOTE
    ]
    document = {**more, "findings": [f.document() for f in findings]}
    show(args, document, "\n".join([*lines, text]))
    return FOUND_ERRORS if errors else FINE


def _check(args: argparse.Namespace) -> int:
    # Read first, used or not: a document that makes no sense is not passed over.
    table = table_named(args.formats)
    target = target_named(args.target) if args.target else None
    library, sorted_files = sorted_folder(folder_named(args.dir), given_habit(args))
    sets = chosen_sets(args, sorted_files)
    findings = check_sets(sets, library, _wanted(args, target, sorted_files.undecided)) + check_undecided(
        sorted_files.undecided
    )
    if target is not None:
        plan = plan_delivery(sets, library, target)
        findings += check_encodings(plan, library, table)
    return _findings(args, findings, {}, f"{len(findings)} findings in {len(sorted_files.sets)} sets")


def _wanted(args: argparse.Namespace, target: Target | None, undecided: list[Undecided]) -> Wanted:
    names = None
    if args.names:
        path = Path(args.names)
        names = parse_names(read_json(path), path.name)
    largest, green = (target.largest, target.green) if target else ({}, Green.UP)
    return Wanted(target.title if target else "", largest, names, _licences(args), green, undecided_by_set(undecided))


def _licences(args: argparse.Namespace) -> LicenceRules | None:
    if not args.licences:
        return None
    path = Path(args.licences)
    return parse_licences(read_json(path), path.name)


def _deliver(args: argparse.Namespace) -> int:
    target = target_named(args.target)
    root, out = folder_named(args.dir), Path(args.output)
    if out.resolve() == root.resolve() or root.resolve() in out.resolve().parents:
        raise Usage("the delivery must not go into the folder of its sources")
    library, sorted_files = sorted_folder(root, given_habit(args))
    sets = chosen_sets(args, sorted_files)
    undecided = [] if args.sets else sorted_files.undecided
    rules = _licences(args)
    objections = {one.name: objection(one.licence, rules) for one in sets}
    if args.check:
        findings = check_sets(sets, library, Wanted(licences=rules))
    else:
        # Judging reads every map once more: only who asks for it waits for it. Licences cost nothing.
        told = [(name, one) for name, one in objections.items() if one]
        findings = [Finding(one.check, Severity(one.harm), name, one.message) for name, one in told]
    refused = {name: told.message for name, told in objections.items() if told and told.refuses}
    plan = plan_delivery(sets, library, target, read_manifest(out), None, refused)
    if not plan.files:
        raise Usage(f"{args.dir}: there is nothing to deliver" + "".join(f"; {p}" for p in plan.problems))
    plan, document = deliver_folder(plan, library, out, args.replace)
    more = {
        "manifest": str(out / MANIFEST),
        "files": [{"path": f.path, "status": f.status} for f in plan.files],
        "orphaned": list(plan.orphaned),
        "problems": list(plan.problems),
        "undecided": [one.document() for one in undecided],
    }
    code = _findings(args, findings, more, f"{len(document['files'])} files in {out}")
    for problem in plan.problems:
        print(f"texel: not delivered: {problem}", file=sys.stderr)
    for one in undecided:
        print(f"texel: not delivered: {one.file}: {one.why}", file=sys.stderr)
    # A file named like a map that found no place is a map that the delivery lacks; a stray picture is not.
    lacking = any(one.suffix for one in undecided)
    return FOUND_ERRORS if plan.problems or lacking else code


def register(command: Command) -> None:
    sub = command("sort", _sort, "Sort a folder's files into texture sets.", ("dir", "folder"))
    sub.add_argument("--habit", metavar="FILE", help=HABIT_HELP)
    sub.add_argument("--explain", action="store_true", help="print what each suffix was taken for, and why")
    sub.add_argument("--learn", metavar="FILE", help="write the folder's habit as a document that --habit reads")
    sub = command("check", _check, "Judge the sets in a folder.", ("dir", "folder"))
    sub.add_argument("--target", metavar="NAME|FILE", help="also judge what this target would make of them")
    tables = ", ".join(builtin_tables())
    sub.add_argument("--formats", default="desktop", metavar="NAME|FILE", help=f"allowed formats; a file, or: {tables}")
    sub.add_argument("--names", metavar="FILE", help="naming rules (JSON) to judge file names by")
    sub.add_argument("--sets", metavar="FILE", help=SETS_HELP)
    sub.add_argument("--habit", metavar="FILE", help=HABIT_HELP)
    sub.add_argument("--licences", metavar="FILE", help=_LICENCES_HELP)
    sub = command("deliver", _deliver, "Deliver the sets in a folder for a target.", ("dir", "folder"))
    names = ", ".join(builtin_targets())
    sub.add_argument("--target", required=True, metavar="NAME|FILE", help=f"a target file, or one of: {names}")
    sub.add_argument("--sets", metavar="FILE", help=SETS_HELP)
    sub.add_argument("--habit", metavar="FILE", help=HABIT_HELP)
    sub.add_argument("--licences", metavar="FILE", help=f"{_LICENCES_HELP}; what it refuses is left out")
    sub.add_argument("--check", action="store_true", help="judge the sets too, and exit with 1 when one has an error")
    sub.add_argument("--replace", action="store_true", help="overwrite files that were edited or not delivered before")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="folder to write to")
