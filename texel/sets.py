"""Texture sets: which file, or which channel of a file, serves as which map. An open document (schema "sets")."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from texel.roles import Role
from texel.schemas import check_document

__all__ = ["MapRef", "TextureSet", "parse_sets", "sets_document"]


@dataclass(frozen=True)
class MapRef:
    """One map of a set.

    file: path relative to the folder taken in, with "/". channel: letter in a packed file, None for the whole file.
    confidence: 0 to 1 that the role is right; why: the reason in words. recipe: steps applied to it, see texel.recipes.
    """

    role: Role
    file: str
    channel: str | None = None
    confidence: float = 1.0
    why: str = ""
    recipe: tuple[dict[str, Any], ...] = ()

    def document(self) -> dict[str, Any]:
        found: dict[str, Any] = {
            "role": self.role.value,
            "file": self.file,
            "channel": self.channel,
            "confidence": round(self.confidence, 3),
            "why": self.why,
        }
        return found | {"recipe": list(self.recipe)} if self.recipe else found


@dataclass(frozen=True)
class TextureSet:
    """The maps of one surface. Several maps may have one role (both green directions, say): the first is in use."""

    name: str
    maps: tuple[MapRef, ...] = field(default_factory=tuple)

    def in_use(self) -> dict[Role, MapRef]:
        """Each role's map in use."""
        found: dict[Role, MapRef] = {}
        for ref in self.maps:
            found.setdefault(ref.role, ref)
        return found

    def with_map(self, ref: MapRef) -> TextureSet:
        return replace(self, maps=(*self.maps, ref))

    def document(self) -> dict[str, Any]:
        return {"name": self.name, "maps": [ref.document() for ref in self.maps]}


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
                    m.get("why", ""),
                    tuple(m.get("recipe", ())),
                )
                for m in entry["maps"]
            ),
        )
        for entry in document["sets"]
    ]
