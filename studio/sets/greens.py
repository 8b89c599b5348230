"""Measured directions of normal maps, kept in the store by what they were measured on."""

from __future__ import annotations

import json
from collections.abc import Callable

from studio import store
from texel.delivery.plan import measured_green
from texel.errors import TexelError
from texel.library import Library, map_digest
from texel.roles import Green, Role
from texel.sets import MapRef
from texel.sets import TextureSet as CoreSet

__all__ = ["known_greens", "remember_green", "remembered_green"]


def _normal_of(one: CoreSet) -> MapRef | None:
    try:
        return one.in_use().get(Role.NORMAL)
    except TexelError:
        return None  # the checks have said so


def remember_green(one: CoreSet, library: Library) -> None:
    ref = _normal_of(one)
    if ref is None:
        return
    try:
        key = library.map_digest(ref)
        store.cached("green", key, lambda: json.dumps(measured_green(library, ref)).encode())
    except (TexelError, OSError):
        return  # the checks have said so


def remembered_green(one: CoreSet, file_digest: Callable[[str], str]) -> tuple[Green, str] | None:
    """The direction of a set's normal map and how it is known; None where it was not measured yet. file_digest: of a
    map's file, by the name that the set calls it."""
    ref = _normal_of(one)
    data = store.read_bytes("green", map_digest(ref, file_digest)) if ref is not None else None
    if data is None:
        return None
    green, how = json.loads(data)
    return Green(green), how


def known_greens(sets: list[CoreSet], library: Library) -> dict[str, tuple[Green, str]]:
    """Directions already measured, by digest of the map, as texel.delivery.plan_delivery takes them."""
    greens = {}
    for one in sets:
        ref = _normal_of(one)
        if ref is None or ref.file not in library:
            continue
        green = remembered_green(one, library.digest)
        if green is not None:
            greens[library.map_digest(ref)] = green
    return greens
