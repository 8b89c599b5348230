"""Small pictures for tests, all seeded."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import numpy as np

from demo.patterns import noise
from texel.files import write
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Role, Transfer

EIGHT, SIXTEEN, FLOAT = np.dtype(np.uint8), np.dtype(np.uint16), np.dtype(np.float32)


def random_texels(channels: str, dtype=EIGHT, width=16, height=12, seed=0) -> Texels:
    values = np.random.default_rng(seed).random((height, width, len(channels)), np.float32)
    return Texels(narrow(values, np.dtype(dtype)), channels, Transfer.LINEAR)


def normal_texels(green=Green.UP, n=128, seed=3, strength=10.0, dtype=EIGHT) -> Texels:
    vectors = normals_from_height(noise(n, seed), strength, green)
    return Texels(narrow((vectors + 1) / 2, np.dtype(dtype)), "rgb", Transfer.LINEAR, Role.NORMAL)


def save(path: Path, texels: Texels) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    write(texels, path)
    return path


def png_chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def huge_png_header(width=100000, height=100000) -> bytes:
    """A PNG whose header asks for 100000 x 100000 texels; its data does not matter."""
    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + png_chunk(b"IHDR", head)
        + png_chunk(b"IDAT", zlib.compress(b"\0" * 9))
        + png_chunk(b"IEND", b"")
    )


def simple_set(folder: Path, stem: str, *, green=Green.UP, normal_word="n", n=64, seed=1) -> None:
    """Base colour, normal, roughness, metallic, occlusion and 16-bit height of one surface."""
    # Bright enough for a metal, dark enough for anything else.
    colour = 0.65 + 0.25 * np.random.default_rng(seed).random((n, n, 3), np.float32)
    save(folder / f"{stem}_bc.png", Texels(narrow(colour, EIGHT), "rgb", Transfer.SRGB))
    save(folder / f"{stem}_{normal_word}.png", normal_texels(green, n, seed))
    for word, number in (("r", 2), ("ao", 3)):
        save(
            folder / f"{stem}_{word}.png",
            Texels(narrow(0.2 + 0.6 * noise(n, seed + number)[:, :, None], EIGHT), "y", Transfer.LINEAR),
        )
    metal = (noise(n, seed + 4) > 0.6).astype(np.float32)
    save(folder / f"{stem}_m.png", Texels(narrow(metal[:, :, None], EIGHT), "y", Transfer.LINEAR))
    save(folder / f"{stem}_h.png", Texels(narrow(noise(n, seed + 5)[:, :, None], SIXTEEN), "y", Transfer.LINEAR))
