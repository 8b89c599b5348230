"""Compiled loops against the NumPy back end, which is the reference: the same sheets, the same maps."""

import numpy as np
import pytest

from demo.materials import MASTERS
from tests.sheets import function_master, random_master
from texel.image import Texels
from texel.materials import INPUTS, baking, evaluate, parse_master
from texel.materials.compiled import CompiledEvaluation, can_be_compiled
from texel.materials.operations import OPERATIONS
from texel.materials.ready import ready_masters
from texel.materials.versions import sample_maps
from texel.roles import Role, Transfer

VERTEX = (0.25, 0.5, 0.75, 1.0)
# The two do not round alike everywhere: a twentieth of a step of 8 bits.
NEAR = 0.05 / 255


def agree(master, maps, changes=None, size=(24, 18), rows=None):
    with np.errstate(all="ignore"):
        wanted = evaluate(master, maps, changes or {}, *size, rows, VERTEX)
    made = CompiledEvaluation(master, maps, changes or {}, *size, VERTEX).surface(rows)
    for name in INPUTS:
        assert made[name].shape == wanted[name].shape, name
        a, b = (np.clip(np.nan_to_num(one[name]), -1, 1) for one in (made, wanted))
        # Where a hair decides, a switch say, the two may differ: not in more than a few texels.
        assert np.mean(np.abs(a - b).max(axis=-1) > NEAR) < 0.02, name
    return made


@pytest.mark.parametrize("seed", range(60))
def test_random_sheets_give_the_same_surface(seed):
    master = random_master(seed, 33 * (seed % 3), (1 + seed / 7, 0.5))
    agree(master, sample_maps(master, 16), rows=slice(3, 11))


@pytest.mark.parametrize("document", [*MASTERS, *ready_masters().values()], ids=lambda one: one["name"])
def test_masters_of_the_demo_give_the_same_surface_with_and_without_maps(document):
    master = parse_master(document)
    agree(master, sample_maps(master, 16))
    agree(master, {})


def test_functions_give_the_same_surface():
    agree(function_master(), sample_maps(function_master(), 16))


def _sheet(inputs, **more):
    return parse_master(
        {
            "format": "fair-texel/master", "version": 1, "name": "probe", "inputs": inputs,
            "slots": [{"name": "dye", "role": "base_color"}, {"name": "bumps", "role": "normal", **more},
                      {"name": "dirt", "role": "detail_mask"}],
            "coordinates": [{"name": "main", "tiling": [1.5, 2], "rotation": 30, "offset": [0.2, -3]}],
        }
    )  # fmt: skip


_ARGUMENTS = {
    "strengthen": "bumps, dirt",
    "combine_normals": "bumps, normalise(dye - 0.5)",
    "normalise": "dye - 0.5",
    "luminance": "dye",
    "tint": "dye, dye.bgr, dirt",
    "saturate": "dye, dirt * 2",
    "occlude": "dye, dirt, 0.5",
    "choose": "dye, dirt, 0.25",
    "pick": "dye, dirt * 3, 0.5, dye.bgr, 0.1",
    "vector": "dye.r, dye.g, dirt",
    "rgb": "dirt, 0.5, dye.r",
    "curve": "dirt, 0, 0.1, 0.4, 0.9, 1, 0.2",
    "cells": "uv * 3",
    "noise": "dye * 5",
    "tint_by_mask": "dye, vector(dye.bgr; dirt), dye.grb, 0.5, dye.rrr, 0.2",
    "cell_of": "uv, 4, 3, dirt * 20",
    "turn": "uv, dirt * 90",
    "read": "uv * 1.7 + dye.rg * 0.2, bumps",
    "parallax": "uv, dirt, dirt * 0.2",
    "triplanar": "world_position + dye * 0.2, dye, 4",
    "triplanar_normal": "object_position + dye * 0.2, bumps, 4",
    "to_world": "bumps",
    "to_surface": "dye - 0.25",
    "length": "dye.rg - 0.5",
    "near": "dye, dirt, 0.2",
    "random_at": "dye.rg * 9",
    "greater": "dye, dirt",
    "less": "dye, dirt",
    "remainder": "dye * 7, 2",
    "floor": "dye * 9",
    "shift_hue": "dye, dirt",
}


