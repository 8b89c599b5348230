"""A studio of its own to torture: database, server and workers under a supervisor, in a folder of its own."""

from __future__ import annotations

import contextlib
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from ground.places import CHECKOUT, data_home
from ground.postgres import ensure_server, free_port, stop_server
from ground.processes import supervisor_command

__all__ = ["Refused", "Studio", "manage", "running"]

_DISK_MB = 3000


class Refused(Exception):
    """An answer that says no, or none at all: nothing was acknowledged. status: 0 when there was no answer."""

    def __init__(self, status: int, words: str):
        super().__init__(f"{status}: {words}")
        self.status = status


class Studio:
    def __init__(self, home: Path, address: str, env: dict[str, str], own_disk: bool):
        self.home, self.address, self.env, self.own_disk = home, address, env, own_disk
        self.supervisor: subprocess.Popen | None = None
        self.token = ""

    # Asking.

    def __call__(self, method: str, path: str, body: Any = None, data: bytes | None = None, kind: str = "") -> Any:
        """Raises Refused."""
        data = json.dumps(body).encode() if body is not None else data
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": kind or "application/json"}
        request = urllib.request.Request(f"{self.address}/api{path}", method=method, data=data, headers=headers)
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
        try:
            with opener.open(request, timeout=60) as answer:
                return json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as error:
            raise Refused(error.code, error.read()[:200].decode(errors="replace")) from None
        except (OSError, ValueError) as error:
            raise Refused(0, str(error)) from None

    def ask(self, method: str, path: str) -> bytes:
        """As above, whatever the answer holds."""
        headers = {"Authorization": f"Bearer {self.token}"}
        request = urllib.request.Request(f"{self.address}/api{path}", method=method, headers=headers)
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
        try:
            with opener.open(request, timeout=120) as answer:
                return answer.read()
        except urllib.error.HTTPError as error:
            raise Refused(error.code, "") from None
        except OSError as error:
            raise Refused(0, str(error)) from None

    def upload(self, path: str, name: str, content: bytes) -> Any:
        edge = "edge-of-part"
        head = (
            f'--{edge}\r\nContent-Disposition: form-data; name="path"\r\n\r\n{name}\r\n'
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="x.png"\r\n\r\n'
        )
        body = head.encode() + content + f"\r\n--{edge}--\r\n".encode()
        return self("POST", path, data=body, kind=f"multipart/form-data; boundary={edge}")

    def patiently(self, *asked: Any, seconds: float = 120) -> Any:
        """The same question until it is answered; a refusal in words is an answer."""
        until = time.monotonic() + seconds
        while True:
            try:
                return self(*asked)
            except Refused as error:
                if time.monotonic() > until or (400 <= error.status < 500 and error.status != 429):
                    raise
                time.sleep(0.3)

    def wait_for(self, condition: Callable[[], Any], what: str, seconds: float = 180) -> Any:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            with contextlib.suppress(Refused):
                met = condition()
                if met:
                    return met
            time.sleep(0.3)
        raise SystemExit(f"torture: {what} did not happen within {seconds:g} s")

    def until_well(self) -> None:
        self.wait_for(lambda: self("GET", "/health")["status"] == "ok", "being well again")

    # Its processes.

    def processes(self) -> dict[str, list[int]]:
        """Numbers of its processes by kind."""
        by_kind: dict[str, list[int]] = {}
        for pid in _descendants(self.supervisor.pid if self.supervisor else 0):
            with contextlib.suppress(OSError):
                words = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace").replace("\0", " ")
                parent = int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])
                by_kind.setdefault(_kind(words, parent == (self.supervisor.pid if self.supervisor else 0)), []).append(
                    pid
                )
        return by_kind

    def restart_database(self) -> None:
        stop_server()
        ensure_server()

    # Its disk.

    @contextlib.contextmanager
    def full_disk(self) -> Iterator[None]:
        filler = self.home / "disk" / "filler"
        with filler.open("wb") as stream, contextlib.suppress(OSError):
            while True:
                stream.write(b"\0" * (1 << 20))
                stream.flush()
        try:
            yield
        finally:
            filler.unlink()


def _descendants(pid: int) -> list[int]:
    descendants: list[int] = []
    with contextlib.suppress(OSError):
        for task in Path(f"/proc/{pid}/task").glob("*/children"):
            for child in task.read_text().split():
                descendants += [int(child), *_descendants(int(child))]
    return descendants


def _kind(words: str, first: bool) -> str:
    if "granian" in words:
        return "server" if first else "server process"
    if "work --one" in words:
        return "worker"
    if "manage.py work" in words:
        return "keeper of the workers"
    return "child"


@contextlib.contextmanager
def running() -> Iterator[Studio]:
    home = data_home().parent / f"torture-{os.getpid()}"
    home.mkdir(parents=True)
    before = os.environ.get("FAIR_TEXEL_HOME")
    os.environ["FAIR_TEXEL_HOME"] = str(home)
    os.environ.pop("FAIR_TEXEL_DATABASE", None)
    disk = home / "disk"
    disk.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={_DISK_MB}m", "tmpfs", str(disk)], capture_output=True
    ).returncode == 0  # fmt: skip
    port = free_port(8700)
    env = {
        **os.environ, "FAIR_TEXEL_DATABASE": ensure_server(), "FAIR_TEXEL_DATABASE_OWN": "1",
        "FAIR_TEXEL_STORE": str(disk / "store"), "FAIR_TEXEL_DELIVERIES": str(disk / "deliveries"),
        "PYTHONUNBUFFERED": "1",
    }  # fmt: skip
    studio = Studio(home, f"http://127.0.0.1:{port}", env, mounted)
    try:
        manage(env, "migrate", "--no-input", "-v", "0")
        script = (
            "from django.contrib.auth.models import User; from studio.people.models import AccessToken;"
            "print(AccessToken.make(User.objects.create_user('ada'), 'torture'))"
        )
        studio.token = manage(env, "shell", "-v", "0", "-c", script).strip().splitlines()[-1]
        log = (home / "studio.log").open("ab")
        studio.supervisor = subprocess.Popen(
            supervisor_command(port), cwd=CHECKOUT, env=env, stdout=log, stderr=log, start_new_session=True
        )
        studio.until_well()
        yield studio
    finally:
        if studio.supervisor is not None:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(studio.supervisor.pid, signal.SIGTERM)
            studio.supervisor.wait()
        stop_server()
        if mounted:
            subprocess.run(["umount", "-l", str(disk)], check=False)
        if os.environ.get("FAIR_TEXEL_KEEP") != "1":
            shutil.rmtree(home, ignore_errors=True)
        if before is None:
            os.environ.pop("FAIR_TEXEL_HOME")
        else:
            os.environ["FAIR_TEXEL_HOME"] = before


def manage(env: dict[str, str], *words: str) -> str:
    command = [sys.executable, "manage.py", *words]
    return subprocess.run(command, cwd=CHECKOUT, env=env, capture_output=True, text=True, check=True).stdout
