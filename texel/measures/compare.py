"""How much one map differs from another, in the measure that fits it, as numbers and as a picture."""

from __future__ import annotations

from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear
from texel.errors import MismatchedMaps
from texel.image import Texels, narrow, to_unit
from texel.measures.colour_difference import ciede2000, lab_of_linear
from texel.measures.similarity import psnr, ssim
from texel.mips import CUT_OFF
from texel.mips.coverage import coverage
from texel.normals.vectors import decode, unit
from texel.roles import Role, Transfer, facts

__all__ = ["Kind", "compare", "difference", "error_picture", "kind_of", "weight_of"]

Field = NDArray[np.float32]
# Texels that the dearer measures look at: an odd step keeps every place within a block of four in the sample.
_SAMPLE_SIDE = 1024
# What an error picture shows as white.
_FULL = {"colour": 10.0, "normal": 10.0, "mask": 0.1}


class Kind(StrEnum):
    """What a map's errors are measured as: a colour to look at, directions, or numbers."""

    COLOUR = "colour"
    NORMAL = "normal"
    MASK = "mask"


def kind_of(role: Role | None) -> Kind:
    """The measure that fits a role; pictures without one are masks."""
    if role is Role.NORMAL:
        return Kind.NORMAL
    return Kind.COLOUR if role is not None and facts(role).transfer is Transfer.SRGB else Kind.MASK


def _same_size(first: Texels, second: Texels) -> None:
    if (first.width, first.height) != (second.width, second.height):
        raise MismatchedMaps(
            f"{first.name} has {first.width} x {first.height} texels and {second.name} {second.width} x "
            f"{second.height}: only maps of one size can be compared"
        )


def _sampled(texels: Texels) -> Texels:
    step = -(-max(texels.width, texels.height) // _SAMPLE_SIDE) | 1
    return texels.with_pixels(np.ascontiguousarray(texels.pixels[::step, ::step])) if step > 1 else texels


def _colours(texels: Texels) -> Field:
    """Three colours as stored, 0 to 1; grey three times."""
    pixels = to_unit(texels.pixels)
    return pixels[:, :, :3] if pixels.shape[2] >= 3 else np.repeat(pixels[:, :, :1], 3, axis=2)


def _light(texels: Texels) -> Field:
    if texels.transfer is Transfer.LINEAR:
        return np.clip(_colours(texels), 0, 1)
    colours = texels.pixels[:, :, :3] if texels.pixels.shape[2] >= 3 else texels.pixels[:, :, :1]
    found = srgb_to_unit_linear(colours)
    return found if found.shape[2] == 3 else np.repeat(found, 3, axis=2)


def _numbers(first: Texels, second: Texels) -> tuple[Field, Field]:
    """Channels that both have, 0 to 1; a second picture that was widened from grey counts once."""
    count = min(first.pixels.shape[2], second.pixels.shape[2])
    return to_unit(first.pixels[:, :, :count]), to_unit(second.pixels[:, :, :count])


def _angles(first: Texels, second: Texels) -> Field:
    """Degrees between the directions of two normal maps, shape (h, w); good at small angles too."""
    a, b = unit(decode(first)), unit(decode(second))
    cross = np.linalg.norm(np.cross(a, b), axis=2)
    return np.degrees(np.arctan2(cross, (a * b).sum(axis=2))).astype(np.float32)


def difference(first: Texels, second: Texels, kind: Kind) -> Field:
    """At every texel, shape (h, w): CIEDE2000 for colours, degrees for normals, the largest step of a channel (full
    scale 1) for masks. Raises MismatchedMaps for two sizes."""
    _same_size(first, second)
    if kind is Kind.NORMAL:
        return _angles(first, second)
    if kind is Kind.COLOUR:
        return ciede2000(lab_of_linear(_light(first)), lab_of_linear(_light(second)))
    a, b = _numbers(first, second)
    return np.abs(a - b).max(axis=2)


def compare(first: Texels, second: Texels, kind: Kind, cut_off: float = CUT_OFF) -> dict[str, Any]:
    """The error of ``second`` against ``first``: numbers by name.

    colour: psnr (dB, of stored numbers), ssim (0 to 1), delta_e (mean CIEDE2000) and delta_e_99 (99th percentile).
    normal: degrees, degrees_99, degrees_max. mask: step (mean), step_99 and step_max, of full scale 1, psnr.
    Where both have alpha, or a mask is an opacity: coverage, the change in the share at or above ``cut_off``.
    The perceptual measures and angles look at every n-th texel of large maps, about a million of them.
    """
    _same_size(first, second)
    small = _sampled(first), _sampled(second)
    found: dict[str, Any] = {"kind": kind.value}
    if kind is Kind.COLOUR:
        a, b = _colours(first), _colours(second)
        apart = difference(*small, kind)
        found |= {
            "psnr": _decibels(psnr(a, b)), "ssim": ssim(_colours(small[0]), _colours(small[1])),
            "delta_e": _mean(apart), "delta_e_99": _high(apart),
        }  # fmt: skip
    elif kind is Kind.NORMAL:
        angles = difference(*small, kind)
        found |= {"degrees": _mean(angles), "degrees_99": _high(angles), "degrees_max": float(angles.max())}
    else:
        steps = difference(first, second, kind)
        found |= {
            "step": _mean(np.abs(np.subtract(*_numbers(first, second)))), "step_99": _high(steps),
            "step_max": float(steps.max()), "psnr": _decibels(psnr(*_numbers(first, second))),
        }  # fmt: skip
    before, after = (_alpha(one) for one in (first, second))
    if before is not None and after is not None:
        found["coverage"] = coverage(after, cut_off) - coverage(before, cut_off)
    return {key: round(value, 6) if isinstance(value, float) else value for key, value in found.items()}


def _mean(values: Field) -> float:
    return float(values.mean(dtype=np.float64))


def _high(values: Field) -> float:
    return float(np.percentile(values, 99))


def _decibels(value: float) -> float | None:
    """JSON has no infinity: None for equal pictures."""
    return value if np.isfinite(value) else None


def _alpha(texels: Texels) -> Field | None:
    if texels.has_alpha:
        return to_unit(texels.channel("a"))
    return to_unit(texels.pixels[:, :, 0]) if texels.role is Role.OPACITY else None


def weight_of(measures: dict[str, Any]) -> float:
    """The one number of ``compare`` that error limits speak of: delta_e_99, degrees_99 or step_99.

    The 99th percentile: a mean hides ruined blocks, a maximum lets one texel decide.
    """
    key = {"colour": "delta_e_99", "normal": "degrees_99", "mask": "step_99"}[measures["kind"]]
    return float(measures[key])


def error_picture(first: Texels, second: Texels, kind: Kind) -> Texels:
    """Where the error lies: grey, 8 bits, white from CIEDE2000 10, 10 degrees or a step of 0.1 on."""
    shown = np.clip(difference(first, second, kind) / _FULL[kind.value], 0, 1)
    pixels = narrow(shown[:, :, None], np.dtype(np.uint8))
    return Texels(pixels, "y", Transfer.LINEAR, name=f"error of {second.name}")
