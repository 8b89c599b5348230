"""Random sheets that make sense, for holding the back ends against each other."""

from __future__ import annotations

import numpy as np

from tests.places import PLACE
from texel.errors import BadExpression
from texel.materials import INPUTS, Kinds, Master, parse_expression, parse_master, text_of
from texel.materials.operations import OPERATIONS
from texel.materials.tree import Constant, Name, Node, Swizzle, call

_BASE = {
    "format": "fair-texel/master", "version": 1, "name": "random",
    "slots": [
        {"name": "colour", "role": "base_color"}, {"name": "pack", "layout": "occlusion-roughness-metallic"},
        {"name": "bumps", "role": "normal"}, {"name": "lie", "role": "height"},
        {"name": "upside", "role": "normal", "green": "down"},
    ],
    "parameters": [
        {"name": "amount", "kind": "number", "default": 0.3, "low": 0, "high": 1},
        {"name": "shade", "kind": "colour", "default": [0.9, 0.5, 0.25]},
        {"name": "worn", "kind": "switch", "default": True},
        {"name": "way", "kind": "choice", "default": "b", "options": ["a", "b", "c"]},
        {"name": "tiling", "kind": "vector", "default": [1, 1]},
        {"name": "turn", "kind": "number", "default": 0},
    ],
    "coordinates": [{"name": "main", "tiling": "tiling", "rotation": "turn"}],
}  # fmt: skip
# Arguments of operations whose values jump with where they are read.
_GIVEN = {
    "read": ["uv, colour", "uv + vector(0.25, 0.5), pack", "turn(uv, 90), bumps", "world_position.rb, upside",
             "uv - vector(0.125, 0), lie"],
    "parallax": ["uv, lie, 0.02", "uv + vector(0.25, 0.5), lie, amount / 9"],
    "triplanar": ["world_position, colour, 4", "object_position, pack, 2", "world_position, lie, 1"],
    "triplanar_normal": ["world_position, bumps, 4", "object_position, upside, 2"],
    "noise": ["uv * 5 + 0.1", "world_position * 3", "colour * 4 + 0.21"],
    "cells": ["uv * 3 + 0.1", "world_position * 2"],
    "random_at": ["uv * 5 + 0.1", "vertex * 9", "colour.r * 6 + 0.03", "world_position"],
    "cell_of": ["uv, 4, 2, 5", "uv + 0.03, 3, 3, time * 20"],
    "curve": ["lie, 0, 0.2, 0.4, amount, 1, 0.9", "colour, 0.1, 1, 0.8, 0"],
}  # fmt: skip
# Without those of hundreds of steps, of which several in one sheet take a software driver minutes to compile.
_LIGHT = [name for name in OPERATIONS if name not in ("cells", "noise", "parallax", "triplanar_normal")]
_NAMES = [*PLACE, "uv1", "colour", "pack", "bumps", "lie", "upside", "amount", "shade", "worn", "way", "uv", "first"]


def random_tree(rng: np.random.Generator, names: list[str], depth: int = 4) -> Node:
    """Any tree that the grammar can say."""
    roll = rng.random()
    if depth == 0 or roll < 0.25:
        if rng.random() < 0.4:
            return Constant(float(np.round(rng.normal(), 3)))
        return Name(str(rng.choice(names)))
    if roll < 0.35:
        letters = "".join(rng.choice(list("rgba"), rng.integers(1, 5)))
        return Swizzle(random_tree(rng, names, depth - 1), letters)
    operation = OPERATIONS[str(rng.choice(_LIGHT))]
    if operation.name in _GIVEN:
        # Beyond the middles of texels and whole cells, a hair decides what is read.
        given = list(_GIVEN[operation.name])
        return parse_expression(f"{operation.name}({given[int(rng.integers(0, len(given)))]})")
    count = len(operation.arguments) + (int(rng.integers(0, 2)) if operation.variadic else 0)
    return call(operation.name, *(random_tree(rng, names, depth - 1) for _ in range(count)))


def _fits(document: dict, tree: Node, size: int) -> bool:
    try:
        master = parse_master(document | {"inputs": {"roughness": "0"}})
        return Kinds(master).of(tree).size in (1, size)
    except BadExpression:
        return False


