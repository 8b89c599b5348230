"""What a new master begins with: a plain surface that works, to be changed."""

from __future__ import annotations

import re

from texel.document_types import MasterDocument
from texel.materials.ready import ready_master

__all__ = ["starter"]

_LONGEST = 40


def starter(title: str, ready: str = "") -> MasterDocument:
    """A master's document for a title; its name is the title in small letters and dashes. ready: the ready-made master
    that it begins as; a plain surface of three maps where it is left out. Raises BadDocument for one there is not.

    >>> starter("Wet Ground!")["name"], starter("Shop window", "glass")["inputs"]["ior"]
    ('wet-ground', 'bend')
    """
    name = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:_LONGEST].strip("-") or "master"
    if ready:
        return {**ready_master(ready), "name": name, "title": title.strip()}
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
