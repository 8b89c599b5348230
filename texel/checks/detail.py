"""Checks of detail and borders: maps made larger than they were, seams, lossy files, more depth than the role needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import Finding, SetView, Severity
from texel.checks.islands import padding_of
from texel.checks.places import Place, marks_of, whole
from texel.image import Pixels, Texels, to_unit
from texel.messages import message_of
from texel.roles import Role, Transfer, facts
from texel.tiling import SEAM, VISIBLE_STEP, border_step

__all__ = ["check_depth", "check_lossy", "check_seams", "check_upscaled"]

Field = NDArray[np.float32]
_CROP = 1024
# Median power just below half the highest frequency, where interpolation still keeps detail, and just above, where it
# has none. On the labelled set (bench/labelled.py) the second is 0.099 of the first and more on clean colours, 0.013
# and less on colours made larger from half the size. The mean is led by the few frequencies of regular patterns.
_CLIFF = 0.035
_INNER, _OUTER = (0.4, 0.5), (0.62, 0.8)
# Rounding to 8 bits leaves a variance of 1/12 step in every band, the median of which is ln 2 of its mean; nothing is
# told from detail that is not well above it.
_ROUNDING = (1 / 255) ** 2 / 12 * float(np.log(2))
_ABOVE_ROUNDING = 5
_PADDED_BORDER = 0.2
_SPECTRAL = (Role.BASE_COLOR, Role.ROUGHNESS)
_DRAWN = 3 / 255
_BLOCK = 8
_BLOCKY = 1.15


def _plane(texels: Texels) -> Field:
    """The middle of green, or of the only channel: at most 1024 texels a side, 0 to 1."""
    top, left = (max(0, (side - _CROP) // 2) for side in (texels.height, texels.width))
    at = 1 if len(texels.channels) >= 3 else 0
    return to_unit(np.ascontiguousarray(texels.pixels[top : top + _CROP, left : left + _CROP, at]))


def _band_energies(plane: Field) -> tuple[float, float]:
    """Median power a frequency in two rings, given in shares of the highest frequency; a window keeps borders out."""
    height, width = plane.shape
    window = np.hanning(height)[:, None] * np.hanning(width)[None, :]
    power = np.abs(np.fft.rfft2((plane - plane.mean()) * window)) ** 2 / float((window**2).sum())
    fy, fx = np.abs(np.fft.fftfreq(height))[:, None] * 2, np.fft.rfftfreq(width)[None, :] * 2
    inner, outer = (
        float(np.median(power[((fx >= low) | (fy >= low)) & (fx < high) & (fy < high)]))
        for low, high in (_INNER, _OUTER)
    )
    return inner, outer


def _repeats(plane: Field) -> bool:
    """Whether every texel stands there twice in both directions (made larger without any filter)."""
    height, width = (side - side % 2 for side in plane.shape)
    even = plane[:height, :width]
    across = np.mean(even[:, 0::2] == even[:, 1::2])
    down = np.mean(even[0::2] == even[1::2])
    return bool(across > 0.999 and down > 0.999)


def check_upscaled(view: SetView) -> list[Finding]:
    """upscaled: power of detail above half the highest frequency over that just below; threshold: 0.035.

    Interpolation to twice the size puts nothing there. Colours and roughness only: heights and normals may be that
    smooth by nature, and are named only when every texel stands there twice.
    """
    findings = []
    for role in (*_SPECTRAL, Role.NORMAL, Role.HEIGHT):
        ref = view.maps.get(role)
        if ref is None or any(step.get("step") in ("resize", "power_of_two") for step in ref.recipe):
            continue
        texels = view.map(ref)
        if min(texels.width, texels.height) < 64:
            continue
        plane = _plane(texels)
        if float(plane.std()) < 2 / 255:
            continue
        inner, outer = _band_energies(plane)
        ratio = max(outer - _ROUNDING, 0) / max(inner, 1e-12)
        cliff = role in _SPECTRAL and inner > _ABOVE_ROUNDING * _ROUNDING and ratio < _CLIFF
        if not cliff and not _repeats(plane):
            continue
        message = message_of("upscaled")
        findings.append(
            view.finding(
                "upscaled", Severity.WARNING, ref, message, measure=ratio, threshold=_CLIFF,
                remedy={"step": "resize", "width": max(1, texels.width // 2), "height": max(1, texels.height // 2)},
                place=whole(texels),
            )
        )  # fmt: skip
    return findings


def _border(values: Pixels, axes: str) -> Field:
    """How much opposite borders differ, along the borders of a field of 128 texels a side at most."""
    field = np.zeros(values.shape[:2], np.float32)
    for axis, name in ((1, "x"), (0, "y")):
        if axes in ("both", name):
            lines = np.moveaxis(values, axis, 0)
            step = np.abs(to_unit(lines[0]) - to_unit(lines[-1])).max(axis=1)
            width = max(1, field.shape[axis] // 64)
            strips = np.moveaxis(field, axis, 0)
            strips[:width] = np.maximum(strips[:width], step)
            strips[-width:] = np.maximum(strips[-width:], step)
    return field


def _seams(texels: Texels, role: Role) -> dict[str, tuple[float, float]]:
    """For each pair of borders the step across it and its ratio to the steps inside.

    Bevels that meet at the border lean away from each other: a normal map is read with the one side mirrored as well,
    and the better of the two counts.
    """
    values = texels.pixels[:, :, :3]
    seams = {"left and right": border_step(values, 1), "upper and lower": border_step(values, 0)}
    if role is Role.NORMAL and values.shape[2] >= 2:
        for axis, (name, channel) in enumerate({"upper and lower": 1, "left and right": 0}.items()):
            step, ratio = seams[name]
            lines = np.moveaxis(values, axis, 0)
            first, last = to_unit(lines[0]), to_unit(lines[-1]).copy()
            last[:, channel] = 1 - last[:, channel]
            leaning = float(np.abs(first - last).mean())
            if leaning < step:
                seams[name] = (leaning, ratio * leaning / step)
    return seams


def _breaks(seam: tuple[float, float]) -> bool:
    return seam[1] > SEAM and seam[0] > VISIBLE_STEP


def _has_content_at(texels: Texels, borders: str) -> bool:
    """Whether something is drawn along a pair of borders: flat ones meet in every picture."""
    axis = 1 if borders == "left and right" else 0
    lines = np.moveaxis(texels.pixels[:, :, :3], axis, 0)
    return min(float(to_unit(lines[at]).std(axis=0).max()) for at in (0, -1)) > _DRAWN


def _is_unwrapped(colour: Texels) -> bool:
    """Whether a colour map lies in islands: its borders run through flat padding."""
    padding = padding_of(colour)
    if padding is None:
        return False
    border = np.concatenate([padding[0], padding[-1], padding[:, 0], padding[:, -1]])
    return bool(border.mean() > _PADDED_BORDER)


def check_seams(view: SetView) -> list[Finding]:
    """seam: mean step across the border over the largest mean step between neighbouring lines; threshold: 1.35.

    Both axes. Sets with opacity, or alpha in the colour, are cut-outs, which need not tile. Where several maps break at
    a border and none meets, or padding lies along the borders, the set was never meant to repeat there: that is a note.
    """
    colour = view.maps.get(Role.BASE_COLOR)
    if Role.OPACITY in view.maps or (colour is not None and view.library.texels(colour.file, colour.layer).has_alpha):
        return []
    seams = {}
    for role, ref in view.maps.items():
        texels = view.map(ref)
        if role not in (Role.OPACITY, Role.EMISSIVE, Role.METALLIC) and min(texels.width, texels.height) >= 16:
            seams[role] = _seams(texels, role)
    unwrapped = colour is not None and _is_unwrapped(view.map(colour))
    meets = {
        name
        for role, one in seams.items()
        for name, seam in one.items()
        if not _breaks(seam) and _has_content_at(view.map(view.maps[role]), name)
    }
    findings = []
    for role, one in seams.items():
        wrong = {name: seam[1] for name, seam in one.items() if _breaks(seam)}
        if not wrong:
            continue
        ref, texels = view.maps[role], view.map(view.maps[role])
        axes = "both" if len(wrong) == 2 else "x" if "left and right" in wrong else "y"
        alone = any(sum(_breaks(other[name]) for other in seams.values()) == 1 for name in wrong)
        meant = not unwrapped and (alone or any(name in meets for name in wrong))
        key = "seam_shows" if meant else "seam_unwrapped" if unwrapped else "seam_all"
        message = message_of(key, borders=list(wrong))
        side = min(64, texels.width, texels.height)
        place = Place(0, (texels.height - side) // 2, side, side)
        if axes == "y":
            place = Place((texels.width - side) // 2, 0, side, side)
        findings.append(
            view.finding(
                "seam", Severity.WARNING if meant else Severity.NOTE, ref, message, measure=max(wrong.values()),
                threshold=SEAM, remedy={"step": "make_tileable", "axes": axes}, place=place,
                marks=marks_of(_border(texels.pixels[:, :, :3], axes)),
            )
        )  # fmt: skip
    return findings


def check_lossy(view: SetView) -> list[Finding]:
    """lossy_data: a data map in a lossy container. measure: mean step across the borders of 8 x 8 blocks over that
    inside them, 1 where none show; threshold: 1.15 makes it a warning, less a note.
    """
    findings = []
    for role, ref in view.maps.items():
        if facts(role).transfer is Transfer.SRGB or not view.library.probe(ref.file, ref.layer).lossy:
            continue
        texels = view.library.source(ref)
        across = np.abs(np.diff(_plane(texels), axis=1)).mean(axis=0)
        at = np.arange(1, across.size + 1) % _BLOCK == 0
        ratio = float(across[at].mean() / max(float(across[~at].mean()), 1e-6)) if at.any() else 1.0
        severity = Severity.WARNING if ratio > _BLOCKY or role is Role.NORMAL else Severity.NOTE
        message = message_of("lossy_data", role=role)
        findings.append(
            view.finding("lossy_data", severity, ref, message, measure=ratio, threshold=_BLOCKY, place=whole(texels))
        )
    return findings


def check_depth(view: SetView) -> list[Finding]:
    """more_depth_than_needed: bits a channel of a float map in a role that 16 bits serve as well; threshold: 16."""
    findings = []
    for role, ref in view.maps.items():
        head = view.library.probe(ref.file, ref.layer)
        if head.bits <= 16 or role in (Role.HEIGHT, Role.EMISSIVE):
            continue
        message = message_of("more_depth_than_needed", bits=head.bits, role=role)
        findings.append(
            view.finding("more_depth_than_needed", Severity.NOTE, ref, message, measure=head.bits, threshold=16)
        )
    return findings
