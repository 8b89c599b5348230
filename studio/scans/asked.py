"""What is asked of scan libraries for the page, apart: they may be slow, and their pictures are from elsewhere."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.conf import settings

from studio.apart import Made, apart
from studio.scans.accounts import library_of
from studio.scans.client import Library
from texel.files import read
from texel.pictures import View, picture

__all__ = ["draw_preview_of", "surface_of", "surfaces_of", "try_key"]


@apart
def try_key(library: str, key: str) -> Made:
    """said: whose account a key opens."""
    return Made(said=Library(library, key).surfaces()["account"])


@apart
def surfaces_of(user: int, library: str, search: str, page: int) -> Made:
    return Made(said=library_of(user, library).surfaces(search, page))


@apart
def surface_of(user: int, library: str, surface: str) -> Made:
    return Made(said=library_of(user, library).surface(surface))


@apart
def draw_preview_of(user: int, library: str, surface: str, side: int) -> Made:
    """The PNG of a library's picture of a surface, decoded and drawn anew."""
    data = library_of(user, library).preview(surface)
    # Which kind of picture it is shows in its first bytes, and the readers go by names.
    suffix = ".png" if data.startswith(b"\x89PNG") else ".jpg"
    with tempfile.NamedTemporaryFile(suffix=suffix) as copy:
        copy.write(data)
        copy.flush()
        return Made(picture(read(Path(copy.name), settings.PICTURE_LIMITS), View(side)))
