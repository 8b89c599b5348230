"""Schemas of watched folders, and of the versions of files."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict


class NewWatched(Schema):
    """place: a folder below one of those that the server watches. quiet: seconds that a file must stand still."""

    name: str
    place: str
    quiet: float = 2.0


class WatchedChange(NewWatched):
    paused: bool = False


class WatchedFileOut(TypedDict):
    """problem: why it was refused."""

    path: str
    state: Literal["changing", "arriving", "refused", "missing"]
    problem: str


class WatchedOut(TypedDict):
    """path: where its place is. problem: why it cannot be looked into, "" where it can. taken: files that are in as
    they lie there. files: the others, the first hundred."""

    id: int
    revision: int
    name: str
    place: str
    path: str
    quiet: float
    paused: bool
    problem: str
    intake: int | None
    taken: int
    files: list[WatchedFileOut]


class WatchableOut(TypedDict):
    """The folders below which this server watches."""

    folders: list[str]


class FileVersionOut(TypedDict):
    """A content that a file got after it was taken in. before, after: digests; before is None where
    nothing readable was there. is_current: whether the file has it now. map, set: where the file is used, None where
    it is in no set."""

    id: int
    at: datetime
    by: str | None
    origin: str
    file: str
    before: str | None
    after: str
    is_current: bool
    map: int | None
    set: int | None
    set_name: str
    role: str


class SetName(TypedDict):
    id: int
    name: str


class OutdatedOut(TypedDict):
    """Of one target: sets that changed since they were delivered. number: of the newest delivery with any of them;
    destinations: where such a delivery lies."""

    target: str
    title: str
    number: int
    sets: list[SetName]
    destinations: list[str]
