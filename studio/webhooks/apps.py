from __future__ import annotations

from django.apps import AppConfig


class WebhooksConfig(AppConfig):
    name = "studio.webhooks"

    def ready(self) -> None:
        from studio.webhooks import events  # noqa: F401
