"""Take away what the store no longer needs, and the oldest of what can be made again beyond the limit."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from studio.collecting import collect


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options: Any) -> None:
        collected = collect()
        self.stdout.write(f"{collected.files} files, {collected.bytes / 1024**2:.1f} MiB taken away")
