from __future__ import annotations

from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "studio.intake"

    def ready(self) -> None:
        from studio.intake import kinds  # noqa: F401
