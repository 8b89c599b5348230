"""What is told of plans, outputs and budgets, as the page and scripts get it."""

from __future__ import annotations

from typing import Literal, NotRequired

from typing_extensions import TypedDict

from texel.delivery.planned import Reason
from texel.document_types import ErrorFigures, MessageDocument, ReportFinding, ReportWaiver

__all__ = [
    "AdviceOut",
    "BudgetFile",
    "BudgetOut",
    "BudgetSet",
    "Caution",
    "ChannelOut",
    "ComparedFile",
    "Limits",
    "MemoryOut",
    "MirrorMaterial",
    "MirroredOut",
    "OutputOut",
    "PlanOut",
    "PlannedOut",
    "ReflectionOut",
    "ReportNotes",
    "Shrunk",
    "TrialRow",
]  # fmt: skip


class ReportNotes(TypedDict):
    """What the report of a delivery says of one set."""

    findings: list[ReportFinding]
    waivers: list[ReportWaiver]


class TransferResult(TypedDict):
    """What bringing a delivery came to: files written, removed, kept as others left them, and untouched. digest, bytes:
    of a zip."""

    written: int
    removed: int
    kept: list[str]
    untouched: int
    digest: NotRequired[str]
    bytes: NotRequired[int]


class MirrorSide(TypedDict):
    """What a file holds, as it was meant: roles by channel; green where it has normals."""

    channels: dict[str, str]
    space: str | None
    green: str | None


class MirrorTaken(TypedDict):
    """What the engine takes a file for. by: how it decided about the colour space."""

    channels: dict[str, str]
    space: str
    by: Literal["manifest", "tag", "suffix", "role", "unknown"]
    green: str | None
    format: str
    width: int
    height: int


class MirrorDifference(TypedDict):
    """misread: the misreading that shows what it looks like, "" where there is none."""

    kind: str
    severity: Literal["error", "warning", "note"]
    message: str
    said: MessageDocument
    misread: str


class MirroredOut(TypedDict):
    """meant: None for a file that nothing explains; taken: None where the engine cannot read it."""

    path: str
    set: str
    meant: MirrorSide | None
    taken: MirrorTaken | None
    differences: list[MirrorDifference]


class MirrorMaterial(TypedDict):
    """maps: the file that the engine would use for each role."""

    set: str
    maps: dict[str, str]


class ReflectionOut(TypedDict):
    """What an engine of certain habits makes of a folder. broken: material files that lack something."""

    mirror: str
    title: str
    errors: int
    warnings: int
    files: list[MirroredOut]
    materials: list[MirrorMaterial]
    broken: list[MirrorDifference]


class Caution(TypedDict):
    caution: str
    message: str
    cost: float
    unit: str


class TrialRow(TypedDict):
    """memory: bytes with mips; error: numbers by name, by the kind of map."""

    format: str
    label: str
    bits_per_texel: float
    memory: int
    size: int | None
    error: ErrorFigures


class AdviceOut(TypedDict):
    """advised: the cheapest format within the limits, None when there is none. spared: bytes, against the current."""

    sort: str
    advised: str | None
    reason: str
    current: TrialRow
    trials: list[TrialRow]
    spared: int | None
    cautions: list[Caution]
    halving: ErrorFigures


class BudgetFile(TypedDict):
    """halved: bytes at half the size. roles: bytes by role. advice: None while it was not measured."""

    path: str
    output: str
    memory: int
    halved: int
    width: int
    height: int
    format: str | None
    roles: dict[str, int]
    advice: AdviceOut | None


class BudgetSet(TypedDict):
    """metres: of surface that the texture's width covers. density: texels per metre."""

    id: int
    name: str
    memory: int
    width: int
    metres: float | None
    density: float | None
    files: list[BudgetFile]


class Limits(TypedDict):
    memory_mib: float | None
    set_mib: float | None
    density: float | None


class Shrunk(TypedDict):
    path: str
    spared: int
    error: ErrorFigures
    left: int


class BudgetOut(TypedDict):
    """measured: of ``files`` how many have advice. shrink: files to halve, in order, to get under the budget."""

    target: str
    memory: int
    budget: Limits
    sets: list[BudgetSet]
    measured: int
    files: int
    shrink: list[Shrunk]
    shrunk: int
    problems: list[str]


class MemoryOut(TypedDict):
    """memory: bytes. memory_mib: the target's budget, None where it has none. problems: why sets are not in it."""

    slug: str
    project: str
    target: str
    title: str
    memory: int
    memory_mib: float | None
    problems: list[str]


class ChannelOut(TypedDict):
    """One channel of an output. map: the placement it comes from; None for a constant."""

    letter: str
    role: str | None
    map: int | None
    source_channel: str | None
    inverted: bool
    constant: float | None
    steps: list[str]


class OutputOut(TypedDict):
    output: str
    path: str
    kind: str
    container: str
    bits: int
    format: str | None
    memory: int
    colour_space: str
    width: int
    height: int
    green: str | None
    plan: str
    channels: list[ChannelOut]


class PlannedOut(TypedDict):
    """why: of what changed, the reasons: another source, other steps, another version of the master, other parameters,
    another wish of the target, another encoder. cast: the cast that it belongs to, then set is ""."""

    path: str
    cast: str
    model: str
    ground: str
    set: str
    kind: str
    status: str
    container: str
    width: int
    height: int
    bits: int
    format: str | None
    memory: int
    channels: str
    colour_space: str
    green: str | None
    steps: list[str]
    why: list[Reason]


class PlanOut(TypedDict):
    """files in writing order; orphaned: paths of the last delivery that this one has no more. carried: names of sets
    that stay as they were delivered. memory: bytes of graphics memory of all that lies there then; budget: that the
    target allows, None for no limit."""

    target: str
    memory: int
    budget: int | None
    files: list[PlannedOut]
    orphaned: list[str]
    problems: list[str]
    carried: list[str]


class ComparedFile(TypedDict):
    """A path of two deliveries. why: of what changed, the reasons."""

    path: str
    set: str
    status: Literal["new", "changed", "unchanged", "removed"]
    why: list[Reason]
