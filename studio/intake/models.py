"""Source files by content, and the batches in which they came."""

from __future__ import annotations

from typing import NotRequired, TypedDict

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models

from studio.projects.models import Project

__all__ = ["FileName", "FileVersion", "Intake", "IntakeFile", "LayerDocument", "ProbeDocument", "SourceFile"]


class LayerDocument(TypedDict):
    """One picture of a file that holds several, as it is kept."""

    name: str
    part: int
    width: int
    height: int
    channels: str
    bits: int
    columns: list[int]


class ProbeDocument(TypedDict):
    """What a file's header says, as it is kept. tagged: what it says of its colours; format: of block-compressed."""

    container: str
    width: int
    height: int
    channels: str
    bits: int
    tagged: str | None
    lossy: bool
    format: NotRequired[str]
    layers: NotRequired[list[LayerDocument]]


class SourceFile(models.Model):
    """A file's content, stored once however often it comes. Never changed.

    probe: what its header says; None while no name it came by could be read. look: what its pixels look like
    (texel.sorting.looks), once that was needed. greens: measured direction, by recipe digest (see texel.delivery.plan).
    """

    digest = models.CharField(primary_key=True, max_length=64)
    bytes = models.BigIntegerField()
    probe = models.JSONField(null=True)
    look = models.JSONField(null=True)
    created = models.DateTimeField(auto_now_add=True)


class Intake(models.Model):
    """habit: what its suffixes were taken for when it was sorted last, lines of a habit document."""

    class State(models.TextChoices):
        OPEN = "open"
        SORTING = "sorting"
        SORTED = "sorted"
        FAILED = "failed"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="intakes")
    name = models.CharField(max_length=200)
    state = models.CharField(max_length=10, choices=State.choices, default=State.OPEN)
    habit = models.JSONField(default=list)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]


class IntakeFile(models.Model):
    """One file of an intake; problem says why it cannot be read under this name.

    path: what it is called now; came_as: what it was called when it came.
    """

    intake = models.ForeignKey(Intake, on_delete=models.CASCADE, related_name="files")
    path = models.CharField(max_length=1000)
    came_as = models.CharField(max_length=1000, default="", blank=True)
    source = models.ForeignKey(SourceFile, on_delete=models.PROTECT, null=True, related_name="uses")
    problem = models.CharField(max_length=300, default="", blank=True)
    revision = models.IntegerField(default=1)

    class Meta:
        ordering = ["path"]
        verbose_name = "file"
        indexes = [GinIndex(fields=["path"], name="file_path_parts", opclasses=["gin_trgm_ops"])]
        # Checked when a statement ends, or, where files trade names, when their change is done.
        constraints = [
            models.UniqueConstraint(
                fields=["intake", "path"], name="one_file_a_path", deferrable=models.Deferrable.IMMEDIATE
            )
        ]


class FileName(models.Model):
    """A name that a file had before it was renamed, so that the old name still finds it."""

    file = models.ForeignKey(IntakeFile, on_delete=models.CASCADE, related_name="old_names")
    path = models.CharField(max_length=1000)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class FileVersion(models.Model):
    """A content that a file got after it had been taken in, and the one that it replaced.

    origin: where it came from, in words.
    """

    file = models.ForeignKey(IntakeFile, on_delete=models.CASCADE, related_name="versions")
    before = models.ForeignKey(SourceFile, on_delete=models.PROTECT, null=True, related_name="replaced")
    after = models.ForeignKey(SourceFile, on_delete=models.PROTECT, related_name="replacing")
    origin = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
