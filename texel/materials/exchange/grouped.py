"""Materials of one document that are built alike become one master, and a cast for each.

Alike are those whose sheets differ in numbers alone: constants, factors that one has and another leaves out, defaults
of parameters. Each number that differs becomes a parameter.
"""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from texel.errors import TexelError
from texel.materials.exchange.imported import Imported, free_name
from texel.materials.exchange.mtlx_write import CastOf
from texel.materials.expression import parse_expression, text_of
from texel.materials.layers import renamed
from texel.materials.master import INPUTS, parse_master, parse_value
from texel.materials.simplify import constants_of
from texel.materials.tree import Call, Constant, Name, Node, Swizzle

__all__ = ["gathered"]

Values = tuple[float, ...]
_ONE = Constant(1.0)
# Shorter than this, what the titles have in common says nothing.
_SHORTEST_TITLE = 4
_WORDS = ("title", "help", "group")


def gathered(materials: Sequence[Imported], title: str) -> list[Imported]:
    """The materials, those that are alike as casts of one master, in the order of the first of each. title: of a master
    whose casts have nothing in their titles in common. Each material given is a master with one cast."""
    groups: dict[str, list[Imported]] = {}
    for one in materials:
        names = _names_of(one.document)
        plain = _renamed(one, {name: f"name_{at}" for at, name in enumerate(names)})
        group = groups.setdefault(_build_of(plain.document), [])
        # What is alike but for its names goes by those of the first.
        group.append(_renamed(one, dict(zip(names, _names_of(group[0].document), strict=True))) if group else one)
    return [one for group in groups.values() for one in (group if len(group) == 1 else _merged(group, title))]


def _names_of(document: dict[str, Any]) -> list[str]:
    """Names of slots, parameters and rows in their order, each once."""
    keys = ("slots", "parameters", "rows")
    return [one["name"] for key in keys for one in document.get(key, ())]


def _renamed(one: Imported, names: dict[str, str]) -> Imported:
    """The same material under other names of its slots, parameters and rows."""

    def text(expression: str) -> str:
        return text_of(renamed(parse_expression(expression), names))

    def called(entry: dict[str, Any]) -> dict[str, Any]:
        return entry | {"name": names.get(entry["name"], entry["name"])}

    document = dict(one.document)
    for key in ("slots", "parameters"):
        document[key] = [called(entry) for entry in document.get(key, ())]
    document["rows"] = [called(entry) | {"expression": text(entry["expression"])} for entry in document.get("rows", ())]
    document["inputs"] = {name: text(expression) for name, expression in document["inputs"].items()}
    casts = tuple(
        CastOf(
            cast.name, {names.get(name, name): value for name, value in cast.changes.items()},
            {names.get(slot, slot): file for slot, file in cast.files.items()},
        )
        for cast in one.casts
    )  # fmt: skip
    return replace(one, document=document, casts=casts)


def _trees(document: dict[str, Any]) -> tuple[dict[str, Node], dict[str, Node]]:
    """Rows and inputs by name."""
    rows = {row["name"]: parse_expression(row["expression"]) for row in document.get("rows", ())}
    return rows, {name: parse_expression(text) for name, text in document["inputs"].items()}


def _build_of(document: dict[str, Any]) -> str:
    """What two documents have in common when they differ in names and numbers alone."""
    rows, inputs = _trees(document)

    def kept(key: str, *also: str) -> list[dict[str, Any]]:
        """Entries without what says nothing of how the sheet is built."""
        return [{k: v for k, v in one.items() if k not in (*_WORDS, *also)} for one in document.get(key, ())]

    return json.dumps(
        {
            **{key: document.get(key) for key in ("coordinates", "opacity")}, "slots": kept("slots"),
            "parameters": kept("parameters", "default"),
            "rows": {name: _shape(tree) for name, tree in rows.items()},
            # An input that is a constant may as well be left out: then it is its neutral value.
            "inputs": {name: _shape(tree) for name, tree in sorted(inputs.items()) if constants_of(tree) is None},
        },
        sort_keys=True,
    )  # fmt: skip


def _factor_of(node: Node) -> tuple[Node, Node]:
    """What is multiplied by a constant, and the constant; a factor of 1 is left out of sheets."""
    if isinstance(node, Call) and node.operation == "multiply" and constants_of(node.arguments[1]) is not None:
        return node.arguments[0], node.arguments[1]
    return node, _ONE


def _shape(node: Node) -> str:
    """The tree as text with every constant as a sign, and factors left out."""
    if constants_of(node) is not None:
        return "#"
    node, _ = _factor_of(node)
    if isinstance(node, Swizzle):
        return f"{_shape(node.of)}.{node.letters}"
    if isinstance(node, Call):
        return f"{node.operation}({','.join(_shape(one) for one in node.arguments)})"
    return node.name if isinstance(node, Name) else "#"


