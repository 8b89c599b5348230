"""What the studio sets up when it starts."""

from __future__ import annotations

from django.apps import AppConfig


class StudioConfig(AppConfig):
    name = "studio"

    def ready(self) -> None:
        from studio import history  # noqa: F401
