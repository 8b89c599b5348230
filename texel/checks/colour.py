"""Checks of colour: values that no material has, light baked in, a grey picture where colour is meant."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import Finding, SetView, Severity
from texel.checks.islands import padding_of
from texel.checks.remedy import derive
from texel.colour import encode_srgb, luminance, srgb_to_unit_linear
from texel.derive.hollows import shade_of_hollows
from texel.derive.specular import loss
from texel.filters import blur
from texel.image import Texels, to_unit
from texel.messages import message_of
from texel.resize import reduced
from texel.roles import Role, Transfer
from texel.sorting.content import is_coloured

__all__ = ["check_baked_light", "check_colour_range", "check_grey_colour", "check_specular"]

Field = NDArray[np.float32]
_SIDE = 512
# Non-metals lie roughly within sRGB 30 to 240, metals roughly above 180 (common practice, no source). Edges of worn
# metal and rust are darker, so metals get room below.
_DARKEST, _BRIGHTEST, _DARKEST_METAL = 30 / 255, 240 / 255, 150 / 255
_SHARE_OUTSIDE = 0.10
# One value over most of the picture is the surface itself, not the padding around it.
_MAX_PADDING = 0.75
_GLOWS = 0.05
# Correlation with a scalar map of the set above which a grey colour is that map.
_IS_SCALAR = 0.9
_SCALARS = (Role.HEIGHT, Role.ROUGHNESS, Role.GLOSSINESS, Role.OCCLUSION, Role.METALLIC)
_LEAST_OF_A_KIND = 0.02
# Between the two lie rust, paint rubbed thin and the soft border of a mask, whose colours are mixtures of both.
_NO_METAL, _METAL = 0.1, 0.9
# Light multiplied in by occlusion makes a slope of 1 in logarithms. On the labelled set (bench/labelled.py) clean
# surfaces stay below 0.3, baked ones lie above 0.9; on real ones those above 0.45 hardly correlate.
_BAKED_SLOPE = 0.45
_BAKED_CORRELATION = 0.3
# A colour that darkens far more than the occlusion has something else in it.
_STEEPEST = 3.5
# An occlusion made from height is another one than was baked in: its slope is flatter, so it must correlate better. No
# clean surface of the labelled set reaches this without its occlusion map.
_SLOPE_BY_HEIGHT, _CORRELATION_BY_HEIGHT = 0.35, 0.5
_HUE_STEPS = 8
_SEEN_LOSS, _LOSSY = 0.05, 0.02
_BLACK, _CLOSED = np.float32(0.002), np.float32(0.05)


def _small(texels: Texels) -> Field:
    """Linear colour, shape (h, w, 3), at most 512 texels a side."""
    stored = reduced(texels, _SIDE).pixels
    rgb = stored[:, :, :3] if texels.channels[0] != "y" else stored[:, :, :1].repeat(3, axis=2)
    return np.asarray(to_unit(rgb) if texels.transfer is Transfer.LINEAR else srgb_to_unit_linear(rgb), np.float32)


def _scalar(texels: Texels, like: Field) -> Field:
    size = (like.shape[1], like.shape[0])
    plane = np.ascontiguousarray(texels.channel("r"))
    return np.asarray(to_unit(cv2.resize(plane, size, interpolation=cv2.INTER_AREA)), np.float32)


def _inside(view: SetView, like: Field) -> NDArray[np.bool_]:
    """Where the surface is: opacity above one half, alpha of the colour above none, not in the padding around islands
    of an unwrapped model."""
    ref, colour = view.maps.get(Role.OPACITY), view.maps.get(Role.BASE_COLOR)
    inside = np.ones(like.shape[:2], bool) if ref is None else _scalar(view.map(ref), like) > 0.5
    if colour is not None:
        texels = view.map(colour)
        padding = padding_of(texels)
        if padding is not None and padding.mean() < _MAX_PADDING:
            size = (inside.shape[1], inside.shape[0])
            inside &= cv2.resize(padding.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) == 0
    return inside


def _lit(view: SetView, like: Field) -> NDArray[np.bool_]:
    """Where the surface glows: lamps are painted as bright as their light."""
    ref = view.maps.get(Role.EMISSIVE)
    if ref is None:
        return np.zeros(like.shape[:2], bool)
    return luminance(_colour_at(view.map(ref), like)) > _GLOWS


def check_colour_range(view: SetView) -> list[Finding]:
    """implausible_colour: share of the surface's texels too dark or too bright for what they are; threshold: 0.10.

    Non-metals (metallic below 0.1) under sRGB 30 or over 240 in luminance, metals (above 0.9) under 150; what lies
    between is a mixture. Padding around islands, texels that glow and, beside a specular map, dark ones do not count.
    """
    ref = view.maps.get(Role.BASE_COLOR)
    if ref is None:
        return []
    linear = _small(view.map(ref))
    light = encode_srgb(luminance(linear))
    inside = _inside(view, light) & ~_lit(view, light)
    # Where reflection has a map of its own, metals have no colour here: they are black, rightly.
    darkest = -1.0 if Role.SPECULAR in view.maps else _DARKEST
    metallic = np.zeros_like(light)
    if Role.METALLIC in view.maps:
        metallic = _scalar(view.map(view.maps[Role.METALLIC]), light)
    metal, other = inside & (metallic > _METAL), inside & (metallic < _NO_METAL)
    findings = []
    for kind, wrong, key in (
        (other, light < darkest, "colour_too_dark"),
        (other, light > _BRIGHTEST, "colour_too_bright"),
        (metal, light < _DARKEST_METAL, "metal_too_dark"),
    ):
        if kind.mean() < _LEAST_OF_A_KIND:
            continue
        share = float(wrong[kind].mean())
        if share > _SHARE_OUTSIDE:
            findings.append(
                view.finding(
                    "implausible_colour", Severity.WARNING, ref, message_of(key, share=share),
                    measure=share, threshold=_SHARE_OUTSIDE, field=wrong & kind,
                )
            )  # fmt: skip
    return findings


def _detail(field: Field) -> Field:
    """What changes over less than a sixteenth of the side, so that broad shades of the material do not count."""
    return field - blur(field, max(2.0, max(field.shape) / 16))


def _hue_bins(linear: Field) -> NDArray[np.int64]:
    """A number for each texel's chromaticity: the logarithms of red over green and blue over green, in 8 steps each.

    Light multiplies all channels alike and leaves it as it is; another material seldom does.
    """
    log = np.log(np.maximum(linear, _BLACK))
    bins = np.zeros(linear.shape[:2], np.int64)
    for at in (0, 2):
        ratio = log[:, :, at] - log[:, :, 1]
        low, high = np.percentile(ratio, (1, 99))
        step = (ratio - low) / max(high - low, 0.15) * _HUE_STEPS
        bins = bins * _HUE_STEPS + np.clip(step.astype(np.int64), 0, _HUE_STEPS - 1)
    return bins


def _within(bins: NDArray[np.int64], values: Field) -> NDArray[np.float64]:
    """Values less the mean of their bin; both of shape (n,)."""
    count = np.maximum(np.bincount(bins), 1)
    return np.asarray(values - (np.bincount(bins, values) / count)[bins], np.float64)


def check_baked_light(view: SetView) -> list[Finding]:
    """baked_light: slope of log luminance over log occlusion, among texels of one chromaticity.

    1 for colour times occlusion; threshold: 0.45, no more than 3.5, counted where the two correlate by more than 0.3.
    Without an occlusion map the one that the height gives is taken (0.35 and 0.5); without either nothing is said. The
    remedy divides the occlusion map out, which is an estimate.
    """
    colour, occlusion, height = (view.maps.get(r) for r in (Role.BASE_COLOR, Role.OCCLUSION, Role.HEIGHT))
    if colour is None or (occlusion is None and height is None):
        return []
    linear = _small(view.map(colour))
    inside = _inside(view, linear)
    if occlusion is not None:
        openness = _scalar(view.map(occlusion), linear)
    elif height is not None:
        openness = shade_of_hollows(_scalar(view.map(height), linear))
    closed = _detail(np.log(np.maximum(openness, _CLOSED)))
    shade = _detail(np.log(np.maximum(luminance(linear), _BLACK)))
    if not inside.any() or float(closed[inside].std()) < 0.02:
        return []
    bins = _hue_bins(linear)[inside]
    a, b = _within(bins, closed[inside]), _within(bins, shade[inside])
    slope = float((a * b).sum() / max((a * a).sum(), 1e-9))
    correlation = float((a * b).sum() / max(np.sqrt((a * a).sum() * (b * b).sum()), 1e-9))
    least = (_BAKED_SLOPE, _BAKED_CORRELATION) if occlusion else (_SLOPE_BY_HEIGHT, _CORRELATION_BY_HEIGHT)
    if not least[0] <= slope <= _STEEPEST or correlation < least[1]:
        return []
    message = message_of("baked_light", slope=slope, correlation=correlation)
    return [
        view.finding(
            "baked_light", Severity.WARNING, colour, message, measure=slope, threshold=least[0],
            remedy={"step": "remove_occlusion", "strength": round(min(1.0, slope), 2)} if occlusion else None,
            field=-closed,
        )
    ]  # fmt: skip


def check_specular(view: SetView) -> list[Finding]:
    """specular_workflow: share of texels whose look changes by more than 0.05 when diffuse and specular are turned into
    base colour and metallic; threshold: 0.02, above which it is a warning. Its marks are the loss.

    Published conversion of the archived glTF extension for specular/glossiness, which is lossy.
    """
    colour, specular = view.maps.get(Role.BASE_COLOR), view.maps.get(Role.SPECULAR)
    if colour is None or specular is None:
        return []
    diffuse = _small(view.map(colour))
    lost = loss(diffuse, _colour_at(view.map(specular), diffuse))
    share = float(np.mean(lost > _SEEN_LOSS))
    message = message_of("specular_workflow", share=share, most=float(lost.max()))
    remedy = derive(Role.METALLIC, {Role.SPECULAR}) if Role.METALLIC not in view.maps else None
    return [
        view.finding(
            "specular_workflow", Severity.WARNING if share > _LOSSY else Severity.NOTE, specular, message,
            measure=share, threshold=_LOSSY, remedy=remedy, field=lost,
        )
    ]  # fmt: skip


def _colour_at(texels: Texels, like: Field) -> Field:
    """Linear colour at the size of another field."""
    light = _small(texels)
    return np.asarray(cv2.resize(light, (like.shape[1], like.shape[0]), interpolation=cv2.INTER_AREA), np.float32)


def check_grey_colour(view: SetView) -> list[Finding]:
    """grey_colour: a base colour without a hue; measure: its correlation with a scalar map of the set, threshold: 0.9.

    Much that is built is grey. It is a warning where the picture is one of the set's scalar maps, or stands alone, so
    that nothing else speaks for it; else a note.
    """
    ref = view.maps.get(Role.BASE_COLOR)
    if ref is None or is_coloured(view.map(ref)):
        return []
    mine = _outline(view.map(ref))
    alike = {role: _alike(mine, _outline(view.map(view.maps[role]))) for role in _SCALARS if role in view.maps}
    role = max(alike, key=lambda one: alike[one], default=None)
    measure = alike[role] if role else 0.0
    if role is not None and measure > _IS_SCALAR:
        message = message_of("grey_colour_of_role", role=role)
        return [view.finding("grey_colour", Severity.WARNING, ref, message, measure=measure, threshold=_IS_SCALAR)]
    severity = Severity.WARNING if len(view.maps) == 1 else Severity.NOTE
    message = message_of("grey_colour")
    return [view.finding("grey_colour", severity, ref, message, measure=measure, threshold=_IS_SCALAR)]


def _outline(texels: Texels) -> Field:
    """The first channel at 64 x 64, mean 0, spread 1; all 0 for a plain one."""
    plane = np.ascontiguousarray(texels.channel("r"))
    small = np.asarray(to_unit(cv2.resize(plane, (64, 64), interpolation=cv2.INTER_AREA)), np.float32)
    spread = float(small.std())
    return (small - small.mean()) / spread if spread > 1 / 255 else np.zeros_like(small)


def _alike(first: Field, second: Field) -> float:
    return abs(float((first * second).mean()))
