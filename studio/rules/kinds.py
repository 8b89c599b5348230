"""What a project's history keeps of its rules. Versions are never changed: one that is taken back is withdrawn."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import Kind, Touched, after_changes, register
from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.rules.models import RuleDocument

__all__: list[str] = []


def _newer(row: RuleDocument) -> str:
    newer = RuleDocument.objects.filter(project=row.project_id, kind=row.kind, name=row.name, withdrawn=False)
    last = newer.filter(number__gt=row.number).order_by("-number").first()
    return f"version {last.number} came since" if last is not None else ""


register(
    Kind(
        "rules", 70, RuleDocument, ("withdrawn",), lambda project: project.rules.all(),
        lambda row: f"version {row.number} of {row.name}", withdrawn="withdrawn", still_used=_newer, revised=False,
    )
)  # fmt: skip


@after_changes
def tell_of_rules(project: Project, touched: Touched, by: Any) -> None:
    if "rules" in touched:
        announce(project.pk, "rules")
