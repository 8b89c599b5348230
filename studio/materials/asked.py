"""Materials read from foreign documents, and what sets give slots: made apart."""

from __future__ import annotations

from pathlib import Path
from typing import TypedDict, cast

from django.http import Http404

from studio.apart import Made, apart
from studio.deliveries.packed import tried_picture
from studio.sets.models import TextureSet
from texel.document_types import MasterDocument, ParameterValue
from texel.materials import parse_master
from texel.materials.exchange import cast_document, read_material_bytes
from texel.materials.filling import OUTPUT, slot_target
from texel.materials.master import Slot
from texel.pictures import View
from texel.roles import Role, Transfer, role_named

__all__ = ["draw_slot", "read_foreign"]


class ReadCastDocument(TypedDict):
    """A material as it was read. files: names of what fills its slots, by slot."""

    name: str
    changes: dict[str, ParameterValue]
    files: dict[str, str]


class ReadMaster(TypedDict):
    """A master as it was read. lost: what a sheet cannot say. pictures: names of those that lie inside the file."""

    document: MasterDocument
    lost: list[str]
    pictures: list[str]
    casts: list[ReadCastDocument]


@apart
def read_foreign(path: str, name: str) -> Made:
    """said: the masters in a file, each with its casts, what of it a sheet cannot say, and the pictures inside it.

    Raises TexelError.
    """
    masters: list[ReadMaster] = []
    for one in read_material_bytes(Path(path).read_bytes(), name):
        sheet = parse_master(one.document, name)
        casts: list[ReadCastDocument] = [
            {"name": cast.name, "changes": cast_document(sheet, cast)["changes"], "files": dict(cast.files)}
            for cast in one.casts
        ]
        masters.append(
            {
                "document": cast(MasterDocument, one.document), "lost": list(one.lost),
                "pictures": sorted(one.pictures), "casts": casts,
            }
        )  # fmt: skip
    return Made(said=masters)


@apart
def draw_slot(set: int, expects: str, space: str, taken: str, side: int) -> Made:
    """The PNG of what a set gives a slot, packed and turned as the slot takes it. expects: a role or a layout."""
    rows = TextureSet.objects.select_related("project").prefetch_related("placements__file__source")
    one = rows.filter(pk=set).first()
    if one is None:
        raise Http404("There is no such set any more.")
    role = Role(expects) if expects in [each.value for each in Role] else None
    slot = Slot("map", expects, role, None if role else expects, Transfer(space), "mid", "main")
    return Made(tried_picture(one, slot_target(slot, role_named(taken) if taken else None), OUTPUT, View(side)))
