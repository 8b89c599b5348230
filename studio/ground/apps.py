from __future__ import annotations

from django.apps import AppConfig


class GroundConfig(AppConfig):
    name = "studio.ground"

    def ready(self) -> None:
        from studio.ground import kinds  # noqa: F401
