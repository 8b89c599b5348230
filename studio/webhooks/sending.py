"""Webhooks: made, told, tried again. Messages are JSON, signed; what is not taken is sent again with growing pauses."""

from __future__ import annotations

import hashlib
import hmac
import json
import secrets
import time
from collections.abc import Callable, Mapping
from typing import Any

import urllib3
from django.db import transaction
from django.http import Http404
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.sealing import BrokenSeal, seal, unseal
from studio.webhooks.guard import allowed
from studio.webhooks.models import Sending, Webhook
from texel.errors import BadDocument

__all__ = ["add", "remove", "send_again", "sendings_of", "set_paused", "signature", "tell"]

_MOST, _SHOWN, _KEPT = 20, 50, 200
_TIMEOUT = urllib3.Timeout(connect=5, read=10)
_MAX_ANSWER = 300
_PURPOSE = "webhooks"


class _NotTaken(Exception):
    """So that the queue tries again later."""


def add(project: Project, name: str, address: str, events: list[str], by: Any) -> tuple[Webhook, str]:
    """A new webhook and the key that its messages are signed with, shown this once. Raises BadDocument, Conflict."""
    name = " ".join(name.split())[:80]
    if not name or not events or not set(events) <= set(Webhook.Event.values):
        raise BadDocument("a webhook has a name and events: {listed}", listed=", ".join(Webhook.Event.values))
    allowed(address)
    key = secrets.token_urlsafe(32)
    with transaction.atomic():
        Project.objects.select_for_update(no_key=True).get(pk=project.pk)
        if project.webhooks.count() >= _MOST:
            raise Conflict("a project has at most {most} webhooks", most=_MOST)
        if project.webhooks.filter(name=name).exists():
            raise Conflict("there is a webhook called {name} already", name=name)
        sealed = seal(_PURPOSE, key)
        row = Webhook.objects.create(
            project=project, name=name, address=address[:500], events=sorted(set(events)), sealed=sealed, by=by
        )
    return row, key


def _one(project: Project, pk: int) -> Webhook:
    found: Webhook | None = project.webhooks.filter(pk=pk).first()
    if found is None:
        raise Http404("There is no such webhook any more.")
    return found


def remove(project: Project, pk: int) -> None:
    _one(project, pk).delete()


def set_paused(project: Project, pk: int, paused: bool) -> Webhook:
    """A paused one is told nothing, and is not told later what it missed."""
    row = _one(project, pk)
    row.paused = paused
    row.save(update_fields=["paused"])
    return row


def sendings_of(project: Project, pk: int) -> list[Sending]:
    """The newest messages of a webhook with their answers."""
    return list(_one(project, pk).sendings.all()[:_SHOWN])


def send_again(project: Project, pk: int, sending: int) -> Sending:
    """Send a message once more, as it was."""
    row = _one(project, pk).sendings.filter(pk=sending).first()
    if row is None:
        raise Http404("There is no such message any more.")
    with transaction.atomic():
        Sending.objects.filter(pk=row.pk).update(done=False, attempts=0)
        deliver.defer(sending=row.pk)
    row.refresh_from_db()
    return row


def tell(project: Project, event: str, facts: Callable[[], Mapping[str, object]]) -> None:
    """Tell all webhooks of a project that want to know, when the surrounding transaction commits. facts: what is told
    of the event, asked for only where somebody wants to know."""
    hooks = list(project.webhooks.filter(paused=False, events__contains=[event]))
    told = facts() if hooks else {}
    for hook in hooks:
        message = {"event": event, "project": project.slug, "at": timezone.now().isoformat(), **told}
        row = Sending.objects.create(webhook=hook, event=event, message=message)
        deliver.defer(sending=row.pk)
        old = hook.sendings.values_list("pk", flat=True)[_KEPT : _KEPT + 1].first()
        if old is not None:
            hook.sendings.filter(pk__lte=old).delete()


def signature(key: str, at: str, body: bytes) -> str:
    """HMAC (RFC 2104) with SHA-256 of the time, a line end and the body, as hexadecimal digits.

    >>> signature("key", "1700000000", b"{}")[:16]
    'dc69947da92a4b74'
    """
    return hmac.new(key.encode(), at.encode() + b"\n" + body, hashlib.sha256).hexdigest()


@app.task(name="webhook", retry=RetryStrategy(max_attempts=8, exponential_wait=5))
def deliver(sending: int) -> None:
    """One attempt. Raises where it was not taken, so that the queue tries again: after 5 seconds, 25, and so on."""
    row = Sending.objects.select_related("webhook").filter(pk=sending, done=False).first()
    if row is None or row.webhook.paused:
        return
    row.attempts += 1
    row.tried = timezone.now()
    try:
        row.status, row.answer = _post(row)
    except (BadDocument, urllib3.exceptions.HTTPError, BrokenSeal) as error:
        row.status, row.answer = None, str(error)[:_MAX_ANSWER] or type(error).__name__
    row.done = row.status is not None and 200 <= row.status < 300
    row.save(update_fields=["attempts", "tried", "status", "answer", "done"])
    if not row.done:
        raise _NotTaken(row.answer)


def _post(row: Sending) -> tuple[int, str]:
    to = allowed(row.webhook.address)
    body = json.dumps(row.message, ensure_ascii=False).encode()
    at = str(int(time.time()))
    key = unseal(_PURPOSE, row.webhook.sealed)
    usual = to.port == (443 if to.scheme == "https" else 80)
    headers = {
        "Content-Type": "application/json", "User-Agent": "Fair Texel",
        "Host": to.host if usual else f"{to.host}:{to.port}",
        "X-Texel-Event": row.event, "X-Texel-Message": str(row.pk), "X-Texel-Time": at,
        "X-Texel-Signature": signature(key, at, body),
    }  # fmt: skip
    pool: urllib3.HTTPConnectionPool
    if to.scheme == "https":
        # The certificate is for the name, though the connection goes to the address that was judged.
        pool = urllib3.HTTPSConnectionPool(
            to.ip, to.port, timeout=_TIMEOUT, retries=False, server_hostname=to.host, assert_hostname=to.host
        )
    else:
        pool = urllib3.HTTPConnectionPool(to.ip, to.port, timeout=_TIMEOUT, retries=False)
    # An answer that leads elsewhere is none.
    with pool, pool.urlopen("POST", to.path, body, headers, redirect=False, preload_content=False) as answer:
        text = answer.read(_MAX_ANSWER).decode("utf-8", "replace").replace("\0", "")
        return answer.status, text
