"""The pool of children: so many on this machine, so much memory and time for each, a fair queue by person."""

from __future__ import annotations

import fcntl
import json
import logging
import multiprocessing
import os
import threading
import time
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path

from django.conf import settings

from studio.apart.work import Busy, Ended, Made, error_of, run_apart_by

__all__ = ["Pool", "open_pool"]

_log = logging.getLogger(__name__)
_LOOK_SECONDS = 0.05
_PAGE = os.sysconf("SC_PAGE_SIZE")


class _Child:
    """One process and the line to it. near: what it worked on last."""

    def __init__(self, memory: int, threads: int):
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["studio.apart.child"])
        self.line, there = context.Pipe()
        # Not a module of the web server: it is loaded in the fork server, and in its children.
        self.process = context.Process(target=_serve, args=(there, os.getpid(), memory, threads), daemon=True)
        self.process.start()
        there.close()
        self.memory, self.near, self.idle_since = memory, "", time.monotonic()

    def run(self, work: str, arguments: Mapping[str, object], seconds: float) -> Made:
        """Raises Ended, and whatever the work raised."""
        until = time.monotonic() + seconds
        try:
            self.line.send_bytes(json.dumps({"work": work, "arguments": arguments}).encode())
            while not self.line.poll(_LOOK_SECONDS):
                self._within(until, seconds)
            head = json.loads(self.line.recv_bytes())
            data = self.line.recv_bytes()
        except (EOFError, OSError):
            self.end()
            raise Ended("One of the files ended the process that read it; it is broken in a way that no reader "
                        "survives.") from None  # fmt: skip
        if head.get("error") == "memory":
            self.end()
            raise self._too_much_memory()
        if "error" in head:
            raise error_of(head)
        return Made(data, head["said"])

    def _within(self, until: float, seconds: float) -> None:
        if time.monotonic() > until:
            self.end()
            raise Ended("This took longer than the {seconds:g} seconds that one picture may take.", seconds=seconds)
        if self._used() > self.memory:
            self.end()
            raise self._too_much_memory()

    def _too_much_memory(self) -> Ended:
        return Ended(
            "This took more than the {memory} MB of memory that one picture may take.", memory=self.memory >> 20
        )

    def _used(self) -> int:
        """Bytes of memory that the process holds."""
        try:
            return int(Path(f"/proc/{self.process.pid}/statm").read_text().split()[1]) * _PAGE
        except (OSError, IndexError):
            return 0

    @property
    def alive(self) -> bool:
        return self.process.is_alive()

    def end(self) -> None:
        self.process.kill()
        self.process.join(5)
        self.line.close()


def _serve(line: Connection, server: int, memory: int, threads: int) -> None:
    from studio.apart.child import serve

    serve(line, server, memory, threads)


class Pool:
    """processes: at work at a time on the machine, counted over all web servers by locks in ``folder``.

    own_share, everybody: how many pieces of work of one person, and of all, may wait here. patience: seconds that one
    waits at most for its turn.
    """

    def __init__(
        self, processes: int, memory: int, seconds: float, folder: Path, own_share: int = 32, everybody: int = 200,
        patience: float = 30, idle: float = 60,
    ):  # fmt: skip
        self.processes, self.memory, self.seconds, self.folder = processes, memory, seconds, folder
        self.own_share, self.everybody, self.patience, self.idle = own_share, everybody, patience, idle
        self._threads = max(1, (os.cpu_count() or 1) // processes)
        self._children: list[_Child] = []
        self._at_work = 0
        # Who waits, in the order of turns; served counts what each has had lately, so that turns go round.
        self._waiting: list[tuple[int, object]] = []
        self._served: Counter[int] = Counter()
        self._turn = threading.Condition()

    def run(self, work: str, arguments: Mapping[str, object], person: int, near: str = "") -> Made:
        """Do a piece of work when it is its turn. Raises Busy, Ended, and what the work raises."""
        with self._own_turn(person), self._slot():
            child = self._taken(near)
            try:
                return child.run(work, arguments, self.seconds)
            finally:
                self._give_back(child, near)

    @contextmanager
    def _own_turn(self, person: int) -> Iterator[None]:
        ticket = (person, object())
        until = time.monotonic() + self.patience
        with self._turn:
            if sum(one == person for one, _ in self._waiting) >= self.own_share:
                raise Busy(429, "You have asked for very many pictures at once. Try again in a moment.")
            if len(self._waiting) >= self.everybody:
                raise Busy(503, "The studio is busy. Try again in a moment.")
            self._waiting.append(ticket)
            try:
                while self._at_work >= self.processes or self._next() is not ticket:
                    if not self._turn.wait(max(0.0, until - time.monotonic())) and time.monotonic() >= until:
                        raise Busy(503, "The studio is busy. Try again in a moment.")
                self._at_work += 1
                self._served[person] += 1
            finally:
                self._waiting.remove(ticket)
                self._turn.notify_all()
        try:
            yield
        finally:
            with self._turn:
                self._at_work -= 1
                if not self._waiting and not self._at_work:
                    self._served.clear()
                self._turn.notify_all()

    def _next(self) -> tuple[int, object]:
        """Whose turn it is: of those who had least, the one who has waited longest."""
        return min(self._waiting, key=lambda one: self._served[one[0]])

    @contextmanager
    def _slot(self) -> Iterator[None]:
        """One of the machine's places, which the system frees however this process ends."""
        self.folder.mkdir(parents=True, exist_ok=True)
        until = time.monotonic() + self.patience
        while True:
            for number in range(self.processes):
                held = os.open(self.folder / str(number), os.O_RDWR | os.O_CREAT, 0o600)
                try:
                    fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
                except OSError:
                    os.close(held)
                    continue
                try:
                    yield
                finally:
                    os.close(held)
                return
            if time.monotonic() > until:
                raise Busy(503, "The studio is busy. Try again in a moment.")
            time.sleep(_LOOK_SECONDS / 5)

    def _taken(self, near: str) -> _Child:
        """A child that is free: the one that still holds what is asked for, else the one that rested longest."""
        with self._turn:
            free = self._rested()
            child = next((one for one in free if near and one.near == near), None)
            child = child or min(free, key=lambda one: one.idle_since, default=None)
            if child is not None:
                self._children.remove(child)
                return child
        return _Child(self.memory, self._threads)

    def _rested(self) -> list[_Child]:
        """The children that are free; those that nobody has needed for long, and that ended, are let go."""
        now = time.monotonic()
        gone = [one for one in self._children if not one.alive or now - one.idle_since > self.idle]
        for one in gone:
            self._children.remove(one)
            one.end()
        return self._children

    def _give_back(self, child: _Child, near: str) -> None:
        with self._turn:
            child.near, child.idle_since = near, time.monotonic()
            if child.alive and not child.line.closed:
                self._children.append(child)

    def close(self) -> None:
        with self._turn:
            for one in self._children:
                one.end()
            self._children.clear()


def open_pool() -> Pool:
    """This web server's pool, by the settings; risky work is done by it from now on."""
    made = Pool(settings.APART_PROCESSES, settings.APART_BYTES, settings.APART_SECONDS, settings.HOME / "apart")
    run_apart_by(made.run)
    return made
