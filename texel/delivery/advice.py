"""Advice on a planned delivery: for each file the cheapest format within the limits, and what its own costs."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

from texel.blocks import memory
from texel.blocks.formats import plain_format
from texel.compression import FormatTable, Subject, advise, cautions, sample_of, sort_of, try_format
from texel.delivery.build import packed_texels
from texel.delivery.plan import Plan, PlannedFile
from texel.library import Library
from texel.roles import Role

__all__ = ["advise_file", "advise_plan", "subject_of"]


def _role_of(planned: PlannedFile) -> Role | None:
    """The one role that fills the file's channels, alpha aside; None for a pack of several."""
    assert planned.layout is not None, "only maps are compressed"
    roles = {s.role for letter, s in planned.layout.channels.items() if letter != "a" and s.role is not None}
    return roles.pop() if len(roles) == 1 else None


def subject_of(planned: PlannedFile, library: Library) -> Subject:
    """A planned map as something to be compressed: a sample of what would be delivered. Raises TexelError."""
    texels = replace(packed_texels(planned, library), role=_role_of(planned))
    mips = planned.encoding.mips or planned.encoding.format is None
    return Subject(sample_of(texels), planned.width, planned.height, sort_of(texels), mips)


def advise_file(planned: PlannedFile, library: Library, table: FormatTable) -> dict[str, Any]:
    """The advice on one file as a document. Raises TexelError.

    current: what the target asks for, with its memory and error, measured on the same sample; a plain picture counts as
    what an engine makes of it when nothing compresses it.
    """
    subject = subject_of(planned, library)
    advice = advise(subject, table)
    chosen = planned.encoding.format or plain_format(len(planned.channels), planned.bits)
    current = next((trial for trial in advice.trials if trial.format == chosen), None)
    current = current or try_format(subject, chosen, planned.encoding.quality)
    spared = None
    if advice.format is not None:
        spared = current.memory - memory(advice.format, subject.width, subject.height, subject.mips)
    return {
        "path": planned.path, "set": planned.set, "output": planned.output, "width": planned.width,
        "height": planned.height, "sampled": subject.texels.width * subject.texels.height,
        "current": current.document(), **advice.document(), "spared": spared,
        "cautions": [one.document() for one in cautions(subject, planned.encoding.format, table, planned.colour_space)],
    }  # fmt: skip


def advise_plan(
    plan: Plan, library: Library, table: FormatTable, on_file: Callable[[int, PlannedFile], None] | None = None
) -> Iterator[dict[str, Any]]:
    """The advice on every map of a plan, glTF's own copies left out. on_file: progress; may raise to stop."""
    maps = [planned for planned in plan.files if planned.kind == "map"]
    for index, planned in enumerate(maps):
        if on_file is not None:
            on_file(index, planned)
        yield advise_file(planned, library, table)
