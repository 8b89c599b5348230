"""Write docs/material-formats.md: what of MaterialX's standard nodes is read, and what of a sheet each format holds.

Found by trying: every definition of MaterialX's own library is read as a material, every input of a sheet is written.
"""

from __future__ import annotations

from collections import defaultdict
from pathlib import Path

import MaterialX as mx

from texel.errors import TexelError
from texel.materials import INPUTS, parse_master
from texel.materials.exchange import BakeOrder, FilledCast, export, export_maps, read_materialx
from texel.materials.exchange.mtlx_document import library
from texel.materials.exchange.mtlx_surfaces import SURFACES
from texel.materials.versions import sample_maps

__all__ = ["OUTPUT", "table_text"]

OUTPUT = Path(__file__).resolve().parent.parent / "docs" / "material-formats.md"
_VALUES = ("float", "color3", "color4", "vector2", "vector3", "vector4", "integer", "boolean")
# Inputs that are given a map where they can take one, so that nothing is computed away.
_FED = ("in", "in1", "bg", "fg", "texcoord")
_FORMATS = ("mtlx", "openpbr", "glsl", "json", "glb", "usda", "maps")


def document_of(definition: mx.NodeDef) -> str | None:
    """A material in which the node goes into roughness or colour; None for a node that makes no value."""
    outputs = definition.getActiveOutputs()
    kind = outputs[0].getType() if outputs else ""
    if kind not in _VALUES:
        return None
    document = mx.createDocument()
    document.setColorSpace("lin_rec709")
    graph = document.addNodeGraph("graph")
    several = len(outputs) > 1
    node = graph.addNode(definition.getNodeString(), "probe", "multioutput" if several else kind)
    node.setNodeDefString(definition.getName())
    for given in definition.getActiveInputs():
        name, taken = given.getName(), given.getType()
        if taken == "filename":
            node.addInput(name, taken).setValueString("map.png")
        elif taken in _VALUES[:6] and name in _FED and not given.getDefaultGeomPropString():
            image = graph.addNode("image", f"map_{name}", taken)
            image.addInput("file", "filename").setValueString(f"{name}.png")
            node.addInput(name, taken).setNodeName(image.getName())
    last, output, wanted = node, outputs[0].getName() if several else "", kind
    if kind not in ("float", "color3"):
        turned = "color3" if kind == "vector3" else "float"
        category = "convert" if kind in ("vector3", "integer", "boolean") else "extract"
        last = graph.addNode(category, "turned", turned)
        given = last.addInput("in", kind)
        given.setNodeName("probe")
        if output:
            given.setOutputString(output)
        if category == "extract":
            last.addInput("index", "integer").setValueString("1")
        output, wanted = "", turned
    end = graph.addOutput("out", wanted)
    end.setNodeName(last.getName())
    if output:
        end.setOutputString(output)
    return _material(document, "standard_surface", "specular_roughness" if wanted == "float" else "base_color", wanted)


def _material(document: mx.Document, surface: str, name: str, kind: str, value: str = "") -> str:
    shader = document.addNode(surface, "surface", "surfaceshader")
    given = shader.addInput(name, kind)
    if value:
        given.setValueString(value)
    else:
        given.setNodeGraphString("graph")
        given.setOutputString("out")
    material = document.addNode("surfacematerial", "material", "material")
    material.addInput("surfaceshader", "surfaceshader").setNodeName("surface")
    text: str = mx.writeToXmlString(document)
    return text


def _read(text: str) -> tuple[str, str]:
    """How a document is read, and what is said of it."""
    try:
        (material,) = read_materialx(text, "it")
    except TexelError as error:
        return "refused", str(error).rpartition(": ")[2]
    if not material.lost:
        return "read", ""
    stands = "stands for it" in material.lost[0]
    return ("stands in" if stands else "partly"), material.lost[0].split(": ", 1)[-1]


