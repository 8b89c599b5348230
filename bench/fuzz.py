"""``./ft fuzz [SECONDS [SEED]]``: every reader on damaged files, in processes of their own; what ends one is kept.

A file is one that was written well, of every container and depth, with bytes changed, cut out, repeated, or cut off.
Readers may refuse it in words (UnreadableImage, TooLarge) or read it; anything else is a fault of ours.
"""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from texel.blocks import WRITABLE_FORMATS, format_named
from texel.blocks.encoding import encode_texture
from texel.errors import TexelError
from texel.files import probe, read
from texel.files.dds import build_dds
from texel.files.ktx2 import build_ktx2
from texel.files.writing import encode
from texel.image import Texels
from texel.roles import Role, Transfer

__all__ = ["main", "run", "seeds", "spoilt", "try_file"]

_BATCH = 60
_LONGEST = 120
# A signal, or what an interpreter gives back for an error that nobody caught.
_FINE = 0


def seeds() -> dict[str, bytes]:
    """Small sound files by name, of every container, channels and depth that we write."""
    rng, seeds_by_name = np.random.default_rng(0), {}
    for channels in ("y", "ya", "rgb", "rgba"):
        for dtype in (np.uint8, np.uint16, np.float32):
            values = rng.random((13, 17, len(channels)), np.float32)
            pixels = values if dtype is np.float32 else (values * np.iinfo(dtype).max).astype(dtype)
            texels = Texels(pixels, channels, Transfer.LINEAR, Role.ROUGHNESS, name="seed")
            for container in ("png", "tga", "exr", "tiff"):
                try:
                    seeds_by_name[f"{channels}{pixels.itemsize * 8}.{container}"] = encode(texels, container)
                except TexelError:
                    continue
    colour = Texels(rng.integers(0, 256, (13, 17, 4), np.uint8), "rgba", Transfer.SRGB, Role.BASE_COLOR, name="seed")
    for key in WRITABLE_FORMATS:
        format_ = format_named(key)
        if format_.family == "astc" and key not in ("astc_4x4", "astc_12x10"):
            continue
        texture = encode_texture(colour, format_, "quick")
        seeds_by_name[f"{key}.ktx2"], seeds_by_name[f"{key}_packed.ktx2"] = build_ktx2(texture), build_ktx2(texture, 3)
        if format_.dxgi[0] is not None:
            seeds_by_name[f"{key}.dds"] = build_dds(texture)
    return seeds_by_name


def spoilt(data: bytes, rng: random.Random) -> bytes:
    """The file with one to eight damages, most of them near its beginning, where headers are."""
    spoilt_data = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 3, 8))):
        if not spoilt_data:
            break
        at = min(len(spoilt_data) - 1, int(rng.random() ** rng.choice((1, 4)) * len(spoilt_data)))
        way = rng.randrange(6)
        if way == 0:
            spoilt_data[at] = rng.randrange(256)
        elif way == 1:
            spoilt_data[at] ^= 1 << rng.randrange(8)
        elif way == 2:
            odd = rng.choice((0, 1, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF, 0xFFFF, 65536))
            spoilt_data[at : at + 4] = odd.to_bytes(4, rng.choice(("little", "big")))
        elif way == 3:
            del spoilt_data[at : at + rng.randrange(1, 40)]
        elif way == 4:
            spoilt_data[at:at] = spoilt_data[at : at + rng.randrange(1, 40)]
        else:
            del spoilt_data[at:]
    return bytes(spoilt_data)


def try_file(path: Path) -> None:
    """Probe and read one file; refusals in words are fine, all else is raised."""
    for reader in (probe, read):
        try:
            reader(path)
        except TexelError:
            continue


def _batch(seed: int, folder: Path) -> None:
    """In a process of its own: some damaged files, each written down before it is tried."""
    rng, sound = random.Random(seed), seeds()
    for at in range(_BATCH):
        name = rng.choice(sorted(sound))
        path = folder / f"{seed}_{at}_{name}"
        path.write_bytes(spoilt(sound[name], rng))
        (folder / "at").write_text(path.name)
        try_file(path)
        path.unlink()


def run(seconds: float, seed: int = 1, kept: Path = Path("fuzz-found"), batches: int = 1) -> list[str]:
    """Batches until ``seconds`` are over, at least ``batches``; what ended one is kept in ``kept``, and told."""
    failures, end, last = [], time.monotonic() + seconds, seed + batches
    while True:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            command = [sys.executable, "-m", "bench.fuzz", "--batch", str(seed), name]
            try:
                done = subprocess.run(command, capture_output=True, text=True, timeout=_LONGEST)
                code, words = done.returncode, done.stderr.strip().splitlines()[-1:]
            except subprocess.TimeoutExpired:
                code, words = -1, [f"more than {_LONGEST} s"]
            if code != _FINE:
                at = (folder / "at").read_text()
                kept.mkdir(parents=True, exist_ok=True)
                (kept / at).write_bytes((folder / at).read_bytes())
                failures.append(f"{kept / at}: ended with {code}: {' '.join(words)}")
        seed += 1
        if seed >= last and time.monotonic() > end:
            return failures


def main(words: list[str]) -> int:
    """Prints what was found; 1 when a file ended its reader or was no refusal in words."""
    if words[:1] == ["--batch"]:
        _batch(int(words[1]), Path(words[2]))
        return 0
    seconds = float(words[0]) if words else 120
    failures = run(seconds, int(words[1]) if len(words) > 1 else random.randrange(1 << 30))
    print("\n".join(failures) or f"{seconds:g} s without a fault")
    return 1 if failures else 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
