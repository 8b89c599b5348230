"""Ground of a project: patches of land with layers, and what was painted over them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypedDict

from django.conf import settings
from django.db import models

from studio.intake.models import SourceFile
from studio.materials.models import Wears
from studio.projects.models import Project

__all__ = ["Ground", "GroundStroke", "LayerRow"]


class LayerRow(TypedDict):
    """A layer as it is kept. key: its own for ever, which strokes and rules by an edge name. rule: of schema ground,
    ``of`` being a key."""

    key: str
    name: str
    wears: Wears | None
    tile: float
    turn: float
    repeat: str
    edge: float
    rule: list[Mapping[str, object]]


class Ground(models.Model):
    """A patch of ground. metres, side: of the square, in metres and in texels. far: texels a side of the maps for far
    away. each, bits: of weight maps. shape: of schema ground; height: its height map. layers: LayerRow, the lowest
    first."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="grounds")
    name = models.CharField(max_length=100)
    metres = models.FloatField(default=64.0)
    side = models.IntegerField(default=512)
    far = models.IntegerField(default=1024)
    each = models.IntegerField(default=4)
    bits = models.IntegerField(default=8)
    shape = models.JSONField(default=dict)
    height = models.ForeignKey(SourceFile, on_delete=models.PROTECT, null=True, related_name="in_grounds")
    layers = models.JSONField(default=list)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        verbose_name = "patch of ground"
        constraints = [
            models.UniqueConstraint(
                fields=["project", "name"], name="one_ground_name", deferrable=models.Deferrable.IMMEDIATE
            )
        ]

    def __str__(self) -> str:
        return self.name


class GroundStroke(models.Model):
    """One stroke of the brush on a layer; never changed. stroke: of schema ground, ``layer`` being a key. reach: square
    metres that its lines look at, counted for each of them, which says how much work laying it down is."""

    ground = models.ForeignKey(Ground, on_delete=models.CASCADE, related_name="strokes")
    stroke = models.JSONField()
    reach = models.FloatField(default=0.0)

    class Meta:
        ordering = ["pk"]
        verbose_name = "stroke"
