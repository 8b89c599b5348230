"""Watch folders for exports, and scan libraries for newer revisions; one such process is at work however many run."""

from __future__ import annotations

import signal
import threading
import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from watchfiles import watch

from studio.scans.taking import ask_for_newer
from studio.watched.looking import Watcher

# The number of the lock that the one at work holds, as long as its connection lives.
_ALONE = 7_305_119
_LOOK_FOR_PLACE_SECONDS = 5.0


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options: Any) -> None:
        stop = threading.Event()
        signal.signal(signal.SIGTERM, lambda *_: stop.set())
        signal.signal(signal.SIGINT, lambda *_: stop.set())
        while not stop.is_set() and not _is_alone():
            stop.wait(_LOOK_FOR_PLACE_SECONDS)
        watcher, looked = Watcher(), time.monotonic()
        while not stop.is_set():
            # Should the database go away, this process ends and is started again.
            folders = watcher.look(time.monotonic())
            if time.monotonic() - looked > settings.SCAN_LOOK_SECONDS:
                looked = time.monotonic()
                ask_for_newer()
            _wait_for_changes(folders, stop)


def _is_alone() -> bool:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [_ALONE])
        (held,) = cursor.fetchone()
    return bool(held)


def _wait_for_changes(folders: list[str], stop: threading.Event) -> None:
    """Wait until the system tells of a change below the folders, at most until they are looked into anyway."""
    seconds = settings.WATCH_SECONDS
    there = [folder for folder in folders if Path(folder).is_dir()]
    began = time.monotonic()
    if there:
        try:
            changes = watch(
                *there, watch_filter=None, debounce=200, step=50, rust_timeout=max(1, int(seconds * 1000)),
                yield_on_timeout=True, stop_event=stop, raise_interrupt=False, ignore_permission_denied=True,
            )  # fmt: skip
            next(iter(changes), None)
        except OSError:
            pass  # the system can tell nothing of this folder: it is looked into at intervals
    # A program that writes without a pause would have the folders listed without one.
    least = min(seconds, 0.25) if there else seconds
    stop.wait(max(0.0, least - (time.monotonic() - began)))
