"""Recipes tried out before they are kept: on pictures made smaller, which are kept by the content of their file."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence

from studio import store
from studio.sets.documents import library_of, linked_ref, probe_of
from studio.sets.models import Placement
from texel.digest import of_document
from texel.document_types import StepDocument
from texel.errors import UnreadableImage
from texel.files import Probe
from texel.image import Texels
from texel.library import in_role, layer_digest
from texel.pictures import View, picture
from texel.previews import dump_texels, load_texels, preview_map
from texel.recipes import shape_after
from texel.recipes.step import Shape
from texel.recipes.tileable import seams_of
from texel.resize import fitted
from texel.roles import Role
from texel.sets import MapRef

__all__ = ["PREVIEW_SIDE", "preview"]

# What a window of common size shows of a map; the whole map is computed when the steps are kept.
PREVIEW_SIDE = 768
_KEPT = 12
_recent: OrderedDict[str, tuple[Texels, float]] = OrderedDict()
_lock = threading.Lock()


def preview(placement: Placement, recipe: Sequence[StepDocument], view: View) -> tuple[bytes, Shape, dict[str, float]]:
    """The PNG of a map as ``recipe`` would leave it, what the full map would be, and its seams (seams_of); nothing is
    kept of it.

    Raises TexelError.
    """
    placement.recipe = recipe  # never saved
    ref, files = linked_ref(placement)

    def small(one: MapRef) -> tuple[Texels, float]:
        whole, scale = _small(files[one.file], one)
        return in_role(whole, one), scale

    probe = _probe(placement)
    channels = "y" if ref.channel else probe.channels
    shape = shape_after(Shape(probe.width, probe.height, channels, probe.bits), recipe)
    made = preview_map(ref, small)
    return picture(made, view), shape, seams_of(made)


def _probe(placement: Placement) -> Probe:
    source = placement.file.source
    if source is None or not source.probe:
        raise UnreadableImage(placement.file.path, "this file holds no picture")
    return probe_of(source).of_layer(placement.layer or None, placement.file.path)


def _small(placement: Placement, ref: MapRef) -> tuple[Texels, float]:
    """A file made smaller as the role asks for, and the texels it has for each of the full one."""
    layer = placement.layer or None
    # A channel taken out of a file is data, whatever role the whole would have.
    role = Role.DETAIL_MASK if ref.channel else ref.role
    digest = of_document({"file": layer_digest(placement.file.source_id or "", layer), "role": role.value})
    with _lock:
        if digest in _recent:
            _recent.move_to_end(digest)
            return _recent[digest]
    path = placement.file.path

    def make() -> bytes:
        with store.local_copies() as copies:
            whole = library_of({path: placement}, copies).texels(path, layer)
            return dump_texels(fitted(whole.as_role(role), PREVIEW_SIDE))

    small = load_texels(store.cached("reduced", digest, make), path.rsplit("/", 1)[-1])
    probe = _probe(placement)
    scale = max(small.width, small.height) / max(probe.width, probe.height)
    with _lock:
        _recent[digest] = small, scale
        while len(_recent) > _KEPT:
            _recent.popitem(last=False)
    return small, scale
