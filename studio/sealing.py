"""Keys of others, which must be sent as they are and so cannot be hashed: kept sealed with the studio's own secret, so
that a copy of the database alone gives none away."""

from __future__ import annotations

import base64
import hashlib

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings

__all__ = ["BrokenSeal", "seal", "unseal"]


class BrokenSeal(Exception):
    """What was sealed cannot be read any more: the studio's secret is another one."""


def _of(purpose: str) -> Fernet:
    digest = hashlib.sha256(purpose.encode() + settings.SECRET_KEY.encode()).digest()
    return Fernet(base64.urlsafe_b64encode(digest))


def seal(purpose: str, key: str) -> str:
    """A key as it is kept. purpose: what is sealed for one cannot be opened for another."""
    return _of(purpose).encrypt(key.encode()).decode()


def unseal(purpose: str, sealed: str) -> str:
    """Raises BrokenSeal."""
    try:
        return _of(purpose).decrypt(sealed.encode()).decode()
    except InvalidToken:
        raise BrokenSeal("the studio's secret is another one than when this was kept") from None
