"""House rules: targets, layouts, names and formats, their versions, and what differs between two."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Body, Path, Router

from studio.api.access import name_of, project_for, user_of
from studio.api.documents import RuleBody
from studio.api.schemas.rules import CopyFrom, DifferenceOut, RuleOut, VersionOut
from studio.api.seen import IfMatch, newest_of, seen
from studio.projects.models import Membership, Project
from studio.rules.models import CopiedFrom, RuleDocument, add_version, builtin_documents, documents_of, own_rules
from texel.documents import differences

router = Router(tags=["rules"])


def _out(name: str, document: RuleBody, newest: RuleDocument | None) -> RuleOut:
    return {
        "name": name, "title": document.get("title") or name, "number": newest.number if newest else 0,
        "own": newest is not None, "origin": newest.origin if newest else None, "document": document,
    }  # fmt: skip


@newest_of(RuleDocument)
def _newest_out(request: HttpRequest, row: RuleDocument) -> RuleOut:
    return _out(row.name, row.document, row)


def _newest(project: Project, kind: str) -> dict[str, RuleDocument]:
    return {row.name: row for row in own_rules(project, kind)}


@router.get("/{kind}", response=list[RuleOut])
def list_rules(request: HttpRequest, slug: Path[str], kind: str) -> Any:
    """Every rule of a kind that the project may use, the newest version of each."""
    project = project_for(request, slug)
    newest = _newest(project, kind)
    return [_out(name, document, newest.get(name)) for name, document in documents_of(project, kind).items()]


@router.put("/{kind}/{name}", response=RuleOut)
def put_rule(
    request: HttpRequest,
    slug: Path[str],
    kind: str,
    name: str,
    document: Body[RuleBody],
    if_match: IfMatch = None,
) -> Any:
    """A new version of a rule of the project's own. What was made by older versions stays as it is."""
    project = project_for(request, slug, Membership.Right.RULES)
    made = add_version(project, kind, name, document, user_of(request), seen=seen(if_match))
    return _out(name, document, made)


@router.get("/{kind}/{name}/versions", response=list[VersionOut])
def list_versions(request: HttpRequest, slug: Path[str], kind: str, name: str) -> Any:
    rows = project_for(request, slug).rules.filter(kind=kind, name=name).select_related("by").order_by("-number")
    return [
        {"number": r.number, "created": r.created, "by": name_of(r.by), "origin": r.origin,
         "withdrawn": r.withdrawn}
        for r in rows
    ]  # fmt: skip


def _version(project: Project, kind: str, name: str, number: int) -> RuleBody:
    """Number 0 is the ready-made document."""
    if number == 0:
        ready_made = builtin_documents(kind)
        if name not in ready_made:
            raise Http404(f"There is no ready-made {kind} {name}.")
        return ready_made[name]
    row = project.rules.filter(kind=kind, name=name, number=number).first()
    if row is None:
        raise Http404(f"There is no version {number} of {name}.")
    made: RuleBody = row.document
    return made


@router.get("/{kind}/{name}/difference", response=list[DifferenceOut])
def difference(request: HttpRequest, slug: Path[str], kind: str, name: str, before: int, after: int) -> Any:
    """What differs between two versions; number 0 is the ready-made document of that name."""
    project = project_for(request, slug)
    changed = differences(_version(project, kind, name, before), _version(project, kind, name, after))
    return [one._asdict() for one in changed]


@router.get("/{kind}/{name}/{int:number}", response=RuleBody)
def one_version(request: HttpRequest, slug: Path[str], kind: str, name: str, number: int) -> Any:
    """One version's document, as the command line reads it."""
    return _version(project_for(request, slug), kind, name, number)


@router.post("/{kind}/{name}/copy", response=RuleOut)
def copy_rule(request: HttpRequest, slug: Path[str], kind: str, name: str, given: CopyFrom) -> Any:
    """Copy a rule from another project that one may look at; the copy keeps its origin."""
    project = project_for(request, slug, Membership.Right.RULES)
    other = project_for(request, given.project)
    number = given.number
    if number is None:
        newest = _newest(other, kind).get(name)
        number = newest.number if newest else 0
    document = _version(other, kind, name, number)
    origin: CopiedFrom = {"project": other.slug, "name": name, "number": number}
    made = add_version(project, kind, name, document, user_of(request), origin)
    return _out(name, document, made)
