"""Share one job's work out over processes: each takes the next piece, and one that dies takes only its own along."""

from __future__ import annotations

import multiprocessing
import os
import time
import traceback
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from django.conf import settings
from django.db import OperationalError, connections

from studio.jobs.away import AWAY
from studio.jobs.lifeline import die_with
from studio.jobs.progress import LeaseLost, Progress
from texel.threads import may_use, take_part

__all__ = ["Shared", "share_out"]

Piece = TypeVar("Piece")

_POLL_SECONDS = 0.05
# Below this, starting processes costs more than it saves.
_FEW = 4
_FINISHED, _LOST, _FAILED, _AWAY = 0, 3, 4, 5


@dataclass
class Shared(Generic[Piece]):
    """total: sum of what the work returned. ended: pieces during which their process died."""

    total: int = 0
    ended: list[Piece] = field(default_factory=list)


def share_out(
    pieces: Sequence[Piece], work: Callable[[Piece], int], progress: Progress, processes: int, apart: bool = False
) -> Shared[Piece]:
    """Do ``work`` for every piece; several at a time in child processes, reported as one progress.

    processes: at most; not more than the threads that this job may use. apart: even a few pieces are done in child
    processes, since one may end the process that does it.
    work: writes its own results to the database, guarded by the job's attempt. Raises LeaseLost, and RuntimeError
    when a process fails by an error of its own.
    """
    results = Shared[Piece]()
    processes = min(processes, may_use())
    if not apart and (processes <= 1 or len(pieces) < _FEW):
        for at, piece in enumerate(pieces):
            progress.report(at, len(pieces))
            results.total += work(piece)
        return results
    context = multiprocessing.get_context("fork")
    shared = _Shared(context, pieces)
    children: dict[int, Any] = {}
    try:
        while True:
            free = [slot for slot in range(max(1, min(processes, len(pieces)))) if slot not in children]
            if free and shared.more():
                # Before every fork: reporting has opened a connection since the last one.
                _let_go()
                children.update({slot: shared.start(slot, work) for slot in free})
            if not children:
                break
            time.sleep(_POLL_SECONDS)
            for slot, child in list(children.items()):
                if child.exitcode is None:
                    continue
                del children[slot]
                if child.exitcode == _LOST:
                    raise LeaseLost
                if child.exitcode == _AWAY:
                    raise OperationalError("the database is away")
                if child.exitcode == _FAILED:
                    raise RuntimeError("a process that shares the work failed; the worker's log says why")
                if child.exitcode != _FINISHED:
                    results.ended.append(shared.at_work(slot))
            progress.report(min(shared.done(), len(pieces) - 1), len(pieces))
    finally:
        for child in children.values():
            child.kill()
            child.join()
    results.total = shared.total()
    return results


def _let_go() -> None:
    """Close every connection, and the pool that keeps them: a forked child must not use its parent's."""
    for connection in connections.all():
        connection.close()
        close_pool = getattr(connection, "close_pool", None)
        if close_pool is not None:
            close_pool()


def _without_pool() -> None:
    """Connect directly from now on: a pool is served by threads, and those of a forked process may wait for ever for
    what a thread of its parent held. One thread needs one connection anyway."""
    for connection in connections.all():
        connection.settings_dict["OPTIONS"] = {**connection.settings_dict.get("OPTIONS", {}), "pool": False}


class _Shared(Generic[Piece]):
    """What parent and children count together."""

    def __init__(self, context: Any, pieces: Sequence[Piece]):
        self._context, self._pieces = context, pieces
        self._next = context.Value("l", 0)
        self._done = context.Value("l", 0)
        self._total = context.Value("l", 0)
        self._at = context.Array("l", 64)

    def more(self) -> bool:
        made: bool = self._next.value < len(self._pieces)
        return made

    def done(self) -> int:
        made: int = self._done.value
        return made

    def total(self) -> int:
        made: int = self._total.value
        return made

    def at_work(self, slot: int) -> Piece:
        made: Piece = self._pieces[self._at[slot]]
        return made

    def start(self, slot: int, work: Callable[[Piece], int]) -> Any:
        child = self._context.Process(target=self._run, args=(slot, work, os.getpid()))
        child.start()
        return child

    def _run(self, slot: int, work: Callable[[Piece], int], parent: int) -> None:
        die_with(parent)
        take_part(settings.AT_WORK)
        _without_pool()
        code = _FINISHED
        try:
            while True:
                with self._next.get_lock():
                    at = self._next.value
                    if at >= len(self._pieces):
                        break
                    self._next.value = at + 1
                self._at[slot] = at
                result = work(self._pieces[at])
                with self._total.get_lock():
                    self._total.value += result
                with self._done.get_lock():
                    self._done.value += 1
        except LeaseLost:
            code = _LOST
        except AWAY:
            traceback.print_exc()
            code = _AWAY
        except Exception:
            traceback.print_exc()
            code = _FAILED
        connections.close_all()
        # Without the parent's clean-up at exit, which is not this process's to do.
        os._exit(code)
