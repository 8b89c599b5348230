"""A patch of ground as a document (schema ground), and all that its layers wear, as the core takes them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, NamedTuple, cast

from studio import store
from studio.deliveries.ordered import OrderedCast
from studio.ground.models import Ground, LayerRow, LayerWears
from studio.materials.delivering import cast_to_deliver
from studio.projects.models import Project
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens
from studio.sets.models import TextureSet
from texel.delivery.target import Target, target_named
from texel.digest import of_document
from texel.document_types import GroundDocument, GroundLayer, GroundStroke
from texel.errors import BadDocument
from texel.ground.delivered import ground_sheet
from texel.library import Library
from texel.roles import Green, Role
from texel.sets import TextureSet as CoreSet

__all__ = ["Standing", "Worn", "document_of", "height_file", "laid_key", "land_key", "standing_of", "with_library"]


class Worn(NamedTuple):
    """What a layer wears, as it is ordered. sets: ids of those that fill it. state: changes with all of it."""

    order: OrderedCast
    sets: frozenset[int]
    state: str


def height_file(ground: Ground) -> str:
    """What the library calls the height map of a patch; "" where its shape is made."""
    return f"ground/{ground.height_id}/{ground.shape.get('map', '')}" if ground.shape.get("kind") == "map" else ""


def _names(project: Project, layers: list[LayerRow]) -> dict[tuple[str, int], str]:
    wears = [one["wears"] for one in layers if one["wears"]]
    ids = {kind: [one["id"] for one in wears if one["kind"] == kind] for kind in ("cast", "set")}
    casts = project.casts.filter(pk__in=ids["cast"]).values_list("pk", "name")
    sets = project.sets.filter(pk__in=ids["set"]).values_list("pk", "name")
    return {("cast", pk): name for pk, name in casts} | {("set", pk): name for pk, name in sets}


def document_of(ground: Ground, strokes: bool = True) -> GroundDocument:
    """The document of a patch. strokes: with what was painted."""
    layers = ground.layers
    called = {one["key"]: one["name"] for one in layers}
    names = _names(ground.project, layers)
    made: list[GroundLayer] = []
    for one in layers:
        terms = [term | ({"of": called.get(term["of"], "")} if "of" in term else {}) for term in one["rule"]]
        layer: GroundLayer = {
            "name": one["name"], "tile": one["tile"], "turn": one["turn"], "repeat": cast(Any, one["repeat"]),
            "edge": one["edge"], "rule": cast(Any, terms),
        }  # fmt: skip
        worn = one["wears"]
        if worn and (name := names.get((worn["kind"], worn["id"]))):
            layer["wears"] = name
        made.append(layer)
    document: GroundDocument = {
        "format": "fair-texel/ground", "version": 1, "name": ground.name, "metres": ground.metres,
        "side": cast(Any, ground.side), "far": cast(Any, ground.far), "shape": ground.shape,
        "weights": {"each": cast(Any, ground.each), "bits": cast(Any, ground.bits)}, "layers": made,
    }  # fmt: skip
    if strokes:
        rows = ground.strokes.values_list("stroke", flat=True)
        document["strokes"] = [
            cast(GroundStroke, row | {"layer": called[row["layer"]]}) for row in rows if row["layer"] in called
        ]
    return document


def land_key(ground: Ground) -> str:
    """What the heights of a patch depend on, as a digest."""
    return of_document([ground.metres, ground.side, ground.shape, ground.height_id])


def laid_key(ground: Ground) -> str:
    """What the weights of a patch depend on, as a digest."""
    rules = [[one["key"], one["rule"]] for one in ground.layers]
    strokes = list(ground.strokes.values_list("pk", flat=True))
    return of_document([land_key(ground), rules, strokes])


def worn_by(project: Project, wears: LayerWears | None) -> Worn | None:
    """None where nothing is worn, or what was worn is gone. Raises BadDocument for a cast that does not fit its
    master."""
    if wears is None:
        return None
    if wears["kind"] == "cast":
        row = project.casts.select_related("master", "project", "parent").filter(pk=wears["id"]).first()
        if row is None:
            return None
        order, used = cast_to_deliver(row)
        sets = frozenset(used)
    else:
        one = project.sets.prefetch_related("placements").filter(pk=wears["id"]).first()
        if one is None:
            return None
        master = ground_sheet([Role(row.role) for row in one.placements.all() if row.role])
        slots = {slot["name"]: {"set": one.name} for slot in master.get("slots", [])}
        order = {"name": one.name, "master": cast(Any, master), "changes": {}, "slots": slots}
        sets = frozenset([one.pk])
    revisions = sorted(TextureSet.objects.filter(pk__in=sets).values_list("pk", "revision"))
    return Worn(order, sets, of_document([order, [list(one) for one in revisions]]))


class Standing(NamedTuple):
    """A patch with what its layers wear now; None for a layer that wears nothing."""

    ground: Ground
    worn: list[Worn | None]

    @property
    def sets(self) -> set[int]:
        return {pk for one in self.worn if one for pk in one.sets}

    def key(self, **how: object) -> str:
        """What a picture of the whole patch depends on, as a digest."""
        laid = [[one["tile"], one["turn"], one["repeat"], one["edge"]] for one in self.ground.layers]
        return of_document([laid_key(self.ground), laid, [one.state if one else "" for one in self.worn], how])


def standing_of(ground: Ground) -> Standing:
    """Raises BadDocument."""
    return Standing(ground, [worn_by(ground.project, one["wears"]) for one in ground.layers])


class Opened(NamedTuple):
    """What the core needs to read maps. sets: by name."""

    library: Library
    sets: dict[str, CoreSet]
    greens: dict[str, tuple[Green, str]]
    target: Target


@contextmanager
def with_library(standing: Standing) -> Iterator[Opened]:
    """The files of all that a patch wears, for as long as the context lasts. Raises BadDocument."""
    ground = standing.ground
    rows = ground.project.sets.prefetch_related("placements__file__source").filter(pk__in=standing.sets)
    cores, files = core_sets(rows)
    heights = height_file(ground)
    if heights and ground.height_id is None:
        raise BadDocument(f"{ground.name}: its height map is gone; give it another")
    with store.local_copies() as copies:
        library = library_of(files, copies, {heights: ground.height_id} if heights and ground.height_id else {})
        yield Opened(
            library, {one.name: one for one in cores}, known_greens(cores, library),
            target_named("metal-rough-gloss-y-plus"),
        )  # fmt: skip
