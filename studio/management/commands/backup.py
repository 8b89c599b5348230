"""Write a backup of database, stored files and deliveries into a folder; what it has already stays."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.backups import BackupFailed, back_up


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("folder", type=Path)

    def handle(self, *, folder: Path, **options: Any) -> None:
        try:
            done = back_up(folder)
        except BackupFailed as error:
            raise CommandError(str(error)) from None
        self.stdout.write(f"{done.dump}; {done.copied} stored files added, {done.bytes / 1024**2:.1f} MiB")
