"""The library's functions: read while they are edited, drawn out of sheets, brought into them; drafts and versions."""

from __future__ import annotations

from collections import Counter
from typing import Any, cast

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Body, Path, Router

from studio.api.access import user_of
from studio.api.documents import Function as FunctionBody
from studio.api.documents import Master as MasterBody
from studio.api.masters import change_out, must_keep, must_write, sheet_out, version_rows
from studio.api.schemas.functions import (
    DrawnOut,
    DrawOut,
    FunctionOut,
    FunctionRead,
    FunctionRow,
    IntoSheet,
)
from studio.api.schemas.masters import ChangeOut, Deprecate, OperationOut, Publish
from studio.api.seen import IfMatch, newest_of, seen
from studio.changes.errors import Conflict
from studio.materials import functions, keepers
from studio.materials.models import Function, FunctionVersion
from texel.errors import BadDocument, BadExpression
from texel.materials import operation_facts, parse_master
from texel.materials.function_edits import (
    drawn_out,
    function_changes,
    function_name,
    problem_of,
    sheet_of_function,
    with_function,
)
from texel.materials.functions import parse_function

router = Router(tags=["functions"])


def _newest(function: Function) -> FunctionVersion | None:
    kept = [one for one in function.versions.all() if not one.deprecated]
    return kept[-1] if kept else None


def _row(function: Function, uses: int) -> FunctionRow:
    """function: with its versions."""
    newest = _newest(function)
    called = functions.called(newest) if newest else None
    document = function.draft if function.draft is not None else newest.document if newest else {}
    return {
        "name": function.name, "title": function.title, "help": document.get("help", ""),
        "newest": newest.number if newest else None, "draft": function.draft is not None,
        "operation": cast(OperationOut, operation_facts(called.operation)) if called else None, "uses": uses,
    }  # fmt: skip


def _out(request: HttpRequest, name: str) -> FunctionOut:
    function = get_object_or_404(Function.objects.prefetch_related("versions__by"), name=name)
    versions = list(function.versions.all())
    used = functions.uses_of(name)
    return {
        **_row(function, len(used)), "revision": function.revision, "keepers": keepers.names_of(function),
        "document": function.draft if function.draft is not None else versions[-1].document,
        "versions": version_rows(versions), "may_write": keepers.may_keep(user_of(request), function),
        "used_by": [{"master": one.master, "title": one.title, "number": one.number} for one in used],
    }  # fmt: skip


@newest_of(Function)
def _newest_out(request: HttpRequest, row: Function) -> FunctionOut:
    return _out(request, row.name)


@router.get("", response=list[FunctionRow])
def list_functions(request: HttpRequest) -> Any:
    """The library's functions, by their titles."""
    counts = Counter(functions.carried_names())
    rows = Function.objects.prefetch_related("versions")
    return [_row(one, counts[one.name]) for one in rows]


@router.post("/read", response=FunctionRead)
def read_function(request: HttpRequest, document: Body[FunctionBody]) -> Any:
    """Read a function that is being edited. Nothing is kept."""
    try:
        function = parse_function(document)
    except BadExpression as error:
        problem = {"message": error.problem, "row": error.row, "start": error.start, "end": error.end}
        return {"problem": problem, "sheet": None}
    except BadDocument as error:
        return {"problem": {"message": str(error), "row": "", "start": 0, "end": 0}, "sheet": None}
    misfit = problem_of(function)
    told = misfit and {"message": misfit.problem, "row": misfit.row, "start": misfit.start, "end": misfit.end}
    return {"problem": told, "sheet": sheet_out(parse_master(sheet_of_function(function), function.title))}


@router.post("/draw-out", response=DrawnOut)
def draw_out(request: HttpRequest, given: DrawOut) -> Any:
    """Make a function of steps of a sheet's row, and call it wherever the sheet computes the same. Nothing is kept."""
    if not given.title.strip():
        raise Conflict("a function needs a title")
    name = function_name(given.title)
    if Function.objects.filter(name=name).exists():
        raise Conflict("there is a function called {name} already", name=name)
    document = cast(dict[str, Any], given.document)
    made = drawn_out(document, given.row, name, given.title.strip(), given.first, given.last, given.numbers)
    return {"function": made.function, "document": made.document, "rows": list(made.rows)}


