"""Materials read from another format, put into the library and cast in a project at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import PurePath
from typing import Any

from django.db import transaction

from studio.changes.engine import change
from studio.changes.kinds import free_name_in
from studio.materials import library
from studio.materials.casts import Fills
from studio.materials.models import Adoption, Cast, Master
from studio.projects.models import Project
from studio.sets.models import Placement
from texel.document_types import MasterDocument, ParameterValue
from texel.errors import BadDocument
from texel.materials import Master as Sheet
from texel.materials import checked_changes, parse_master
from texel.materials.filling import slot_roles
from texel.roles import Role
from texel.tiles import ANY

__all__ = ["ReadCast", "TakenIn", "take_in"]

_MAX_CASTS = 200


@dataclass(frozen=True)
class ReadCast:
    """A cast as it was read. changes: values as documents hold them. files: names of what fills its slots."""

    name: str
    changes: Mapping[str, ParameterValue] = field(default_factory=dict)
    files: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class TakenIn:
    """casts: in the order given. unfilled: cast, slot and file where no set of the project holds such a file."""

    master: Master
    casts: list[Cast]
    unfilled: list[tuple[str, str, str]]


def take_in(project: Project, document: MasterDocument, casts: Sequence[ReadCast], note: str, by: Any) -> TakenIn:
    """A new master with a first version, adopted, and its casts; slots are filled from sets that hold files of the same
    names. The casts and the adoption can be undone as one, the master stays in the library.

    Raises BadDocument and Conflict for what cannot be kept; then nothing is.
    """
    if len(casts) > _MAX_CASTS:
        raise BadDocument("at most {max_casts} casts are taken in at once", max_casts=_MAX_CASTS)
    sheet = parse_master(document, "the master")
    for one in casts:
        checked_changes(sheet, one.changes, one.name)
        unknown = set(one.files) - set(sheet.slots)
        if unknown:
            raise BadDocument("{one}: {title} has no slot {min}", one=one.name, title=sheet.title, min=min(unknown))
    with transaction.atomic():
        master = library.create_master(document, by)
        version = library.publish(master.name, note, by)
        made, unfilled = [], []
        with change(project, by, f"Read {sheet.title}") as doing:
            doing.create(Adoption, project=project, master=master, version=version)
            for one in casts:
                slots, left = _filled(project, sheet, one.files)
                cast = doing.create(
                    Cast, project=project, master=master, name=free_name_in(project.casts, one.name, "Cast"), by=by,
                    changes=dict(one.changes), slots=slots,
                )  # fmt: skip
                made.append(cast)
                unfilled += [(cast.name, slot, file) for slot, file in left.items()]
    return TakenIn(master, made, unfilled)


def _filled(project: Project, sheet: Sheet, files: Mapping[str, str]) -> tuple[Fills, dict[str, str]]:
    """Slot bindings from the sets that hold files of these names, and what no set holds."""
    fills: Fills = {}
    left: dict[str, str] = {}
    for slot, file in files.items():
        roles = slot_roles(sheet.slots[slot])
        name = PurePath(file.replace("\\", "/")).name
        if not name:
            left[slot] = file
            continue
        # Of a surface in tiles any of them stands for all.
        before, _, after = name.partition(ANY)
        like = {"file__path__icontains": before, "file__path__iendswith": after or name}
        rows = project.placements.filter(set__isnull=False, **like).order_by("order", "pk")
        same = [row for row in rows.select_related("file") if _called(row, name)]
        row = next((one for one in same if one.role in roles), same[0] if same else None)
        if row is None:
            left[slot] = file
        elif row.set_id is not None and row.role in roles:
            fills[slot] = {"set": row.set_id}
        elif row.set_id is not None:
            # The document feeds it so; what is wrong with that, the cast says.
            fills[slot] = {"set": row.set_id, "role": Role(row.role).value}
    return fills, left


def _called(row: Placement, name: str) -> bool:
    own = PurePath(row.file.path).name.lower()
    before, number, after = name.lower().partition(ANY.lower())
    if not number:
        return own == name.lower()
    return own.startswith(before) and own.endswith(after) and own[len(before) : len(own) - len(after)].isdigit()
