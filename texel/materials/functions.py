"""Functions: chains with inputs under a name, which any sheet uses as one step. A sheet carries those that it calls.

A function is an operation that a document defines: rows in terms of operations and of other functions, which it
carries in turn. Every back end makes its form from them, as from those of texel.materials.operations.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from texel.errors import BadDocument, BadExpression
from texel.materials.defined import result_size, trees_of
from texel.materials.expression import parse_expression
from texel.materials.operations import MAP, Operation
from texel.materials.operations.operation import Definition
from texel.materials.simplify import value_of
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Name, Node, walk
from texel.schemas import check_document

__all__ = [
    "TAKES", "Function", "FunctionInput", "operations_of", "parse_function", "parse_functions", "steps_of",
]  # fmt: skip

Document = dict[str, Any]
FORMAT = "fair-texel/function"
GROUP = "Functions"
# Words of documents for the size of what an input takes.
TAKES = {"number": 1, "vector2": 2, "vector3": 3, "vector4": 4, "map": MAP}
# Functions within functions; every level is a level of calls of what reads them.
_MAX_LEVELS = 4
# Steps with all that the functions within do: more would keep every back end busy for minutes.
_MAX_STEPS = 5000
# Names in a sheet that no input and no row may take.
_RESERVED = ("vertex", "uv")


@dataclass(frozen=True)
class FunctionInput:
    """size: components, or MAP for the name of a slot. default: an expression of numbers; "" of a map."""

    name: str
    title: str
    size: int
    default: str
    help: str = ""


@dataclass(frozen=True)
class Function:
    """number: the version in the library, "" for one that is of none. operation: what a sheet calls by its name."""

    name: str
    title: str
    help: str
    number: str
    inputs: tuple[FunctionInput, ...]
    operation: Operation = field(compare=False)
    document: Document = field(hash=False)


def parse_function(document: Any, where: str = "the function") -> Function:
    """Raises BadDocument with the place; BadExpression, with the row ("result" for the result), for what is wrong in an
    expression.

    >>> wet = {"format": "fair-texel/function", "version": 1, "name": "wet", "result": "colour * (1 - amount / 2)",
    ...        "inputs": [{"name": "colour", "takes": "vector3"}, {"name": "amount", "takes": "number"}]}
    >>> parse_function(wet).operation.arguments
    ('colour', 'amount')
    """
    check_document(document, "function", where)
    _check_levels(document)
    return _read(json.dumps(document, sort_keys=True))


def _check_levels(document: Document, level: int = 1) -> None:
    if level > _MAX_LEVELS:
        raise BadDocument("the functions in {name} stand in each other more than {levels} deep", name=document["name"],
                          levels=_MAX_LEVELS)  # fmt: skip
    for one in document.get("functions", []):
        _check_levels(one, level + 1)


@lru_cache(256)
def _read(text: str) -> Function:
    """The same function for the same document, so that what is made of it is found again. text: JSON."""
    document: Document = json.loads(text)
    name = document["name"]
    where = f"the function {name}"
    within = _within(document.get("functions", []), where)
    inputs = tuple(_input(one, where) for one in document["inputs"])
    if inputs[0].size == MAP:
        raise BadDocument("{where}: the first input is what flows through a chain, and no map", where=where)
    rows = tuple((one["name"], one["expression"]) for one in document.get("rows", []))
    _check_names([one.name for one in inputs], [row for row, _ in rows], where)
    known = operations_of(within.values())
    maps = {one.name for one in inputs if one.size == MAP}
    seen = {*STARTS, *(one.name for one in inputs)}
    for row, expression in (*rows, ("result", document["result"])):
        _check_row(_tree(expression, row, known), row, seen, maps)
        seen.add(row)
    arguments = tuple(one.name for one in inputs)
    definition = Definition(arguments, rows, document["result"], tuple(known.items()))
    operation = _operation(document, inputs, definition)
    if not maps:
        # It is told at once how many components come out.
        operation = replace(operation, shape=str(result_size(operation, [one.size for one in inputs], [])))
    steps = steps_of(operation)
    if steps > _MAX_STEPS:
        raise BadDocument(
            "{where} does {steps} steps with those of the functions in it, at most {most} are read", where=where,
            steps=steps, most=_MAX_STEPS,
        )  # fmt: skip
    title, help_ = document.get("title") or name, document.get("help", "")
    return Function(name, title, help_, document.get("number", ""), inputs, operation, document)


def _operation(document: Document, inputs: tuple[FunctionInput, ...], definition: Definition) -> Operation:
    name, first = document["name"], tuple(one.default for one in inputs[1:])
    made = Operation(
        name, document.get("title") or name, tuple(one.name for one in inputs), None, GROUP, document.get("help", ""),
        f"{name}({', '.join(one.name for one in inputs)})", first, "rows", tuple(one.size for one in inputs), "rows",
        definition=lambda _: definition,
    )  # fmt: skip
    return replace(made, reads=_reads_of(made))


def _within(documents: Iterable[Document], where: str) -> dict[str, Function]:
    found: dict[str, Function] = {}
    for one in documents:
        if one["name"] in found:
            raise BadDocument("{where}: the function {name} stands there twice", where=where, name=one["name"])
        try:
            found[one["name"]] = _read(json.dumps(one, sort_keys=True))
        except BadExpression as error:
            told = f"the function {one['name']}"
            raise BadDocument("{told}: {row}: {problem}", told=told, row=error.row, problem=error.problem) from None
    return found


def parse_functions(documents: Iterable[Any], where: str) -> dict[str, Function]:
    """The functions that a sheet carries, by name. Raises BadDocument."""
    listed = list(documents)
    for one in listed:
        check_document(one, "function", where)
        _check_levels(one)
    return _within(listed, where)


def operations_of(functions: Iterable[Function]) -> dict[str, Operation]:
    """What expressions call, by name."""
    return {one.name: one.operation for one in functions}


@lru_cache(1024)
def steps_of(operation: Operation, count: int = 0) -> int:
    """Operations in the rows of an operation, and in those that these call. count: of its arguments, as many as it has
    names for when left out.

    >>> from texel.materials.operations import OPERATIONS
    >>> steps_of(OPERATIONS["add"]), steps_of(OPERATIONS["tint_by_mask"]) > 1
    (0, True)
    """
    return sum(1 + steps_of(node.called, len(node.arguments)) for node in _calls_in(operation, count))


@lru_cache(1024)
def _reads_of(operation: Operation) -> int:
    """Reads of maps at computed coordinates; of a function those of all that it calls."""
    return operation.reads or sum(_reads_of(node.called) for node in _calls_in(operation))


def _calls_in(operation: Operation, count: int = 0) -> Iterator[Call]:
    """What the rows of an operation's definition call; nothing of one without."""
    definition = operation.usual_definition(count or len(operation.arguments))
    nodes = (node for _, tree in trees_of(definition) for node in walk(tree)) if definition else iter(())
    return (node for node in nodes if isinstance(node, Call))


