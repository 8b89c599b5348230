"""An atlas made: its maps as files, a set with a region for each cell, slots that wear them: the job "atlas"."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from django.db import transaction

from studio import store
from studio.changes.engine import Doing, change
from studio.changes.kinds import free_name_in
from studio.intake.models import Intake
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.registry import job as job_kind
from studio.materials.casts import Fills, resolved
from studio.materials.models import Cast, Wears
from studio.meshes.atlas import AtlasOrder, Move, atlas_sets, moves_of, planned
from studio.meshes.models import Mesh
from studio.meshes.regions import worn_region
from studio.sets.documents import core_sets, library_of
from studio.sets.greens import known_greens
from studio.sets.models import TextureSet
from studio.sorting.intakes import write_down
from studio.sorting.made import drop_made, made_intake
from texel.atlas.building import atlas_maps, atlas_roles, own_sizes
from texel.atlas.packing import AtlasPlan, clean_levels
from texel.files import encode
from texel.library import Library
from texel.messages import message_of
from texel.roles import Green, Role
from texel.sets import MapRef
from texel.sets import TextureSet as CoreSet
from texel.sorting import Sorted

__all__ = ["make_atlas"]

# Terms of sets that came under different ones: nothing but a look at all of them tells what may be done.
_MIXED = "LicenseRef-mixed"


@job_kind("atlas", minutes=120, on_loss=drop_made)
def make_atlas(job: Job, progress: Progress) -> str:
    """payload: order. All maps appear at once with their set, or none; taken back, slots wear what they wore."""
    order: AtlasOrder = job.payload["order"]
    project = job.project
    rows = atlas_sets(project, order["sets"])
    sets, files = core_sets(rows)
    names = {row.pk: row.name for row in rows}
    by_name = {one.name: one for one in sets}
    with store.local_copies() as copies:
        library = library_of(files, copies)
        plan = planned(order, sets, own_sizes(by_name, library), moves_of(project, order), names)
        roles = atlas_roles(by_name)
        pictures = _pictures(order["name"], plan, by_name, library, known_greens(sets, library))
        intake = made_intake(job, progress, project, order["name"], pictures, len(roles))
    entries = {entry.path: entry for entry in intake.files.select_related("source")}
    refs = tuple(
        MapRef(role, path, why=message_of("why_atlas", count=len(rows)))
        for path, role in _paths(order["name"], roles).items()
    )
    with transaction.atomic(), change(project, job.by, "") as doing:
        progress.hold_lease()
        # Taken back, it is open again, as other intakes are.
        Intake.objects.filter(pk=intake.pk).update(state=Intake.State.OPEN)
        (made,) = write_down(doing, intake, entries, Sorted([CoreSet(order["name"], refs)]))
        doing.update(made, regions=[one.document() for one in plan.regions()], **_terms(rows))
        doing.update(doing.row(Intake, intake.pk), state=Intake.State.SORTED)
        moved, left = _move(doing, order, made, names)
        doing.label = f"Make the atlas {made.name}"
    told = [f"{plan.width} x {plan.height}, {len(plan.cells)} cells, {clean_levels(plan.padding)} mips clean"]
    told += [f"{moved} slots wear it"] if moved else []
    return "; ".join([*told, *left[:5]])


def _paths(name: str, roles: Sequence[Role]) -> dict[str, Role]:
    """Names of files by what they are for; that of a normal map tells its direction."""
    stem = name.replace("/", "-").replace("\\", "-")
    ends = {role: "normal_gl" if role is Role.NORMAL else role.value for role in roles}
    return {f"{stem}_{end}.tif": role for role, end in ends.items()}


def _pictures(
    name: str, plan: AtlasPlan, sets: Mapping[str, CoreSet], library: Library, greens: Mapping[str, tuple[Green, str]]
) -> Iterator[tuple[str, bytes]]:
    paths = {role: path for path, role in _paths(name, atlas_roles(sets)).items()}
    for one in atlas_maps(plan, sets, library, greens):
        yield paths[one.role], encode(one.texels, "tiff")


def _terms(rows: Sequence[TextureSet]) -> dict[str, str]:
    """Licence and credit of an atlas: those of its sets where they agree; else that they differ, and all credits."""
    licences, credits = {one.licence for one in rows}, list(dict.fromkeys(one.credit for one in rows if one.credit))
    return {"licence": licences.pop() if len(licences) == 1 else _MIXED, "credit": "; ".join(credits)[:300]}


def _move(doing: Doing, order: AtlasOrder, made: TextureSet, names: Mapping[int, str]) -> tuple[int, list[str]]:
    """Let slots wear the atlas; how many, and what is left where it was with the reason."""
    moves = moves_of(doing.project, order)
    casts: dict[int, Cast] = {}
    wears: dict[int, dict[str, Wears]] = {}
    for move in moves:
        if move.problem:
            continue
        worn: Wears = {"kind": "set", "id": made.pk}
        if move.kind == "cast":
            if move.pk not in casts:
                casts[move.pk] = _on_atlas(doing, move, made)
            worn = {"kind": "cast", "id": casts[move.pk].pk}
        worn["region"] = worn_region(doing.project, "set", made.pk, names[move.set])
        wears.setdefault(move.mesh.pk, {})[move.key] = worn
    for pk, fresh in wears.items():
        row = doing.row(Mesh, pk)
        doing.update(row, wears={**row.wears, **fresh})
    left = [
        f"{move.key or 'a slot'} of {move.mesh.name} stays as it is: {move.problem}" for move in moves if move.problem
    ]
    return sum(map(len, wears.values())), left


def _on_atlas(doing: Doing, move: Move, made: TextureSet) -> Cast:
    """The cast that a slot wears, filled from the atlas."""
    before = doing.project.casts.select_related("master", "project", "parent").get(pk=move.pk)
    fills: Fills = {slot: {**fill, "set": made.pk} for slot, fill in resolved(before).slots.items()}
    name = free_name_in(doing.project.casts, f"{before.name} on {made.name}", "Cast")
    return doing.create(
        Cast, project=doing.project, master=before.master, parent=before.parent, name=name, changes=before.changes,
        slots=fills, by=before.by,
    )  # fmt: skip
