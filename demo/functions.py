"""A function of the made-up studio, and the two masters that call it."""

from __future__ import annotations

from typing import Any

__all__ = ["CALLERS", "FUNCTIONS"]

Document = dict[str, Any]

_WETTED: Document = {
    "format": "fair-texel/function", "version": 1, "name": "wetted", "title": "Wetted",
    "help": "A colour under a film of water: darker, and fuller in its hue.",
    "inputs": [
        {"name": "colour", "title": "Colour", "takes": "vector3"},
        {"name": "film", "title": "Film", "takes": "number", "default": "0.5", "help": "0 dry, 1 soaked"},
        {"name": "depth", "title": "Depth", "takes": "number", "default": "0.6", "help": "how dark soaked is"},
    ],
    "rows": [
        {"name": "darker", "expression": "colour * mix(1, depth, film)"},
        {"name": "fuller", "expression": "saturate(darker, 1 + 0.3 * film)"},
    ],
    "result": "clamp(fuller, 0, 1)",
}  # fmt: skip
FUNCTIONS: tuple[Document, ...] = (_WETTED,)


def _stone(name: str, title: str, film: str) -> Document:
    return {
        "format": "fair-texel/master", "version": 1, "name": name, "title": title,
        "functions": [{**_WETTED, "number": "1.0.0"}],
        "slots": [
            {"name": "colour", "title": "Colour", "role": "base_color"},
            {"name": "pack", "title": "Occlusion, roughness, metallic", "layout": "occlusion-roughness-metallic"},
            {"name": "bumps", "title": "Normal", "role": "normal"},
        ],
        "parameters": [
            {"name": "rain", "kind": "number", "title": "Rain", "default": 0.6, "low": 0, "high": 1, "group": "Water"},
        ],
        "rows": [{"name": "film", "expression": film}],
        "inputs": {
            "base_color": "wetted(colour, film, 0.55)", "roughness": "mix(pack.g, 0.08, film)", "normal": "bumps",
            "occlusion": "pack.r",
        },
    }  # fmt: skip


CALLERS: tuple[Document, ...] = (
    _stone("quay-stone", "Quay Stone", "rain * pack.r"),
    _stone("shed-board", "Shed Board", "rain * smoothstep(pack.g, 0.3, 0.9)"),
)
