from __future__ import annotations

from django.apps import AppConfig


class MaterialsConfig(AppConfig):
    name = "studio.materials"

    def ready(self) -> None:
        from studio.materials import kinds  # noqa: F401
