from __future__ import annotations

from django.apps import AppConfig


class TeamConfig(AppConfig):
    name = "studio.team"

    def ready(self) -> None:
        from studio.team import recording  # noqa: F401
