"""Checks of what a map's values say: plain channels, exchanged maps, hidden alpha, steps in height, gloss."""

from __future__ import annotations

import itertools
from pathlib import PurePosixPath

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.checks.finding import SAMPLE_SIDE, Finding, SetView, Severity
from texel.checks.places import Place, marks_of, whole
from texel.checks.remedy import assign, derive, take_out
from texel.image import Pixels, Texels, full_scale, to_unit
from texel.messages import message_of
from texel.naming.tokens import parse_name
from texel.repair.dequantise import plateaus
from texel.roles import Role
from texel.sets import MapRef
from texel.sorting.looks import COLOURED_SHARE, Look, look_at
from texel.sorting.packs import channels_in_words
from texel.strips import strips

__all__ = [
    "check_alpha",
    "check_exchanged",
    "check_gloss",
    "check_gloss_against_roughness",
    "check_height_range",
    "check_height_steps",
    "check_metallic",
    "check_opacity",
    "check_plain",
    "check_twins",
    "check_unlike_channels",
]

_SCALARS = (Role.ROUGHNESS, Role.METALLIC, Role.OCCLUSION, Role.HEIGHT, Role.OPACITY, Role.GLOSSINESS)
# Up to two 8-bit steps are what lossy files and dithering leave of a plain channel.
_PLAIN = 2 / 255
_EXTREME = 0.08
_STEP_ALPHA = 1 / 255
_EIGHT_BIT_LEVELS = 256
_MID_GREY = 0.15
_ALIKE = 0.3
_TWIN = 3 / 255
_LEAST_RANGE = 0.25


def _span(plane: Pixels) -> tuple[float, float]:
    top = full_scale(plane.dtype)
    return float(plane.min()) / top, float(plane.max()) / top


def check_plain(view: SetView) -> list[Finding]:
    """plain_channel: span of a scalar map's values, 0 to 1; threshold: 2/255. Says which constant does the same.

    Plain metallic is what most surfaces have, so it is only a note.
    """
    findings = []
    for role in _SCALARS:
        ref = view.maps.get(role)
        if ref is None:
            continue
        texels = view.map(ref)
        low, high = _span(texels.channel("r"))
        if high - low > _PLAIN or _unlike(view, ref):
            continue
        value = (low + high) / 2
        severity = Severity.NOTE if role is Role.METALLIC else Severity.WARNING
        key = "plain_channel_white" if value > 0.98 else "plain_channel_black" if value < 0.02 else "plain_channel"
        message = message_of(key, role=role, value=value)
        findings.append(
            view.finding(
                "plain_channel", severity, ref, message, measure=high - low, threshold=_PLAIN, remedy=take_out(),
                place=Place(0, 0, texels.width, texels.height, ref.channel or "r"),
            )
        )  # fmt: skip
    return findings


def _unlike(view: SetView, ref: MapRef) -> Look | None:
    """The look of a map's file whose channels differ, though one of them is all that its role reads."""
    texels = view.map(ref)
    if ref.channel is not None or len(texels.channels.removesuffix("a")) < 3:
        return None
    look = look_at(texels)
    return None if look.coloured <= COLOURED_SHARE else look


def check_unlike_channels(view: SetView) -> list[Finding]:
    """unlike_channels: share of texels whose red, green and blue differ, in a role that one channel holds; threshold:
    0.02. Only red is read: the file is packed, or tinted."""
    findings = []
    for role in _SCALARS:
        ref = view.maps.get(role)
        look = _unlike(view, ref) if ref is not None else None
        if ref is None or look is None:
            continue
        message = message_of("unlike_channels", role=role, channels=channels_in_words(look))
        findings.append(
            view.finding(
                "unlike_channels", Severity.WARNING, ref, message, measure=look.coloured, threshold=COLOURED_SHARE,
                place=whole(view.map(ref)),
            )
        )  # fmt: skip
    return findings


def check_exchanged(view: SetView) -> list[Finding]:
    """roughness_metallic_exchanged: how much more extreme (near 0 or 1) roughness is than metallic, as shares.

    Metallic is nearly always close to 0 or 1 and roughness seldom (common practice). threshold: 0.5.
    """
    rough, metal = view.maps.get(Role.ROUGHNESS), view.maps.get(Role.METALLIC)
    if rough is None or metal is None:
        return []
    shares = []
    for ref in (rough, metal):
        values = to_unit(view.sample(ref).channel("r"))
        if ref is rough and float(values.max() - values.min()) <= _PLAIN:
            return []  # plain roughness is full or none, and no mask
        shares.append(float(np.mean((values < _EXTREME) | (values > 1 - _EXTREME))))
    difference = shares[0] - shares[1]
    if difference <= 0.5:
        return []
    message = message_of("roughness_metallic_exchanged", rough=shares[0], metal=shares[1])
    return [
        view.finding(
            "roughness_metallic_exchanged", Severity.ERROR, rough, message, measure=difference, threshold=0.5,
            remedy=assign(Role.METALLIC), place=whole(view.map(rough)),
        )
    ]  # fmt: skip


