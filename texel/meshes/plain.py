"""A set as a material without a master of its own: every map that it has goes where the standard surface takes it."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from texel.document_types import MasterDocument, SlotDocument
from texel.roles import Role

__all__ = ["plain_master", "plain_order"]

_PACKED = {Role.OCCLUSION, Role.ROUGHNESS, Role.GLOSSINESS, Role.METALLIC}


def plain_master(roles: Collection[Role], relief: bool = False) -> MasterDocument:
    """A master whose slots are what a set with maps of these roles can fill. relief: with its height, too.

    >>> document = plain_master({Role.BASE_COLOR, Role.GLOSSINESS})
    >>> [slot["name"] for slot in document["slots"]], sorted(document["inputs"])
    (['colour', 'pack'], ['base_color', 'metallic', 'occlusion', 'roughness'])
    """
    slots: list[SlotDocument] = []
    inputs: dict[str, str] = {}
    if Role.BASE_COLOR in roles:
        slots.append({"name": "colour", "title": "Colour", "role": "base_color"})
        inputs["base_color"] = "colour"
    if _PACKED & set(roles):
        slots.append(
            {"name": "pack", "title": "Occlusion, roughness, metallic", "layout": "occlusion-roughness-metallic"}
        )
        inputs |= {"occlusion": "pack.r", "roughness": "pack.g", "metallic": "pack.b"}
    if Role.NORMAL in roles:
        slots.append({"name": "bumps", "title": "Normal", "role": "normal"})
        inputs["normal"] = "bumps"
    if Role.EMISSIVE in roles:
        slots.append({"name": "glow", "title": "Emissive", "role": "emissive"})
        inputs["emissive"] = "glow"
    if relief and Role.HEIGHT in roles:
        slots.append({"name": "relief", "title": "Height", "role": "height", "default": "mid"})
        inputs["height"] = "relief"
    document: MasterDocument = {
        "format": "fair-texel/master", "version": 1, "name": "plain-set", "title": "Plain set", "slots": slots,
        "inputs": inputs,
    }  # fmt: skip
    if Role.OPACITY in roles:
        slots.append({"name": "cut", "title": "Opacity", "role": "opacity"})
        inputs["opacity"] = "cut"
        document["opacity"] = {"mode": "cut_out"}
    if not inputs:
        inputs["base_color"] = "0.5"
    return document


def plain_order(name: str, roles: Collection[Role], relief: bool = False) -> dict[str, Any]:
    """A set without a cast as it is ordered (texel.materials.delivered.cast_order): the plain master, filled from it.

    >>> plain_order("deck", {Role.NORMAL})["slots"]
    {'bumps': {'set': 'deck'}}
    """
    master = plain_master(roles, relief)
    slots = {slot["name"]: {"set": name} for slot in master.get("slots", [])}
    return {"name": name, "master": master, "changes": {}, "slots": slots}
