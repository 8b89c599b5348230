"""A labelled set: clean surfaces, and twins of them with one known fault each, made by our own generators.

Every fault is put in by arithmetic that the checks do not use, and named by the check that should find it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import cv2
import imagecodecs
import numpy as np

from demo.surfaces import SURFACES, Surface
from texel.files import Probe
from texel.image import ColourTags, Texels, narrow
from texel.library import Library
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef, TextureSet

__all__ = ["FAULTS", "Labelled", "MemoryLibrary", "clean_sets", "faulty_sets"]

_EIGHT, _SIXTEEN = np.dtype(np.uint8), np.dtype(np.uint16)
_WORDS = {
    Role.BASE_COLOR: "bc", Role.NORMAL: "nor_gl", Role.ROUGHNESS: "r", Role.METALLIC: "m", Role.OCCLUSION: "ao",
    Role.HEIGHT: "h", Role.OPACITY: "opacity", Role.EMISSIVE: "emissive", Role.GLOSSINESS: "gloss",
}  # fmt: skip
Maps = dict[str, Texels]


@dataclass(frozen=True)
class Labelled:
    """fault: the check that should find it, "" for a clean set. lossy: files that came out of a lossy container."""

    name: str
    fault: str
    maps: Maps
    lossy: frozenset[str] = frozenset()

    def parts(self) -> tuple[TextureSet, Library]:
        refs = tuple(
            MapRef(role, name) for role, word in _WORDS.items() for name in [f"s_{word}.png"] if name in self.maps
        )
        refs += tuple(MapRef(Role.NORMAL, name) for name in self.maps if name == "s_nor_dx.png")
        refs += tuple(MapRef(Role.ROUGHNESS, name) for name in self.maps if name == "s_rough_gloss.png")
        return TextureSet(self.name, refs), MemoryLibrary(self.maps, self.lossy)


class MemoryLibrary(Library):
    """A library of pictures that were never files."""

    def __init__(self, maps: Maps, lossy: frozenset[str] = frozenset()):
        super().__init__({})
        self._maps, self._lossy = maps, lossy

    def texels(self, file: str, layer: str | None = None) -> Texels:
        return self._maps[file]

    def probe(self, file: str, layer: str | None = None) -> Probe:
        t = self._maps[file]
        container = "jpeg" if file in self._lossy else "png"
        return Probe(container, t.width, t.height, t.channels, t.bits, 0, t.tags, container == "jpeg")


def _grey(field, dtype=_EIGHT, n: int = 0) -> Texels:
    values = np.broadcast_to(np.asarray(field, np.float32), (n, n)) if np.ndim(field) == 0 else np.asarray(field)
    return Texels(narrow(values[:, :, None], dtype), "y", Transfer.LINEAR)


def _colour(colour) -> Texels:
    return Texels(narrow(np.asarray(colour, np.float32), _EIGHT), "rgb", Transfer.SRGB)


def _normal(height, relief: float, green: Green = Green.UP) -> Texels:
    vectors = normals_from_height(height, relief * height.shape[0] / 512, green)
    return Texels(narrow((vectors + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR)


def _maps(surface: Surface) -> Maps:
    n = surface.height.shape[0]
    maps = {
        Role.BASE_COLOR: _colour(surface.colour),
        Role.NORMAL: _normal(surface.height, surface.relief),
        Role.ROUGHNESS: _grey(surface.roughness, n=n),
        Role.OCCLUSION: _grey(surface.occlusion, n=n),
        Role.HEIGHT: _grey(surface.height, _SIXTEEN, n),
    }
    if isinstance(surface.metallic, np.ndarray):
        maps[Role.METALLIC] = _grey(surface.metallic, n=n)
    if surface.opacity is not None:
        maps[Role.OPACITY] = _grey(surface.opacity, n=n)
    return {f"s_{_WORDS[role]}.png": texels for role, texels in maps.items()}


def _turned(surface: Surface, quarter: int, mirror: bool) -> Surface:
    """The same surface seen otherwise: turned, mirrored, rolled. Another picture to every measure that is not blind."""

    def turn(field):
        if not isinstance(field, np.ndarray):
            return field
        field = np.rot90(field, quarter)
        field = field[:, ::-1] if mirror else field
        shift = (field.shape[0] * (3 + 2 * quarter)) // 16
        return np.ascontiguousarray(np.roll(field, (shift, shift // 2), axis=(0, 1)))

    names = ("height", "colour", "roughness", "metallic", "opacity", "emissive")
    return replace(surface, **{name: turn(getattr(surface, name)) for name in names})


def _surfaces(n: int) -> Iterator[tuple[str, Surface]]:
    for name, make in SURFACES.items():
        surface = make(n)
        for quarter in range(4):
            for mirror in (False, True):
                yield f"{name}/{quarter}{'m' if mirror else ''}", _turned(surface, quarter, mirror)


def clean_sets(n: int) -> Iterator[Labelled]:
    """Every surface in eight positions: 120 sets without a fault."""
    for name, surface in _surfaces(n):
        yield Labelled(name, "", _maps(surface))


Fault = Callable[[Surface, Maps], Maps | None]


def _with(maps: Maps, word: str, texels: Texels) -> Maps:
    return {**maps, f"s_{word}.png": texels}


def _flipped(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "nor_gl", _normal(surface.height, surface.relief, Green.DOWN))


def _short(surface: Surface, maps: Maps) -> Maps:
    """Vectors averaged without renormalising, as a careless resize leaves them."""
    vectors = normals_from_height(surface.height, surface.relief * 2)
    mean = cv2.blur(vectors, (9, 9))
    return _with(maps, "nor_gl", Texels(narrow((mean + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR))


def _strong(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "nor_gl", _normal(surface.height, surface.relief * 40))


def _exchanged(surface: Surface, maps: Maps) -> Maps | None:
    if "s_m.png" not in maps:
        return None
    return {**maps, "s_m.png": maps["s_r.png"], "s_r.png": maps["s_m.png"]}


def _mid_grey(surface: Surface, maps: Maps) -> Maps | None:
    if "s_m.png" not in maps:
        return None
    return _with(maps, "m", _grey(0.3 + 0.4 * surface.roughness, n=surface.height.shape[0]))


def _plain(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "ao", _grey(1.0, n=surface.height.shape[0]))


def _twin(surface: Surface, maps: Maps) -> Maps:
    """A height plugged in as occlusion, because something had to be."""
    return _with(maps, "ao", _grey(surface.height, n=surface.height.shape[0]))


def _gloss_alike(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "gloss", maps["s_r.png"])


def _renamed_gloss(surface: Surface, maps: Maps) -> Maps:
    gloss = _grey(1 - surface.roughness, n=surface.height.shape[0])
    return {**{name: t for name, t in maps.items() if name != "s_r.png"}, "s_rough_gloss.png": gloss}


def _dark(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "bc", _colour(surface.colour * 0.12))


def _baked(surface: Surface, maps: Maps) -> Maps | None:
    """Linear colour times occlusion, as painting tools bake it; surfaces with hardly any occlusion are left out."""
    if float(surface.occlusion.std()) < 0.04:
        return None
    linear = np.clip(surface.colour, 0, 1) ** 2.2 * surface.occlusion[:, :, None]
    return _with(maps, "bc", _colour(linear ** (1 / 2.2)))


def _grey_colour(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "bc", _colour(np.repeat(surface.height[:, :, None] * 0.7 + 0.15, 3, axis=2)))


def _hidden_alpha(surface: Surface, maps: Maps) -> Maps:
    colour = maps["s_bc.png"]
    alpha = narrow((surface.height > np.median(surface.height)).astype(np.float32)[:, :, None], _EIGHT)
    return _with(maps, "bc", colour.with_pixels(np.concatenate([colour.pixels, alpha], axis=2), "rgba"))


def _resized(texels: Texels, side: int, interpolation: int) -> Texels:
    pixels = cv2.resize(texels.pixels, (side, side), interpolation=interpolation)
    return texels.with_pixels(pixels.reshape(side, side, -1))


def _upscaled(surface: Surface, maps: Maps) -> Maps:
    n = surface.height.shape[0]
    small = _resized(maps["s_bc.png"], n // 2, cv2.INTER_AREA)
    return _with(maps, "bc", _resized(small, n, cv2.INTER_CUBIC))


def _mixed_sizes(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "r", _resized(maps["s_r.png"], surface.height.shape[0] // 2, cv2.INTER_AREA))


def _odd_size(surface: Surface, maps: Maps) -> Maps:
    side = surface.height.shape[0] - 6
    return {name: _resized(texels, side, cv2.INTER_AREA) for name, texels in maps.items()}


def _stepped(surface: Surface, maps: Maps) -> Maps:
    low, high = surface.height.min(), surface.height.max()
    return _with(maps, "h", _grey((surface.height - low) / (high - low), n=surface.height.shape[0]))


def _narrow_range(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "h", _grey(0.4 + 0.1 * surface.height, n=surface.height.shape[0]))


def _seam(surface: Surface, maps: Maps) -> Maps | None:
    """A piece cut out of the middle: its borders do not meet. Cut-outs need not tile."""
    if surface.opacity is not None:
        return None
    n = surface.height.shape[0]
    x = np.linspace(0, 1, n, dtype=np.float32)[None, :, None]
    light = _colour(np.clip(surface.colour * (0.75 + 0.5 * x), 0, 1))
    return _with(maps, "bc", light)


def _without(maps: Maps, word: str) -> Maps:
    return {name: texels for name, texels in maps.items() if name != f"s_{word}.png"}


def _tagged(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "r", replace(maps["s_r.png"], tags=ColourTags(srgb=0)))


def _jpeg(surface: Surface, maps: Maps) -> Maps:
    pixels = imagecodecs.jpeg8_decode(imagecodecs.jpeg8_encode(maps["s_nor_gl.png"].pixels, level=75))
    return _with(maps, "nor_gl", maps["s_nor_gl.png"].with_pixels(np.asarray(pixels)))


def _missing(surface: Surface, maps: Maps) -> Maps:
    return _without(maps, "nor_gl")


def _two_channels(surface: Surface, maps: Maps) -> Maps:
    normal = maps["s_nor_gl.png"]
    return _with(maps, "nor_gl", normal.with_pixels(np.ascontiguousarray(normal.pixels[:, :, :2]), "rg"))


def _colour_as_normal(surface: Surface, maps: Maps) -> Maps:
    return _with(maps, "nor_gl", maps["s_bc.png"])


FAULTS: dict[str, Fault] = {
    "direction_against_name": _flipped,
    "not_unit_length": _short,
    "normal_strength": _strong,
    "two_channel_normal": _two_channels,
    "not_a_normal_map": _colour_as_normal,
    "roughness_metallic_exchanged": _exchanged,
    "metallic_mid_grey": _mid_grey,
    "plain_channel": _plain,
    "twin_maps": _twin,
    "gloss_as_roughness": _gloss_alike,
    "gloss_as_roughness (by name)": _renamed_gloss,
    "implausible_colour": _dark,
    "baked_light": _baked,
    "baked_light (by height)": lambda s, maps: _without(_baked(s, maps), "ao"),
    "grey_colour": _grey_colour,
    "hidden_alpha": _hidden_alpha,
    "upscaled": _upscaled,
    "sizes_differ": _mixed_sizes,
    "not_multiple_of_four": _odd_size,
    "height_steps": _stepped,
    "unused_height_range": _narrow_range,
    "seam": _seam,
    "tag_against_role": _tagged,
    "lossy_data": _jpeg,
    "missing_map": _missing,
}


def faulty_sets(n: int) -> Iterator[Labelled]:
    """Every surface in eight positions with each fault that it can have."""
    for name, surface in _surfaces(n):
        maps = _maps(surface)
        for fault, make in FAULTS.items():
            changed = make(surface, maps)
            if changed is not None:
                lossy = frozenset({"s_nor_gl.png"}) if fault == "lossy_data" else frozenset()
                yield Labelled(name, fault, changed, lossy)
