"""Why a change is not made."""

from __future__ import annotations

from django.db.models import Model

__all__ = ["Conflict", "Stale"]


class Conflict(Exception):
    """A change that cannot be made; the message says why."""


class Stale(Conflict):
    """A change that was meant for a row as it was before somebody else changed it. row: as it is now."""

    def __init__(self, row: Model, message: str):
        super().__init__(message)
        self.row = row
