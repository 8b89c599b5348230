"""Deliveries: dated, immutable results for one target."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

from studio.jobs.models import Job
from studio.projects.models import Project

__all__ = ["Delivery"]


class Delivery(models.Model):
    """number counts within the project. sets: the sets document delivered. manifest: set once, when it is whole."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="deliveries")
    number = models.IntegerField()
    target = models.JSONField()
    sets = models.JSONField()
    set_ids = models.JSONField(default=list)
    manifest = models.JSONField(null=True)
    problems = models.JSONField(default=list)
    counts = models.JSONField(default=dict)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="delivery")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["project", "number"], name="one_delivery_a_number")]

    @property
    def folder(self) -> Path:
        """Where its files lie once it is whole."""
        return Path(settings.DELIVERIES_ROOT) / self.project.slug / f"{self.number:04d}-{self.target['name']}"

    @property
    def zip_path(self) -> Path:
        return self.folder.with_name(self.folder.name + ".zip")
