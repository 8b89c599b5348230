"""Addresses that are told what happened in a project, and what they answered."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from studio.projects.models import Project

__all__ = ["Sending", "Webhook"]


class Webhook(models.Model):
    """events: which of Webhook.Event it is told of. sealed: the key that messages are signed with, encrypted."""

    class Event(models.TextChoices):
        DELIVERY = "delivery"
        FINDINGS = "findings"
        UPDATE = "update"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="webhooks")
    name = models.CharField(max_length=80)
    address = models.CharField(max_length=500)
    events = models.JSONField(default=list)
    sealed = models.TextField()
    paused = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="one_webhook_a_name")]


class Sending(models.Model):
    """One message. status: of HTTP, None where nothing answered; answer: its first words, or why there is none."""

    webhook = models.ForeignKey(Webhook, on_delete=models.CASCADE, related_name="sendings")
    event = models.CharField(max_length=20)
    message = models.JSONField()
    attempts = models.IntegerField(default=0)
    done = models.BooleanField(default=False)
    status = models.IntegerField(null=True)
    answer = models.CharField(max_length=300, default="", blank=True)
    created = models.DateTimeField(auto_now_add=True)
    tried = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
