"""Comments on sets, places in maps, findings and casts; answers, mentions, settled or open."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import F, QuerySet
from django.http import Http404
from django.utils import timezone

from studio.changes.errors import Conflict, Stale
from studio.jobs.announce import announce
from studio.projects.models import Membership, Project
from studio.sets.models import Placement
from studio.team.models import Comment
from studio.team.notices import tell
from texel.errors import BadDocument

__all__ = ["Said", "add", "close", "comments_of", "edit", "path_of", "remove"]

_LONGEST = 5000
_MOST_ANSWERS = 500
# A name after @, as accounts may be called; a dot or so at its end belongs to the sentence.
_MENTION = re.compile(r"(?<![\w@])@([\w.@+-]*\w)")


@dataclass(frozen=True)
class Said:
    """A new comment. set or cast: what it is about; map, x, y: a place in a map of the set; parent: what it answers."""

    text: str
    set: int | None = None
    cast: int | None = None
    map: int | None = None
    x: float | None = None
    y: float | None = None
    check: str = ""
    parent: int | None = None


def comments_of(project: Project, about: str = "", closed: bool | None = None) -> QuerySet[Comment]:
    """Comments with their answers, oldest first. about: "sets:12" or "casts:3"; closed: only settled ones, or open."""
    rows = project.comments.filter(parent=None).select_related("by", "closed_by", "set", "cast")
    kind, _, key = about.partition(":")
    if about:
        if kind not in ("sets", "casts") or not key.isdigit():
            raise BadDocument("comments are about sets:NUMBER or casts:NUMBER")
        rows = rows.filter(**{kind.removesuffix("s"): int(key)})
    if closed is not None:
        rows = rows.filter(closed__isnull=not closed)
    return rows.prefetch_related("answers__by", "mentions")


def _text(text: str) -> str:
    text = text.strip()
    if not text or len(text) > _LONGEST:
        raise BadDocument("a comment has 1 to {most} characters", most=_LONGEST)
    return text


def add(project: Project, said: Said, by: Any) -> Comment:
    """Raises BadDocument for one about nothing or a place outside, Http404 for what is not of the project."""
    text = _text(said.text)
    with transaction.atomic():
        if said.parent is not None:
            parent = _one(project, said.parent)
            if parent.parent_id is not None:
                raise BadDocument("an answer is given to a comment, not to another answer")
            if parent.answers.count() >= _MOST_ANSWERS:
                raise Conflict("this comment has {most} answers; begin a new one", most=_MOST_ANSWERS)
            row = Comment(project=project, set=parent.set, cast=parent.cast, parent=parent, text=text, by=by)
        else:
            row = _about(project, said, text, by)
        row.save()
        _tell(row, by)
        announce(project.pk, "comments")
    return row


def _about(project: Project, said: Said, text: str, by: Any) -> Comment:
    if (said.set is None) == (said.cast is None):
        raise BadDocument("a comment is about a set or a cast")
    row = Comment(project=project, text=text, by=by, check_name=said.check[:60])
    if said.cast is not None:
        row.cast = project.casts.filter(pk=said.cast).first()
        if row.cast is None:
            raise Http404("There is no such cast any more.")
        return row
    row.set = project.sets.filter(pk=said.set or 0).first()
    if row.set is None:
        raise Http404("There is no such set any more.")
    if said.map is not None:
        row.map = Placement.objects.filter(set=said.set, pk=said.map).first()
        if row.map is None:
            raise Http404("There is no such map in this set any more.")
    if (said.x is None) != (said.y is None) or (said.x is not None and said.map is None):
        raise BadDocument("a place is a map with x and y")
    if said.x is not None and said.y is not None:
        if not (0 <= said.x <= 1 and 0 <= said.y <= 1):
            raise BadDocument("a place in a map is 0 to 1 from its upper left corner")
        row.x, row.y = said.x, said.y
    return row


def _one(project: Project, pk: int, held: bool = False) -> Comment:
    rows = project.comments.filter(pk=pk)
    found: Comment | None = (rows.select_for_update() if held else rows).first()
    if found is None:
        raise Http404("There is no such comment any more.")
    return found


def path_of(row: Comment) -> str:
    """Of the page that shows a comment, below its project's."""
    if row.cast_id is not None:
        return f"/materials/cast/{row.cast_id}"
    place = f"&map={row.map_id}" if row.map_id else ""
    return f"/set/{row.set_id}?comment={row.parent_id or row.pk}{place}"


