from __future__ import annotations

from django.apps import AppConfig


class RulesConfig(AppConfig):
    name = "studio.rules"

    def ready(self) -> None:
        from studio.rules import kinds  # noqa: F401
