"""What nothing needs any more: unfinished files, uploads that nothing uses, the oldest of what can be made again."""

from __future__ import annotations

import shutil
import stat
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import transaction

from studio.deliveries.archive import take_away_old
from studio.deliveries.models import Delivery
from studio.intake.models import SourceFile
from studio.intake.uploads import alone_with_sources
from studio.jobs.models import Job
from studio.projects.models import Change, Project
from studio.storage import UNFINISHED
from studio.store import MADE_AGAIN

__all__ = ["Collected", "collect"]

# What is younger may belong to work that goes on.
_YOUNG_SECONDS = 24 * 3600
_BROKEN_OFF_SECONDS = 7 * 24 * 3600
# Rows that are asked for at once.
_ASKED = 1000
# Changes of a project that are kept.
_MAX_CHANGES = 2000


class Collected(NamedTuple):
    """Files taken away, and the bytes that they held."""

    files: int = 0
    bytes: int = 0


class _Held(NamedTuple):
    """A file as it was when it was looked at. used: seconds, when it was read or written last."""

    path: Path
    bytes: int
    written: float
    used: float

    @property
    def unfinished(self) -> bool:
        return self.path.name.startswith(UNFINISHED)


def _files(folder: Path) -> Iterator[_Held]:
    """All files below a folder; one that goes meanwhile is passed over."""
    for path in folder.rglob("*") if folder.is_dir() else ():
        try:
            told = path.stat()
        except FileNotFoundError:
            continue
        if stat.S_ISREG(told.st_mode):
            # Reading a file moves its time of access on most systems, once a day at least.
            yield _Held(path, told.st_size, told.st_mtime, max(told.st_atime, told.st_mtime))


def collect(young_seconds: float = _YOUNG_SECONDS) -> Collected:
    """Take away what is not needed, older than ``young_seconds``; of what can be made again the longest unused beyond
    the setting DERIVED_BYTES, whatever its age. Of changes the oldest go, beyond what anybody takes back.

    Does nothing to files where the store is no folder of this machine.
    """
    _forget_old_changes()
    for project in Project.objects.exclude(keep_days=None):
        take_away_old(project)
    try:
        root = Path(default_storage.path(""))
    except NotImplementedError:  # what storages elsewhere raise
        return Collected()
    old = time.time() - young_seconds
    gone = [one for one in _files(root) if one.unfinished and one.written < old]
    gone += _beyond(root)
    # Zips of deliveries are made when they are asked for.
    gone += [one for one in _files(Path(settings.DELIVERIES_ROOT)) if _is_zip(one.path) and one.used < old]
    for one in gone:
        one.path.unlink(missing_ok=True)
    gone += _take_away_sources(root / "source", old)
    for folder in (Path(settings.HOME) / "scans").glob("*"):
        # What broke off and nobody went on with.
        if folder.stat().st_mtime < time.time() - _BROKEN_OFF_SECONDS:
            shutil.rmtree(folder, ignore_errors=True)
    return Collected(len(gone), sum(one.bytes for one in gone))


def _is_zip(path: Path) -> bool:
    """Whether a file is the zip of a delivery, which lies beside its folder, or what was left of writing one."""
    return (path.with_suffix("").is_dir() and path.suffix == ".zip") or path.name.endswith(".zip.part")


def _take_away_sources(folder: Path, old: float) -> list[_Held]:
    """Stored uploads that nothing uses: without a row, or whose row no intake, no model, no former version of
    a file and no delivery on its way names.

    Uploads that come meanwhile wait for the end of a thousand of them at most.
    """
    stored = [one for one in _files(folder) if not one.unfinished and one.written < old]
    gone: list[_Held] = []
    for start in range(0, len(stored), _ASKED):
        some = {one.path.name: one for one in stored[start : start + _ASKED]}
        with transaction.atomic(), alone_with_sources():
            rows = SourceFile.objects.filter(pk__in=some)
            made = datetime.fromtimestamp(old, UTC)
            idle = rows.filter(
                uses=None, replaced=None, replacing=None, in_meshes=None, in_grounds=None, created__lt=made
            )
            unused = set(idle.values_list("pk", flat=True)) - _on_their_way()
            SourceFile.objects.filter(pk__in=unused).delete()
            known = set(rows.values_list("pk", flat=True))
            for name, one in some.items():
                # Looked at again: an upload of the same content has used it since.
                if name not in known and one.path.exists() and one.path.stat().st_mtime < old:
                    one.path.unlink()
                    gone.append(one)
    return gone


def _on_their_way() -> set[str]:
    """Digests of sources that deliveries were ordered of and not built from yet."""
    rows = Delivery.objects.exclude(job__state__in=Job.ENDED).values_list("sets", flat=True)
    return {digest for sets in rows for digest in (sets or {}).get("files", {}).values() if digest}


def _forget_old_changes() -> None:
    """Of each project the newest changes are kept, for undo and for looking at."""
    for project in Project.objects.values_list("pk", flat=True):
        rows = Change.objects.filter(project=project).order_by("-pk")
        last = rows.values_list("pk", flat=True)[_MAX_CHANGES : _MAX_CHANGES + 1].first()
        if last is not None:
            Change.objects.filter(project=project, pk__lte=last).delete()


def _beyond(root: Path) -> list[_Held]:
    """The longest unused files that can be made again, as many as lie beyond the limit."""
    kept = [one for kind in MADE_AGAIN for one in _files(root / kind) if not one.unfinished]
    total, gone = sum(one.bytes for one in kept), []
    for one in sorted(kept, key=lambda one: one.used):
        if total <= settings.DERIVED_BYTES:
            break
        gone.append(one)
        total -= one.bytes
    return gone
