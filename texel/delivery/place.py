"""A place that deliveries are kept in step with: as a whole or not at all, one at a time, never over a stranger.

New files are written beside their place, into ``.fair-texel/incoming``. Then a journal says what is going to move, the
former files move to ``.fair-texel/former`` and the new ones into their place. When all of them are there, the journal
is renamed to say so, and the ledger follows. Who finds a journal knows that somebody was interrupted: before that
moment the former files are put back, after it the rest is done. So the place holds the former delivery or the new one
whenever nobody is moving files in it.
"""

from __future__ import annotations

import errno
import json
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from texel.delivery.drift import Choice, Drift, Kind, drift_of
from texel.delivery.files_there import OURS, FilesThere, LocalFiles
from texel.delivery.ledger import LEDGER, Known, Ledger, ledger_bytes, read_ledger
from texel.delivery.manifest import RESERVED
from texel.errors import DeliveryRefused

__all__ = ["Brought", "Drifted", "FolderPlace", "Place"]

_JOURNAL, _DONE, _NEXT = f"{OURS}/journal.json", f"{OURS}/done.json", f"{OURS}/ledger.next.json"
_INCOMING, _FORMER = f"{OURS}/incoming", f"{OURS}/former"
_REASONS = {
    errno.ENOSPC: "there is no room left", errno.EDQUOT: "there is no room left", errno.EROFS: "it is read only",
    errno.EACCES: "it may not be written to", errno.EPERM: "it may not be written to",
    errno.ENOENT: "it is not there any more", errno.ENOTDIR: "a file lies where a folder has to be",
    errno.ESTALE: "it is not there any more",
}  # fmt: skip


class Drifted(DeliveryRefused):
    """Files that the delivery would touch and that others changed. drift: which."""

    def __init__(self, name: str, drift: list[Drift]):
        self.drift = drift
        paths = ", ".join(one.path for one in drift[:5])
        more = f" and {len(drift) - 5} more" if len(drift) > 5 else ""
        super().__init__(
            "{name} holds files that this delivery would overwrite and that it did not write, or that were edited "
            "since: {paths}{more}. Nothing was written. Say for each whether to overwrite or to keep it.",
            name=name,
            paths=paths,
            more=more,
        )


@dataclass(frozen=True)
class Brought:
    """What became of a place: paths written, removed, kept as others left them; untouched: how many lay there as they
    should."""

    written: tuple[str, ...]
    removed: tuple[str, ...]
    kept: tuple[str, ...]
    untouched: int


