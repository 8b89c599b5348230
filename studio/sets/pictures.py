"""Pictures of placements, made by the core and found again by what they show."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from studio import store
from studio.sets.documents import linked_ref
from studio.sets.models import Placement
from texel import digest
from texel.errors import BadDocument
from texel.image import Texels
from texel.library import layer_digest
from texel.library import map_digest as map_digest_of
from texel.pictures import View, picture
from texel.recipes import others_of, recipe_digest

__all__ = ["MADE", "PRINT_SIDE", "map_digest", "picture_key", "render", "view_key"]

# Longest side of a small picture in the list of sets, in texels; twice its size on the screen.
PRINT_SIDE = 192
# Part of every picture's name: raise it when the same map would be drawn otherwise than before.
MADE = 3


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


def picture_key(placement: Placement, applied: bool = True, **shown: Any) -> str:
    """Names one picture of a placement, by what it shows and how it is made."""
    return digest.of_document(
        {"made": MADE, "map": map_digest(placement, applied), "role": placement.role, **shown}
    )  # fmt: skip


def view_key(placement: Placement, view: View, applied: bool = True) -> str:
    return picture_key(placement, applied, side=view.side, channel=view.channel, box=view.box)


def render(placement: Placement, view: View, texels: Callable[[], Texels], applied: bool = True) -> bytes:
    """The PNG of a placement; ``texels`` is called only when it was not made before. Raises TexelError."""
    return store.cached("picture", view_key(placement, view, applied), lambda: picture(texels(), view))
