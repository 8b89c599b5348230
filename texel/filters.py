"""A Gaussian blur that knows what lies beyond the border."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["blur"]


def blur(field: NDArray[np.float32], sigma: float, wrap: bool = True) -> NDArray[np.float32]:
    """Gaussian mean of a field, shape (h, w), with ``sigma`` in texels; beyond the border it repeats or goes on as is.

    Wider than a quarter of the field, sigma acts on the field once around only.
    """
    reach = min(int(sigma * 3) + 1, *field.shape)
    border = cv2.BORDER_WRAP if wrap else cv2.BORDER_REPLICATE
    padded = cv2.copyMakeBorder(field.astype(np.float32), reach, reach, reach, reach, border)
    return np.asarray(cv2.GaussianBlur(padded, (0, 0), sigma)[reach:-reach, reach:-reach], np.float32)
