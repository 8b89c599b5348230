"""Keeps database, server, workers and the watcher of folders running: what ends is started again, later each time that
it ends at once."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from ground import postgres, processes
from ground.places import CHECKOUT
from ground.setup import SetupFailed

__all__ = ["Part", "pause_after", "supervise"]

_LOOK_SECONDS = 0.25
_DATABASE_SECONDS = 3.0
_LONGEST_PAUSE = 30.0
# Who has run for so long has started well: the next end is a new matter.
_LASTED_SECONDS = 10.0
_PATIENCE = 5.0


def pause_after(ends: int) -> float:
    """Seconds before a part is started again that has ended so many times in a row soon after its start.

    >>> [pause_after(ends) for ends in (1, 2, 3, 10)]
    [0.5, 1.0, 2.0, 30.0]
    """
    return min(_LONGEST_PAUSE, 0.5 * 2 ** (ends - 1))


@dataclass
class Part:
    """One process that shall run."""

    name: str
    command: Sequence[str]
    env: dict[str, str]
    process: subprocess.Popen | None = None
    ends: int = 0
    started: float = 0.0
    start_at: float = field(default_factory=time.monotonic)

    def look(self) -> None:
        """Start it when it is time; notice when it has ended."""
        now = time.monotonic()
        if self.process is None:
            if now >= self.start_at:
                self.process, self.started = subprocess.Popen(self.command, cwd=CHECKOUT, env=self.env), now
            return
        code = self.process.poll()
        if code is None:
            return
        self.ends = 1 if now - self.started > _LASTED_SECONDS else self.ends + 1
        pause = pause_after(self.ends)
        print(f"ft: {self.name} ended with {code}; it is started again in {pause:g} s", file=sys.stderr, flush=True)
        self.process, self.start_at = None, now + pause

    def stop(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(_PATIENCE)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


def supervise(parts: Sequence[Part], own_database: bool) -> int:
    """Keep parts running until this process is asked to end. own_database: whether its server is looked after too."""
    stopping = False

    def stop(number: int, frame: object) -> None:
        nonlocal stopping
        stopping = True

    signal.signal(signal.SIGTERM, stop)
    signal.signal(signal.SIGINT, stop)
    look_at = 0.0
    try:
        while not stopping:
            if own_database and time.monotonic() >= look_at:
                look_at = time.monotonic() + _DATABASE_SECONDS
                _keep_database()
            for part in parts:
                part.look()
            time.sleep(_LOOK_SECONDS)
    finally:
        for part in parts:
            part.stop()
    return 0


def _keep_database() -> None:
    try:
        postgres.ensure_server()
    except (SetupFailed, OSError, subprocess.SubprocessError) as error:
        print(f"ft: the database does not start: {error}", file=sys.stderr, flush=True)


def main(words: Sequence[str]) -> int:
    """PORT: supervise the server on that port, the workers and the watcher of folders, with the environment at hand."""
    env = dict(os.environ)
    parts = [Part("the server", processes.server_command(int(words[0])), env)]
    if env.get("FAIR_TEXEL_WORKERS") != "0":
        parts.append(Part("the workers", processes.worker_command(), env))
        parts.append(Part("the watcher of folders", processes.watcher_command(), env))
    if env.get("FAIR_TEXEL_LIBRARY_PORT"):
        command = processes.library_command(int(env["FAIR_TEXEL_LIBRARY_PORT"]))
        parts.append(Part("the scan library", command, env))
    own = env.get("FAIR_TEXEL_DATABASE_OWN") == "1"
    return supervise(parts, own)


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
