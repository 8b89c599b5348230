"""Schemas of webhooks."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from pydantic import JsonValue


class WebhookOut(Schema):
    id: int
    name: str
    address: str
    events: list[str]
    paused: bool


class NewWebhook(Schema):
    """events: delivery (one ended), findings (sets were checked), update (a master in use has a newer version)."""

    name: str
    address: str
    events: list[Literal["delivery", "findings", "update"]]


class MadeWebhook(WebhookOut):
    """key: that messages are signed with, shown this once."""

    key: str


class Paused(Schema):
    paused: bool


class SendingOut(Schema):
    """status: of HTTP, None where nothing answered. done: whether it was taken (200 to 299)."""

    id: int
    event: str
    message: dict[str, JsonValue]
    attempts: int
    done: bool
    status: int | None
    answer: str
    created: datetime
    tried: datetime | None
