"""Folders that are watched, and how far each of their files is."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.intake.models import Intake, IntakeFile
from studio.projects.models import Project

__all__ = ["WatchedFile", "WatchedFolder"]


class WatchedFolder(models.Model):
    """A folder of this machine, below one of WATCHED_ROOTS.

    quiet: seconds that a file must stand still before it is taken in. intake: where its files lie; None before the
    first. problem: why it cannot be looked into, "" where it can.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="watched")
    name = models.CharField(max_length=80)
    place = models.CharField(max_length=1000)
    quiet = models.FloatField(default=2.0)
    paused = models.BooleanField(default=False)
    intake = models.OneToOneField(Intake, on_delete=models.SET_NULL, null=True, related_name="watched")
    problem = models.CharField(max_length=400, default="", blank=True)
    revision = models.IntegerField(default=1)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="one_watched_folder_a_name")]


class WatchedFile(models.Model):
    """One file of a watched folder.

    bytes, changed: size and time (nanoseconds) of the file that was taken in or refused last; None before that.
    problem: why it was refused. file: what it is in the intake.
    """

    class State(models.TextChoices):
        CHANGING = "changing"
        ARRIVING = "arriving"
        TAKEN = "taken"
        REFUSED = "refused"
        MISSING = "missing"

    folder = models.ForeignKey(WatchedFolder, on_delete=models.CASCADE, related_name="files")
    path = models.CharField(max_length=1000)
    state = models.CharField(max_length=10, choices=State.choices, default=State.CHANGING)
    bytes = models.BigIntegerField(null=True)
    changed = models.BigIntegerField(null=True)
    problem = models.CharField(max_length=300, default="", blank=True)
    file = models.ForeignKey(IntakeFile, on_delete=models.SET_NULL, null=True, related_name="watched")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["path"]
        constraints = [models.UniqueConstraint(fields=["folder", "path"], name="one_watched_file_a_path")]
