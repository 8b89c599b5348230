"""What an operation of a sheet is: one object with its meaning for people, and one form for each back end.

An operation stands in a file of its own in this folder, as ``OPERATION``; putting the file there is all that it takes.
Either it has four forms of its own (NumPy, compiled planes, GLSL, MaterialX), or a ``definition``: rows in terms of
other operations, from which every back end makes its form. The semantics hold in all of them (docs/materials.md):

- numbers are 32-bit floats; colours are linear light, Rec. ITU-R BT.709 primaries;
- a number meets a vector as a vector of equal components; vectors of unequal size do not meet;
- x / 0 is 0; power(x, e) is 0 for x <= 0, but 1 where e is 0; root(x) is 0 for x < 0;
- a vector of length 0 normalises to (0, 0, 1).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from texel.materials.planes import Planes

__all__ = ["GROUPS", "MAP", "Array", "Definition", "Graph", "Interval", "Operation", "StandardNode", "Value"]

Array = NDArray[np.float32]
# A graph of MaterialX and what stands in it (texel.materials.exchange.mtlx_nodes), which knows the operations.
Graph = Any
Value = Any
# Lowest and highest value that any component can take.
Interval = tuple[float, float]
GROUPS = ("Arithmetic", "Comparison", "Colour", "Normals", "Choices", "Values", "Coordinates", "Maps", "Noise")
# What a new step has for an argument of a name, until somebody writes something else: it changes little or nothing.
FIRST = {
    "by": "1", "share": "0.5", "exponent": "1", "white": "1", "high": "1", "limit": "1", "colour": "rgb(1, 1, 1)",
    "amount": "1", "occlusion": "1", "strength": "1", "detail": "vector(0, 0, 1)", "switch": "1",
}  # fmt: skip
# In ``fits``: the argument is the name of a slot.
MAP = -1


@dataclass(frozen=True)
class StandardNode:
    """A node of MaterialX's own that means exactly the same. inputs: their names, in our order."""

    category: str
    inputs: tuple[str, ...]


@dataclass(frozen=True)
class Definition:
    """arguments: the names that stand for what is given. rows: name and expression, each after those that it reads.

    Names that are no argument and no row are where the surface is (texel.materials.starts). functions: what the rows
    call besides operations, by name.
    """

    arguments: tuple[str, ...]
    rows: tuple[tuple[str, str], ...]
    result: str
    functions: tuple[tuple[str, Operation], ...] = ()


@dataclass(frozen=True)
class Operation:
    """arguments: their names; the first flows through a chain. label: of the step. symbol: of arithmetic. most: how
    many arguments may be given where the last one repeats (0: as many as there are names).

    fits: "widest": all arguments grow to the widest; "own": as they are; "switch": as "widest", but for the second,
    which is one number; or sizes, one each (0: as it is, MAP: a slot). shape: the result's size: "widest", "first",
    "count" (of all components), "map" (that of the slot), "rows" (what the definition's rows give) or a number.
    meaning: what kind of value comes out: "flow" (as the arguments), "first", "first two", "options" (all but the
    second), "rows" (as the definition's), or "normal", "colour", "data".

    apply: arrays of shape (..., size) in, one out. bounds: intervals in, one out; None: the definition's.
    planes: lists of planes in, one out
    (texel.materials.planes). glsl: an expression with {0}, {1}… and {all}, {n} (the result's size), or a function of
    the arguments' texts; helpers: GLSL functions that it calls, for a size; needs: operations whose helpers it uses,
    with the size (0: the same). nodes: a graph and values in, one out, or a standard node. each: every component is
    treated by itself. reads: texture reads. example: an expression with it. first: what a new step has for each
    argument but the first, where ``FIRST`` is not meant.
    """

    name: str
    label: str
    arguments: tuple[str, ...]
    bounds: Callable[..., Interval] | None
    group: str = "Arithmetic"
    help: str = ""
    example: str = ""
    first: tuple[str, ...] = ()
    shape: str = "widest"
    fits: str | tuple[int, ...] = "widest"
    meaning: str = "flow"
    symbol: str = ""
    most: int = 0
    each: bool = False
    reads: int = 0
    apply: Callable[..., Any] | None = None
    planes: Callable[[Planes, Sequence[list[int]]], list[int]] | None = None
    glsl: str | Callable[[Sequence[str]], str] = ""
    helpers: Callable[[int], str] | None = None
    needs: tuple[tuple[str, int], ...] = ()
    nodes: Callable[..., Value] | StandardNode | None = None
    definition: Callable[[tuple[int, ...]], Definition] | None = None

    @property
    def begins_with(self) -> tuple[str, ...]:
        """What a new step has for each argument but the first; "" for a map, which the sheet's first slot is."""
        others = zip(self.arguments[1:], self.wanted(len(self.arguments))[1:], strict=True)
        return self.first or tuple("" if size == MAP else FIRST.get(name, "0") for name, size in others)

    @property
    def maps(self) -> tuple[int, ...]:
        """Which arguments are slots."""
        return tuple(at for at, size in enumerate(self.wanted(len(self.arguments))) if size == MAP)

    def wanted(self, count: int) -> tuple[int, ...]:
        """The size that each of ``count`` arguments has to have; 0: whatever it has."""
        return self.fits if isinstance(self.fits, tuple) else (0,) * count

    def fitted(self, sizes: Sequence[int]) -> tuple[int, ...]:
        """How wide the arguments are taken, whose sizes are given; MAP stays."""
        if self.fits == "own" or isinstance(self.fits, tuple):
            return tuple(want or size for size, want in zip(sizes, self.wanted(len(sizes)), strict=True))
        rest = [size for at, size in enumerate(sizes) if self.fits != "switch" or at != 1]
        return tuple(1 if self.fits == "switch" and at == 1 else max(rest) for at in range(len(sizes)))

    def size(self, sizes: Sequence[int]) -> int:
        """How many components it gives; sizes: as ``fitted`` says. Not of one that gives what a map or its rows hold:
        see texel.materials.defined.result_size."""
        if self.shape == "count":
            return sum(sizes)
        if self.shape == "first":
            return sizes[0]
        return int(self.shape) if self.shape.isdigit() else max(sizes)

    def usual_definition(self, count: int) -> Definition | None:
        """Its definition for ``count`` arguments of the usual sizes, coordinates of two numbers first."""
        if self.definition is None:
            return None
        return self.definition(self.fits if isinstance(self.fits, tuple) else (2,) + (1,) * (count - 1))

    @property
    def variadic(self) -> bool:
        return self.most > 0
