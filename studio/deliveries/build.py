"""Plan and build deliveries from a project's sets, by the core, into a folder that appears whole or not at all."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any, cast

from django.conf import settings
from django.db import transaction
from django.db.models import Max

from studio import store
from studio.deliveries.archive import here, keep_in_store, link, link_from, take_away_old
from studio.deliveries.facts import ReflectionOut, ReportNotes
from studio.deliveries.measured import advice_key, formats_digest
from studio.deliveries.models import Delivery, Destination
from studio.deliveries.ordered import NO_CASTS, OrderedCasts
from studio.deliveries.refusing import kept_out
from studio.deliveries.transfers import order_transfer
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.projects.models import Project
from studio.rules.models import habits_for, target_documents, target_for
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens
from studio.sets.models import TextureSet
from studio.sets.rows import MAPS, set_rows
from studio.sets.waivers import waiver_for
from studio.store import Copies
from texel import digest
from texel.delivery import Plan, PlannedFile, Target, parse_target, plan_delivery
from texel.delivery.folder import build_files, take_back
from texel.delivery.manifest import MANIFEST, RESERVED
from texel.document_types import ManifestDocument, TargetDocument
from texel.errors import BadDocument, DeliveryRefused
from texel.files.writing import write_bytes
from texel.ground.delivered import ground_order, plan_ground
from texel.library import Library
from texel.materials.delivered import PlannedCasts, cast_order, plan_casts
from texel.meshes.delivered import model_order, plan_models
from texel.mirror import reflect
from texel.roles import Green
from texel.sets import TextureSet as CoreSet
from texel.sets import parse_sets, sets_document

__all__ = [
    "build_delivery",
    "latest_manifest",
    "mirror_of",
    "notes_of",
    "order_delivery",
    "order_for_all_targets",
    "other_sets",
    "plan_for",
    "rows_of",
]


def rows_of(project: Project, ids: Iterable[int] | None) -> list[TextureSet]:
    """Sets in the order of their names, whatever the database takes for order: that of everything delivered."""
    rows = project.sets.prefetch_related(MAPS)
    return sorted(rows if ids is None else rows.filter(pk__in=list(ids)), key=lambda row: (row.name, row.pk))


def latest_delivery(project: Project, target: str) -> Delivery | None:
    """The last whole delivery for a target."""
    rows = project.deliveries.select_related("project").filter(target__name=target, manifest__isnull=False)
    return rows.order_by("-number").first()


def latest_manifest(project: Project, target: str) -> ManifestDocument | None:
    """The manifest of the last whole delivery for a target."""
    last = latest_delivery(project, target)
    return last.manifest if last else None


def other_sets(project: Project, rows: Iterable[TextureSet]) -> set[str]:
    """Names of the project's sets that are not among ``rows``: they may stay as they were delivered."""
    return set(project.sets.exclude(pk__in=[row.pk for row in rows]).values_list("name", flat=True))


def plan_for(
    project: Project,
    rows: list[TextureSet],
    target: Target,
    copies: Copies,
    *,
    by_rules: bool = False,
    untouched: bool = False,
    carry: Iterable[str] = (),
    casts: OrderedCasts = NO_CASTS,
) -> tuple[Plan, Library]:
    """What delivering these sets would write, compared with the last delivery for the target. Raises TexelError.

    by_rules: leave out, as deliveries do, what the house's rules keep out; it may be looked at all the same. untouched:
    as the sets were before any step. carry: names of sets that stay as they were delivered. casts: delivered with them.
    """
    all_rows = [*rows, *rows_beside(project, rows, casts)]
    cores, files = core_sets(all_rows)
    if untouched:
        cores = [one.untouched() for one in cores]
    library = library_of(files, copies, casts["mesh_files"])
    previous = latest_manifest(project, target.name)
    left_out = kept_out(all_rows, target) if by_rules else None
    greens = known_greens(cores, library)
    planned = _planned_casts(casts, cores, library, target, greens, left_out)
    plan = plan_delivery(
        cores[: len(rows)], library, target, previous, greens, left_out, carry, planned.files, casts["carry"],
        casts["carry_models"], casts["carry_grounds"],
    )  # fmt: skip
    return replace(plan, problems=(*plan.problems, *planned.problems)), library


