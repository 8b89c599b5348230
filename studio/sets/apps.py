from __future__ import annotations

from django.apps import AppConfig


class SetsConfig(AppConfig):
    name = "studio.sets"

    def ready(self) -> None:
        from studio.sets import kinds  # noqa: F401
