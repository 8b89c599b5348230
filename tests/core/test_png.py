"""Deflated bands of a PNG against Python's own zlib (RFC 1950, RFC 1951)."""

import zlib

import numpy as np
import pytest

from texel.files.png import _filtered, _packed, pieces

_RNG = np.random.default_rng(3)
_PICTURES = {
    "noise of 8 bits": _RNG.integers(0, 256, (70, 90, 3), dtype=np.uint8),
    "noise of 16 bits": _RNG.integers(0, 65536, (70, 90, 4), dtype=np.uint16),
    "a ramp": np.arange(90 * 70, dtype=np.uint16).reshape(70, 90, 1),
    "one value": np.full((70, 90, 2), 9, np.uint8),
    "one texel": np.zeros((1, 1, 1), np.uint8),
}


@pytest.mark.parametrize("pixels", _PICTURES.values(), ids=_PICTURES.keys())
@pytest.mark.parametrize("rows", [30, 100])
def test_a_band_is_deflated_to_the_bytes_of_zlib(pixels, rows):
    lines = _filtered(pixels[:rows]).tobytes()
    packer = zlib.compressobj(1, zlib.DEFLATED, -15, 9, zlib.Z_RLE)
    wanted = packer.compress(lines) + packer.flush(zlib.Z_FINISH if rows >= len(pixels) else zlib.Z_SYNC_FLUSH)
    assert _packed(pixels, 0, rows) == (wanted, zlib.adler32(lines), len(lines))


def test_chunks_carry_the_checksum_of_the_standard():
    whole = b"".join(pieces(_PICTURES["a ramp"], [(b"gAMA", b"\0\0\xb1\x8f")]))
    at = whole.index(b"gAMA")
    assert whole[at + 8 : at + 12] == zlib.crc32(whole[at : at + 8]).to_bytes(4)
