"""Texture sets, their maps, and what was found about them."""

from __future__ import annotations

from datetime import date

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models

from studio.intake.models import Intake, IntakeFile
from studio.projects.models import Project

__all__ = ["Finding", "Placement", "TextureSet", "Waiver"]


class TextureSet(models.Model):
    """revision grows with every change; judged is the revision that the findings speak of.

    metres: length of surface that the width of its texture covers; None while nobody said so. licence, credit: as
    texel.licences.Licence; licence "" while nobody said so. targets: names of those that it is delivered for; none
    for the project's own. regions: named parts of its maps, as texel.atlas.regions reads them.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="sets")
    name = models.CharField(max_length=200)
    revision = models.IntegerField(default=1)
    judged = models.IntegerField(default=0)
    metres = models.FloatField(null=True, blank=True)
    licence = models.CharField(max_length=100, default="", blank=True)
    credit = models.CharField(max_length=300, default="", blank=True)
    targets = models.JSONField(default=list, blank=True)
    regions = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["name", "id"]
        verbose_name = "set"
        indexes = [GinIndex(fields=["name"], name="set_name_parts", opclasses=["gin_trgm_ops"])]
        constraints = [
            models.UniqueConstraint(
                fields=["project", "name"], name="one_set_a_name", deferrable=models.Deferrable.DEFERRED
            )
        ]


class Placement(models.Model):
    """A file, or one channel of it, in a role of a set. Without a set it is undecided; candidates: its likely places.

    suffix: the affix of its name that tells the role, as written; files that share it can be decided together.
    order: within a role the lowest is in use. layer: which picture of a file that holds several, "" for the first.
    signature: what tells twins in other sets (texel.checks.twins), from when its set was judged last; tone: its mean.
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
    said = models.JSONField(default=list)
    suffix = models.CharField(max_length=120, default="", blank=True)
    by_hand = models.BooleanField(default=False)
    candidates = models.JSONField(default=list)
    recipe = models.JSONField(default=list)
    signature = models.BinaryField(null=True)
    tone = models.FloatField(null=True)
    revision = models.IntegerField(default=1)

    class Meta:
        ordering = ["order", "id"]
        verbose_name = "map"
        indexes = [models.Index(fields=["project", "tone"])]


class Finding(models.Model):
    """A finding of the core, kept as the document that texel.checks gives."""

    set = models.ForeignKey(TextureSet, on_delete=models.CASCADE, related_name="findings")
    placement = models.ForeignKey(Placement, on_delete=models.SET_NULL, null=True)
    rank = models.IntegerField()
    severity = models.CharField(max_length=10)
    document = models.JSONField()

    class Meta:
        ordering = ["rank"]


class Waiver(models.Model):
    """A reason to live with a finding. It holds for one check on one map as that is now.

    map_digest names the map, "" for a finding about the set itself. until: the last day on which it holds; None for no
    end.
    """

    set = models.ForeignKey(TextureSet, on_delete=models.CASCADE, related_name="waivers")
    check_name = models.CharField(max_length=60)
    role = models.CharField(max_length=20, default="", blank=True)
    map_digest = models.CharField(max_length=64, default="", blank=True)
    reason = models.CharField(max_length=500)
    until = models.DateField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)
    revoked = models.BooleanField(default=False)
    revision = models.IntegerField(default=1)

    class Meta:
        ordering = ["id"]

    def holds_on(self, day: date) -> bool:
        return not self.revoked and (self.until is None or self.until >= day)
