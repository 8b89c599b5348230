"""The GLSL back end: a sheet as one plain function of GLSL ES 3.00, with a table of its uniforms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from texel.materials.kinds import Kinds
from texel.materials.master import INPUTS, Coordinates, Master
from texel.materials.operations import OPERATIONS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["Shader", "shader_of"]

_MAP_TYPE = "sampler2D"
_TYPES = {1: "float", 2: "vec2", 3: "vec3", 4: "vec4"}


def _componentwise(size: int) -> str:
    """Helpers that work component by component, for one size."""
    kind = _TYPES[size]

    def each(body: str) -> str:
        if size == 1:
            return body.replace("@", "")
        return f"{kind}({', '.join(body.replace('@', f'.{letter}') for letter in 'xyzw'[:size])})"

    return f"""\
{kind} ft_divide({kind} a, {kind} b) {{ return {each("(b@ == 0.0 ? 0.0 : a@ / b@)")}; }}
{kind} ft_power({kind} x, {kind} e) {{ return {each("(x@ > 0.0 ? pow(x@, e@) : e@ == 0.0 ? 1.0 : 0.0)")}; }}
{kind} ft_mix({kind} a, {kind} b, {kind} t) {{ return a * (1.0 - t) + b * t; }}
{kind} ft_levels({kind} x, {kind} black, {kind} white) {{
  return clamp(ft_divide(x - black, white - black), 0.0, 1.0);
}}
{kind} ft_smooth({kind} x, {kind} low, {kind} high) {{
  {kind} t = ft_levels(x, low, high);
  return t * t * (3.0 - 2.0 * t);
}}
{kind} ft_choose(float on, {kind} a, {kind} b) {{ return on > 0.5 ? a : b; }}
"""


_HELPERS = (
    "".join(_componentwise(size) for size in _TYPES)
    + """\
