"""Outputs of targets for sets: looked at, or built alone, from the pixels that would be delivered."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from studio import store
from studio.deliveries.build import plan_for
from studio.sets.models import TextureSet
from studio.sets.pictures import MADE
from texel import digest
from texel.delivery import PlannedFile, Target
from texel.delivery.build import build_map, packed_texels
from texel.errors import BadDocument
from texel.image import Texels
from texel.library import Library
from texel.pictures import View, picture

__all__ = ["packed_file", "packed_picture", "tried_picture", "tried_texels"]


def packed_picture(
    one: TextureSet, target: Target, path: str, view: View, untouched: bool = False
) -> tuple[bytes, str]:
    """The PNG of one output that ``target`` makes of a set, and the digest of its plan. Raises BadDocument when it
    writes no such path.

    untouched: of the set as it was before any step.
    """
    with _planned(one, target, path, untouched=untouched) as (planned, library):
        key = digest.of_document({"made": MADE, "plan": planned.digest(), "side": view.side, "channel": view.channel})
        data = store.cached("picture", key, lambda: picture(packed_texels(planned, library), view))
        return data, planned.digest()


def packed_file(one: TextureSet, target: Target, path: str) -> bytes:
    """The bytes of one output as it would be delivered. Raises BadDocument when ``target`` writes no such path."""
    with _planned(one, target, path) as (planned, library):
        return store.cached("built", planned.digest(), lambda: build_map(planned, library))


def tried_texels(one: TextureSet, target: Target, output: str) -> Texels:
    """All texels of one output of a target that is not kept. Raises BadDocument when the set has nothing for it."""
    with _planned(one, target, output=output) as (planned, library):
        return packed_texels(planned, library)


def tried_picture(one: TextureSet, target: Target, output: str, view: View) -> bytes:
    """The PNG of one output of a target that is not kept. Raises BadDocument when the set has nothing for it."""
    with _planned(one, target, output=output) as (planned, library):
        key = digest.of_document({"made": MADE, "plan": planned.digest(), "side": view.side, "channel": view.channel})
        return store.cached("picture", key, lambda: picture(packed_texels(planned, library), view))


@contextmanager
def _planned(
    one: TextureSet, target: Target, path: str | None = None, output: str | None = None, untouched: bool = False
) -> Iterator[tuple[PlannedFile, Library]]:
    with store.local_copies() as copies:
        plan, library = plan_for(one.project, [one], target, copies, untouched=untouched)
        maps = [planned for planned in plan.files if planned.layout is not None]
        planned = next((f for f in maps if f.path == path or (path is None and f.output == output)), None)
        if planned is None:
            reason = "; ".join(plan.problems) or f"{target.name} writes no {path or output} of {one.name}"
            raise BadDocument("{reason}", reason=reason)
        yield planned, library
