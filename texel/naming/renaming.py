"""Batches of renames: seen before they happen, done as one, swaps and chains included, undone as one."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from texel.errors import BadDocument

__all__ = ["Rename", "plan_renames", "rename_files"]


@dataclass(frozen=True)
class Rename:
    """problem: why it cannot be done; None when it can."""

    old: str
    new: str
    problem: str | None = None


def plan_renames(wanted: Mapping[str, str], existing: Iterable[str]) -> list[Rename]:
    """Every change of ``wanted`` (old path to new path), with what stands in its way.

    existing: all paths of the folder. Names that only trade places are no collision; one that a file keeps is, and so
    are two that become one, upper and lower case aside.
    """
    changes = {old: new for old, new in wanted.items() if old != new}
    staying = {path.lower(): path for path in existing if path not in changes}
    claimed: dict[str, str] = {}
    plan = []
    for old, new in changes.items():
        key = new.lower()
        problem = None
        if key in staying:
            problem = f"{staying[key]} has that name and keeps it"
        elif key in claimed:
            problem = f"{claimed[key]} gets that name"
        else:
            claimed[key] = old
        plan.append(Rename(old, new, problem))
    return plan


def rename_files(root: Path, plan: Iterable[Rename]) -> None:
    """Do a plan in a folder: all of it, or nothing. Raises BadDocument when a rename has a problem, OSError.

    Files go to hidden names first, so that swaps and chains need no order; what was done is undone when one fails.
    """
    renames = list(plan)
    blocked = next((one for one in renames if one.problem), None)
    if blocked is not None:
        raise BadDocument(
            "{old} cannot become {new}: {problem}. Nothing was renamed",
            old=blocked.old,
            new=blocked.new,
            problem=blocked.problem,
        )
    aside = [root / f"{one.old}.renaming-{number}" for number, one in enumerate(renames)]
    steps = [(root / one.old, path) for one, path in zip(renames, aside, strict=True)]
    steps += [(path, root / one.new) for one, path in zip(renames, aside, strict=True)]
    done: list[tuple[Path, Path]] = []
    try:
        for before, after in steps:
            after.parent.mkdir(parents=True, exist_ok=True)
            if after.exists():
                raise FileExistsError(f"{after.name} is already there")
            os.rename(before, after)
            done.append((before, after))
    except OSError:
        for before, after in reversed(done):
            os.rename(after, before)
        raise
