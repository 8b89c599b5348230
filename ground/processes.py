"""The application's processes: the web server and the workers, started in the background and stopped again."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import time
import urllib.request
from pathlib import Path

from ground.places import CHECKOUT, VENV_PYTHON, folder
from ground.postgres import free_port, is_free
from ground.setup import SetupFailed

__all__ = [
    "LIBRARY", "environment", "library_command", "server_command", "start_background",
    "stop_background", "supervisor_command", "wait_until_up",
    "watcher_command", "with_library", "worker_command",
]  # fmt: skip

_FIRST_PORT = 8000
_LIBRARY_PORT = 8200
# What the stand-in library is called in the studio.
LIBRARY = "Tin Library"
_PATIENCE = 60.0


def environment(database: str) -> dict[str, str]:
    """The environment of the application's processes."""
    # A database that somebody else named is somebody else's to look after.
    own = "0" if os.environ.get("FAIR_TEXEL_DATABASE") else "1"
    return {
        **os.environ, "FAIR_TEXEL_DATABASE": database, "FAIR_TEXEL_DATABASE_OWN": own,
        "FAIR_TEXEL_HOME": str(folder()), "PYTHONUNBUFFERED": "1",
    }  # fmt: skip


def bound_to() -> str:
    """The address of this machine that the server listens on: loopback, unless FAIR_TEXEL_BIND names another one."""
    return os.environ.get("FAIR_TEXEL_BIND") or "127.0.0.1"


def server_command(port: int) -> list[str]:
    """granian, two workers; open event streams would hold a stop up, hence the kill timeout."""
    return [
        str(VENV_PYTHON), "-m", "granian", "--interface", "asginl", "--host", bound_to(), "--port", str(port),
        "--workers", "2", "--workers-kill-timeout", "3", "--respawn-failed-workers", "--respawn-interval", "0.5",
        "--no-ws", "--log-level", "warning", "studio.asgi:application",
    ]  # fmt: skip


def worker_command() -> list[str]:
    return [str(VENV_PYTHON), "manage.py", "work"]


def watcher_command() -> list[str]:
    return [str(VENV_PYTHON), "manage.py", "watch"]


def library_command(port: int) -> list[str]:
    """The stand-in scan library on loopback."""
    return [str(VENV_PYTHON), "-m", "scanlibrary", "serve", str(folder("library")), str(port)]


def with_library(env: dict[str, str]) -> dict[str, str]:
    """The environment of an application that uses the stand-in library, on a port of its own."""
    if env.get("FAIR_TEXEL_SCAN_LIBRARIES"):
        return env
    port = free_port(_LIBRARY_PORT)
    address = f"{LIBRARY}=http://127.0.0.1:{port}"
    return {**env, "FAIR_TEXEL_LIBRARY_PORT": str(port), "FAIR_TEXEL_SCAN_LIBRARIES": address}


def _record(name: str) -> Path:
    return folder("run") / f"{name}.json"


def start_background(name: str, command: list[str], env: dict[str, str], **facts: object) -> None:
    """Start a process that outlives this one; its output goes to a log in the data folder."""
    with (folder("log") / f"{name}.log").open("ab") as log:
        process = subprocess.Popen(
            command, cwd=CHECKOUT, env=env, stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True
        )
    _record(name).write_text(json.dumps({"pid": process.pid, "started": _start_time(process.pid), **facts}))


def _start_time(pid: int) -> str | None:
    """When the kernel started a process: tells it from a later one with the same number."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return None


def running(name: str) -> dict | None:
    """What was recorded of a background process that still runs, else None."""
    try:
        record = json.loads(_record(name).read_text())
    except (OSError, ValueError):
        return None
    return record if record["started"] and _start_time(record["pid"]) == record["started"] else None


def stop_background(name: str) -> bool:
    """Ask the process group to end, insist after five seconds. Returns whether there was one."""
    record = running(name)
    _record(name).unlink(missing_ok=True)
    if record is None:
        return False
    for number, patience in ((signal.SIGTERM, 5.0), (signal.SIGKILL, 2.0)):
        try:
            os.killpg(record["pid"], number)
        except ProcessLookupError:
            return True
        deadline = time.monotonic() + patience
        while time.monotonic() < deadline:
            if _start_time(record["pid"]) != record["started"] or _is_zombie(record["pid"]):
                return True
            time.sleep(0.05)
    return True


def _is_zombie(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except OSError:
        return True


def supervisor_command(port: int) -> list[str]:
    return [str(VENV_PYTHON), "-m", "ground.supervisor", str(port)]


def choose_port() -> int:
    """The port that was asked for, or the next free one. Raises SetupFailed for one that somebody else has: the server
    could share it, and each would get some of the other's requests."""
    wanted = os.environ.get("FAIR_TEXEL_PORT")
    if not wanted:
        return free_port(_FIRST_PORT)
    port = int(wanted)
    if not is_free(port):
        raise SetupFailed(f"port {port} is taken. What to do: choose another one by FAIR_TEXEL_PORT")
    return port


def wait_until_up(port: int, name: str = "studio") -> str:
    """Wait for the server's answer and return its address. Raises SetupFailed."""
    address = f"http://127.0.0.1:{port}"
    deadline = time.monotonic() + _PATIENCE
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    while time.monotonic() < deadline:
        try:
            with opener.open(f"{address}/api/session", timeout=5) as answer:
                if answer.status == 200:
                    return address
        except OSError:
            time.sleep(0.2)
    raise SetupFailed(f"the server does not answer at {address}. What to do: read {folder('log') / (name + '.log')}")
