"""Masters: a sheet with its slots, parameters, coordinates and rows, as a document and as trees."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from texel.channels.layout import ready_layout
from texel.errors import BadDocument, BadExpression
from texel.materials.defined import starts_in
from texel.materials.expression import parse_expression
from texel.materials.functions import Function, operations_of, parse_functions, steps_of
from texel.materials.layers import flattened
from texel.materials.operations import Interval, Operation
from texel.materials.starts import EVERYWHERE, STARTS
from texel.materials.surface import INPUTS, Input
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, walk
from texel.roles import Green, Role, Transfer, facts
from texel.schemas import check_document

__all__ = [
    "INPUTS", "Coordinates", "Input", "Master", "Parameter", "Slot", "dependencies", "parse_master", "parse_value",
]  # fmt: skip

_INFINITE = float("inf")
# Names of operations are free: they stand before brackets alone, and new ones must not take old sheets their words.
_RESERVED = {"vertex", "uv"}
_FORMAT = "fair-texel/master"
# Operations within each other, rows read through: ten times as deep as what people write.
_MAX_DEPTH = 240
# Operations in all, with those that operations and functions are made of: more would keep whoever reads it for long.
_MAX_STEPS = 50_000
# Beyond a picture: again from its start, its last texels, or turned over.
WRAPS = ("repeat", "clamp", "mirror")
# Between texels: weighed by distance, or the nearest one.
FILTERS = ("linear", "nearest")
# What a slot reads without a map, by name; of a normal slot always the flat normal.
DEFAULTS = {"white": 1.0, "black": 0.0, "mid": 0.5, "flat_normal": 0.5}


@dataclass(frozen=True)
class Slot:
    """A place for a map. role: of the map, None for a packed one; layout: of a packed one. default: of DEFAULTS.

    green: where a normal map's green points in this slot; the sheet itself always sees Y+. wrap: what lies beyond the
    picture, of WRAPS; filter: between its texels, of FILTERS.
    """

    name: str
    title: str
    role: Role | None
    layout: str | None
    colour_space: Transfer
    default: str
    coordinates: str
    green: Green = Green.UP
    help: str = ""
    wrap: str = "repeat"
    filter: str = "linear"

    @property
    def is_normal(self) -> bool:
        return self.role is Role.NORMAL

    @property
    def size(self) -> int:
        """Components of its bare name: 1 or 3 by its role, 4 for a packed map."""
        return 4 if self.role is None else facts(self.role).channels

    @property
    def meaning(self) -> str:
        if self.is_normal:
            return "normal"
        return "colour" if self.colour_space is Transfer.SRGB else "data"


@dataclass(frozen=True)
class Parameter:
    """What a cast may change. default: one component a number, three a colour (linear), two to four a vector; a switch
    0 or 1; a choice the index of its option. low, high: hard limits; soft ones are where a slider ends. components: of
    a vector."""

    name: str
    kind: str
    title: str
    default: tuple[float, ...]
    group: str = ""
    order: int = 0
    help: str = ""
    low: float = -_INFINITE
    high: float = _INFINITE
    soft_low: float | None = None
    soft_high: float | None = None
    step: float | None = None
    unit: str = ""
    options: tuple[str, ...] = ()
    components: int = 2

    @property
    def size(self) -> int:
        return {"colour": 3, "vector": self.components}.get(self.kind, 1)

    @property
    def bounds(self) -> Interval:
        if self.kind == "switch":
            return 0.0, 1.0
        if self.kind == "choice":
            return 0.0, float(len(self.options) - 1)
        return self.low, self.high


@dataclass(frozen=True)
class Coordinates:
    """Where slots are read: uv times tiling, turned, and moved (see texel.materials.sampling; v runs down).

    tiling, offset: of one or two numbers; rotation: degrees. All of them are the same everywhere on a surface: trees of
    numbers, parameters and the starts of ``EVERYWHERE``.
    """

    name: str
    uv_set: int
    tiling: Node
    offset: Node
    rotation: Node

    @property
    def reads(self) -> tuple[str, ...]:
        """Names of parameters and starts."""
        return tuple(dict.fromkeys(n for one in (self.tiling, self.offset, self.rotation) for n in dependencies(one)))


@dataclass(frozen=True)
class Master:
    """rows: named intermediate values; inputs: the surface's, those that the sheet sets. opacity_mode: "opaque",
    "cut_out" or "blend"; cut_off: opacity below which a cut-out is not there. functions: those that it carries."""

    name: str
    title: str
    help: str
    slots: dict[str, Slot]
    parameters: dict[str, Parameter]
    coordinates: dict[str, Coordinates]
    rows: dict[str, Node]
    inputs: dict[str, Node]
    opacity_mode: str = "opaque"
    cut_off: float = 0.5
    document: dict[str, Any] = field(default_factory=dict, compare=False)
    functions: dict[str, Function] = field(default_factory=dict)

    def trees(self) -> Iterator[tuple[str, Node]]:
        """Every row and input with its name, intermediate rows first."""
        yield from self.rows.items()
        yield from self.inputs.items()

    def ordered_rows(self) -> list[str]:
        """Names of intermediate rows, each behind those that it reads; rows that no input needs are left out."""
        ordered: dict[str, None] = {}

        def visit(node: Node) -> None:
            for name in dependencies(node):
                if name in self.rows and name not in ordered:
                    visit(self.rows[name])
                    ordered[name] = None

        for tree in self.inputs.values():
            visit(tree)
        return list(ordered)


def dependencies(node: Node) -> list[str]:
    """The names that a tree reads, each once."""
    return list(dict.fromkeys(one.name for one in walk(node) if isinstance(one, Name)))


def parse_master(document: Any, where: str = "the document") -> Master:
    """Raises BadDocument with the place: a name used twice, an unknown one, rows that read each other in a circle."""
    check_document(document, "master", where)
    if "layers" in document:
        neutral = {one.name: one.neutral for one in INPUTS.values()}
        return replace(_parsed(flattened(document, neutral), where), document=document)
    return _parsed(document, where)


def _parsed(document: dict[str, Any], where: str) -> Master:
    functions = parse_functions(document.get("functions", []), where)
    known = operations_of(functions.values())
    coordinates = {one["name"]: _coordinates(one, known) for one in document.get("coordinates", [])}
    coordinates = coordinates or {"main": _coordinates({"name": "main"}, known)}
    slots = {one["name"]: _slot(one, next(iter(coordinates)), where) for one in document.get("slots", [])}
    parameters = {one["name"]: _parameter(one, at, where) for at, one in enumerate(document.get("parameters", []))}
    rows = {one["name"]: _tree(one["expression"], one["name"], known) for one in document.get("rows", [])}
    given = document["inputs"]
    inputs = {name: _tree(given[name], name, known) for name in INPUTS if name in given}
    opacity = document.get("opacity", {})
    master = Master(
        document["name"], document.get("title") or document["name"], document.get("help", ""), slots, parameters,
        coordinates, rows, inputs, opacity.get("mode", "opaque"), opacity.get("cut_off", 0.5), document, functions,
    )  # fmt: skip
    _check_names(master, document, where)
    return master


def _tree(text: str, row: str, known: Mapping[str, Operation]) -> Node:
    try:
        return parse_expression(text, known)
    except BadExpression as error:
        raise error.of_row(row) from None


def _slot(one: dict[str, Any], first: str, where: str) -> Slot:
    role = Role(one["role"]) if "role" in one else None
    layout = one.get("layout")
    if (role is None) == (layout is None):
        raise BadDocument("{where}: slot {name} needs a role or a layout, and not both", where=where, name=one["name"])
    if layout is not None:
        ready_layout(layout)
    space = (
        Transfer(one["colour_space"]) if "colour_space" in one else facts(role).transfer if role else Transfer.LINEAR
    )
    default = one.get("default") or ("flat_normal" if role is Role.NORMAL else "mid")
    return Slot(
        one["name"], one.get("title") or one["name"], role, layout, space, default, one.get("coordinates", first),
        Green(one.get("green", "up")), one.get("help", ""), one.get("wrap", "repeat"), one.get("filter", "linear"),
    )  # fmt: skip


def _parameter(one: dict[str, Any], at: int, where: str) -> Parameter:
    kind, options = one["kind"], tuple(one.get("options", ()))
    if kind == "choice" and len(options) < 2:
        raise BadDocument(
            "{where}: parameter {name}: a choice needs at least two options", where=where, name=one["name"]
        )
    low, high = (
        one.get("low", 0.0 if kind == "colour" else -_INFINITE),
        one.get("high", 1.0 if kind == "colour" else _INFINITE),
    )
    if low > high:
        raise BadDocument("{where}: parameter {name}: its range ends before it begins", where=where, name=one["name"])
    bare = Parameter(
        one["name"], kind, one.get("title") or one["name"], (), one.get("group", ""), one.get("order", at),
        one.get("help", ""), low, high, one.get("soft_low"), one.get("soft_high"), one.get("step"),
        one.get("unit", ""), options, one.get("size", 2),
    )  # fmt: skip
    return Parameter(**{**vars(bare), "default": parse_value(bare, one["default"], where)})


def parse_value(parameter: Parameter, value: Any, where: str = "the document") -> tuple[float, ...]:
    """A parameter's value from a document: a number, a list, true or false, or the words of an option.

    Raises BadDocument when it is of another kind or beyond the limits.
    """
    told = f"{where}: parameter {parameter.name}"
    if parameter.kind == "switch":
        if not isinstance(value, bool):
            raise BadDocument("{told} is a switch: true or false, not {value!r}", told=told, value=value)
        return (float(value),)
    if parameter.kind == "choice":
        if value not in parameter.options:
            raise BadDocument(
                "{told} is one of {listed}, not {value!r}", told=told, listed=", ".join(parameter.options), value=value
            )
        return (float(parameter.options.index(value)),)
    parts = value if isinstance(value, list | tuple) else [value]
    if len(parts) != parameter.size or any(isinstance(p, bool) or not isinstance(p, int | float) for p in parts):
        raise BadDocument(
            "{told} is {size} number{what}, not {value!r}",
            told=told,
            size=parameter.size,
            what="s" if parameter.size > 1 else "",
            value=value,
        )
    if not all(parameter.low <= p <= parameter.high for p in parts):
        raise BadDocument(
            "{told} goes from {low:g} to {high:g}, not to {value!r}",
            told=told,
            low=parameter.low,
            high=parameter.high,
            value=value,
        )
    return tuple(float(p) for p in parts)


def _coordinates(one: dict[str, Any], known: Mapping[str, Operation]) -> Coordinates:
    def tree(key: str, default: float) -> Node:
        given = one.get(key, default)
        if isinstance(given, str):
            return _tree(given, f"{key} of {one['name']}", known)
        parts = [float(part) for part in given] if isinstance(given, list | tuple) else [float(given)]
        return Constant(parts[0]) if len(set(parts)) == 1 else Call("vector", tuple(Constant(part) for part in parts))

    return Coordinates(one["name"], one.get("uv_set", 0), tree("tiling", 1.0), tree("offset", 0.0), tree("rotation", 0))


def _check_names(master: Master, document: Mapping[str, Any], where: str) -> None:
    seen: set[str] = set(_RESERVED)
    for kind in ("slots", "parameters", "rows"):
        for one in document.get(kind, []):
            if one["name"] in seen:
                reason = "is a word of the sheet" if one["name"] in _RESERVED else "stands there twice"
                raise BadDocument("{where}: the name {name} {reason}", where=where, name=one["name"], reason=reason)
            seen.add(one["name"])
    places = [one["name"] for one in document.get("coordinates", [])]
    for name in places:
        if places.count(name) > 1:
            raise BadDocument("{where}: the coordinates {name} stand there twice", where=where, name=name)
    known = {*master.slots, *master.parameters, *master.rows, *STARTS}
    for row, tree in master.trees():
        for node in walk(tree):
            if isinstance(node, Name) and node.name not in known:
                raise BadExpression("there is no {node}", *node.span, row, node=node.name)
            if isinstance(node, Call):
                _check_maps(node, row, master)
    for slot in master.slots.values():
        if slot.coordinates not in master.coordinates:
            raise BadDocument(
                "{where}: slot {slot}: there are no coordinates {coordinates}",
                where=where,
                slot=slot.name,
                coordinates=slot.coordinates,
            )
    for one in master.coordinates.values():
        for key in ("tiling", "offset", "rotation"):
            _check_uniform(master, getattr(one, key), f"{key} of {one.name}")
    _refuse_circles(master, where)
    _check_steps(master, where)


def _check_steps(master: Master, where: str) -> None:
    calls = (node for _, tree in master.trees() for node in walk(tree) if isinstance(node, Call))
    steps = sum(1 + steps_of(node.called, len(node.arguments)) for node in calls)
    if steps > _MAX_STEPS:
        raise BadDocument(
            "{where} does {steps} steps, at most {most} are read", where=where, steps=steps, most=_MAX_STEPS
        )  # fmt: skip


def _check_uniform(master: Master, tree: Node, row: str) -> None:
    """What is the same everywhere on a surface reads nothing that is not."""
    for node in walk(tree):
        inner = starts_in(node.called, len(node.arguments)) if isinstance(node, Call) else frozenset()
        if inner - set(EVERYWHERE):
            raise BadExpression(
                "{name} reads {start}, which may differ from place to place", *node.span, row,
                name=node.operation if isinstance(node, Call) else "", start=min(inner - set(EVERYWHERE)),
            )  # fmt: skip
        if isinstance(node, Name) and node.name not in master.parameters and node.name not in EVERYWHERE:
            raise BadExpression(
                "{name} may differ from place to place; numbers, parameters, {starts} stand here", *node.span, row,
                name=node.name, starts=", ".join(EVERYWHERE),
            )  # fmt: skip


def _check_maps(node: Call, row: str, master: Master) -> None:
    """What an operation takes as a map is the name of a slot."""
    for one in (node.arguments[at] for at in node.called.maps):
        if not (isinstance(one, Name) and one.name in master.slots):
            raise BadExpression("{operation} takes the name of a slot here", *one.span, row, operation=node.operation)


def _depth_of(node: Node, rows: Mapping[str, int]) -> int:
    """Operations within each other, through rows, whose depths are known."""
    if isinstance(node, Name):
        return 1 + rows.get(node.name, 0)
    inside = node.arguments if isinstance(node, Call) else (node.of,) if isinstance(node, Swizzle) else ()
    return 1 + max((_depth_of(one, rows) for one in inside), default=0)


def _refuse_circles(master: Master, where: str) -> None:
    """Neither do rows read each other deeper than anything that works on them could follow."""
    done: dict[str, int] = {}

    def visit(name: str, above: tuple[str, ...]) -> None:
        if name in above:
            raise BadDocument(
                "{where}: rows read each other in a circle: {listed}",
                where=where,
                listed=" reads ".join((*above, name)),
            )
        if name in done:
            return
        for other in dependencies(master.rows[name]):
            if other in master.rows:
                visit(other, (*above, name))
        done[name] = _depth_of(master.rows[name], done)
        if done[name] > _MAX_DEPTH:
            raise BadDocument(
                "{where}: the row {name} is {done} operations deep, at most {max_depth} are read",
                where=where,
                name=name,
                done=done[name],
                max_depth=_MAX_DEPTH,
            )

    for name in master.rows:
        visit(name, ())
