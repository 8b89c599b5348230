"""A project's own target documents. Ready-made ones come with the core."""

from __future__ import annotations

from django.db import models

from studio.projects.models import Project
from texel.checks import Wanted
from texel.delivery import Target, builtin_targets, parse_target
from texel.errors import BadDocument

__all__ = ["TargetDocument", "target_documents", "target_for", "wanted_of"]


class TargetDocument(models.Model):
    """One version of a target; a change makes a new version, the newest is in use."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="targets")
    name = models.CharField(max_length=64)
    number = models.IntegerField()
    document = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "name", "number"], name="one_target_version")]


def target_documents(project: Project) -> dict[str, dict]:
    """Every target that a project may deliver to, by name."""
    found = dict(builtin_targets())
    for own in project.targets.order_by("number"):
        found[own.name] = own.document
    return found


def wanted_of(project: Project) -> Wanted:
    """What the project's own target asks of maps, as the checks take it."""
    target = target_for(project, project.target)
    return Wanted(target.title, target.largest)


def target_for(project: Project, name: str) -> Target:
    """Raises BadDocument when there is none of that name."""
    documents = target_documents(project)
    if name not in documents:
        raise BadDocument(f"there is no target {name!r}; there are {', '.join(documents)}")
    return parse_target(documents[name], name)
