"""Refused before a request's body is read: one that is too large, and a large one of somebody who is not signed in."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore

from studio.people.tokens import person_of

__all__ = ["Gate"]

# As the server's interface has it (ASGI).
Scope = dict[str, Any]
Receive = Callable[[], Awaitable[Any]]
Send = Callable[[Any], Awaitable[None]]
# What a form adds to the file in it.
_SLACK = 1 << 20
# Smaller bodies are looked at by the application itself.
_SMALL = 1 << 16
_UPLOADS = ("/files", "/zip", "/masters/import", "/models")


class Gate:
    def __init__(self, application: Callable[[Scope, Receive, Send], Awaitable[Any]]):
        self.application = application

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.application(scope, receive, send)
            return
        headers = {name.lower(): value for name, value in scope["headers"]}
        told = headers.get(b"content-length", b"")
        if told and not told.isdigit():
            return await _refuse(send, 400, "The length of the body is no number.")
        most = _most(scope["path"])
        length = int(told) if told else None
        if length is not None and length > most:
            return await _refuse(send, 413, f"The body has {length >> 20} MB; at most {most >> 20} MB are taken here.")
        large = b"transfer-encoding" in headers if length is None else length > _SMALL
        if large and not await sync_to_async(_is_signed_in)(headers):
            return await _refuse(send, 401, "Sign in first.")
        await self.application(scope, _counted(receive, most), send)


def _most(path: str) -> int:
    """Bytes that a body may have."""
    if path.startswith("/api/") and path.endswith(_UPLOADS):
        return settings.MAX_UPLOAD_BYTES + _SLACK
    return settings.DATA_UPLOAD_MAX_MEMORY_SIZE


def _is_signed_in(headers: dict[bytes, bytes]) -> bool:
    kind, _, token = headers.get(b"authorization", b"").decode("latin-1").partition(" ")
    if kind.lower() == "bearer":
        return person_of(token.strip()) is not None
    try:
        cookies = SimpleCookie(headers.get(b"cookie", b"").decode("latin-1"))
    except CookieError:
        return False
    key = cookies.get(settings.SESSION_COOKIE_NAME)
    return key is not None and bool(SessionStore(key.value).get(SESSION_KEY))


def _counted(receive: Receive, most: int) -> Receive:
    """Bodies that do not say how long they are end where they become too long, as if the line had broken."""
    seen = 0

    async def counted() -> MutableMapping[str, Any]:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        return message if seen <= most else {"type": "http.disconnect"}

    return counted


async def _refuse(send: Send, status: int, words: str) -> None:
    body = json.dumps({"detail": words}).encode()
    headers = [
        (b"content-type", b"application/json"), (b"content-length", str(len(body)).encode()),
        (b"cache-control", b"no-store"), (b"connection", b"close"),
    ]  # fmt: skip
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
