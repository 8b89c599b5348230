"""A folder that deliveries are kept in step with: as a whole or not at all, one at a time, never over a stranger.

New files are written beside their place, into ``.fair-texel/incoming``. Then a journal says what is going to move, the
former files move to ``.fair-texel/former`` and the new ones into their place. When all of them are there, the journal
is renamed to say so, and the ledger follows. Who finds a journal knows that somebody was interrupted: before that
moment the former files are put back, after it the rest is done. So the folder holds the former delivery or the new one
whenever nobody is moving files in it.
"""

from __future__ import annotations

import errno
import fcntl
import json
import os
import shutil
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from texel import digest
from texel.delivery.drift import Choice, Drift, Kind, drift_of
from texel.delivery.ledger import OURS, Known, Ledger, read_ledger, write_ledger
from texel.delivery.manifest import RESERVED
from texel.errors import BadDocument, DeliveryRefused, PlaceBusy
from texel.files.writing import write_bytes
from texel.schemas import load_json

__all__ = ["Brought", "Drifted", "FolderPlace"]

_JOURNAL, _DONE, _INCOMING, _FORMER, _LOCK = "journal.json", "done.json", "incoming", "former", "lock"
_NEXT = "ledger.next.json"
_POLL_SECONDS = 0.1
_CHUNK = 1 << 20
_REASONS = {
    errno.ENOSPC: "there is no room left", errno.EDQUOT: "there is no room left", errno.EROFS: "it is read only",
    errno.EACCES: "it may not be written to", errno.EPERM: "it may not be written to",
    errno.ENOENT: "it is not there any more", errno.ENOTDIR: "a file lies where a folder has to be",
    errno.ESTALE: "it is not there any more", errno.EIO: "the disk reports a fault",
}  # fmt: skip


class Drifted(DeliveryRefused):
    """Files that the delivery would touch and that others changed. drift: which."""

    def __init__(self, name: str, drift: list[Drift]):
        self.drift = drift
        paths = ", ".join(one.path for one in drift[:5])
        more = f" and {len(drift) - 5} more" if len(drift) > 5 else ""
        super().__init__(
            f"{name} holds files that this delivery would overwrite and that it did not write, or that were edited "
            f"since: {paths}{more}. Nothing was written. Say for each whether to overwrite or to keep it."
        )


@dataclass(frozen=True)
class Brought:
    """What became of a folder: paths written, removed, kept as others left them; untouched: how many lay there as they
    should."""

    written: tuple[str, ...]
    removed: tuple[str, ...]
    kept: tuple[str, ...]
    untouched: int


