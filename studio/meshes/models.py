"""Models of a project: mesh files with their versions, and what their slots wear."""

from __future__ import annotations

from typing import TypedDict

from django.conf import settings
from django.db import models

from studio.intake.models import SourceFile
from studio.projects.models import Project

__all__ = ["Mesh", "MeshFile", "MeshStroke", "MeshVersion", "SplitSlot"]


class SplitSlot(TypedDict):
    """A part that has a slot of its own. slot: key of the slot that it shares in the file."""

    slot: str
    part: str


class Mesh(models.Model):
    """A model. version: the files that it is made of now. metres: of one unit of the file.

    wears: Wears by the slot's key; titles: what slots are called when it is delivered, by key, where that is not what
    the file calls them; splits: SplitSlot. facts: what was measured (texel.meshes.facts), and measured: of what, see
    ``state_of``. problem: why it could not be measured.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="meshes")
    name = models.CharField(max_length=100)
    version = models.ForeignKey("MeshVersion", on_delete=models.PROTECT, null=True, related_name="current")
    metres = models.FloatField(default=1.0)
    wears = models.JSONField(default=dict)
    titles = models.JSONField(default=dict)
    splits = models.JSONField(default=list)
    facts = models.JSONField(null=True)
    measured = models.CharField(max_length=64, default="", blank=True)
    problem = models.CharField(max_length=400, default="", blank=True)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        verbose_name = "model"
        constraints = [
            models.UniqueConstraint(
                fields=["project", "name"], name="one_model_name", deferrable=models.Deferrable.IMMEDIATE
            )
        ]

    def __str__(self) -> str:
        return self.name


class MeshStroke(models.Model):
    """One stroke of the brush on a model's vertex colours; never changed. stroke: of schema painting. It lies in space,
    so that it holds for the model's next version too."""

    mesh = models.ForeignKey(Mesh, on_delete=models.CASCADE, related_name="strokes")
    stroke = models.JSONField()

    class Meta:
        ordering = ["pk"]
        verbose_name = "stroke on a model"


class MeshVersion(models.Model):
    """The files of a model as they came once; never changed. mesh: its model, also while that is deleted, so that undo
    brings both back. main: name of the file with the mesh."""

    mesh = models.ForeignKey(
        Mesh, on_delete=models.DO_NOTHING, db_constraint=False, null=True, related_name="versions"
    )  # fmt: skip
    number = models.IntegerField(default=1)
    main = models.CharField(max_length=400)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]


class MeshFile(models.Model):
    """One file of a version: the mesh, or what lies beside it."""

    version = models.ForeignKey(MeshVersion, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=900)
    source = models.ForeignKey(SourceFile, on_delete=models.PROTECT, related_name="in_meshes")

    class Meta:
        ordering = ["name"]
