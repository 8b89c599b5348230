"""Functions while sheets are edited: drawn out of a chain, brought into a sheet or to another version, looked at."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from texel.errors import BadDocument, BadExpression
from texel.materials.chain import Chain, chain_of, tree_of
from texel.materials.defined import trees_of
from texel.materials.expression import parse_expression, text_of
from texel.materials.functions import FORMAT, TAKES, Function, operations_of, parse_function, parse_functions
from texel.materials.kinds import Kind, Kinds
from texel.materials.layers import origins, renamed
from texel.materials.master import Master, parse_master
from texel.materials.operations import MAP, OPERATIONS, Operation
from texel.materials.simplify import value_of
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, walk
from texel.materials.versions import VersionChange, changes_between

__all__ = [
    "RESULT", "Drawn", "drawn_out", "function_changes", "function_name", "problem_of", "sheet_of_function",
    "with_function",
]  # fmt: skip

Document = dict[str, Any]
# What an input of a function is in the sheet that shows it, by its size; of a map the first that fits.
_SHOWN_AS: dict[int, Document] = {
    1: {"role": "detail_mask"}, 3: {"role": "base_color"}, 4: {"layout": "four-masks"},
}  # fmt: skip
_MAPS_AS = (_SHOWN_AS[3], _SHOWN_AS[1], _SHOWN_AS[4], {"role": "normal"})
_TAKES = {size: word for word, size in TAKES.items()}
# The row of such a sheet that holds what a function gives.
RESULT = "result"


class Drawn(NamedTuple):
    """function: made of a chain; document: the sheet that calls it; rows: that call it now, as the flat sheet names
    them."""

    function: Document
    document: Document
    rows: tuple[str, ...]


def _sheets(document: Document) -> Iterator[tuple[str, Document]]:
    """The sheets of a document, each with what its names begin with in the flat sheet."""
    if "layers" in document:
        yield from ((f"{one['name']}_", one["sheet"]) for one in document["layers"])
    else:
        yield "", document


def _rewritten(
    document: Document, known: Mapping[str, Operation], change: Callable[[str, str, Node], Node]
) -> Document:
    """A copy of a master's document with other trees. change: the name's beginning, the row, its tree."""
    made: Document = json.loads(json.dumps(document))
    for prefix, sheet in _sheets(made):

        def text(row: str, given: str, prefix: str = prefix) -> str:
            return text_of(change(prefix, row, parse_expression(given, known)))

        for row in sheet.get("rows", []):
            row["expression"] = text(row["name"], row["expression"])
        sheet["inputs"] = {name: text(name, given) for name, given in sheet["inputs"].items()}
        for one in sheet.get("coordinates", []):
            for key in ("tiling", "offset", "rotation"):
                if isinstance(one.get(key), str):
                    one[key] = text(f"{key} of {one['name']}", one[key])
    return made


def function_name(title: str) -> str:
    """A name for a function, of its title.

    >>> function_name("Worn by Edges 2")
    'worn_by_edges_2'
    """
    letters = "".join(one if one.isascii() and one.isalnum() else " " for one in title.lower())
    name = "_".join(letters.split())[:40].strip("_")
    return name if name[:1].isalpha() else f"f_{name}".strip("_")[:40]


def with_function(document: Document, function: Document) -> Document:
    """A master's document that carries a function; where it has another version of it, its calls are brought along:
    arguments by the names of inputs, new inputs with what a new step has. Raises BadDocument."""
    new, carried = parse_function(function), document.get("functions", [])
    known = operations_of(parse_functions(carried, "the sheet").values())
    old = known.get(new.name)
    others = [one for one in carried if one["name"] != new.name]
    slots = [one["name"] for _, sheet in _sheets(document) for one in sheet.get("slots", [])]

    def argument(node: Call, at: int) -> Node:
        one = new.inputs[at]
        assert old is not None
        if one.name in old.arguments and (old.fits[old.arguments.index(one.name)] == MAP) == (one.size == MAP):
            return moved(node.arguments[old.arguments.index(one.name)])
        if at == 0 and one.name not in old.arguments:
            return moved(node.arguments[0])
        if one.size != MAP:
            return parse_expression(one.default)
        if not slots:
            raise BadDocument("{name} reads a map; give the sheet a slot first", name=new.name)
        return Name(slots[0])

    def moved(node: Node) -> Node:
        if isinstance(node, Swizzle):
            return replace(node, of=moved(node.of))
        if not isinstance(node, Call):
            return node
        if node.function is None or node.operation != new.name:
            return replace(node, arguments=tuple(moved(one) for one in node.arguments))
        arguments = tuple(argument(node, at) for at in range(len(new.inputs)))
        return Call(new.name, arguments, function=new.operation)

    made = _rewritten(document, known, lambda prefix, row, tree: moved(tree)) if old else dict(document)
    return made | {"functions": [*others, function]}


def drawn_out(
    document: Document, row: str, name: str, title: str, first: int = 0, last: int | None = None,
    open_numbers: bool = False,
) -> Drawn:  # fmt: skip
    """Make a function of a row's chain, and call it wherever the sheet computes the same.

    row: as the flat sheet names it. first, last: steps of its chain, 0 the first; last the last when left out. What the
    steps read of the sheet, slots, parameters and rows, becomes an input; numbers only with ``open_numbers``. Raises
    BadDocument, BadExpression.
    """
    master = parse_master(document, "the sheet")
    if name in OPERATIONS or name in master.functions:
        raise BadDocument("there is an operation called {name}; choose another name", name=name)
    trees = dict(master.trees())
    if row not in trees:
        raise BadDocument("there is no row {row}", row=row)
    origin = origins(document).get(row)
    if "layers" in document and origin is None:
        raise BadDocument("{row} follows from the layers; take a row of one of them", row=row)
    prefix = f"{origin.layer}_" if origin else ""
    chain = chain_of(trees[row])
    last = len(chain.links) - 1 if last is None else last
    if not 0 <= first <= last < len(chain.links):
        raise BadDocument("a function needs at least one step; the chain has {count}", count=len(chain.links))
    head = tree_of(Chain(chain.start, chain.links[:first]))
    gathered = _Inputs(master, prefix, open_numbers)
    flowing = gathered.first(head, whole=first == 0)
    body = gathered.opened(tree_of(Chain(flowing, chain.links[first : last + 1])), flowing)
    called = {node.operation for node in walk(body) if isinstance(node, Call) and node.function is not None}
    function: Document = {
        "format": FORMAT, "version": 1, "name": name, "title": title, "inputs": gathered.documents,
        "result": text_of(body),
    }  # fmt: skip
    if called:
        function["functions"] = [master.functions[one].document for one in sorted(called)]
    made = parse_function(function, title)
    calls = _Calls(master, made, body)
    written = _rewritten(document, operations_of(master.functions.values()), calls.replaced)
    written["functions"] = [*document.get("functions", []), function]
    parse_master(written, "the sheet")
    return Drawn(function, written, tuple(calls.rows))


class _Inputs:
    """The inputs of a function, gathered while its body is made from a chain."""

    def __init__(self, master: Master, prefix: str, open_numbers: bool):
        self.documents: list[Document] = []
        self._master, self._kinds, self._prefix, self._numbers = master, Kinds(master), prefix, open_numbers
        self._known: dict[str, Name] = {}

    def _add(self, wanted: str, size: int, stands_for: str, default: str = "") -> Name:
        if stands_for in self._known:
            return self._known[stands_for]
        # Room for a number behind it; some words are no names of inputs.
        base = wanted.removeprefix(self._prefix)[:34].strip("_")
        base += "_in" if base == "out" or base.endswith("_default") else ""
        taken = {one["name"] for one in self.documents} | {"vertex", "uv", "result"}
        name, count = base, 1
        while name in taken:
            count += 1
            name = f"{base}_{count}"
        document = {"name": name, "takes": _TAKES[size]}
        self.documents.append(document | ({"default": default} if default else {}))
        self._known[stands_for] = made = Name(name)
        return made

    def first(self, head: Node, whole: bool) -> Name:
        """What flows through the chain. whole: the chain from its start, which gives the input its name."""
        names = [one.name for one in walk(head) if isinstance(one, Name)]
        name = "value"
        if whole and names and self._is_of_sheet(names[0]):
            name = f"{names[0]}_{head.letters}" if isinstance(head, Swizzle) else names[0]
        return self._add(name, self._kinds.of(head).size, text_of(head))

    def opened(self, node: Node, flowing: Name) -> Node:
        """A tree with inputs for what it reads of the sheet."""
        if node is flowing:
            return node
        if isinstance(node, Constant):
            return self._number(node) if self._numbers else node
        if isinstance(node, Name):
            if not self._is_of_sheet(node.name):
                return node
            parameter = self._master.parameters.get(node.name)
            begin = text_of(_joined(parameter.default)) if parameter else ""
            return self._add(node.name, self._kinds.of(node).size, node.name, begin)
        if isinstance(node, Swizzle):
            if isinstance(node.of, Name) and node.of is not flowing and node.of.name in self._master.slots:
                # Of a slot all four channels can be taken, of a value only those that it has.
                return self._add(f"{node.of.name}_{node.letters}", len(node.letters), text_of(node))
            return replace(node, of=self.opened(node.of, flowing))
        maps = node.called.maps
        return replace(
            node,
            arguments=tuple(
                self._add(one.name, MAP, f"map {one.name}") if at in maps and isinstance(one, Name)
                else self.opened(one, flowing)
                for at, one in enumerate(node.arguments)
            ),
        )  # fmt: skip

    def _number(self, node: Constant) -> Name:
        return self._add("number", 1, f"number {len(self.documents)}", text_of(node))

    def _is_of_sheet(self, name: str) -> bool:
        return name in self._master.slots or name in self._master.parameters or name in self._master.rows


def _joined(parts: tuple[float, ...]) -> Node:
    numbers = tuple(Constant(part) for part in parts)
    return numbers[0] if len(set(parts)) == 1 else Call("rgb" if len(parts) == 3 else "vector", numbers)


class _Calls:
    """Puts calls of a function where trees compute what it does. rows: in which there is one now."""

    def __init__(self, master: Master, function: Function, body: Node):
        self.rows: list[str] = []
        self._master, self._kinds, self._function, self._body = master, Kinds(master), function, body
        self._sizes = {one.name: one.size for one in function.inputs}

    def replaced(self, prefix: str, row: str, tree: Node) -> Node:
        """The tree of a row with calls in it. prefix: of its names in the flat sheet."""
        made = self._within(tree, self._names(prefix))
        flat = prefix + row
        if made != tree:
            self.rows.append(flat)
        return made

    def _names(self, prefix: str) -> dict[str, str]:
        own = [*self._master.slots, *self._master.parameters, *self._master.rows]
        return {name.removeprefix(prefix): name for name in own if prefix and name.startswith(prefix)}

    def _within(self, node: Node, names: dict[str, str]) -> Node:
        found: dict[str, Node] = {}
        if (
            isinstance(node, Call | Swizzle) and self._matches(self._body, node, found, names)
            and len(found) == len(self._sizes)
        ):  # fmt: skip
            arguments = tuple(self._within(found[one.name], names) for one in self._function.inputs)
            return Call(self._function.name, arguments, function=self._function.operation)
        if isinstance(node, Swizzle):
            of = self._within(node.of, names)
            return replace(node, of=of) if of != node.of else node
        if isinstance(node, Call):
            maps = node.called.maps
            return replace(
                node,
                arguments=tuple(
                    one if at in maps else self._within(one, names) for at, one in enumerate(node.arguments)
                ),
            )  # fmt: skip
        return node

    def _matches(self, wanted: Node, node: Node, found: dict[str, Node], names: dict[str, str]) -> bool:
        if isinstance(wanted, Name) and wanted.name in self._sizes:
            if wanted.name not in found and self._takes(self._sizes[wanted.name], node, names):
                found[wanted.name] = node
            return wanted.name in found and found[wanted.name] == node
        if isinstance(wanted, Swizzle):
            return (
                isinstance(node, Swizzle) and wanted.letters == node.letters
                and self._matches(wanted.of, node.of, found, names)
            )  # fmt: skip
        if not isinstance(wanted, Call):
            return wanted == node
        return (
            isinstance(node, Call) and node.operation == wanted.operation
            and len(node.arguments) == len(wanted.arguments)
            and all(self._matches(*pair, found, names) for pair in zip(wanted.arguments, node.arguments, strict=True))
        )  # fmt: skip

    def _takes(self, size: int, node: Node, names: dict[str, str]) -> bool:
        flat = renamed(node, names)
        if size == MAP:
            return isinstance(flat, Name) and flat.name in self._master.slots
        try:
            return self._kinds.of(flat).size == size
        except BadExpression:
            return False


def sheet_of_function(function: Function) -> Document:
    """A master that shows a function: its inputs as slots and parameters, its rows as rows, its result as the row
    ``RESULT`` and as the surface's colour or normal. What flows through is a map, where one has as many channels."""
    map_as, kind = _fitting(function)[:2]
    made = _shown(function, map_as)
    if kind is not None and kind.meaning == "normal":
        made["inputs"] = {"normal": RESULT}
    elif kind is not None and kind.size == 2:
        made["inputs"] = {"base_color": f"rgb({RESULT}.r, {RESULT}.g, 0)"}
    elif kind is not None and kind.size == 4:
        made["inputs"] = {"base_color": f"{RESULT}.rgb", "height": f"{RESULT}.a"}
    return made


