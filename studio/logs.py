"""Logs that programs read: one JSON object a line (FAIR_TEXEL_LOG=json), with the id of the request or job at work."""

from __future__ import annotations

import json
import logging
import re
import uuid
from collections.abc import Callable
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.http import HttpRequest, HttpResponse

__all__ = ["JsonLines", "RequestId", "at_work"]

# "request 1f3a…" or "job 17": what this thread of work is about.
at_work: ContextVar[str] = ContextVar("at_work", default="")
_GIVEN = re.compile(r"[\w.-]{1,64}")


class JsonLines(logging.Formatter):
    """time, level, logger, message, work, and the trace of an error."""

    def format(self, record: logging.LogRecord) -> str:
        line: dict[str, object] = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(), "logger": record.name, "message": record.getMessage(),
        }  # fmt: skip
        if work := at_work.get():
            line["work"] = work
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


class RequestId:
    """Each request has an id, its own or one that a server before this one gave it (X-Request-Id), which stands in the
    answer and in the lines that are logged meanwhile."""

    sync_capable = True
    async_capable = True

    def __init__(self, get_response: Callable[..., Any]):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> Any:
        name = self._begin(request)
        if iscoroutinefunction(self):
            return self._later(request, name)
        return self._end(self.get_response(request), name)

    async def _later(self, request: HttpRequest, name: str) -> Any:
        return self._end(await self.get_response(request), name)

    def _begin(self, request: HttpRequest) -> str:
        given = request.headers.get("X-Request-Id", "")
        name = given if _GIVEN.fullmatch(given) else uuid.uuid4().hex
        at_work.set(f"request {name}")
        return name

    def _end(self, response: HttpResponse, name: str) -> HttpResponse:
        response.headers["X-Request-Id"] = name
        return response
