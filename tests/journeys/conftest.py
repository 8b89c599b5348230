"""The real thing: its own database, the real server, real workers, a real browser."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlsplit

import psycopg
import pytest
from playwright.sync_api import expect

from ground.places import CHECKOUT
from ground.postgres import free_port
from ground.processes import server_command, wait_until_up

BROWSER_ARGS = [
    *"""--no-sandbox --disable-dev-shm-usage --use-angle=swiftshader --enable-unsafe-swiftshader
    --ignore-gpu-blocklist --disable-background-networking --disable-component-update --disable-sync
    --disable-default-apps --no-first-run --no-pings""".split(),
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]
PASSWORD = "tide-table-9"
# Surfaces are drawn in software here, on the same cores as everything else: a page may be busy for seconds.
expect.set_options(timeout=20_000)


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

    def stop_workers(self, number: int = signal.SIGKILL) -> None:
        for worker in self.workers:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(worker.pid, number)
            worker.wait()
        self.workers.clear()

    def query(self, sql: str, *values):
        with psycopg.connect(self.database, autocommit=True) as connection:
            return connection.execute(sql, values).fetchall()


@pytest.fixture(scope="session")
def live(tmp_path_factory):
    """The application on a free port with a database and folders of its own, and one worker."""
    base = os.environ["FAIR_TEXEL_DATABASE"]
    name = f"fair_texel_live_{os.getpid()}"
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        connection.execute(f"CREATE DATABASE {name}")
    database = urlsplit(base)._replace(path=f"/{name}").geturl()
    home = tmp_path_factory.mktemp("live")
    env = {**os.environ, "FAIR_TEXEL_DATABASE": database, "FAIR_TEXEL_HOME": str(home), "PYTHONUNBUFFERED": "1"}
    port = free_port(8600)
    found = Live(f"http://127.0.0.1:{port}", home, database, env)
    found.manage("migrate", "--no-input", "-v", "0")
    script = f"from django.contrib.auth.models import User; User.objects.create_user('ada', password='{PASSWORD}')"
    found.manage("shell", "-c", script)
    log = (home / "server.log").open("ab")
    server = subprocess.Popen(
        server_command(port), cwd=CHECKOUT, env=env, stdout=log, stderr=log, start_new_session=True
    )
    try:
        wait_until_up(port)
        found.start_worker()
        yield found
    finally:
        found.stop_workers()
        os.killpg(server.pid, signal.SIGKILL)
        server.wait()
        with psycopg.connect(base, autocommit=True) as connection:
            connection.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


@pytest.fixture(scope="session")
def browser_type_launch_args():
    chromium = shutil.which("chromium")
    if chromium is None:
        pytest.fail("Chromium is missing: apt-get install chromium, or run ./ft test")
    return {"executable_path": chromium, "args": BROWSER_ARGS, "headless": True}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


@pytest.fixture
def context(context):
    """Surfaces are drawn with a quarter of the pixels a side, as a person on a slow machine would choose."""
    context.add_init_script("localStorage.setItem('surface-detail', '0.25')")
    return context


@pytest.fixture
def ada(live, page):
    """A page signed in as ada. Requests that leave the machine, and errors on the page, fail the test."""
    problems: list[str] = []
    page.on("request", lambda r: None if r.url.startswith((live.address, "blob:", "data:")) else problems.append(r.url))
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.set_default_timeout(30_000)
    page.goto(live.address)
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Projects").wait_for()
    yield page
    assert problems == []


def start_project(page, name: str) -> str:
    """Make a project through the page; gives its slug. The intake is then open."""
    page.get_by_placeholder("Name of a new project").fill(name)
    page.get_by_role("button", name="Start project").click()
    page.get_by_role("heading", name="Drop a folder").wait_for()
    return page.url.split("/p/")[1].split("/")[0]


def wait_for(condition, seconds: float = 60, what: str = "it", pause: float = 0.1):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found = condition()
        if found:
            return found
        time.sleep(pause)
    raise AssertionError(f"{what} did not happen within {seconds} s")
