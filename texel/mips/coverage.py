"""Cut-outs that keep their share of visible texels at a distance (Castano 2010)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["coverage", "keep_coverage"]

Field = NDArray[np.float32]


def coverage(alpha: Field, cut_off: float) -> float:
    """The share of texels that a cut-out shows: alpha at or above the cut-off (glTF 2.0, alphaMode MASK)."""
    return float(np.mean(alpha >= cut_off))


def keep_coverage(alpha: Field, wanted: float, cut_off: float) -> Field:
    """Alpha, 0 to 1, scaled so that the share ``wanted`` of its texels reaches the cut-off, as near as may be.

    Castano 2010 ("Computing Alpha Mipmaps") finds by bisection the reference value that gives the wanted share, and
    scales by cut-off / reference; here the reference is read off the sorted values, which is the same one exactly.
    """
    shown = round(wanted * alpha.size)
    if shown == 0 or shown == alpha.size or float(alpha.max()) <= 0:
        return alpha
    reference = float(np.partition(alpha.ravel(), alpha.size - shown)[alpha.size - shown])
    # Many texels may share that value: then the next larger one may come nearer to the share.
    larger = alpha[alpha > reference]
    if larger.size and abs(larger.size / alpha.size - wanted) < abs(coverage(alpha, reference) - wanted):
        reference = float(larger.min())
    if reference <= 0:
        return alpha
    # A hair above, so that rounding to stored numbers does not drop the texel that decides.
    made: Field = np.clip(alpha * np.float32((cut_off + 1e-3) / reference), 0, 1)
    return made
