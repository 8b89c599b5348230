"""Trees made shorter without another meaning: constants computed, channels taken where they are joined."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from texel.materials.defined import trees_of
from texel.materials.operations import OPERATIONS
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["component", "constants_of", "simplified", "value_of"]

_JOINS = ("vector", "rgb")
# Operations that treat each component by itself, whatever their arguments are.
_EACH = {name for name, one in OPERATIONS.items() if one.each}
_NEUTRAL = {"multiply": 1.0, "divide": 1.0, "add": 0.0, "subtract": 0.0}


def value_of(node: Node, names: Mapping[str, tuple[float, ...]]) -> NDArray[np.float32]:
    """The components of a tree's value where every name has the value that is given. Raises KeyError for others."""
    if isinstance(node, Constant):
        return np.array([node.value], np.float32)
    if isinstance(node, Name):
        return np.asarray(names[node.name], np.float32)
    if isinstance(node, Swizzle):
        whole = value_of(node.of, names)
        return whole[["rgba".index(letter) for letter in node.letters]]
    operation = node.called
    values = [value_of(one, names) for one in node.arguments]
    values = [
        np.broadcast_to(one, (size,)) if size and one.size == 1 else one
        for one, size in zip(values, operation.wanted(len(values)), strict=True)
    ]
    if operation.definition is not None:
        definition = operation.definition(operation.fitted([one.size for one in values]))
        # Rows may read the starts that have a value here.
        starts = {name: np.asarray(names[name], np.float32) for name in STARTS if name in names}
        inner = starts | dict(zip(definition.arguments, values, strict=True))
        for name, tree in trees_of(definition):
            inner[name] = value_of(tree, inner)  # type: ignore[arg-type]  # arrays are read as tuples are
        return np.atleast_1d(inner[""])
    if operation.apply is None:
        raise KeyError(operation.name)
    return np.atleast_1d(np.asarray(operation.apply(*values), np.float32))


def constants_of(node: Node) -> tuple[float, ...] | None:
    """The components of a constant, or of constants that are joined; None for anything else."""
    if isinstance(node, Constant):
        return (node.value,)
    if isinstance(node, Call) and node.operation in _JOINS:
        parts = [constants_of(one) for one in node.arguments]
        if all(part is not None for part in parts):
            return tuple(value for part in parts if part is not None for value in part)
    return None


def component(node: Node, letters: str) -> Node:
    """The channels of a value of more than one component; of a number the number."""
    return simplified(Swizzle(node, letters))


def simplified(node: Node) -> Node:
    """The tree, its parts already simplified, made shorter where it means the same.

    A vector of equal constants becomes one number, as wide as whatever it meets.
    """
    if isinstance(node, Swizzle):
        return _channels(node)
    if not isinstance(node, Call):
        return node
    parts = [constants_of(one) for one in node.arguments]
    if node.operation in _JOINS:
        flat = constants_of(node)
        return Constant(flat[0]) if flat and len(set(flat)) == 1 else _as_channels(node)
    if all(part is not None for part in parts):
        try:
            made = value_of(node, {})
        except KeyError:
            return node  # it depends on where the surface is
        if np.isfinite(made).all() and np.abs(made).max() <= 1e6:
            return _constant(made)
    if len(node.arguments) == 2 and parts[1] == (_NEUTRAL.get(node.operation),):
        return node.arguments[0]
    if node.operation in ("multiply", "add") and parts[0] == (_NEUTRAL[node.operation],):
        return node.arguments[1]
    if node.operation == "multiply" and (0.0,) in parts:
        return Constant(0.0)
    return _decided(node, parts)


def _decided(node: Call, parts: list[tuple[float, ...] | None]) -> Node:
    """A mixture, choice or effect whose share is fixed where it leaves one of its values."""
    if node.operation == "mix" and parts[2] in ((0.0,), (1.0,)):
        return node.arguments[int(parts[2][0])]
    if node.operation in ("occlude", "tint") and parts[2] == (0.0,):
        return node.arguments[0]
    share = parts[1] if len(parts) > 1 else None
    if node.operation == "choose" and share is not None:
        return node.arguments[0 if share[0] > 0.5 else 2]
    if node.operation == "pick" and share is not None:
        options = (node.arguments[0], *node.arguments[2:])
        return options[min(max(int(share[0] + 0.5), 0), len(options) - 1)]
    return node


def _as_channels(node: Call) -> Node:
    """rgb(map.r, map.g, map.b) as map.rgb."""
    parts = [one for one in node.arguments if isinstance(one, Swizzle) and len(one.letters) == 1]
    if len(parts) == len(node.arguments) and all(one.of == parts[0].of for one in parts):
        return Swizzle(parts[0].of, "".join(one.letters for one in parts))
    return node


def _constant(made: NDArray[np.float32]) -> Node:
    # The shortest decimal that is the same 32-bit number.
    values = [float(str(one)) for one in made]
    if len(set(values)) == 1:
        return Constant(values[0])
    return Call("rgb" if len(values) == 3 else "vector", tuple(Constant(one) for one in values))


def _channels(node: Swizzle) -> Node:
    inner = node.of
    if isinstance(inner, Constant):
        return inner
    if isinstance(inner, Swizzle):
        # One channel stands for as many as are asked for.
        letters = inner.letters * 4 if len(inner.letters) == 1 else inner.letters
        return Swizzle(inner.of, "".join(letters["rgba".index(letter)] for letter in node.letters))
    if isinstance(inner, Call) and inner.operation in _JOINS and all(map(_is_number, inner.arguments)):
        taken = [inner.arguments["rgba".index(letter)] for letter in node.letters]
        if len(taken) == 1:
            return taken[0]
        return simplified(Call("rgb" if len(taken) == 3 else "vector", tuple(taken)))
    if isinstance(inner, Call) and _is_taken_apart(inner):
        taken = [component(one, node.letters) for one in inner.arguments]
        return simplified(replace(inner, arguments=tuple(taken)))
    return node


def _is_taken_apart(node: Call) -> bool:
    """Whether its channels are the same operation on its arguments' channels."""
    return _takes_channels(node) and all(_takes_channels(one) or isinstance(one, Constant) for one in node.arguments)


def _is_number(node: Node) -> bool:
    return isinstance(node, Constant) or (isinstance(node, Swizzle) and len(node.letters) == 1)


def _takes_channels(node: Node) -> bool:
    """Whether a value is known to have more than one component."""
    if isinstance(node, Swizzle):
        return len(node.letters) > 1
    if isinstance(node, Call):
        return node.operation in _JOINS or (node.operation in _EACH and any(map(_takes_channels, node.arguments)))
    return False