@router.post("", response=FunctionOut)
def create_function(request: HttpRequest, document: Body[FunctionBody]) -> Any:
    """A new function with a draft."""
    must_write(request)
    return _out(request, functions.create_function(document, user_of(request)).name)


@router.get("/{name}", response=FunctionOut)
def show_function(request: HttpRequest, name: Path[str]) -> Any:
    return _out(request, name)


@router.put("/{name}/draft", response=FunctionOut)
def put_function_draft(
    request: HttpRequest, name: Path[str], document: Body[FunctionBody], if_match: IfMatch = None
) -> Any:
    """Keep what is worked on; versions, and the sheets that carry them, stay as they are. For keepers."""
    must_keep(request, get_object_or_404(Function, name=name))
    functions.keep_draft(name, document, seen(if_match))
    return _out(request, name)


@router.post("/{name}/publish", response=FunctionOut)
def publish_function(request: HttpRequest, name: Path[str], given: Publish, if_match: IfMatch = None) -> Any:
    """Make an immutable version of the draft, numbered by what it breaks. For keepers."""
    must_keep(request, get_object_or_404(Function, name=name))
    functions.publish(name, given.note, user_of(request), seen(if_match))
    return _out(request, name)


@router.post("/{name}/into", response=MasterBody)
def into_sheet(request: HttpRequest, name: Path[str], given: IntoSheet) -> Any:
    """A master's document that carries a version of the function; calls of another version that it carries are brought
    along. Nothing is kept."""
    function = get_object_or_404(Function.objects.prefetch_related("versions"), name=name)
    version = functions.version_of(function, given.number) if given.number else _newest(function)
    if version is None:
        raise Conflict("{title} has no version yet", title=function.title)
    document = cast(dict[str, Any], given.document)
    parse_master(document, "the sheet")
    return with_function(document, cast(dict[str, Any], functions.copy_of(version)))


@router.get("/{name}/versions/{number}", response=FunctionBody)
def function_version(request: HttpRequest, name: Path[str], number: Path[str]) -> Any:
    """A version's document, as the command line reads it."""
    return functions.copy_of(functions.version_of(get_object_or_404(Function, name=name), number))


@router.put("/{name}/versions/{number}/deprecated", response=FunctionOut)
def put_function_deprecated(request: HttpRequest, name: Path[str], number: Path[str], given: Deprecate) -> Any:
    """Say that a version should not be brought into sheets any more, or may be again. For keepers."""
    must_keep(request, get_object_or_404(Function, name=name))
    functions.deprecate(name, number, given.deprecated)
    return _out(request, name)


@router.put("/{name}/keepers/{person}", response=FunctionOut)
def put_function_keeper(request: HttpRequest, name: Path[str], person: Path[str]) -> Any:
    """Let somebody change the function as well. For keepers."""
    must_keep(request, get_object_or_404(Function, name=name))
    keepers.add(Function, name, person, user_of(request))
    return _out(request, name)


@router.delete("/{name}/keepers/{person}", response=FunctionOut)
def delete_function_keeper(request: HttpRequest, name: Path[str], person: Path[str]) -> Any:
    """Let somebody change the function no more; one keeper must be left. For keepers."""
    must_keep(request, get_object_or_404(Function, name=name))
    keepers.remove(Function, name, person, user_of(request))
    return _out(request, name)


@router.get("/{name}/difference", response=list[ChangeOut])
def function_difference(request: HttpRequest, name: Path[str], before: str, after: str = "draft") -> Any:
    """What differs between two versions; "draft" is what is worked on."""
    function = get_object_or_404(Function.objects.prefetch_related("versions"), name=name)

    def called(number: str) -> Any:
        if number == "draft" and function.draft is not None:
            return parse_function(function.draft, "the draft")
        newest = _newest(function)
        if number == "draft" and newest is not None:
            return functions.called(newest)
        return functions.called(functions.version_of(function, number))

    return [change_out(one) for one in function_changes(called(before), called(after))]
