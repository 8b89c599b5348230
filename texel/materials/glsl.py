"""The GLSL back end: a sheet as one plain function of GLSL ES 3.00, with a table of its uniforms."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from texel.materials.defined import trees_of
from texel.materials.kinds import Kinds
from texel.materials.master import INPUTS, Master
from texel.materials.operations import MAP, OPERATIONS, Operation
from texel.materials.starts import STARTS, flat_parts
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Shader", "shader_of"]

_MAP_TYPE = "sampler2D"
_TYPES = {1: "float", 2: "vec2", 3: "vec3", 4: "vec4"}


_PLACING = """\
vec2 ft_turn(vec2 p, float degrees) {
  float c = cos(radians(degrees)), s = sin(radians(degrees));
  return vec2(c * p.x - s * p.y, s * p.x + c * p.y);
}
vec2 ft_place(vec2 uv, vec2 tiling, vec2 offset, float degrees) { return ft_turn(uv * tiling, degrees) + offset; }
"""
# What a name within a definition stands for: its text and size, or a slot.
Bound = Mapping[str, "tuple[str, int] | str"]


@dataclass(frozen=True)
class Shader:
    """code: helpers, uniforms, ``struct FtPlace`` (the starts of texel.materials.starts), ``struct FtSurface`` and
    ``FtSurface ft_surface(FtPlace at)``; also ``ft_surface(vec2 uv, vec2 uv1, vec4 vertex)``, as on a flat square.

    uniforms: name, type, and what each stands for; of maps how they are to be wrapped and filtered. samplers: uniform
    by slot. v of the coordinates runs down.
    """

    code: str
    uniforms: tuple[dict[str, Any], ...]
    samplers: dict[str, str]

    def document(self) -> dict[str, Any]:
        return {"code": self.code, "uniforms": list(self.uniforms), "samplers": self.samplers}


class _Printer:
    """Prints trees; gathers the functions that they call, each before those that call it."""

    def __init__(self, master: Master):
        self.master, self.kinds = master, Kinds(master)
        self.functions: dict[str, None] = {}
        # Slots that are read where their own coordinates are.
        self.slots: set[str] = set()
        self._defined: dict[tuple[object, ...], str] = {}
        self._brought: list[Operation] = []

    def number(self, value: float) -> str:
        text = repr(float(value))
        return text if "." in text or "e" in text or "inf" in text else f"{text}.0"

    def number_of(self, function: Operation) -> int:
        """Of a sheet's function, or of one within it."""
        if function not in self._brought:
            self._brought.append(function)
        return self._brought.index(function)

    def need(self, name: str, size: int) -> None:
        """The functions of an operation, for values of a size."""
        operation = OPERATIONS[name]
        for other, fixed in operation.needs:
            self.need(other, fixed or size)
        if operation.helpers is not None:
            self.functions[operation.helpers(size)] = None

    def print(self, node: Node, bound: Bound | None = None) -> tuple[str, int]:
        """The expression and its size. bound: what names stand for within a definition."""
        if isinstance(node, Constant):
            text = self.number(node.value)
            return (f"({text})" if node.value < 0 else text), 1
        if isinstance(node, Name):
            return self.named(node.name, bound)
        if isinstance(node, Swizzle):
            return self.swizzle(node, bound)
        return self.call(node, bound)

    def named(self, name: str, bound: Bound | None) -> tuple[str, int]:
        master = self.master
        if bound is not None:
            given = bound.get(name)
            if isinstance(given, tuple):
                return given
        elif name in master.slots:
            size = master.slots[name].size
            self.slots.add(name)
            return f"s_{name}.{'rgba'[:size]}", size
        elif name in master.parameters:
            return f"u_{name}", master.parameters[name].size
        elif name in master.rows:
            return f"r_{name}", self.kinds.of(Name(name)).size
        return f"ft_at.{name}", STARTS[name].size

    def swizzle(self, node: Swizzle, bound: Bound | None) -> tuple[str, int]:
        count = len(node.letters)
        if isinstance(node.of, Name) and bound is None and node.of.name in self.master.slots:
            self.slots.add(node.of.name)
            return f"s_{node.of.name}.{node.letters}", count
        if isinstance(node.of, Call) and node.of.operation == "read":
            return f"{self.sampled(node.of, bound)[0]}.{node.letters}", count
        inner, size = self.print(node.of, bound)
        if size == 1:
            return (inner if count == 1 else f"{_TYPES[count]}({inner})"), count
        return f"({inner}).{node.letters}", count

    def wide(self, text: str, size: int, wanted: int) -> str:
        return f"{_TYPES[wanted]}({text})" if size == 1 and wanted > 1 else text

    def slot_named(self, node: Node, bound: Bound | None) -> str:
        given = node.name if isinstance(node, Name) else ""
        named = given if bound is None else bound[given]
        assert isinstance(named, str)
        return named

    def sampled(self, node: Call, bound: Bound | None) -> tuple[str, str]:
        """Four channels of a slot at computed coordinates, and the slot."""
        slot = self.slot_named(node.arguments[1], bound)
        where = self.wide(*self.print(node.arguments[0], bound), 2)
        return f"ft_read_{slot}({where})", slot

    def call(self, node: Call, bound: Bound | None) -> tuple[str, int]:
        operation = node.called
        if node.operation == "read":
            text, slot = self.sampled(node, bound)
            size = self.master.slots[slot].size
            return f"{text}.{'rgba'[:size]}", size
        given = [
            self.slot_named(one, bound) if at in operation.maps else self.print(one, bound)
            for at, one in enumerate(node.arguments)
        ]
        sizes = [one[1] if isinstance(one, tuple) else MAP for one in given]
        wanted = operation.fitted(sizes)
        texts = [
            self.wide(one[0], one[1], size) if isinstance(one, tuple) else one
            for one, size in zip(given, wanted, strict=True)
        ]
        if operation.definition is not None:
            return self.defined(operation, texts, wanted)
        size = operation.size(wanted)
        self.need(operation.name, max(wanted) if operation.shape == "1" else size)
        if callable(operation.glsl):
            return operation.glsl(texts), size
        return operation.glsl.format(*texts, n=size, all=", ".join(texts)), size

    def defined(self, operation: Operation, texts: Sequence[str], sizes: Sequence[int]) -> tuple[str, int]:
        """A call of the function that an operation's definition makes; one for each kind of arguments."""
        assert operation.definition is not None
        slots = [text for text, size in zip(texts, sizes, strict=True) if size == MAP]
        key = (operation, *sizes, *slots)
        values = [text for text, size in zip(texts, sizes, strict=True) if size != MAP]
        # Functions of one name are told apart by what they take; a sheet's may hold another one of their own name.
        of_sheet = "" if operation is OPERATIONS.get(operation.name) else f"_f{self.number_of(operation)}"
        name = "_".join(["ft_op", operation.name, *slots]) + of_sheet
        definition = operation.definition(tuple(sizes))
        if key not in self._defined:
            names: dict[str, tuple[str, int] | str] = {}
            taken = []
            for one, text, size in zip(definition.arguments, texts, sizes, strict=True):
                names[one] = text if size == MAP else (f"a_{one}", size)
                taken += [] if size == MAP else [f"{_TYPES[size]} a_{one}"]
            lines, size = [], 1
            for row, tree in trees_of(definition):
                text, size = self.print(tree, names)
                lines.append(f"  {_TYPES[size]} d_{row} = {text};" if row else f"  return {text};")
                names[row] = f"d_{row}", size
            head = f"{_TYPES[size]} {name}({', '.join(taken)}) {{"
            self.functions["\n".join([head, *lines, "}\n"])] = None
            self._defined[key] = str(size)
        return f"{name}({', '.join(values)})", int(self._defined[key])


