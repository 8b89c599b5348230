"""Checks of normal maps: green's direction against the name, length of the vectors, blue."""

from __future__ import annotations

import numpy as np

from texel.checks.finding import Finding, SetView, Severity
from texel.checks.remedy import take_out
from texel.library import named_green
from texel.messages import message_of
from texel.normals.direction import disagreement, find_direction
from texel.normals.vectors import decode, lengths
from texel.roles import Green, Role
from texel.sorting.looks import Kind, look_at

__all__ = ["check_direction", "check_lengths", "check_strength"]

# 8-bit rounding alone changes a length by up to sqrt(3)/255 = 0.007; four times that is no rounding any more.
_LENGTH_OFF = 0.03
_SHARE_OFF = 0.01
# In tangent space every vector points out of the surface.
_SHARE_AWAY = 0.2
# A map in tangent space is level on the whole: its mean lies straight above the surface.
_LEVEL = 0.35
# Mean tilt of the vectors, degrees: below the first nothing of the relief is seen, above the second light no longer
# follows the surface (common practice, no source).
_FLATTEST, _STEEPEST, _LEANS = 0.6, 53.0, 1.0


def check_direction(view: SetView) -> list[Finding]:
    """direction_against_name: the pixels' green direction against the one in the file name.

    measure: correlation of the slopes' cross derivatives as read in the claimed direction (-1 opposite, +1 agreeing);
    threshold: 0. Also notes a direction that neither name nor pixels tell (direction_unknown), and one that the
    name does not tell and that is not what the target, or glTF without one, wants (direction_unlike_target).
    """
    ref = view.maps.get(Role.NORMAL)
    if ref is None:
        return []
    texels = view.map(ref)
    if texels.channels[0] == "y":
        return []
    measured = find_direction(texels)
    # What the map should be is what its name says; a flip in the recipe makes the pixels follow.
    claimed = named_green(ref.file, ref.layer)
    if claimed in (Green.UP, Green.DOWN) and measured.green not in (Green.UNKNOWN, claimed):
        agreement = measured.correlation if claimed is Green.UP else -measured.correlation
        message = message_of(
            "direction_against_name", claimed=claimed, measured=measured.green, confidence=measured.confidence
        )
        return [
            view.finding(
                "direction_against_name", Severity.ERROR, ref, message,
                measure=agreement, threshold=0.0, remedy={"step": "flip_green"},
                field=disagreement(texels, claimed), letter="g",
            )
        ]  # fmt: skip
    if claimed is None and measured.green is Green.UNKNOWN:
        message = message_of("direction_unknown")
        return [
            view.finding(
                "direction_unknown", Severity.NOTE, ref, message, measure=abs(measured.correlation), threshold=0.15
            )
        ]
    wanted = view.wanted.green if view.wanted else Green.UP
    if claimed is None and Green.UNKNOWN not in (wanted, measured.green) and measured.green is not wanted:
        who = (view.wanted.target if view.wanted else "") or "glTF"
        message = message_of("direction_unlike_target", measured=measured.green, target=who, wanted=wanted)
        return [
            view.finding(
                "direction_unlike_target", Severity.NOTE, ref, message, measure=measured.correlation, threshold=0.0,
                remedy={"step": "flip_green"},
            )
        ]  # fmt: skip
    return []


def check_lengths(view: SetView) -> list[Finding]:
    """not_unit_length: share of the vectors whose length is off by more than 0.03; threshold: 0.01.

    A blue channel that is plain is named as the cause, with the remedy that rebuilds it.
    """
    ref = view.maps.get(Role.NORMAL)
    if ref is None:
        return []
    texels = view.map(ref)
    if len(texels.channels.removesuffix("a")) == 2:
        message = message_of("normal_two_channels")
        return [view.finding("two_channel_normal", Severity.NOTE, ref, message, remedy={"step": "z_from_xy"})]
    if texels.channels[0] == "y":
        message = message_of("normal_grey")
        return [view.finding("not_a_normal_map", Severity.ERROR, ref, message, measure=1, threshold=3)]
    sample = view.sample(ref)
    vectors = decode(sample)
    off = np.abs(lengths(vectors) - 1)
    share = float(np.mean(off > _LENGTH_OFF))
    away = vectors[:, :, 2] < -_LENGTH_OFF
    blue = sample.channel("b")
    if float(away.mean()) > _SHARE_AWAY and blue.min() != blue.max():
        message = message_of("normal_points_in", share=float(away.mean()))
        return [
            view.finding(
                "not_a_normal_map", Severity.ERROR, ref, message, measure=float(away.mean()), threshold=_SHARE_AWAY,
                field=away,
            )
        ]  # fmt: skip
    if share <= _SHARE_OFF:
        return []
    tilted = float(np.abs(vectors[:, :, :2].mean(axis=(0, 1))).max())
    flat = float(vectors.std(axis=(0, 1)).max()) < _SHARE_OFF
    if tilted > _LEVEL and share > 0.6 and (flat or blue.min() != blue.max()):
        message = message_of("normal_leans", tilt=tilted)
        return [
            view.finding("not_a_normal_map", Severity.ERROR, ref, message, measure=tilted, threshold=_LEVEL, field=off)
        ]
    if blue.min() == blue.max():
        message = message_of("normal_blue_plain", blue=blue.flat[0].item(), share=share)
        remedy = {"step": "z_from_xy"}
    elif share > 0.6 and find_direction(texels).green is Green.UNKNOWN and look_at(texels).kind is not Kind.NORMAL:
        message = message_of("normal_no_relief", share=share)
        return [
            view.finding(
                "not_a_normal_map", Severity.ERROR, ref, message, measure=share, threshold=_SHARE_OFF, field=off
            )
        ]
    else:
        message = message_of("normal_off_length", share=share, most=_LENGTH_OFF)
        remedy = {"step": "renormalise"}
    return [
        view.finding(
            "not_unit_length", Severity.WARNING, ref, message,
            measure=share, threshold=_SHARE_OFF, remedy=remedy, field=off,
        )
    ]  # fmt: skip


def check_strength(view: SetView) -> list[Finding]:
    """normal_strength: mean angle between the vectors and the surface's own normal, degrees; thresholds: 0.6 and 53.

    Where a good part of the map leans by more than a degree, the flat rest is left out of the mean.
    """
    ref = view.maps.get(Role.NORMAL)
    if ref is None:
        return []
    texels = view.map(ref)
    if texels.channels[0] == "y":
        return []
    vectors = decode(view.sample(ref))
    z = vectors[:, :, 2] / np.maximum(lengths(vectors), 1e-6)
    angles = np.degrees(np.arccos(np.clip(z, -1, 1)))
    tilt = float(angles.mean())
    leaning = angles[angles > _LEANS]
    if leaning.size > 0.05 * angles.size:
        tilt = float(leaning.mean())
    if _FLATTEST <= tilt <= _STEEPEST:
        return []
    if tilt < _FLATTEST:
        message = message_of("normal_flat", tilt=tilt)
        remedy, threshold = ({"step": "normal_strength", "strength": 4.0} if tilt > 0.05 else take_out()), _FLATTEST
    else:
        message = message_of("normal_steep", tilt=tilt)
        remedy, threshold = {"step": "normal_strength", "strength": 0.4}, _STEEPEST
    return [
        view.finding(
            "normal_strength", Severity.WARNING, ref, message, measure=tilt, threshold=threshold, remedy=remedy,
            field=1 - z,
        )
    ]  # fmt: skip
