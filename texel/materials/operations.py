"""What a sheet can do with values: one entry an operation, with its meaning for numbers, intervals and GLSL.

The semantics stand here once, for every back end (docs/materials.md tells them to people):

- numbers are 32-bit floats; colours are linear light, Rec. ITU-R BT.709 primaries;
- a number meets a vector as a vector of equal components; vectors of unequal size do not meet;
- x / 0 is 0; power(x, e) is 0 for x <= 0, but 1 where e is 0; root(x) is 0 for x < 0;
- a vector of length 0 normalises to (0, 0, 1).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from texel.colour import LUMINANCE

__all__ = ["OPERATIONS", "Interval", "Operation", "Shape"]

Array = NDArray[np.float32]
# Lowest and highest value that any component can take.
Interval = tuple[float, float]
_INFINITE = float("inf")
# How the result's size follows from the arguments': "widest" of them, the "first", always 1 or 3, or their "count".
Shape = str


@dataclass(frozen=True)
class Operation:
    """apply: arrays of shape (..., size) in, one out. bounds: intervals in, one out. glsl: an expression with {0}, {1}…
    for arguments that are already as wide as ``fits`` asks for.

    arguments: their names, the first flows through a chain. label: of the step. symbol: of arithmetic. least: how many
    arguments must be given. fits: "widest": all arguments grow to the widest; "own": as they are; or sizes, one each.
    """

    name: str
    label: str
    arguments: tuple[str, ...]
    apply: Callable[..., Array]
    bounds: Callable[..., Interval]
    glsl: str
    shape: Shape = "widest"
    fits: str | tuple[int, ...] = "widest"
    symbol: str = ""
    help: str = ""
    group: str = "Arithmetic"
    variadic: bool = False


def _hull(*values: float) -> Interval:
    # What has no end that can be told may be anything.
    return (-_INFINITE, _INFINITE) if any(value != value for value in values) else (min(values), max(values))


def _times(a: Interval, b: Interval) -> Interval:
    return _hull(*(0.0 if 0 in (x, y) else x * y for x in a for y in b))


def divided(a: Array, b: Array) -> Array:
    """a / b, 0 where b is 0."""
    nothing = b == 0
    return np.where(nothing, np.float32(0), a / np.where(nothing, np.float32(1), b)).astype(np.float32)


def _quotient(a: Interval, b: Interval) -> Interval:
    if b[0] <= 0 <= b[1]:
        return (0.0, 0.0) if b == (0, 0) else (-_INFINITE, _INFINITE)
    return _times(a, (1 / b[1], 1 / b[0]))


def _power(x: Array, e: Array) -> Array:
    base, exponent = np.broadcast_arrays(x, e)
    with np.errstate(over="ignore"):  # what is too large is infinite, as on graphics hardware
        made = np.power(np.maximum(base, np.float32(1e-30)), exponent)
    return np.where(base > 0, made, np.where(exponent == 0, np.float32(1), np.float32(0))).astype(np.float32)


def _power_bounds(x: Interval, e: Interval) -> Interval:
    base = (max(x[0], 0.0), max(x[1], 0.0))
    powers = [float(np.float64(b) ** f) if b > 0 or f > 0 else _INFINITE for b in base for f in e]
    return _hull(*powers, *([0.0] if x[0] <= 0 else []), *([1.0] if e[0] <= 0 <= e[1] else []))


def _clamped(x: Array, low: Array, high: Array) -> Array:
    return np.minimum(np.maximum(x, low), high)


def _clamp_bounds(x: Interval, low: Interval, high: Interval) -> Interval:
    return min(max(x[0], low[0]), high[0]), min(max(x[1], low[1]), high[1])


def _levels(x: Array, black: Array, white: Array) -> Array:
    return np.clip(divided(x - black, white - black), 0, 1)


def _smoothstep(x: Array, low: Array, high: Array) -> Array:
    t = _levels(x, low, high)
    return t * t * (3 - 2 * t)


def _mix(a: Array, b: Array, t: Array) -> Array:
    return a * (1 - t) + b * t


def _mix_bounds(a: Interval, b: Interval, t: Interval) -> Interval:
    return _hull(*(x if u == 0 else y if u == 1 else x * (1 - u) + y * u for x in a for y in b for u in t))


def _luminance(c: Array) -> Array:
    return (c[..., :3] @ LUMINANCE)[..., None].astype(np.float32)


def _normalised(v: Array) -> Array:
    # Written out: a sum along three numbers takes NumPy many times as long.
    length = np.sqrt(v[..., 0] * v[..., 0] + v[..., 1] * v[..., 1] + v[..., 2] * v[..., 2])[..., None]
    made = np.asarray(v / np.maximum(length, np.float32(1e-6)), np.float32)
    nothing = length[..., 0] <= 1e-6
    if nothing.any():
        made[nothing] = (0, 0, 1)
    return made


def _strengthen(n: Array, s: Array) -> Array:
    s = np.asarray(s, np.float32)
    return _normalised(n * np.concatenate([s, s, np.ones_like(s)], axis=-1))


def _combine(base: Array, detail: Array) -> Array:
    """Reoriented (Barré-Brisebois and Hill 2012), as texel.normals.combine."""
    t = _normalised(base) + np.array([0, 0, 1], np.float32)
    u = _normalised(detail) * np.array([-1, -1, 1], np.float32)
    along = (t * u).sum(axis=-1, keepdims=True, dtype=np.float32)
    return _normalised(t * (along / np.maximum(t[..., 2:3], np.float32(1e-6))) - u)


def _choose(switch: Array, on: Array, off: Array) -> Array:
    return np.where(switch > 0.5, on, off).astype(np.float32)


def _pick(choice: Array, *options: Array) -> Array:
    picked = options[0]
    for index, option in enumerate(options[1:], 1):
        picked = np.where(choice > index - 0.5, option, picked)
    return np.asarray(picked, np.float32)


def _joined(*parts: Array) -> Array:
    return np.concatenate(np.broadcast_arrays(*parts), axis=-1)


def _unit(*_: Interval) -> Interval:
    return -1.0, 1.0


def _sine(x: Array) -> Array:
    made: Array = np.sin(x * np.float32(2 * np.pi)).astype(np.float32)
    return made


def _tint(c: Array, colour: Array, amount: Array) -> Array:
    return _mix(c, c * colour, amount)


_ALL: tuple[Operation, ...] = (
    Operation("multiply", "Multiply", ("value", "by"), lambda a, b: a * b, _times, "({0} * {1})", symbol="*"),
    Operation(
        "add", "Add", ("value", "to"), lambda a, b: a + b, lambda a, b: (a[0] + b[0], a[1] + b[1]), "({0} + {1})",
        symbol="+",
    ),
    Operation(
        "subtract", "Subtract", ("value", "less"), lambda a, b: a - b, lambda a, b: (a[0] - b[1], a[1] - b[0]),
        "({0} - {1})", symbol="-",
    ),
    Operation(
        "divide", "Divide", ("value", "by"), divided, _quotient, "ft_divide({0}, {1})", symbol="/", help="x / 0 is 0",
    ),
    Operation("negate", "Negate", ("value",), lambda a: -a, lambda a: (-a[1], -a[0]), "(-{0})", symbol="-"),
    Operation("invert", "Invert", ("value",), lambda a: 1 - a, lambda a: (1 - a[1], 1 - a[0]), "(1.0 - {0})",
              help="1 less the value"),
    Operation("mix", "Mix", ("value", "with", "share"), _mix, _mix_bounds, "ft_mix({0}, {1}, {2})",
              help="the value at share 0, the other at 1"),
    Operation("power", "Power", ("value", "exponent"), _power, _power_bounds, "ft_power({0}, {1})",
              help="0 for values of 0 or less"),
    Operation("levels", "Levels", ("value", "black", "white"), _levels, lambda *_: (0.0, 1.0),
              "ft_levels({0}, {1}, {2})", help="black becomes 0, white becomes 1, nothing goes beyond"),
    Operation("clamp", "Clamp", ("value", "low", "high"), _clamped, _clamp_bounds, "min(max({0}, {1}), {2})"),
    Operation("smoothstep", "Smooth step", ("value", "low", "high"), _smoothstep, lambda *_: (0.0, 1.0),
              "ft_smooth({0}, {1}, {2})", help="0 below low, 1 above high, a smooth curve between"),
    Operation("minimum", "Not above", ("value", "limit"), np.minimum,
              lambda a, b: (min(a[0], b[0]), min(a[1], b[1])), "min({0}, {1})"),
    Operation("maximum", "Not below", ("value", "limit"), np.maximum,
              lambda a, b: (max(a[0], b[0]), max(a[1], b[1])), "max({0}, {1})"),
    Operation("absolute", "Without sign", ("value",), np.abs,
              lambda a: (0.0 if a[0] <= 0 <= a[1] else min(abs(a[0]), abs(a[1])), max(abs(a[0]), abs(a[1]))),
              "abs({0})"),
    Operation("root", "Square root", ("value",), lambda a: np.sqrt(np.maximum(a, np.float32(0))),
              lambda a: (max(a[0], 0.0) ** 0.5, max(a[1], 0.0) ** 0.5), "sqrt(max({0}, 0.0))"),
    Operation("fraction", "Fraction", ("value",), lambda a: a - np.floor(a), lambda a: (0.0, 1.0), "fract({0})"),
    Operation("sine", "Sine", ("value",), _sine, _unit, "sin({0} * 6.2831853)", help="of whole turns"),
    Operation("tint", "Tint", ("value", "colour", "amount"), _tint,
              lambda c, k, a: _mix_bounds(c, _times(c, k), a), "ft_mix({0}, {0} * {1}, {2})",
              shape="widest", fits=(3, 3, 3), group="Colour", help="times a colour, by an amount"),
    Operation("saturate", "Saturation", ("value", "amount"),
              lambda c, s: _mix(_luminance(c), c, s), lambda c, s: _mix_bounds(c, c, s),
              "ft_mix(vec3(ft_luminance({0})), {0}, {1})", shape="3", fits=(3, 3), group="Colour",
              help="0 is grey, 1 leaves it as it is"),
    Operation("luminance", "Luminance", ("value",), _luminance, lambda c: c, "ft_luminance({0})", shape="1",
              fits=(3,), group="Colour"),
    Operation("occlude", "Occlusion into colour", ("value", "occlusion", "strength"),
              lambda c, o, s: c * _mix(np.ones(1, np.float32), o, s),
              lambda c, o, s: _times(c, _mix_bounds((1.0, 1.0), o, s)), "({0} * ft_mix(1.0, {1}, {2}))",
              shape="first", fits=(0, 1, 1), group="Colour", help="darkens where occlusion is below 1"),
    Operation("strengthen", "Normal strength", ("value", "strength"), _strengthen, _unit,
              "ft_strengthen({0}, {1})", shape="3", fits=(3, 1), group="Normals", help="slopes times the strength"),
    Operation("combine_normals", "Combine normals", ("value", "detail"), _combine, _unit, "ft_combine({0}, {1})",
              shape="3", fits=(3, 3), group="Normals", help="the detail turned onto the value"),
    Operation("normalise", "Normalise", ("value",), _normalised, _unit, "ft_normalise({0})", shape="3", fits=(3,),
              group="Normals"),
    Operation("choose", "Switch", ("value", "switch", "otherwise"), lambda v, s, o: _choose(s, v, o),
              lambda v, s, o: _hull(*v, *o), "ft_choose({1}, {0}, {2})", group="Choices",
              fits="switch", help="the value while the switch is on"),
    Operation("pick", "Choice", ("value", "choice", "others"), lambda v, c, *o: _pick(c, v, *o),
              lambda v, c, *o: _hull(*v, *(x for one in o for x in one)), "pick", group="Choices", fits="switch",
              variadic=True, help="the value for the first option, the others for the next"),
    Operation("vector", "Vector", ("value", "and"), _joined, lambda *v: _hull(*(x for one in v for x in one)),
              "vec{n}({all})", shape="count", fits="own", group="Values", variadic=True,
              help="two to four numbers as one value"),
    Operation("rgb", "Colour of three", ("value", "green", "blue"), _joined,
              lambda *v: _hull(*(x for one in v for x in one)), "vec3({0}, {1}, {2})", shape="3", fits=(1, 1, 1),
              group="Values", help="linear red, green and blue"),
)  # fmt: skip

OPERATIONS: dict[str, Operation] = {one.name: one for one in _ALL}
