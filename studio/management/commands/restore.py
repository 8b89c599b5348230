"""Make an empty machine the studio of a backup."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.backups import BackupFailed, restore


class Command(BaseCommand):
    help = __doc__

    # Before there are tables.
    requires_migrations_checks = False

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("folder", type=Path)

    def handle(self, *, folder: Path, **options: Any) -> None:
        try:
            copied = restore(folder)
        except BackupFailed as error:
            raise CommandError(str(error)) from None
        self.stdout.write(f"restored, with {copied} stored files; what a newer version adds comes with its start")