@dataclass
class _Merger:
    """Joins the trees of several documents. changes: what each cast changes, in the documents' order."""

    document: dict[str, Any]
    changes: list[dict[str, Values]]
    parameters: list[dict[str, Any]] = field(default_factory=list)

    def join(self, nodes: Sequence[Node], about: str, title: str, most: float) -> Node:
        """One tree for all, with parameters where they differ. most: what a constant may be at most."""
        values = [constants_of(node) for node in nodes]
        if all(value is not None for value in values):
            return self._constant([value or () for value in values], nodes, about, title, most)
        pairs = [_factor_of(node) for node in nodes]
        body = self._join_parts([one for one, _ in pairs], about, title)
        factors = [constants_of(factor) or () for _, factor in pairs]
        if set(factors) == {(1.0,)}:
            return body
        factor = self._constant(factors, [one for _, one in pairs], f"{about}_factor", f"{title}, factor", 1.0)
        return Call("multiply", (body, factor))

    def _join_parts(self, nodes: Sequence[Node], about: str, title: str) -> Node:
        first = nodes[0]
        if isinstance(first, Swizzle):
            return Swizzle(self.join([one.of for one in nodes], about, title, 1.0), first.letters)  # type: ignore[union-attr]
        if isinstance(first, Call):
            columns = zip(*(one.arguments for one in nodes), strict=True)  # type: ignore[union-attr]
            arguments = tuple(self.join(column, about, title, 1.0) for column in columns)
            return Call(first.operation, arguments)
        return first

    def _constant(self, values: Sequence[Values], nodes: Sequence[Node], about: str, title: str, most: float) -> Node:
        if len(set(values)) == 1:
            return nodes[0]
        size = max(map(len, values))
        wide = [value * size if len(value) == 1 else value for value in values]
        every = [part for value in wide for part in value]
        if size == 3 and min(every) >= 0 and max(every) <= 1:
            return self._parameter("colour", wide, about, title)
        if size == 1:
            limits = {"low": min(0.0, *every), "high": max(most, *every)}
            return self._parameter("number", wide, about, title, **limits)
        parts: list[Node] = []
        for at, letter in enumerate("rgba"[:size]):
            column = [value[at] for value in wide]
            single, alone = [(one,) for one in column], [Constant(one) for one in column]
            parts.append(self._constant(single, alone, f"{about}_{letter}", f"{title}, {letter}", most))
        return Call("rgb" if size == 3 else "vector", tuple(parts))

    def _parameter(self, kind: str, values: Sequence[Values], about: str, title: str, **more: float) -> Node:
        taken = {one["name"] for key in ("slots", "parameters", "rows") for one in self.document.get(key, ())}
        name = free_name(about, {*taken, *(one["name"] for one in self.parameters)})
        default = values[0][0] if kind == "number" else list(values[0])
        self.parameters.append({"name": name, "kind": kind, "title": title, "default": default, **more})
        for changes, value in zip(self.changes, values, strict=True):
            if value != values[0]:
                changes[name] = value
        return Name(name)


def _merged(group: Sequence[Imported], title: str) -> Sequence[Imported]:
    """One master whose defaults are those of the first, and a cast for each; all of them as they are where a number
    stands where the sheet takes no parameter."""
    first = group[0].document
    merger = _Merger(first, [dict(one.casts[0].changes) for one in group])
    trees = [_trees(one.document) for one in group]
    rows = {
        name: merger.join([rows[name] for rows, _ in trees], name, name.replace("_", " ").capitalize(), 1.0)
        for name in trees[0][0]
    }
    inputs: dict[str, Node] = {}
    for name, known in INPUTS.items():
        given = [one.get(name) for _, one in trees]
        if any(one is not None for one in given):
            parts = tuple(Constant(value) for value in known.neutral)
            neutral = parts[0] if known.size == 1 else Call("rgb", parts)
            inputs[name] = merger.join([one or neutral for one in given], name, known.label, known.bounds[1])
    shared = _common_title([one.document["title"] for one in group], title)
    document = first | {
        "name": free_name(shared, set()).replace("_", "-"), "title": shared,
        "parameters": [*first.get("parameters", ()), *merger.parameters],
        "rows": [{"name": name, "expression": text_of(tree)} for name, tree in rows.items()],
        "inputs": {name: text_of(tree) for name, tree in inputs.items()},
    }  # fmt: skip
    _carry_defaults([one.document for one in group], merger.changes)
    try:
        parse_master(document, title)
    except TexelError:
        return group
    casts = tuple(
        CastOf(one.document["title"], changes, one.casts[0].files)
        for one, changes in zip(group, merger.changes, strict=True)
    )
    pictures = {name: body for one in group for name, body in one.pictures.items()}
    return [Imported(document, casts, _lost(group), pictures)]


def _common_title(titles: Sequence[str], otherwise: str) -> str:
    """The words that all titles begin with."""
    words = [re.split(r"[\s_.-]+", one) for one in titles]
    alike = itertools.takewhile(lambda column: len(set(column)) == 1, zip(*words, strict=False))
    common = " ".join(column[0] for column in alike).rstrip(",;:")
    return common if len(common) >= _SHORTEST_TITLE else otherwise


def _carry_defaults(documents: Sequence[dict[str, Any]], changes: list[dict[str, Values]]) -> None:
    """What a document has as the default of a parameter, and the first has not, its cast changes."""
    first = {one["name"]: one for one in documents[0].get("parameters", ())}
    for document, changed in zip(documents, changes, strict=True):
        known = parse_master(document).parameters
        for one in document.get("parameters", ()):
            if one.get("default") != first[one["name"]].get("default") and one["name"] not in changed:
                changed[one["name"]] = parse_value(known[one["name"]], one["default"], document["title"])


def _lost(group: Sequence[Imported]) -> tuple[str, ...]:
    """What all lose, once; what one loses alone under its title."""
    losses: dict[str, None] = {}
    for one in group:
        for line in one.lost:
            losses[line if all(line in other.lost for other in group) else f"{one.document['title']}: {line}"] = None
    return tuple(losses)
