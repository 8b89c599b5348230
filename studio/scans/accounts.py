"""Accounts with scan libraries: each person's own key, kept encrypted and never given out."""

from __future__ import annotations

from typing import Any

from studio.changes.errors import Conflict
from studio.scans.client import Library, address_of
from studio.scans.models import ScanAccount
from studio.sealing import BrokenSeal, seal, unseal

__all__ = ["forget_account", "keep_account", "library_of"]

_MAX_KEY = 500
_PURPOSE = "scan accounts"


def keep_account(user: Any, library: str, key: str, title: str) -> ScanAccount:
    """Keep a key that was tried. title: whose account it opens, as the library says."""
    address_of(library)
    if not 0 < len(key) <= _MAX_KEY or not key.isprintable():
        raise Conflict("a key has 1 to {max_key} printable characters", max_key=_MAX_KEY)
    sealed = seal(_PURPOSE, key)
    made, _ = ScanAccount.objects.update_or_create(
        user=user, library=library, defaults={"sealed": sealed, "title": title[:200]}
    )
    return made


def forget_account(user: Any, library: str) -> None:
    ScanAccount.objects.filter(user=user, library=library).delete()


def library_of(user_id: int | None, library: str) -> Library:
    """A library as a person may use it. Raises Conflict without an account, LibraryAway for one that is not allowed."""
    row = ScanAccount.objects.filter(user=user_id, library=library).first()
    if row is None:
        raise Conflict("enter the key of your account with {library} first", library=library)
    try:
        key = unseal(_PURPOSE, row.sealed)
    except BrokenSeal:
        raise Conflict("the kept key for {library} cannot be read any more; enter it again", library=library) from None
    return Library(library, key)
