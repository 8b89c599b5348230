"""Folders of this machine that people may name: below the roots that whoever runs the server allows, nowhere else."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from django.conf import settings

from studio.changes.errors import Conflict

__all__ = ["allowed_path", "overlap"]

_MAX_PLACE = 1000


def allowed_path(place: str, roots: Sequence[Path], what: str) -> Path:
    """Where a place lies; a relative one lies below the first root. what: what the roots are for, in messages.

    Links are followed first, so that none leads out; the folders that the studio itself keeps are refused. Raises
    Conflict.
    """
    if not place.strip() or "\0" in place or len(place) > _MAX_PLACE:
        raise Conflict("say the path of a folder")
    allowed = [root.resolve() for root in roots]
    path = (allowed[0] / place).resolve() if allowed and not Path(place).is_absolute() else Path(place).resolve()
    if not any(path.is_relative_to(root) and path != root for root in allowed):
        listed = ", ".join(str(root) for root in allowed) or "none"
        raise Conflict(
            "{place} is outside of the folders that this server {what}: {listed}", place=place, what=what, listed=listed
        )
    for own in (settings.STORE_ROOT, settings.DELIVERIES_ROOT):
        inner = Path(own).resolve()
        if path.is_relative_to(inner) or inner.is_relative_to(path):
            raise Conflict("{place} belongs to the studio itself; choose another folder", place=place)
    return path


def overlap(one: Path, other: Path) -> bool:
    """Whether two places are the same, or one lies within the other."""
    return one.is_relative_to(other) or other.is_relative_to(one)