def _nodes() -> list[str]:
    nodes: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    for definition in library().getNodeDefs():
        text = document_of(definition)
        if text is not None:
            kind = definition.getActiveOutputs()[0].getType()
            how = _read(text)[0]
            if kind not in nodes[definition.getNodeString()][how]:
                nodes[definition.getNodeString()][how].append(kind)
    lines = ["| node | read | partly | a parameter stands in | refused |", "| --- | --- | --- | --- | --- |"]
    for category in sorted(nodes):
        told = [", ".join(sorted(nodes[category][how])) for how in ("read", "partly", "stands in", "refused")]
        lines.append(f"| `{category}` | {' | '.join(told)} |")
    return lines


_SAMPLE = {"float": "0.375", "color3": "0.25, 0.5, 0.75", "integer": "1", "boolean": "true", "vector3": "0.5, 0.5, 1",
           "vector2": "0.25, 0.75"}  # fmt: skip


def _surfaces() -> list[str]:
    lines = ["| surface | read | told as lost |", "| --- | --- | --- |"]
    for category in SURFACES:
        definition = next(one for one in library().getNodeDefs() if one.getNodeString() == category)
        held: dict[bool, list[str]] = {True: [], False: []}
        for given in definition.getActiveInputs():
            sample = _SAMPLE.get(given.getType())
            if sample is not None and given.getName() != SURFACES[category].normal:
                how, _ = _read(_material(mx.createDocument(), category, given.getName(), given.getType(), sample))
                held[how == "read"].append(given.getName())
        held[True].append(SURFACES[category].normal)
        lines.append(f"| `{category}` | {', '.join(sorted(held[True]))} | {', '.join(sorted(held[False]))} |")
    return lines


def _inputs() -> list[str]:
    lines = [f"| input | {' | '.join(_FORMATS)} |", f"| --- |{' --- |' * len(_FORMATS)}"]
    for name in INPUTS:
        lines.append(f"| {INPUTS[name].label} | {' | '.join(_written(name, kind) for kind in _FORMATS)} |")
    return lines


def _written(name: str, kind: str) -> str:
    """How a format holds an input that varies over the surface."""
    one = INPUTS[name]
    slot = {"name": "dirt", "role": "normal" if one.meaning == "normal" else "detail_mask"}
    inputs = {name: "dirt" if one.meaning == "normal" else "rgb(dirt, dirt, 1)" if one.size == 3 else "dirt * 0.5"}
    whole = name.removesuffix("_strength").removesuffix("_scale")
    if whole != name:
        inputs[whole] = "dirt" if whole == "normal" else "rgb(1, dirt.r, 0)" if whole == "emissive" else "dirt.r"
        slot["role"] = "normal" if whole == "normal" else "detail_mask"
        inputs[name] = "dirt.r * 0.5"
    opacity = {"mode": "blend"} if name == "opacity" else {}
    master = parse_master(
        {"format": "fair-texel/master", "version": 1, "name": "probe", "slots": [slot], "inputs": inputs,
         "opacity": opacity}
    )  # fmt: skip
    casts = [FilledCast("Plain", {}, sample_maps(master, 8))]
    made = export_maps(master, casts, BakeOrder(8, 8)) if kind == "maps" else export(master, kind, "probe", casts, 8)
    if any(line.startswith(f"{one.label}:") for line in made.lost):
        return "told as lost"
    if kind in ("usda", "maps") or (made.baked and name in made.baked["Plain"]):
        return "baked"
    return "baked" if kind == "glb" and name.endswith("_strength") else "written"


def table_text() -> str:
    return "\n".join(
        [
            "# What of materials is read and written", "",
            "Made by `python -m ground.material_table`, which tries each of them; a test keeps it true.", "",
            "## Inputs of a sheet, where they vary over the surface", "", *_inputs(), "",
            "Numbers that do not vary go into glTF's factors as well: specular, coat, coat roughness and sheen. What a "
            "format does not hold is told with every file.", "",
            "## Surfaces of MaterialX", "", *_surfaces(), "",
            "## Nodes of MaterialX's standard library, by the type of what they make", "",
            "Read: fully, in the operations of a sheet. Partly: with something told as lost. Where a parameter stands "
            "in, a person can set it. Definitions made of other nodes are read through.", "",
            *_nodes(), "",
        ]
    )  # fmt: skip


if __name__ == "__main__":
    OUTPUT.write_text(table_text())
