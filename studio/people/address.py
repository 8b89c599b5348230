"""The network address that a request came from."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest

__all__ = ["address_of"]


def address_of(request: HttpRequest) -> str:
    """Behind a server of one's own (FAIR_TEXEL_PROXY), the one that this server tells; what comes before it in the
    header, anybody may have written."""
    if settings.BEHIND_PROXY:
        told = request.headers.get("X-Forwarded-For", "").rpartition(",")[2].strip()
        if told:
            return told[:45]
    return str(request.META.get("REMOTE_ADDR", "") or "")[:45]
