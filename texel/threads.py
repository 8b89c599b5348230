"""How many threads a process may use: all that the machine has, or a share of them while others work too."""

from __future__ import annotations

import fcntl
import os
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import cv2

__all__ = ["each", "may_use", "take_part"]

_SETTING = "FAIR_TEXEL_THREADS"
# Others come and go in seconds; looking for them more often than this is not worth its time.
_LOOK_SECONDS = 0.1
_inside = threading.local()
_Given = TypeVar("_Given")
_Made = TypeVar("_Made")


class _Share:
    """Where those who share the machine show that they are there, and what was seen of them last."""

    folder: Path | None = None
    own: int | None = None
    process = 0
    looked = 0.0
    others = 0
    count = 0
    busy = 0
    told_opencv = 0
    lock = threading.Lock()


def _before_fork() -> None:
    """OpenCV's threads do not come along into a forked process, which would wait for ever: so none are left."""
    _Share.lock.acquire()
    cv2.setNumThreads(1)
    _Share.told_opencv = 1


def _after_fork_here() -> None:
    _tell_opencv()
    _Share.lock.release()


def _after_fork_there() -> None:
    _Share.lock = threading.Lock()
    _Share.busy, _Share.count, _Share.looked = 0, 0, 0.0
    _inside.work = False


os.register_at_fork(before=_before_fork, after_in_parent=_after_fork_here, after_in_child=_after_fork_there)


def _in_all() -> int:
    """Threads for all processes together: the setting FAIR_TEXEL_THREADS, or one for each core that may be used."""
    given = os.environ.get(_SETTING, "")
    return max(1, int(given)) if given.isdigit() else len(os.sched_getaffinity(0))


def take_part(folder: Path) -> None:
    """From now on this process shares the machine with all others that take part in ``folder``, until it ends.

    Each holds a lock on a file of its own there, which the system lets go of however a process ends.
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / str(os.getpid())
    while True:
        own = os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
        fcntl.flock(own, fcntl.LOCK_EX)
        # Another one may have taken it for left over between the two lines, and cleared it away.
        if path.exists() and path.stat().st_ino == os.fstat(own).st_ino:
            break
        os.close(own)
    _Share.folder, _Share.own, _Share.process, _Share.looked = folder, own, os.getpid(), 0.0


def may_use() -> int:
    """Threads that this process may use now, at least one: its share among those that work at this moment."""
    count = _in_all()
    if _Share.folder is not None:
        count = max(1, count // (1 + _others(_Share.folder)))
    if count != _Share.count:
        with _Share.lock:
            _Share.count = count
            _tell_opencv()
    return count


def _others(folder: Path) -> int:
    now = time.monotonic()
    if now - _Share.looked > _LOOK_SECONDS:
        _Share.looked, _Share.others = now, sum(map(_at_work, folder.iterdir()))
    return _Share.others


def _at_work(path: Path) -> bool:
    """Whether another process holds the file; a file that nobody holds is cleared away."""
    if path.name == str(_Share.process):
        return False
    try:
        handle = os.open(path, os.O_RDWR)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        path.unlink(missing_ok=True)
        return False
    except OSError:
        return True
    finally:
        os.close(handle)


def each(work: Callable[[_Given], _Made], items: Iterable[_Given], threads: int | None = None) -> list[_Made]:
    """``work`` on every item, in order, by as many threads as may be used, or fewer. Raises what ``work`` raises.

    Inside such work it is done by the one thread that is there.
    """
    items = list(items)
    count = 1 if getattr(_inside, "work", False) else min(threads or may_use(), len(items))
    if count <= 1:
        return [work(item) for item in items]
    with _opencv_by_itself(), ThreadPoolExecutor(count, initializer=_alone) as pool:
        return list(pool.map(work, items))


def _alone() -> None:
    _inside.work = True


@contextmanager
def _opencv_by_itself() -> Iterator[None]:
    """While threads of ours work, OpenCV starts none of its own: they would wait for each other."""
    with _Share.lock:
        _Share.busy += 1
        _tell_opencv()
    try:
        yield
    finally:
        with _Share.lock:
            _Share.busy -= 1
            _tell_opencv()


def _tell_opencv() -> None:
    wanted = 1 if _Share.busy else _Share.count or _in_all()
    if wanted != _Share.told_opencv:
        cv2.setNumThreads(wanted)
        _Share.told_opencv = wanted
