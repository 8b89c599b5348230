"""The masters that a project uses as text: the version that it took, with its sheet."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.materials.keepers import may_make_masters
from studio.materials.library import adoptions_of, carry_casts, sheet_of
from studio.materials.models import Adoption, Master, MasterVersion
from studio.projects.models import Membership, Project
from studio.text.kinds import Document, Documents, TextKind, register
from texel.materials import parse_master

__all__: list[str] = []


def _read(project: Project) -> Documents:
    return {
        one.master.name: {
            "format": "fair-texel/project-master", "version": 1, "name": one.master.name,
            "number": one.version.number, "pinned": one.pinned, "sheet": sheet_of(one.version).document,
        }
        for one in adoptions_of(project)
    }  # fmt: skip


def _write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
    for name, document in documents.items():
        version = _version(doing, name, document)
        pinned = bool(document.get("pinned", False))
        before = doing.project.adoptions.filter(master=version.master).select_related("version", "master").first()
        if before is None:
            doing.create(Adoption, project=doing.project, master=version.master, version=version, pinned=pinned)
            continue
        if before.version_id != version.pk:
            carry_casts(doing, version, {})
        doing.update(before, version_id=version.pk, pinned=pinned)


def _version(doing: Doing, name: str, document: Mapping[str, Any]) -> MasterVersion:
    """The version in the library, put there where a keeper of the library brings it. Raises Conflict, BadDocument."""
    sheet = parse_master(document["sheet"], f"masters/{name}")
    if sheet.name != name:
        raise Conflict("masters/{name} holds the sheet of {other}", name=name, other=sheet.name)
    number = [int(part) for part in document["number"].split(".")]
    master = Master.objects.filter(name=name).first()
    numbered = dict(zip(("major", "minor", "patch"), number, strict=True))
    found = master.versions.filter(**numbered).first() if master is not None else None
    if found is not None:
        if found.document != document["sheet"]:
            raise Conflict(
                "the library has another version {number} of {title}; publish the changed sheet as a new version",
                number=found.number, title=sheet.title,
            )  # fmt: skip
        return found
    if not may_make_masters(doing.by):
        raise Conflict(
            "the library has no version {number} of {title}; a library keeper has to publish it first",
            number=document["number"], title=sheet.title,
        )  # fmt: skip
    if master is None:
        master = Master.objects.create(name=name, title=sheet.title, by=doing.by)
        master.keepers.add(doing.by)
    return MasterVersion.objects.create(
        master=master, **numbered, document=document["sheet"], note=f"Brought with {doing.project.name}", by=doing.by
    )


def _remove(doing: Doing, names: set[str]) -> None:
    for row in doing.project.adoptions.select_related("master").filter(master__name__in=names):
        used = list(doing.project.casts.filter(master=row.master).values_list("name", flat=True)[:3])
        if used:
            raise Conflict("{listed} are of the master {title}", listed=", ".join(used), title=row.master.title)
        doing.delete(row)


def _right(before: Document | None, after: Document | None) -> str:
    """Another version is taken by whoever sets the rules; a master that the project did not use yet by everybody who
    may prepare, as with the first cast of it."""
    return Membership.Right.PREPARE if before is None else Membership.Right.RULES


register(TextKind("masters", _read, _write, _remove, _right))
