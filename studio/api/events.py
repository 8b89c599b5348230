"""Server-sent events: one stream a tab, one LISTEN connection a process, handed on in memory."""

from __future__ import annotations

import asyncio
import json
import logging
import time
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

from studio.jobs.announce import CHANNEL
from studio.projects.models import Membership

__all__ = ["events"]

_KEEP_ALIVE_SECONDS = 15
_LONGEST_QUEUE = 200
_AGAIN_SECONDS = 1
_ALL = json.dumps({"kind": "all"})
_log = logging.getLogger(__name__)


class _Hub:
    """Hears PostgreSQL's notifications and hands each to the streams of its project."""

    def __init__(self) -> None:
        self.streams: dict[int, set[asyncio.Queue[str]]] = {}
        self.listener: asyncio.Task[Any] | None = None

    def join(self, project: int) -> asyncio.Queue[str]:
        queue: asyncio.Queue[str] = asyncio.Queue(_LONGEST_QUEUE)
        self.streams.setdefault(project, set()).add(queue)
        if self.listener is None or self.listener.done():
            self.listener = asyncio.create_task(self._listen())
        return queue

    def leave(self, project: int, queue: asyncio.Queue[str]) -> None:
        self.streams.get(project, set()).discard(queue)

    async def _listen(self) -> None:
        while True:
            try:
                parameters = await sync_to_async(_parameters)()
                async with await psycopg.AsyncConnection.connect(**parameters, autocommit=True) as heard:
                    await heard.execute(f"LISTEN {CHANNEL}")
                    # What was said while nobody listened, nobody knows.
                    self.everything_may_have_changed()
                    async for note in heard.notifies():
                        self.hand_on(note.payload)
            except Exception as error:
                _log.warning("listening for changes was cut off, trying again: %s", error)
            await asyncio.sleep(_AGAIN_SECONDS)

    def everything_may_have_changed(self) -> None:
        for queues in self.streams.values():
            for queue in queues:
                _put_all(queue)

    def hand_on(self, payload: str) -> None:
        """Tell the streams of a project; what is no message of ours is passed over."""
        try:
            queues = self.streams.get(json.loads(payload)["project"], ())
        except (ValueError, KeyError, TypeError):
            _log.warning("a message that is none was passed over: %.100s", payload)
            return
        for queue in queues:
            if queue.full():
                _put_all(queue)
            else:
                queue.put_nowait(payload)


def _put_all(queue: asyncio.Queue[str]) -> None:
    """In place of all that waits: ask for everything anew."""
    while not queue.empty():
        queue.get_nowait()
    queue.put_nowait(_ALL)


def _parameters() -> dict[str, Any]:
    wanted = ("host", "port", "user", "password", "dbname")
    return {key: value for key, value in connection.get_connection_params().items() if key in wanted}


_hub = _Hub()


def _project_id(request: HttpRequest, slug: str) -> int | None:
    if not request.user.is_authenticated:
        return None
    row = Membership.objects.filter(user=request.user, project__slug=slug).values_list("project_id", flat=True)
    return row.first()


async def events(request: HttpRequest, slug: str) -> HttpResponseBase:
    """Each event is {"kind": what changed, ...}; the page then asks for it. "all": anything may have changed; "gone":
    the asking person is no member any more."""
    project = await sync_to_async(_project_id)(request, slug)
    if project is None:
        return HttpResponse(status=404)
    return StreamingHttpResponse(
        _stream(project, request, slug), content_type="text/event-stream", headers={"Cache-Control": "no-cache"}
    )


async def _stream(project: int, request: HttpRequest, slug: str) -> AsyncIterator[bytes]:
    queue = _hub.join(project)
    checked = time.monotonic()
    try:
        yield b"retry: 2000\n\n"
        while True:
            try:
                payload = await asyncio.wait_for(queue.get(), _KEEP_ALIVE_SECONDS)
                yield f"data: {payload}\n\n".encode()
            except TimeoutError:
                yield b": still here\n\n"
            if time.monotonic() - checked > _KEEP_ALIVE_SECONDS:
                checked = time.monotonic()
                if not await _still_may(project, request, slug):
                    yield b'data: {"kind": "gone"}\n\n'
                    return
    finally:
        _hub.leave(project, queue)


async def _still_may(project: int, request: HttpRequest, slug: str) -> bool:
    """Whether somebody is a member still, signed in still. While the database is away, nobody is sent off."""
    try:
        return await sync_to_async(_look_again)(request, slug) == project
    except Exception:
        return True


def _look_again(request: HttpRequest, slug: str) -> int | None:
    key = request.session.session_key
    if key is None or not request.session.exists(key):
        return None
    row = Membership.objects.filter(user=request.user.pk, user__is_active=True, project__slug=slug)
    return row.values_list("project_id", flat=True).first()
