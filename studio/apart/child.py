"""The child process: does one piece of work after the other until nobody asks any more."""

from __future__ import annotations

import importlib
import json
import os
import resource
import signal
import sys
import traceback
from collections.abc import Mapping
from multiprocessing.connection import Connection
from typing import Any

import django

# The fork server loads this module once, so that children start with everything ready.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
django.setup()

from django.conf import settings  # noqa: E402
from django.db import close_old_connections  # noqa: E402

from studio.apart.work import Refusal, find, refusal  # noqa: E402
from studio.jobs.lifeline import die_with  # noqa: E402

__all__ = ["serve"]

for _name in settings.APART_MODULES:
    importlib.import_module(_name)


def serve(connection: Connection, server: int, bytes_: int, threads: int) -> None:
    """Answer requests until the connection is closed. server: the process to die with; bytes_: of memory at most;
    threads: that one piece of work may use."""
    die_with(server)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.environ["FAIR_TEXEL_THREADS"] = str(threads)
    # Addresses are given out long before memory is used; this is the last wall, the server watches what is used.
    walls = bytes_ + (4 << 30)
    resource.setrlimit(resource.RLIMIT_AS, (walls, walls))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    while True:
        try:
            asked = json.loads(connection.recv_bytes())
        except (EOFError, OSError):
            return
        close_old_connections()
        head, data = _answer(asked)
        connection.send_bytes(head)
        connection.send_bytes(data)
        close_old_connections()


def _answer(asked: Mapping[str, Any]) -> tuple[bytes, bytes]:
    """What was said, as JSON, and the bytes that were made."""
    try:
        made = find(asked["work"])(**asked["arguments"])
        return json.dumps({"said": made.said}).encode(), made.data
    except Exception as error:
        told = Refusal(error="memory", message="") if _for_want_of_memory(error) else refusal(error)
        if told is None:
            traceback.print_exc(file=sys.stderr)
            told = Refusal(error="fault", message=f"{type(error).__name__}: {error}")
        return json.dumps(told).encode(), b""


def _for_want_of_memory(error: Exception) -> bool:
    """Libraries say so in ways of their own."""
    words = str(error).lower()
    return isinstance(error, MemoryError) or "insufficient memory" in words or "bad_alloc" in words
