"""Texture sets, their maps, and what was found about them."""

from __future__ import annotations

from django.db import models

from studio.intake.models import Intake, IntakeFile
from studio.projects.models import Project

__all__ = ["Finding", "Placement", "TextureSet"]


class TextureSet(models.Model):
    """revision grows with every change; judged is the revision that the findings speak of."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="sets")
    name = models.CharField(max_length=200)
    revision = models.IntegerField(default=1)
    judged = models.IntegerField(default=0)

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["project", "name"], name="one_set_a_name", deferrable=models.Deferrable.DEFERRED
            )
        ]


class Placement(models.Model):
    """A file, or one channel of it, in a role of a set. Without a set it is undecided; candidates: its likely places.

    order: within a role the lowest is in use. layer: which picture of a file that holds several, "" for the first.
    signature: what tells twins in other sets (texel.checks.twins), from when its set was judged last.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="placements")
    intake = models.ForeignKey(Intake, on_delete=models.CASCADE, related_name="placements")
    file = models.ForeignKey(IntakeFile, on_delete=models.CASCADE, related_name="placements")
    set = models.ForeignKey(TextureSet, on_delete=models.SET_NULL, null=True, related_name="placements")
    role = models.CharField(max_length=20, default="", blank=True)
    channel = models.CharField(max_length=1, default="", blank=True)
    layer = models.CharField(max_length=255, default="", blank=True)
    order = models.IntegerField(default=0)
    confidence = models.FloatField(default=0)
    why = models.CharField(max_length=400, default="", blank=True)
    by_hand = models.BooleanField(default=False)
    candidates = models.JSONField(default=list)
    recipe = models.JSONField(default=list)
    signature = models.BinaryField(null=True)

    class Meta:
        ordering = ["order", "id"]


class Finding(models.Model):
    """A finding of the core, kept as the document that texel.checks gives."""

    set = models.ForeignKey(TextureSet, on_delete=models.CASCADE, related_name="findings")
    placement = models.ForeignKey(Placement, on_delete=models.SET_NULL, null=True)
    rank = models.IntegerField()
    severity = models.CharField(max_length=10)
    document = models.JSONField()

    class Meta:
        ordering = ["rank"]
