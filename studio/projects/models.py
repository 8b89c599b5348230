"""Projects, who may do what in them, and what was done."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models

__all__ = ["Change", "HistoryLine", "Membership", "Project"]


class Project(models.Model):
    """habit: what people taught about the suffixes of its files, lines of a habit document. keep_days: how long the
    files of past deliveries are kept; None for as long as there is room. approval: whether only approved sets are
    delivered."""

    slug = models.SlugField(max_length=80, unique=True)
    name = models.CharField(max_length=120)
    target = models.CharField(max_length=80, default="orm-y-minus")
    habit = models.JSONField(default=list)
    keep_days = models.IntegerField(null=True, blank=True)
    approval = models.BooleanField(default=False)
    revision = models.IntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """look: see everything. prepare: also change sets and deliver. rules: also targets, rules and destinations.
    manage: also members and invitations."""

    class Right(models.TextChoices):
        LOOK = "look"
        PREPARE = "prepare"
        RULES = "rules"
        MANAGE = "manage"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    right = models.CharField(max_length=10, choices=Right.choices)
    revision = models.IntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "user"], name="one_membership")]

    RANK = {Right.LOOK: 0, Right.PREPARE: 1, Right.RULES: 2, Right.MANAGE: 3}

    def may(self, right: str) -> bool:
        return self.RANK[Membership.Right(self.right)] >= self.RANK[Membership.Right(right)]


class Change(models.Model):
    """One change to a project, by whoever made it.

    before, after: by kind and key of a row (studio.changes.kinds), the fields that changed; all fields of rows that it
    made or took away, which are then missing on the other side.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="changes")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)
    label = models.CharField(max_length=200)
    before = models.JSONField()
    after = models.JSONField()
    undone = models.BooleanField(default=False)
    # Taken back, and not to be made again: its person changed something else since.
    dropped = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["project", "undone", "id"])]


class HistoryLine(models.Model):
    """Who did what and when; lines are added and never changed. project: None for what all projects share.

    about: what it was done to, as "kind:key" (studio.changes.kinds, studio.changes.recorded); a set stands there with
    what belongs to it. change: what was before and after, where it was a change.
    """

    class What(models.TextChoices):
        CHANGE = "change"
        UNDO = "undo"
        REDO = "redo"
        EVENT = "event"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, null=True, related_name="history")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    what = models.CharField(max_length=10, choices=What.choices)
    label = models.CharField(max_length=300)
    about = ArrayField(models.CharField(max_length=100), default=list)
    change = models.ForeignKey(Change, on_delete=models.SET_NULL, null=True, related_name="lines")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["project", "-id"]), GinIndex(fields=["about"], name="history_about")]
