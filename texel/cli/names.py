"""The command on names: judge a folder's names, learn rules from them, put them right."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from texel.cli.shared import (
    FINE,
    FOUND_ERRORS,
    HABIT_HELP,
    Command,
    Usage,
    folder_named,
    given_habit,
    show,
    sorted_folder,
)  # fmt: skip
from texel.files import READABLE
from texel.files.writing import write_bytes
from texel.library import list_files
from texel.naming.judging import Named, judge_names
from texel.naming.renaming import plan_renames, rename_files
from texel.naming.rules import parse_names
from texel.schemas import read_json
from texel.sorting.learning import learn_rules

__all__ = ["register"]


def _names(args: argparse.Namespace) -> int:
    root = folder_named(args.dir)
    everything = list(list_files(root))
    paths = [path for path in everything if Path(path).suffix.lower() in READABLE]
    if not paths:
        raise Usage("{dir}: there is no picture in it", dir=args.dir)
    if args.learn:
        return _learn(args, paths)
    if not args.rules:
        raise Usage("give the rules with --rules FILE, or learn them with --learn FILE")
    rules_path = Path(args.rules)
    rules = parse_names(read_json(rules_path), rules_path.name)
    verdicts = judge_names([Named(path) for path in paths], rules)
    plan = plan_renames({v.path: v.right for v in verdicts if v.right}, everything)
    done = bool(args.fix and not args.dry_run)
    if done:
        rename_files(root, [one for one in plan if not one.problem])
    wrong = [v for v in verdicts if not v.fine]
    lines = [f"{v.path}: {'; '.join(v.problems)}" + (f"  ->  {v.right}" if v.right else "") for v in wrong]
    lines.append(f"{len(verdicts) - len(wrong)} of {len(verdicts)} names are right; {rules.shape}")
    if args.fix:
        lines.append(f"{'renamed' if done else 'would rename'} {sum(not one.problem for one in plan)} files")
    document = {
        "names": [v.document() for v in verdicts],
        "renames": [{"old": one.old, "new": one.new, "problem": one.problem} for one in plan],
        "renamed": done,
    }
    show(args, document, "\n".join(lines))
    left = [v for v in wrong if not (done and v.right and any(o.old == v.path and not o.problem for o in plan))]
    return FOUND_ERRORS if left else FINE


def _learn(args: argparse.Namespace, paths: list[str]) -> int:
    _, sorted_files = sorted_folder(folder_named(args.dir), given_habit(args))
    learnt = learn_rules(paths, sorted_files.habit)
    if learnt is None:
        raise Usage("{dir}: no name in it tells a role, so there is nothing to learn from", dir=args.dir)
    write_bytes((json.dumps(learnt.document, indent=2) + "\n").encode(), Path(args.learn))
    document = {
        "written": args.learn,
        "rules": learnt.document,
        "share": round(learnt.share, 4),
        "others": learnt.others,
    }
    show(args, document, f"{args.learn}: {parse_names(learnt.document).shape} explains {learnt.share:.0%} of the names")
    return FINE


def register(command: Command) -> None:
    sub = command("names", _names, "Judge a folder's file names by the house's rules.", ("dir", "folder"))
    sub.add_argument("--rules", metavar="FILE", help="naming rules (JSON)")
    sub.add_argument("--fix", action="store_true", help="rename what is wrong: all of it, or nothing")
    sub.add_argument("--dry-run", action="store_true", help="with --fix: only say what would be renamed")
    sub.add_argument("--habit", metavar="FILE", help=HABIT_HELP)
    sub.add_argument("--learn", metavar="FILE", help="write rules that most of the names follow")
