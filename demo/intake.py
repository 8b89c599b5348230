"""Write the untidy folders of the demo: fifteen surfaces in several naming habits, with the faults of real ones."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np

from demo.patterns import Field, noise, tint
from demo.surfaces import SURFACES, Surface
from texel.files import write
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Role, Transfer

__all__ = ["PROJECTS", "write_demo_intake", "write_project_folder"]

PROJECTS = ("saltmarsh_ferry", "night_orchard")
_SIDE = 512
_EIGHT, _SIXTEEN = np.dtype(np.uint8), np.dtype(np.uint16)


def _grey(field: Field | float, n: int, bits: np.dtype[Any] = _EIGHT) -> Texels:
    values = np.broadcast_to(np.asarray(field, np.float32), (n, n))
    return Texels(narrow(values[:, :, None], bits), "y", Transfer.LINEAR)


def _colour(colour: np.ndarray, alpha: Field | None = None) -> Texels:
    values = colour if alpha is None else np.concatenate([colour, alpha[:, :, None]], axis=2)
    return Texels(narrow(values, _EIGHT), "rgb" if alpha is None else "rgba", Transfer.SRGB)


def _normal(surface: Surface, green: Green) -> Texels:
    n = surface.height.shape[0]
    vectors = normals_from_height(surface.height, surface.relief * n / 512, green)
    return Texels(narrow((vectors + 1) / 2, _EIGHT), "rgb", Transfer.LINEAR, Role.NORMAL, green)


def _pack(*planes: Field | float) -> Texels:
    n = next(p for p in planes if isinstance(p, np.ndarray)).shape[0]
    pixels = [_grey(plane, n).pixels for plane in planes]
    return Texels(np.concatenate(pixels, axis=2), "rgb", Transfer.LINEAR)


class _Folder:
    """Makes surfaces and writes maps below one folder."""

    def __init__(self, root: Path):
        self.root = root

    def put(self, name: str, texels: Texels) -> None:
        path = self.root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        write(texels, path)

    def habit(self, pattern: str, words: dict[str, str], maps: dict[str, Texels]) -> None:
        for role, texels in maps.items():
            self.put(pattern.replace("{}", words[role]), texels)


_SHORT = {"colour": "BC", "normal": "N", "rough": "R", "metal": "M", "ao": "AO", "height": "H"}
_SCAN = {"colour": "col", "normal": "nor_gl", "rough": "rough", "metal": "metal", "ao": "ao", "height": "disp"}
_LONG = {
    "colour": "BaseColor",
    "normal": "Normal",
    "rough": "Roughness",
    "metal": "Metallic",
    "ao": "AmbientOcclusion",
    "height": "Height",
    "glow": "Emissive",
    "gloss": "Glossiness",
}


def _maps(surface: Surface, n: int, *, green: Green = Green.UP, metal: bool = False) -> dict[str, Texels]:
    maps = {
        "colour": _colour(surface.colour),
        "normal": _normal(surface, green),
        "rough": _grey(surface.roughness, n),
        "ao": _grey(surface.occlusion, n),
        "height": _grey(surface.height, n, _SIXTEEN),
    }
    return maps | ({"metal": _grey(surface.metallic, n)} if metal else {})


def _ferry(folder: _Folder, make: Callable[[str, int], Surface]) -> None:
    n = _SIDE
    folder.habit("deck/deck_tread_plate_{}.png", _SHORT, _maps(make("deck_tread_plate", n), n, metal=True))

    hull = make("riveted_hull_plate", 1024)
    folder.habit("hull/riveted_hull_plate_{}_1k.png", _SCAN, _maps(hull, 1024, metal=True))
    folder.put("hull/riveted_hull_plate_nor_dx_1k.png", _normal(hull, Green.DOWN))  # both directions side by side

    rope = _maps(make("mooring_rope", n), n, green=Green.DOWN)  # flipped against its name
    folder.habit("mooring_rope_{}.png", _SCAN, rope)

    mud = _maps(make("tidal_mud", n), n)
    stepped = np.floor(make("tidal_mud", n).height * 40) / 40
    mud["height"] = _grey(stepped, n)  # 8 bits, with visible steps
    folder.habit("ground/tidal-mud-{}.png", {**_SCAN, "colour": "albedo", "normal": "normal"}, mud)

    reed = _maps(make("reed_bed", n), n)
    del reed["normal"]  # a map is missing
    folder.habit("ground/reed_bed_{}.png", _SHORT, reed)

    slate = make("slate_pier", n)
    folder.put("ground/slate-pier-albedo.png", _colour(slate.colour))
    folder.put("ground/slate-pier-normal.png", _normal(slate, Green.UP))
    folder.put("ground/slate-pier-mrao.png", _pack(0.0, slate.roughness, slate.occlusion))

    gravel = _maps(make("oyster_shell_gravel", n), n)
    gravel["colour"] = _colour(make("oyster_shell_gravel", 1000).colour)  # no power of two
    folder.habit("ground/oyster_shell_gravel_{}.png", _SHORT, gravel)

    bell = _maps(make("brass_bell", n), n, metal=True)
    bell["rough"], bell["metal"] = bell["metal"], bell["rough"]  # exchanged
    folder.habit("props/BrassBell{}.png", _LONG, bell)

    cork = make("cork_fender", n)
    baked = _maps(cork, n)
    baked["colour"] = _colour(cork.colour * (0.35 + 0.65 * cork.occlusion[:, :, None]))  # shadows in the colour
    folder.habit("props/CorkFender{}.png", _LONG, baked)

    tile = make("glazed_wall_tile", n)
    maps = _maps(tile, n, green=Green.DOWN)
    del maps["rough"]
    maps["gloss"] = _grey(1 - tile.roughness, n)  # gloss where roughness is asked
    folder.habit("saloon/glazed_wall_tile_{}.png", {**_LONG, "normal": "Normal_DX"}, maps)

    sky = tint("#46505c", "#8f979c", "#d6cfc0")(noise(n, 7, 2.2, 1, (0.4, 1)))
    jpeg = imagecodecs.jpeg8_encode(narrow(sky, _EIGHT), level=88)
    (folder.root / "IMG_2041.jpg").write_bytes(jpeg)  # an unrelated picture


def _orchard(folder: _Folder, make: Callable[[str, int], Surface]) -> None:
    n = _SIDE
    bark = _maps(make("lichen_bark", n), n)
    bark["ao"] = _grey(1.0, n)  # said to be occlusion, plain white
    folder.habit("lichen bark/{}.png", {**_LONG, "colour": "Albedo"}, bark)

    leaf = make("pear_leaf_card", 1024)
    maps = _maps(leaf, 1024)
    maps["colour"] = _colour(leaf.colour, leaf.opacity)  # a mask hidden in alpha
    del maps["height"]
    folder.habit("leaves/pear_leaf_card_{}.png", _SHORT, maps)

    lantern = make("lantern_glass", n)
    maps = _maps(lantern, n, metal=True)
    maps["glow"] = _colour(lantern.emissive if lantern.emissive is not None else lantern.colour)
    folder.habit("lantern/LanternGlass{}.png", _LONG, maps)

    straw = _maps(make("beehive_straw", n), n)
    height = straw.pop("height")
    folder.habit("beehive_straw_{}_v02.tga", _SHORT, straw)
    folder.put("beehive_straw_H_v02.exr", _grey(height.pixels[:, :, 0] / np.float32(65535), n, np.dtype(np.float32)))

    # Two sets with one stem, in two folders.
    folder.habit("garden/clay_pot_{}.png", _SCAN, _maps(make("clay_pot", n), n))
    second = make("clay_pot", n)
    second.colour = np.roll(second.colour[:, ::-1] * np.float32([0.86, 0.8, 0.78]), n // 3, axis=0)
    folder.habit("shed/clay_pot_{}.png", _SCAN, _maps(second, n))


def write_project_folder(project: str, folder: Path) -> None:
    """Write the untidy folder of one of PROJECTS: the same bytes every time. The folder is made if need be."""

    def make(name: str, n: int) -> Surface:
        return SURFACES[name](n)

    folder.mkdir(parents=True, exist_ok=True)
    {"saltmarsh_ferry": _ferry, "night_orchard": _orchard}[project](_Folder(folder), make)


def write_demo_intake(root: Path) -> None:
    """Write the folders of all projects below ``root``: about 90 files, 60 MB."""
    for project in PROJECTS:
        write_project_folder(project, root / project)
