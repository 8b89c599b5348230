"""Layers: whole sheets stacked by masks, flattened into one sheet, so that every back end knows nothing of them.

What a layer calls ``colour`` is called ``mud_colour`` in the flat sheet; each layer but the first gets a row with its
weight, ``mud_weight``, and parameters for its mask. Colours and numbers are mixed, normals mixed and normalised.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from texel.errors import BadDocument, BadExpression
from texel.materials.expression import number_text, parse_expression, text_of
from texel.materials.functions import operations_of, parse_functions
from texel.materials.operations import Operation
from texel.materials.surface import INPUTS
from texel.materials.tree import Call, Name, Node, Swizzle

__all__ = ["MASK_SOURCES", "Origin", "flattened", "origins", "stacked_sheets"]

Document = dict[str, Any]
# Where a layer's mask comes from: vertex colour, a map, or one amount everywhere.
MASK_SOURCES = {
    "none": "{0}_amount", "red": "vertex.r", "green": "vertex.g", "blue": "vertex.b", "alpha": "vertex.a",
    "map": "{0}_mask.r",
}  # fmt: skip
# Inputs that are vectors of length 1.
_NORMALS = tuple(name for name, one in INPUTS.items() if one.meaning == "normal")


class Origin(NamedTuple):
    """Where a row of a flat sheet was written: the layer, and the row or input in it."""

    layer: str
    row: str
    is_input: bool


def renamed(node: Node, names: dict[str, str]) -> Node:
    """The tree with other names."""
    if isinstance(node, Name):
        return replace(node, name=names.get(node.name, node.name))
    if isinstance(node, Swizzle):
        return replace(node, of=renamed(node.of, names))
    if isinstance(node, Call):
        return replace(node, arguments=tuple(renamed(one, names) for one in node.arguments))
    return node


def origins(document: Document) -> dict[str, Origin]:
    """The flat sheet's rows that a person wrote in a layer, by name."""
    origins_by_name = {}
    for layer in document.get("layers", []):
        sheet = layer["sheet"]
        for row in sheet.get("rows", []):
            origins_by_name[f"{layer['name']}_{row['name']}"] = Origin(layer["name"], row["name"], False)
        for name in sheet["inputs"]:
            origins_by_name[f"{layer['name']}_{name}"] = Origin(layer["name"], name, True)
    return origins_by_name


def flattened(document: Document, neutral: dict[str, tuple[float, ...]]) -> Document:
    """A document with layers as one without. neutral: the value of every input that a layer leaves out.

    Raises BadExpression, its row told as the flat sheet names it; BadDocument for two layers of one name.
    """
    layers = document["layers"]
    names = [layer["name"] for layer in layers]
    if len(set(names)) < len(names):
        raise BadDocument("two layers have one name")
    flat: Document = {key: value for key, value in document.items() if key != "layers"}
    flat |= {"slots": [], "parameters": [], "coordinates": [], "rows": [], "inputs": {}}
    known = operations_of(parse_functions(document.get("functions", []), document["name"]).values())
    for layer in layers:
        _add_sheet(flat, layer, list(neutral), known)
    used = [name for name in neutral if any(name in layer["sheet"]["inputs"] for layer in layers)]
    if len(layers) > 1 and "height" not in used:
        used.append("height")
    below = {name: _input(layers[0], name, neutral[name]) for name in used}
    for layer in layers[1:]:
        _add_mask(flat, layer, below["height"], _input(layer, "height", neutral["height"]))
        below = {name: _blended(name, below[name], _input(layer, name, neutral[name]), layer) for name in used}
        for name in used:
            # Each stack of two is a row of its own: short to read, and computed once.
            row = f"{layer['name']}_over_{name}"
            flat["rows"].append({"name": row, "expression": below[name]})
            below[name] = row
    written = {name for layer in layers for name in layer["sheet"]["inputs"]}
    flat["inputs"] = {name: text for name, text in below.items() if name in written}
    return flat


def stacked_sheets(name: str, title: str, sheets: list[tuple[str, str, Document]]) -> Document:
    """A layered master of whole masters' documents, the lowest first, each of (layer name, title, document).

    Each layer but the first lies where the vertex colour's red is. Raises BadDocument for a document that has layers.
    """
    layers = []
    functions: dict[str, Document] = {}
    for layer, words, document in sheets:
        if "layers" in document:
            raise BadDocument("{words} has layers of its own", words=words)
        for one in document.get("functions", []):
            if functions.setdefault(one["name"], one) != one:
                raise BadDocument(
                    "{words} has another {function} than the sheets below it; bring both to one version first",
                    words=words, function=one["name"],
                )  # fmt: skip
        keys = ("slots", "parameters", "coordinates", "rows", "inputs")
        layers.append({"name": layer, "title": words, "sheet": {key: document[key] for key in keys if key in document}})
    for one in layers[1:]:
        one["mask"] = {"source": "red"}
    made = {"format": "fair-texel/master", "version": 1, "name": name, "title": title, "layers": layers}
    return made | ({"functions": list(functions.values())} if functions else {})


