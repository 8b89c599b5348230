"""Schemas of destinations, drift and transfers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict


class NewDestination(Schema):
    """place: a path below one of the server's folders, or a bucket and a prefix in it."""

    name: str
    kind: Literal["folder", "zip", "bucket"]
    place: str
    target: str


class DestinationChange(Schema):
    name: str
    place: str
    target: str


class Allowed(TypedDict):
    """Where this server delivers to."""

    folders: list[str]
    buckets: list[str]


class TransferOut(TypedDict):
    """number: of the delivery. written, removed, untouched: files. drift: how many asked for a choice."""

    id: int
    number: int
    created: datetime
    by: str | None
    state: str
    job: int | None
    message: str
    written: int
    removed: int
    untouched: int
    kept: list[str]
    drift: int


class DestinationOut(TypedDict):
    """place: as given; path: where that is. holds: number of the delivery that lies there; newest: of the newest for
    its target. problem: why nothing can be delivered there."""

    id: int
    revision: int
    name: str
    kind: str
    place: str
    path: str
    target: str
    title: str
    holds: int | None
    newest: int | None
    problem: str | None
    last: TransferOut | None


class DriftOut(TypedDict):
    """kind: changed, missing, added or in_the_way. asks: whether a delivery needs a choice. set: that it belongs to, ""
    where that is not known."""

    path: str
    kind: Literal["changed", "missing", "added", "in_the_way"]
    digest: str | None
    bytes: int | None
    asks: bool
    set: str


class Bring(Schema):
    """delivery: its number. choices: "overwrite" or "keep" for files that others changed, by path."""

    delivery: int
    choices: dict[str, Literal["overwrite", "keep"]] = {}


class Theirs(Schema):
    """paths: of files at the destination to take in as new sources."""

    paths: list[str]


class TakenIn(TypedDict):
    """intake: the new one, which is being sorted."""

    intake: int
