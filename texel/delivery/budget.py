"""Memory and texel density of a planned delivery, and what to shrink first to get under a budget."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from texel.blocks import memory
from texel.blocks.formats import plain_format
from texel.compression import Subject
from texel.delivery.plan import Plan, PlannedFile
from texel.delivery.target import Target
from texel.image import Texels
from texel.measures import compare, weight_of
from texel.resize import resize

__all__ = ["Shrunk", "budget_document", "halved_memory", "halving_error", "memory_by_role", "shrink_until"]


def halved_memory(planned: PlannedFile) -> int:
    """Bytes that a file would take at half its width and height."""
    width, height = max(1, planned.width // 2), max(1, planned.height // 2)
    format_ = planned.encoding.format or plain_format(len(planned.channels), planned.bits)
    return memory(format_, width, height, planned.encoding.mips or planned.encoding.format is None)


def halving_error(subject: Subject) -> dict[str, Any]:
    """What is lost by half the size: the map made smaller and larger again against itself, in its own measure."""
    texels = subject.texels
    if min(texels.width, texels.height) < 2:
        return compare(texels, texels, subject.kind)
    small: Texels = resize(texels, texels.width // 2, texels.height // 2)
    return compare(texels, resize(small, texels.width, texels.height), subject.kind)


def memory_by_role(planned: PlannedFile) -> dict[str, int]:
    """Bytes of a file by the role that fills its channels, shared evenly; "constant" for channels without a source.

    The shares add up to the file's memory.
    """
    assert planned.layout is not None, "only maps take memory"
    roles = [source.role.value if source.role else "constant" for source in planned.layout.channels.values()]
    sizes: dict[str, int] = {}
    for index, role in enumerate(roles):
        share = planned.memory * (index + 1) // len(roles) - planned.memory * index // len(roles)
        sizes[role] = sizes.get(role, 0) + share
    return sizes


def budget_document(plan: Plan, metres: Mapping[str, float]) -> dict[str, Any]:
    """Memory by set and output, and texel density of sets whose real size is known, beside the target's budget.

    metres: length of surface that the width of a set's texture covers. roles: bytes by role. density: texels per
    metre, None where that is not known.
    """
    target: Target = plan.target
    sets: dict[str, dict[str, Any]] = {}
    for planned in plan.files:
        if planned.kind != "map":
            continue
        one = sets.setdefault(planned.set, {"name": planned.set, "memory": 0, "files": [], "width": 0})
        one["memory"] += planned.memory
        one["width"] = max(one["width"], planned.width)
        one["files"].append(
            {
                "path": planned.path, "output": planned.output, "memory": planned.memory,
                "halved": halved_memory(planned), "width": planned.width, "height": planned.height,
                "format": planned.encoding.format.key if planned.encoding.format else None, "plan": planned.digest(),
                "roles": memory_by_role(planned),
            }
        )  # fmt: skip
    for one in sets.values():
        size = metres.get(one["name"])
        one["metres"] = size
        one["density"] = one["width"] / size if size else None
    ordered = sorted(sets.values(), key=lambda one: -one["memory"])
    return {
        "target": target.name, "memory": sum(one["memory"] for one in ordered), "sets": ordered,
        "budget": {"memory_mib": target.budget.memory_mib, "set_mib": target.budget.set_mib,
                   "density": target.budget.density},
    }  # fmt: skip


@dataclass(frozen=True)
class Shrunk:
    """One file made half as large: what that spares and what it costs; left: memory of all behind this step."""

    path: str
    spared: int
    error: Mapping[str, Any]
    left: int


def shrink_until(
    files: Iterable[Mapping[str, Any]], errors: Mapping[str, Mapping[str, Any]], budget: int
) -> tuple[list[Shrunk], int]:
    """Which files to halve, in order, until all take at most ``budget`` bytes; and what all take then.

    files: as budget_document lists them; errors: halving_error by path. First comes the file whose halving costs the
    least error for each byte that it spares; errors of different kinds are weighed by what the eye sees as one step
    (CIEDE2000 1, one degree, 0.01). Each file is halved once at most.
    """
    rows = list(files)
    left = sum(int(row["memory"]) for row in rows)
    known = [row for row in rows if row["path"] in errors and row["memory"] > row["halved"]]

    def price(row: Mapping[str, Any]) -> float:
        error = errors[row["path"]]
        steps = weight_of(error) / {"colour": 1.0, "normal": 1.0, "mask": 0.01}[error["kind"]]
        made: float = steps / (row["memory"] - row["halved"])
        return made

    steps: list[Shrunk] = []
    for row in sorted(known, key=price):
        if left <= budget:
            break
        spared = int(row["memory"] - row["halved"])
        left -= spared
        steps.append(Shrunk(row["path"], spared, errors[row["path"]], left))
    return steps, left
