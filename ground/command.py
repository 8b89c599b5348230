"""The commands of ./ft."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import IO

from ground import postgres, processes, setup
from ground.places import CHECKOUT, VENV_PYTHON, folder

__all__ = ["main"]

_WEB = CHECKOUT / "web"
_JOURNEYS, _STUDIO_TESTS = ("tests/journeys",), ("tests/studio",)
_PAGE_TESTS = ("npm", "run", "--silent", "test")
_OF_A_STUDIO = {"remote": "remote.cli", "project": "remote.projects"}
_CORE_TESTS = ("tests/core", "tests/standards", "tests/ground", "texel")


def _exec(command: Sequence[str], env: dict[str, str] | None = None, cwd=CHECKOUT) -> int:
    try:
        return subprocess.run(list(command), cwd=cwd, env=env).returncode
    except KeyboardInterrupt:
        return 130


def _manage(database: str, *words: str, env: dict[str, str] | None = None) -> int:
    return _exec([str(VENV_PYTHON), "manage.py", *words], env or processes.environment(database))


def _ready() -> str:
    """Everything set up, the database started and migrated; returns its address."""
    setup.ensure_system()
    setup.ensure_python()
    setup.build_page()
    return _database()


def _database() -> str:
    print("ft: starting the database ...", flush=True)
    database = postgres.database()
    if _manage(database, "migrate", "--no-input", "-v", "0") != 0:
        raise setup.SetupFailed("migrating the database failed; the messages above say why")
    return database


def _start_all(database: str) -> tuple[str, dict[str, str]]:
    """Address and environment of what was started."""
    _stop_processes()
    port = processes.choose_port()
    env = processes.with_library(processes.environment(database))
    processes.start_background("studio", processes.supervisor_command(port), env, port=port)
    return processes.wait_until_up(port), env


def demo(words: list[str]) -> int:
    """Set up, make the demo data, start everything in the background, print address and sign-in."""
    database = _ready()
    address, env = _start_all(database)
    code = _manage(database, "demo", "--address", address, env=env)
    if code == 0:
        print("     Stop it with ./ft stop.")
    return code


def serve(words: list[str]) -> int:
    """Start server and workers in the foreground and keep them running; Ctrl-C stops them: serve [--no-workers]."""
    if set(words) - {"--no-workers"}:
        print("ft: ./ft serve takes --no-workers and nothing else", file=sys.stderr)
        return 2
    database = _ready()
    _stop_processes()
    port = processes.choose_port()
    env = processes.environment(database) | ({"FAIR_TEXEL_WORKERS": "0"} if words else {})
    print(
        f"ft: serving at http://{processes.bound_to()}:{port}; make an account with ./ft manage createsuperuser",
        flush=True,
    )
    return _exec(processes.supervisor_command(port), env)


def library(words: list[str]) -> int:
    """The stand-in scan library: serve PORT, publish SURFACE (a new revision), or key (of its account)."""
    setup.ensure_python()
    place = str(folder("library"))
    what, *rest = words or ["key"]
    return _exec([str(VENV_PYTHON), "-m", "scanlibrary", what, place, *rest])


def worker(words: list[str]) -> int:
    """Run workers in the foreground."""
    return _exec(processes.worker_command(), processes.environment(_ready()))


def _stop_processes() -> list[str]:
    # The server and the workers by themselves are of before there was a supervisor.
    return [name for name in ("studio", "server", "worker") if processes.stop_background(name)]


def stop(words: list[str]) -> int:
    """Stop the studio and its database."""
    stopped = _stop_processes() + (["database"] if postgres.stop_server() else [])
    print(f"ft: stopped {', '.join(stopped)}" if stopped else "ft: nothing was running")
    return 0


def test(words: list[str]) -> int:
    """Set everything up and run all tests; words go to pytest (then only pytest runs)."""
    setup.ensure_system(tests=True)
    setup.ensure_python(development=True)
    setup.build_page()
    pytest = [str(VENV_PYTHON), "-m", "pytest"]
    if words:
        return _exec([*pytest, *words])
    env = {**os.environ, "FAIR_TEXEL_DATABASE": postgres.database()}
    print("ft: testing journeys, and beside them studio, core and page, which report at the end ...", flush=True)
    # The browser's patience has limits, so it and its workers go first; the others take what they leave.
    late = ["nice", "-n", "10"]
    beside = [([*late, *pytest, *_STUDIO_TESTS], CHECKOUT), ([*late, *pytest, *_CORE_TESTS], CHECKOUT)]
    lanes = _Lanes([*beside, ([*late, *_PAGE_TESTS], _WEB)], env)
    try:
        lanes.open()
        journeys = _exec([*pytest, *_JOURNEYS], env)
        lanes.open()
        lanes.join()
    except KeyboardInterrupt:
        lanes.stop()
        return 130
    lanes.report()
    return journeys or lanes.code


class _Lanes:
    """Commands of a queue, as many at a time as lanes are open. code: of one that failed, 0 when all went well."""

    def __init__(self, commands: Sequence[tuple[Sequence[str], Path]], env: dict[str, str]):
        self.code = 0
        self._waiting, self._env = list(commands), env
        self._started: list[tuple[subprocess.Popen[bytes], IO[bytes]]] = []
        self._lanes: list[threading.Thread] = []
        self._lock = threading.Lock()

    def open(self) -> None:
        lane = threading.Thread(target=self._run, daemon=True)
        self._lanes.append(lane)
        lane.start()

    def _run(self) -> None:
        while (process := self._next()) is not None:
            self.code = process.wait() or self.code

    def _next(self) -> subprocess.Popen[bytes] | None:
        with self._lock:
            if not self._waiting:
                return None
            command, place = self._waiting.pop(0)
            said = tempfile.TemporaryFile()  # noqa: SIM115 - it is read when the command has ended
            process = subprocess.Popen(command, cwd=place, env=self._env, stdout=said, stderr=subprocess.STDOUT)
            self._started.append((process, said))
            return process

    def join(self) -> None:
        for lane in self._lanes:
            lane.join()

    def stop(self) -> None:
        with self._lock:
            self._waiting.clear()
            for process, _ in self._started:
                process.terminate()
        self.join()

    def report(self) -> None:
        """Print what each command said, one after the other."""
        for _, said in self._started:
            said.seek(0)
            print(said.read().decode(errors="replace"), flush=True)


def lint(words: list[str]) -> int:
    """Formatters, linters, type checkers and import contracts of both languages."""
    setup.ensure_python(development=True)
    setup.ensure_node_packages()
    python = [str(VENV_PYTHON), "-m"]
    steps: list[tuple[list[str], object]] = [
        ([*python, "ruff", "format", "--check", "-q", "."], CHECKOUT),
        ([*python, "ruff", "check", "-q", "."], CHECKOUT),
        ([*python, "mypy"], CHECKOUT),
        ([str(VENV_PYTHON.parent / "lint-imports"), "--no-cache"], CHECKOUT),
        (["npm", "run", "--silent", "lint"], _WEB),
        (["npm", "run", "--silent", "check"], _WEB),
    ]
    return max(_exec(command, cwd=cwd) for command, cwd in steps)


def format_code(words: list[str]) -> int:
    """Format both languages."""
    setup.ensure_python(development=True)
    setup.ensure_node_packages()
    python = _exec([str(VENV_PYTHON), "-m", "ruff", "format", "-q", "."])
    return python or _exec(["npm", "run", "--silent", "format"], cwd=_WEB)


def texel(words: list[str]) -> int:
    """The core's command line, and `texel remote` and `texel project`, which speak to a studio; without a word it lists
    its commands."""
    _quietly(setup.ensure_python)
    env = {**os.environ, "PYTHONPATH": str(CHECKOUT)}
    if words[:1] and words[0] in _OF_A_STUDIO:
        return _exec([str(VENV_PYTHON), "-m", _OF_A_STUDIO[words[0]], *words[1:]], env, cwd=os.getcwd())
    return _exec([str(VENV_PYTHON), "-m", "texel", *words], env, cwd=os.getcwd())


def _quietly(step: Callable[[], None]) -> None:
    """Set-up messages go to standard error: standard output belongs to the command's document."""
    kept, sys.stdout = sys.stdout, sys.stderr
    try:
        step()
    finally:
        sys.stdout = kept


