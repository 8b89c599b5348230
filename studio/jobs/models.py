"""Long work: what runs, how far it is, who asked for it."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.projects.models import Project

__all__ = ["Job"]


class Job(models.Model):
    """attempt grows each time a worker takes the job up; whoever holds an older number may no longer write.

    excused: attempts that ended because the database was away, which is no fault of the job.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20)
    title = models.CharField(max_length=200)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    payload = models.JSONField(default=dict)
    done = models.IntegerField(default=0)
    total = models.IntegerField(default=0)
    message = models.CharField(max_length=500, default="", blank=True)
    attempt = models.IntegerField(default=0)
    excused = models.IntegerField(default=0)
    cancel_asked = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["project", "state"])]

    ENDED = (State.DONE, State.FAILED, State.CANCELLED)
