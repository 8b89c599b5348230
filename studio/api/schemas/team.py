"""Schemas of comments, reviews, notices, presence."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field
from typing_extensions import TypedDict


class AnswerOut(TypedDict):
    """by: None where the account is gone. mine: whether the asking person wrote it."""

    id: int
    text: str
    by: str | None
    mine: bool
    created: datetime
    edited: datetime | None
    revision: int


class CommentOut(AnswerOut):
    """set or cast: what it is about, with its name. map, x, y: a place in a map, 0 to 1 from its upper left corner.
    check: of a finding. closed: when it was settled."""

    set: int | None
    cast: int | None
    name: str
    map: int | None
    x: float | None
    y: float | None
    check: str
    mentions: list[str]
    closed: datetime | None
    closed_by: str | None
    answers: list[AnswerOut]


class NewComment(Schema):
    """About a set or a cast, or an answer to a comment (parent). @name mentions a member, who is told."""

    text: str
    set: int | None = None
    cast: int | None = None
    map: int | None = None
    x: Annotated[float, Field(allow_inf_nan=False)] | None = None
    y: Annotated[float, Field(allow_inf_nan=False)] | None = None
    check: str = ""
    parent: int | None = None


class CommentText(Schema):
    text: str


class Closed(Schema):
    closed: bool


class ReviewOut(TypedDict):
    """How the review of a set stands: ready, approved, sent_back, changed (after it was ready or approved),
    withdrawn."""

    set: int
    name: str
    state: str
    reason: str
    by: str | None
    at: datetime


class ReviewSteps(Schema):
    """reason: needed for sending back."""

    sets: list[int]
    state: Literal["ready", "approved", "sent_back", "withdrawn"]
    reason: str = ""


class Approval(Schema):
    wanted: bool


class PresenceOut(TypedDict):
    person: str
    about: str
    editing: bool


class Here(Schema):
    """tab: any name of the window, the same each time. about: "sets:12". editing: whether it is changed there now."""

    tab: str
    about: str
    editing: bool = False


class NoticeOut(TypedDict):
    """path: of the page that it is about, on this server."""

    id: int
    project: str
    by: str | None
    text: str
    path: str
    created: datetime
    seen: datetime | None


class WaitingOut(Schema):
    """What waits for one person. kind: approve (a set is ready), sent_back, mention, answer."""

    kind: str
    project: str
    text: str
    path: str
    by: str | None
    at: datetime


class Mail(Schema):
    """Where notices are mailed to; empty for no mails."""

    address: str


class MailOut(Schema):
    """sent: whether the studio has a mail server."""

    address: str
    sent: bool
