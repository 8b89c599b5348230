"""Tie a process to the life of another."""

from __future__ import annotations

import os
import select
import threading

__all__ = ["die_with"]


def die_with(worker: int) -> None:
    """End this process as soon as its worker ends, however it ends.

    The kernel's parent-death signal would watch the fork server, which outlives its worker for as long as it serves.
    """
    watched = os.pidfd_open(worker)

    def watch() -> None:
        select.select([watched], [], [])
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()
