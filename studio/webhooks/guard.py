"""Where webhooks may go: to hosts that the administrator allows, and by default to nothing inside the house.

A host's name is looked up once, its address is judged, and the connection goes to that very address: a name that points
elsewhere a moment later leads nowhere.
"""

from __future__ import annotations

import ipaddress
import socket
from dataclasses import dataclass
from urllib.parse import urlsplit

from django.conf import settings

from texel.errors import BadDocument

__all__ = ["Destination", "allowed"]


@dataclass(frozen=True)
class Destination:
    """host: as it stands in the address, for certificates; ip: that is connected to; path: with its query."""

    scheme: str
    host: str
    port: int
    ip: str
    path: str


def _parts(address: str) -> tuple[str, str, int, str]:
    try:
        parts = urlsplit(address)
        port = parts.port or (443 if parts.scheme == "https" else 80)
    except ValueError:
        raise BadDocument("{address} is no address", address=address) from None
    if parts.scheme not in ("https", "http") or not parts.hostname or parts.username or parts.password:
        raise BadDocument("a webhook's address begins with https:// or http://, a host, and no name or password")
    path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
    return parts.scheme, parts.hostname, port, path


def allowed(address: str) -> Destination:
    """Where an address leads, if messages may go there. Raises BadDocument.

    FAIR_TEXEL_WEBHOOK_HOSTS: names of hosts, with a port where it is not the usual one; * for every host outside. A
    host inside the house has to be named.
    """
    scheme, host, port, path = _parts(address)
    named = host in settings.WEBHOOK_HOSTS or f"{host}:{port}" in settings.WEBHOOK_HOSTS
    if not named and "*" not in settings.WEBHOOK_HOSTS:
        raise BadDocument("{host} is not among the hosts that the administrator allows for webhooks", host=host)
    try:
        found = {str(info[4][0]) for info in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)}
    except (OSError, UnicodeError):
        raise BadDocument("{host} is not known", host=host) from None
    inside = sorted(ip for ip in found if not ipaddress.ip_address(ip.partition("%")[0]).is_global)
    if inside and not named:
        raise BadDocument("{host} lies inside the house; an administrator has to name it to allow it", host=host)
    return Destination(scheme, host, port, sorted(found)[0], path)