def shader_of(master: Master) -> Shader:
    """A master's sheet in GLSL. Raises BadExpression."""
    printer = _Printer(master)
    uniforms = [
        {"name": f"u_{one.name}", "type": _TYPES[one.size], "parameter": one.name, "default": list(one.default)}
        for one in master.parameters.values()
    ]
    samplers = {name: f"m_{name}" for name in master.slots}
    uniforms += [
        {"name": name, "type": _MAP_TYPE, "slot": slot, "wrap": master.slots[slot].wrap,
         "filter": master.slots[slot].filter}
        for slot, name in samplers.items()
    ]  # fmt: skip
    body = []
    for name in master.ordered_rows():
        text, size = printer.print(master.rows[name])
        body.append(f"  {_TYPES[size]} r_{name} = {text};")
    body.append("  FtSurface made;")
    for one in INPUTS.values():
        if one.name in master.inputs:
            text, size = printer.print(master.inputs[one.name])
            text = printer.wide(text, size, one.size)
        else:
            parts = ", ".join(printer.number(part) for part in one.neutral)
            text = parts if one.size == 1 else f"{_TYPES[one.size]}({parts})"
        body.append(f"  made.{one.name} = {text};")
    body = ["FtSurface ft_surface(FtPlace at) {", "  ft_at = at;", *_slot_lines(master, printer), *body]
    printer.need("strengthen", 3)
    body += ["  made.normal = ft_strengthen(made.normal, made.normal_strength);", "  return made;", "}"]
    head = ["struct FtPlace {", *(f"  {_TYPES[one.size]} {one.name};" for one in STARTS.values()), "};"]
    head += ["FtPlace ft_at;", *(f"uniform {one['type']} {one['name']};" for one in uniforms), *_readers(master)]
    surface = ["struct FtSurface {", *(f"  {_TYPES[i.size]} {i.name};" for i in INPUTS.values()), "};"]
    code = "\n".join(head) + "\n" + _PLACING + "".join(printer.functions)
    code += "\n".join([*surface, *body, _on_flat(printer)]) + "\n"
    return Shader(code, tuple(uniforms), samplers)


