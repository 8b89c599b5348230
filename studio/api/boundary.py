"""What comes in from outside, looked at once for all operations: JSON that can be kept, and clear refusals.

Text that no database keeps (NUL, halves of characters), numbers that are none (NaN, infinity, or too large), and bodies
nested beyond any document of ours are refused here, so that no operation has to think of them.
"""

from __future__ import annotations

import json
import math
from typing import Any

from django.db import DataError, IntegrityError
from django.http import HttpRequest, JsonResponse
from ninja import NinjaAPI
from ninja.errors import HttpError
from ninja.parser import Parser

__all__ = ["Careful", "no_such_place", "refuse_what_cannot_be_kept"]

# Lists and objects within each other; a master with its layers has nine.
_DEEPEST = 64
# Whole numbers beyond 64 bits are neither numbers of rows nor sizes.
_LARGEST = 2**63 - 1


def _number(text: str) -> float:
    found = float(text)
    if not math.isfinite(found):
        raise HttpError(400, f"{text[:40]} is no number that can be worked with.")
    return found


def _whole(text: str) -> int:
    # Longer ones take a time that grows with the square of their length.
    if len(text) > 20 or abs(int(text)) > _LARGEST:
        raise HttpError(400, f"{text[:40]} is no number that can be worked with.")
    return int(text)


def _constant(text: str) -> float:
    raise HttpError(400, f"{text} is no number; JSON has none of that name.")


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
            found = json.loads(request.body, parse_float=_number, parse_int=_whole, parse_constant=_constant)
        except RecursionError:
            raise HttpError(400, f"The JSON is nested more than {_DEEPEST} deep.") from None
        except ValueError as error:
            raise HttpError(400, f"The body is no JSON: {error}"[:200]) from None
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
