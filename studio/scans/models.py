"""People's accounts with scan libraries, and the surfaces that were taken in from there."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.intake.models import Intake, IntakeFile
from studio.jobs.models import Job
from studio.projects.models import Project

__all__ = ["Scan", "ScanAccount", "ScanFile"]


class ScanAccount(models.Model):
    """A person's account with a library. sealed: its key, encrypted (studio.scans.accounts); title: whose it is."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="scan_accounts")
    library = models.CharField(max_length=80)
    sealed = models.CharField(max_length=1000)
    title = models.CharField(max_length=200)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "library"], name="one_account_a_library")]


class Scan(models.Model):
    """A surface of a library in a project.

    surface: its id there. revision, pixels: of what was taken in; 0 before the first time. newest: the revision that
    the library had when it was looked at last. intake: where its files lie.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="scans")
    library = models.CharField(max_length=80)
    surface = models.CharField(max_length=100)
    title = models.CharField(max_length=200)
    revision = models.IntegerField(default=0)
    newest = models.IntegerField(default=0)
    pixels = models.IntegerField(default=0)
    intake = models.OneToOneField(Intake, on_delete=models.SET_NULL, null=True, related_name="scan")
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, null=True, related_name="scans")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [models.UniqueConstraint(fields=["project", "library", "surface"], name="one_scan_a_surface")]


class ScanFile(models.Model):
    """Which file of the intake holds a map of the surface; map: the library's word for it."""

    scan = models.ForeignKey(Scan, on_delete=models.CASCADE, related_name="files")
    map = models.CharField(max_length=60)
    file = models.ForeignKey(IntakeFile, on_delete=models.CASCADE, related_name="scanned")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["scan", "map"], name="one_file_a_map")]
