"""Run and watch the worker processes, one a core; start dead ones again and take up what they left."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from typing import Any, cast

from django.core.management.base import BaseCommand
from django.db import close_old_connections, connections
from procrastinate.contrib.django import app
from procrastinate.contrib.django.django_connector import DjangoConnector

from studio.jobs.lifeline import die_with
from studio.jobs.rescue import HEARTBEAT_SECONDS, STALLED_SECONDS, place_again, rescue_stalled
from studio.meshes.measuring import measure_outdated

# How often the store is looked through for what it no longer needs.
_COLLECT_SECONDS = 3600
# How often jobs are looked for that the queue knows nothing of.
_PLACE_SECONDS = 10


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--processes", type=int, default=os.cpu_count() or 2)
        parser.add_argument("--one", type=int, help="be one worker process, which ends with the process of this number")

    def handle(self, *, processes: int, one: int | None, **options: Any) -> None:
        if one:
            # A worker whose keeper was killed would go on beside those of the next one.
            die_with(one)
            return _run_one()
        stopping = False

        def stop(number: int, frame: object) -> None:
            nonlocal stopping
            stopping = True

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        workers = [_start() for _ in range(processes)]
        collecting, collected, placed = None, time.monotonic(), 0.0
        is_looked_through = False
        while not stopping:
            if time.monotonic() - collected > _COLLECT_SECONDS and (
                collecting is None or collecting.poll() is not None
            ):
                collecting, collected = subprocess.Popen([sys.executable, "manage.py", "collect"]), time.monotonic()
            for index, worker in enumerate(workers):
                if worker.poll() is not None:
                    self.stderr.write(f"worker {worker.pid} ended with {worker.returncode}; starting another")
                    workers[index] = _start()
            try:
                close_old_connections()
                rescue_stalled()
                if not is_looked_through:
                    measure_outdated()
                    is_looked_through = True
                if time.monotonic() - placed > _PLACE_SECONDS:
                    placed = time.monotonic()
                    place_again()
            except Exception as error:  # the database may be restarting; the next round tries again, on a new line
                self.stderr.write(f"looking for stalled jobs failed: {type(error).__name__}: {error}")
                connections.close_all()
            time.sleep(1.0)
        for worker in workers:
            worker.terminate()
        for worker in workers:
            try:
                worker.wait(3)
            except subprocess.TimeoutExpired:
                worker.kill()


def _start() -> subprocess.Popen[bytes]:
    return subprocess.Popen([sys.executable, "manage.py", "work", "--one", str(os.getpid())])


def _run_one() -> None:
    """One worker, one job at a time."""
    with app.replace_connector(cast(DjangoConnector, app.connector).get_worker_connector()) as worker_app:
        worker_app.run_worker(
            concurrency=1,
            delete_jobs="always",
            update_heartbeat_interval=HEARTBEAT_SECONDS,
            stalled_worker_timeout=STALLED_SECONDS,
            shutdown_graceful_timeout=1,
            fetch_job_polling_interval=2,
        )
