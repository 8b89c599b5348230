"""Tokens with which scripts sign in, links that work once, where somebody is signed in, the security log. People
themselves are Django's accounts."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

from studio.projects.models import Membership, Project

__all__ = [
    "LIBRARY_KEEPERS",
    "AccessToken",
    "ForeignIdentity",
    "Invitation",
    "LogEntry",
    "OpenSession",
    "ResetLink",
    "secret_hash",
]

# The group of those who may change what all projects share.
LIBRARY_KEEPERS = "library keepers"


def secret_hash(secret: str) -> str:
    """What is kept of a token or a link: SHA-256, which for what is drawn at random needs no salt."""
    return hashlib.sha256(secret.encode()).hexdigest()


class AccessToken(models.Model):
    """A token for scripts; only its hash is kept. right: the most that it may do, of what its person may
    (studio.projects.models.Membership.Right). until: when it ends; used: when it was used last."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=100)
    hash = models.CharField(max_length=64, unique=True)
    # Those that were made before tokens had rights may what their person may.
    right = models.CharField(max_length=10, choices=Membership.Right.choices, default=Membership.Right.MANAGE)
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField(null=True)
    used = models.DateTimeField(null=True)
    revoked = models.BooleanField(default=False)

    @classmethod
    def make(cls, user: Any, name: str, until: datetime | None = None, right: str = Membership.Right.MANAGE) -> str:
        """A new token, shown this once."""
        token = secrets.token_urlsafe(32)
        cls.objects.create(user=user, name=name, hash=secret_hash(token), until=until, right=right)
        return token


class OneTimeLink(models.Model):
    """A link that works once, until a time; only its hash is kept. used: when it was."""

    hash = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    used = models.DateTimeField(null=True)
    revoked = models.BooleanField(default=False)

    class Meta:
        abstract = True
        ordering = ["-id"]

    @property
    def works(self) -> bool:
        return self.used is None and not self.revoked and self.until > timezone.now()


class Invitation(OneTimeLink):
    """Into a project, with a right. about: whom it is meant for, as whoever made it wrote."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="invitations")
    right = models.CharField(max_length=10, choices=Membership.Right.choices)
    about = models.CharField(max_length=100, default="", blank=True)
    joined = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")


class ResetLink(OneTimeLink):
    """With which a person sets a new password without the old one; an administrator makes it."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="reset_links")


class ForeignIdentity(models.Model):
    """Whom a provider of OpenID Connect knows as ``subject``, which it never gives to anybody else."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="identities")
    issuer = models.CharField(max_length=300)
    subject = models.CharField(max_length=255)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["issuer", "subject"], name="one_identity")]


class OpenSession(models.Model):
    """Where somebody is signed in: key: of Django's session; agent: what the browser says of itself."""

    key = models.CharField(max_length=40, unique=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="open_sessions")
    address = models.CharField(max_length=45, default="", blank=True)
    agent = models.CharField(max_length=200, default="", blank=True)
    began = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-seen"]


class LogEntry(models.Model):
    """One line of the security log. name: of the person, or what somebody called themselves who was refused."""

    EVENTS = {
        "signed_in": "signed in", "signed_out": "signed out", "sign_in_refused": "sign-in refused",
        "locked_out": "locked out", "password_changed": "password changed", "sessions_ended": "sessions ended",
        "token_made": "token made", "token_revoked": "token revoked", "token_refused": "token refused",
        "right_changed": "right changed", "member_removed": "member removed", "keeper_added": "keeper added",
        "keeper_removed": "keeper removed", "invited": "invitation made", "invitation_revoked": "invitation revoked",
        "joined": "joined by invitation", "handed_over": "project handed over", "account_made": "account made",
        "account_closed": "account closed", "account_opened": "account opened again",
        "library_keeper_added": "library keeper added", "library_keeper_removed": "library keeper removed",
        "reset_link_made": "link for a new password made", "password_reset": "password set by a link",
        "refused": "refused for want of a right", "deleted": "deleted",
    }  # fmt: skip

    event = models.CharField(max_length=40)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=150, default="", blank=True)
    about = models.CharField(max_length=300, default="", blank=True)
    address = models.CharField(max_length=45, default="", blank=True)
    project = models.ForeignKey("projects.Project", on_delete=models.SET_NULL, null=True, related_name="log")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["name", "event", "at"]), models.Index(fields=["address", "event", "at"])]