def rows_beside(project: Project, rows: Iterable[TextureSet], casts: OrderedCasts) -> list[TextureSet]:
    """Sets that fill slots of casts and are not delivered themselves."""
    beside = set(casts["sets"]) - {row.pk for row in rows}
    return rows_of(project, beside) if beside else []


def _planned_casts(
    casts: OrderedCasts,
    cores: Iterable[CoreSet],
    library: Library,
    target: Target,
    greens: Mapping[str, tuple[Green, str]],
    left_out: Mapping[str, str] | None,
) -> PlannedCasts:
    by_name = {one.name: one for one in cores}
    made = plan_casts(map(cast_order, casts["casts"]), by_name, library, target, greens, left_out)
    models = plan_models(map(model_order, casts["models"]), by_name, library, target, greens, left_out)
    ground = plan_ground(map(ground_order, casts["grounds"]), by_name, library, target, greens, left_out)
    return PlannedCasts(
        [*made.files, *models.files, *ground.files], made.make | models.make | ground.make,
        [*made.problems, *models.problems, *ground.problems],
    )  # fmt: skip


def order_delivery(
    project: Project,
    rows: list[TextureSet],
    target_name: str,
    by: Any,
    *,
    keep_others: bool = False,
    destinations: Iterable[Destination] = (),
    casts: OrderedCasts = NO_CASTS,
) -> Delivery:
    """Queue a delivery of sets and casts as they are now. Raises BadDocument, DeliveryRefused.

    keep_others: the project's other sets stay as they were delivered last. destinations: where it is brought once it is
    whole, all of them of this target.
    """
    target, places = target_for(project, target_name), list(destinations)
    for one in places:
        if one.target != target_name:
            raise DeliveryRefused("{one} takes deliveries for {target}", one=one.name, target=one.target)
    if not rows and not casts["casts"] and not casts["models"] and not casts["grounds"]:
        raise DeliveryRefused("choose at least one set, cast, model or patch of ground to deliver")
    habits_for(project, target)
    beside = rows_beside(project, rows, casts)
    cores, files = core_sets([*rows, *beside])
    with transaction.atomic():
        Project.objects.select_for_update().get(pk=project.pk)
        number = (project.deliveries.aggregate(last=Max("number"))["last"] or 0) + 1
        delivery = Delivery.objects.create(
            project=project, number=number, target=_document_of(project, target_name), by=by,
            sets=sets_document(cores[: len(rows)])
            | {
                "casts": casts["casts"],
                "carry_casts": casts["carry"],
                "models": casts["models"],
                "carry_models": casts["carry_models"],
                "grounds": casts["grounds"],
                "carry_grounds": casts["carry_grounds"],
                "beside": sets_document(cores[len(rows) :])["sets"],
                "files": {key: p.file.source_id for key, p in files.items()} | casts["mesh_files"],
                "refused": kept_out([*rows, *beside], target),
                "carry": sorted(other_sets(project, rows)) if keep_others else [],
                "notes": notes_of(rows),
                "to": [one.pk for one in places],
            },
            set_ids=[row.pk for row in rows],
        )  # fmt: skip
        title = f"Deliver {_counted(len(rows), casts)} for {target.title}"
        delivery.job = enqueue(project, "deliver", title, by, delivery=delivery.pk)
        delivery.save(update_fields=["job"])
        announce(project.pk, "deliveries")
    return delivery


def _counted(sets: int, casts: OrderedCasts) -> str:
    words = [
        (sets, "set", "s"), (len(casts["casts"]), "cast", "s"), (len(casts["models"]), "model", "s"),
        (len(casts["grounds"]), "patch", "es"),
    ]  # fmt: skip
    return " and ".join(f"{count} {word}{'' if count == 1 else more}" for count, word, more in words if count)


