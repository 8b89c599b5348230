"""Checks of what a map's values say: plain channels, exchanged maps, hidden alpha, steps in height, gloss."""

from __future__ import annotations

import numpy as np

from texel.checks.finding import Finding, Place, SetView, Severity
from texel.image import Pixels, Texels, full_scale, to_unit
from texel.roles import Role, facts

__all__ = ["check_alpha", "check_exchanged", "check_gloss", "check_height_steps", "check_plain"]

_SCALARS = (Role.ROUGHNESS, Role.METALLIC, Role.OCCLUSION, Role.HEIGHT, Role.OPACITY, Role.GLOSSINESS)
# Up to two 8-bit steps are what lossy files and dithering leave of a plain channel.
_PLAIN = 2 / 255
_EXTREME = 0.08
_STEP_ALPHA = 1 / 255
_EIGHT_BIT_LEVELS = 256


def _span(plane: Pixels) -> tuple[float, float]:
    top = full_scale(plane.dtype)
    return float(plane.min()) / top, float(plane.max()) / top


def check_plain(view: SetView) -> list[Finding]:
    """plain_channel: span of a scalar map's values, 0 to 1; threshold: 2/255. Says which constant does the same.

    Plain metallic is what most surfaces have, so it is only a note.
    """
    found = []
    for role in _SCALARS:
        ref = view.maps.get(role)
        if ref is None:
            continue
        texels = view.map(ref)
        low, high = _span(texels.channel("r"))
        if high - low > _PLAIN:
            continue
        value = (low + high) / 2
        severity = Severity.NOTE if role is Role.METALLIC else Severity.WARNING
        word = "white" if value > 0.98 else "black" if value < 0.02 else f"{value:.3f}"
        message = f"{facts(role).label} is plain {word}: a constant of {value:.3g} does the same without a texture."
        found.append(
            view.found(
                "plain_channel", severity, ref, message, measure=high - low, threshold=_PLAIN,
                place=Place(0, 0, texels.width, texels.height, ref.channel or "r"),
            )
        )  # fmt: skip
    return found


def check_exchanged(view: SetView) -> list[Finding]:
    """roughness_metallic_exchanged: how much more extreme (near 0 or 1) roughness is than metallic, as shares.

    Metallic is nearly always close to 0 or 1 and roughness seldom (common practice). threshold: 0.5.
    """
    rough, metal = view.maps.get(Role.ROUGHNESS), view.maps.get(Role.METALLIC)
    if rough is None or metal is None:
        return []
    shares = []
    for ref in (rough, metal):
        values = to_unit(view.map(ref).channel("r"))
        shares.append(float(np.mean((values < _EXTREME) | (values > 1 - _EXTREME))))
    difference = shares[0] - shares[1]
    if difference <= 0.5:
        return []
    message = (
        f"{shares[0]:.0%} of roughness is near black or white but only {shares[1]:.0%} of metallic: "
        "the two are probably exchanged. Drag one onto the other to exchange them."
    )
    return [
        view.found("roughness_metallic_exchanged", Severity.ERROR, rough, message, measure=difference, threshold=0.5)
    ]


def check_alpha(view: SetView) -> list[Finding]:
    """hidden_alpha: span of an alpha channel that no map of the set uses; threshold: 1/255.

    A plain white alpha only costs memory (note); one with values in it is a mask that nobody opened (warning).
    """
    found = []
    used = {ref.file for ref in view.set.maps if ref.channel == "a"}
    seen: set[str] = set()
    for ref in view.maps.values():
        if ref.file in used or ref.file in seen:
            continue
        seen.add(ref.file)
        whole = view.library.texels(ref.file)
        if not whole.has_alpha or any(step.get("step") == "drop_alpha" for step in ref.recipe):
            continue
        finding = _alpha_finding(view, ref, whole)
        if finding is not None:
            found.append(finding)
    return found


def _alpha_finding(view: SetView, ref, whole: Texels) -> Finding | None:
    alpha = whole.channel("a")
    low, high = _span(alpha)
    remedy = None if ref.channel else {"step": "drop_alpha"}
    if high - low <= _STEP_ALPHA:
        message = f"An alpha channel that is plain ({low:.3g}): it costs memory and says nothing."
        return view.found(
            "plain_alpha", Severity.NOTE, ref, message, measure=high - low, threshold=_STEP_ALPHA, remedy=remedy
        )
    unit = to_unit(alpha)
    binary = float(np.mean((unit < 0.02) | (unit > 0.98)))
    kind = "only 0 and 1, like a cut-out" if binary > 0.98 else f"soft values ({1 - binary:.0%} between 0 and 1)"
    message = f"A mask hides in alpha: {kind}. Give it a role, or drop it."
    return view.found(
        "hidden_alpha", Severity.WARNING, ref, message, measure=high - low, threshold=_STEP_ALPHA, remedy=remedy,
        place=Place(0, 0, whole.width, whole.height, "a"),
    )  # fmt: skip


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
    levels = len(np.unique(plane))
    if levels > _EIGHT_BIT_LEVELS:
        return []
    message = f"Height has {levels} distinct values over {high - low:.0%} of its range: steps will show when displaced."
    return [view.found("height_steps", Severity.WARNING, ref, message, measure=levels, threshold=_EIGHT_BIT_LEVELS)]


def check_gloss(view: SetView) -> list[Finding]:
    """gloss_for_roughness: a set that has glossiness but no roughness. Nothing is measured.

    Targets that ask for roughness get 1 - glossiness, inverted exactly.
    """
    ref = view.maps.get(Role.GLOSSINESS)
    if ref is None or Role.ROUGHNESS in view.maps:
        return []
    message = "Gloss, not roughness: targets that ask for roughness get 1 - gloss."
    return [view.found("gloss_for_roughness", Severity.NOTE, ref, message)]
