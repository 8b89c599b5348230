"""Where measurements of what is delivered are kept: by the plan of a file and the formats that it was tried in."""

from __future__ import annotations

from studio.projects.models import Project
from studio.rules.models import documents_of
from texel import digest
from texel.delivery import PlannedFile

__all__ = ["advice_key", "formats_digest"]


def advice_key(planned: PlannedFile, formats: str) -> str:
    return digest.of_document({"plan": planned.digest(), "formats": formats})


def formats_digest(project: Project) -> str:
    """Names the formats that a project allows."""
    return digest.of_document(documents_of(project, "formats")["house"])
