"""Commands on folders of sets: sort, check."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from texel.changed import changed_files, install_hook
from texel.checks import Wanted, check_sets, check_undecided, undecided_by_set
from texel.checks.reports import junit, sarif
from texel.cli.shared import (
    FINE,
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
from texel.compression import builtin_tables, table_named
from texel.delivery import Target, plan_delivery, target_named
from texel.delivery.checks import check_encodings
from texel.files.writing import write_bytes
from texel.naming.rules import parse_names
from texel.roles import Green
from texel.schemas import read_json
from texel.sorting import Sorted, Undecided, habit_document
from texel.tiles import tiled

__all__ = ["register"]


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
    surfaces = tiled(one.name for one in sorted_files.sets)
    lines += [f"{one.name} in tiles: {', '.join(map(str, one.tiles))}" for one in surfaces]
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


def _check(args: argparse.Namespace) -> int:
    # Read first, used or not: a document that makes no sense is not passed over.
    table = table_named(args.formats)
    target = target_named(args.target) if args.target else None
    library, sorted_files = sorted_folder(folder_named(args.dir), given_habit(args))
    sets, undecided = chosen_sets(args, sorted_files), sorted_files.undecided
    if args.changed:
        # The whole folder is sorted, since what its names mean shows in all of them; what changed is judged.
        changed = changed_files(Path(args.dir), args.changed)
        sets = [one for one in sets if any(ref.file in changed for ref in one.maps)]
        undecided = [one for one in undecided if one.file in changed]
    findings = check_sets(sets, library, _wanted(args, target, sorted_files.undecided)) + check_undecided(undecided)
    if target is not None:
        plan = plan_delivery(sets, library, target)
        findings += check_encodings(plan, library, table)
    if args.junit:
        write_bytes(junit(sets, findings).encode(), Path(args.junit))
    if args.sarif:
        write_bytes((json.dumps(sarif(findings), indent=2) + "\n").encode(), Path(args.sarif))
    return show_findings(args, findings, {}, f"{len(findings)} findings in {len(sets)} sets")


def _hook(args: argparse.Namespace) -> int:
    folder = folder_named(args.dir)
    # Hooks run in the repository's own folder, where Python does not find this program by itself.
    here = Path(__file__).resolve().parents[2]
    path = install_hook(folder, args.command or f'env PYTHONPATH="{here}" "{sys.executable}" -m texel')
    show(args, {"hook": str(path)}, f"{path} checks what a commit brings to {folder}")
    return FINE


def _wanted(args: argparse.Namespace, target: Target | None, undecided: list[Undecided]) -> Wanted:
    names = None
    if args.names:
        path = Path(args.names)
        names = parse_names(read_json(path), path.name)
    largest, green = (target.largest, target.green) if target else ({}, Green.UP)
    return Wanted(
        target.title if target else "", largest, names, licence_rules(args), green, undecided_by_set(undecided)
    )


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
    sub.add_argument("--licences", metavar="FILE", help=LICENCES_HELP)
    sub.add_argument("--junit", metavar="FILE", help="also write the findings as JUnit XML")
    sub.add_argument("--sarif", metavar="FILE", help="also write the findings as SARIF 2.1.0")
    sub.add_argument(
        "--changed", metavar="COMMIT", help="judge only sets with files that changed since a commit; or: staged"
    )
    sub = command("hook", _hook, "Have git check a folder's textures before each commit.", ("dir", "folder"))
    sub.add_argument("--command", metavar="WORDS", help="how the hook calls this program")
