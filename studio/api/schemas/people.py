"""Schemas of people: members, invitations, links, accounts, sessions."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from typing_extensions import TypedDict

RightName = Literal["look", "prepare", "rules", "manage"]


class MemberOut(TypedDict):
    name: str
    right: str
    revision: int


class LogLine(Schema):
    """event: in words. name: of the person, or what somebody who was refused called themselves."""

    event: str
    name: str
    about: str
    address: str
    at: datetime


class Right(Schema):
    right: str


class HandOver(Schema):
    """keep: the right that one keeps oneself; None to leave the project."""

    to: str
    keep: RightName | None = None


class InvitationOut(TypedDict):
    """about: whom it is meant for, as whoever made it wrote. by: None where the account is gone."""

    id: int
    right: str
    about: str
    by: str | None
    created: datetime
    until: datetime


class NewInvitation(Schema):
    """days: how long the link works. about: whom it is meant for, for the list of invitations."""

    right: RightName
    days: int = 7
    about: str = ""


class NewLink(Schema):
    """secret: shown this once. path: of the page that takes it, on this server."""

    secret: str
    path: str
    until: datetime


class Secret(Schema):
    secret: str


class InvitedTo(Schema):
    """What an invitation is for. by: who made it."""

    project: str
    right: str
    by: str | None
    until: datetime


class Taking(Schema):
    """name, password: of an account that is made by it; without them whoever is signed in joins."""

    secret: str
    name: str = ""
    password: str = ""


class Joined(Schema):
    slug: str


class Reset(Schema):
    secret: str
    password: str


class SessionRow(Schema):
    """agent: what the browser says of itself. own: whether it is the one that asks."""

    id: int
    address: str
    agent: str
    began: datetime
    seen: datetime
    own: bool


class AccountOut(TypedDict):
    """active: whether it may sign in. keeps_library: whether it may change what all projects share. projects: how many
    it is in."""

    name: str
    active: bool
    administrator: bool
    keeps_library: bool
    projects: int
    last_sign_in: datetime | None
    has_password: bool


class NewAccount(Schema):
    name: str


class AccountChange(Schema):
    """What is left out stays."""

    active: bool | None = None
    keeps_library: bool | None = None
