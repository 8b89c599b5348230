"""Faults planted into somebody else's maps: a folder with a truth file beside it, DIR.truth.json.

{"set": {"role": "file" or "file#r"}}. The sets are taken as the truth has them; what a check says of them before
anything was planted is not counted, since nobody knows whether it is right.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import cv2
import imagecodecs
import numpy as np

from bench.labelled import MemoryLibrary
from texel.checks import Severity, judge_set
from texel.derive.hollows import shade_of_hollows
from texel.files import read
from texel.image import ColourTags, Texels, narrow, to_unit
from texel.normals.direction import find_direction
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef, TextureSet

__all__ = ["run"]

_LEAST = 0.95
_EIGHT = np.dtype(np.uint8)
Maps = dict[Role, Texels]
Fault = Callable[[Maps], Maps | None]
# What follows from a planted fault and is rightly told with it. A map that was drawn anew may well not tile any more,
# so seams are never counted against a fault.
_FOLLOWS = {
    "not_a_normal_map": {"normal_strength", "not_unit_length", "twin_maps", "direction_against_name"},
    "normal_strength": {"not_unit_length", "direction_against_name"},
    "not_unit_length": {"normal_strength"},
    "sizes_differ": {"upscaled", "not_unit_length", "normal_strength"},
    "not_multiple_of_four": {"not_power_of_two", "not_unit_length", "normal_strength"},
    "lossy_data": {"not_unit_length", "normal_strength"},
    "metallic_mid_grey": {"implausible_colour", "twin_maps"},
    "roughness_metallic_exchanged": {"metallic_mid_grey", "implausible_colour"},
    "implausible_colour": {"baked_light", "upscaled"},
    "grey_colour": {"implausible_colour", "upscaled", "baked_light"},
    "twin_maps": {"baked_light"},
    "seam": {"implausible_colour", "specular_workflow"},
}


def _grey(values: np.ndarray) -> Texels:
    return Texels(narrow(np.asarray(values, np.float32)[:, :, None], _EIGHT), "y", Transfer.LINEAR)


def _plane(texels: Texels, like: Texels | None = None) -> np.ndarray:
    values = np.ascontiguousarray(to_unit(texels.pixels)[:, :, 0])
    return values if like is None else cv2.resize(values, (like.width, like.height), interpolation=cv2.INTER_AREA)


def _rgb(texels: Texels) -> np.ndarray:
    values = to_unit(texels.pixels)
    return values[:, :, :3] if values.shape[2] >= 3 else np.repeat(values[:, :, :1], 3, axis=2)


def _colour(values: np.ndarray) -> Texels:
    return Texels(narrow(np.clip(values, 0, 1).astype(np.float32), _EIGHT), "rgb", Transfer.SRGB)


def _slopes(normal: Texels, factor: float) -> Texels:
    vectors = _rgb(normal) * 2 - 1
    vectors[:, :, :2] *= factor
    vectors /= np.maximum(np.linalg.norm(vectors, axis=2, keepdims=True), 1e-6)
    return Texels(narrow((vectors + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR)


def _changed(maps: Maps, role: Role, make: Callable[[Texels], Texels | None]) -> Maps | None:
    made = make(maps[role]) if role in maps else None
    return None if made is None else {**maps, role: made}


def _sound_normal(maps: Maps) -> bool:
    return Role.NORMAL in maps and find_direction(maps[Role.NORMAL]).green is not Green.UNKNOWN


def _flip(maps: Maps) -> Maps | None:
    def turned(normal: Texels) -> Texels:
        values = _rgb(normal).copy()
        values[:, :, 1] = 1 - values[:, :, 1]
        return Texels(narrow(values, _EIGHT), "rgb", Transfer.LINEAR)

    return _changed(maps, Role.NORMAL, turned) if _sound_normal(maps) else None


def _short(maps: Maps) -> Maps | None:
    def blurred(normal: Texels) -> Texels:
        values = _rgb(_slopes(normal, 3)) * 2 - 1
        return Texels(narrow((cv2.blur(values, (9, 9)) + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR)

    shortened = _changed(maps, Role.NORMAL, blurred) if _sound_normal(maps) else None
    if shortened is None:
        return None
    length = np.linalg.norm(_rgb(shortened[Role.NORMAL]) * 2 - 1, axis=2)
    # Where the relief is too weak nothing gets shorter, and there is no fault to find.
    return shortened if float(np.mean(length < 0.95)) > 0.03 else None


def _steep(maps: Maps) -> Maps | None:
    """Slopes sixty times as steep, where that leaves anything upright to be told from."""
    steep = _changed(maps, Role.NORMAL, lambda normal: _slopes(normal, 60)) if _sound_normal(maps) else None
    if steep is None:
        return None
    upright = _rgb(steep[Role.NORMAL])[:, :, 2] * 2 - 1
    return steep if float(np.mean(upright < 0.5)) > 0.5 else None


def _dark(colour: Texels) -> Texels | None:
    return _colour(_rgb(colour) * 0.12) if float(_rgb(colour).mean()) > 0.02 else None


def _baked(maps: Maps) -> Maps | None:
    height = maps.get(Role.HEIGHT)
    colour = maps.get(Role.BASE_COLOR)
    if height is None or colour is None:
        return None
    openness = shade_of_hollows(_plane(height, colour))
    if float(openness.std()) < 0.04:
        return None
    linear = np.clip(_rgb(colour), 0, 1) ** 2.2 * openness[:, :, None]
    return {**maps, Role.BASE_COLOR: _colour(linear ** (1 / 2.2)), Role.OCCLUSION: _grey(openness)}


def _scalar_as_colour(maps: Maps) -> Maps | None:
    role = next((r for r in (Role.HEIGHT, Role.ROUGHNESS, Role.OCCLUSION, Role.GLOSSINESS) if r in maps), None)
    if role is None or _plane(maps[role]).std() < 0.02:
        return None
    return {**maps, Role.BASE_COLOR: _colour(np.repeat(_plane(maps[role])[:, :, None] * 0.7 + 0.15, 3, axis=2))}


def _resized(texels: Texels, width: int, height: int, how: int = cv2.INTER_AREA) -> Texels:
    pixels = cv2.resize(texels.pixels, (width, height), interpolation=how)
    return texels.with_pixels(pixels.reshape(height, width, -1))


def _upscaled(colour: Texels) -> Texels | None:
    if min(colour.width, colour.height) < 128 or _rgb(colour).std() < 0.02:
        return None
    small = _resized(colour, colour.width // 2, colour.height // 2)
    upscaled = _resized(small, colour.width, colour.height, cv2.INTER_CUBIC)
    # A picture that holds nothing fine loses nothing.
    return upscaled if float(np.abs(_rgb(upscaled) - _rgb(colour)).mean()) > 2 / 255 else None


def _slanted(maps: Maps) -> Maps | None:
    """Light from the side over a colour that tiled, in a set whose other maps tile; where the step at the border stands
    out from the lines that are painted in the picture, since else nobody sees it."""
    colour, normal = maps.get(Role.BASE_COLOR), maps.get(Role.NORMAL)
    if colour is None or normal is None or not (_tiles(colour) and _tiles(normal)):
        return None
    x = np.linspace(0, 1, colour.width, dtype=np.float32)[None, :, None]
    slanted = _colour(_rgb(colour) * (0.5 + x))
    inside, across = _steps(slanted)
    return {**maps, Role.BASE_COLOR: slanted} if across > 1.5 * inside else None


def _steps(texels: Texels) -> tuple[float, float]:
    """The largest mean step between neighbouring columns, and the one from the last to the first."""
    values = _rgb(texels)
    inside = np.abs(np.diff(values, axis=1)).mean(axis=(0, 2)).max()
    return float(inside), float(np.abs(values[:, 0] - values[:, -1]).mean())


def _tiles(texels: Texels) -> bool:
    inside, across = _steps(texels)
    return across <= inside and float(_rgb(texels)[:, 0].std()) > 0.03


def _jpeg(normal: Texels) -> Texels:
    pixels = imagecodecs.jpeg8_encode(np.ascontiguousarray(normal.pixels[:, :, :3]), level=75)
    return Texels(np.asarray(imagecodecs.jpeg8_decode(pixels)), "rgb", Transfer.LINEAR)


def _masked(colour: Texels) -> Texels | None:
    if colour.has_alpha:
        return None
    grey = _rgb(colour).mean(axis=2)
    if float((grey > np.median(grey)).std()) < 0.05:
        return None
    mask = narrow((grey > np.median(grey)).astype(np.float32)[:, :, None], _EIGHT)
    return Texels(np.concatenate([_colour(_rgb(colour)).pixels, mask], axis=2), "rgba", Transfer.SRGB)


def _packed(rough: Texels) -> Texels:
    values = _plane(rough)
    return Texels(
        narrow(np.stack([np.ones_like(values), values, values > 0.5], axis=2), _EIGHT), "rgb", Transfer.LINEAR
    )


def _one(role: Role, make: Callable[[Texels], Texels | None]) -> Fault:
    return lambda maps: _changed(maps, role, make)


def _with_any(maps: Maps, wanted: tuple[Role, ...], make: Callable[[Texels], Texels | None]) -> Maps | None:
    role = next((r for r in wanted if r in maps), None)
    return None if role is None else _changed(maps, role, make)


def _exchange(maps: Maps) -> Maps | None:
    if Role.ROUGHNESS not in maps or Role.METALLIC not in maps or _plane(maps[Role.ROUGHNESS]).std() < 0.02:
        return None
    metal = _plane(maps[Role.METALLIC])
    if metal.std() < 0.1:
        return None
    return {**maps, Role.ROUGHNESS: maps[Role.METALLIC], Role.METALLIC: maps[Role.ROUGHNESS]}


_SCALARS = (Role.ROUGHNESS, Role.GLOSSINESS, Role.HEIGHT, Role.OCCLUSION)
_FAULTS: dict[str, Fault] = {
    "direction_against_name": _flip,
    "not_unit_length": _short,
    "normal_strength": _steep,
    "two_channel_normal": _one(
        Role.NORMAL, lambda n: n.with_pixels(np.ascontiguousarray(n.pixels[:, :, :2]), "rg")
    ),
    "not_a_normal_map": lambda maps: {**maps, Role.NORMAL: _colour(_rgb(maps[Role.BASE_COLOR]))}
    if Role.NORMAL in maps and Role.BASE_COLOR in maps
    else None,
    "roughness_metallic_exchanged": _exchange,
    "metallic_mid_grey": _one(Role.METALLIC, lambda m: _grey(0.3 + 0.4 * _plane(m))),
    "plain_channel": lambda maps: _with_any(maps, _SCALARS, lambda m: _grey(np.full((m.height, m.width), 0.8))),
    "unlike_channels": lambda maps: _with_any(maps, _SCALARS, lambda m: _packed(m) if _plane(m).std() > 0.02 else None),
    "twin_maps": lambda maps: {**maps, Role.OCCLUSION: _grey(_plane(maps[Role.HEIGHT]))}
    if Role.HEIGHT in maps and _plane(maps[Role.HEIGHT]).std() > 0.02
    else None,
    "implausible_colour": lambda maps: None if Role.SPECULAR in maps else _changed(maps, Role.BASE_COLOR, _dark),
    "baked_light": _baked,
    "grey_colour": _scalar_as_colour,
    "hidden_alpha": _one(Role.BASE_COLOR, _masked),
    "upscaled": _one(Role.BASE_COLOR, _upscaled),
    "sizes_differ": lambda maps: _changed(maps, Role.NORMAL, lambda n: _resized(n, n.width // 2, n.height // 2)),
    "not_multiple_of_four": lambda maps: {r: _resized(t, t.width - 6, t.height - 6) for r, t in maps.items()},
    "unused_height_range": _one(
        Role.HEIGHT, lambda h: _grey(0.4 + 0.1 * _plane(h)) if _plane(h).std() > 0.02 else None
    ),
    "seam": _slanted,
    "tag_against_role": _one(Role.NORMAL, lambda n: replace(n, tags=ColourTags(srgb=0))),
    "lossy_data": _one(Role.NORMAL, _jpeg),
    "missing_map": lambda maps: {r: t for r, t in maps.items() if r is not Role.NORMAL}
    if Role.NORMAL in maps
    else None,
}  # fmt: skip


def _sets(folder: Path) -> Iterator[tuple[str, Maps]]:
    truth = json.loads(folder.with_name(folder.name + ".truth.json").read_text("utf-8"))
    for name, roles in truth.items():
        maps: Maps = {}
        for word, entry in roles.items():
            file, _, channel = entry.partition("#")
            texels = read(folder / file)
            if channel:
                texels = texels.with_pixels(np.ascontiguousarray(texels.channel(channel)[:, :, None]), "y")
            maps[Role(word)] = replace(texels, tags=ColourTags())
        if min(min(t.width, t.height) for t in maps.values()) >= 32:
            yield f"{folder.name}/{name}", maps


def _said(name: str, maps: Maps, lossy: bool = False) -> set[tuple[str, Role | None]]:
    """Warnings and errors about a set; notes too where they are what was planted."""
    refs, files = [], {}
    for role, texels in maps.items():
        file = f"s_{role.value}.png"
        if role is Role.NORMAL:
            file = "s_nor_gl.png"
        files[file] = texels
        refs.append(MapRef(role, file))
    library = MemoryLibrary(files, frozenset({"s_nor_gl.png"}) if lossy else frozenset())
    return {
        (f.check, f.role)
        for f in judge_set(TextureSet(name, tuple(refs)), library).findings
        if f.severity is not Severity.NOTE or f.check == "two_channel_normal"
    }


def _tried(given: tuple[str, Maps]) -> list[tuple[str, bool, set[str]]]:
    """For each fault that can be planted: whether it was found, and which other checks it set off."""
    name, maps = given
    if _sound_normal(maps) and find_direction(maps[Role.NORMAL]).green is Green.DOWN:
        turned = _flip(maps)
        maps = turned if turned is not None else maps
    before = _said(name, maps)
    results = []
    for fault, plant in _FAULTS.items():
        if any(check == fault for check, _ in before):
            continue
        faulty = plant(maps)
        if faulty is None:
            continue
        after = _said(name, faulty, fault == "lossy_data")
        new = {check for check, _ in after - before}
        results.append((fault, fault in new, new - {fault, "seam"} - _FOLLOWS.get(fault, set())))
    return results


def run(root: Path) -> bool:
    """Print recall and precision by check on the folder, or on all folders below it that have a truth file."""
    folders = [root] if root.with_name(root.name + ".truth.json").exists() else []
    folders = folders or sorted(p for p in root.iterdir() if p.with_name(p.name + ".truth.json").exists())
    tried: Counter[str] = Counter()
    counts: Counter[str] = Counter()
    false: Counter[str] = Counter()
    with ProcessPoolExecutor() as pool:
        for folder in folders:
            for results in pool.map(_tried, _sets(folder), chunksize=2):
                for fault, right, others in results:
                    tried[fault] += 1
                    counts[fault] += right
                    false.update(others)
    print(f"faults planted into the real sets of {len(folders)} folders:")
    good = True
    for fault in _FAULTS:
        if not tried[fault]:
            continue
        recall = counts[fault] / tried[fault]
        precision = counts[fault] / max(1, counts[fault] + false[fault])
        fine = recall >= _LEAST and precision >= _LEAST
        good = good and fine
        print(
            f"{fault:<32} recall {recall:6.1%} of {tried[fault]:3}   precision {precision:6.1%}"
            f"   {'' if fine else 'NOT AS WANTED'}",
            flush=True,
        )
    others = {check: n for check, n in false.items() if check not in _FAULTS}
    print(f"set off by other faults, without one of their own: {others or 'none'}")
    return good
