"""Foreign MaterialX as a sheet: graphs become expressions, what they cannot say is listed.

Definitions that come as graphs, the document's own or the standard library's, are read through; so only the nodes that
MaterialX itself defines by code need a word here. v runs up in MaterialX, down in a sheet.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Container
from typing import Any, NamedTuple

import MaterialX as mx
import numpy as np

from texel.colour import decode_srgb
from texel.errors import BadDocument
from texel.materials.exchange.imported import Imported, SheetBuilder, SlotDraft
from texel.materials.exchange.mtlx_affine import Unplaced, placement_of
from texel.materials.exchange.mtlx_nodes import ADDRESSING, SIZES
from texel.materials.exchange.mtlx_operations import TRANSLATED, Unsaid
from texel.materials.exchange.mtlx_surfaces import SURFACES, Surface, by_common_names
from texel.materials.master import DEFAULTS
from texel.materials.simplify import component, constants_of, simplified
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, walk

__all__ = ["read_foreign"]

# Deeper than any graph that a person draws; each level is a node, or a definition that is read through.
_MAX_DEPTH = 120
# Definitions that use others twice, which use others twice, grow without end.
_MAX_NODES = 20_000
# Larger expressions are cut into rows, to stay readable and within what an expression may be.
_LONGEST = 40
_SINGLE_USE = {"texcoord", "geomcolor", "image", "constant", "dot", "convert"}


class _Scope(NamedTuple):
    """A definition that is being read through: the node that stands for it, and the scope in which that stands."""

    node: mx.Node
    outer: _Scope | None

    @property
    def path(self) -> str:
        return f"{self.outer.path if self.outer else ''}|{self.node.getNamePath()}"


def read_foreign(document: mx.Document, material: tuple[str, mx.Node, mx.Node | None]) -> Imported:
    """One material as a master and a cast. Raises BadDocument when its surface is of a kind that is not known."""
    title, node, displacement = material
    return _Reader(document, title).read(node, displacement)


class _Reader:
    def __init__(self, document: mx.Document, title: str):
        self._document = document
        self._sheet = SheetBuilder(title, title)
        self._depth = 0
        self._made: dict[tuple[str, str, str], Node] = {}
        self._interface: dict[str, Node] = {}

    def read(self, node: mx.Node, displacement: mx.Node | None) -> Imported:
        shader, scope = self._shader(node, SURFACES)
        if shader is not None:
            self._read_surface(SURFACES[shader.getCategory()], shader, scope)
        else:
            surface = by_common_names({one.getName(): one.getType() for one in node.getInputs()})
            if surface is None:
                raise BadDocument(
                    "{title}: a surface of kind {getCategory} cannot be read",
                    title=self._sheet.title,
                    getCategory=node.getCategory(),
                )
            self._sheet.lose(f"{node.getCategory()}: a kind of surface that is not known, read by its inputs' names")
            self._read_surface(surface, node, None)
        if displacement is not None:
            self._read_displacement(displacement)
        return self._sheet.done()

    def _shader(self, node: mx.Node, known: Container[str]) -> tuple[mx.Node | None, _Scope | None]:
        """The shader of a known kind that a node stands for, read through definitions; None where there is none."""
        scope: _Scope | None = None
        for _ in range(_MAX_DEPTH):
            if node.getCategory() in known:
                return node, scope
            inner = self._body_of(node)
            output = inner.getOutputs()[0] if inner is not None and inner.getOutputs() else None
            below = inner.getNode(output.getNodeName()) if inner is not None and output is not None else None
            if below is None:
                break
            scope, node = _Scope(node, scope), below
        return None, scope

    def _read_surface(self, surface: Surface, node: mx.Node, scope: _Scope | None) -> None:
        def value(name: str) -> Node:
            given = node.getInput(name)
            return self._port(given, scope) if given is not None else self._default(node, name)

        for name, made in surface.inputs(value).items():
            self._sheet.set_input(name, made)
        for ours, theirs in (("normal", surface.normal), ("coat_normal", surface.coat_normal)):
            given = node.getInput(theirs) if theirs else None
            if given is not None and (given.getValueString() or _is_connected(given)):
                made = self._normal(self._port(given, scope))
                if self._sheet.reads_a_map(made):
                    self._sheet.inputs[ours] = made
                elif constants_of(made) != (0.0, 0.0, 1.0):
                    self._sheet.lose(f"{theirs}: it reads no normal map")
        coloured = constants_of(value("opacity")) if "opacity" in surface.known else None
        if node.getCategory() == "standard_surface" and (coloured is None or len(set(coloured)) > 1):
            self._sheet.lose("opacity: it has a colour of its own; its red is taken for all")
        mode, cut_off = surface.opacity(value)
        if mode != "opaque":
            self._sheet.opacity = {"mode": mode, "cut_off": cut_off}
        for given in node.getInputs():
            if given.getType() in ("string", "filename"):
                self._sheet.lose(f"{given.getName()}: words, which a sheet does not keep")
            elif given.getName() not in surface.known and not self._is_default(node, given, scope):
                self._sheet.lose(f"{given.getName()}: the sheet's surface has no such input")

    def _is_default(self, node: mx.Node, given: mx.Input, scope: _Scope | None) -> bool:
        if _is_connected(given):
            return False
        return constants_of(self._port(given, scope)) == constants_of(self._default(node, given.getName()))

    def _normal(self, made: Node) -> Node:
        """A vector of -1 to 1 that was unpacked by hand, as slot * 2 - 1, is a normal map."""
        if isinstance(made, Call) and made.operation == "add" and made.arguments[1] == Constant(-1.0):
            inner = made.arguments[0]
            if isinstance(inner, Call) and inner.operation == "multiply" and inner.arguments[1] == Constant(2.0):
                return self._as_normal_map(inner.arguments[0]) or made
        return made

    def _as_normal_map(self, made: Node) -> Node | None:
        if isinstance(made, Swizzle) and made.letters[:3] == "rgb" and isinstance(made.of, Name):
            slot = self._sheet.slots.get(made.of.name)
            if slot is not None:
                if slot.srgb:
                    self._sheet.lose(f"{slot.title}: a normal map told to be in sRGB; it is read as data")
                    slot.srgb = False
                slot.is_normal = True
                return Swizzle(made.of, "rgb")
        return None

    def _read_displacement(self, node: mx.Node) -> None:
        shader, scope = self._shader(node, ("displacement",))
        given = shader.getInput("displacement") if shader is not None else None
        if shader is None or given is None:
            self._sheet.lose(f"Displacement: a node of kind {node.getCategory()} cannot be read")
            return
        if given.getType() != "float":
            self._sheet.lose("Displacement: only heights can be read, no vectors")
            return
        height = self._port(given, scope)
        if isinstance(height, Call) and height.operation == "subtract" and height.arguments[1] == Constant(0.5):
            # Centred already, as ours are.
            height = height.arguments[0]
        else:
            self._sheet.lose("Displacement: a height of 0.5 stays in place here, so the surface lies half as high")
        self._sheet.inputs["height"] = height
        scale = shader.getInput("scale")
        self._sheet.inputs["height_scale"] = self._port(scale, scope) if scale is not None else Constant(1.0)

    # What goes into an input.

    def _port(self, port: mx.Input, scope: _Scope | None) -> Node:
        if port.getInterfaceName():
            return self._of_interface(port, scope)
        if port.getNodeGraphString():
            graph = self._document.getNodeGraph(port.getNodeGraphString())
            if graph is None:
                return self._missing(port, f"there is no graph {port.getNodeGraphString()}")
            return self._output(graph, port.getOutputString(), None, port)
        if port.getNodeName():
            holder = port.getParent().getParent()
            node = holder.getNode(port.getNodeName())
            if node is None:
                return self._missing(port, f"there is no node {port.getNodeName()}")
            return self._node(node, port.getOutputString(), scope)
        return self._literal(port)

    def _output(self, graph: mx.NodeGraph, name: str, scope: _Scope | None, port: mx.Input | mx.Node) -> Node:
        outputs = graph.getOutputs()
        output = graph.getOutput(name) if name else outputs[0] if outputs else None
        node = graph.getNode(output.getNodeName()) if output is not None and output.getNodeName() else None
        if output is not None and node is None and output.getInterfaceName():
            source = graph.getInput(output.getInterfaceName())
            if source is not None:
                return self._port(source, scope)
        if output is None or node is None:
            return self._missing(port, f"graph {graph.getName()} has no output {name}")
        return self._node(node, output.getOutputString(), scope)

    def _of_interface(self, port: mx.Input, scope: _Scope | None) -> Node:
        name = port.getInterfaceName()
        if scope is not None:
            given = scope.node.getInput(name)
            return self._port(given, scope.outer) if given is not None else self._default(scope.node, name)
        given = port.getInterfaceInput()
        if given is None:
            return self._missing(port, f"there is no input {name} around it")
        if given.getNodeName() or given.getNodeGraphString():
            return self._port(given, None)
        key = given.getNamePath()
        if key not in self._interface:
            self._interface[key] = self._parameter(given)
        return self._interface[key]

    def _default(self, node: mx.Node, name: str) -> Node:
        definition = node.getNodeDef()
        given = definition.getActiveInput(name) if definition is not None else None
        if given is None:
            return self._missing(node, f"nothing says what its {name} is")
        if given.getDefaultGeomPropString() or given.getAttribute("defaultgeomprop"):
            return _UV_UP
        return self._literal(given)

    def _literal(self, port: mx.Input) -> Node:
        kind, text = port.getType(), port.getValueString()
        if kind == "boolean":
            return Constant(float(text == "true"))
        try:
            parts = [float(part) for part in text.split(",")] if text else [0.0] * SIZES.get(kind, 1)
        except ValueError:
            return self._missing(port, f"{text[:40]!r} is no number")
        if not all(map(math.isfinite, parts)):
            return self._missing(port, f"{text[:40]!r} is no number that can be worked with")
        if kind in ("color3", "color4") and port.getActiveColorSpace() == "srgb_texture":
            parts = [*(float(part) for part in decode_srgb(np.array(parts[:3], np.float64))), *parts[3:]]
        joined = tuple(Constant(round(part, 7)) for part in parts)
        if len(joined) == 1:
            return joined[0]
        return simplified(Call("rgb" if len(joined) == 3 else "vector", joined))

    def _missing(self, element: mx.Element, why: str) -> Node:
        self._sheet.lose(f"{element.getNamePath()}: {why}; it is read as 0")
        return Constant(0.0)

    def _parameter(self, given: mx.Input) -> Node:
        """A value that a graph shows to the outside becomes a parameter of the sheet."""
        kind = {"float": "number", "color3": "colour", "vector2": "vector", "boolean": "switch", "integer": "number"}
        value = constants_of(self._literal(given))
        if given.getType() not in kind or value is None:
            return self._literal(given)
        size = SIZES.get(given.getType(), 1)
        value = value * size if len(value) == 1 else value
        name = self._sheet.free_name(given.getName())
        one = {
            "name": name, "kind": kind[given.getType()], "title": given.getAttribute("uiname") or given.getName(),
            "group": given.getAttribute("uifolder"), "help": given.getAttribute("doc"),
            "default": bool(value[0]) if given.getType() == "boolean" else list(value) if size > 1 else value[0],
        }  # fmt: skip
        if given.getType() != "boolean":
            one |= _limits(given, value)
        self._sheet.parameters[name] = one
        return Name(name)

    # What a node makes.

    def _node(self, node: mx.Node, output: str, scope: _Scope | None) -> Node:
        key = (node.getNamePath(), output, scope.path if scope else "")
        if key not in self._made:
            if len(self._made) > _MAX_NODES:
                raise BadDocument(
                    "{title}: its definitions hold more than {max_nodes} nodes",
                    title=self._sheet.title,
                    max_nodes=_MAX_NODES,
                )
            self._depth += 1
            if self._depth > _MAX_DEPTH:
                raise BadDocument(
                    "{title}: its nodes are nested deeper than {max_depth}, or in a circle",
                    title=self._sheet.title,
                    max_depth=_MAX_DEPTH,
                )
            self._made[key] = self._as_row(node, simplified(self._make(node, output, scope)), scope)
            self._depth -= 1
        return self._made[key]

    def _as_row(self, node: mx.Node, made: Node, scope: _Scope | None) -> Node:
        """What several nodes read is a row of its own, and what grows too long."""
        count = sum(1 for _ in walk(made))
        shared = scope is None and len(node.getDownstreamPorts()) > 1 and node.getCategory() not in _SINGLE_USE
        if count < 3 or (count <= _LONGEST and not shared) or _reads_raw_uv(made):
            return made
        if constants_of(made) is not None:
            return made
        name = self._sheet.free_name(node.getName())
        self._sheet.rows[name] = made
        return Name(name)

    def _make(self, node: mx.Node, output: str, scope: _Scope | None) -> Node:
        category = node.getCategory()

        def value(name: str) -> Node:
            given = node.getInput(name)
            return self._port(given, scope) if given is not None else self._default(node, name)

        def size(name: str) -> int:
            given = node.getInput(name)
            if given is None and node.getNodeDef() is not None:
                given = node.getNodeDef().getActiveInput(name)
            return SIZES.get(given.getType(), 1) if given is not None else 1

        if category == "image":
            return self._image(node, scope)
        if category == "texcoord" or (category == "geompropvalue" and node.getType() == "vector2"):
            return self._texture_coordinate(node)
        if category == "geomcolor":
            return {1: Swizzle(Name("vertex"), "r"), 3: Swizzle(Name("vertex"), "rgb")}.get(
                SIZES.get(node.getType(), 4), Name("vertex")
            )
        if category == "normalmap":
            return self._normal_map(node, value)
        if category in TRANSLATED:
            try:
                return TRANSLATED[category](value, size, node, output)
            except Unsaid as reason:
                return self._stand_in(node, str(reason))
        body = self._body_of(node)
        if body is not None:
            return self._output(body, output, _Scope(node, scope), node)
        return self._stand_in(node, f"rows have nothing like {category}")

    def _body_of(self, node: mx.Node) -> mx.NodeGraph | None:
        definition = node.getNodeDef()
        body = definition.getImplementation() if definition is not None else None
        return body if body is not None and body.isA(mx.NodeGraph) else None

    def _stand_in(self, node: mx.Node, why: str) -> Node:
        """A parameter in place of what cannot be said, so that a person can set it."""
        size = SIZES.get(node.getType(), 1)
        name = self._sheet.free_name(node.getName())
        kind = {1: "number", 2: "vector"}.get(size, "colour")
        self._sheet.parameters[name] = {
            "name": name, "kind": kind, "title": node.getName(), "group": "Not read",
            "help": f"Stands for a node of kind {node.getCategory()}.",
            "default": 0.5 if size == 1 else [0.5] * min(size, 3),
        }  # fmt: skip
        self._sheet.lose(f"{node.getNamePath()}: {why}; the parameter {name} stands for it")
        if size < 4:
            return Name(name)
        return Call("vector", (*(Swizzle(Name(name), letter) for letter in "rgb"), Constant(1.0)))

    def _texture_coordinate(self, node: mx.Node) -> Node:
        index = node.getInput("index")
        if index is not None and index.getValueString() not in ("", "0"):
            self._sheet.lose(f"{node.getNamePath()}: coordinates {index.getValueString()} are read as the first ones")
        return _UV_UP

    def _normal_map(self, node: mx.Node, value: Callable[[str], Any]) -> Node:
        made = value("in")
        space = node.getInput("space")
        if space is not None and space.getValueString() not in ("", "tangent"):
            self._sheet.lose(
                f"{node.getNamePath()}: a normal map in {space.getValueString()} space is read as tangent's"
            )
        as_map = self._as_normal_map(made)
        if as_map is None:
            unpacked = Call("subtract", (Call("multiply", (made, Constant(2.0))), Constant(1.0)))
            as_map = Call("normalise", (unpacked,))
        scale = component(value("scale"), "r") if node.getInput("scale") is not None else Constant(1.0)
        return as_map if scale == Constant(1.0) else Call("strengthen", (as_map, scale))

    def _image(self, node: mx.Node, scope: _Scope | None) -> Node:
        given = node.getInput("file")
        holder, at = given, scope
        while holder is not None and holder.getInterfaceName():
            name = holder.getInterfaceName()
            if at is not None:
                holder, at = at.node.getInput(name), at.outer
            else:
                holder = holder.getInterfaceInput()
        # Documents from other systems part folders by backslashes.
        file = (holder.getResolvedValueString() if holder is not None else "").replace("\\", "/")
        wanted = holder.getName() if holder is not None and holder is not given else node.getName()
        if wanted in ("file", "image") and scope is not None:
            wanted = scope.node.getName()
        size = SIZES.get(node.getType(), 3)
        srgb = size >= 3 and node.getType().startswith("color") and self._is_srgb(node, given, holder)
        place = self._placed(node, scope)
        wrap, kind = self._sampler(node)
        for slot in self._sheet.slots.values():
            known = (slot.file, slot.coordinates, slot.srgb, slot.wrap, slot.filter)
            if file and known == (file, place, srgb, wrap, kind):
                slot.channels = max(slot.channels, size)
                return _letters(slot.name, size)
        name = self._sheet.free_name(wanted)
        default = self._slot_default(node, scope)
        self._sheet.slots[name] = SlotDraft(
            name, wanted, size, srgb, default, place, file, wrap=wrap, filter=kind
        )  # fmt: skip
        return _letters(name, size)

    def _is_srgb(self, node: mx.Node, given: mx.Input | None, holder: mx.Input | None) -> bool:
        space = ""
        for one in (holder, given):
            if one is not None and not space:
                space = one.getActiveColorSpace()
        if space not in ("", "none", "srgb_texture", "lin_rec709", "lin_rec709_scene"):
            self._sheet.lose(f"{node.getNamePath()}: the colour space {space} is read as linear light of BT.709")
        return space == "srgb_texture"

    def _placed(self, node: mx.Node, scope: _Scope | None) -> str:
        given = node.getInput("texcoord")
        uv = self._port(given, scope) if given is not None else _UV_UP
        known = {name: _components(one["default"]) for name, one in self._sheet.parameters.items()}
        used = sorted({one.name for one in walk(uv) if isinstance(one, Name)} & set(known))
        if used:
            self._sheet.lose(f"{node.getNamePath()}: its coordinates keep {', '.join(used)} as they begin")
        try:
            tiling, offset, degrees = placement_of(uv, known)
        except Unplaced as reason:
            self._sheet.lose(f"{node.getNamePath()}: {reason}; it is read where it lies")
            tiling, offset, degrees = (1.0, 1.0), (0.0, 0.0), 0.0
        for name, usual in (("layer", ""), ("framerange", ""), ("frameoffset", "0")):
            word = _word(node, name)
            if word not in ("", usual):
                self._sheet.lose(f"{node.getNamePath()}: its {name} {word} is passed over")
        return self._sheet.place(tiling, offset, degrees)

    def _sampler(self, node: mx.Node) -> tuple[str, str]:
        """How an image is wrapped and filtered, in our words."""
        ours = {theirs: word for word, theirs in ADDRESSING.items()}
        across, down = (_word(node, mode) or "periodic" for mode in ("uaddressmode", "vaddressmode"))
        if across not in ours:
            self._sheet.lose(f"{node.getNamePath()}: beyond its edge it repeats, instead of {across}")
        elif across != down:
            self._sheet.lose(f"{node.getNamePath()}: beyond its edge it goes on as across, instead of {down} downwards")
        return ours.get(across, "repeat"), "nearest" if _word(node, "filtertype") == "closest" else "linear"

    def _slot_default(self, node: mx.Node, scope: _Scope | None) -> str:
        given = node.getInput("default")
        value = constants_of(self._port(given, scope)) if given is not None else (0.0,)
        mean = sum(value[:3]) / len(value[:3]) if value else 0.5
        if value == (0.5, 0.5, 1.0):
            # A normal map's.
            return "mid"
        default = "black" if mean < 0.25 else "white" if mean > 0.75 else "mid"
        if value is None or any(abs(part - DEFAULTS[default]) > 0.02 for part in value[:3]):
            told = "computed" if value is None else ", ".join(f"{part:g}" for part in value)
            self._sheet.lose(f"{node.getNamePath()}: without its map it is {told}; a slot is {default} then")
        return default


# Texture coordinates as MaterialX has them.
_UV_UP = Call("vector", (Swizzle(Name("uv"), "r"), Call("invert", (Swizzle(Name("uv"), "g"),))))


def _word(node: mx.Node, name: str) -> str:
    one = node.getInput(name)
    return one.getResolvedValueString() if one is not None else ""


def _is_connected(given: mx.Input) -> bool:
    return bool(given.getNodeName() or given.getNodeGraphString() or given.getInterfaceName())


def _reads_raw_uv(node: Node) -> bool:
    return any(isinstance(one, Name) and one.name == "uv" for one in walk(node))


def _letters(slot: str, size: int) -> Node:
    return Swizzle(Name(slot), "rgba"[:size])


def _components(value: float | list[float]) -> tuple[float, ...]:
    return tuple(float(part) for part in value) if isinstance(value, list) else (float(value),)


def _limits(given: mx.Input, value: tuple[float, ...]) -> dict[str, float]:
    """Hard and soft range as far as they are told and hold the value."""
    limits = {}
    keys = {"low": "uimin", "high": "uimax", "soft_low": "uisoftmin", "soft_high": "uisoftmax", "step": "uistep"}
    for key, attribute in keys.items():
        text = given.getAttribute(attribute).split(",")[0]
        try:
            limits[key] = float(text)
        except ValueError:
            continue
    if limits.get("low", min(value)) > min(value):
        del limits["low"]
    if limits.get("high", max(value)) < max(value):
        del limits["high"]
    if limits.get("step", 1.0) <= 0:
        del limits["step"]
    if given.getType() == "color3":
        limits.setdefault("low", min(0.0, *value))
        limits.setdefault("high", max(1.0, *value))
    return limits