def _on_flat(printer: _Printer) -> str:
    """The surface where only coordinates and the vertex colour are known."""
    letters = {"u": "uv0.x", "v": "uv0.y"}
    given = {"uv": "uv0", "uv1": "uv1", "vertex": "vertex"}
    values = []
    for name, one in STARTS.items():
        parts = [letters[part] if isinstance(part, str) else printer.number(part) for part in flat_parts(name)]
        values.append(given.get(name) or (f"{_TYPES[one.size]}({', '.join(parts)})" if one.size > 1 else parts[0]))
    return (
        "FtSurface ft_surface(vec2 uv0, vec2 uv1, vec4 vertex) {\n"
        f"  return ft_surface(FtPlace({', '.join(values)}));\n}}"
    )


def _slot_lines(master: Master, printer: _Printer) -> list[str]:
    lines = []
    for one in master.coordinates.values():
        tiling, offset = (printer.wide(*printer.print(tree), 2) for tree in (one.tiling, one.offset))
        turn, uv = printer.print(one.rotation)[0], "uv1" if one.uv_set else "uv"
        lines.append(f"  vec2 c_{one.name} = ft_place(at.{uv}, {tiling}, {offset}, {turn});")
    for slot in (one for one in master.slots.values() if one.name in printer.slots):
        lines.append(f"  vec4 s_{slot.name} = ft_read_{slot.name}(c_{slot.coordinates});")
        turn = printer.print(master.coordinates[slot.coordinates].rotation)[0]
        if slot.is_normal and turn != "0.0":
            lines.append(f"  s_{slot.name}.xy = ft_turn(s_{slot.name}.xy, {turn});")
    return lines


def _readers(master: Master) -> list[str]:
    """A function for each slot: its map at any coordinates, a normal's vectors unpacked."""
    lines = []
    for slot in master.slots.values():
        name = slot.name
        lines += [f"vec4 ft_read_{name}(vec2 place) {{", f"  vec4 s_{name} = texture(m_{name}, place);"]
        if slot.is_normal:
            lines.append(f"  s_{name}.xyz = s_{name}.xyz * 2.0 - 1.0;")
            if slot.green.value == "down":
                lines.append(f"  s_{name}.y = -s_{name}.y;")
        lines += [f"  return s_{name};", "}"]
    return lines
