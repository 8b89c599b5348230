"""Schemas of signing in, accounts, tokens."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema


class PartOut(Schema):
    """well: whether it works. says: what is wrong, or how much it has to do."""

    name: str
    well: bool
    says: str


class HealthOut(Schema):
    """status: ok, or ill when a part is not well."""

    status: str
    parts: list[PartOut]


class SignIn(Schema):
    name: str
    password: str


class Session(Schema):
    """csrf goes into the header X-CSRFToken of every request that changes something. administrator: of the
    studio; keeps_library: whether the person may add to what all projects share. elsewhere: where one can sign in
    beside here, in words; "" for nowhere."""

    name: str | None
    csrf: str
    administrator: bool = False
    keeps_library: bool = False
    elsewhere: str = ""


class Elsewhere(Schema):
    """address: at the provider, where the browser is to go."""

    address: str


class CameBack(Schema):
    """code, state: with which the provider sent the browser back."""

    code: str
    state: str


class NewPassword(Schema):
    old: str
    new: str


class Ended(Schema):
    sessions: int


class NewToken(Schema):
    """days: how long it holds. right: the most that it may do, of what the person may."""

    name: str
    days: int = 365
    right: Literal["look", "prepare", "rules", "manage"] = "manage"


class Token(Schema):
    token: str


class TokenRow(Schema):
    """until: when it ends, None for tokens that were made before tokens ended. used: when it was used last."""

    id: int
    name: str
    right: str
    created: datetime
    until: datetime | None
    used: datetime | None
