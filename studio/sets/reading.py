"""Decode one map for the page, and keep the last few: zooming asks for the same map many times."""

from __future__ import annotations

import threading
from collections import OrderedDict

from studio import store
from studio.sets.documents import library_of, linked_ref
from studio.sets.models import Placement
from studio.sets.pictures import map_digest
from texel.image import Texels

__all__ = ["read_map"]

_CACHE_BYTES = 256 * 1024 * 1024
_kept: OrderedDict[str, Texels] = OrderedDict()
_lock = threading.Lock()
_decoding: dict[str, threading.Lock] = {}


def read_map(placement: Placement, applied: bool = True) -> Texels:
    """A placement's map, with its recipe or without. Raises TexelError."""
    key = f"{map_digest(placement, applied)}-{placement.role}"
    with _lock:
        mine = _decoding.setdefault(key, threading.Lock())
    # Tiles of one map are asked for at the same time: the first one decodes, the others wait for it.
    with mine:
        with _lock:
            if key in _kept:
                _kept.move_to_end(key)
                return _kept[key]
        try:
            texels = _decode(placement, applied)
        finally:
            with _lock:
                _decoding.pop(key, None)
        with _lock:
            _kept[key] = texels
            while len(_kept) > 1 and sum(t.pixels.nbytes for t in _kept.values()) > _CACHE_BYTES:
                _kept.popitem(last=False)
    return texels


def _decode(placement: Placement, applied: bool) -> Texels:
    path = placement.file.path
    with store.local_copies() as copies:
        if not placement.role:
            return library_of({path: placement}, copies).texels(path, placement.layer or None)
        ref, files = linked_ref(placement)
        library = library_of(files, copies)
        return library.map(ref) if applied else library.source(ref)
