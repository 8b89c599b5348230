"""Why a change is not made."""

from __future__ import annotations

from django.db.models import Model

from texel.errors import ToldError

__all__ = ["Conflict", "Stale"]


class Conflict(ToldError):
    """A change that cannot be made; the message says why."""


class Stale(Conflict):
    """A change that was meant for a row as it was before somebody else changed it. row: as it is now."""

    def __init__(self, row: Model, sentence: str, /, **values: object):
        super().__init__(sentence, **values)
        self.row = row
