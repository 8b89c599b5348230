"""How long a browser may keep a picture: for ever where its address names what it shows, else not at all."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse

__all__ = ["picture_headers", "png"]

# Of a digest at least so much must stand in an address, and so much does.
_LEAST = 16
_FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}
_NOT_AT_ALL = {"Cache-Control": "no-store"}


def picture_headers(request: HttpRequest, *shown: str, role: str = "") -> dict[str, str]:
    """Headers of an answer that shows what has the digests ``shown``, which the address names as v, - between them.

    An address from before a change names another digest, or another role as r: what it gets now must not be found under
    it later.
    """
    named = request.GET.get("v", "").split("-")
    right = len(named) >= len(shown) and all(one == of[:_LEAST] for one, of in zip(named, shown, strict=False))
    return _FOR_EVER if right and request.GET.get("r", role) == role else _NOT_AT_ALL


def png(request: HttpRequest, data: bytes, *shown: str, role: str = "") -> HttpResponse:
    """A PNG with those headers."""
    return HttpResponse(data, content_type="image/png", headers=picture_headers(request, *shown, role=role))
