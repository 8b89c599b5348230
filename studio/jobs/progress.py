"""A running job's hold on its row: it reports progress, and learns when it has lost the job."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.db import connection, transaction

from studio.jobs.announce import announce
from studio.jobs.models import Job

__all__ = ["LeaseLost", "Progress"]

_EVERY_SECONDS = 0.2


class LeaseLost(Exception):
    """The job was cancelled, or another worker has taken it up; nothing more may be written."""


class Progress:
    def __init__(self, job: Job, attempt: int):
        self.job, self.attempt = job, attempt
        self._last = 0.0

    def _held(self) -> Any:
        return Job.objects.filter(pk=self.job.pk, attempt=self.attempt, state=Job.State.RUNNING, cancel_asked=False)

    def report(self, done: int, total: int, message: str = "") -> None:
        """Say how far it is; at most five times a second, but always at the end. Raises LeaseLost."""
        now = time.monotonic()
        if done < total and now - self._last < _EVERY_SECONDS:
            return
        self._last = now
        with transaction.atomic():
            if not self._held().update(done=done, total=total, message=message[:500]):
                raise LeaseLost
            announce(self.job.project_id, "job", id=self.job.pk)

    @contextmanager
    def beside(self, total: int) -> Iterator[Callable[[int], None]]:
        """Report from inside one long transaction, whose own words nobody sees before it ends: the function that this
        gives adds to what is done, and a thread with a connection of its own writes it down. The function raises
        LeaseLost; leave this before ``hold_lease`` in the transaction.

        Inside a transaction that began earlier nothing is seen before its end anyway; there it reports directly.
        """
        done = 0
        if connection.in_atomic_block:

            def here(more: int) -> None:
                nonlocal done
                done = min(done + more, total)
                self.report(done, total)

            yield here
            return
        ended, lost = threading.Event(), threading.Event()

        def write() -> None:
            try:
                said = -1
                while not ended.wait(_EVERY_SECONDS):
                    if done != said:
                        said = done
                        self.report(said, total)
            except LeaseLost:
                lost.set()
            finally:
                connection.close()

        def add(more: int) -> None:
            nonlocal done
            done = min(done + more, total)
            if lost.is_set():
                raise LeaseLost

        thread = threading.Thread(target=write, name="progress", daemon=True)
        thread.start()
        try:
            yield add
        finally:
            ended.set()
            thread.join()

    def add_facts(self, **facts: object) -> None:
        """Add to the job's payload what it made. Raises LeaseLost."""
        with transaction.atomic():
            self.hold_lease()
            row = Job.objects.get(pk=self.job.pk)
            row.payload = {**row.payload, **facts}
            row.save(update_fields=["payload"])

    def hold_lease(self) -> None:
        """Lock the row until the transaction ends; what is written in it is written by the rightful holder.

        Raises LeaseLost. Call it inside transaction.atomic().
        """
        if self._held().select_for_update().first() is None:
            raise LeaseLost
