"""What reading a foreign material gives: a master, casts, and what could not be kept."""

from __future__ import annotations

import re
from collections.abc import Callable, Container, Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from texel.channels.layout import Layout, builtin_layouts, ready_layout
from texel.errors import BadDocument, BadExpression, TexelError
from texel.materials.casts import document_value
from texel.materials.exchange.mtlx_write import CastOf
from texel.materials.expression import MAX_CHARACTERS, MAX_DEPTH, MAX_PARTS, text_of
from texel.materials.kinds import Kinds
from texel.materials.master import INPUTS, Master, parse_master
from texel.materials.operations import OPERATIONS
from texel.materials.simplify import constants_of, simplified
from texel.materials.starts import STARTS
from texel.materials.tree import Call, Constant, Name, Node, Swizzle, walk
from texel.roles import Role, facts

__all__ = ["Imported", "SheetBuilder", "SlotDraft", "cast_document", "each_alone", "free_name", "with_refused"]

_RESERVED = {*STARTS, *OPERATIONS}
_LONGEST_NAME = 40
# Below what an expression may be: it has to grow a little where numbers become parameters.
_LONGEST_TEXT, _MAX_PARTS, _MAX_DEPTH = MAX_CHARACTERS * 3 // 4, MAX_PARTS * 3 // 4, MAX_DEPTH * 3 // 4
_MAX_ROWS = 200
# Less is not worth a row.
_LEAST_PARTS = 3
# The roles that a surface's inputs take whole, where one exists.
_ROLES = {name: Role(name) for name in INPUTS if name in set(Role)}


@dataclass(frozen=True)
class Imported:
    """document: of a master, for parse_master. casts: with the names of the files that fill slots. lost: what the
    sheet cannot say, each told in a sentence. pictures: files that came inside the document, by name. own: a master of
    ours, exactly as it was written."""

    document: dict[str, Any]
    casts: tuple[CastOf, ...]
    lost: tuple[str, ...]
    pictures: dict[str, bytes] = field(default_factory=dict)
    own: bool = False


def each_alone(readers: Iterable[tuple[str, Callable[[], Imported]]]) -> tuple[list[Imported], list[str]]:
    """Materials read one by one: those that were, and a sentence with the title for each that is refused.

    A material has to be a sheet to count as read: what the sheet's own reader refuses is refused here.
    """
    materials: list[Imported] = []
    refused: list[str] = []
    for title, read in readers:
        try:
            one = read()
            parse_master(one.document, title)
        except TexelError as error:
            words = str(error)
            refused.append(words if title in words else f"{title}: {words}")
        else:
            materials.append(one)
    return materials, refused


def with_refused(materials: Sequence[Imported], refused: Sequence[str]) -> list[Imported]:
    """The materials, with those that were refused told beside what the first one loses."""
    if not materials or not refused:
        return list(materials)
    left_out = tuple(f"Left out: {one}" for one in refused)
    return [replace(materials[0], lost=(*left_out, *materials[0].lost)), *materials[1:]]


def cast_document(master: Master, cast: CastOf) -> dict[str, Any]:
    """A cast as its document; the files that fill its slots by their names."""
    return {
        "format": "fair-texel/cast", "version": 1, "name": cast.name[:100],
        "changes": {name: document_value(master, name, value) for name, value in cast.changes.items()},
        "slots": {slot: {"file": file} for slot, file in cast.files.items()},
    }  # fmt: skip