float ft_luminance(vec3 c) { return dot(c, vec3(0.2126, 0.7152, 0.0722)); }
vec3 ft_normalise(vec3 v) { float l = length(v); return l > 1e-6 ? v / l : vec3(0.0, 0.0, 1.0); }
vec3 ft_strengthen(vec3 n, float s) { return ft_normalise(vec3(n.xy * s, n.z)); }
vec3 ft_combine(vec3 base, vec3 detail) {
  vec3 t = ft_normalise(base) + vec3(0.0, 0.0, 1.0);
  vec3 u = ft_normalise(detail) * vec3(-1.0, -1.0, 1.0);
  return ft_normalise(t * (dot(t, u) / max(t.z, 1e-6)) - u);
}
vec2 ft_turn(vec2 p, float degrees) {
  float c = cos(radians(degrees)), s = sin(radians(degrees));
  return vec2(c * p.x - s * p.y, s * p.x + c * p.y);
}
vec2 ft_place(vec2 uv, vec2 tiling, vec2 offset, float degrees) { return ft_turn(uv * tiling, degrees) + offset; }
"""
)


@dataclass(frozen=True)
class Shader:
    """code: helpers, uniforms, ``struct FtSurface`` and ``FtSurface ft_surface(vec2 uv, vec2 uv1, vec4 vertex)``.

    uniforms: name, type, and what each stands for; samplers: uniform by slot. v of the coordinates runs down.
    """

    code: str
    uniforms: tuple[dict[str, Any], ...]
    samplers: dict[str, str]

    def document(self) -> dict[str, Any]:
        return {"code": self.code, "uniforms": list(self.uniforms), "samplers": self.samplers}


class _Printer:
    def __init__(self, master: Master):
        self.master, self.kinds = master, Kinds(master)

    def number(self, value: float) -> str:
        text = repr(float(value))
        return text if "." in text or "e" in text or "inf" in text else f"{text}.0"

    def print(self, node: Node) -> tuple[str, int]:
        """The expression and its size."""
        if isinstance(node, Constant):
            text = self.number(node.value)
            return (f"({text})" if node.value < 0 else text), 1
        if isinstance(node, Name):
            return self.named(node.name)
        if isinstance(node, Swizzle):
            return self.swizzle(node)
        return self.call(node)

    def named(self, name: str) -> tuple[str, int]:
        master = self.master
        if name in master.slots:
            size = master.slots[name].size
            return f"s_{name}.{'rgba'[:size]}", size
        if name in master.parameters:
            return f"u_{name}", master.parameters[name].size
        if name in master.rows:
            return f"r_{name}", self.kinds.of(Name(name)).size
        return (name, 4) if name == "vertex" else ("uv", 2)

    def swizzle(self, node: Swizzle) -> tuple[str, int]:
        count = len(node.letters)
        if isinstance(node.of, Name) and node.of.name in self.master.slots:
            return f"s_{node.of.name}.{node.letters}", count
        inner, size = self.print(node.of)
        if size == 1:
            return (inner if count == 1 else f"{_TYPES[count]}({inner})"), count
        return f"({inner}).{node.letters}", count

    def wide(self, text: str, size: int, wanted: int) -> str:
        return f"{_TYPES[wanted]}({text})" if size == 1 and wanted > 1 else text

    def call(self, node: Call) -> tuple[str, int]:
        operation = OPERATIONS[node.operation]
        size = self.kinds.of(node).size
        printed = [self.print(one) for one in node.arguments]
        if isinstance(operation.fits, tuple):
            pairs = zip(printed, operation.fits, strict=True)
            texts = [self.wide(text, own, wanted or own) for (text, own), wanted in pairs]
        elif operation.fits == "switch":
            texts = [text if at == 1 else self.wide(text, own, size) for at, (text, own) in enumerate(printed)]
        elif operation.fits == "own":
            texts = [text for text, _ in printed]
        else:
            texts = [self.wide(text, own, size) for text, own in printed]
        if operation.glsl == "pick":
            return _picked(texts), size
        return operation.glsl.format(*texts, n=size, all=", ".join(texts)), size


def _picked(texts: list[str]) -> str:
    value, choice, *others = texts
    picked = value
    for at, other in enumerate(others, 1):
        picked = f"({choice} > {at}.0 - 0.5 ? {other} : {picked})"
    return picked


def shader_of(master: Master) -> Shader:
    """A master's sheet in GLSL. Raises BadExpression."""
    printer = _Printer(master)
    uniforms = [
        {"name": f"u_{one.name}", "type": _TYPES[one.size], "parameter": one.name, "default": list(one.default)}
        for one in master.parameters.values()
    ]
    samplers = {name: f"m_{name}" for name in master.slots}
    uniforms += [{"name": name, "type": _MAP_TYPE, "slot": slot} for slot, name in samplers.items()]
    lines = [f"uniform {one['type']} {one['name']};" for one in uniforms]
    lines += ["struct FtSurface {", *(f"  {_TYPES[i.size]} {i.name};" for i in INPUTS.values()), "};"]
    lines += ["FtSurface ft_surface(vec2 uv0, vec2 uv1, vec4 vertex) {", "  vec2 uv = uv0;"]
    lines += _slot_lines(master)
    for name in master.ordered_rows():
        text, size = printer.print(master.rows[name])
        lines.append(f"  {_TYPES[size]} r_{name} = {text};")
    lines.append("  FtSurface made;")
    for one in INPUTS.values():
        if one.name in master.inputs:
            text, size = printer.print(master.inputs[one.name])
            text = printer.wide(text, size, one.size)
        else:
            parts = ", ".join(printer.number(part) for part in one.neutral)
            text = parts if one.size == 1 else f"{_TYPES[one.size]}({parts})"
        lines.append(f"  made.{one.name} = {text};")
    lines += ["  made.normal = ft_strengthen(made.normal, made.normal_strength);", "  return made;", "}"]
    return Shader(_HELPERS + "\n".join(lines) + "\n", tuple(uniforms), samplers)


def _degrees(one: Coordinates) -> str:
    return f"u_{one.rotation}" if isinstance(one.rotation, str) else repr(float(one.rotation))


def _slot_lines(master: Master) -> list[str]:
    lines = []
    for one in master.coordinates.values():

        def pair(given: object) -> str:
            return f"u_{given}" if isinstance(given, str) else f"vec2({given[0]!r}, {given[1]!r})"  # type: ignore[index]

        turn = _degrees(one)
        lines.append(f"  vec2 c_{one.name} = ft_place(uv{one.uv_set}, {pair(one.tiling)}, {pair(one.offset)}, {turn});")
    for slot in master.slots.values():
        lines.append(f"  vec4 s_{slot.name} = texture(m_{slot.name}, c_{slot.coordinates});")
        if slot.is_normal:
            lines.append(f"  s_{slot.name}.xyz = s_{slot.name}.xyz * 2.0 - 1.0;")
            if slot.green.value == "down":
                lines.append(f"  s_{slot.name}.y = -s_{slot.name}.y;")
            turn = _degrees(master.coordinates[slot.coordinates])
            if turn != "0.0":
                lines.append(f"  s_{slot.name}.xy = ft_turn(s_{slot.name}.xy, {turn});")
    return lines
