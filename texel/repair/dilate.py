"""Colour under alpha: what lies beyond the edge of a cut-out bleeds in when the picture is filtered or made smaller."""

from __future__ import annotations

import cv2
import numpy as np

from texel.image import Pixels
from texel.strips import filled

__all__ = ["dilate_under_alpha"]


def dilate_under_alpha(colour: Pixels, alpha: Pixels, threshold: float = 0.5) -> Pixels:
    """``colour``, shape (h, w, c), with every texel whose alpha, shape (h, w), 0 to 1, is below ``threshold`` given the
    colour of the nearest texel that is not. Unchanged when all or none are.
    """
    outside = (alpha < threshold).astype(np.uint8)
    if not outside.any() or outside.all():
        return colour
    _, labels = cv2.distanceTransformWithLabels(outside, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    inside = outside == 0
    # Label by label, where its zero texel lies.
    place = np.zeros(int(labels.max()) + 1, np.int32)
    place[labels[inside]] = np.flatnonzero(inside)
    texels = np.ascontiguousarray(colour).reshape(-1, colour.shape[2])
    return filled(colour.shape, colour.dtype, lambda rows: texels.take(place[labels[rows]], axis=0))
