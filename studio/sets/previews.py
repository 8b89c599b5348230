"""Recipes tried out before they are kept: on pictures made smaller, which are kept by the content of their file."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Any

from studio import store
from studio.sets.documents import library_of, linked_ref, probe_of
from studio.sets.models import Placement
from texel.errors import UnreadableImage
from texel.image import Texels
from texel.library import in_role
from texel.pictures import View, picture
from texel.previews import dump_texels, load_texels, preview_map
from texel.recipes import shape_after
from texel.recipes.step import Shape
from texel.resize import reduced
from texel.sets import MapRef

__all__ = ["PREVIEW_SIDE", "preview"]

PREVIEW_SIDE = 1024
_KEPT = 12
_recent: OrderedDict[str, tuple[Texels, float]] = OrderedDict()
_lock = threading.Lock()


def preview(placement: Placement, recipe: list[dict[str, Any]], view: View) -> tuple[bytes, Shape]:
    """The PNG of a map as ``recipe`` would leave it, and what the full map would be; nothing is kept of it.

    Raises TexelError.
    """
    placement.recipe = recipe  # never saved
    ref, files = linked_ref(placement)

    def small(one: MapRef) -> tuple[Texels, float]:
        whole, scale = _small(files[one.file])
        return in_role(whole, one), scale

    probe = probe_of(placement.file.source) if placement.file.source and placement.file.source.probe else None
    if probe is None:
        raise UnreadableImage(placement.file.path, "this file holds no picture")
    channels = "y" if ref.channel else probe.channels
    shape = shape_after(Shape(probe.width, probe.height, channels, probe.bits), recipe)
    return picture(preview_map(ref, small), view), shape


def _small(placement: Placement) -> tuple[Texels, float]:
    """A file made smaller, and the texels it has for each of the full one."""
    digest = placement.file.source_id or ""
    with _lock:
        if digest in _recent:
            _recent.move_to_end(digest)
            return _recent[digest]
    path = placement.file.path

    def make() -> bytes:
        with store.local_copies() as copies:
            return dump_texels(reduced(library_of({path: placement}, copies).texels(path), PREVIEW_SIDE))

    found = load_texels(store.cached("reduced", digest, make), path.rsplit("/", 1)[-1])
    probe = (placement.file.source.probe if placement.file.source else None) or {}
    scale = max(found.width, found.height) / max(probe.get("width", 1), probe.get("height", 1))
    with _lock:
        _recent[digest] = found, scale
        while len(_recent) > _KEPT:
            _recent.popitem(last=False)
    return found, scale
