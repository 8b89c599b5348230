"""Advice on a planned delivery: for each file the cheapest format within the limits, and what its own costs."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from typing import Any

from texel.blocks import Format, memory
from texel.blocks.formats import plain_format
from texel.compression import FormatTable, Subject, advise, cautions, sample_of, sort_of, try_format
from texel.delivery.budget import halving_error
from texel.delivery.build import packed_texels
from texel.delivery.plan import PlannedFile
from texel.library import Library
from texel.roles import Role

__all__ = ["advise_files", "role_of", "subject_of"]

# Families that phones decode; the others are for desktop hardware.
_MOBILE = ("astc", "etc2")


def role_of(planned: PlannedFile) -> Role | None:
    """The one role that fills the file's channels, alpha aside; None for a pack of several."""
    assert planned.layout is not None, "only maps are compressed"
    roles = {s.role for letter, s in planned.layout.channels.items() if letter != "a" and s.role is not None}
    return roles.pop() if len(roles) == 1 else None


def subject_of(planned: PlannedFile, library: Library) -> Subject:
    """A planned map as something to be compressed: a sample of what would be delivered. Raises TexelError."""
    texels = replace(packed_texels(planned, library), role=role_of(planned))
    mips = planned.encoding.mips or planned.encoding.format is None
    return Subject(sample_of(texels), planned.width, planned.height, sort_of(texels), mips)


def advise_files(
    files: Iterable[PlannedFile], library: Library, table: FormatTable, threads: int = 1
) -> Iterator[tuple[PlannedFile, dict[str, Any]]]:
    """The advice on planned maps as documents, in their order. Raises TexelError.

    Maps are made one after another and measured on ``threads`` threads; no more wait than are being measured.
    A file whose format the target names keeps it, or gets one of the same hardware that costs no more: advice never
    contradicts the target.
    current: what the target asks for, with its memory and error, measured on the same sample; a plain picture counts as
    what an engine makes of it when nothing compresses it. halving: as texel.delivery.budget.halving_error gives it.
    """
    with ThreadPoolExecutor(threads) as pool:
        waiting: deque[tuple[PlannedFile, Future[dict[str, Any]]]] = deque()
        try:
            for planned in files:
                waiting.append((planned, pool.submit(_advice, planned, subject_of(planned, library), table)))
                while len(waiting) > threads:
                    first, future = waiting.popleft()
                    yield first, future.result()
            for first, future in waiting:
                yield first, future.result()
        finally:
            pool.shutdown(wait=True, cancel_futures=True)


def _of_target(table: FormatTable, subject: Subject, own: Format) -> FormatTable:
    """The table with what is said of a file whose target asks for a format of its own: that one, and those of the same
    hardware that cost no more."""
    small = [
        one
        for one in table.allowed[subject.sort]
        if (one.family in _MOBILE) is (own.family in _MOBILE) and one.bits_per_texel <= own.bits_per_texel
    ]
    allowed = sorted({*small, own}, key=lambda one: (one.bits_per_texel, one.key))
    return replace(table, allowed={**table.allowed, subject.sort: tuple(allowed)})


def _advice(planned: PlannedFile, subject: Subject, table: FormatTable) -> dict[str, Any]:
    own = planned.encoding.format
    if own is not None:
        table = _of_target(table, subject, own)
    advice = advise(subject, table, planned.encoding.quality)
    chosen = own or plain_format(len(planned.channels), planned.bits)
    current = next((trial for trial in advice.trials if trial.format == chosen), None)
    current = current or try_format(subject, chosen, planned.encoding.quality)
    if own is not None and advice.format is None:
        # A target's word stands where nothing that costs no more does better; the reason says by how much it errs.
        advice = replace(advice, format=own, reason=f"{own.label} as the target has it: {advice.reason}")
    spared = None
    if advice.format is not None:
        spared = current.memory - memory(advice.format, subject.width, subject.height, subject.mips)
    return {
        "path": planned.path, "set": planned.set, "output": planned.output, "width": planned.width,
        "height": planned.height, "sampled": subject.texels.width * subject.texels.height,
        "current": current.document(), **advice.document(), "spared": spared,
        "cautions": [one.document() for one in cautions(subject, planned.encoding.format, table, planned.colour_space)],
        "halving": halving_error(subject),
    }  # fmt: skip
