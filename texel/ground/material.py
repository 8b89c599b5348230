"""The layers of a patch as one material: a sheet that reads weight maps and each layer's maps at its own tile size."""

from __future__ import annotations

from typing import Any

from texel.document_types import MasterDocument
from texel.ground.patch import Layer, Patch
from texel.ground.weights import BORDER, EVENLY
from texel.roles import Green

__all__ = ["ground_master", "lost_of", "slot_names"]

_INPUTS = ("base_color", "normal", "occlusion", "roughness", "metallic")


def slot_names(at: int) -> dict[str, str]:
    """Names of the slots of a layer by what they hold: "color" (with the relief in alpha), "normal" and "pack"."""
    return {one: f"layer{at + 1}_{one}" for one in ("color", "normal", "pack")}


def lost_of(patch: Patch) -> list[str]:
    """What the material cannot say of a patch, in words."""
    mixed = [one.name for one in patch.layers if one.repeat != "plain"]
    return [f"{name}: its tiles are not mixed against repetition" for name in mixed]


def _coordinates(at: int, layer: Layer, metres: float) -> dict[str, Any]:
    times = metres / layer.tile
    return {"name": f"layer{at + 1}", "tiling": [times, times], "rotation": layer.turn}


def _relief_rows(patch: Patch) -> list[dict[str, str]]:
    """Weights whose borders follow the relief, as texel.ground.weights.by_relief makes them."""
    rows = []
    width = 1 - (1 - BORDER) * max(one.edge for one in patch.layers)
    for at, layer in enumerate(patch.layers):
        rows += [
            {"name": f"share{at + 1}", "expression": f"minimum(weight{at + 1} * {EVENLY}, 1)"},
            {
                "name": f"raised{at + 1}",
                "expression": f"mix(-1, weight{at + 1} + ({slot_names(at)['color']}.a - 0.5) * {layer.edge:.6g}, "
                f"share{at + 1})",
            },
        ]
    highest = "raised1"
    for at in range(1, len(patch.layers)):
        rows.append({"name": f"highest{at + 1}", "expression": f"maximum({highest}, raised{at + 1})"})
        highest = f"highest{at + 1}"
    for at in range(len(patch.layers)):
        text = f"maximum(raised{at + 1} - {highest} + {width:.6g}, 0) * share{at + 1}"
        rows.append({"name": f"shown{at + 1}", "expression": text})
    return rows


def ground_master(patch: Patch, green: Green = Green.UP) -> MasterDocument:
    """The sheet of a patch. Its slots are ``weights1`` and so on, and those of slot_names for each layer; its first
    coordinates run over the patch once. green: of the normal maps."""
    count = len(patch.layers)
    slots: list[Any] = []
    for at in range(patch.weight_files):
        slots.append(
            {"name": f"weights{at + 1}", "title": f"Weights {at + 1}", "role": "detail_mask", "coordinates": "patch"}
        )
    coordinates: list[Any] = [{"name": "patch"}]
    rows: list[Any] = []
    for at, layer in enumerate(patch.layers):
        coordinates.append(_coordinates(at, layer, patch.metres))
        names, where = slot_names(at), f"layer{at + 1}"
        slots += [
            {"name": names["color"], "title": f"{layer.name}: colour", "role": "base_color", "coordinates": where},
            {
                "name": names["normal"], "title": f"{layer.name}: normal", "role": "normal", "coordinates": where,
                "green": green.value,
            },
            {
                "name": names["pack"], "title": f"{layer.name}: occlusion, roughness, metallic",
                "layout": "occlusion-roughness-metallic", "coordinates": where,
            },
        ]  # fmt: skip
        read = "weights{}.{}".format(*patch.weight_place(at))
        rows.append({"name": f"weight{at + 1}", "expression": read})
    shown = "weight"
    if any(one.edge for one in patch.layers):
        rows += _relief_rows(patch)
        shown = "shown"
    total = " + ".join(f"{shown}{at + 1}" for at in range(count))
    rows.append({"name": "total", "expression": total})
    inputs = {}
    for name in _INPUTS:
        rows += _summed(name, count, shown)
        inputs[name] = f"normalise(sum_{name}{count})" if name == "normal" else f"sum_{name}{count} / total"
    return {
        "format": "fair-texel/master", "version": 1, "name": "ground", "title": patch.name, "slots": slots,
        "coordinates": coordinates, "rows": rows, "inputs": inputs,
    }  # fmt: skip


def _summed(name: str, count: int, shown: str) -> list[dict[str, str]]:
    rows = []
    for at in range(count):
        names = slot_names(at)
        read = {
            "base_color": f"{names['color']}.rgb", "normal": names["normal"], "occlusion": f"{names['pack']}.r",
            "roughness": f"{names['pack']}.g", "metallic": f"{names['pack']}.b",
        }[name]  # fmt: skip
        before = f"sum_{name}{at} + " if at else ""
        rows.append({"name": f"sum_{name}{at + 1}", "expression": f"{before}{read} * {shown}{at + 1}"})
    return rows
