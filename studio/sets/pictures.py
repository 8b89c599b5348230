"""Pictures of placements, made by the core and found again by what they show."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from studio import store
from studio.sets.documents import linked_ref
from studio.sets.models import Placement, TextureSet
from texel import digest
from texel.delivery import PlannedFile, Target
from texel.delivery.build import build_map, packed_texels
from texel.errors import BadDocument
from texel.image import Texels
from texel.library import Library, layer_digest
from texel.library import map_digest as map_digest_of
from texel.pictures import View, picture
from texel.recipes import others_of, recipe_digest

__all__ = ["PRINT_SIDE", "map_digest", "packed_file", "packed_picture", "render", "tried_picture", "tried_texels"]

# Longest side of a print on the roll, in texels; twice its size on the screen.
PRINT_SIDE = 192
# Part of every picture's name: raise it when the same map would be drawn otherwise than before.
_MADE = 3


def map_digest(placement: Placement, applied: bool = True) -> str:
    """Names a map by its source and recipe and what that reads, or by its source alone."""
    recipe = placement.recipe if applied else []
    if others_of(recipe):
        try:
            ref, files = linked_ref(placement)
            return map_digest_of(ref, lambda file: files[file].file.source_id or "")
        except BadDocument:
            pass  # the checks say what is wrong with it
    source = layer_digest(placement.file.source_id or "", placement.layer or None)
    return recipe_digest(source, placement.channel or None, recipe)


def render(placement: Placement, view: View, texels: Callable[[], Texels], applied: bool = True) -> bytes:
    """The PNG of a placement; ``texels`` is called only when it was not made before. Raises TexelError."""
    key = digest.of_document(
        {
            "made": _MADE,
            "map": map_digest(placement, applied),
            "role": placement.role,
            "side": view.side,
            "channel": view.channel,
            "box": view.box,
        }
    )
    return store.cached("picture", key, lambda: picture(texels(), view))


def packed_picture(
    one: TextureSet, target: Target, path: str, view: View, untouched: bool = False
) -> tuple[bytes, str]:
    """The PNG of one output that ``target`` makes of a set, and the digest of its plan. Raises BadDocument when it
    writes no such path.

    untouched: of the set as it was before any step.
    """
    with _planned(one, target, path, untouched=untouched) as (planned, library):
        key = digest.of_document({"made": _MADE, "plan": planned.digest(), "side": view.side, "channel": view.channel})
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
        key = digest.of_document({"made": _MADE, "plan": planned.digest(), "side": view.side, "channel": view.channel})
        return store.cached("picture", key, lambda: picture(packed_texels(planned, library), view))


@contextmanager
def _planned(
    one: TextureSet, target: Target, path: str | None = None, output: str | None = None, untouched: bool = False
) -> Iterator[tuple[PlannedFile, Library]]:
    from studio.deliveries.build import plan_for

    with store.local_copies() as copies:
        plan, library = plan_for(one.project, [one], target, copies, untouched=untouched)
        maps = [planned for planned in plan.files if planned.layout is not None]
        planned = next((f for f in maps if f.path == path or (path is None and f.output == output)), None)
        if planned is None:
            reason = "; ".join(plan.problems) or f"{target.name} writes no {path or output} of {one.name}"
            raise BadDocument(reason)
        yield planned, library