def order_for_all_targets(
    project: Project, rows: list[TextureSet], by: Any, casts: OrderedCasts = NO_CASTS
) -> list[Delivery]:
    """Queue a delivery of sets for each of their targets, brought to all destinations of that target; sets that are not
    among them stay as they were delivered. casts: which of them stay. Raises BadDocument, DeliveryRefused."""
    by_target: dict[str, list[TextureSet]] = {}
    for row in rows:
        for name in row.targets or [project.target]:
            by_target.setdefault(name, []).append(row)
    if not by_target:
        raise DeliveryRefused("choose at least one set to deliver")
    with transaction.atomic():
        return [
            order_delivery(
                project,
                some,
                name,
                by,
                keep_others=True,
                destinations=project.destinations.filter(target=name),
                casts=casts,
            )
            for name, some in sorted(by_target.items())
        ]


def _document_of(project: Project, name: str) -> TargetDocument:
    return target_documents(project)[name]


@job_kind("deliver", minutes=240)
def build_delivery(job: Job, progress: Progress) -> str:
    """The job "deliver". Built from what was ordered, even if the sets have changed since."""
    delivery = Delivery.objects.select_related("project").get(pk=job.payload["delivery"])
    target = parse_target(delivery.target)
    ordered = delivery.sets
    sets = parse_sets({"sets": ordered["sets"]})
    beside = parse_sets({"sets": ordered.get("beside", [])})
    with store.local_copies(checked=True) as copies:
        digests = {key: value for key, value in delivery.sets["files"].items() if value}
        library = Library(store.Fetched(digests, copies), settings.PICTURE_LIMITS, digests)
        before = latest_delivery(delivery.project, target.name)
        previous = before.manifest if before else None
        cores, left_out = [*sets, *beside], ordered.get("refused")
        greens = known_greens(cores, library)
        casts: OrderedCasts = {
            "casts": ordered.get("casts", []), "models": ordered.get("models", []), "sets": [],
            "grounds": ordered.get("grounds", []), "carry_grounds": ordered.get("carry_grounds", []),
            "carry": ordered.get("carry_casts", []), "carry_models": ordered.get("carry_models", []), "mesh_files": {},
        }  # fmt: skip
        of_casts = _planned_casts(casts, cores, library, target, greens, left_out)
        plan = plan_delivery(
            sets, library, target, previous, greens, left_out, ordered.get("carry", ()), of_casts.files,
            casts["carry"], casts["carry_models"], casts["carry_grounds"],
        )  # fmt: skip
        plan = replace(plan, problems=(*plan.problems, *of_casts.problems))
        if not plan.files:
            more = "".join(f"; {one}" for one in plan.problems)
            raise DeliveryRefused("nothing to deliver{more}", more=more)
        staging = _fresh_staging(delivery, progress.attempt)
        try:
            plan, manifest = _build(delivery, plan, library, before, staging, progress, of_casts.make)
            try:
                mirror = mirror_of(delivery.project, target, staging / "files")
            except BadDocument:  # habits that were taken back since it was ordered
                mirror = None
            _publish(delivery, before, plan, manifest, mirror, staging, progress)
        finally:
            shutil.rmtree(staging, ignore_errors=True)
    left_out = len(plan.problems)
    told = f", {left_out} {'set' if left_out == 1 else 'sets'} left out" if left_out else ""
    return f"{len(plan.files)} files{told}"


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


def _build(
    delivery: Delivery,
    plan: Plan,
    library: Library,
    before: Delivery | None,
    staging: Path,
    progress: Progress,
    make: Mapping[str, Callable[[], bytes]],
) -> tuple[Plan, ManifestDocument]:
    total = len(plan.files) + 1
    root = staging / "files"
    for entry in plan.carried["files"]:
        if before is None or not link(_folder_of(before) / entry["path"], root / entry["path"], entry["bytes"]):
            raise DeliveryRefused(
                "{what} was to stay as it was delivered, but {path} of that delivery is not there any more; "
                "deliver it too",
                what=entry.get("cast") or entry["set"],
                path=entry["path"],
            )
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

    notes = {"sets": delivery.sets.get("notes", {}), "errors": _errors(delivery.project, plan)}
    plan, manifest = build_files(
        plan, library, write, partial(take_back, root), reuse, link_from(before, root), notes, on_file=report, make=make
    )
    return plan, cast(ManifestDocument, manifest)


