"""Measured directions of normal maps, kept in the store by what they were measured on."""

from __future__ import annotations

import json

from studio import store
from texel.delivery.plan import measured_green
from texel.errors import TexelError
from texel.library import Library
from texel.recipes import recipe_digest
from texel.roles import Green, Role
from texel.sets import TextureSet as CoreSet

__all__ = ["known_greens", "remember_green"]


def _key(library: Library, ref) -> str:
    return recipe_digest(library.digest(ref.file), ref.channel, ref.recipe)


def remember_green(one: CoreSet, library: Library) -> None:
    ref = one.in_use().get(Role.NORMAL)
    if ref is None:
        return
    try:
        store.cached("green", _key(library, ref), lambda: json.dumps(measured_green(library, ref)).encode())
    except (TexelError, OSError):
        return  # the checks have said so


def known_greens(sets: list[CoreSet], library: Library) -> dict[str, tuple[Green, str]]:
    """Directions already measured, by recipe digest, as texel.delivery.plan_delivery takes them."""
    found = {}
    for one in sets:
        ref = one.in_use().get(Role.NORMAL)
        if ref is None or ref.file not in library:
            continue
        data = store.read_bytes("green", _key(library, ref))
        if data is not None:
            green, how = json.loads(data)
            found[_key(library, ref)] = (Green(green), how)
    return found
