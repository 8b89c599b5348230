"""What a project's history keeps of the project itself, its intakes and their files."""

from __future__ import annotations

import json
from typing import Any

from studio.changes.kinds import Kind, Parts, Touched, after_changes, register
from studio.intake.models import Intake, IntakeFile
from studio.intake.uploads import free_path
from studio.jobs.announce import announce
from studio.projects.models import Project
from texel.document_types import HabitLineDocument

__all__ = ["line_key"]


def line_key(line: HabitLineDocument) -> tuple[str, str, str]:
    """What a taught line is about: its suffix, where that stands, and in which folder."""
    return line["suffix"].lower(), line.get("where", "end"), line.get("folder", "")


# Taught lines, one by one: what two people teach stands side by side.
_LINES = Parts(lambda lines: {json.dumps(line_key(line)): line for line in lines}, lambda parts: list(parts.values()))


register(
    Kind(
        "projects", 0, Project, ("target", "habit", "keep_days", "approval"),
        lambda project: Project.objects.filter(pk=project.pk),
        lambda row: row.name,
        {"target": "the target", "habit": "what was taught", "keep_days": "how long deliveries are kept",
         "approval": "whether sets are approved first"},
        parts={"habit": _LINES},
    ),
    Kind(
        "intakes", 5, Intake, ("state", "habit"), lambda project: project.intakes.all(), lambda row: row.name,
        {"state": "how far it is", "habit": "what its suffixes mean"},
    ),
    Kind(
        "files", 20, IntakeFile, ("path", "source_id", "problem"),
        lambda project: IntakeFile.objects.filter(intake__project=project).select_related("intake"),
        lambda row: row.path, {"path": "its name", "source_id": "its content"}, name_field="path",
        name_within="intake_id", free=lambda row, path: free_path(row.intake, path),
    ),
)  # fmt: skip


@after_changes
def tell_of_intakes(project: Project, touched: Touched, by: Any) -> None:
    if "intakes" in touched or "projects" in touched:
        announce(project.pk, "habit")
    if "intakes" in touched:
        announce(project.pk, "intake")
    if "projects" in touched:
        announce(project.pk, "project")