def _folder_of(delivery: Delivery) -> Path:
    """Where a delivery lies, or would lie if it were there."""
    try:
        return here(delivery)
    except FileNotFoundError:
        return delivery.folder


def _errors(project: Project, plan: Plan) -> dict[str, Mapping[str, Any]]:
    """What compression changes in files that were measured, by path."""
    formats = formats_digest(project)
    errors = {}
    for planned in plan.files:
        data = store.read_bytes("advice", advice_key(planned, formats)) if planned.kind == "map" else None
        if data is not None:
            errors[planned.path] = json.loads(data)["current"]["error"]
    return errors


def notes_of(rows: list[TextureSet]) -> dict[str, ReportNotes]:
    """What the report says of each set: findings that count, and waivers with their reasons."""
    notes: dict[str, ReportNotes] = {}
    for row in set_rows(TextureSet.objects.filter(pk__in=[one.pk for one in rows])):
        told: ReportNotes = {"findings": [], "waivers": []}
        for finding in row.findings:
            document = finding.document
            waiver = waiver_for(finding, row.in_force)
            if waiver is not None:
                by = waiver.by.get_username() if waiver.by else ""
                told["waivers"].append(
                    {"check": document["check"], "message": document["message"], "reason": waiver.reason, "by": by}
                )
            elif document["severity"] != "note":
                told["findings"].append(
                    {"check": document["check"], "severity": document["severity"], "message": document["message"]}
                )
        notes[row.set.name] = told
    return notes


def mirror_of(project: Project, target: Target, root: Path) -> ReflectionOut:
    """What the engine of a target would make of a folder. Raises BadDocument, OSError."""
    return cast(ReflectionOut, reflect(root, habits_for(project, target)).document())


def _publish(
    delivery: Delivery,
    before: Delivery | None,
    plan: Plan,
    manifest: ManifestDocument,
    mirror: ReflectionOut | None,
    staging: Path,
    progress: Progress,
) -> None:
    """Rename into place and say so in one transaction, held by the rightful attempt only."""
    counts: dict[str, int] = {}
    for planned in plan.files:
        counts[planned.status] = counts.get(planned.status, 0) + 1
    root = staging / "files"
    closing = {name: digest.of_file(root / name) for name in RESERVED if (root / name).is_file()}
    files = {entry["path"]: entry["digest"] for entry in manifest["files"]} | closing
    keep_in_store(delivery, root, files, before)
    with transaction.atomic():
        progress.hold_lease()
        # A folder without its row is what an attempt left that died between the two; its bytes would be the same.
        shutil.rmtree(delivery.folder, ignore_errors=True)
        delivery.zip_path.unlink(missing_ok=True)
        (staging / "files").rename(delivery.folder)
        Delivery.objects.filter(pk=delivery.pk).update(
            manifest=manifest,
            closing=closing,
            mirror=mirror,
            problems=list(plan.problems),
            counts=counts | {"orphaned": len(plan.orphaned)},
        )
        announce(delivery.project_id, "deliveries", id=delivery.pk)
        whole = Delivery.objects.select_related("project").get(pk=delivery.pk)
        for one in Destination.objects.filter(project=delivery.project, pk__in=delivery.sets.get("to", [])):
            order_transfer(one, whole, delivery.by)
    take_away_old(delivery.project)


def folder_is_whole(delivery: Delivery) -> bool:
    """Whether the delivered files still are what the manifest says."""
    if delivery.manifest is None:
        return False
    names = [(entry["path"], entry["digest"]) for entry in delivery.manifest["files"]]
    return (delivery.folder / MANIFEST).is_file() and all(
        (delivery.folder / path).is_file() and digest.of_file(delivery.folder / path) == wanted
        for path, wanted in names
    )
