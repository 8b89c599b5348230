"""Deliveries brought to their destinations: in step, whole or not at all, never over what others changed unasked."""

from __future__ import annotations

import errno
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.db import transaction

from studio.changes.errors import Conflict
from studio.deliveries.archive import files_of, here
from studio.deliveries.buckets import BucketFiles
from studio.deliveries.facts import TransferResult
from studio.deliveries.models import Delivery, Destination, Transfer
from studio.deliveries.places import path_of
from studio.deliveries.zips import write_zip
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from texel import digest
from texel.delivery.drift import Choice, Drift, Kind
from texel.delivery.files_there import LocalFiles
from texel.delivery.place import Drifted, Place
from texel.errors import BadDocument, DeliveryRefused

__all__ = ["drift_at", "order_transfer", "place_of", "transfer_delivery"]

# For another delivery into the same place.
_WAIT_SECONDS = 900.0


def place_of(one: Destination) -> Place:
    """The place of a folder or bucket. Raises Conflict where it is not allowed any more, DeliveryRefused where it is
    gone."""
    if one.kind == Destination.Kind.BUCKET:
        bucket, _, prefix = one.place.partition("/")
        return Place(BucketFiles(bucket, prefix))
    root = path_of(one.place)
    if one.holds_id and not root.is_dir():
        # Made anew it would fill the empty mount point of a share that is away.
        raise DeliveryRefused("{one} cannot be delivered to: {root} is not there any more", one=one.name, root=root)
    return Place(LocalFiles(root))


def drift_at(one: Destination, delivery: Delivery | None, thorough: bool = False) -> list[Drift]:
    """What others changed at a destination. delivery: what is going to be brought there, None to look only.

    Raises Conflict, DeliveryRefused.
    """
    if one.kind == Destination.Kind.ZIP:
        return _drift_of_zip(one, delivery is not None)
    return place_of(one).drift(files_of(delivery) if delivery else None, thorough)


def _drift_of_zip(one: Destination, asks: bool) -> list[Drift]:
    """A zip is one file: it is what the delivery that lies there made, or somebody changed it."""
    path = path_of(one.place)
    last = one.transfers.filter(result__isnull=False).first()
    known = (last.result or {}).get("digest") if last and one.holds_id else None
    if not path.exists():
        return [Drift(path.name, Kind.MISSING, None, None, False)] if known else []
    found = digest.of_file(path) if path.is_file() else None
    if found is not None and found == known:
        return []
    size = path.stat().st_size
    return [Drift(path.name, Kind.CHANGED if known else Kind.IN_THE_WAY, found, size, asks)]


def order_transfer(one: Destination, delivery: Delivery, by: Any, choices: Mapping[str, str] | None = None) -> Transfer:
    """Queue bringing a delivery to a destination: the newest, or an older one again. Raises Conflict, BadDocument."""
    if delivery.project_id != one.project_id or delivery.target["name"] != one.target:
        raise Conflict("{one} takes deliveries for {target}", one=one.name, target=one.target)
    if delivery.manifest is None:
        raise Conflict("delivery {number} is not whole", number=delivery.number)
    if delivery.gone is not None:
        raise Conflict("the files of delivery {number} were taken away; deliver again", number=delivery.number)
    for path, choice in (choices or {}).items():
        if choice not in list(Choice):
            raise BadDocument("{path}: the choice is overwrite or keep, not {choice}", path=path, choice=choice)
    with transaction.atomic():
        made = Transfer.objects.create(destination=one, delivery=delivery, by=by, choices=dict(choices or {}))
        title = f"Bring delivery {delivery.number} to {one.name}"
        made.job = enqueue(one.project, "transfer", title, by, transfer=made.pk)
        made.save(update_fields=["job"])
        announce(one.project_id, "destinations", id=one.pk)
    return made


@job_kind("transfer", minutes=120)
def transfer_delivery(job: Job, progress: Progress) -> str:
    """The job "transfer". One that was interrupted is undone by whoever takes it up, and done anew."""
    rows = Transfer.objects.select_related("destination__project", "delivery__project")
    one = rows.get(pk=job.payload["transfer"])
    try:
        result = _to_zip(one) if one.destination.kind == Destination.Kind.ZIP else _to_place(one, progress)
    except Drifted as drifted:
        Transfer.objects.filter(pk=one.pk).update(drift=[each.document() for each in drifted.drift])
        announce(job.project_id, "destinations", id=one.destination_id)
        raise
    with transaction.atomic():
        progress.hold_lease()
        Transfer.objects.filter(pk=one.pk).update(result=result, drift=[])
        Destination.objects.filter(pk=one.destination_id).update(holds=one.delivery_id)
        announce(job.project_id, "destinations", id=one.destination_id)
    return f"{result['written']} written, {result['removed']} removed, {result['untouched']} untouched"


def _to_place(one: Transfer, progress: Progress) -> TransferResult:
    place, root, wanted = place_of(one.destination), here(one.delivery), files_of(one.delivery)
    done = 0

    def supply(path: str) -> Path:
        nonlocal done
        done += 1
        progress.report(done, len(wanted), path)
        return root / path

    choices = {path: Choice(choice) for path, choice in one.choices.items()}
    with place.held(_WAIT_SECONDS):
        brought = place.bring(wanted, supply, choices)
    return {
        "written": len(brought.written), "removed": len(brought.removed), "kept": list(brought.kept),
        "untouched": brought.untouched,
    }  # fmt: skip


def _to_zip(one: Transfer) -> TransferResult:
    path = path_of(one.destination.place)
    drift = _drift_of_zip(one.destination, True)
    choice = one.choices.get(path.name)
    asked = [each for each in drift if each.asks and choice is None]
    if asked:
        raise Drifted(one.destination.name, asked)
    if choice == Choice.KEEP and drift:
        return {"written": 0, "removed": 0, "kept": [path.name], "untouched": 0}
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_zip(here(one.delivery), files_of(one.delivery), path)
    except OSError as error:
        reason = "there is no room left" if error.errno == errno.ENOSPC else error.strerror or str(error)
        raise DeliveryRefused(
            "{destination} cannot be delivered to: {reason}", destination=one.destination.name, reason=reason
        ) from error
    return {
        "written": 1,
        "removed": 0,
        "kept": [],
        "untouched": 0,
        "digest": digest.of_file(path),
        "bytes": os.stat(path).st_size,
    }
