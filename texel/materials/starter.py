"""What a new master begins with: a plain surface that works, to be changed."""

from __future__ import annotations

import re

from texel.document_types import MasterDocument

__all__ = ["starter"]

_LONGEST = 40


def starter(title: str) -> MasterDocument:
    """A master's document for a title; its name is the title in small letters and dashes.

    >>> starter("Wet Ground!")["name"]
    'wet-ground'
    """
    name = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:_LONGEST].strip("-") or "master"
    return {
        "format": "fair-texel/master",
        "version": 1,
        "name": name,
        "title": title.strip(),
        "slots": [
            {"name": "colour", "title": "Colour", "role": "base_color"},
            {"name": "pack", "title": "Occlusion, roughness, metallic", "layout": "occlusion-roughness-metallic"},
            {"name": "bumps", "title": "Normal", "role": "normal"},
        ],
        "parameters": [
            {"name": "tiling", "kind": "vector", "default": [1, 1], "title": "Tiling", "group": "Coordinates"},
            {"name": "shade", "kind": "colour", "default": [1, 1, 1], "title": "Tint", "group": "Colour"},
            {
                "name": "bump",
                "kind": "number",
                "default": 1,
                "low": 0,
                "high": 4,
                "title": "Relief",
                "group": "Surface",
            },
        ],
        "coordinates": [{"name": "main", "tiling": "tiling"}],
        "inputs": {
            "base_color": "colour * shade",
            "metallic": "pack.b",
            "roughness": "pack.g",
            "normal": "strengthen(bumps, bump)",
            "occlusion": "pack.r",
        },
    }