def check_metallic(view: SetView) -> list[Finding]:
    """metallic_mid_grey: share of metallic values between 0.2 and 0.8; threshold: 0.15.

    A surface is a metal or it is not; grey belongs to thin transitions only (common practice).
    """
    ref = view.maps.get(Role.METALLIC)
    if ref is None or view.library.probe(ref.file, ref.layer).width < 8:
        return []
    values = to_unit(view.sample(ref).channel("r"))
    grey = (values > 0.2) & (values < 0.8)
    share = float(grey.mean())
    if share <= _MID_GREY:
        return []
    message = message_of("metallic_mid_grey", share=share)
    return [
        view.finding(
            "metallic_mid_grey", Severity.WARNING, ref, message, measure=share, threshold=_MID_GREY,
            remedy={"step": "levels", "black": 0.45, "white": 0.55}, field=grey,
        )
    ]  # fmt: skip


def check_gloss_against_roughness(view: SetView) -> list[Finding]:
    """gloss_as_roughness: correlation of gloss and roughness when a set has both; they should oppose each other.

    threshold: 0.3. Also said, without a measure, of a map in the roughness role whose name says gloss and whose recipe
    does not invert it: another role does not change the values.
    """
    rough, gloss = view.maps.get(Role.ROUGHNESS), view.maps.get(Role.GLOSSINESS)
    if rough is None:
        return []
    inverted = sum(s.get("step") in ("invert", "gloss_to_roughness") and not s.get("off") for s in rough.recipe) % 2
    if parse_name(PurePosixPath(rough.file).stem).role is Role.GLOSSINESS and not inverted:
        message = message_of("gloss_as_roughness_named")
        remedy = {"step": "gloss_to_roughness"}
        return [view.finding("gloss_as_roughness", Severity.ERROR, rough, message, remedy=remedy)]
    if gloss is None:
        return []
    a, b = (_shrunk(view.map(ref)) for ref in (rough, gloss))
    if min(a.std(), b.std()) < _PLAIN:
        return []
    correlation = float(np.corrcoef(a.ravel(), b.ravel())[0, 1])
    if correlation <= _ALIKE:
        return []
    message = message_of("gloss_as_roughness_alike", correlation=correlation)
    return [
        view.finding(
            "gloss_as_roughness", Severity.ERROR, rough, message, measure=correlation, threshold=_ALIKE,
            remedy={"step": "gloss_to_roughness"}, place=whole(view.map(rough)),
        )
    ]  # fmt: skip


def _shrunk(texels: Texels) -> np.ndarray:
    """The first channel at 128 x 128, 0 to 1."""
    plane = np.ascontiguousarray(texels.channel("r"))
    return to_unit(cv2.resize(plane, (128, 128), interpolation=cv2.INTER_AREA))


def check_twins(view: SetView) -> list[Finding]:
    """twin_maps: mean difference, 0 to 1, between two scalar maps of a set, or one and the other inverted.

    threshold: 0.012 (three 8-bit steps). Plain maps are left alone; roughness and gloss are expected to be inverted.
    """
    small = {role: _shrunk(view.map(ref)) for role, ref in view.maps.items() if role in _SCALARS}
    shown = {role: values for role, values in small.items() if float(values.std()) > _PLAIN}
    findings = []
    for first, second in itertools.combinations(shown, 2):
        pair = {first, second}
        alike = float(np.abs(shown[first] - shown[second]).mean())
        opposed = float(np.abs(1 - shown[first] - shown[second]).mean())
        if pair == {Role.ROUGHNESS, Role.GLOSSINESS}:
            continue
        if min(alike, opposed) > _TWIN:
            continue
        message = message_of("twin_same" if alike <= opposed else "twin_inverse", first=first, second=second)
        findings.append(
            view.finding(
                "twin_maps", Severity.WARNING, view.maps[second], message, measure=min(alike, opposed),
                threshold=_TWIN, remedy=take_out(), place=whole(view.map(view.maps[second])),
            )
        )  # fmt: skip
    return findings


def check_height_range(view: SetView) -> list[Finding]:
    """unused_height_range: share of the stored range that a height map uses; threshold: 0.25.

    With 8 bits a quarter of the range leaves 64 steps; with 16 bits it costs nothing that is seen, so it is a note.
    """
    ref = view.maps.get(Role.HEIGHT)
    if ref is None:
        return []
    texels = view.map(ref)
    low, high = _span(texels.channel("r"))
    if texels.bits == 32 or not _PLAIN < high - low < _LEAST_RANGE:
        return []
    severity = Severity.WARNING if texels.bits == 8 else Severity.NOTE
    message = message_of("unused_height_range", span=high - low, low=low, high=high)
    return [
        view.finding(
            "unused_height_range", severity, ref, message, measure=high - low, threshold=_LEAST_RANGE,
            remedy={"step": "levels", "black": round(low, 4), "white": round(high, 4)}, place=whole(texels),
        )
    ]  # fmt: skip


