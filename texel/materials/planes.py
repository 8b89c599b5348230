"""A sheet as a list of steps over planes of texels: what the compiled loops do (texel.materials.loops).

A plane holds one component of one value for every texel of a strip; a step reads up to three planes and writes one.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from texel.materials import opcodes

__all__ = ["Planes"]


class Planes:
    """Gathers steps over planes, which are numbers. Constants have planes of their own, filled once; what is done twice
    is done once."""

    def __init__(self) -> None:
        self.steps: list[tuple[int, int, int, int, int]] = []
        self.constants: dict[float, int] = {}
        self.count = 0
        self._made: dict[tuple[int, int, int, int], int] = {}
        self._value: dict[int, float] = {}

    def plane(self) -> int:
        self.count += 1
        return self.count - 1

    def constant(self, value: float) -> int:
        key = float(np.float32(value))
        if key not in self.constants:
            self.constants[key] = self.plane()
            self._value[self.constants[key]] = key
        return self.constants[key]

    def do(self, what: int, a: int, b: int | None = None, c: int | None = None) -> int:
        """The plane of a step's result; none is taken where it is known beforehand."""
        key = (what, a, a if b is None else b, a if c is None else c)
        known = self._known(*key)
        if known is not None:
            return known
        if key not in self._made:
            self._made[key] = to = self.plane()
            self.steps.append((what, to, *key[1:]))
        return self._made[key]

    def _known(self, what: int, a: int, b: int, c: int) -> int | None:
        """The result of constants, of a product with 1, of a sum with 0, of a mixture that is one of its two."""
        values = [self._value.get(plane) for plane in (a, b, c)]
        if None not in values:
            planes = np.array([*values, 0], np.float32).reshape(4, 1)
            from texel.materials.loops import run

            run(np.array([[what, 3, 0, 1, 2]], np.int32), planes)
            made = float(planes[3, 0])
            return self.constant(made) if np.isfinite(made) else None
        if what == opcodes.MULTIPLY and 1.0 in values[:2]:
            return b if values[0] == 1.0 else a
        if (what == opcodes.ADD and values[1] == 0.0) or (what == opcodes.SUBTRACT and values[1] == 0.0):
            return a
        if what == opcodes.MIX and values[2] in (0.0, 1.0):
            return b if values[2] else a
        if what == opcodes.POWER and values[1] == 1.0:
            return self.do(opcodes.MAXIMUM, a, self.constant(0))
        return None

    def packed(self, kept: set[int]) -> tuple[NDArray[np.int32], dict[int, int], int]:
        """The steps with planes used again once nobody reads them any more, the new numbers of planes that are kept,
        and how many there are."""
        last = {plane: at for at, step in enumerate(self.steps) for plane in step[2:]}
        written = {step[1] for step in self.steps}
        kept = kept | {plane for plane in range(self.count) if plane not in written}
        number = {plane: at for at, plane in enumerate(sorted(kept))}
        free: list[int] = []
        count, places = len(number), []
        for at, (what, to, *read) in enumerate(self.steps):
            new = [number[plane] for plane in read]
            for plane in set(read):
                if plane not in kept and last[plane] == at:
                    free.append(number[plane])
            if to not in kept:
                # Never one that this step reads: its loops may be reordered.
                usable = [one for one in free if one not in new]
                if usable:
                    number[to] = usable[-1]
                    free.remove(usable[-1])
                else:
                    number[to] = count
                    count += 1
            places.append((what, number[to], *new))
        steps = np.array(places, np.int32).reshape(-1, 5)
        return steps, {plane: number[plane] for plane in kept}, count
