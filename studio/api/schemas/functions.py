"""Schemas of the library's functions."""

from __future__ import annotations

from ninja import Schema
from typing_extensions import TypedDict

from studio.api.documents import Function, Master
from studio.api.schemas.masters import OperationOut, Problem, SheetOut, VersionRow


class FunctionRow(TypedDict):
    """newest: the number of the newest version that is not deprecated, None while there is none; operation: what a step
    of it takes. uses: masters that carry it."""

    name: str
    title: str
    help: str
    newest: str | None
    draft: bool
    operation: OperationOut | None
    uses: int


class FunctionUse(TypedDict):
    """A master that carries a function. number: of its version; "" for one that is no copy of the library's."""

    master: str
    title: str
    number: str


class FunctionOut(FunctionRow):
    """document: the draft, or the newest version's. keepers: who may change it; may_write: whether the asking person
    may."""

    revision: int
    keepers: list[str]
    document: Function
    versions: list[VersionRow]
    may_write: bool
    used_by: list[FunctionUse]


class FunctionRead(Schema):
    """A function that is being edited. problem: what is wrong with it, its row "result" for the result. sheet: a master
    that shows it, its inputs as slots and parameters; None while it cannot be read."""

    problem: Problem | None
    sheet: SheetOut | None


class DrawOut(Schema):
    """row: as the flat sheet names it. title: of the function. first, last: steps of the row's chain; the last of them
    when left out. numbers: whether those within the steps become inputs, too."""

    document: Master
    row: str
    title: str
    first: int = 0
    last: int | None = None
    numbers: bool = False


class DrawnOut(TypedDict):
    """document: the sheet that calls the function; rows: those that call it."""

    function: Function
    document: Master
    rows: list[str]


class IntoSheet(Schema):
    """number: of the version; the newest when left out."""

    document: Master
    number: str | None = None
