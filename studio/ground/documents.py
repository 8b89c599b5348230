"""A patch of ground as a document (schema ground), and all that its layers wear, as the core takes them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any, NamedTuple, cast

from studio import store
from studio.deliveries.ordered import OrderedCast
from studio.ground.models import Ground, GroundStroke, LayerRow
from studio.materials.delivering import orders_of
from studio.projects.models import Project
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens
from studio.sets.models import TextureSet
from texel.delivery.target import Target, target_named
from texel.digest import of_document
from texel.document_types import GroundDocument, GroundLayer
from texel.errors import BadDocument
from texel.image import Texels
from texel.library import Library
from texel.roles import Green
from texel.sets import TextureSet as CoreSet

__all__ = [
    "Opened", "Standing", "Worn", "document_of", "height_digest", "height_file", "height_picture", "laid_key",
    "land_key", "standing_of", "standings", "with_library",
]  # fmt: skip

# What tiles are drawn for: maps of all sizes, normals Y+.
_DRAWN_FOR = "metal-rough-gloss-y-plus"


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
            cast(Any, row | {"layer": called[row["layer"]]}) for row in rows if row["layer"] in called
        ]
    return document


def land_key(ground: Ground) -> str:
    """What the heights of a patch depend on, as a digest."""
    return of_document([ground.metres, ground.side, ground.shape, ground.height_id])


def laid_key(ground: Ground, strokes: Sequence[int] | None = None) -> str:
    """What the weights of a patch depend on, as a digest. strokes: their ids, in the order of painting, where they are
    known already."""
    rules = [[one["key"], one["rule"]] for one in ground.layers]
    ids = list(ground.strokes.values_list("pk", flat=True)) if strokes is None else list(strokes)
    return of_document([land_key(ground), rules, ids])


class Standing(NamedTuple):
    """A patch with what its layers wear now, None for a layer that wears nothing. strokes: ids of what was painted."""

    ground: Ground
    worn: list[Worn | None]
    strokes: Sequence[int] = ()

    @property
    def laid(self) -> str:
        """What the weights of the patch depend on, as a digest."""
        return laid_key(self.ground, self.strokes)

    @property
    def sets(self) -> set[int]:
        return {pk for one in self.worn if one for pk in one.sets}

    def key(self, **how: object) -> str:
        """What a picture of the whole patch depends on, as a digest."""
        laid = [[one["tile"], one["turn"], one["repeat"], one["edge"]] for one in self.ground.layers]
        return of_document([self.laid, laid, [one.state if one else "" for one in self.worn], how])


def standings(project: Project, grounds: Iterable[Ground]) -> list[Standing]:
    """Patches with what their layers wear, in a few queries for all of them. Raises BadDocument for a cast that does
    not fit its master."""
    rows = list(grounds)
    orders = orders_of(project, [one["wears"] for row in rows for one in row.layers if one["wears"]], relief=True)
    wanted = {pk for one in orders.values() for pk in one.sets}
    revisions = dict(TextureSet.objects.filter(pk__in=wanted).values_list("pk", "revision"))
    worn = {
        key: Worn(one.order, one.sets, of_document([one.order, [[pk, revisions[pk]] for pk in sorted(one.sets)]]))
        for key, one in orders.items()
    }

    def of(layer: LayerRow) -> Worn | None:
        wears = layer["wears"]
        return worn.get((wears["kind"], wears["id"])) if wears else None

    strokes: dict[int, list[int]] = defaultdict(list)
    painted = GroundStroke.objects.filter(ground__in=rows).order_by("pk").values_list("ground_id", "pk")
    for ground, pk in painted:
        strokes[ground].append(pk)
    return [Standing(row, [of(layer) for layer in row.layers], strokes[row.pk]) for row in rows]


def standing_of(ground: Ground) -> Standing:
    """Raises BadDocument."""
    return standings(ground.project, [ground])[0]


class Opened(NamedTuple):
    """What the core needs to read maps. sets: by name."""

    library: Library
    sets: dict[str, CoreSet]
    greens: dict[str, tuple[Green, str]]
    target: Target


@contextmanager
def with_library(standing: Standing) -> Iterator[Opened]:
    """The files of all that a patch wears, for as long as the context lasts."""
    rows = standing.ground.project.sets.prefetch_related("placements__file__source").filter(pk__in=standing.sets)
    cores, files = core_sets(rows)
    with store.local_copies() as copies:
        library = library_of(files, copies)
        yield Opened(
            library, {one.name: one for one in cores}, known_greens(cores, library), target_named(_DRAWN_FOR)
        )  # fmt: skip


def height_digest(ground: Ground) -> str:
    """The digest of a patch's height map. Raises BadDocument where that is gone."""
    if ground.height_id is None:
        raise BadDocument("{ground}: its height map is gone; give it another", ground=ground.name)
    return ground.height_id


@contextmanager
def height_picture(ground: Ground) -> Iterator[Texels | None]:
    """The height map of a patch, None where its shape is made. Raises TexelError."""
    name = height_file(ground)
    if not name:
        yield None
        return
    with store.local_copies() as copies:
        yield library_of({}, copies, {name: height_digest(ground)}).texels(name)
