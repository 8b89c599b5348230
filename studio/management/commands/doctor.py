"""Look whether all that the database refers to is stored and whole."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from studio.doctoring import examine


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--mend", action="store_true", help="take away what is damaged and can be made again")

    def handle(self, *, mend: bool, **options: Any) -> None:
        left = 0
        for one in examine(mend):
            left += not one.mended and one.kind != "orphaned"
            self.stdout.write(f"{one.kind:<8} {one.what}: {'mended; ' if one.mended else ''}{one.used}")
        if left:
            raise CommandError(f"{left} stored or delivered files are missing or damaged")
        self.stdout.write("all that the database refers to is there and whole")