class FolderPlace:
    """One folder that deliveries go to."""

    def __init__(self, root: Path):
        self.root = root

    @property
    def ours(self) -> Path:
        return self.root / OURS

    def ledger(self) -> Ledger:
        """What we wrote there. Raises BadDocument."""
        return read_ledger(self.root)

    def drift(self, wanted: Mapping[str, str] | None = None, thorough: bool = False) -> list[Drift]:
        """See texel.delivery.drift.drift_of. An interrupted delivery is undone first. Raises BadDocument."""
        if (self.ours / _JOURNAL).exists() or (self.ours / _DONE).exists():
            with self.held():
                pass
        return drift_of(self.root, self.ledger(), wanted, thorough)

    @contextmanager
    def held(self, wait: float = 0.0) -> Iterator[None]:
        """Hold the folder, so that nobody else delivers into it; what an interrupted delivery left is put right.

        wait: seconds to wait for another delivery. Raises PlaceBusy, DeliveryRefused for a folder that cannot be used.
        """
        if self.root.exists() and not self.root.is_dir():
            raise DeliveryRefused(f"{self.root.name} is a file, not a folder")
        with self._told():
            self.ours.mkdir(parents=True, exist_ok=True)
            handle = os.open(self.ours / _LOCK, os.O_RDWR | os.O_CREAT, 0o644)
        try:
            self._lock(handle, wait)
            with self._told():
                self._recover()
            yield
        finally:
            os.close(handle)

    def _lock(self, handle: int, wait: float) -> None:
        until = time.monotonic() + wait
        while True:
            try:
                return fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                if time.monotonic() >= until:
                    raise PlaceBusy(f"another delivery is being written to {self.root.name}; wait for it") from None
            time.sleep(_POLL_SECONDS)

    @contextmanager
    def _told(self) -> Iterator[None]:
        """Faults of the file system in words."""
        try:
            yield
        except OSError as error:
            reason = _REASONS.get(error.errno or 0, error.strerror or str(error))
            raise DeliveryRefused(f"{self.root.name} cannot be delivered to: {reason}") from error

    def incoming(self) -> Path:
        """An empty folder beside the place, for files that are built for it; of one file system with it."""
        path = self.ours / _INCOMING
        shutil.rmtree(path, ignore_errors=True)
        path.mkdir(parents=True)
        return path

    def bring(
        self,
        wanted: Mapping[str, str],
        supply: Callable[[str], Path],
        choices: Mapping[str, Choice] | None = None,
        every: Choice | None = None,
    ) -> Brought:
        """Make the folder hold what is wanted; to be called while it is held.

        wanted: path to digest of everything that is to lie there; what we wrote before and is not wanted any more goes.
        supply: where a wanted file lies; files in ``incoming()`` are moved, others copied. It is asked only for what is
        not there yet. choices: for files that others changed, by path; every: for all others of them.
        Raises Drifted where a choice is missing, DeliveryRefused where it cannot be written to; it is left as it was.
        """
        ledger = self.ledger()
        drift = {one.path: one for one in drift_of(self.root, ledger, wanted)}
        asked = [one for one in drift.values() if one.asks and (choices or {}).get(one.path, every) is None]
        if asked:
            raise Drifted(self.root.name, asked)
        chosen = {path: (choices or {}).get(path, every) for path, one in drift.items() if one.asks}
        kept = {
            path: one.digest or "" for path, one in drift.items() if self._stays(one, ledger, chosen, choices or {})
        }
        lying = {path for path in wanted if path not in kept and self._lies(ledger, path, wanted[path])}
        # The manifest is moved last: who reads it takes the rest for whole.
        moving = sorted((p for p in wanted if p not in kept and p not in lying), key=lambda p: (p in RESERVED, p))
        going = [p for p in ledger.files if p not in wanted and p not in kept and os.path.lexists(self.root / p)]
        with self._told():
            self._check_names(moving, {*going, *ledger.files})
            self._stage(moving, wanted, supply)
            files = {path: self._known(path, wanted[path], path in lying) for path in wanted if path not in kept}
            write_ledger(self.ours / _NEXT, files, {path: one for path, one in kept.items() if path in wanted})
            self._move(moving, going)
            self._finish()
        return Brought(tuple(moving), tuple(going), tuple(sorted(kept)), len(lying))

    def _stays(
        self, one: Drift, ledger: Ledger, chosen: Mapping[str, Choice | None], choices: Mapping[str, Choice]
    ) -> bool:
        """Whether what others did to a file is kept: chosen now, or before and nothing happened since."""
        if one.kind is Kind.MISSING:
            return choices.get(one.path, Choice.KEEP if ledger.kept.get(one.path) == "" else None) is Choice.KEEP
        return one.kind is not Kind.ADDED and chosen.get(one.path, Choice.KEEP) is Choice.KEEP

    def _lies(self, ledger: Ledger, path: str, wanted: str) -> bool:
        known = ledger.files.get(path)
        if known is not None and known.digest == wanted and ledger.is_untouched(self.root, path):
            return True
        there = self.root / path
        return there.is_file() and not there.is_symlink() and digest.of_file(there) == wanted

    def _known(self, path: str, wanted: str, lies: bool) -> Known:
        # A file keeps its time of change when it is moved into its place.
        there = os.stat((self.root if lies else self.ours / _INCOMING) / path)
        return Known(wanted, there.st_size, there.st_mtime_ns)

    def _check_names(self, moving: list[str], ours: set[str]) -> None:
        """Raises DeliveryRefused where a path leads out of the folder, or differs from a stranger's in case alone."""
        root = self.root.resolve()
        listed: dict[Path, dict[str, str]] = {}
        for path in moving:
            place = self.root / path
            folder = place.parent
            if not folder.resolve().is_relative_to(root):
                raise DeliveryRefused(f"{path} would be written outside of {self.root.name}, through a link")
            if folder not in listed:
                names = os.listdir(folder) if folder.is_dir() else []
                listed[folder] = {name.casefold(): name for name in names}
            other = listed[folder].get(place.name.casefold(), place.name)
            if other != place.name and (folder / other).relative_to(self.root).as_posix() not in ours:
                raise DeliveryRefused(
                    f"{other} lies where {path} has to go: they differ in case alone, and many systems know no case"
                )

    def _stage(self, moving: list[str], wanted: Mapping[str, str], supply: Callable[[str], Path]) -> None:
        """Everything new lies in ``incoming``, on the disk and with the right bytes, before anything moves."""
        incoming = self.ours / _INCOMING
        incoming.mkdir(exist_ok=True)
        for path in moving:
            source, staged = supply(path), incoming / path
            if source != staged:
                staged.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(source, staged)
            if digest.of_file(staged) != wanted[path]:
                raise DeliveryRefused(f"{path} is not what was built: its bytes changed on the way; deliver again")
            os.chmod(staged, 0o644)
            handle = os.open(staged, os.O_RDONLY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)

    def _move(self, moving: list[str], going: list[str]) -> None:
        journal = {
            "moving": [{"path": path, "had": os.path.lexists(self.root / path)} for path in moving],
            "going": going,
        }
        write_bytes(json.dumps(journal).encode(), self.ours / _JOURNAL)
        _sync(self.ours)
        try:
            # What goes, goes first: a file may come back under a name that differs in case alone.
            for path in going:
                self._aside(path)
            for path in moving:
                if os.path.lexists(self.root / path):
                    self._aside(path)
                place = self.root / path
                place.parent.mkdir(parents=True, exist_ok=True)
                os.rename(self.ours / _INCOMING / path, place)
        except BaseException:
            self._put_back()
            raise

    def _aside(self, path: str) -> None:
        former = self.ours / _FORMER / path
        former.parent.mkdir(parents=True, exist_ok=True)
        os.rename(self.root / path, former)

    def _recover(self) -> None:
        """What an interrupted delivery left: gone back, or done to the end."""
        for half_written in self.ours.glob(".*.part"):
            half_written.unlink(missing_ok=True)
        if (self.ours / _DONE).exists():
            self._clear()
        else:
            self._put_back()

    def _put_back(self) -> None:
        """The former files in their place again, where a delivery was interrupted. May itself be interrupted and done
        again: what lies in ``former`` always is the older one."""
        journal = self._journal(_JOURNAL)
        for entry in journal.get("moving", []):
            path, former = self.root / entry["path"], self.ours / _FORMER / entry["path"]
            if os.path.lexists(former):
                path.parent.mkdir(parents=True, exist_ok=True)
                os.replace(former, path)
            elif not entry["had"] and not os.path.lexists(self.ours / _INCOMING / entry["path"]):
                path.unlink(missing_ok=True)
                _prune(self.root, path.parent)
        for going in journal.get("going", []):
            former = self.ours / _FORMER / going
            if os.path.lexists(former):
                (self.root / going).parent.mkdir(parents=True, exist_ok=True)
                os.replace(former, self.root / going)
        for name in (_NEXT, _JOURNAL):
            (self.ours / name).unlink(missing_ok=True)
        for name in (_INCOMING, _FORMER):
            shutil.rmtree(self.ours / name, ignore_errors=True)

    def _journal(self, name: str) -> dict[str, Any]:
        path = self.ours / name
        if not path.is_file():
            return {}
        try:
            made: dict[str, Any] = load_json(path.read_text("utf-8"), f"{self.root.name}/{OURS}/{name}")
        except BadDocument:
            return {}  # it is renamed into place whole, so that it was not ours
        return made

    def _finish(self) -> None:
        """The new files are in place: from here on there is nothing to put back."""
        os.rename(self.ours / _JOURNAL, self.ours / _DONE)
        _sync(self.ours)
        self._clear()

    def _clear(self) -> None:
        """The rest, once all files are in place; may be interrupted and done again."""
        journal = self._journal(_DONE)
        if (self.ours / _NEXT).exists():
            os.replace(self.ours / _NEXT, self.ours / "ledger.json")
        for path in journal.get("going", []):
            _prune(self.root, (self.root / path).parent)
        for name in (_INCOMING, _FORMER):
            shutil.rmtree(self.ours / name, ignore_errors=True)
        (self.ours / _DONE).unlink()


def _prune(root: Path, folder: Path) -> None:
    """Remove folders that hold nothing any more, up to ``root``."""
    while folder != root and folder.is_dir() and not any(folder.iterdir()):
        folder.rmdir()
        folder = folder.parent


def _sync(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
