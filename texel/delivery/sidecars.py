"""Text files that a target's own templates make beside the maps: an engine's import settings, a script, a list.

A template (Jinja, sandboxed) reads what the manifest says and nothing else:

    target   name, title, green
    set      name, licence, credit, files: of a sidecar for each set
    material name: of a sidecar for each cast
    model    name, slots (slot, parts, wears): of a sidecar for each model
    sets     all of them: of a sidecar for the whole delivery
    files    the entries of the manifest that it is about

It may loop, choose and print. It has no variables of its own, no functions, no files and no methods, so that what one
project writes can neither reach anything nor grow without end.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import jinja2
from jinja2 import nodes
from jinja2.runtime import LoopContext
from jinja2.sandbox import ImmutableSandboxedEnvironment

from texel.errors import BadDocument, Unwritable

__all__ = ["EACH", "Sidecar", "check_template", "render"]

# A text of 4 MiB says a line about each of 40 000 files.
_MAX_TEXT = 4 * 1024 * 1024
_MAX_DEPTH = 2
# What there is one text for.
EACH = ("set", "material", "model", "delivery")
_FILTERS = (
    "abs", "capitalize", "default", "dictsort", "escape", "first", "float", "groupby", "int", "items", "last", "length",
    "list", "lower", "map", "max", "min", "reject", "rejectattr", "reverse", "round", "select", "selectattr", "sort",
    "string", "sum", "title", "trim", "unique", "upper",
)  # fmt: skip
# What defines things, reaches other files, or builds texts that double with every line.
_REFUSED = {
    nodes.Assign: "set", nodes.AssignBlock: "set", nodes.Macro: "macro", nodes.CallBlock: "call", nodes.With: "with",
    nodes.Include: "include", nodes.Import: "import", nodes.FromImport: "import", nodes.Extends: "extends",
    nodes.Block: "block", nodes.Call: "a call", nodes.Mul: "*", nodes.Pow: "**", nodes.Mod: "%",
}  # fmt: skip


@dataclass(frozen=True)
class Sidecar:
    """name: of the file, may hold folders. each: of EACH; its word stands in the name: "{set}", but for "delivery"."""

    name: str
    each: str
    template: str


class _Environment(ImmutableSandboxedEnvironment):
    """Reads keys of documents, never attributes or methods of what they hold."""

    def getattr(self, obj: Any, attribute: str) -> Any:
        if isinstance(obj, Mapping):
            return obj.get(attribute, self.undefined(obj=obj, name=attribute))
        return super().getattr(obj, attribute)

    def is_safe_attribute(self, obj: Any, attr: str, value: Any) -> bool:
        return isinstance(obj, LoopContext) and not attr.startswith("_")


def _short(made: str) -> str:
    if len(made) > _MAX_TEXT:
        raise Unwritable("the text grows beyond {max_text} MiB", max_text=_MAX_TEXT // 1024 // 1024)
    return made


def _replace(value: Any, old: str, new: str) -> str:
    text = str(value)
    if old and text.count(old) * len(new) > _MAX_TEXT:
        raise Unwritable("the text grows beyond {max_text} MiB", max_text=_MAX_TEXT // 1024 // 1024)
    return text.replace(old, new) if old else text


def _join(values: Iterable[Any], between: str = "") -> str:
    return _short(between.join(str(one) for one in values))


def _to_json(value: Any, indent: int | None = None) -> str:
    return json.dumps(value, ensure_ascii=False, indent=None if indent is None else min(int(indent), 8))


@lru_cache
def _environment() -> _Environment:
    made = _Environment(
        undefined=jinja2.StrictUndefined, keep_trailing_newline=True, trim_blocks=True, lstrip_blocks=True
    )
    kept: dict[str, Callable[..., Any]] = {name: made.filters[name] for name in _FILTERS}
    made.filters = kept | {"replace": _replace, "join": _join, "tojson": _to_json}
    made.globals = {}
    return made


def check_template(text: str, where: str) -> None:
    """Raises BadDocument, with the line, for a template that cannot be read or asks for more than it may.

    >>> check_template("{% for one in files %}{{ one.path }}\\n{% endfor %}", "the list")
    >>> check_template("{% include 'other' %}", "the list")
    Traceback (most recent call last):
    texel.errors.BadDocument: the list, line 1: a template may not use include
    """
    try:
        tree = _environment().parse(text)
    except jinja2.TemplateSyntaxError as error:
        raise BadDocument(
            "{where}, line {lineno}: {message}", where=where, lineno=error.lineno, message=error.message
        ) from None
    except RecursionError:
        raise BadDocument("{where}: its parts lie too deep within each other", where=where) from None
    for kind, word in _REFUSED.items():
        for one in tree.find_all(kind):
            raise BadDocument(
                "{where}, line {lineno}: a template may not use {word}", where=where, lineno=one.lineno, word=word
            )
    for one in tree.find_all(nodes.Filter):
        if one.name not in _environment().filters:
            raise BadDocument(
                "{where}, line {lineno}: there is no filter {one}", where=where, lineno=one.lineno, one=one.name
            )
    _check_depth(tree, 0, where)


def _check_depth(node: nodes.Node, depth: int, where: str) -> None:
    for one in node.iter_child_nodes():
        inner = depth + isinstance(one, nodes.For)
        if inner > _MAX_DEPTH:
            raise BadDocument(
                "{where}, line {lineno}: loops stand at most {max_depth} deep",
                where=where,
                lineno=one.lineno,
                max_depth=_MAX_DEPTH,
            )
        _check_depth(one, inner, where)


def render(text: str, values: Mapping[str, Any], where: str) -> bytes:
    """The text that a template makes, UTF-8. Raises Unwritable, with the reason, where it asks for what is not there.

    >>> render("{{ target.name }}: {{ files | length }}", {"target": {"name": "open"}, "files": [1, 2]}, "the list")
    b'open: 2'
    """
    pieces: list[str] = []
    size = 0
    try:
        for piece in _environment().from_string(text).generate(**values):
            size += len(piece)
            if size > _MAX_TEXT:
                raise Unwritable(
                    "{where}: the text grows beyond {max_text} MiB", where=where, max_text=_MAX_TEXT // 1024 // 1024
                )
            pieces.append(piece)
    except jinja2.TemplateError as error:
        raise Unwritable("{where}: {message}", where=where, message=error.message) from None
    except (TypeError, ValueError, ArithmeticError, RecursionError) as error:
        raise Unwritable("{where}: {error}", where=where, error=error) from None
    return "".join(pieces).encode()
