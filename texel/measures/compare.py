"""How much one map differs from another, in the measure that fits it, as numbers and as a picture."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from texel.colour import srgb_to_unit_linear
from texel.errors import MismatchedMaps
from texel.image import Texels, full_scale, narrow, to_unit
from texel.measures.colour_difference import ciede2000, lab_of_linear
from texel.measures.similarity import decibels, ssim
from texel.mips import CUT_OFF
from texel.normals.vectors import decode, unit
from texel.roles import Role, Transfer, facts

__all__ = ["ALPHA_WEIGHT", "Kind", "compare", "difference", "error_picture", "kind_of", "weight_of"]

Field = NDArray[np.float32]
# Texels that the dearer measures look at: an odd step keeps every place within a block of four in the sample.
_SAMPLE_SIDE = 1024
# Texels of a strip of rows.
_STRIP = 1 << 18
# What an error picture shows as white.
_FULL = {"colour": 10.0, "normal": 10.0, "mask": 0.1}


class Kind(StrEnum):
    """What a map's errors are measured as: a colour to look at, directions, or numbers."""

    COLOUR = "colour"
    NORMAL = "normal"
    MASK = "mask"


# What a step of alpha over its full scale counts as. Between black and white lie 100 units of lightness (CIE 1976 L*),
# which a colour over the other one goes through; a degree is about a hundredth of the way round that a normal can lean.
ALPHA_WEIGHT = {Kind.COLOUR: 100.0, Kind.NORMAL: 100.0, Kind.MASK: 1.0}


def kind_of(role: Role | None) -> Kind:
    """The measure that fits a role; pictures without one are masks.

    >>> kind_of(Role.NORMAL).value, kind_of(Role.BASE_COLOR).value, kind_of(Role.ROUGHNESS).value
    ('normal', 'colour', 'mask')
    """
    if role is Role.NORMAL:
        return Kind.NORMAL
    return Kind.COLOUR if role is not None and facts(role).transfer is Transfer.SRGB else Kind.MASK


