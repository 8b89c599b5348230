from __future__ import annotations

from django.apps import AppConfig


class MeshesConfig(AppConfig):
    name = "studio.meshes"

    def ready(self) -> None:
        from studio.meshes import kinds  # noqa: F401
