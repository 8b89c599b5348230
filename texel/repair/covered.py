"""Which texels of a map a model uses, as a text that a recipe can hold."""

from __future__ import annotations

import base64
import binascii
import zlib

import cv2
import numpy as np
from numpy.typing import NDArray

from texel.errors import BadDocument

__all__ = ["LONGEST", "covered_from", "covered_text", "fitted_cover"]

# Characters; a layout of some hundred islands at 1024 texels takes ten to thirty thousand.
LONGEST = 400_000
_MAX_SIDE = 4096
_WHERE = "which texels are covered"


def covered_text(covered: NDArray[np.bool_]) -> str:
    """Bits, row by row, packed and compressed: "WIDTHxHEIGHT:" and base64 of a zlib stream. covered: shape (h, w).

    >>> text = covered_text(np.eye(3, dtype=bool))
    >>> text.split(":")[0], bool((covered_from(text) == np.eye(3, dtype=bool)).all())
    ('3x3', True)
    """
    height, width = covered.shape
    packed = zlib.compress(np.packbits(covered).tobytes(), 9)
    return f"{width}x{height}:{base64.b64encode(packed).decode('ascii')}"


def covered_from(text: str) -> NDArray[np.bool_]:
    """The texels of ``covered_text``. Raises BadDocument for any other text."""
    try:
        size, _, body = text.partition(":")
        width, height = (int(one) for one in size.split("x"))
        if len(text) > LONGEST or not (0 < width <= _MAX_SIDE and 0 < height <= _MAX_SIDE):
            raise ValueError("too large")
        wanted = -(-width * height // 8)
        # No more is unpacked than there has to be, whatever the stream holds.
        bits = zlib.decompressobj().decompress(base64.b64decode(body, validate=True), wanted)
        if len(bits) != wanted:
            raise ValueError("too short")
    except (ValueError, binascii.Error, zlib.error) as error:
        raise BadDocument("{where}: this is no such text ({error})", where=_WHERE, error=error) from None
    return np.unpackbits(np.frombuffer(bits, np.uint8), count=width * height).reshape(height, width).astype(bool)


def fitted_cover(covered: NDArray[np.bool_], width: int, height: int) -> NDArray[np.bool_]:
    """The same at another size: a texel counts where the nearest one does."""
    if covered.shape == (height, width):
        return covered
    made = cv2.resize(covered.astype(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST_EXACT)
    return np.asarray(made, bool)
