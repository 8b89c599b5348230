"""What several commands share: usage errors, output, folders."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from texel.checks import Severity
from texel.errors import TexelError
from texel.library import Library
from texel.licences import LicenceRules, parse_licences
from texel.schemas import read_json
from texel.sets import TextureSet, parse_sets
from texel.sorting import Habit, Sorted, parse_habit, sort_files

__all__ = [
    "FINE",
    "FOUND_ERRORS",
    "HABIT_HELP",
    "LAYER_HELP",
    "LICENCES_HELP",
    "SETS_HELP",
    "Command",
    "Usage",
    "chosen_sets",
    "ensure_not_source",
    "folder_named",
    "given_habit",
    "licence_rules",
    "share",
    "show",
    "show_findings",
    "sorted_folder",
]  # fmt: skip

FINE, FOUND_ERRORS = 0, 1
LAYER_HELP = "which picture of a layered OpenEXR; the first without it"
SETS_HELP = "a sets document (as `texel sort --json` prints) to use in place of sorting"
HABIT_HELP = (
    "what the folder's suffixes mean (JSON, as `texel sort --learn` writes it); its lines are taken as they are"
)
LICENCES_HELP = "which licences are taken (JSON); sets tell theirs in the sets document"
# Registers a command: its name, what runs it, one line of help, then pairs of argument and meaning.
Command = Callable[..., argparse.ArgumentParser]


class Usage(TexelError):
    """Bad usage that argparse cannot see."""


def show(args: argparse.Namespace, document: Any, text: str) -> None:
    if args.json:
        json.dump(document, sys.stdout, indent=2, ensure_ascii=False)
        sys.stdout.write("\n")
    elif text:
        print(text)


def folder_named(name: str) -> Path:
    """Raises Usage when it is none."""
    path = Path(name)
    if not path.is_dir():
        raise Usage("{name} is not a folder" if path.exists() else "{name}: there is no such folder", name=name)
    return path


def sorted_folder(root: Path, habit: Habit | None = None) -> tuple[Library, Sorted]:
    library = Library.of_folder(root)
    if not library.files:
        raise Usage("{root}: the folder is empty; there is nothing to sort", root=root)
    return library, sort_files(library, root.resolve().name, habit=habit)


def given_habit(args: argparse.Namespace) -> Habit | None:
    """The habit that --habit names. Raises BadDocument, OSError."""
    if not args.habit:
        return None
    path = Path(args.habit)
    return parse_habit(read_json(path), path.name)


def chosen_sets(args: argparse.Namespace, found: Sorted) -> list[TextureSet]:
    if not args.sets:
        return found.sets
    path = Path(args.sets)
    return parse_sets(read_json(path), path.name)


def ensure_not_source(outputs: Iterable[Path], sources: Iterable[Path]) -> None:
    """Refuse to write over what is read: sources are never changed."""
    read_from = {source.resolve() for source in sources}
    for output in outputs:
        if output.resolve() in read_from:
            raise Usage("{output} is one of the sources, which are never changed; write to another name", output=output)


def share(word: str) -> float:
    """An argument above 0 and at most 1."""
    number = float(word)
    if not 0 < number <= 1:
        raise argparse.ArgumentTypeError(f"{word} does not lie above 0 and at most at 1")
    return number


def show_findings(args: argparse.Namespace, findings: list[Any], more: dict[str, Any], text: str) -> int:
    """Print findings with what else a command says; the exit code that follows from them."""
    errors = sum(f.severity is Severity.ERROR for f in findings)
    lines = [
        f"{f.severity.value:<8} {f.set or '-'}: {f.role.value if f.role else f.file or ''}: {f.message}"
        for f in findings
        if f.severity is not Severity.NOTE
    ]
    document = {**more, "findings": [f.document() for f in findings]}
    show(args, document, "\n".join([*lines, text]))
    return FOUND_ERRORS if errors else FINE


def licence_rules(args: argparse.Namespace) -> LicenceRules | None:
    """The rules that --licences names. Raises BadDocument, OSError."""
    if not args.licences:
        return None
    path = Path(args.licences)
    return parse_licences(read_json(path), path.name)
