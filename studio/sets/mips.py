"""Mip levels of a placement for the page: the right chain and plain averaging, made together and kept."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict

from studio import store
from studio.sets.facts import ChainsOut
from studio.sets.models import Placement
from studio.sets.pictures import map_digest
from studio.sets.reading import read_map
from texel import digest
from texel.errors import BadDocument
from texel.image import Texels
from texel.mips import CUT_OFF, Chain, compare_chains, naive_chain, right_chain
from texel.pictures import View, picture
from texel.roles import Role

__all__ = ["chain_digests", "chains_document", "level_picture"]

_KEPT = 2
_recent: OrderedDict[str, tuple[Chain, Chain]] = OrderedDict()
_lock = threading.Lock()


def _normal_of(placement: Placement) -> Placement | None:
    """The set's normal map in use, which a roughness map takes lost length from."""
    if placement.role not in (Role.ROUGHNESS, Role.GLOSSINESS) or placement.set is None:
        return None
    rows = placement.set.placements.select_related("file__source", "set").filter(role=Role.NORMAL.value)
    return rows.order_by("order", "pk").first()


def chain_digests(placement: Placement) -> list[str]:
    """The digests of all maps that a chain is made of: the map, and the normal map that it takes up."""
    normal = _normal_of(placement)
    return [map_digest(one) for one in (placement, normal) if one is not None]


def _key(placement: Placement, normal: Placement | None) -> str:
    parts = {"map": map_digest(placement), "role": placement.role, "normal": map_digest(normal) if normal else None}
    return digest.of_document(parts)


def _chains(placement: Placement, normal: Placement | None, key: str) -> tuple[Chain, Chain]:
    with _lock:
        if key in _recent:
            _recent.move_to_end(key)
            return _recent[key]
    texels = read_map(placement)
    normals: Texels | None = read_map(normal) if normal else None
    chains = right_chain(texels, normals), naive_chain(texels)
    with _lock:
        _recent[key] = chains
        while len(_recent) > _KEPT:
            _recent.popitem(last=False)
    return chains


def chains_document(placement: Placement) -> ChainsOut:
    """Both chains level by level, in the measure that fits the map. Raises TexelError."""
    normal = _normal_of(placement)
    key = _key(placement, normal)

    def make() -> bytes:
        compared = compare_chains(*_chains(placement, normal, key), CUT_OFF)
        return json.dumps({**compared, "normals": bool(normal)}).encode()

    made: ChainsOut = json.loads(store.cached("mips", key, make))
    return made


def level_picture(placement: Placement, level: int, naive: bool, channel: str | None) -> bytes:
    """The PNG of one level of a chain. Raises TexelError, BadDocument for a level that is not there."""
    normal = _normal_of(placement)
    key = _key(placement, normal)
    shown = digest.of_document({"chains": key, "level": level, "naive": naive, "channel": channel})

    def make() -> bytes:
        chain = _chains(placement, normal, key)[1 if naive else 0]
        if not 0 <= level < len(chain):
            raise BadDocument("this map has the levels 0 to {count}", count=len(chain) - 1)
        return picture(chain[level], View(channel=channel))

    return store.cached("picture", shown, make)