def _input(one: Document, where: str) -> FunctionInput:
    size, default = TAKES[one["takes"]], one.get("default", "0")
    if size == MAP:
        return FunctionInput(one["name"], one.get("title") or one["name"], size, "", one.get("help", ""))
    told = f"{where}: the input {one['name']}"
    try:
        count = value_of(parse_expression(default), {}).size
    except BadExpression as error:
        raise BadDocument("{told}: {problem}", told=told, problem=error.problem) from None
    except KeyError:
        raise BadDocument("{told} begins with numbers, not with {default}", told=told, default=default) from None
    if count not in (1, size):
        raise BadDocument("{told} takes {size} components, not {count}", told=told, size=size, count=count)
    return FunctionInput(one["name"], one.get("title") or one["name"], size, default, one.get("help", ""))


def _tree(text: str, row: str, known: Mapping[str, Operation]) -> Node:
    try:
        return parse_expression(text, known)
    except BadExpression as error:
        raise error.of_row(row) from None


def _check_names(inputs: list[str], rows: list[str], where: str) -> None:
    names = [*inputs, *rows]
    for name in names:
        if name in _RESERVED:
            raise BadDocument("{where}: the name {name} is a word of the sheet", where=where, name=name)
        if names.count(name) > 1 or name == "result":
            raise BadDocument("{where}: the name {name} stands there twice", where=where, name=name)
    for name in inputs:
        # In MaterialX beside each map stands what is read without one, and every node has its output.
        if name == "out" or name.endswith("_default"):
            raise BadDocument("{where}: an input cannot be called {name}; choose another name", where=where, name=name)


def _check_row(tree: Node, row: str, known: set[str], maps: set[str]) -> None:
    """Raises BadExpression for a name that is not there yet, a map where a value belongs, and the other way round."""
    places = {
        id(node.arguments[at]) for node in walk(tree) if isinstance(node, Call) for at in node.called.maps
    }  # fmt: skip
    for node in walk(tree):
        if id(node) in places and not (isinstance(node, Name) and node.name in maps):
            raise BadExpression("the name of a map among the inputs belongs here", *node.span, row)
        if not isinstance(node, Name) or id(node) in places:
            continue
        if node.name in maps:
            raise BadExpression("{name} is a map: read(uv, {name}) reads it", *node.span, row, name=node.name)
        if node.name not in known:
            raise BadExpression("there is no {node} above this row", *node.span, row, node=node.name)
