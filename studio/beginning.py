"""A new project that does not begin empty."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from studio.people.members import make_project
from studio.projects.models import Membership, Project
from studio.rules.models import CopiedFrom, RuleDocument, add_version, choose_target, own_rules
from studio.sorting.asking import ask_for_sample

__all__ = ["begin_project"]


def begin_project(
    name: str, by: Any, target: str | None = None, rules_from: Project | None = None, sample: bool = False
) -> Membership:
    """A new project, whose maker may set its rules.

    target: that it delivers to. rules_from: whose own rules and target are copied, with their origin kept. sample:
    whether the sample folder is taken in. All or nothing: raises BadDocument for a name that holds nothing and for a
    target that there is not.
    """
    with transaction.atomic():
        made = make_project(name, by)
        project = made.project
        if rules_from is not None:
            for kind in RuleDocument.Kind.values:
                for rule in own_rules(rules_from, kind):
                    origin: CopiedFrom = {"project": rules_from.slug, "name": rule.name, "number": rule.number}
                    add_version(project, kind, rule.name, rule.document, by, origin)
        wanted = target or (rules_from.target if rules_from else None)
        if wanted and wanted != project.target:
            choose_target(project, wanted, by)
        if sample:
            ask_for_sample(project, by)
        made.project.refresh_from_db()
        return made
