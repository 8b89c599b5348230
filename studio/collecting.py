"""What nothing needs any more: unfinished files, uploads that nothing uses, the oldest of what can be made again."""

from __future__ import annotations

import shutil
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import transaction

from studio import store
from studio.deliveries.archive import contents_of, take_away_old
from studio.deliveries.models import Delivery
from studio.intake.models import SourceFile
from studio.intake.uploads import alone_with_sources
from studio.jobs.models import Job
from studio.projects.models import Change, Project
from studio.storage import UNFINISHED, Held
from studio.store import MADE_AGAIN

__all__ = ["Collected", "collect"]

# What is younger may belong to work that goes on.
_YOUNG_SECONDS = 24 * 3600
_BROKEN_OFF_SECONDS = 7 * 24 * 3600
# How long a machine keeps the folder of a delivery that the store has.
_COPY_SECONDS = 7 * 24 * 3600
# Rows that are asked for at once.
_ASKED = 1000
# Changes of a project that are kept.
_MAX_CHANGES = 2000


class Collected(NamedTuple):
    """Files taken away, and the bytes that they held."""

    files: int = 0
    bytes: int = 0


def _unfinished(one: Held) -> bool:
    return one.name.rpartition("/")[2].startswith(UNFINISHED)


def collect(young_seconds: float = _YOUNG_SECONDS) -> Collected:
    """Take away what is not needed, older than ``young_seconds``; of what can be made again the longest unused beyond
    the setting DERIVED_BYTES, whatever its age. Of changes the oldest go, beyond what anybody takes back."""
    _forget_old_changes()
    for project in Project.objects.exclude(keep_days=None):
        take_away_old(project)
    old = time.time() - young_seconds
    kinds = ("source", "delivered", *MADE_AGAIN)
    gone = [one for kind in kinds for one in store.held(kind) if _unfinished(one) and one.written < old]
    gone += _beyond()
    for one in gone:
        default_storage.delete(one.name)
    gone += _take_away_sources(old)
    gone += _take_away_delivered(old)
    store.sweep(young_seconds)
    if store.is_shared():
        _take_away_copies(time.time() - max(young_seconds, _COPY_SECONDS))
    # Zips of deliveries are made when they are asked for.
    zips = [path for path in _zips(Path(settings.DELIVERIES_ROOT)) if _used(path) < old]
    count, size = len(gone) + len(zips), sum(one.bytes for one in gone)
    for path in zips:
        size += path.stat().st_size
        path.unlink(missing_ok=True)
    for folder in (Path(settings.HOME) / "scans").glob("*"):
        # What broke off and nobody went on with.
        if folder.stat().st_mtime < time.time() - _BROKEN_OFF_SECONDS:
            shutil.rmtree(folder, ignore_errors=True)
    return Collected(count, size)


def _used(path: Path) -> float:
    try:
        told = path.stat()
    except FileNotFoundError:
        return time.time()
    return max(told.st_atime, told.st_mtime)


def _zips(root: Path) -> list[Path]:
    return [path for path in root.glob("*/*") if _is_zip(path) and path.is_file()]


def _is_zip(path: Path) -> bool:
    """Whether a file is the zip of a delivery, which lies beside its folder, or what was left of writing one."""
    return (path.with_suffix("").is_dir() and path.suffix == ".zip") or path.name.endswith(".zip.part")


def _take_away_sources(old: float) -> list[Held]:
    """Stored uploads that nothing uses: without a row, or whose row no intake, no model, no former version of
    a file and no delivery on its way names.

    Uploads that come meanwhile wait for the end of a thousand of them at most.
    """
    stored = [one for one in store.held("source") if not _unfinished(one) and one.written < old]
    gone: list[Held] = []
    for start in range(0, len(stored), _ASKED):
        some = {one.name.rpartition("/")[2]: one for one in stored[start : start + _ASKED]}
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
                # An upload of the same content that has used it since has made its row, too.
                if name not in known:
                    default_storage.delete(one.name)
                    gone.append(one)
    return gone


def _take_away_delivered(old: float) -> list[Held]:
    """Files of deliveries that are kept in the store, where no delivery has them any more."""
    stored = [one for one in store.held("delivered") if one.written < old]
    if not stored:
        return []
    kept: set[str] = set()
    for delivery in Delivery.objects.filter(gone=None, manifest__isnull=False).iterator(50):
        kept |= set(contents_of(delivery).values())
    gone = [one for one in stored if one.name.rpartition("/")[2] not in kept]
    for one in gone:
        default_storage.delete(one.name)
    return gone


def _take_away_copies(old: float) -> None:
    """Folders of deliveries on this machine that are there in the store as well, or of deliveries that are gone."""
    root = Path(settings.DELIVERIES_ROOT)
    for folder in root.glob("*/*"):
        number = folder.name.partition("-")[0]
        if not folder.is_dir() or not number.isdigit():
            continue
        one = Delivery.objects.filter(project__slug=folder.parent.name, number=int(number)).defer("manifest").first()
        is_copy = one is None or one.gone is not None or one.closing is not None
        if is_copy and folder.stat().st_mtime < old:
            shutil.rmtree(folder, ignore_errors=True)


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


def _beyond() -> list[Held]:
    """The longest unused files that can be made again, as many as lie beyond the limit."""
    kept = [one for kind in MADE_AGAIN for one in store.held(kind) if not _unfinished(one)]
    total, gone = sum(one.bytes for one in kept), []
    for one in sorted(kept, key=lambda one: one.used):
        if total <= settings.DERIVED_BYTES:
            break
        gone.append(one)
        total -= one.bytes
    return gone
