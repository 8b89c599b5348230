"""What comes in from outside, looked at once for all operations: JSON that can be kept, and clear refusals.

Text that no database keeps (NUL, halves of characters), numbers that are none (NaN, infinity, or too large), and bodies
nested beyond any document of ours are refused here, so that no operation has to think of them.
"""

from __future__ import annotations

import errno
import logging
from typing import Any

from django.conf import settings
from django.db import DataError, IntegrityError, OperationalError
from django.http import Http404, HttpRequest, JsonResponse
from ninja import NinjaAPI
from ninja.errors import HttpError
from ninja.parser import Parser
from psycopg.errors import DeadlockDetected

from studio.storage import StoreAway
from texel.errors import BadDocument
from texel.schemas import load_json

__all__ = ["Careful", "no_such_place", "refuse_what_cannot_be_kept"]

# Lists and objects within each other; a master with its layers has nine.
_MAX_DEPTH = 64
_log = logging.getLogger(__name__)


def _text(text: str) -> None:
    if "\0" in text:
        raise HttpError(400, "A text holds a NUL, which cannot be kept.")
    if any("\ud800" <= letter <= "\udfff" for letter in text):
        raise HttpError(400, "A text holds half a character, which cannot be kept.")


def _look_through(value: Any, depth: int = 0) -> None:
    if isinstance(value, str):
        _text(value)
    elif isinstance(value, list | dict):
        if depth >= _MAX_DEPTH:
            raise HttpError(400, f"The JSON is nested more than {_MAX_DEPTH} deep.")
        for one in value:
            _look_through(one, depth + 1)
        for one in value.values() if isinstance(value, dict) else ():
            _look_through(one, depth + 1)


class Careful(Parser):
    """Reads bodies and questions. Raises HttpError 400 for what cannot be kept or is no JSON."""

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            body = load_json(request.body.decode("utf-8"), "The body")
        except (BadDocument, UnicodeDecodeError) as error:
            raise HttpError(400, f"{error}"[:200]) from None
        _look_through(body)
        return body

    def parse_querydict(self, data: Any, list_fields: list[str], request: HttpRequest) -> Any:
        for values in data.lists():
            for text in values[1]:
                if isinstance(text, str):
                    _text(text)
        return super().parse_querydict(data, list_fields, request)


def refuse_what_cannot_be_kept(api: NinjaAPI) -> None:
    """Answer what the database refuses, and what cannot be written as text, with what is wrong instead of a fault."""

    def told(status: int, words: str) -> Any:
        return lambda request, error: api.create_response(request, {"detail": words}, status=status)

    api.add_exception_handler(
        DataError, told(422, "A text is too long, or a number too large, for what it is meant for.")
    )
    api.add_exception_handler(
        IntegrityError, told(409, "That is there already, or what it belongs to has gone meanwhile. Load again.")
    )
    api.add_exception_handler(Http404, lambda request, error: _missing(api, request, error))
    api.add_exception_handler(OSError, lambda request, error: _of_the_system(api, request, error))
    api.add_exception_handler(OperationalError, lambda request, error: _away(api, request, error))
    api.add_exception_handler(Exception, lambda request, error: _fault(api, request, error))
    api.add_exception_handler(UnicodeEncodeError, told(400, "A text holds half a character, which cannot be kept."))


def _missing(api: NinjaAPI, request: HttpRequest, error: Any) -> Any:
    """In the words of whoever missed it; what Django says by itself names tables."""
    words = str(error)
    if not words or words.endswith("matches the given query."):
        words = "There is no such thing here, or not any more."
    return api.create_response(request, {"detail": words}, status=404)


def _of_the_system(api: NinjaAPI, request: HttpRequest, error: Any) -> Any:
    """A disk without room is told; anything else of the system is a fault of ours."""
    if isinstance(error, StoreAway):
        _log.error("%s %s: %s", request.method, request.path, error)
        words = "What keeps the studio's files does not answer; nothing of this was kept. Try again in a while."
        return api.create_response(request, {"detail": words}, status=503)
    if error.errno not in (errno.ENOSPC, errno.EDQUOT):
        return _fault(api, request, error)
    _log.error("%s %s: no room on the disk", request.method, request.path)
    words = "There is no room left where the studio keeps its files; nothing of this was kept. Tell an administrator."
    return api.create_response(request, {"detail": words}, status=507)


def _away(api: NinjaAPI, request: HttpRequest, error: Any) -> Any:
    if isinstance(error.__cause__, DeadlockDetected):
        _log.error("%s %s: %s", request.method, request.path, error)
        words = "Something else changed the same at this moment, and nothing of this was kept. Try again."
        return api.create_response(request, {"detail": words}, status=409)
    _log.error("%s %s: the database is away: %s", request.method, request.path, error)
    words = "The database does not answer; whether this was kept is not known. Look again in a moment."
    answer = api.create_response(request, {"detail": words}, status=503)
    answer["Retry-After"] = "2"
    return answer


def _fault(api: NinjaAPI, request: HttpRequest, error: Any) -> Any:
    """What nobody thought of: in full in the log, and without a word about this machine in the answer."""
    if settings.DEBUG_PROPAGATE_EXCEPTIONS:
        raise error
    _log.error("%s %s", request.method, request.path, exc_info=error)
    words = "A fault of the studio's own; its log says more. Look whether your change was kept."
    return api.create_response(request, {"detail": words}, status=500)


def no_such_place(request: HttpRequest, rest: str = "") -> JsonResponse:
    """For addresses below /api/ that mean nothing."""
    return JsonResponse({"detail": "There is nothing at this address."}, status=404)
