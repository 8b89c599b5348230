"""Advice: for a map the cheapest format within the project's limits, with the reason; and what a choice costs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from texel.blocks import Format, memory
from texel.compression.table import FormatTable
from texel.compression.trial import Subject, Trial, try_format
from texel.image import Texels, to_unit
from texel.measures import Kind, weight_of
from texel.messages import Message, message_of
from texel.misread import as_srgb
from texel.roles import Transfer

__all__ = ["Advice", "Caution", "advise", "cautions", "within"]

# A texture larger than this is also seen smaller.
_SEEN_SMALLER = 64
_UNITS = {"colour": "CIEDE2000", "normal": "degrees", "mask": "of full scale"}


@dataclass(frozen=True)
class Caution:
    """What a chosen encoding gets wrong. cost: what ignoring it costs, measured, in ``unit``."""

    caution: str
    message: Message
    cost: float
    unit: str

    def document(self) -> dict[str, Any]:
        return {"caution": self.caution, "message": self.message, "cost": round(self.cost, 6), "unit": self.unit}


@dataclass(frozen=True)
class Advice:
    """format: the advised one, None when every allowed one goes beyond the limits. trials: in the order they were made,
    cheapest first."""

    sort: str
    format: Format | None
    reason: str
    trials: tuple[Trial, ...]

    def document(self) -> dict[str, Any]:
        return {
            "sort": self.sort, "advised": self.format.key if self.format else None, "reason": self.reason,
            "trials": [trial.document() for trial in self.trials],
        }  # fmt: skip


def within(trial: Trial, table: FormatTable) -> bool:
    """Whether an error stays under the project's limits."""
    changed = abs(trial.error.get("coverage", 0.0))
    return weight_of(trial.error) <= table.limits[trial.error["kind"]] and changed <= table.limits["coverage"]


def _told(trial: Trial, table: FormatTable) -> str:
    kind = trial.error["kind"]
    limit = table.limits[kind]
    return f"{trial.format.label} {weight_of(trial.error):.3g} {_UNITS[kind]} (limit {limit:g})"


def advise(subject: Subject, table: FormatTable, quality: str = "normal") -> Advice:
    """Try the allowed formats from the cheapest on, until one stays within the limits. Raises TexelError.

    Of formats that cost the same the one with the smaller error is taken.
    """
    trials: list[Trial] = []
    chosen: Trial | None = None
    for format_ in table.allowed[subject.sort]:
        if chosen is not None and format_.bits_per_texel > chosen.bits_per_texel:
            break
        trial = try_format(subject, format_, quality)
        trials.append(trial)
        better = chosen is None or weight_of(trial.error) < weight_of(chosen.error)
        if within(trial, table) and better:
            chosen = trial
    if chosen is None:
        closest = min(trials, key=lambda trial: weight_of(trial.error))
        reason = f"none stays within the limit; the nearest is {_told(closest, table)}"
        return Advice(subject.sort, None, reason, tuple(trials))
    cheaper = [trial for trial in trials if trial.bits_per_texel < chosen.bits_per_texel]
    reason = f"{_told(chosen, table)}, {chosen.memory / 2**20:.2f} MiB"
    if cheaper:
        reason += f"; cheaper goes beyond it: {', '.join(_told(trial, table) for trial in cheaper)}"
    return Advice(subject.sort, chosen.format, reason, tuple(trials))


def _plain_alpha(texels: Texels) -> bool:
    return texels.has_alpha and float(np.ptp(to_unit(texels.channel("a")))) <= 1 / 255


def _one_channel(texels: Texels) -> bool:
    pixels = texels.pixels[:, :, :3]
    return pixels.shape[2] == 3 and bool((pixels == pixels[:, :, :1]).all())


def cautions(subject: Subject, chosen: Format | None, table: FormatTable, colour_space: Transfer) -> list[Caution]:
    """What is wrong with delivering ``subject`` as ``chosen`` in ``colour_space``, each with its measured cost.

    chosen: None for a plain picture, of which only the colour space can be wrong.
    """
    told = _of_space(subject, colour_space)
    if chosen is not None:
        told += [*_of_channels(subject, chosen, table), *_of_size(subject, chosen)]
        if chosen not in table.allowed[subject.sort]:
            trial = try_format(subject, chosen)
            allowed = ", ".join(one.label for one in table.allowed[subject.sort])
            message = message_of("format_not_allowed", format=chosen.label, allowed=allowed)
            told.append(Caution("format_not_allowed", message, weight_of(trial.error), _UNITS[trial.error["kind"]]))
    return told


def _of_space(subject: Subject, colour_space: Transfer) -> list[Caution]:
    texels = subject.texels
    if texels.bits == 32:
        return []
    off = float(np.abs(to_unit(texels.pixels) - to_unit(as_srgb(texels).pixels)).mean())
    if colour_space is Transfer.SRGB and subject.kind is not Kind.COLOUR:
        return [Caution("srgb_data", message_of("srgb_data"), off, "mean error of the values")]
    if colour_space is Transfer.LINEAR and subject.kind is Kind.COLOUR:
        return [Caution("linear_colour", message_of("linear_colour"), off, "mean error of the values")]
    return []


def _of_channels(subject: Subject, chosen: Format, table: FormatTable) -> list[Caution]:
    texels = subject.texels
    grey = texels.channels == "y" or _one_channel(texels)
    if len(chosen.channels) >= 3 and subject.kind is Kind.MASK and grey:
        sort, key = "mask", "one_channel_in_many"
    elif subject.kind is Kind.COLOUR and _plain_alpha(texels) and len(chosen.channels) == 4:
        sort, key = "colour", "alpha_forces_format"
    else:
        return []
    smaller = min(table.allowed[sort], key=lambda one: one.bits_per_texel)
    size = (subject.width, subject.height, subject.mips)
    spared = memory(chosen, *size) - memory(smaller, *size)
    message = message_of(key, format=chosen.label, channels=len(chosen.channels), smaller=smaller.label)
    return [Caution(key, message, spared, "bytes of memory")] if spared > 0 else []


def _of_size(subject: Subject, chosen: Format) -> list[Caution]:
    width, height, cautions = subject.width, subject.height, []
    if chosen.is_block and (width % 4 or height % 4):
        padded = (-(-width // 4) * 4) * (-(-height // 4) * 4)
        wasted = chosen.bytes_of(width, height) * (1 - width * height / padded)
        message = message_of("blocks_cut", width=width, height=height)
        cautions.append(Caution("not_multiple_of_four", message, wasted, "bytes of empty blocks"))
    if not subject.mips and max(width, height) > _SEEN_SMALLER:
        lost = _lost_detail(subject.texels)
        cautions.append(Caution("missing_mips", message_of("missing_mips"), lost, "mean step that shimmers"))
    if subject.mips and max(width, height) <= 4:
        spared = memory(chosen, width, height) - memory(chosen, width, height, False)
        cautions.append(Caution("superfluous_mips", message_of("superfluous_mips"), spared, "bytes"))
    return cautions


def _lost_detail(texels: Texels) -> float:
    """Mean difference between neighbours that a level of half the size evens out, 0 to 1."""
    values = to_unit(texels.pixels[:, :, :1])[:, :, 0]
    return float(np.abs(np.diff(values, axis=1)).mean()) if values.shape[1] > 1 else 0.0