def _input(layer: Document, name: str, neutral: tuple[float, ...]) -> str:
    if name in layer["sheet"]["inputs"]:
        return f"{layer['name']}_{name}"
    parts = ", ".join(number_text(part) for part in neutral)
    if name in _NORMALS:
        return f"normalise(vector({parts}))"
    return parts if len(neutral) == 1 else f"rgb({parts})"


def _add_sheet(flat: Document, layer: Document, order: list[str], known: Mapping[str, Operation]) -> None:
    """order: names of inputs, in which their rows come. known: functions."""
    prefix, title, sheet = layer["name"] + "_", layer.get("title") or layer["name"], layer["sheet"]
    own = [one["name"] for kind in ("slots", "parameters", "rows") for one in sheet.get(kind, [])]
    names = {name: prefix + name for name in own}
    coordinates = sheet.get("coordinates") or [{"name": "main"}]
    for one in coordinates:
        given = {key: _renamed_text(one[key], names, prefix + one["name"], known) for key in one if key != "name"}
        flat["coordinates"].append(given | {"name": prefix + one["name"]})
    for one in sheet.get("slots", []):
        where = prefix + (one.get("coordinates") or coordinates[0]["name"])
        told = f"{title}: {one.get('title') or one['name']}"
        flat["slots"].append(one | {"name": prefix + one["name"], "title": told, "coordinates": where})
    for one in sheet.get("parameters", []):
        group = f"{title}, {one['group'].lower()}" if one.get("group") else title
        flat["parameters"].append(one | {"name": prefix + one["name"], "group": group})
    texts = [(row["name"], row["expression"]) for row in sheet.get("rows", [])]
    inputs = [(name, sheet["inputs"][name]) for name in order if name in sheet["inputs"]]
    for name, text in [*texts, *inputs]:
        try:
            tree = parse_expression(text, known)
        except BadExpression as error:
            raise error.of_row(prefix + name) from None
        flat["rows"].append({"name": prefix + name, "expression": text_of(renamed(tree, names))})


def _renamed_text(given: Any, names: dict[str, str], row: str, known: Mapping[str, Operation]) -> Any:
    """An expression with other names; anything else as it is."""
    if not isinstance(given, str):
        return given
    try:
        return text_of(renamed(parse_expression(given, known), names))
    except BadExpression as error:
        raise error.of_row(row) from None


def _add_mask(flat: Document, layer: Document, below: str, own: str) -> None:
    """The weight's row, and what a cast may change about it."""
    name, title, mask = layer["name"], layer.get("title") or layer["name"], layer.get("mask", {})
    source = mask.get("source", "red")

    def number(key: str, words: str, default: float, help_: str) -> None:
        flat["parameters"].append(
            {"name": f"{name}_{key}", "kind": "number", "title": words, "default": mask.get(key, default), "low": 0,
             "high": 1, "group": f"{title}, mask", "help": help_}
        )  # fmt: skip

    if source == "none":
        number("amount", "Amount", 0.5, "How much of the layer lies everywhere")
    if source == "map":
        slot = {"name": f"{name}_mask", "title": f"{title}: mask", "role": "detail_mask", "default": "black"}
        flat["slots"].append(slot | {"coordinates": flat["coordinates"][0]["name"]})
    number("softness", "Softness", 0.5, "How wide the edge is")
    number("contrast", "Contrast", 0.0, "How much of the mask is fully on or off")
    number("edge", "By height", 0.5, "How much the higher surface wins along the edge")
    number("border", "Border", 0.0, "How strongly the edge is tinted")
    flat["parameters"].append(
        {"name": f"{name}_border_colour", "kind": "colour", "title": "Border's tint",
         "default": mask.get("border_colour", [0.4, 0.35, 0.3]), "group": f"{title}, mask"}
    )  # fmt: skip
    given = MASK_SOURCES[source].format(name)
    flat["rows"] += [
        {"name": f"{name}_painted",
         "expression": f"levels({given}, {name}_contrast * 0.499, 1 - {name}_contrast * 0.499)"},
        # The height moves the edge, and leaves what is fully on or off as it is.
        {"name": f"{name}_raised",
         "expression": f"({own} - {below}) * {name}_edge * 4 * {name}_painted * (1 - {name}_painted) + {name}_painted"},
        {"name": f"{name}_weight",
         "expression": f"smoothstep({name}_raised, 0.5 - maximum({name}_softness, 0.001) / 2, "
                       f"0.5 + maximum({name}_softness, 0.001) / 2)"},
    ]  # fmt: skip


def _blended(name: str, below: str, own: str, layer: Document) -> str:
    weight = f"{layer['name']}_weight"
    mixed = f"mix({below}, {own}, {weight})"
    if name in _NORMALS:
        return f"normalise({mixed})"
    if name == "base_color":
        border = f"{layer['name']}_border"
        return f"tint({mixed}, {border}_colour, minimum({border} * 4 * {weight} * (1 - {weight}), 1))"
    return mixed
