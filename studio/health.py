"""Whether the parts that the studio is made of are well: database, store, queue, workers."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass

import psycopg
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection

from studio import store
from studio.jobs.rescue import jobs_without_place

__all__ = ["Health", "Part", "health_now"]

# Asked for by every process that watches; looked at this often at most.
_KEPT_SECONDS = 2.0
_LATE_SECONDS = 15.0
_LOST_SECONDS = 120.0
_PATIENCE = 2
_LEAST_FREE = 256 << 20


@dataclass(frozen=True)
class Part:
    """One part. says: what is wrong with it, or how much it has to do."""

    name: str
    well: bool
    says: str


@dataclass(frozen=True)
class Health:
    parts: tuple[Part, ...]

    @property
    def well(self) -> bool:
        return all(part.well for part in self.parts)


def _database() -> str:
    # Not by the pool, which waits long for a server that may come back.
    kept = settings.DATABASES["default"]
    with psycopg.connect(
        host=kept["HOST"], port=kept["PORT"], user=kept["USER"], password=kept["PASSWORD"] or None,
        dbname=kept["NAME"], connect_timeout=_PATIENCE,
    ) as cursor:  # fmt: skip
        cursor.execute("SELECT 1")
    return "answers"


def _store() -> str:
    settings.STORE_ROOT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryFile(dir=settings.STORE_ROOT) as stream:
        stream.write(b"well")
        stream.flush()
    free = os.statvfs(settings.STORE_ROOT)
    left = free.f_bavail * free.f_frsize
    if left < _LEAST_FREE:
        raise OSError(f"only {left >> 20} MB are left on its disk")
    if store.is_shared():
        default_storage.exists(store.stored_name("source", "0" * 64))  # raises where nobody answers
        return f"the bucket answers, {left >> 30} GB are free here"
    return f"{left >> 30} GB are free"


def _count(query: str, *values: float) -> int:
    with connection.cursor() as cursor:
        cursor.execute(query, values)
        row = cursor.fetchone()
    return int(row[0] or 0) if row else 0


def _queue() -> str:
    waiting = _count("SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'")
    lost = len(jobs_without_place(_LOST_SECONDS))
    if lost:
        raise RuntimeError(f"{lost} jobs wait without a place in the queue; the workers give them one")
    return f"{waiting} jobs wait"


def _workers() -> str:
    alive = _count(
        "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - make_interval(secs => %s)",
        _LATE_SECONDS,
    )
    if not alive:
        raise RuntimeError("no worker is there; start them with ./ft worker")
    return f"{alive} at work"


_PARTS: dict[str, Callable[[], str]] = {
    "database": _database, "store": _store, "queue": _queue, "workers": _workers,
}  # fmt: skip
_last: tuple[float, Health] | None = None


def _looked_at(name: str) -> Part:
    try:
        return Part(name, True, _PARTS[name]())
    except Exception as error:
        # Anybody may ask: no address, no path.
        words = str(error) if isinstance(error, RuntimeError) else ""
        if isinstance(error, OSError) and not error.filename and not error.errno:
            words = str(error)
        return Part(name, False, words or "does not answer")


def health_now() -> Health:
    """All parts as they are, or were two seconds ago at most."""
    global _last
    now = time.monotonic()
    if _last is None or now - _last[0] > _KEPT_SECONDS:
        parts = {name: _looked_at(name) for name in ("database", "store")}
        for name in ("queue", "workers"):
            away = Part(name, False, "cannot be told while the database is away")
            parts[name] = _looked_at(name) if parts["database"].well else away
        _last = now, Health(tuple(parts.values()))
    return _last[1]
