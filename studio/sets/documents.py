"""Rows to the core's documents: sets with their maps, and a library of their files."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from django.conf import settings

from studio.intake.models import SourceFile
from studio.sets.models import Placement, TextureSet
from studio.store import Copies, Fetched
from texel.atlas.regions import regions_of
from texel.files import Layer, Probe
from texel.library import Library
from texel.licences import Licence
from texel.recipes import others_of
from texel.roles import Role
from texel.sets import MapRef, file_keys
from texel.sets import TextureSet as CoreSet
from texel.wording import Reasons

__all__ = ["core_sets", "library_of", "linked_ref", "map_ref"]


def map_ref(placement: Placement, key: str) -> MapRef:
    return MapRef(
        Role(placement.role),
        key,
        placement.channel or None,
        placement.confidence,
        Reasons.of(placement.why, placement.said),
        tuple(placement.recipe),
        placement.layer or None,
    )


def _by_order(one: TextureSet) -> Sequence[Placement]:
    return sorted(one.placements.all(), key=lambda p: (p.order, p.pk))


def _keys(placements: Iterable[Placement]) -> dict[int, str]:
    """What a library calls the file of each placement."""
    rows = list(placements)
    keys = file_keys((row.file.path, row.file.source_id or "") for row in rows)
    return {row.pk: key for row, key in zip(rows, keys, strict=True)}


def core_sets(sets: Iterable[TextureSet]) -> tuple[list[CoreSet], dict[str, Placement]]:
    """The core's sets, and a placement for each file key. Prefetch placements__file__source first."""
    rows = list(sets)
    keys = _keys(p for one in rows for p in _by_order(one))
    core, files = [], {}
    for one in rows:
        placements = _by_order(one)
        licence = Licence(one.licence, one.credit)
        maps = tuple(map_ref(p, keys[p.pk]) for p in placements)
        core.append(CoreSet(one.name, maps, licence, regions_of(one.regions)))
        files.update({keys[p.pk]: p for p in placements})
    return core, files


def roles_in(one: TextureSet) -> set[Role]:
    """The roles that a set's maps have. Prefetch placements first."""
    return {Role(row.role) for row in one.placements.all() if row.role}


def linked_ref(placement: Placement) -> tuple[MapRef, dict[str, Placement]]:
    """The core's reference to a map with what its recipe reads beside it, and a placement for each file key.

    Raises BadDocument when recipes read each other in a circle.
    """
    if placement.set_id is None or not others_of(placement.recipe):
        path = placement.file.path
        return map_ref(placement, path), {path: placement}
    one = TextureSet.objects.prefetch_related("placements__file__source").get(pk=placement.set_id)
    sets, files = core_sets([one])
    rows = _by_order(one)
    at = next(index for index, row in enumerate(rows) if row.pk == placement.pk)
    # The placement at hand may carry a role and a recipe that are not kept yet.
    maps = list(sets[0].maps)
    maps[at] = replace(maps[at], role=Role(placement.role), recipe=tuple(placement.recipe))
    return CoreSet(one.name, tuple(maps)).linked().maps[at], files


def library_of(files: dict[str, Placement], copies: Copies, others: Mapping[str, str] | None = None) -> Library:
    """A library of the files behind placements: digests and headers known, contents fetched when asked for.

    others: digests of other files by name, which are no pictures.
    """
    sources = {key: p.file.source for key, p in files.items() if p.file.source is not None}
    digests = {**{key: source.pk for key, source in sources.items()}, **(others or {})}
    probes = {key: probe_of(source) for key, source in sources.items() if source.probe}
    return Library(Fetched(digests, copies), settings.PICTURE_LIMITS, digests, probes)


def probe_of(source: SourceFile) -> Probe:
    """The core's probe of a source, as it was kept. Colour tags are read again when the file is decoded."""
    kept = source.probe or {}
    return Probe(
        kept["container"], kept["width"], kept["height"], kept["channels"], kept["bits"], source.bytes,
        lossy=kept["lossy"], layers=tuple(Layer.of(one) for one in kept.get("layers", ())),
        format=kept.get("format", ""),
    )  # fmt: skip