def _same_size(first: Texels, second: Texels) -> None:
    if (first.width, first.height) != (second.width, second.height):
        raise MismatchedMaps(
            "{first} has {width} x {height} texels and {second} {width2} x {height2}: only maps of one size "
            "can be compared",
            first=first.name,
            width=first.width,
            height=first.height,
            second=second.name,
            width2=second.width,
            height2=second.height,
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
    light = srgb_to_unit_linear(colours)
    return light if light.shape[2] == 3 else np.repeat(light, 3, axis=2)


def _numbers(first: Texels, second: Texels) -> tuple[Field, Field]:
    """The channels of the first but alpha, 0 to 1, and the same of the second. What that lacks is 0; a second picture
    that was widened from grey counts once."""
    count = len(first.channels) - first.has_alpha
    a, b = to_unit(first.pixels[:, :, :count]), to_unit(second.pixels[:, :, : len(second.channels) - second.has_alpha])
    missing = count - b.shape[2]
    if missing > 0:
        b = np.concatenate([b, np.zeros((*b.shape[:2], missing), np.float32)], axis=2)
    return a, b[:, :, :count]


def _alphas(first: Texels, second: Texels) -> tuple[Field, Field] | None:
    """Both alphas, shape (h, w), 0 to 1; 1 where a picture has none. None where neither has one that shows."""
    if not _alpha_shows(first) and not _alpha_shows(second):
        return None
    size = (first.height, first.width)
    a, b = (to_unit(one.channel("a")) if one.has_alpha else np.ones(size, np.float32) for one in (first, second))
    return a, b


def _alpha_shows(texels: Texels) -> bool:
    return texels.has_alpha and bool(texels.channel("a").min() < full_scale(texels.pixels.dtype))


def _with_alpha(apart: Field, first: Texels, second: Texels, kind: Kind) -> Field:
    """A difference with that of alpha in it: where it is larger, that counts."""
    alphas = _alphas(first, second)
    if alphas is None:
        return apart
    return np.asarray(np.maximum(apart, np.abs(alphas[0] - alphas[1]) * ALPHA_WEIGHT[kind]), np.float32)


def _angles(first: Texels, second: Texels) -> Field:
    """Degrees between the directions of two normal maps, shape (h, w); good at small angles too."""
    a, b = unit(decode(first)), unit(decode(second))
    cross = np.linalg.norm(np.cross(a, b), axis=2)
    made: Field = np.degrees(np.arctan2(cross, (a * b).sum(axis=2))).astype(np.float32)
    return made


def difference(first: Texels, second: Texels, kind: Kind) -> Field:
    """The error at every texel.

    Returns shape (h, w), 0 where both are equal: CIEDE2000 (0 to 100 and a little more) for colours, degrees (0 to 180)
    for normals, the largest step of a channel (0 to 1, full scale) for masks; or what its alpha differs by, in the same
    unit (ALPHA_WEIGHT), where that is more. Raises MismatchedMaps for two sizes.

    >>> one = Texels(np.full((2, 2, 1), 51, np.uint8), "y", Transfer.LINEAR)
    >>> round(float(difference(one, one.with_pixels(one.pixels * 2), Kind.MASK).max()), 3)
    0.2
    """
    _same_size(first, second)
    return _with_alpha(_apart(first, second, kind), first, second, kind)


def _apart(first: Texels, second: Texels, kind: Kind) -> Field:
    """As difference, alpha left out."""
    if kind is Kind.NORMAL:
        return _angles(first, second)
    if kind is Kind.COLOUR:
        return ciede2000(lab_of_linear(_light(first)), lab_of_linear(_light(second)))
    a, b = _numbers(first, second)
    made: Field = np.abs(a - b).max(axis=2)
    return made


def compare(first: Texels, second: Texels, kind: Kind, cut_off: float = CUT_OFF) -> dict[str, Any]:
    """The error of ``second`` against ``first``: numbers by name.

    colour: psnr (dB, of stored numbers), ssim (0 to 1), delta_e (mean CIEDE2000) and delta_e_99 (99th percentile).
    normal: degrees, degrees_99, degrees_max. mask: step (mean), step_99 and step_max, of full scale 1, psnr.
    Where one has alpha below 1 (1 in the other): alpha_step, alpha_step_99 and alpha_step_max, of full scale 1; psnr
    counts it.
    Where one has such alpha, or a mask is an opacity: coverage, the change in the share at or above ``cut_off``.
    The perceptual measures and angles look at every n-th texel of large maps, about a million of them: then every, n.
    """
    _same_size(first, second)
    small = _sampled(first), _sampled(second)
    figures: dict[str, Any] = {"kind": kind.value}
    alpha_shows = _alpha_shows(first) or _alpha_shows(second)
    if kind is Kind.COLOUR:
        apart = _apart(*small, kind)
        figures |= {
            "psnr": _decibels(_psnr(first, second, kind)),
            "ssim": ssim(_colours(small[0]), _colours(small[1])),
            "delta_e": _mean(apart), "delta_e_99": _high(apart),
        }  # fmt: skip
    elif kind is Kind.NORMAL:
        angles = _apart(*small, kind)
        figures |= {"degrees": _mean(angles), "degrees_99": _high(angles), "degrees_max": float(angles.max())}
    else:
        steps, mean = _gathered(first, second, _steps)
        figures |= {
            "step": mean, "step_99": _high(steps), "step_max": float(steps.max()),
            "psnr": _decibels(_psnr(first, second, kind)),
        }  # fmt: skip
    if kind is not Kind.MASK and small[0].width < first.width:
        figures["every"] = -(-first.width // small[0].width)
    if alpha_shows:
        steps, mean = _gathered(first, second, _alpha_steps)
        figures |= {"alpha_step": mean, "alpha_step_99": _high(steps), "alpha_step_max": float(steps.max())}
    if alpha_shows or (first.role is Role.OPACITY and second.role is Role.OPACITY):
        gained = 0
        for one, other in _strips(first, second):
            shown = _alphas(one, other) if alpha_shows else _opacities(one, other)
            if shown is not None:
                gained += int((shown[1] >= cut_off).sum()) - int((shown[0] >= cut_off).sum())
        figures["coverage"] = gained / (first.width * first.height)
    return {key: round(value, 6) if isinstance(value, float) else value for key, value in figures.items()}


def _strips(first: Texels, second: Texels) -> Iterator[tuple[Texels, Texels]]:
    """Both pictures some rows at a time, so that no whole one is made floats of."""
    rows = max(1, _STRIP // first.width)
    for top in range(0, first.height, rows):
        yield tuple(one.with_pixels(one.pixels[top : top + rows]) for one in (first, second))  # type: ignore[misc]


def _gathered(
    first: Texels, second: Texels, steps_of: Callable[[Texels, Texels], tuple[Field, float]]
) -> tuple[Field, float]:
    """Of both pictures, strip by strip: a step at every texel, and the mean one."""
    steps, total = np.empty((first.height, first.width), np.float32), 0.0
    top = 0
    for pair in _strips(first, second):
        part, mean = steps_of(*pair)
        steps[top : top + len(part)] = part
        total += mean * len(part)
        top += len(part)
    return steps, float(total / first.height)


def _alpha_steps(first: Texels, second: Texels) -> tuple[Field, float]:
    """The step of alpha at every texel, and the mean one."""
    alphas = _alphas(first, second)
    if alphas is None:
        return np.zeros((first.height, first.width), np.float32), 0.0
    steps = np.abs(alphas[0] - alphas[1])
    return steps, _mean(steps)


def _steps(first: Texels, second: Texels) -> tuple[Field, float]:
    """The largest step of a channel at every texel, and the mean one."""
    apart = np.abs(np.subtract(*_numbers(first, second)))
    return apart.max(axis=2), float(apart.mean(dtype=np.float64))


def _psnr(first: Texels, second: Texels, kind: Kind) -> float:
    """Peak signal to noise of stored numbers, alpha with them where one has it."""
    total, count = 0.0, 0
    with_alpha = _alpha_shows(first) or _alpha_shows(second)
    for one, other in _strips(first, second):
        numbers = (_colours(one), _colours(other)) if kind is Kind.COLOUR else _numbers(one, other)
        error = np.square(np.subtract(*numbers)).sum(dtype=np.float64)
        count += numbers[0].size
        if with_alpha:
            seen = _alphas(one, other)
            error += 0.0 if seen is None else np.square(seen[0] - seen[1]).sum(dtype=np.float64)
            count += one.width * one.height
        total += float(error)
    return decibels(total / count)


def _mean(values: Field) -> float:
    return float(values.mean(dtype=np.float64))


def _high(values: Field) -> float:
    return float(np.percentile(values, 99))


def _decibels(value: float) -> float | None:
    """JSON has no infinity: None for equal pictures."""
    return value if np.isfinite(value) else None


def _opacities(first: Texels, second: Texels) -> tuple[Field, Field]:
    return to_unit(first.pixels[:, :, 0]), to_unit(second.pixels[:, :, 0])


def weight_of(measures: Mapping[str, Any]) -> float:
    """The one number of ``compare`` that error limits speak of: delta_e_99, degrees_99 or step_99; or alpha_step_99 in
    the same unit (ALPHA_WEIGHT) where that is more.

    measures: as compare gives them. Returns 0 for equal maps; CIEDE2000, degrees, or steps of full scale 1.
    The 99th percentile: a mean hides ruined blocks, a maximum lets one texel decide.

    >>> weight_of({"kind": "mask", "step_99": 0.25})
    0.25
    """
    key = {"colour": "delta_e_99", "normal": "degrees_99", "mask": "step_99"}[measures["kind"]]
    alpha = float(measures.get("alpha_step_99", 0.0)) * ALPHA_WEIGHT[Kind(measures["kind"])]
    return max(float(measures[key]), alpha)


def error_picture(first: Texels, second: Texels, kind: Kind) -> Texels:
    """Where the error lies: grey, 8 bits, white from CIEDE2000 10, 10 degrees or a step of 0.1 on."""
    shown = np.clip(difference(first, second, kind) / _FULL[kind.value], 0, 1)
    pixels = narrow(shown[:, :, None], np.dtype(np.uint8))
    return Texels(pixels, "y", Transfer.LINEAR, name=f"error of {second.name}")
