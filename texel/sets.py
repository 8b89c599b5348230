"""Texture sets: which file, or which channel of a file, serves as which map. An open document (schema "sets")."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from texel.atlas.regions import Region, regions_of
from texel.errors import BadDocument
from texel.licences import UNTOLD, Licence
from texel.recipes import others_of
from texel.roles import Role
from texel.schemas import check_document
from texel.wording import Reasons, reason_fields

__all__ = ["MapRef", "TextureSet", "file_keys", "parse_sets", "sets_document"]


@dataclass(frozen=True)
class MapRef:
    """One map of a set.

    file: path relative to the folder taken in, with "/". channel: letter in a packed file, None for the whole file.
    confidence: 0 to 1 that the role is right; why: the reason in words, see
    texel.wording.because. recipe: steps applied to it, see texel.recipes.
    layer: which picture of a file that holds several (OpenEXR), None for the first.
    dependencies: the other maps of the set that the recipe reads, by name; filled in by TextureSet.linked.
    """

    role: Role
    file: str
    channel: str | None = None
    confidence: float = 1.0
    why: str = ""
    recipe: tuple[dict[str, Any], ...] = ()
    layer: str | None = None
    dependencies: tuple[tuple[str, MapRef], ...] = field(default=(), compare=False)

    def document(self) -> dict[str, Any]:
        written: dict[str, Any] = {
            "role": self.role.value,
            "file": self.file,
            "channel": self.channel,
            "confidence": round(self.confidence, 3),
            **{key: value for key, value in reason_fields(self.why).items() if value or key == "why"},
        }
        if self.layer is not None:
            written["layer"] = self.layer
        return written | {"recipe": list(self.recipe)} if self.recipe else written


@dataclass(frozen=True)
class TextureSet:
    """The maps of one surface. Several maps may have one role (both green directions, say): the first is in use.

    regions: named parts of its maps, see texel.atlas.regions.
    """

    name: str
    maps: tuple[MapRef, ...] = field(default_factory=tuple)
    licence: Licence = UNTOLD
    regions: tuple[Region, ...] = ()

    def in_use(self) -> dict[Role, MapRef]:
        """Each role's map in use, linked. Raises BadDocument when two maps' recipes read each other."""
        by_role: dict[Role, MapRef] = {}
        for ref in self.linked().maps:
            by_role.setdefault(ref.role, ref)
        return by_role

    def linked(self) -> TextureSet:
        """The set with the other maps that recipes read put beside them. Raises BadDocument for a circle."""
        if not any(ref.recipe for ref in self.maps):
            return self
        return replace(self, maps=tuple(self._link(ref, ()) for ref in self.maps))

    def _link(self, ref: MapRef, above: tuple[MapRef, ...]) -> MapRef:
        names = others_of(ref.recipe)
        if not names:
            return ref
        if any(ref is one for one in above):
            circle = " reads ".join(one.role.value for one in (*above, ref))
            raise BadDocument("{what}: recipes read each other in a circle ({circle})", what=self.name, circle=circle)
        dependencies = []
        for name in names:
            other = self._named(name, ref)
            if other is not None:
                dependencies.append((name, self._link(other, (*above, ref))))
        return replace(ref, dependencies=tuple(dependencies))

    def _named(self, name: str, asking: MapRef) -> MapRef | None:
        """The map called ``name``: a role, or role/2 for its second map. Never the one that asks."""
        role, _, number = name.partition("/")
        same = [ref for ref in self.maps if ref.role.value == role]
        at = int(number or 1) - 1
        if at >= len(same):
            return None
        # Asked for itself as the second map: the detail was put first, so the base is meant.
        return same[at] if same[at] is not asking else (same[0] if at else None)

    def untouched(self) -> TextureSet:
        """The set before any step: maps without their recipes; one that was made from another map's file is not there.

        A map is made from another's where it has a recipe and shares file, channel and layer with one of another role.
        """
        roles: dict[tuple[str, str | None, str | None], set[Role]] = {}
        for ref in self.maps:
            roles.setdefault((ref.file, ref.channel, ref.layer), set()).add(ref.role)
        kept = (ref for ref in self.maps if not ref.recipe or len(roles[ref.file, ref.channel, ref.layer]) == 1)
        return replace(self, maps=tuple(replace(ref, recipe=()) for ref in kept))

    def with_map(self, ref: MapRef) -> TextureSet:
        return replace(self, maps=(*self.maps, ref))

    def document(self) -> dict[str, Any]:
        told = {"licence": self.licence.document()} if self.licence.name else {}
        regions = {"regions": [one.document() for one in self.regions]} if self.regions else {}
        return {"name": self.name, **told, **regions, "maps": [ref.document() for ref in self.maps]}


def sets_document(sets: Iterable[TextureSet]) -> dict[str, Any]:
    """The document that parse_sets reads."""
    return {"format": "fair-texel/sets", "version": 1, "sets": [s.document() for s in sets]}


def parse_sets(document: Any, where: str = "the sets") -> list[TextureSet]:
    """Sets from their JSON document. Raises BadDocument."""
    check_document(document, "sets", where)
    return [
        TextureSet(
            entry["name"],
            tuple(
                MapRef(
                    Role(m["role"]),
                    m["file"],
                    m.get("channel"),
                    m.get("confidence", 1.0),
                    Reasons.of(m.get("why", ""), m.get("said", ())),
                    tuple(m.get("recipe", ())),
                    m.get("layer"),
                )
                for m in entry["maps"]
            ),
            Licence(**entry["licence"]) if "licence" in entry else UNTOLD,
            regions_of(entry.get("regions", ()), f"{where}, {entry['name']}"),
        )
        for entry in document["sets"]
    ]


def file_keys(files: Iterable[tuple[str, str]]) -> list[str]:
    """What a library calls each of some files, given as path and digest: its path; files of equal paths and different
    contents are told apart by their digests.

    >>> file_keys([("a.png", "11" * 32), ("a.png", "22" * 32), ("a.png", "11" * 32)])
    ['a.png', '22222222/a.png', 'a.png']
    """
    contents: dict[str, str] = {}
    keys = []
    for path, digest in files:
        known = contents.setdefault(path, digest)
        keys.append(path if known == digest else f"{digest[:8]}/{path}")
    return keys
