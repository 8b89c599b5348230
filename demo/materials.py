"""The demo's masters and casts: what Larkspur Tin's two games share, and how each game dresses it."""

from __future__ import annotations

import copy
from typing import Any

__all__ = ["CASTS", "MASTERS", "NEWER"]

Document = dict[str, Any]


def _number(name: str, title: str, default: float, low: float, high: float, **more: Any) -> Document:
    return {"name": name, "kind": "number", "title": title, "default": default, "low": low, "high": high, **more}


_PACK = {"name": "pack", "title": "Pack", "layout": "occlusion-roughness-metallic"}
_BUMPS = {"name": "bumps", "title": "Relief", "role": "normal"}
_COLOUR = {"name": "colour", "title": "Colour", "role": "base_color"}
_TILING = {"name": "tiling", "kind": "vector", "title": "Tiling", "default": [1, 1], "group": "Coordinates"}
_TURN = _number("turn", "Turn", 0, -180, 180, unit="°", step=1, group="Coordinates")
_COORDINATES = [{"name": "main", "tiling": "tiling", "rotation": "turn"}]

_SOLID: Document = {
    "format": "fair-texel/master", "version": 1, "name": "plain-solid", "title": "Plain Solid",
    "help": "Anything opaque that needs no more than its maps.",
    "slots": [_COLOUR, _PACK, _BUMPS],
    "parameters": [
        {"name": "shade", "kind": "colour", "title": "Tint", "default": [1, 1, 1], "group": "Colour"},
        _number("dirt", "Occlusion in colour", 0.25, 0, 1, group="Colour", help="By how much it darkens"),
        _number("dull", "Roughness curve", 1, 0.25, 4, group="Surface", help="Above 1 is smoother, below 1 rougher"),
        _number("relief", "Relief", 1, 0, 4, group="Surface"), _TILING, _TURN,
    ],
    "coordinates": _COORDINATES,
    "inputs": {
        "base_color": "occlude(colour * shade, pack.r, dirt)", "metallic": "pack.b", "roughness": "power(pack.g, dull)",
        "normal": "strengthen(bumps, relief)", "occlusion": "pack.r",
    },
}  # fmt: skip

_DRY: Document = {
    "slots": [_COLOUR, _PACK, _BUMPS, {"name": "lie", "title": "Height", "role": "height"}],
    "parameters": [
        {"name": "shade", "kind": "colour", "title": "Tint", "default": [1, 1, 1]},
        _number("damp", "Damp", 0.3, 0, 1, help="Darkens and smooths all of it"),
        _number("relief", "Relief", 1, 0, 4), _TILING, _TURN,
    ],
    "coordinates": _COORDINATES,
    "inputs": {
        "base_color": "colour * shade * (1 - 0.5 * damp)", "metallic": "pack.b",
        "roughness": "pack.g * (1 - 0.5 * damp)", "normal": "strengthen(bumps, relief)", "occlusion": "pack.r",
        "height": "lie",
    },
}  # fmt: skip

_GROUND: Document = {
    "format": "fair-texel/master", "version": 1, "name": "wet-ground", "title": "Wet Ground",
    "help": "Two grounds painted over each other, and water that stands in what lies low.",
    "layers": [
        {"name": "ground", "title": "Ground", "sheet": _DRY},
        {"name": "mud", "title": "Mud", "sheet": _DRY, "mask": {"source": "red", "edge": 0.6, "softness": 0.4}},
        {"name": "water", "title": "Water", "mask": {"source": "none", "amount": 0.4, "edge": 1, "softness": 0.1,
                                                     "border": 0.4},
         "sheet": {
            "parameters": [
                {"name": "tone", "kind": "colour", "title": "Colour", "default": [0.05, 0.06, 0.05]},
                _number("level", "Level", 0.3, 0, 1),
            ],
            "inputs": {"base_color": "tone", "roughness": "0.04", "height": "level"},
         }},
    ],
}  # fmt: skip

