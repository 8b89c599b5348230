"""Checks of normal maps: green's direction against the name, length of the vectors, blue."""

from __future__ import annotations

import cv2
import numpy as np

from texel.checks.finding import Finding, Place, SetView, Severity
from texel.library import named_green
from texel.normals.direction import find_direction
from texel.normals.vectors import decode, lengths
from texel.roles import Green, Role

__all__ = ["check_direction", "check_lengths"]

_SAYS = {Green.UP: "Y+", Green.DOWN: "Y-"}
# 8-bit rounding alone changes a length by up to sqrt(3)/255 = 0.007; four times that is no rounding any more.
_LENGTH_OFF = 0.03
_SHARE_OFF = 0.01
# A map made without its third component, or with a picture in the normal role, is off nearly everywhere.
_WINDOW = 64


def check_direction(view: SetView) -> list[Finding]:
    """direction_against_name: the pixels' green direction against the one in the file name.

    measure: correlation of the slopes' cross derivatives as read in the claimed direction (-1 opposite, +1 agreeing);
    threshold: 0. Also notes a direction that neither name nor pixels tell.
    """
    ref = view.maps.get(Role.NORMAL)
    if ref is None:
        return []
    texels = view.map(ref)
    if texels.channels[0] == "y":
        return []
    measured = find_direction(texels)
    # What the map should be is what its name says; a flip in the recipe makes the pixels follow.
    claimed = named_green(ref.file)
    if claimed in _SAYS and measured.green not in (Green.UNKNOWN, claimed):
        agreement = measured.correlation if claimed is Green.UP else -measured.correlation
        message = (
            f"The name says {_SAYS[claimed]}, the pixels say {_SAYS[measured.green]} "
            f"(confidence {measured.confidence:.0%}): dents would look like bumps."
        )
        return [
            view.found(
                "direction_against_name", Severity.ERROR, ref, message,
                measure=agreement, threshold=0.0, remedy={"step": "flip_green"}, place=_relief(texels),
            )
        ]  # fmt: skip
    if claimed is None and measured.green is Green.UNKNOWN:
        message = "Neither the name nor the pixels tell the direction of green; the target's own is assumed."
        return [
            view.found(
                "direction_unknown", Severity.NOTE, ref, message, measure=abs(measured.correlation), threshold=0.15
            )
        ]
    return []


def _relief(texels) -> Place:
    """The window with the strongest slopes in y, where a flipped direction shows best."""
    y = np.abs(decode(texels)[:, :, 1])
    return _strongest(y, "g")


def _strongest(amount: np.ndarray, channel: str | None) -> Place:
    height, width = amount.shape
    side = max(1, min(_WINDOW, height, width))
    mean = cv2.resize(
        amount.astype(np.float32), (max(1, width // side), max(1, height // side)), interpolation=cv2.INTER_AREA
    )
    row, column = np.unravel_index(int(mean.argmax()), mean.shape)
    return Place(int(column) * side, int(row) * side, side, side, channel)


def check_lengths(view: SetView) -> list[Finding]:
    """not_unit_length: share of the vectors whose length is off by more than 0.03; threshold: 0.01.

    A blue channel that is plain is named as the cause, with the remedy that rebuilds it.
    """
    ref = view.maps.get(Role.NORMAL)
    if ref is None:
        return []
    texels = view.map(ref)
    if len(texels.channels.removesuffix("a")) == 2:
        message = "The map has two channels; blue must be rebuilt for whoever reads three."
        return [view.found("two_channel_normal", Severity.NOTE, ref, message, remedy={"step": "z_from_xy"})]
    if texels.channels[0] == "y":
        message = "A grey picture in the normal role: it holds no vectors."
        return [view.found("not_a_normal_map", Severity.ERROR, ref, message, measure=1, threshold=3)]
    vectors = decode(texels)
    off = np.abs(lengths(vectors) - 1)
    share = float(np.mean(off > _LENGTH_OFF))
    if share <= _SHARE_OFF:
        return []
    blue = texels.channel("b")
    place = _strongest(off, None)
    if blue.min() == blue.max():
        message = f"Blue is plain ({blue.flat[0]}) and {share:.1%} of the vectors are not of unit length."
        remedy = {"step": "z_from_xy"}
    elif share > 0.6 and float(vectors[:, :, 2].mean()) < 0.4:
        message = f"{share:.1%} of the vectors are not of unit length and blue is low: this may be no normal map."
        return [
            view.found(
                "not_a_normal_map", Severity.ERROR, ref, message, measure=share, threshold=_SHARE_OFF, place=place
            )
        ]
    else:
        message = (
            f"{share:.1%} of the vectors are off unit length by more than {_LENGTH_OFF}: lighting comes out uneven."
        )
        remedy = {"step": "renormalise"}
    return [
        view.found(
            "not_unit_length", Severity.WARNING, ref, message,
            measure=share, threshold=_SHARE_OFF, remedy=remedy, place=place,
        )
    ]  # fmt: skip
