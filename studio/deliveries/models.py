"""Deliveries: dated, immutable results for one target; the places that they are brought to."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

from studio.jobs.models import Job
from studio.projects.models import Project

__all__ = ["Delivery", "Destination", "Transfer"]


class Delivery(models.Model):
    """number counts within the project. sets: the sets document delivered. manifest: set once, when it is whole. gone:
    when its files were taken away, because they had been kept long enough; the manifest stays. mirror: what the engine
    would make of it (texel.mirror.Reflection), None where that is not known. closing: digests of the files that every
    delivery has, by name; None for one that was made before they were kept."""

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
    gone = models.DateTimeField(null=True)
    closing = models.JSONField(null=True)
    mirror = models.JSONField(null=True)

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


class Destination(models.Model):
    """A place that deliveries of one target are kept in step with.

    kind, place: a folder, or the path of a zip, below one of DESTINATION_ROOTS; or a bucket and a prefix in it
    ("bucket/prefix"), in the object store that the settings name. holds: the delivery that lies there, as we left it.
    """

    class Kind(models.TextChoices):
        FOLDER = "folder"
        ZIP = "zip"
        BUCKET = "bucket"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="destinations")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=Kind.choices)
    place = models.CharField(max_length=1000)
    target = models.CharField(max_length=80)
    holds = models.ForeignKey(Delivery, on_delete=models.SET_NULL, null=True, related_name="lies_at")
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="one_destination_a_name")]


class Transfer(models.Model):
    """A delivery brought to a destination. choices: "overwrite" or "keep" for files that others changed, by path.

    result: how many files were written, removed, kept and untouched. drift: what asked for a choice, where it failed.
    """

    destination = models.ForeignKey(Destination, on_delete=models.CASCADE, related_name="transfers")
    delivery = models.ForeignKey(Delivery, on_delete=models.CASCADE, related_name="transfers")
    choices = models.JSONField(default=dict)
    result = models.JSONField(null=True)
    drift = models.JSONField(default=list)
    job = models.OneToOneField(Job, on_delete=models.SET_NULL, null=True, related_name="transfer")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
