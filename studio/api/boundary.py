"""What comes in from outside, looked at once for all operations: JSON that can be kept, and clear refusals.

Text that no database keeps (NUL, halves of characters), numbers that are none (NaN, infinity, or too large), and bodies
nested beyond any document of ours are refused here, so that no operation has to think of them.
"""

from __future__ import annotations

from typing import Any

from django.db import DataError, IntegrityError
from django.http import HttpRequest, JsonResponse
from ninja import NinjaAPI
from ninja.errors import HttpError
from ninja.parser import Parser

from texel.errors import BadDocument
from texel.schemas import load_json

__all__ = ["Careful", "no_such_place", "refuse_what_cannot_be_kept"]

# Lists and objects within each other; a master with its layers has nine.
_DEEPEST = 64


def _text(text: str) -> None:
    if "\0" in text:
        raise HttpError(400, "A text holds a NUL, which cannot be kept.")
    if any("\ud800" <= letter <= "\udfff" for letter in text):
        raise HttpError(400, "A text holds half a character, which cannot be kept.")


def _look_through(value: Any, depth: int = 0) -> None:
    if isinstance(value, str):
        _text(value)
    elif isinstance(value, list | dict):
        if depth >= _DEEPEST:
            raise HttpError(400, f"The JSON is nested more than {_DEEPEST} deep.")
        for one in value:
            _look_through(one, depth + 1)
        for one in value.values() if isinstance(value, dict) else ():
            _look_through(one, depth + 1)


class Careful(Parser):
    """Reads bodies and questions. Raises HttpError 400 for what cannot be kept or is no JSON."""

    def parse_body(self, request: HttpRequest) -> Any:
        try:
            found = load_json(request.body.decode("utf-8"), "The body")
        except (BadDocument, UnicodeDecodeError) as error:
            raise HttpError(400, f"{error}"[:200]) from None
        _look_through(found)
        return found

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
    api.add_exception_handler(UnicodeEncodeError, told(400, "A text holds half a character, which cannot be kept."))


def no_such_place(request: HttpRequest, rest: str = "") -> JsonResponse:
    """For addresses below /api/ that mean nothing."""
    return JsonResponse({"detail": "There is nothing at this address."}, status=404)