def _called(row: Comment) -> str:
    """What the thing that a comment is about is called."""
    about = row.set if row.set is not None else row.cast
    return about.name if about is not None else ""


def _mention(row: Comment) -> list[Any]:
    """The members whose names stand in a comment after @, kept with it."""
    names = set(_MENTION.findall(row.text))
    members = Membership.objects.filter(project=row.project, user__username__in=names).values("user")
    mentioned = list(get_user_model().objects.filter(pk__in=members))
    row.mentions.set(mentioned)
    return mentioned


def _tell(row: Comment, by: Any) -> None:
    """Whoever is mentioned, and whoever took part where it is an answer."""
    mentioned, what = _mention(row), _called(row)
    name = by.get_username()
    tell(row.project, mentioned, by, f"{name} mentions you at {what}: {row.text}", path_of(row))
    if row.parent is not None:
        known = {one.pk for one in mentioned}
        took_part: list[Any] = [row.parent.by, *(one.by for one in row.parent.answers.select_related("by"))]
        others = {one.pk: one for one in took_part if one is not None and one.pk not in known}
        tell(row.project, others.values(), by, f"{name} answers at {what}: {row.text}", path_of(row))


def edit(project: Project, pk: int, text: str, by: Any, seen: int | None = None) -> Comment:
    """Change one's own words. Raises Conflict for somebody else's, Stale, BadDocument."""
    text = _text(text)
    with transaction.atomic():
        row = _own(project, pk, by)
        if seen is not None and row.revision != seen:
            raise Stale(row, "the comment was changed meanwhile. Look at it again.")
        Comment.objects.filter(pk=pk).update(text=text, edited=timezone.now(), revision=F("revision") + 1)
        row.refresh_from_db()
        before = set(row.mentions.values_list("pk", flat=True))
        fresh = [one for one in _mention(row) if one.pk not in before]
        tell(project, fresh, by, f"{by.get_username()} mentions you at {_called(row)}: {text}", path_of(row))
        announce(project.pk, "comments")
    return row


def _own(project: Project, pk: int, by: Any) -> Comment:
    row = _one(project, pk, held=True)
    if row.by_id != by.pk:
        raise Conflict("only whoever wrote a comment changes it; answer it instead")
    return row


def remove(project: Project, pk: int, by: Any) -> None:
    """Take one's own comment away. Raises Conflict for somebody else's, and for one that others answered."""
    with transaction.atomic():
        row = _own(project, pk, by)
        if row.answers.exclude(by=by).exists():
            raise Conflict("others answered this comment; settle it instead")
        row.delete()
        announce(project.pk, "comments")


def close(project: Project, pk: int, closed: bool, by: Any) -> Comment:
    """Settle a comment, or open it again. Raises BadDocument for an answer."""
    with transaction.atomic():
        row = _one(project, pk, held=True)
        if row.parent_id is not None:
            raise BadDocument("a comment is settled with all its answers")
        if (row.closed is not None) != closed:
            row.closed, row.closed_by = (timezone.now(), by) if closed else (None, None)
            row.save(update_fields=["closed", "closed_by"])
            if row.by is not None:
                done = "settled" if closed else "opened again"
                tell(project, [row.by], by, f"{by.get_username()} {done}: {row.text}", path_of(row))
            announce(project.pk, "comments")
    return row
