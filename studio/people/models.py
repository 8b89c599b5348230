"""Tokens with which scripts sign in. People themselves are Django's accounts."""

from __future__ import annotations

import hashlib
import secrets

from django.conf import settings
from django.db import models

__all__ = ["AccessToken"]


class AccessToken(models.Model):
    """A token for scripts; only its hash is kept."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=100)
    hash = models.CharField(max_length=64, unique=True)
    created = models.DateTimeField(auto_now_add=True)

    @staticmethod
    def hash_of(token: str) -> str:
        return hashlib.sha256(token.encode()).hexdigest()

    @classmethod
    def make(cls, user, name: str) -> str:
        """A new token, shown this once."""
        token = secrets.token_urlsafe(32)
        cls.objects.create(user=user, name=name, hash=cls.hash_of(token))
        return token
