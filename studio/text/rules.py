"""A project's own rules as text: each document as it is, the newest version."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.db.models import Max

from studio.changes.engine import Doing
from studio.changes.errors import Conflict
from studio.projects.models import Project
from studio.rules.models import RuleDocument, documents_of, must_be_rule, own_rules
from studio.text.kinds import Documents, TextKind, register, sets_rules
from texel.project.kinds import RULES

__all__: list[str] = []


def _reader(kind: str) -> Callable[[Project], Documents]:
    return lambda project: {row.name: row.document for row in own_rules(project, kind)}


def _writer(kind: str) -> Callable[[Doing, Mapping[str, Mapping[str, Any]], set[str]], None]:
    def write(doing: Doing, documents: Mapping[str, Mapping[str, Any]], gone: set[str]) -> None:
        for name, document in documents.items():
            must_be_rule(kind, name, document)
            last = doing.project.rules.filter(kind=kind, name=name).aggregate(last=Max("number"))["last"] or 0
            doing.create(
                RuleDocument, project=doing.project, kind=kind, name=name, number=last + 1, document=dict(document),
                by=doing.by,
            )  # fmt: skip

    return write


def _remover(kind: str) -> Callable[[Doing, set[str]], None]:
    def remove(doing: Doing, names: set[str]) -> None:
        for row in own_rules(doing.project, kind).filter(name__in=names):
            doing.update(row, withdrawn=True)
        left = documents_of(doing.project, kind)
        target = Project.objects.get(pk=doing.project.pk).target
        if kind == "target" and target not in left:
            raise Conflict("the project delivers to {name}; choose another target first", name=target)

    return remove


for _kind in RULES:
    register(TextKind(f"rules/{_kind}", _reader(_kind), _writer(_kind), _remover(_kind), sets_rules))
