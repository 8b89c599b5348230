"""Random sheets that make sense, for holding the back ends against each other."""

from __future__ import annotations

import numpy as np

from texel.errors import BadExpression
from texel.materials import INPUTS, Kinds, Master, parse_master, text_of
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
_NAMES = ["colour", "pack", "bumps", "lie", "upside", "amount", "shade", "worn", "way", "vertex", "uv", "first"]


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
    operation = OPERATIONS[str(rng.choice(list(OPERATIONS)))]
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
