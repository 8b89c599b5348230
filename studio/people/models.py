"""Tokens with which scripts sign in. People themselves are Django's accounts."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models

from studio.projects.models import Membership

__all__ = ["AccessToken", "LogEntry"]


class AccessToken(models.Model):
    """A token for scripts; only its hash is kept. right: the most that it may do, of what its person may
    (studio.projects.models.Membership.Right). until: when it ends; used: when it was used last."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=100)
    hash = models.CharField(max_length=64, unique=True)
    # Those that were made before tokens had rights may what their person may.
    right = models.CharField(max_length=10, choices=Membership.Right.choices, default=Membership.Right.RULES)
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField(null=True)
    used = models.DateTimeField(null=True)
    revoked = models.BooleanField(default=False)

    @staticmethod
    def hash_of(token: str) -> str:
        return hashlib.sha256(token.encode()).hexdigest()

    @classmethod
    def make(cls, user: Any, name: str, until: datetime | None = None, right: str = Membership.Right.RULES) -> str:
        """A new token, shown this once."""
        token = secrets.token_urlsafe(32)
        cls.objects.create(user=user, name=name, hash=cls.hash_of(token), until=until, right=right)
        return token


class LogEntry(models.Model):
    """One line of the security log. name: of the person, or what somebody called themselves who was refused."""

    EVENTS = {
        "signed_in": "signed in", "signed_out": "signed out", "sign_in_refused": "sign-in refused",
        "locked_out": "locked out", "password_changed": "password changed", "sessions_ended": "sessions ended",
        "token_made": "token made", "token_revoked": "token revoked", "token_refused": "token refused",
        "right_changed": "right changed", "member_removed": "member removed", "keeper_added": "keeper added",
        "keeper_removed": "keeper removed", "refused": "refused for want of a right", "deleted": "deleted",
    }  # fmt: skip

    event = models.CharField(max_length=20)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=150, default="", blank=True)
    about = models.CharField(max_length=300, default="", blank=True)
    address = models.CharField(max_length=45, default="", blank=True)
    project = models.ForeignKey("projects.Project", on_delete=models.SET_NULL, null=True, related_name="log")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["name", "event", "at"]), models.Index(fields=["address", "event", "at"])]
