"""Work on whole maps against the same in plain NumPy and OpenCV, in one process: time and memory."""

from __future__ import annotations

import ctypes
import gc
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import cv2
import numpy as np

from bench import references as plain
from demo.patterns import noise
from texel.channels import layout_named, pack
from texel.image import Texels, narrow
from texel.mips import right_chain
from texel.normals.from_height import normals_from_height
from texel.recipes import apply_recipe
from texel.recipes.step import Context
from texel.roles import Role, Transfer

__all__ = ["run"]

_SIDES, _RUNS, _WANTED_TIME, _WANTED_MEMORY = (2048, 4096), 5, 1.1, 1.5
_EIGHT = np.dtype(np.uint8)
# Seconds that reading a recipe takes, whatever the map's size.
_PARSING = 0.0005
_MIB = 1024 * 1024
Maps = dict[str, Texels]
Pixels = np.ndarray[Any, np.dtype[Any]]


def _maps(side: int) -> Maps:
    relief = np.tile(noise(1024, 4, 0.8, 8), (side // 1024, side // 1024))
    vectors = normals_from_height(relief, 12)
    colour = np.clip(np.dstack([relief, relief * 0.8 + 0.1, 1 - relief]), 0, 1).astype(np.float32)
    stepped = np.round(np.tile(noise(1024, 3, 1.8), (side // 1024, side // 1024)) * 40) / 40
    grey = narrow(relief[:, :, None], _EIGHT)
    return {
        "normal": Texels(narrow((vectors + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR, Role.NORMAL),
        "colour": Texels(narrow(colour, _EIGHT), "rgb", Transfer.SRGB, Role.BASE_COLOR),
        "grey": Texels(grey, "y", Transfer.LINEAR, Role.ROUGHNESS),
        "stepped": Texels(narrow(stepped[:, :, None].astype(np.float32), _EIGHT), "y", Transfer.LINEAR, Role.HEIGHT),
    }


class _Case(NamedTuple):
    """ours, theirs: the same work; apart: how far it may lie from the reference, in steps of 8 bits, at the 99.9th
    percentile."""

    name: str
    ours: Callable[[Maps], Texels]
    theirs: Callable[[Maps], Pixels]
    apart: float = 2.0


def _step(which: str, **step: Any) -> Callable[[Maps], Texels]:
    return lambda maps: apply_recipe(maps[which], [step])


def _on(which: str, work: Callable[[Pixels], Pixels]) -> Callable[[Maps], Pixels]:
    def theirs(maps: Maps) -> Pixels:
        pixels = maps[which].pixels
        return work(pixels if pixels.shape[2] > 1 else pixels[:, :, 0])

    return theirs


def _packed(maps: Maps) -> Texels:
    grey = maps["grey"]
    return pack(layout_named("orm"), dict.fromkeys((Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC), grey))


def _combined(maps: Maps) -> Texels:
    context = Context(other=lambda name: maps["normal"])
    return apply_recipe(maps["normal"], [{"step": "combine_normal"}], context)


def _resized(which: str, size: Callable[[int], int]) -> Callable[[Maps], Texels]:
    def ours(maps: Maps) -> Texels:
        side = size(maps[which].width)
        return apply_recipe(maps[which], [{"step": "resize", "width": side, "height": side}])

    return ours


_CASES = (
    _Case("pack", _packed, lambda maps: plain.pack(*(maps["grey"].pixels,) * 3)),
    _Case("invert", _step("grey", step="invert"), _on("grey", cv2.bitwise_not)),
    _Case("levels", _step("colour", step="levels", black=0.2, gamma=2), _on("colour", plain.lut(plain.levels))),
    _Case("power", _step("grey", step="power", exponent=2), _on("grey", plain.lut(lambda v: v**2))),
    _Case(
        "take a channel",
        _step("colour", step="extract_channel", channel="g"),
        _on("colour", lambda p: cv2.extractChannel(p, 1)),
    ),
    _Case("exchange channels", _step("colour", step="exchange_channels"), _on("colour", plain.exchange)),
    _Case("flip green", _step("normal", step="flip_green"), _on("normal", plain.flip)),
    _Case("renormalise", _step("normal", step="renormalise"), _on("normal", plain.renormalise)),
    _Case("strength", _step("normal", step="normal_strength", strength=2), _on("normal", plain.strength)),
    _Case("combine normals", _combined, lambda maps: plain.combine(maps["normal"].pixels, maps["normal"].pixels)),
    _Case("normal from height", _step("grey", step="normal_from_height"), _on("grey", plain.normal_from_height)),
    _Case(
        "height from normal",
        _step("normal", step="height_from_normal", green_is="up"),
        _on("normal", plain.height_from_normal),
    ),
    _Case("halve colour", _resized("colour", lambda side: side // 2), _on("colour", plain.halve_colour)),
    _Case("colour to 1000", _resized("colour", lambda side: 1000), _on("colour", plain.shrink_colour)),
    # Another Lanczos: OpenCV's has three lobes to ours of four.
    _Case("double colour", _resized("colour", lambda side: 2 * side), _on("colour", plain.double_colour), 8),
    _Case("double normals", _resized("normal", lambda side: 2 * side), _on("normal", plain.double_normal), 8),
    _Case("mips of colour", lambda maps: right_chain(maps["colour"])[1], _on("colour", plain.mips)),
    _Case("occlusion", _step("grey", step="occlusion_from_height"), _on("grey", plain.occlusion)),
    _Case("make tileable", _step("colour", step="make_tileable"), _on("colour", plain.make_tileable)),
    # The reference knows the step; ours takes what 8 bits show of it.
    _Case("smooth the steps", _step("stepped", step="dequantise"), _on("stepped", plain.smooth_steps), 5),
)


def _status(name: str) -> int:
    """A figure of this process that Linux keeps in kilobytes, in bytes."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith(name + ":")) * 1024


def _measured(work: Callable[[], Any]) -> tuple[float, int, Any]:
    """Seconds, the most memory that it took beyond what was there before, and what it made."""
    gc.collect()
    # What was freed goes back to the system, or it would be used again unseen.
    ctypes.CDLL("libc.so.6").malloc_trim(0)
    Path("/proc/self/clear_refs").write_text("5")
    before, start = _status("VmRSS"), time.perf_counter()
    made = work()
    return time.perf_counter() - start, max(1, _status("VmHWM") - before), made


def _line(case: _Case, side: int, maps: Maps) -> bool:
    pairs = []
    for _ in range(_RUNS + 1):
        ours, memory, made = _measured(lambda: case.ours(maps))
        theirs, plain_memory, wanted = _measured(lambda: case.theirs(maps))
        pairs.append((ours, theirs, memory, plain_memory))
    # The first pair fills caches and tables.
    ours, theirs, memory, plain_memory = (statistics.median(column) for column in zip(*pairs[1:], strict=True))
    ratio = statistics.median(a / b for a, b, *_ in pairs[1:])
    share = (memory + 4 * _MIB) / (plain_memory + 4 * _MIB)
    off = np.abs(made.pixels.reshape(wanted.shape).astype(np.float32) - wanted) / (257 if made.bits == 16 else 1)
    apart = float(np.percentile(off[:: max(1, side // 1024)], 99.9))
    quick = ratio <= _WANTED_TIME or ours - theirs <= _PARSING
    fine = quick and share <= _WANTED_MEMORY and apart <= case.apart
    print(
        f"{case.name:<19}{side:>5} {ours * 1000:8.1f} ms  plain {theirs * 1000:8.1f} ms  {ratio:5.2f}"
        f"   {memory / _MIB:6.0f} MiB  plain {plain_memory / _MIB:6.0f} MiB  {share:5.2f}   {apart:.2f} steps apart"
        f"{'' if fine else '   NOT AS WANTED'}",
        flush=True,
    )
    return fine


def run() -> bool:
    """Print a line a piece of work and size; whether all are within the wanted ratios and near the reference."""
    print(
        f"maps in memory, medians of {_RUNS} pairs in turn; plain: NumPy {np.__version__}, OpenCV {cv2.__version__}; "
        f"wanted at most {_WANTED_TIME} in time and {_WANTED_MEMORY} in memory"
    )  # fmt: skip
    good = True
    for side in _SIDES:
        maps = _maps(side)
        for case in _CASES:
            good = _line(case, side, maps) and good
    return good
