"""What people say to each other about a project: comments, reviews of sets, notices, who looks at what."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.projects.models import Project

__all__ = ["Comment", "Notice", "Presence", "ReviewStep"]


class Comment(models.Model):
    """Said of a set, a place in a map, a finding or a cast; an answer where it has a parent.

    set, cast: what it is about, exactly one of them. map: of the set; x, y: a place in it, 0 to 1 from its upper left
    corner. check_name: of a finding. closed: when it was settled, and by whom; answers go with what they answer.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="comments")
    set = models.ForeignKey("sets.TextureSet", on_delete=models.CASCADE, null=True, related_name="comments")
    cast = models.ForeignKey("materials.Cast", on_delete=models.CASCADE, null=True, related_name="comments")
    map = models.ForeignKey("sets.Placement", on_delete=models.SET_NULL, null=True, related_name="comments")
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    check_name = models.CharField(max_length=60, default="", blank=True)
    parent = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="answers")
    text = models.TextField()
    mentions = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="mentioned_in")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="comments")
    created = models.DateTimeField(auto_now_add=True)
    edited = models.DateTimeField(null=True)
    closed = models.DateTimeField(null=True)
    closed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    revision = models.IntegerField(default=1)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(set__isnull=False, cast=None) | models.Q(set=None, cast__isnull=False),
                name="comment_about_one",
            )
        ]  # fmt: skip


class ReviewStep(models.Model):
    """One step of the review of a set; the newest says how it stands. Steps are added and never changed."""

    class State(models.TextChoices):
        READY = "ready"
        APPROVED = "approved"
        SENT_BACK = "sent_back"
        CHANGED = "changed"
        WITHDRAWN = "withdrawn"

    set = models.ForeignKey("sets.TextureSet", on_delete=models.CASCADE, related_name="review_steps")
    state = models.CharField(max_length=10, choices=State.choices)
    reason = models.CharField(max_length=1000, default="", blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["set", "-id"])]


class Notice(models.Model):
    """Told to one person. path: of the page that it is about. seen: when it was looked at."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="notices")
    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="notices")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    text = models.CharField(max_length=400)
    path = models.CharField(max_length=300)
    created = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["person", "seen", "-id"])]


class Presence(models.Model):
    """What somebody has open: about: "sets:12"; tab: one of their windows. editing: whether they change it now."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="presences")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="presences")
    tab = models.CharField(max_length=40)
    about = models.CharField(max_length=60)
    editing = models.BooleanField(default=False)
    seen = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "tab"], name="one_presence_a_tab")]
        indexes = [models.Index(fields=["project", "seen"])]