_LEAF: Document = {
    "format": "fair-texel/master", "version": 1, "name": "leaf-card", "title": "Leaf Card",
    "help": "Leaves cut out of a card, seen from both sides.",
    "slots": [
        _COLOUR, {"name": "cut", "title": "Cut-out", "role": "opacity", "default": "white"},
        {"name": "gloss_of", "title": "Roughness", "role": "roughness"}, _BUMPS,
    ],
    "parameters": [
        {"name": "season", "kind": "choice", "title": "Season", "default": "summer",
         "options": ["summer", "autumn", "frost"], "group": "Colour"},
        {"name": "autumn", "kind": "colour", "title": "In autumn", "default": [0.7, 0.25, 0.05], "group": "Colour"},
        _number("relief", "Relief", 1, 0, 4, group="Surface"), _TILING,
    ],
    "coordinates": [{"name": "main", "tiling": "tiling"}],
    "rows": [{"name": "grey", "expression": "luminance(colour)"}],
    "inputs": {
        "base_color": "pick(colour, season, mix(colour, autumn, grey), saturate(mix(colour, 0.8, 0.4), 0.3))",
        "roughness": "gloss_of", "normal": "strengthen(bumps, relief)", "opacity": "cut",
    },
    "opacity": {"mode": "cut_out", "cut_off": 0.5},
}  # fmt: skip

_GLASS: Document = {
    "format": "fair-texel/master", "version": 1, "name": "lamp-glass", "title": "Lamp Glass",
    "help": "Glass with a flame behind it.",
    "slots": [_COLOUR, {"name": "glow", "title": "Glow", "role": "emissive", "default": "black"}, _BUMPS],
    "parameters": [
        {"name": "lit", "kind": "switch", "title": "Lit", "default": True, "group": "Lamp"},
        _number("strength", "Strength", 4, 0, 100, soft_high=12, group="Lamp"),
        {"name": "flame", "kind": "colour", "title": "Flame", "default": [1, 0.7, 0.35], "group": "Lamp"},
        _number("clear", "Clear", 0.35, 0, 1, group="Glass"),
    ],
    "inputs": {
        "base_color": "colour", "roughness": "0.08", "normal": "bumps", "emissive": "choose(glow * flame, lit, 0)",
        "emissive_strength": "strength", "opacity": "1 - clear",
    },
    "opacity": {"mode": "blend"},
}  # fmt: skip

MASTERS: tuple[Document, ...] = (_SOLID, _GROUND, _LEAF, _GLASS)


def _newer() -> Document:
    """Plain Solid with rust to add, and its roughness curve under another name."""
    made = copy.deepcopy(_SOLID)
    made["parameters"][2] |= {"name": "gloss_curve"}
    made["parameters"].insert(2, _number("wear", "Wear at edges", 0.0, 0, 1, group="Colour"))
    made["inputs"]["roughness"] = "mix(power(pack.g, gloss_curve), 0.9, wear * (1 - pack.r))"
    return made


# The version that waits: by the master's name its document and what its maker says of it.
NEWER: tuple[tuple[Document, str], ...] = ((_newer(), "Wear in the hollows; the roughness curve has a better name"),)

# By project: name, master, parent, set (or a set for each layer), changes, and slots filled by hand: {slot: role}.
CASTS: dict[str, tuple[dict[str, Any], ...]] = {
    "saltmarsh_ferry": (
        {"name": "Deck plate", "master": "plain-solid", "set": "deck_tread_plate"},
        {"name": "Deck plate, worn", "parent": "Deck plate", "changes": {"dull": 2.2, "dirt": 0.7}},
        {"name": "Bell", "master": "plain-solid", "set": "BrassBell", "changes": {"shade": [1, 0.9, 0.7]}},
        # Fed wrongly on purpose: roughness where the pack belongs.
        {"name": "Rope", "master": "plain-solid", "set": "mooring_rope", "slots": {"pack": "roughness"}},
        {"name": "Pier and mud", "master": "wet-ground", "sets": {"ground": "slate-pier", "mud": "tidal-mud"}},
        {"name": "Pier, flooded", "parent": "Pier and mud", "changes": {"water_level": 0.7, "water_amount": 0.6}},
    ),
    "night_orchard": (
        {"name": "Pear leaf", "master": "leaf-card", "set": "pear_leaf_card"},
        {"name": "Pear leaf, autumn", "parent": "Pear leaf", "changes": {"season": "autumn"}},
        {"name": "Lantern", "master": "lamp-glass", "set": "LanternGlass"},
        {"name": "Pot", "master": "plain-solid", "set": "clay_pot_garden"},
    ),
}
