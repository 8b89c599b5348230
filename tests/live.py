"""The application as it runs: a database and folders of its own, the real server, real workers."""

from __future__ import annotations

import contextlib
import os
import secrets
import signal
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlsplit

import psycopg

from ground.places import CHECKOUT
from ground.postgres import free_port
from ground.processes import server_command, wait_until_up

__all__ = ["BROWSER_ARGS", "PASSWORD", "Live", "another", "running"]

BROWSER_ARGS = [
    *"""--no-sandbox --disable-dev-shm-usage --use-angle=swiftshader --enable-unsafe-swiftshader
    --ignore-gpu-blocklist --disable-background-networking --disable-component-update --disable-sync
    --disable-default-apps --no-first-run --no-pings""".split(),
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]
PASSWORD = "tide-table-9"


@dataclass
class Live:
    """A running application. workers: the processes that take up jobs, each in a group of its own."""

    address: str
    home: Path
    database: str
    env: dict[str, str]
    workers: list[subprocess.Popen] = field(default_factory=list)

    def manage(self, *words: str) -> str:
        done = subprocess.run(
            [sys.executable, "manage.py", *words],
            cwd=CHECKOUT,
            env=self.env,
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    def start_worker(self, **extra: str) -> subprocess.Popen:
        """A supervisor with one worker process."""
        command = [sys.executable, "manage.py", "work", "--processes", "1"]
        log = (self.home / "worker.log").open("ab")
        worker = subprocess.Popen(
            command, cwd=CHECKOUT, env={**self.env, **extra}, stdout=log, stderr=log, start_new_session=True
        )
        self.workers.append(worker)
        return worker

    def start_watcher(self) -> subprocess.Popen:
        """The process that watches folders; it ends with the workers."""
        log = (self.home / "watcher.log").open("ab")
        watcher = subprocess.Popen(
            [sys.executable, "manage.py", "watch"], cwd=CHECKOUT, env=self.env, stdout=log, stderr=log,
            start_new_session=True,
        )  # fmt: skip
        self.workers.append(watcher)
        return watcher

    def stop_workers(self, number: int = signal.SIGKILL) -> None:
        for worker in self.workers:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(worker.pid, number)
            worker.wait()
        self.workers.clear()

    def query(self, sql: str, *values):
        with psycopg.connect(self.database, autocommit=True) as connection:
            return connection.execute(sql, values).fetchall()


@contextlib.contextmanager
def another(first: Live, home: Path) -> Iterator[Live]:
    """Another server and worker of the same studio, with folders of their own, as on a second machine."""
    home.mkdir()
    port = free_port(8600)
    env = {**first.env, "FAIR_TEXEL_HOME": str(home), "FAIR_TEXEL_ADDRESS": f"http://127.0.0.1:{port}"}
    with _serving(Live(f"http://127.0.0.1:{port}", home, first.database, env), port) as found:
        yield found


@contextlib.contextmanager
def _serving(found: Live, port: int) -> Iterator[Live]:
    log = (found.home / "server.log").open("ab")
    server = subprocess.Popen(
        server_command(port), cwd=CHECKOUT, env=found.env, stdout=log, stderr=log, start_new_session=True
    )
    try:
        wait_until_up(port)
        found.start_worker()
        yield found
    finally:
        found.stop_workers()
        os.killpg(server.pid, signal.SIGKILL)
        server.wait()


@contextlib.contextmanager
def running(home: Path, library: str = "", **extra: str) -> Iterator[Live]:
    """The application on a free port with one worker and one person, ada; taken down with its database at the end.

    library: address of a scan library, which is called Tin Library. extra: of the environment.

    FAIR_TEXEL_DATABASE names a database of the server to use.
    """
    base = os.environ["FAIR_TEXEL_DATABASE"]
    # Several may run beside each other.
    name = f"fair_texel_live_{os.getpid()}_{secrets.token_hex(3)}"
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        connection.execute(f"CREATE DATABASE {name}")
    database = urlsplit(base)._replace(path=f"/{name}").geturl()
    env = {**os.environ, "FAIR_TEXEL_DATABASE": database, "FAIR_TEXEL_HOME": str(home), "PYTHONUNBUFFERED": "1"}
    env |= {"FAIR_TEXEL_SCAN_LIBRARIES": f"Tin Library={library}"} if library else {}
    env |= extra
    port = free_port(8600)
    env["FAIR_TEXEL_ADDRESS"] = f"http://127.0.0.1:{port}"
    found = Live(env["FAIR_TEXEL_ADDRESS"], home, database, env)
    found.manage("migrate", "--no-input", "-v", "0")
    script = f"from django.contrib.auth.models import User; User.objects.create_superuser('ada', password='{PASSWORD}')"
    found.manage("shell", "-c", script)
    try:
        with _serving(found, port):
            yield found
    finally:
        with psycopg.connect(base, autocommit=True) as connection:
            connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
