"""Write the API's OpenAPI document, from which the page's client is generated."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

OPENAPI = Path(__file__).resolve().parents[2] / "api" / "openapi.json"


def openapi_text() -> str:
    from studio.api import api

    return json.dumps(api.get_openapi_schema(), indent=2, sort_keys=True) + "\n"


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, **options: Any) -> None:
        OPENAPI.write_text(openapi_text())