def free_name(wanted: str, taken: Container[str]) -> str:
    """A name as a sheet takes it, of at most 40 characters with its number, that is not among those taken.

    >>> free_name("Base Color", {"base_color"}), len(free_name("x" * 60, {"x" * 40}))
    ('base_color_2', 40)
    """
    base = re.sub(r"[^a-z0-9]+", "_", re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", wanted).lower()).strip("_")
    base = base if re.match("[a-z]", base) else f"value_{base}".rstrip("_")
    name, count = base[:_LONGEST_NAME].rstrip("_"), 1
    while name in taken or name in _RESERVED:
        count += 1
        number = f"_{count}"
        name = base[: _LONGEST_NAME - len(number)].rstrip("_") + number
    return name


@dataclass
class SlotDraft:
    """A slot whose role is known only when every use of it is."""

    name: str
    title: str
    channels: int
    srgb: bool
    default: str
    coordinates: str
    file: str = ""
    is_normal: bool = False
    role: Role | None = None
    wrap: str = "repeat"
    filter: str = "linear"


@dataclass
class SheetBuilder:
    """Gathers a sheet from another format. Names are made to fit, each once."""

    name: str
    title: str
    slots: dict[str, SlotDraft] = field(default_factory=dict)
    parameters: dict[str, dict[str, Any]] = field(default_factory=dict)
    coordinates: dict[str, dict[str, Any]] = field(default_factory=dict)
    rows: dict[str, Node] = field(default_factory=dict)
    inputs: dict[str, Node] = field(default_factory=dict)
    opacity: dict[str, Any] = field(default_factory=dict)
    lost: dict[str, None] = field(default_factory=dict)
    changes: dict[str, tuple[float, ...]] = field(default_factory=dict)
    _widths: dict[str, int] = field(default_factory=dict)

    def lose(self, sentence: str) -> None:
        self.lost[sentence] = None

    def set_input(self, name: str, made: Node) -> None:
        """An input of the surface; one that is what it is anyway is left out."""
        value, size = constants_of(made), INPUTS[name].size
        if value is None or (value * size if len(value) == 1 else value) != INPUTS[name].neutral:
            self.inputs[name] = made

    def reads_a_map(self, made: Node) -> bool:
        names = [one.name for one in walk(made) if isinstance(one, Name)]
        return any(name in self.slots or (name in self.rows and self.reads_a_map(self.rows[name])) for name in names)

    def free_name(self, wanted: str) -> str:
        return free_name(wanted, {*self.slots, *self.parameters, *self.rows})

    def place(self, tiling: tuple[float, float], offset: tuple[float, float], degrees: float, uv_set: int = 0) -> str:
        """The name of coordinates; the same for the same."""
        one = {"tiling": list(tiling), "offset": list(offset), "rotation": degrees, "uv_set": uv_set}
        for name, known in self.coordinates.items():
            if known == one:
                return name
        name = "main" if not self.coordinates else f"place_{len(self.coordinates) + 1}"
        self.coordinates[name] = one
        return name

    def width(self, node: Node) -> int:
        """How many components a value has."""
        if isinstance(node, Constant):
            return 1
        if isinstance(node, Swizzle):
            return len(node.letters)
        if isinstance(node, Name):
            return self._width_of_name(node.name)
        operation = node.called
        widths = [self.width(one) for one in node.arguments]
        if operation.shape == "count":
            return min(sum(widths), 4)
        if operation.shape == "first":
            return widths[0]
        if operation.shape.isdigit():
            return int(operation.shape)
        if isinstance(operation.fits, tuple):
            return max(*operation.fits, *widths)
        return max([widths[0], *widths[2:]] if operation.fits == "switch" else widths)

    def _width_of_name(self, name: str) -> int:
        if name in self.rows:
            if name not in self._widths:
                self._widths[name] = self.width(self.rows[name])
            return self._widths[name]
        if name in self.parameters:
            return {"colour": 3, "vector": 2}.get(self.parameters[name]["kind"], 1)
        return 4 if name in self.slots else STARTS[name].size if name in STARTS else 1

    def _sound(self, node: Node) -> Node:
        """Without channels taken of what is one number: wherever it goes, it is as wide as is asked for."""
        if isinstance(node, Swizzle):
            inner = self._sound(node.of)
            # A slot is always four channels.
            if not (isinstance(inner, Name) and inner.name in self.slots) and self.width(inner) == 1:
                return inner if len(node.letters) == 1 else simplified(_joined([inner] * len(node.letters)))
            return Swizzle(inner, node.letters)
        if isinstance(node, Call):
            return Call(node.operation, tuple(self._sound(one) for one in node.arguments))
        return node

    def _cut(self, name: str, tree: Node, text: Callable[[Node], str]) -> Node:
        """A tree that is no longer than an expression may be; what it was too long by are rows before it."""

        def visit(node: Node) -> Node:
            inside = [visit(one) for one in _inside(node)]
            node = _with_inside(node, inside)
            while _is_too_long(node, text):
                at, part = max(enumerate(inside), key=lambda one: _parts_of(one[1]), default=(0, node))
                if part is node or _parts_of(part) < _LEAST_PARTS:
                    break
                row = self.free_name(f"{name}_part")
                self.rows[row] = part
                inside[at] = Name(row)
                node = _with_inside(node, inside)
            return node

        return visit(tree)

    def done(self) -> Imported:
        """Raises BadDocument when what was gathered makes no sheet."""
        self.rows = {name: self._sound(tree) for name, tree in self.rows.items()}
        self.inputs = {name: self._sound(tree) for name, tree in self.inputs.items()}
        uses = self._uses()
        slots = [_slot(draft, uses.get(name, {})) for name, draft in self.slots.items() if name in uses]
        bare = {one["name"]: _bare_letters(one) for one in slots}
        better = self._better_names(slots)

        def named(node: Node) -> Node:
            if isinstance(node, Name):
                return Name(better.get(node.name, node.name))
            if isinstance(node, Swizzle):
                if isinstance(node.of, Name) and bare.get(node.of.name) == node.letters:
                    return named(node.of)
                return Swizzle(named(node.of), node.letters)
            if isinstance(node, Call):
                return Call(node.operation, tuple(named(one) for one in node.arguments))
            return node

        def text(node: Node) -> str:
            return text_of(named(node))

        for holder in (self.rows, self.inputs):
            for name in list(holder):
                holder[name] = self._cut(name, holder[name], text)
        if len(self.rows) > _MAX_ROWS:
            raise BadDocument(
                "{title}: it takes {count} rows, and a sheet has at most {max_rows}",
                title=self.title,
                count=len(self.rows),
                max_rows=_MAX_ROWS,
            )
        rows = [{"name": name, "expression": text(tree)} for name, tree in self.rows.items()]
        document = {
            "format": "fair-texel/master", "version": 1, "name": _document_name(self.name), "title": self.title[:200],
            "slots": slots, "parameters": list(self.parameters.values()),
            "coordinates": [{"name": name, **one} for name, one in self.coordinates.items()], "rows": rows,
            "inputs": {name: text(tree) for name, tree in self.inputs.items()},
        }  # fmt: skip
        if self.opacity:
            document["opacity"] = self.opacity
        self._drop_what_does_not_fit(document)
        if not document["inputs"]:
            document["inputs"] = {"base_color": "0.5"}
        files = {better[one.name]: one.file for one in self.slots.values() if one.file and one.name in bare}
        changes = {name: value for name, value in self.changes.items() if name in self.parameters}
        return Imported(document, (CastOf(self.title, changes, files),), tuple(self.lost))

    def _better_names(self, slots: list[dict[str, Any]]) -> dict[str, str]:
        """What slots are called in the end: by what they hold where the document calls them images and no more."""
        better = {}
        for one in slots:
            old = one["name"]
            if re.match(r"(image|texture|file|tex|map)(_|\d|$)", old):
                one["name"] = self.free_name(one.get("role") or one["layout"].replace("-", "_"))
                self.slots[one["name"]] = self.slots[old]
            better[old] = one["name"]
        return better

    def _drop_what_does_not_fit(self, document: dict[str, Any]) -> None:
        """Inputs whose values do not meet, as far as they can be told one by one."""
        try:
            master = parse_master(document | {"inputs": {"roughness": "0.5"}}, self.title)
        except BadExpression as error:
            raise BadDocument("{title}: {error}", title=self.title, error=error) from None
        kinds = Kinds(master)
        for name in list(document["inputs"]):
            try:
                size = kinds.of(parse_master(document | {"inputs": {name: document["inputs"][name]}}).inputs[name]).size
                if size not in (1, INPUTS[name].size):
                    raise BadExpression("a value of {size} components", 0, 0, size=size)
            except BadExpression as error:
                del document["inputs"][name]
                self.lose(f"{INPUTS[name].label}: the sheet cannot say it ({error.problem})")

    def _uses(self) -> dict[str, dict[str, set[str]]]:
        """Letters that each surface input reads of each slot, through rows."""
        uses: dict[str, dict[str, set[str]]] = {}

        def visit(node: Node, about: str, seen: set[str]) -> None:
            for one in walk(node):
                # Slots are always read by letters while a sheet is gathered.
                if isinstance(one, Swizzle) and isinstance(one.of, Name) and one.of.name in self.slots:
                    uses.setdefault(one.of.name, {}).setdefault(about, set()).add(one.letters)
                elif isinstance(one, Name) and one.name in self.rows and one.name not in seen:
                    seen.add(one.name)
                    visit(self.rows[one.name], about, seen)

        for name, tree in self.inputs.items():
            visit(tree, name, set())
        return uses


def _joined(parts: Sequence[Node]) -> Call:
    return Call("rgb" if len(parts) == 3 else "vector", tuple(parts))


def _inside(node: Node) -> tuple[Node, ...]:
    return node.arguments if isinstance(node, Call) else (node.of,) if isinstance(node, Swizzle) else ()


def _with_inside(node: Node, inside: Sequence[Node]) -> Node:
    """The node with other nodes inside it."""
    if isinstance(node, Call):
        return Call(node.operation, tuple(inside))
    return Swizzle(inside[0], node.letters) if isinstance(node, Swizzle) else node


def _parts_of(node: Node) -> int:
    return sum(1 for _ in walk(node))


def _depth_of(node: Node) -> int:
    return 1 + max(map(_depth_of, _inside(node)), default=0)


def _is_too_long(node: Node, text: Callable[[Node], str]) -> bool:
    return _parts_of(node) > _MAX_PARTS or _depth_of(node) > _MAX_DEPTH or len(text(node)) > _LONGEST_TEXT


def _document_name(text: str) -> str:
    name = re.sub(r"[^a-z0-9_-]+", "_", text.lower()).strip("_-")[:64]
    return name or "material"


def _bare_letters(slot: dict[str, Any]) -> str:
    if "role" not in slot:
        return "rgba"
    return {1: "r", 3: "rgb"}[facts(Role(slot["role"])).channels]


def _slot(draft: SlotDraft, uses: dict[str, set[str]]) -> dict[str, Any]:
    slot: dict[str, Any] = {"name": draft.name, "title": draft.title[:200], "coordinates": draft.coordinates}
    if (draft.wrap, draft.filter) != ("repeat", "linear"):
        slot |= {"wrap": draft.wrap, "filter": draft.filter}
    if draft.is_normal:
        return slot | {"role": "normal"}
    slot["default"] = draft.default
    role = draft.role or _role(draft, uses)
    layout = None if draft.srgb or draft.role or (role and len(uses) == 1) else _layout(uses)
    if layout:
        slot["layout"] = layout
    else:
        role = role or (Role.DETAIL_MASK if draft.channels == 1 else Role.BASE_COLOR)
        slot["role"] = role.value
        if (facts(role).transfer.value == "srgb") != draft.srgb:
            slot["colour_space"] = "srgb" if draft.srgb else "linear"
    return slot


def _role(draft: SlotDraft, uses: dict[str, set[str]]) -> Role | None:
    """The role of the input that reads it, where a map of that role holds as much."""
    for name in uses:
        role = _ROLES.get(name)
        wide = draft.channels >= 3 and (draft.srgb or len(uses) == 1) and uses[name] != {"r"}
        if role is not None and (facts(role).channels == 3) == wide:
            whole = {1: {"r"}, 3: {"rgb", "rgba"}}[facts(role).channels]
            if uses[name] & whole or draft.srgb:
                return role
    return None


def _layout(uses: dict[str, set[str]]) -> str | None:
    """The ready-made layout whose channels are read as they are meant."""
    wanted = {
        (letters, _ROLES[name]) for name, all_letters in uses.items() if name in _ROLES for letters in all_letters
    }

    def holds(layout: Layout) -> bool:
        held = {(letter, source.role) for letter, source in layout.channels.items()}
        return bool(wanted) and wanted <= held

    def most_alike(names: Iterable[str]) -> str | None:
        fitting = [name for name in names if holds(ready_layout(name))]
        return min(fitting, key=lambda name: len(ready_layout(name).channels), default=None)

    return most_alike(builtin_layouts())
