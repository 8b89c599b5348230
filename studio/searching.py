"""Search over everything that a person may see: by parts of names, and by what they may have meant."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from django.contrib.postgres.search import TrigramWordSimilarity
from django.db import connection, transaction
from django.db.models import Q, QuerySet
from django.db.models.functions import Length

from studio.ground.models import Ground
from studio.intake.models import IntakeFile
from studio.materials.models import Cast, Function, Master, MasterVersion
from studio.meshes.models import Mesh
from studio.projects.models import Project
from studio.sets.models import TextureSet

__all__ = ["KINDS", "Found", "search"]

# Rows of one kind that are told, and the least that a name must have in common with a word that nothing contains.
_EACH, _ALIKE = 12, 0.4
_MAX_WORDS, _LONGEST, _SHORTEST = 6, 60, 2


@dataclass(frozen=True)
class Found:
    """kind: of KINDS. slug: of its project, "" for what all share. key: its id, or the name of a master or function.
    detail: what tells it from others. at: of a file the map that is made of it; of a parameter its name."""

    kind: str
    name: str
    detail: str
    slug: str
    key: str
    at: str = ""


@dataclass(frozen=True)
class _Kind:
    """field: that is searched. rows: of some projects. told: a row as it is told."""

    field: str
    rows: Callable[[list[int]], QuerySet[Any]]
    told: Callable[[Any], Found]


def _of_file(row: IntakeFile) -> Found:
    placed = next(iter(row.placements.all()), None)
    one = placed.set if placed is not None else None
    slug = row.intake.project.slug
    if placed is None or one is None:
        return Found("file", row.path, row.intake.name, slug, "")
    return Found("file", row.path, one.name, slug, str(one.pk), str(placed.pk))


KINDS: dict[str, _Kind] = {
    "set": _Kind(
        "name", lambda ids: TextureSet.objects.filter(project__in=ids).select_related("project"),
        lambda row: Found("set", row.name, row.project.name, row.project.slug, str(row.pk)),
    ),
    "cast": _Kind(
        "name", lambda ids: Cast.objects.filter(project__in=ids).select_related("project", "master"),
        lambda row: Found("cast", row.name, row.master.title, row.project.slug, str(row.pk)),
    ),
    "master": _Kind(
        "title", lambda ids: Master.objects.defer("draft"),
        lambda row: Found("master", row.title, row.name, "", row.name),
    ),
    "function": _Kind(
        "title", lambda ids: Function.objects.defer("draft"),
        lambda row: Found("function", row.title, row.name, "", row.name),
    ),
    "model": _Kind(
        "name", lambda ids: Mesh.objects.filter(project__in=ids).select_related("project", "version").defer("facts"),
        lambda row: Found("model", row.name, row.version.main if row.version else "", row.project.slug, str(row.pk)),
    ),
    "ground": _Kind(
        "name", lambda ids: Ground.objects.filter(project__in=ids).select_related("project"),
        lambda row: Found("ground", row.name, row.project.name, row.project.slug, str(row.pk)),
    ),
    "file": _Kind(
        "path",
        lambda ids: IntakeFile.objects.filter(intake__project__in=ids)
        .select_related("intake__project").prefetch_related("placements__set"),
        _of_file,
    ),
    "project": _Kind(
        "name", lambda ids: Project.objects.filter(pk__in=ids),
        lambda row: Found("project", row.name, row.slug, row.slug, ""),
    ),
}  # fmt: skip


def search(person: Any, words: str, slug: str = "") -> list[Found]:
    """What has all of the words in its name, in the projects of a person and in the library; of each kind the best.
    Where nothing has, what is written much like them.

    slug: of a project whose things come first. Fewer than two letters find nothing.
    """
    if len(words.strip()) < _SHORTEST:
        return []
    wanted = [word[:_LONGEST] for word in words.lower().split()[:_MAX_WORDS]]
    projects = dict(person.memberships.values_list("project__slug", "project"))
    own = [projects[slug]] if slug in projects else []
    others = [pk for pk in projects.values() if pk not in own]
    # What all projects share is found beside the things of each; told once.
    found = [*dict.fromkeys(one for ids in (own, others) if ids for one in _in_all(ids, wanted)), *_parameters(wanted)]
    if found:
        return found
    with transaction.atomic(), connection.cursor() as cursor:
        # What the operator that the index serves takes for alike; its own setting, for this transaction alone.
        cursor.execute("SELECT set_config('pg_trgm.word_similarity_threshold', %s, true)", [str(_ALIKE)])
        return list(dict.fromkeys(one for ids in (own, others) if ids for one in _alike(ids, " ".join(wanted))))


def _in_all(projects: list[int], words: list[str]) -> Iterator[Found]:
    for kind in KINDS.values():
        # What is searched without regard to capitals by an index of trigrams (PostgreSQL, pg_trgm).
        fits = Q()
        for word in words:
            fits &= Q(**{f"{kind.field}__iregex": re.escape(word)})
        rows = kind.rows(projects).filter(fits)
        yield from (kind.told(row) for row in _best(rows, kind.field, words[0]))


def _best(rows: QuerySet[Any], field: str, first: str) -> list[Any]:
    """Those that begin with the first word, then those that have it at all; the shorter first."""
    begins = list(rows.filter(**{f"{field}__istartswith": first}).order_by(Length(field), field, "pk")[:_EACH])
    if len(begins) >= _EACH:
        return begins
    known = [row.pk for row in begins]
    return [*begins, *rows.exclude(pk__in=known).order_by(Length(field), field, "pk")[: _EACH - len(begins)]]


def _alike(projects: list[int], words: str) -> Iterator[Found]:
    for name, kind in KINDS.items():
        if name == "file":
            continue  # names of sets follow those of files
        near = TrigramWordSimilarity(words, kind.field)
        rows = kind.rows(projects).filter(**{f"{kind.field}__trigram_word_similar": words}).annotate(near=near)
        yield from (kind.told(row) for row in rows.order_by("-near", "pk")[:_EACH])


def _parameters(words: list[str]) -> list[Found]:
    """Parameters of the newest versions of masters."""
    rows = MasterVersion.objects.order_by("master_id", "-major", "-minor", "-patch").distinct("master_id")
    found = []
    for row in rows.values_list("master__name", "master__title", "document__parameters"):
        name, title, parameters = row
        for one in parameters or ():
            called = str(one.get("title") or one["name"])
            if all(word in f"{called} {one['name']}".lower() for word in words):
                found.append(Found("parameter", called, title, "", name, one["name"]))
    return found[:_EACH]
