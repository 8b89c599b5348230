"""Plan and build deliveries from a project's sets, by the core, into a folder that appears whole or not at all."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import Any, cast

from django.conf import settings
from django.db import transaction
from django.db.models import Max

from studio import store
from studio.deliveries.models import Delivery
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.rules.models import target_documents, target_for
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens
from studio.sets.licences import refused
from studio.sets.models import TextureSet
from studio.store import Copies
from texel import digest
from texel.delivery import Plan, PlannedFile, Target, parse_target, plan_delivery
from texel.delivery.folder import build_files, take_back
from texel.delivery.manifest import MANIFEST
from texel.document_types import ManifestDocument, TargetDocument
from texel.errors import DeliveryRefused
from texel.files.writing import write_bytes
from texel.library import Library
from texel.sets import parse_sets, sets_document

__all__ = ["build_delivery", "latest_manifest", "order_delivery", "plan_for", "rows_of"]

# Zip entries carry a date; a fixed one keeps equal deliveries equal byte by byte.
_ZIP_DATE = (2000, 1, 1, 0, 0, 0)


def rows_of(project: Project, ids: Iterable[int] | None) -> list[TextureSet]:
    rows = project.sets.prefetch_related("placements__file__source")
    return list(rows if ids is None else rows.filter(pk__in=list(ids)))


def latest_manifest(project: Project, target: str) -> ManifestDocument | None:
    """The manifest of the last whole delivery for a target."""
    last = project.deliveries.filter(target__name=target, manifest__isnull=False).order_by("-number").first()
    return last.manifest if last else None


def plan_for(
    project: Project,
    rows: list[TextureSet],
    target: Target,
    copies: Copies,
    *,
    by_licence: bool = False,
    untouched: bool = False,
) -> tuple[Plan, Library]:
    """What delivering these sets would write, compared with the last delivery for the target. Raises TexelError.

    by_licence: leave out, as deliveries do, what the project may not use; it may be looked at all the same. untouched:
    as the sets were before any step.
    """
    sets, files = core_sets(rows)
    if untouched:
        sets = [one.untouched() for one in sets]
    library = library_of(files, copies)
    previous = latest_manifest(project, target.name)
    left_out = refused(rows) if by_licence else None
    return plan_delivery(sets, library, target, previous, known_greens(sets, library), left_out), library


def order_delivery(project: Project, rows: list[TextureSet], target_name: str, by: Any) -> Delivery:
    """Queue a delivery of sets as they are now. Raises BadDocument, DeliveryRefused."""
    target = target_for(project, target_name)
    if not rows:
        raise DeliveryRefused("choose at least one set to deliver")
    sets, files = core_sets(rows)
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        number = (project.deliveries.aggregate(last=Max("number"))["last"] or 0) + 1
        delivery = Delivery.objects.create(
            project=project, number=number, target=_document_of(project, target_name), by=by,
            sets=sets_document(sets)
            | {"files": {key: p.file.source_id for key, p in files.items()}, "refused": refused(rows)},
            set_ids=[row.pk for row in rows],
        )  # fmt: skip
        title = f"Deliver {len(rows)} sets for {target.title}"
        delivery.job = enqueue(project, "deliver", title, by, delivery=delivery.pk)
        delivery.save(update_fields=["job"])
        announce(project.pk, "deliveries")
    return delivery


def _document_of(project: Project, name: str) -> TargetDocument:
    return target_documents(project)[name]


@job_kind("deliver", minutes=240)
def build_delivery(job: Job, progress: Progress) -> str:
    """The job "deliver". Built from what was ordered, even if the sets have changed since."""
    delivery = Delivery.objects.select_related("project").get(pk=job.payload["delivery"])
    target = parse_target(delivery.target)
    sets = parse_sets({"sets": delivery.sets["sets"]})
    with store.local_copies(checked=True) as copies:
        digests = {key: value for key, value in delivery.sets["files"].items() if value}
        library = Library(store.Fetched(digests, copies), settings.PICTURE_LIMITS, digests)
        previous = latest_manifest(delivery.project, target.name)
        greens = known_greens(sets, library)
        plan = plan_delivery(sets, library, target, previous, greens, delivery.sets.get("refused"))
        if not plan.files:
            raise DeliveryRefused("nothing to deliver" + "".join(f"; {p}" for p in plan.problems))
        staging = _fresh_staging(delivery, progress.attempt)
        try:
            plan, manifest = _build(plan, library, staging, progress)
            _publish(delivery, plan, manifest, staging, progress)
        finally:
            shutil.rmtree(staging, ignore_errors=True)
    return f"{len(plan.files)} files" + (f", {len(plan.problems)} sets left out" if plan.problems else "")


def _fresh_staging(delivery: Delivery, attempt: int) -> Path:
    """An empty folder beside the final one; what a dead attempt left there is removed."""
    parent = delivery.folder.parent
    parent.mkdir(parents=True, exist_ok=True)
    prefix = f".{delivery.folder.name}.part-"
    for left in parent.glob(f"{prefix}*"):
        shutil.rmtree(left, ignore_errors=True)
    staging = parent / f"{prefix}{attempt}"
    (staging / "files").mkdir(parents=True)
    return staging


def _build(plan: Plan, library: Library, staging: Path, progress: Progress) -> tuple[Plan, ManifestDocument]:
    total = len(plan.files) + 1
    by_path = {planned.path: planned for planned in plan.files}

    def write(path: str, data: bytes) -> None:
        out = staging / "files" / path
        out.parent.mkdir(parents=True, exist_ok=True)
        write_bytes(data, out)
        planned = by_path.get(path)
        if planned is not None and planned.layout is not None:
            store.save_bytes("built", planned.digest(), data)

    def reuse(planned: PlannedFile) -> bytes | None:
        return store.read_bytes("built", planned.digest()) if planned.layout is not None else None

    def report(index: int, planned: PlannedFile) -> None:
        progress.report(index, total, planned.path)

    plan, manifest = build_files(plan, library, write, partial(take_back, staging / "files"), reuse, on_file=report)
    progress.report(total - 1, total, "zip")
    _zip(staging)
    return plan, cast(ManifestDocument, manifest)


def _zip(staging: Path) -> None:
    root = staging / "files"
    with zipfile.ZipFile(staging / "delivery.zip", "w", zipfile.ZIP_STORED) as archive:
        for path in sorted(p for p in root.rglob("*") if p.is_file()):
            entry = zipfile.ZipInfo(path.relative_to(root).as_posix(), _ZIP_DATE)
            entry.external_attr = 0o644 << 16
            with path.open("rb") as source, archive.open(entry, "w", force_zip64=True) as out:
                shutil.copyfileobj(source, out, 1 << 20)


def _publish(delivery: Delivery, plan: Plan, manifest: ManifestDocument, staging: Path, progress: Progress) -> None:
    """Rename into place and say so in one transaction, held by the rightful attempt only."""
    counts: dict[str, int] = {}
    for planned in plan.files:
        counts[planned.status] = counts.get(planned.status, 0) + 1
    with transaction.atomic():
        progress.hold_lease()
        # A folder without its row is what an attempt left that died between the two; its bytes would be the same.
        shutil.rmtree(delivery.folder, ignore_errors=True)
        delivery.zip_path.unlink(missing_ok=True)
        (staging / "delivery.zip").rename(delivery.zip_path)
        (staging / "files").rename(delivery.folder)
        Delivery.objects.filter(pk=delivery.pk).update(
            manifest=manifest, problems=list(plan.problems), counts=counts | {"orphaned": len(plan.orphaned)}
        )
        announce(delivery.project_id, "deliveries", id=delivery.pk)


def folder_is_whole(delivery: Delivery) -> bool:
    """Whether the delivered files still are what the manifest says."""
    if delivery.manifest is None:
        return False
    names = [(entry["path"], entry["digest"]) for entry in delivery.manifest["files"]]
    return (delivery.folder / MANIFEST).is_file() and all(
        (delivery.folder / path).is_file() and digest.of_file(delivery.folder / path) == wanted
        for path, wanted in names
    )