def check_opacity(view: SetView) -> list[Finding]:
    """opacity_kind: share of opacity values that are neither 0 nor 1; threshold: 0.02 between cut-out and blend."""
    ref = view.maps.get(Role.OPACITY)
    if ref is None:
        return []
    values = to_unit(view.sample(ref).channel("r"))
    soft = float(np.mean((values > 0.02) & (values < 0.98)))
    message = message_of("opacity_blend" if soft > 0.02 else "opacity_cut_out", soft=soft)
    return [
        view.finding(
            "opacity_kind", Severity.NOTE, ref, message, measure=soft, threshold=0.02, place=whole(view.map(ref))
        )
    ]


def check_alpha(view: SetView) -> list[Finding]:
    """hidden_alpha: span of an alpha channel that no map of the set uses; threshold: 1/255.

    A plain white alpha only costs memory (note); one with values in it is a mask that nobody opened (warning).
    """
    findings = []
    seen = {(ref.file, ref.layer) for ref in view.set.maps if ref.channel == "a"}
    for ref in view.maps.values():
        if (ref.file, ref.layer) in seen:
            continue
        seen.add((ref.file, ref.layer))
        whole = view.library.texels(ref.file, ref.layer)
        if not whole.has_alpha or any(step.get("step") == "drop_alpha" for step in ref.recipe):
            continue
        finding = _alpha_finding(view, ref, whole)
        if finding is not None:
            findings.append(finding)
    return findings


def _alpha_finding(view: SetView, ref: MapRef, whole: Texels) -> Finding | None:
    alpha = whole.channel("a")
    low, high = _span(alpha)
    remedy = None if ref.channel else {"step": "drop_alpha"}
    if high - low <= _STEP_ALPHA:
        message = message_of("plain_alpha", value=low)
        return view.finding(
            "plain_alpha", Severity.NOTE, ref, message, measure=high - low, threshold=_STEP_ALPHA, remedy=remedy
        )
    unit = to_unit(alpha[:: max(1, alpha.shape[0] // SAMPLE_SIDE), :: max(1, alpha.shape[1] // SAMPLE_SIDE)])
    binary = float(np.mean((unit < 0.02) | (unit > 0.98)))
    message = message_of("hidden_alpha_binary" if binary > 0.98 else "hidden_alpha_soft", soft=1 - binary)
    return view.finding(
        "hidden_alpha", Severity.WARNING, ref, message, measure=high - low, threshold=_STEP_ALPHA, remedy=remedy,
        place=Place(0, 0, whole.width, whole.height, "a"),
    )  # fmt: skip


def _distinct(plane: Pixels) -> int:
    """How many values occur."""
    if plane.dtype == np.float32:
        return len(np.unique(plane[:: max(1, plane.shape[0] // 512)]))
    seen = np.zeros(int(full_scale(plane.dtype)) + 1, bool)
    for rows in strips(len(plane), plane.shape[1]):
        seen[plane[rows]] = True
    return int(seen.sum())


def _terraces(plane: Pixels) -> NDArray[np.float32]:
    """The edges between plateaus along every n-th row, at most 1024 rows."""
    rows = plane[:: -(-plane.shape[0] // SAMPLE_SIDE)]
    made: NDArray[np.float32] = (rows[:, 1:] != rows[:, :-1]).astype(np.float32)
    return made


def check_height_steps(view: SetView) -> list[Finding]:
    """height_steps: distinct values of a height map that spans a good part of its range; threshold: 256.

    8 bits show steps when displaced (common practice). A map with few values is fine only when it is nearly flat.
    """
    ref = view.maps.get(Role.HEIGHT)
    if ref is None:
        return []
    plane = view.map(ref).channel("r")
    low, high = _span(plane)
    if high - low <= _PLAIN:
        return []
    levels = _distinct(plane)
    if levels > _EIGHT_BIT_LEVELS:
        return []
    message = message_of("height_steps", levels=levels, span=high - low)
    # Where the surface is rougher than its steps, nothing tells them apart: only a source of more bits helps.
    remedy = {"step": "dequantise"} if plateaus(np.ascontiguousarray(plane)).any() else None
    return [
        view.finding(
            "height_steps", Severity.WARNING, ref, message, measure=levels, threshold=_EIGHT_BIT_LEVELS,
            remedy=remedy, place=whole(view.map(ref)),
            marks=marks_of(_terraces(plane)),
        )
    ]  # fmt: skip


def check_gloss(view: SetView) -> list[Finding]:
    """gloss_for_roughness: a set that has glossiness but no roughness. Nothing is measured.

    Targets that ask for roughness get 1 - glossiness, inverted exactly.
    """
    ref = view.maps.get(Role.GLOSSINESS)
    if ref is None or Role.ROUGHNESS in view.maps:
        return []
    message = message_of("gloss_for_roughness")
    remedy = derive(Role.ROUGHNESS, {Role.GLOSSINESS})
    return [view.finding("gloss_for_roughness", Severity.NOTE, ref, message, remedy=remedy)]
