"""What several operations have in common: intervals, arrays, planes, GLSL for each component, nodes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from texel.colour import LUMINANCE
from texel.materials import opcodes
from texel.materials.operations.operation import Array, Interval

if TYPE_CHECKING:
    from texel.materials.operations.operation import Graph, Value
    from texel.materials.planes import Planes

__all__ = [
    "INFINITE", "any_of", "componentwise", "divided", "dot_nodes", "dot_planes", "each_component", "hull", "joined",
    "levels", "luminance", "mixed", "mixed_bounds", "normalised", "parts", "step", "times", "unit", "unit_planes",
]  # fmt: skip

INFINITE = float("inf")
_TYPES = {1: "float", 2: "vec2", 3: "vec3", 4: "vec4"}


# Intervals.


def hull(*values: float) -> Interval:
    """What has no end that can be told may be anything.

    >>> hull(2, -1, 0), hull(1, float("nan"))
    ((-1, 2), (-inf, inf))
    """
    return (-INFINITE, INFINITE) if any(value != value for value in values) else (min(values), max(values))


def any_of(*intervals: Interval) -> Interval:
    return hull(*(end for one in intervals for end in one))


def times(a: Interval, b: Interval) -> Interval:
    return hull(*(0.0 if 0 in (x, y) else x * y for x in a for y in b))


def mixed_bounds(a: Interval, b: Interval, t: Interval) -> Interval:
    return hull(*(x if u == 0 else y if u == 1 else x * (1 - u) + y * u for x in a for y in b for u in t))


def unit(*_: Interval) -> Interval:
    """A component of a vector of length 1."""
    return -1.0, 1.0


# Arrays.


def divided(a: Array, b: Array) -> Array:
    """a / b, 0 where b is 0."""
    nothing = b == 0
    return np.where(nothing, np.float32(0), a / np.where(nothing, np.float32(1), b)).astype(np.float32)


def levels(x: Array, black: Array, white: Array) -> Array:
    return np.clip(divided(x - black, white - black), 0, 1)


def mixed(a: Array, b: Array, t: Array) -> Array:
    return a * (1 - t) + b * t


def luminance(c: Array) -> Array:
    return (c[..., :3] @ LUMINANCE)[..., None].astype(np.float32)


def normalised(v: Array) -> Array:
    # Written out: a sum along three numbers takes NumPy many times as long.
    length = np.sqrt(v[..., 0] * v[..., 0] + v[..., 1] * v[..., 1] + v[..., 2] * v[..., 2])[..., None]
    made = np.asarray(v / np.maximum(length, np.float32(1e-6)), np.float32)
    nothing = length[..., 0] <= 1e-6
    if nothing.any():
        made[nothing] = (0, 0, 1)
    return made


def joined(*values: Array) -> Array:
    """Components one behind the other; what is the same everywhere is repeated over the grid, never over components."""
    grid = np.broadcast_shapes(*(one.shape[:-1] for one in values))
    return np.concatenate([np.broadcast_to(one, (*grid, one.shape[-1])) for one in values], axis=-1)


# Planes.


def step(opcode: int) -> Callable[[Planes, Sequence[list[int]]], list[int]]:
    """The form of an operation that is one step of the loops, component by component."""
    return lambda planes, given: [planes.do(opcode, *parts) for parts in zip(*given, strict=True)]


def dot_planes(planes: Planes, a: Sequence[int], b: Sequence[int]) -> int:
    first, *rest = [planes.do(opcodes.MULTIPLY, *pair) for pair in zip(a, b, strict=True)]
    for one in rest:
        first = planes.do(opcodes.ADD, first, one)
    return first


def unit_planes(planes: Planes, vector: Sequence[int]) -> list[int]:
    length = planes.do(opcodes.LENGTH, *vector)
    kinds = (opcodes.UNIT, opcodes.UNIT, opcodes.UNIT_Z)
    return [planes.do(kind, part, length) for kind, part in zip(kinds, vector, strict=True)]


# GLSL.


def each_component(name: str, arguments: str, body: str) -> Callable[[int], str]:
    """A GLSL function for one size. body: of one component, with @ behind what has components.

    >>> each_component("ft_less", "a b", "a@ - b@")(2)
    'vec2 ft_less(vec2 a, vec2 b) { return vec2(a.x - b.x, a.y - b.y); }\\n'
    """

    def helper(size: int) -> str:
        kind = _TYPES[size]
        told = ", ".join(f"{kind} {one}" for one in arguments.split())
        each = [body.replace("@", f".{letter}" if size > 1 else "") for letter in "xyzw"[:size]]
        made = each[0] if size == 1 else f"{kind}({', '.join(each)})"
        return f"{kind} {name}({told}) {{ return {made}; }}\n"

    return helper


def componentwise(text: str) -> Callable[[int], str]:
    """A GLSL function that reads alike for every size. text: with $ for the type."""
    return lambda size: text.replace("$", _TYPES[size])


# Nodes.


def parts(body: Callable[..., Value]) -> Callable[..., Value]:
    """A body for numbers, for vectors component by component."""

    def each(graph: Graph, *arguments: Value) -> Value:
        size = max(one.size for one in arguments)
        return graph.joined(*(body(graph, *(graph.part(one, at) for one in arguments)) for at in range(size)))

    return each


def dot_nodes(graph: Graph, a: Value, b: Value) -> Value:
    return graph.add("dotproduct", "float", in1=a, in2=b)
