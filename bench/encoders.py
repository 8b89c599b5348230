"""Encoders: megapixels a second with one and two threads, and the error beside it, against the library called bare."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import etcpak
import ispc_texcomp
import numpy as np
import quicktex
from quicktex.s3tc import bc1, bc5

from demo.surfaces import SURFACES
from texel.blocks import FORMATS, decode_level
from texel.blocks.encoding import QUALITIES, encode_level

__all__ = ["run"]

_SIDE, _RUNS, _WANTED = 1024, 3, 1.1
_FORMATS = ("bc1", "bc3", "bc4", "bc5", "bc6h", "bc7", "etc2", "etc2a", "astc_4x4", "astc_6x6", "astc_8x8")
Pixels = np.ndarray[Any, np.dtype[Any]]


def _seconds(work: Callable[[], Any]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _surface(pixels: Pixels) -> Any:
    return ispc_texcomp.RGBASurface(pixels.tobytes(), pixels.shape[1], pixels.shape[0])


def _raw(pixels: Pixels) -> Any:
    return quicktex.RawTexture.frombytes(pixels.tobytes(), pixels.shape[1], pixels.shape[0])


_BARE: dict[tuple[str, str], Callable[[Pixels], Any]] = {
    ("bc1", "normal"): lambda p: bc1.BC1Encoder(5).encode(_raw(p)).tobytes(),
    ("bc5", "normal"): lambda p: bc5.BC5Encoder(0, 1).encode(_raw(p)).tobytes(),
    ("bc7", "quick"): lambda p: ispc_texcomp.compress_blocks_bc7(
        _surface(p), ispc_texcomp.BC7EncSettings.from_profile("alpha_ultrafast")
    ),
    ("etc2a", "normal"): lambda p: etcpak.compress_etc2_rgba(p.tobytes(), p.shape[1], p.shape[0]),
}


def _line(key: str, quality: str, given: Pixels) -> tuple[str, float | None]:
    """What is printed of a format at a quality, and the ratio to the library alone where that is called bare."""
    format_ = FORMATS[key]
    height, width = given.shape[:2]
    megapixels = width * height / 1e6

    def ours(threads: int = 1) -> bytes:
        return encode_level(given, format_, quality, threads)

    one, two = (statistics.median(_seconds(partial(ours, n)) for _ in range(_RUNS)) for n in (1, 2))
    back = decode_level(ours(), format_, width, height)
    count = min(3, back.shape[2])
    decoded = back[:, :, :count] / (1 if format_.bits == 32 else 255)
    psnr = -10 * np.log10(np.mean((decoded - given[:, :, :count] / 255) ** 2))
    line = f"{key:<9} {quality:<7} {megapixels / one:7.2f} Mpx/s, two threads {megapixels / two:7.2f}   {psnr:5.2f} dB"
    bare = _BARE.get((key, quality))
    if bare is None:
        return line, None
    pairs = [(_seconds(ours), _seconds(partial(bare, given))) for _ in range(_RUNS)]
    ratio = statistics.median(a / b for a, b in pairs)
    return f"{line}   over the library alone {ratio:.2f} (wanted at most {_WANTED})", ratio


def run() -> bool:
    """Print a line a format and quality; whether ours, on one thread, takes at most 1.1 times the library alone."""
    surface = SURFACES["slate_pier"](_SIDE)
    values = np.clip(np.dstack([surface.colour, surface.height]), 0, 1)
    pixels = np.ascontiguousarray(np.round(values * 255).astype(np.uint8))
    good = True
    for key in _FORMATS:
        for quality in QUALITIES:
            line, ratio = _line(key, quality, pixels[:256, :256].copy() if quality == "best" else pixels)
            good = good and (ratio is None or ratio <= _WANTED)
            print(line, flush=True)
    return good