def _managed(name: str, words: list[str]) -> int:
    """One of the server's own commands, on the database of this checkout."""
    setup.ensure_system()
    setup.ensure_python()
    env = {**os.environ, "FAIR_TEXEL_DATABASE": postgres.database()}
    return _exec([str(VENV_PYTHON), "manage.py", name, *words], env)


def backup(words: list[str]) -> int:
    """Write a backup of database, stored files and deliveries: ./ft backup FOLDER."""
    return _managed("backup", [str(Path(word).absolute()) for word in words])


def restore(words: list[str]) -> int:
    """Make an empty machine the studio of a backup: ./ft restore FOLDER."""
    return _managed("restore", [str(Path(word).absolute()) for word in words])


def doctor(words: list[str]) -> int:
    """Look whether all that the database refers to is stored and whole: ./ft doctor [--mend]."""
    return _managed("doctor", words)


def bench(words: list[str]) -> int:
    """Measure speed, as ratios to a reference in the same run."""
    setup.ensure_python(development=True)
    return _exec([str(VENV_PYTHON), "-m", "bench", *words])


def fuzz(words: list[str]) -> int:
    """Try every reader on damaged files: ./ft fuzz [SECONDS [SEED]]."""
    setup.ensure_python(development=True)
    return _exec([str(VENV_PYTHON), "-m", "bench.fuzz", *words])


def torture(words: list[str]) -> int:
    """Kill processes, restart the database, fill the disk while people work: ./ft torture [KILLS [RESTARTS]]."""
    setup.ensure_system()
    setup.ensure_python(development=True)
    return _exec([str(VENV_PYTHON), "-m", "bench.torture", *words])


def manage(words: list[str]) -> int:
    """Django's own commands, for example createsuperuser."""
    setup.ensure_system()
    setup.ensure_python()
    return _manage(postgres.database(), *words)


def lock(words: list[str]) -> int:
    """Renew the lock files, without a host name in them."""
    setup.ensure_python(development=True)
    return _exec([str(VENV_PYTHON), "-m", "ground.locks"])


COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "demo": demo,
    "test": test,
    "serve": serve,
    "worker": worker,
    "library": library,
    "stop": stop,
    "backup": backup,
    "restore": restore,
    "doctor": doctor,
    "bench": bench,
    "fuzz": fuzz,
    "torture": torture,
    "texel": texel,
    "lint": lint,
    "format": format_code,
    "manage": manage,
    "lock": lock,
}


def main(words: list[str]) -> int:
    """Run one command; 2 for bad usage, 1 when setting up failed."""
    if not words or words[0] not in COMMANDS:
        for name, run in COMMANDS.items():
            print(f"  ./ft {name:<8} {(run.__doc__ or '').strip()}")
        return 0 if words[:1] in (["help"], ["--help"], ["-h"]) else 2
    try:
        return COMMANDS[words[0]](words[1:])
    except setup.SetupFailed as error:
        print(f"ft: {error}", file=sys.stderr)
        return 1