def random_master(seed: int, turn: float = 0, tiling: tuple[float, float] = (1, 1)) -> Master:
    """A sheet whose every input is a random tree of the right size. turn: of its coordinates, in degrees."""
    rng = np.random.default_rng(seed)
    document = dict(_BASE)
    while True:
        first = random_tree(rng, _NAMES[:-1], 3)
        document["rows"] = [{"name": "first", "expression": text_of(first)}]
        if _fits(document, first, 3):
            break
    inputs = {}
    for one in INPUTS.values():
        tree = random_tree(rng, _NAMES)
        while not _fits(document, tree, one.size):
            tree = random_tree(rng, _NAMES)
        inputs[one.name] = text_of(tree)
    parameters = [dict(one) for one in _BASE["parameters"]]
    parameters[-2]["default"], parameters[-1]["default"] = list(tiling), turn
    document["parameters"] = parameters
    return parse_master(document | {"inputs": inputs})


# Arguments of operations that take other sizes than any.
_FITTING = {
    "tint_by_mask": "colour, pack, shade, 0.5, colour.bgr, 0.2", "turn": "uv, 90", "to_world": "bumps",
    "to_surface": "colour - 0.25", "strengthen": "bumps, lie", "combine_normals": "bumps, upside",
    "occlude": "colour, pack.r, amount", "choose": "colour, pack.r, shade", "pick": "colour, way, shade, 0.5",
    "rgb": "lie, pack.g, amount", "vector": "lie, pack.g, amount", "remainder": "colour * 7 + 0.03, 2",
    "near": "colour, lie, 0.213", "floor": "colour * 9 + 0.03", "luminance": "colour", "saturate": "colour, lie",
}  # fmt: skip


def operation_master(name: str) -> Master:
    """A sheet whose light is one operation of maps, so that what it gives differs from texel to texel."""
    operation = OPERATIONS[name]
    given = (
        _FITTING.get(name)
        or _GIVEN.get(name, [", ".join(["colour", "lie", "colour.bgr"][: len(operation.arguments)])])[0]
    )
    if operation.symbol:
        one, _, other = given.partition(", ")
        text = f"{one} {operation.symbol} {other}" if other else f"-{one}"
    else:
        text = f"{name}({given})"
    document = dict(_BASE) | {"rows": [{"name": "made", "expression": text}]}
    size = Kinds(parse_master(document | {"inputs": {"roughness": "0"}})).of(Name("made")).size
    light = {1: "made", 2: "rgb(made.r, made.g, 0)", 3: "made", 4: "made.rgb * made.a"}[size]
    return parse_master(document | {"inputs": {"emissive": light}})


def function(name: str, inputs: dict[str, str], result: str, **more: object) -> dict:
    """A function's document. inputs: what each takes."""
    given = [{"name": one, "takes": takes} for one, takes in inputs.items()]
    made = {"format": "fair-texel/function", "version": 1, "name": name, "inputs": given, "result": result}
    return made | more


WET = function(
    "wet", {"colour": "vector3", "amount": "number"}, "power(darker, 1 + amount)",
    rows=[{"name": "darker", "expression": "colour * (1 - amount / 2)"}],
)  # fmt: skip
# Calls another function of a name that the sheet has, too, and reads two maps of its caller's.
STAINED = function(
    "stained", {"colour": "vector3", "at": "vector2", "where": "map", "dirt": "map"},
    "mix(wet(colour), read(at, dirt).rgb, share * world_normal.g)",
    rows=[{"name": "share", "expression": "read(turn(at, 90), where).r"}],
    functions=[function("wet", {"colour": "vector3"}, "colour.bgr / 2 + 0.25")],
)  # fmt: skip
# As wide as the map that it reads.
SHIFTED = function("shifted", {"at": "vector2", "picture": "map"}, "read(at + vector(0.25, 0.5), picture)")


def function_master() -> Master:
    """A sheet that calls functions: within each other, with maps, and one twice."""
    return parse_master(
        dict(_BASE) | {
            "functions": [WET, STAINED, SHIFTED],
            "rows": [{"name": "damp", "expression": "wet(colour, lie)"}],
            "inputs": {
                "base_color": "stained(damp, uv, lie, pack)",
                "emissive": "wet(shifted(uv, colour), 0.5) * wet(0.7, amount)",
                "roughness": "shifted(uv, lie)", "normal": "normalise(shifted(uv, bumps))",
                "metallic": "wet(pack.rgb, pack.r).g", "height": "shifted(uv, pack).a",
            },
        }
    )  # fmt: skip


def a_master() -> dict:
    """A small master called stone, with a number and a colour to change."""
    return {
        "format": "fair-texel/master", "version": 1, "name": "stone", "title": "Stone",
        "parameters": [
            {"name": "wear", "kind": "number", "default": 0.1, "low": 0, "high": 1},
            {"name": "shade", "kind": "colour", "default": [0.5, 0.5, 0.5]},
        ],
        "inputs": {"base_color": "shade", "roughness": "wear"},
    }  # fmt: skip
