"""The files of past deliveries: what was delivered stays as it was for as long as the project keeps it.

Files that two deliveries share are one file on the disk (a hard link), so that the twentieth delivery of the same sets
costs what changed.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Callable, Mapping
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from studio import store
from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.deliveries.models import Delivery
from studio.deliveries.zips import write_zip
from studio.jobs.announce import announce
from studio.projects.models import Project
from texel import digest
from texel.delivery import PlannedFile
from texel.delivery.manifest import MANIFEST, RESERVED

__all__ = ["contents_of", "files_of", "here", "keep_for", "keep_in_store", "link_from", "take_away_old", "zip_of"]

_MAX_DAYS = 3650


def contents_of(delivery: Delivery) -> dict[str, str]:
    """Path to digest of all that a whole delivery consists of, as far as it is written down."""
    manifest: Mapping[str, Any] = delivery.manifest or {"files": ()}
    return {entry["path"]: entry["digest"] for entry in manifest["files"]} | dict(delivery.closing or {})


def files_of(delivery: Delivery) -> dict[str, str]:
    """Path to digest of all that a whole delivery consists of. Raises FileNotFoundError."""
    files = contents_of(delivery)
    if delivery.closing is not None:
        return files
    folder = here(delivery)
    # Deliveries made before there were reports have the manifest alone.
    own = [name for name in RESERVED if (folder / name).is_file()]
    return files | {name: digest.of_file(folder / name) for name in own}


def here(delivery: Delivery) -> Path:
    """The folder of a whole delivery on this machine; where another one built it, it is put together from the store.
    Raises FileNotFoundError where its files are not there any more."""
    folder = delivery.folder
    if (folder / MANIFEST).is_file():
        return folder
    if delivery.manifest is None or delivery.gone is not None or not store.is_shared() or delivery.closing is None:
        raise FileNotFoundError(folder.name)
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder.parent, prefix=f".{folder.name}.part-") as beside:
        whole = Path(beside) / "whole"
        for path, content in contents_of(delivery).items():
            (whole / path).parent.mkdir(parents=True, exist_ok=True)
            store.copy_to("delivered", content, whole / path)
        with suppress(OSError):  # another one was faster
            whole.rename(folder)
    return folder


def keep_in_store(delivery: Delivery, root: Path, files: Mapping[str, str], before: Delivery | None) -> None:
    """Keep the files of a delivery where other machines find them; those that it shares with the one before are there.
    files: digests by path. Raises OSError."""
    if not store.is_shared():
        return
    known = set(contents_of(before).values()) if before is not None and before.closing is not None else set()
    for path, content in files.items():
        if content not in known:
            store.keep_file("delivered", content, root / path)


def link_from(previous: Delivery | None, root: Path) -> Callable[[PlannedFile], tuple[str, int] | None]:
    """What of a plan lies in the delivery before, put below ``root`` without being built or copied."""
    if previous is None or previous.manifest is None or previous.gone is not None:
        return lambda planned: None
    try:
        lies = here(previous)
    except FileNotFoundError:
        return lambda planned: None
    known = {entry["path"]: entry for entry in previous.manifest["files"]}
    done: set[str] = set()

    def keep(planned: PlannedFile) -> tuple[str, int] | None:
        before = known.get(planned.path)
        if before is None or planned.status != "unchanged":
            return None
        if planned.path not in done and not link(lies / planned.path, root / planned.path, before["bytes"]):
            return None
        done.add(planned.path)
        return before["digest"], before["bytes"]

    return keep


def link(source: Path, place: Path, size: int) -> bool:
    """Make ``place`` the same file as ``source``; False where that is not there as it was."""
    try:
        if source.stat().st_size != size:
            return False
        place.parent.mkdir(parents=True, exist_ok=True)
        try:
            os.link(source, place)
        except OSError:  # a file system without links, or with too many of them
            shutil.copyfile(source, place)
    except FileNotFoundError:
        return False
    return True


def zip_of(delivery: Delivery) -> Path:
    """The delivery as one zip, made when it is first asked for. Raises FileNotFoundError."""
    if not delivery.zip_path.is_file():
        write_zip(here(delivery), files_of(delivery), delivery.zip_path)
    return delivery.zip_path


def keep_for(project: Project, days: int | None, by: Any, seen: int | None = None) -> None:
    """Say for how many days the files of past deliveries are kept, None for as long as there is room.

    Can be undone. Raises Conflict, Stale.
    """
    if days is not None and not 1 <= days <= _MAX_DAYS:
        raise Conflict("deliveries are kept for 1 to {max_days} days", max_days=_MAX_DAYS)
    label = f"Keep deliveries for {days} days" if days is not None else "Keep all deliveries"
    with change(project, by, label) as doing:
        doing.update(doing.row(Project, project.pk, seen), keep_days=days)


def take_away_old(project: Project) -> int:
    """Take the files of old deliveries away, as the project's setting says; how many deliveries.

    Of each target the newest stays, and what lies at a destination.
    """
    if project.keep_days is None:
        return 0
    newest = project.deliveries.filter(manifest__isnull=False).values("target__name").annotate(last=Max("number"))
    with transaction.atomic():
        rows = project.deliveries.select_for_update().filter(
            manifest__isnull=False, gone=None, created__lt=timezone.now() - timedelta(days=project.keep_days)
        )
        old = list(rows.exclude(number__in=[one["last"] for one in newest]).exclude(lies_at__isnull=False))
        Delivery.objects.filter(pk__in=[one.pk for one in old]).update(gone=timezone.now())
    for one in old:
        shutil.rmtree(one.folder, ignore_errors=True)
        one.zip_path.unlink(missing_ok=True)
    if old:
        announce(project.pk, "deliveries")
    return len(old)
