"""Delivering 200 sets of 1024 x 1024, against a bare program that decodes, merges and encodes the same files.

Both use the same number of threads, in processes of their own. Then one set is changed and delivered again.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import imagecodecs
import numpy as np

from demo.patterns import noise

__all__ = ["run"]

_SETS = int(os.environ.get("BENCH_SETS", "200"))
_PLANNED, _SIDE, _THREADS, _DRAWN = 5000, 1024, 2, 4
_TARGET = "orm-y-plus"
_MAPS = ("bc", "nor_gl", "r", "ao", "m", "h")
# As the design asks for: full against bare; one changed set; a plan, seconds.
_MOST, _SHARE, _PLAN_SECONDS = 1.5, 0.02, 2.0


def _encode(pixels: np.ndarray) -> bytes:
    # The settings of texel.files for files that are kept.
    return bytes(imagecodecs.png_encode(np.ascontiguousarray(pixels), level=1, strategy=3, filter=16))


def _maps(seed: int) -> dict[str, np.ndarray]:
    """Six maps of a surface, drawn with fine noise, as photographs have it."""
    rng = np.random.default_rng(seed)
    relief = noise(_SIDE, seed)
    rough = np.clip(relief * 200 + rng.integers(0, 20, (_SIDE, _SIDE)), 0, 255).astype(np.uint8)
    colour = np.stack([rough, rough // 2 + 60, 255 - rough], axis=2)
    across, down = np.gradient(relief * 40)
    normal = np.stack([-down, across, np.ones_like(relief)], axis=2)
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    stored = np.rint((normal + 1) * 127.5).astype(np.uint8)
    shade = np.clip(rough.astype(np.int32) + 40, 0, 255).astype(np.uint8)
    metal = np.where(relief > 0.6, 255, 0).astype(np.uint8)
    height = np.rint(relief * 65535).astype(np.uint16)
    return dict(zip(_MAPS, (colour, stored, rough, shade, metal, height), strict=True))


def _draw(folder: Path) -> None:
    """All sets; a few are drawn, the others are those with another comment, so that each file has its own bytes."""
    drawn = [{word: _encode(pixels) for word, pixels in _maps(seed).items()} for seed in range(_DRAWN)]
    for number in range(_SETS):
        for word, data in drawn[number % _DRAWN].items():
            (folder / f"surface{number:03d}_{word}.png").write_bytes(_with_comment(data, number))


def _with_comment(data: bytes, number: int) -> bytes:
    import struct
    import zlib

    body = b"Comment\0" + str(number).encode()
    chunk = struct.pack(">I", len(body)) + b"tEXt" + body + struct.pack(">I", zlib.crc32(b"tEXt" + body))
    return data[:-12] + chunk + data[-12:]


def _bare_set(source: Path, out: Path, name: str) -> None:
    def read(word: str) -> np.ndarray:
        return imagecodecs.png_decode((source / f"{name}_{word}.png").read_bytes())

    folder = out / name
    folder.mkdir(parents=True)
    packed = cv2.merge([read("ao"), read("r"), read("m")])
    for word, pixels in (("color", read("bc")), ("normal", read("nor_gl")), ("orm", packed), ("height", read("h"))):
        (folder / f"{name}_{word}.png").write_bytes(_encode(pixels))


def _bare(source: Path, out: Path) -> float:
    names = sorted({path.name.split("_")[0] for path in source.iterdir()})
    start = time.perf_counter()
    with ThreadPoolExecutor(_THREADS) as pool:
        list(pool.map(lambda name: _bare_set(source, out, name), names))
    return time.perf_counter() - start


def _ours(source: Path, out: Path) -> float:
    from texel.delivery import plan_delivery, target_named
    from texel.delivery.incremental import deliver_incrementally
    from texel.library import Library
    from texel.sorting import sort_files

    # Sorting looks at every picture and is measured by itself (ft bench intake).
    library = Library.of_folder(source)
    sets, target = sort_files(library).sets, target_named(_TARGET)
    library = Library.of_folder(source)
    start = time.perf_counter()
    deliver_incrementally(lambda before: plan_delivery(sets, library, target, before), library, out)
    return time.perf_counter() - start


def _plan() -> float:
    """Seconds to plan 5000 sets whose directions and digests are known, against the delivery before."""
    from texel.delivery import plan_delivery, target_named
    from texel.library import Library
    from texel.roles import Green, Role
    from texel.sets import MapRef, TextureSet

    roles = (Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS, Role.OCCLUSION, Role.METALLIC, Role.HEIGHT)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for word, pixels in _maps(0).items():
            (folder / f"one_{word}.png").write_bytes(_encode(pixels))
        library = Library.of_folder(folder)
        refs = [MapRef(role, f"one_{word}.png") for role, word in zip(roles, _MAPS, strict=True)]
        order = [Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS, Role.OCCLUSION, Role.METALLIC, Role.HEIGHT]
        assert [ref.role for ref in refs] == order
        sets = [TextureSet(f"surface{number}", refs) for number in range(_PLANNED)]
        greens = {library.map_digest(refs[1]): (Green.UP, "pixels")}
        target = target_named(_TARGET)
        plan_delivery(sets[:10], library, target, None, greens)
        start = time.perf_counter()
        plan_delivery(sets, library, target, None, greens)
        return time.perf_counter() - start


def _apart(way: str, *paths: Path) -> float:
    """Seconds of a piece of work in a process of its own."""
    words = [sys.executable, "-m", "bench.delivery", way, *map(str, paths)]
    env = {**os.environ, "TEXEL_THREADS": str(_THREADS), "OMP_NUM_THREADS": str(_THREADS)}
    done = subprocess.run(words, capture_output=True, text=True, check=True, env=env)
    seconds: float = json.loads(done.stdout)
    return seconds


def run() -> bool:
    with tempfile.TemporaryDirectory() as name:
        root = Path(name)
        source = root / "in"
        source.mkdir()
        print(f"drawing {_SETS} sets of {_SIDE} x {_SIDE} ...", flush=True)
        _draw(source)
        pairs = []
        for turn in range(2):
            bare = _apart("bare", source, root / f"bare{turn}")
            pairs.append((bare, _apart("ours", source, root / f"ours{turn}")))
        ratio = statistics.median(ours / bare for bare, ours in pairs)
        full = statistics.median(ours for _, ours in pairs)
        one = source / "surface000_r.png"
        one.write_bytes(_with_comment(_encode(_maps(99)["r"]), 9999))
        again = _apart("ours", source, root / "ours1")
        single = full / _SETS
        plan = statistics.median(_apart("plan") for _ in range(3))
    print(f"full: {full:.1f} s, {ratio:.2f} of a bare program (wanted {_MOST})")
    print(f"one set changed: {again:.2f} s, wanted {_SHARE * full + single:.2f} (2 % of the full one, and one set)")
    print(f"plan of {_PLANNED} sets: {plan:.2f} s (wanted {_PLAN_SECONDS})")
    return ratio <= _MOST and again <= _SHARE * full + single and plan <= _PLAN_SECONDS


if __name__ == "__main__":
    way, *paths = sys.argv[1:]
    given = [Path(one) for one in paths]
    print(json.dumps(_plan() if way == "plan" else _bare(*given) if way == "bare" else _ours(*given)))
