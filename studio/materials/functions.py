"""The library's functions: drafts, immutable versions, and which masters carry them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple, cast

from django.db import transaction

from studio.changes.errors import Conflict
from studio.materials.library import deprecation_words, held, numbered, write_entry
from studio.materials.models import Function, FunctionVersion, Master, MasterVersion
from texel.document_types import FunctionDocument
from texel.materials.function_edits import function_changes, problem_of
from texel.materials.functions import Function as Called
from texel.materials.functions import parse_function
from texel.materials.operations import OPERATIONS
from texel.materials.versions import next_number

__all__ = [
    "Use", "called", "carried_names", "copy_of", "create_function", "deprecate", "keep_draft", "publish", "uses_of",
    "version_of",
]  # fmt: skip


class Use(NamedTuple):
    """A master that carries a function. number: the version that it carries; "" for one of its own."""

    master: str
    title: str
    number: str


def called(version: FunctionVersion) -> Called:
    """What a sheet calls."""
    return parse_function(version.document)


def version_of(function: Function, number: str) -> FunctionVersion:
    """Raises Conflict when there is none of that number."""
    return numbered(function.title, function.versions.all(), number)


def copy_of(version: FunctionVersion) -> FunctionDocument:
    """The document that a sheet carries of a version."""
    return cast(FunctionDocument, {**version.document, "number": version.number})


def _checked(document: Any, where: str) -> FunctionDocument:
    """A document of the library's own, which is no copy of a version. Raises BadDocument, BadExpression."""
    function = parse_function(document, where)
    return cast(FunctionDocument, {key: value for key, value in function.document.items() if key != "number"})


def create_function(document: Any, by: Any) -> Function:
    """A function with a draft, kept by whoever makes it. Raises BadDocument, and Conflict when its name is taken."""
    own = _checked(document, "the function")
    name, title = own["name"], own.get("title") or own["name"]
    if name in OPERATIONS:
        raise Conflict("there is an operation called {name}; choose another name", name=name)
    with transaction.atomic():
        if Function.objects.filter(name=name).exists():
            raise Conflict("there is a function called {name} already", name=name)
        made = Function.objects.create(name=name, title=title, draft=own, by=by)
        if by is not None:
            made.keepers.add(by)
    return made


def keep_draft(name: str, document: Any, seen: int | None = None) -> Function:
    """Raises BadDocument; Stale when somebody has kept another draft since; a name cannot be changed."""
    own = _checked(document, "the draft")
    with held(Function, name, seen) as function:
        if own["name"] != function.name:
            raise Conflict("this function is called {name}, not {other}", name=function.name, other=own["name"])
        if own != function.draft:
            write_entry(
                function, f"Write the draft of {function.title}", draft=own, title=own.get("title") or own["name"]
            )
        return function


def publish(name: str, note: str, by: Any, seen: int | None = None) -> FunctionVersion:
    """Make a version of the draft, numbered by what it breaks. Raises Conflict without a draft, with something that
    does not fit together in it, or when nothing differs; Stale when the draft is not what was seen any more."""
    with held(Function, name, seen) as function:
        if function.draft is None:
            raise Conflict("there is no draft to publish")
        made = parse_function(function.draft, "the draft")
        problem = problem_of(made)
        if problem is not None:
            raise Conflict("the function has errors: {row}: {listed}", row=problem.row, listed=problem.problem)
        last = function.versions.last()
        number, changes = (1, 0, 0), []
        if last is not None:
            changes = function_changes(called(last), made)
            if not changes:
                raise Conflict("nothing differs from version {number}", number=last.number)
            number = next_number((last.major, last.minor, last.patch), changes)
        version = FunctionVersion.objects.create(
            function=function, major=number[0], minor=number[1], patch=number[2], document=function.draft,
            changes=[one.document() for one in changes], note=" ".join(note.split())[:500], by=by,
        )  # fmt: skip
        write_entry(function, "", draft=None, title=made.title)
        return version


def deprecate(name: str, number: str, deprecated: bool) -> None:
    """Say that a version should not be brought into sheets any more; those that carry it keep it."""
    with held(Function, name) as function:
        FunctionVersion.objects.filter(pk=version_of(function, number).pk).update(deprecated=deprecated)
        write_entry(function, deprecation_words(function.title, number, deprecated))


def _carried() -> Iterator[tuple[str, str, str, str]]:
    """What masters carry in their draft, or else in their newest version: name and title of the master, name and number
    of the function."""
    drafts = {
        name: (title, carried)
        for name, title, carried in Master.objects.filter(draft__isnull=False).values_list(
            "name", "title", "draft__functions"
        )
    }
    # Of those without a draft the newest version counts: the last one stays.
    published = MasterVersion.objects.filter(master__draft__isnull=True).values_list(
        "master__name", "master__title", "document__functions"
    )
    newest = {name: (title, carried) for name, title, carried in published}
    for master, (title, carried) in sorted((drafts | newest).items(), key=lambda one: one[1][0]):
        for one in carried or []:
            yield master, title, one["name"], one.get("number", "")


def carried_names() -> list[str]:
    """The names of the functions that masters carry, once for each master."""
    return [function for _, _, function, _ in _carried()]


def uses_of(name: str) -> list[Use]:
    """The masters that carry a function in their draft, or else in their newest version, by their titles."""
    return [Use(master, title, number) for master, title, function, number in _carried() if function == name]