class Place:
    """One place that deliveries go to."""

    def __init__(self, there: FilesThere):
        self.there = there

    def ledger(self) -> Ledger:
        """What we wrote there."""
        with self._told():
            return read_ledger(self.there)

    def drift(self, wanted: Mapping[str, str] | None = None, thorough: bool = False) -> list[Drift]:
        """See texel.delivery.drift.drift_of. An interrupted delivery is undone first."""
        with self._told():
            interrupted = self.there.exists(_JOURNAL) or self.there.exists(_DONE)
        if interrupted:
            with self.held():
                pass
        with self._told():
            return drift_of(self.there, self.ledger(), wanted, thorough)

    @contextmanager
    def held(self, wait: float = 0.0) -> Iterator[None]:
        """Hold the place, so that nobody else delivers into it; what an interrupted delivery left is put right.

        wait: seconds to wait for another delivery. Raises PlaceBusy, DeliveryRefused for a place that cannot be used.
        """
        with ExitStack() as stack:
            with self._told():
                stack.enter_context(self.there.held(wait))
                self._recover()
            yield

    @contextmanager
    def _told(self) -> Iterator[None]:
        """Faults of the place in words."""
        try:
            yield
        except OSError as error:
            reason = _REASONS.get(error.errno or 0, error.strerror or str(error))
            raise DeliveryRefused(
                "{there} cannot be delivered to: {reason}", there=self.there.name, reason=reason
            ) from error

    def bring(
        self,
        wanted: Mapping[str, str],
        supply: Callable[[str], Path],
        choices: Mapping[str, Choice] | None = None,
        every: Choice | None = None,
    ) -> Brought:
        """Make the place hold what is wanted; to be called while it is held.

        wanted: path to digest of everything that is to lie there; what we wrote before and is not wanted any more goes.
        supply: where a wanted file lies on this machine. It is asked only for what is not there yet. choices: for files
        that others changed, by path; every: for all others of them.
        Raises Drifted where a choice is missing, DeliveryRefused where it cannot be written to; it is left as it was.
        """
        ledger = self.ledger()
        with self._told():
            drift = {one.path: one for one in drift_of(self.there, ledger, wanted)}
        asked = [one for one in drift.values() if one.asks and (choices or {}).get(one.path, every) is None]
        if asked:
            raise Drifted(self.there.name, asked)
        chosen = {path: (choices or {}).get(path, every) for path, one in drift.items() if one.asks}
        stays = [one for one in drift.values() if self._stays(one, ledger, chosen, choices or {})]
        kept = {one.path: one.digest or "" for one in stays}
        with self._told():
            lying = {path for path in wanted if path not in kept and self._lies(ledger, path, wanted[path])}
            # The manifest is moved last: who reads it takes the rest for whole.
            moving = sorted((p for p in wanted if p not in kept and p not in lying), key=lambda p: (p in RESERVED, p))
            going = [p for p in ledger.files if p not in wanted and p not in kept and self.there.exists(p)]
            self._check_names(moving, {*going, *ledger.files})
            self._stage(moving, wanted, supply)
            files = {path: self._known(path, wanted[path], path in lying) for path in wanted if path not in kept}
            self.there.write(_NEXT, ledger_bytes(files, {path: one for path, one in kept.items() if path in wanted}))
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
        if known is not None and known.digest == wanted and ledger.is_untouched(self.there, path):
            return True
        return self.there.digest(path) == wanted

    def _known(self, path: str, wanted: str, lies: bool) -> Known:
        # A file keeps its time of change when it is moved into its place.
        found = self.there.size_and_mark(path if lies else f"{_INCOMING}/{path}")
        if found is None:
            raise DeliveryRefused("{path} went away while it was delivered; deliver again", path=path)
        return Known(wanted, *found)

    def _check_names(self, moving: list[str], ours: set[str]) -> None:
        """Raises DeliveryRefused where a path leads out of the place, or differs from a stranger's in case alone."""
        listed: dict[str, dict[str, str]] = {}
        for path in moving:
            folder, _, name = path.rpartition("/")
            if self.there.leads_out(path):
                raise DeliveryRefused(
                    "{path} would be written outside of {there}, through a link", path=path, there=self.there.name
                )
            if folder not in listed:
                listed[folder] = {one.casefold(): one for one in self.there.names_in(folder)}
            other = listed[folder].get(name.casefold(), name)
            if other != name and (f"{folder}/{other}" if folder else other) not in ours:
                raise DeliveryRefused(
                    "{other} lies where {path} has to go: they differ in case alone, and many systems know no case",
                    other=other,
                    path=path,
                )

    def _stage(self, moving: list[str], wanted: Mapping[str, str], supply: Callable[[str], Path]) -> None:
        """Everything new lies in ``incoming``, lasting and with the right bytes, before anything moves."""
        for path in moving:
            staged = f"{_INCOMING}/{path}"
            self.there.take(supply(path), staged)
            if self.there.digest(staged) != wanted[path]:
                raise DeliveryRefused(
                    "{path} is not what was built: its bytes changed on the way; deliver again", path=path
                )

    def _move(self, moving: list[str], going: list[str]) -> None:
        entries = [{"path": path, "had": self.there.exists(path)} for path in moving]
        self.there.write(_JOURNAL, json.dumps({"moving": entries, "going": going}).encode())
        try:
            # What goes, goes first: a file may come back under a name that differs in case alone.
            for path in going:
                self.there.move(path, f"{_FORMER}/{path}")
            for path in moving:
                if self.there.exists(path):
                    self.there.move(path, f"{_FORMER}/{path}")
                self.there.move(f"{_INCOMING}/{path}", path)
        except BaseException:
            self._put_back()
            raise

    def _recover(self) -> None:
        """What an interrupted delivery left: gone back, or done to the end."""
        if self.there.exists(_DONE):
            self._clear()
        elif any(self.there.exists(one) for one in (_JOURNAL, _NEXT, _INCOMING)):
            self._put_back()

    def _put_back(self) -> None:
        """The former files in their place again, where a delivery was interrupted. May itself be interrupted and done
        again: what lies in ``former`` always is the older one."""
        journal = self._journal(_JOURNAL)
        for entry in journal.get("moving", []):
            path = entry["path"]
            if self.there.exists(f"{_FORMER}/{path}"):
                self.there.move(f"{_FORMER}/{path}", path)
            elif not entry["had"] and not (self.there.moves_whole and self.there.exists(f"{_INCOMING}/{path}")):
                self.there.delete(path)
                self.there.prune(path.rpartition("/")[0])
        for path in journal.get("going", []):
            if self.there.exists(f"{_FORMER}/{path}"):
                self.there.move(f"{_FORMER}/{path}", path)
        self.there.delete(_NEXT)
        self.there.delete(_JOURNAL)
        for folder in (_INCOMING, _FORMER):
            self.there.clear(folder)

    def _journal(self, name: str) -> dict[str, Any]:
        data = self.there.read(name)
        try:
            made: dict[str, Any] = json.loads(data or b"{}")
        except ValueError:
            return {}  # it appears whole, so that it was not ours
        return made

    def _finish(self) -> None:
        """The new files are in place: from here on there is nothing to put back."""
        self.there.move(_JOURNAL, _DONE)
        self._clear()

    def _clear(self) -> None:
        """The rest, once all files are in place; may be interrupted and done again."""
        journal = self._journal(_DONE)
        if self.there.exists(_NEXT):
            self.there.move(_NEXT, LEDGER)
        for path in journal.get("going", []):
            self.there.prune(path.rpartition("/")[0])
        for folder in (_INCOMING, _FORMER):
            self.there.clear(folder)
        # Where moving is copying and deleting, the journal may lie there still.
        self.there.delete(_JOURNAL)
        self.there.delete(_DONE)


class FolderPlace(Place):
    """A folder of this machine."""

    def __init__(self, root: Path):
        super().__init__(LocalFiles(root))
        self.root = root

    def incoming(self) -> Path:
        """An empty folder beside the place, for files that are built for it; of one file system with it."""
        path = self.root / _INCOMING
        self.there.clear(_INCOMING)
        path.mkdir(parents=True)
        return path
