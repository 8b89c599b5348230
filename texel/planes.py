"""Pictures taken apart into one plane a channel, and put together: planes are worked on faster than tuples."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Plane", "joined", "planes_of"]

Plane = NDArray[np.float32]


def planes_of(picture: NDArray[np.float32]) -> tuple[Plane, ...]:
    """The channels of a picture of shape (h, w, n), each of shape (h, w)."""
    return tuple(np.asarray(plane, np.float32) for plane in cv2.split(picture))


def joined(*parts: NDArray[np.float32]) -> NDArray[np.float32]:
    """Planes, or pictures of several channels, as one picture."""
    return np.asarray(cv2.merge(parts), np.float32)
