"""Which state of a thing a change was meant for: the header If-Match holds the revision that was seen.

Whoever saw an older one is told with 409, and gets the thing as it is now, so that both can be looked at.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, Any, TypeVar

from django.db.models import Model
from django.http import HttpRequest, HttpResponse
from ninja import Header, NinjaAPI
from ninja.errors import HttpError

from studio.changes.errors import Stale

__all__ = ["IfMatch", "newest_of", "seen", "tell_who_is_late"]

# A revision, as the answers give it; without one, whatever is there is changed.
IfMatch = Annotated[str | None, Header(alias="If-Match")]
_LARGEST = 2**31 - 1
Teller = TypeVar("Teller", bound=Callable[[HttpRequest, Any], Mapping[str, Any]])
_tellers: dict[type[Model], Callable[[HttpRequest, Any], Mapping[str, Any]]] = {}


def seen(if_match: str | None) -> int | None:
    """The revision in a header If-Match; None where it says none. Raises HttpError 400."""
    text = (if_match or "*").strip().strip('"')
    if text == "*":
        return None
    if not (text.isascii() and text.isdigit() and int(text) <= _LARGEST):
        raise HttpError(400, "If-Match holds the revision that was seen, a whole number.")
    return int(text)


def newest_of(model: type[Model]) -> Callable[[Teller], Teller]:
    """Register the function that tells a row of a model as the API does, for those who saw an older one."""

    def register(teller: Teller) -> Teller:
        _tellers[model] = teller
        return teller

    return register


def tell_who_is_late(api: NinjaAPI) -> None:
    def told(request: HttpRequest, error: Any) -> HttpResponse:
        row = type(error.row)._default_manager.get(pk=error.row.pk)
        newest = _tellers[type(row)](request, row)
        return api.create_response(
            request, {"detail": str(error), **error.message.document(), "newest": newest}, status=409
        )

    api.add_exception_handler(Stale, told)
