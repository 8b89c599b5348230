"""Server-sent events: one stream a tab, one LISTEN connection a process, handed on in memory."""

from __future__ import annotations

import asyncio
import json
import logging
from collections.abc import AsyncIterator

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
_log = logging.getLogger(__name__)


class _Hub:
    """Hears PostgreSQL's notifications and hands each to the streams of its project."""

    def __init__(self) -> None:
        self.streams: dict[int, set[asyncio.Queue[str]]] = {}
        self.listener: asyncio.Task | None = None

    def join(self, project: int) -> asyncio.Queue[str]:
        queue: asyncio.Queue[str] = asyncio.Queue(_LONGEST_QUEUE)
        self.streams.setdefault(project, set()).add(queue)
        if self.listener is None or self.listener.done():
            self.listener = asyncio.create_task(self._listen())
        return queue

    def leave(self, project: int, queue: asyncio.Queue[str]) -> None:
        self.streams.get(project, set()).discard(queue)

    async def _listen(self) -> None:
        parameters = await sync_to_async(_parameters)()
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**parameters, autocommit=True) as heard:
                    await heard.execute(f"LISTEN {CHANNEL}")
                    async for note in heard.notifies():
                        self._hand_on(note.payload)
            except psycopg.OperationalError as error:
                _log.warning("listening for changes was cut off, trying again: %s", error)
                await asyncio.sleep(2)

    def _hand_on(self, payload: str) -> None:
        for queue in self.streams.get(json.loads(payload)["project"], ()):
            if queue.full():
                queue.get_nowait()  # the page asks for the whole state anyway; the newest word is enough
            queue.put_nowait(payload)


def _parameters() -> dict:
    wanted = ("host", "port", "user", "password", "dbname")
    return {key: value for key, value in connection.get_connection_params().items() if key in wanted}


_hub = _Hub()


def _project_id(request: HttpRequest, slug: str) -> int | None:
    if not request.user.is_authenticated:
        return None
    row = Membership.objects.filter(user=request.user, project__slug=slug).values_list("project_id", flat=True)
    return row.first()


async def events(request: HttpRequest, slug: str) -> HttpResponseBase:
    """Each event is {"kind": what changed, ...}; the page then asks for it."""
    project = await sync_to_async(_project_id)(request, slug)
    if project is None:
        return HttpResponse(status=404)
    return StreamingHttpResponse(
        _stream(project), content_type="text/event-stream", headers={"Cache-Control": "no-cache"}
    )


async def _stream(project: int) -> AsyncIterator[bytes]:
    queue = _hub.join(project)
    try:
        yield b"retry: 2000\n\n"
        while True:
            try:
                payload = await asyncio.wait_for(queue.get(), _KEEP_ALIVE_SECONDS)
                yield f"data: {payload}\n\n".encode()
            except TimeoutError:
                yield b": still here\n\n"
    finally:
        _hub.leave(project, queue)
