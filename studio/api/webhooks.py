"""Addresses that are told what happens in a project, and what they answered."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Status

from studio.api.access import project_for, user_of
from studio.api.schemas.webhooks import MadeWebhook, NewWebhook, Paused, SendingOut, WebhookOut
from studio.projects.models import Membership
from studio.webhooks import sending

router = Router(tags=["webhooks"])
_RULES = Membership.Right.RULES


@router.get("", response=list[WebhookOut])
def list_webhooks(request: HttpRequest, slug: Path[str]) -> Any:
    return project_for(request, slug, _RULES).webhooks.all()


@router.post("", response=MadeWebhook)
def add_webhook(request: HttpRequest, slug: Path[str], given: NewWebhook) -> Any:
    """Tell an address of events, signed with a key that is shown this once: X-Texel-Signature is HMAC-SHA256 of
    X-Texel-Time, a line end and the body."""
    project = project_for(request, slug, _RULES)
    row, key = sending.add(project, given.name, given.address, list(given.events), user_of(request))
    return {
        "id": row.pk, "name": row.name, "address": row.address, "events": row.events, "paused": row.paused, "key": key,
    }  # fmt: skip


@router.patch("/{int:pk}", response=WebhookOut)
def pause_webhook(request: HttpRequest, slug: Path[str], pk: Path[int], given: Paused) -> Any:
    """A paused webhook is told nothing, and not later what it missed."""
    return sending.set_paused(project_for(request, slug, _RULES), pk, given.paused)


@router.delete("/{int:pk}", response={204: None})
def remove_webhook(request: HttpRequest, slug: Path[str], pk: Path[int]) -> Any:
    sending.remove(project_for(request, slug, _RULES), pk)
    return Status(204, None)


@router.get("/{int:pk}/sendings", response=list[SendingOut])
def list_sendings(request: HttpRequest, slug: Path[str], pk: Path[int]) -> Any:
    """The newest messages with their answers."""
    return sending.sendings_of(project_for(request, slug, _RULES), pk)


@router.post("/{int:pk}/sendings/{int:number}/again", response=SendingOut)
def send_again(request: HttpRequest, slug: Path[str], pk: Path[int], number: Path[int]) -> Any:
    """Send a message once more, as it was."""
    return sending.send_again(project_for(request, slug, _RULES), pk, number)