@pytest.mark.parametrize("name", OPERATIONS)
def test_every_operation_is_the_same(name):
    count = len(OPERATIONS[name].arguments)
    given = _ARGUMENTS.get(name, ", ".join(["dye - 0.25", "dirt", "dye.bgr"][:count]))
    symbol = OPERATIONS[name].symbol
    parts = given.split(", ")
    text = f"{name}({given})" if not symbol else f"-({given})" if count == 1 else f"({parts[0]}) {symbol} {parts[1]}"
    text = text.replace(";", ",")
    if OPERATIONS[name].shape == "2":
        text = f"rgb({text}.r, {text}.g, 0.5)"
    # Another place than a flat square, so that no start is plain.
    master = _sheet({"emissive": f"{text} * 1"})
    maps = sample_maps(master, 8)
    assert np.ptp(agree(master, maps)["emissive"]) > 0.01, "it would agree whatever it was"


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("channels", ["y", "ya", "rgb", "rgba"])
def test_maps_of_any_channels_and_depth_are_read_alike(dtype, channels):
    rng = np.random.default_rng(6)
    pixels = rng.integers(0, np.iinfo(dtype).max, (7, 5, len(channels)), dtype, endpoint=True)
    texels = Texels(pixels, channels, Transfer.SRGB, Role.BASE_COLOR)
    master = _sheet({"base_color": "dye", "opacity": "dye.a", "roughness": "dye.g"})
    agree(master, {"dye": texels})


@pytest.mark.parametrize("green", ["up", "down"])
def test_normal_maps_are_unpacked_alike(green):
    lean = np.clip(np.random.default_rng(8).normal(0.5, 0.1, (6, 6, 3)), 0, 1)
    texels = Texels((lean * 255).astype(np.uint8), "rgb", Transfer.LINEAR, Role.NORMAL)
    agree(_sheet({"normal": "bumps", "height": "bumps.b"}, green=green), {"bumps": texels})


@pytest.mark.parametrize(("dtype", "channels"), [(np.float32, "rgb"), (np.uint8, "rg")])
def test_floats_and_two_channels_are_left_to_numpy(dtype, channels):
    texels = Texels(np.zeros((2, 2, len(channels)), dtype), channels, Transfer.LINEAR, Role.BASE_COLOR)
    assert not can_be_compiled({"dye": texels})


@pytest.mark.parametrize("seed", [1, 4, 9])
def test_maps_baked_either_way_are_a_step_apart_at_most(seed, monkeypatch):
    master = random_master(seed)
    maps = sample_maps(master, 16)
    with np.errstate(all="ignore"):
        plain = baking.bake(master, maps, {}, 64, 48, vertex=VERTEX)
    monkeypatch.setattr(baking, "_LARGE", 1)
    made = baking.bake(master, maps, {}, 64, 48, vertex=VERTEX, threads=2)
    assert made.maps.keys() == plain.maps.keys()
    for role, one in made.maps.items():
        apart = np.abs(one.pixels.astype(np.int64) - plain.maps[role].pixels.astype(np.int64))
        limit = 1 if one.pixels.dtype == np.uint8 else 3
        assert np.mean(apart > limit) < 0.02, role


def test_places_beyond_any_picture_are_still_inside_it():
    """Coordinates that a parameter made infinite must not lead out of a map's memory."""
    master = _sheet({"base_color": "dye"})
    far = parse_master(
        {**master.document, "coordinates": [{"name": "main", "tiling": [1e30, 3e38], "offset": [1e38, 0]}]}
    )
    made = CompiledEvaluation(far, sample_maps(far, 8), {}, 8, 8).surface()
    assert made["base_color"].shape == (8, 8, 3)
