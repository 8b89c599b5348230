"""Serve the built page, and forbid it to load anything from elsewhere."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.conf import settings
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse, JsonResponse

__all__ = ["ContentSecurityPolicy", "page"]

# Styles are set from script by the component library; everything else comes from this server alone.
_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; connect-src 'self' blob:; "
    "font-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
# The page asks for nothing that a browser has beside its window.
_PERMISSIONS = ", ".join(
    f"{one}=()" for one in ("camera", "microphone", "geolocation", "payment", "usb", "serial", "bluetooth", "midi")
)


class ContentSecurityPolicy:
    """Adds the content security policy to every answer, synchronous or not, and refuses foreign hosts."""

    sync_capable = True
    async_capable = True

    def __init__(self, get_response: Callable[..., Any]):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> Any:
        foreign = self._foreign(request)
        if iscoroutinefunction(self):
            return self._later(request, foreign)
        return self._with_policy(request, foreign or self.get_response(request))

    async def _later(self, request: HttpRequest, foreign: HttpResponse | None) -> HttpResponse:
        return self._with_policy(request, foreign or await self.get_response(request))

    def _foreign(self, request: HttpRequest) -> HttpResponse | None:
        """A refusal of requests that were meant for another host: the page's own files are no exception."""
        try:
            request.get_host()
        except DisallowedHost:
            return JsonResponse({"detail": "This server does not answer for that host."}, status=400)
        return None

    def _with_policy(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers.setdefault("Permissions-Policy", _PERMISSIONS)
        response.headers.setdefault("Referrer-Policy", "same-origin")
        if request.path.startswith("/api/"):
            # What a person may see is for that person, and for now.
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def page(request: HttpRequest, path: str = "") -> HttpResponse:
    """The page's one document, for every address that the page itself routes."""
    index = settings.PAGE_ROOT / "index.html"
    if not index.is_file():
        return HttpResponse("The page is not built yet; run ./ft demo or ./ft serve.", status=503)
    return HttpResponse(
        index.read_bytes(), content_type="text/html; charset=utf-8", headers={"Cache-Control": "no-cache"}
    )