def problem_of(function: Function) -> BadExpression | None:
    """What of a function does not fit together, whatever maps it is called with, with its row ("result" for the
    result); None where nothing is wrong."""
    return _fitting(function)[2]


def _fitting(function: Function) -> tuple[Document, Kind | None, BadExpression | None]:
    """What its maps are in a sheet that shows it, the kind of its result, and what does not fit."""
    assert function.operation.definition is not None
    trees = trees_of(function.operation.definition(()))
    problem: BadExpression | None = None
    for map_as in _MAPS_AS:
        kinds = Kinds(parse_master(_shown(function, map_as), function.title))
        bound: dict[str, Kind | str] = {
            one.name: one.name if one.size == MAP else Kind(one.size, "any", (-math.inf, math.inf))
            for one in function.inputs
        }
        try:
            for row, tree in trees:
                bound[row] = made = _kind_of(kinds, tree, bound, row)
        except BadExpression as error:
            problem = problem or error
        else:
            return map_as, made, None
    return _MAPS_AS[0], None, problem


def _kind_of(kinds: Kinds, tree: Node, bound: Mapping[str, Kind | str], row: str) -> Kind:
    try:
        return kinds.of(tree, bound)
    except BadExpression as error:
        raise error.of_row(row or RESULT) from None


def _shown(function: Function, map_as: Document) -> Document:
    slots, parameters = [], []
    for at, one in enumerate(function.inputs):
        named = {"name": one.name, "title": one.title, "help": one.help}
        if one.size == MAP or (at == 0 and one.size in _SHOWN_AS):
            slots.append(named | (map_as if one.size == MAP else _SHOWN_AS[one.size]))
            continue
        begin = [float(part) for part in value_of(parse_expression(one.default), {})]
        begin = begin * one.size if len(begin) == 1 else begin
        if one.size == 1:
            parameters.append(named | {"kind": "number", "default": begin[0], "soft_low": 0, "soft_high": 1})
        else:
            parameters.append(named | {"kind": "vector", "size": one.size, "default": begin})
    document = function.document
    made = {
        "format": "fair-texel/master", "version": 1, "name": function.name.replace("_", "-"), "title": function.title,
        "help": function.help, "slots": slots, "parameters": parameters,
        "rows": [*document.get("rows", []), {"name": RESULT, "expression": document["result"]}],
        "inputs": {"base_color": RESULT},
    }  # fmt: skip
    return made | ({"functions": document["functions"]} if document.get("functions") else {})


def function_changes(old: Function, new: Function) -> list[VersionChange]:
    """What differs between two versions of a function, as of masters (texel.materials.versions): what sheets that call
    it lose, what looks otherwise, and the rest."""
    before, after = (parse_master(sheet_of_function(one), one.title) for one in (old, new))
    # How the sheet shows the result is not the function's.
    changes = [_told(one) for one in changes_between(before, after) if one.what != "input"]
    kinds = [_fitting(one)[1] for one in (old, new)]
    sizes = [kind.size if kind else 0 for kind in kinds]
    if sizes[0] != sizes[1]:
        counts = [f"{size} components" for size in sizes]
        changes.insert(0, VersionChange("result", "", "removes", "The result is of another size", *counts))
    return changes


def _told(one: VersionChange) -> VersionChange:
    """The words of masters in those of functions."""
    if one.what == "row" and one.name == RESULT:
        return replace(one, what="result", name="", message="The result reads otherwise")
    if one.what in ("slot", "parameter"):
        return replace(one, message=one.message.replace("The slot ", "The input "))
    return replace(one, message="Some of what it is given looks otherwise") if one.what == "picture" else one
