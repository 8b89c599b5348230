"""Plans, outputs and budgets, as the page asks for them: a plan may have to decode a map that was not measured yet."""

from __future__ import annotations

from django.http import Http404

from studio import store
from studio.apart import Made, apart
from studio.changes.errors import Conflict
from studio.deliveries.advice import budget_of, memory_of
from studio.deliveries.build import mirror_of, other_sets, plan_for, rows_of
from studio.deliveries.facts import ChannelOut, OutputOut, PlannedOut, PlanOut
from studio.deliveries.models import Delivery, Destination
from studio.deliveries.ordered import NO_CASTS, OrderedCasts
from studio.deliveries.packed import packed_file, packed_picture, tried_picture
from studio.deliveries.places import path_of
from studio.deliveries.theirs import delivered_picture, picture_there
from studio.deliveries.transfers import drift_at
from studio.projects.models import Project
from studio.rules.models import target_for
from studio.sets.models import Placement, TextureSet
from texel.delivery import PlannedFile, parse_target
from texel.delivery.report import IN_MEMORY
from texel.document_types import TargetDocument
from texel.errors import BadDocument, DeliveryRefused
from texel.pictures import View
from texel.recipes import recipe_words

__all__ = [
    "build_one", "draw_delivered", "draw_packed", "draw_there", "draw_tried", "drift_of", "figure_budget",
    "figure_memory", "mirror_at", "outputs_of", "plan_of",
]  # fmt: skip


def _set(pk: int) -> TextureSet:
    rows = TextureSet.objects.select_related("project").prefetch_related("placements__file__source")
    one = rows.filter(pk=pk).first()
    if one is None:
        raise Http404("There is no such set any more.")
    return one


def _project(pk: int) -> Project:
    project = Project.objects.filter(pk=pk).first()
    if project is None:
        raise Http404("There is no such project any more.")
    return project


@apart
def plan_of(
    project: int, target: str, sets: list[int] | None, keep_others: bool, casts: OrderedCasts = NO_CASTS
) -> Made:
    """What delivering sets and casts would write, file by file."""
    one = _project(project)
    rows = rows_of(one, sets)
    carry = other_sets(one, rows) if keep_others else set()
    with store.local_copies() as copies:
        plan, _ = plan_for(one, rows, target_for(one, target), copies, by_rules=True, carry=carry, casts=casts)
    files: list[PlannedOut] = []
    for planned in plan.files:
        steps = dict.fromkeys(label for source in planned.sources for label in recipe_words(source.recipe))
        files.append(
            {
                "path": planned.path, "set": planned.set, "cast": planned.cast, "model": planned.model,
                "ground": planned.ground, "kind": planned.kind,
                "status": planned.status,
                "container": planned.container, "width": planned.width, "height": planned.height,
                "bits": planned.bits, "memory": planned.memory, "channels": planned.channels,
                "format": planned.encoding.format.label if planned.encoding.format else None,
                "colour_space": planned.colour_space.value,
                "green": planned.green.value if planned.green else None, "steps": list(steps),
                "why": list(planned.why),
            }
        )  # fmt: skip
    counted = [(one.kind, one.memory) for one in plan.files]
    counted += [(entry["kind"], entry.get("memory", 0)) for entry in plan.carried["files"]]
    limit = plan.target.budget.memory_mib
    told: PlanOut = {
        "memory": sum(memory for kind, memory in counted if kind in IN_MEMORY),
        "budget": None if limit is None else round(limit * 1024 * 1024),
        "target": target, "files": files, "orphaned": list(plan.orphaned), "problems": list(plan.problems),
        "carried": [entry["name"] for entry in plan.carried["sets"]],
    }  # fmt: skip
    return Made(said=told)


@apart
def outputs_of(set: int, target: str, untouched: bool) -> Made:
    """What a target makes of a set, and where each channel comes from. Raises BadDocument when it cannot."""
    one = _set(set)
    with store.local_copies() as copies:
        plan, _ = plan_for(one.project, [one], target_for(one.project, target), copies, untouched=untouched)
    if plan.problems:
        raise BadDocument("{problems}", problems="; ".join(plan.problems))
    placements = list(one.placements.all())
    return Made(said=[_output(planned, placements) for planned in plan.files if planned.layout is not None])


def _output(planned: PlannedFile, placements: list[Placement]) -> OutputOut:
    sources = {source.role: source for source in planned.sources}
    channels: list[ChannelOut] = []
    for letter, wanted in planned.layout.channels.items() if planned.layout else ():
        source = sources.get(wanted.role) if wanted.role else None
        same_map = None
        if source is not None:
            same = [
                p for p in placements
                if p.role == source.ref.role.value and source.ref.file.endswith(p.file.path)
                and (p.channel or None) == source.ref.channel
            ]  # fmt: skip
            same_map = same[0].pk if same else None
        steps = recipe_words(source.recipe) if source else []
        channels.append(
            {
                "letter": letter,
                "role": wanted.role.value if wanted.role else None,
                "map": same_map,
                "source_channel": (source.ref.channel or wanted.channel) if source else None,
                "inverted": wanted.invert,
                "constant": None if source else wanted.missing,
                "steps": steps,
            }
        )
    return {
        "output": planned.output, "path": planned.path, "kind": planned.kind, "container": planned.container,
        "bits": planned.bits, "format": planned.encoding.format.label if planned.encoding.format else None,
        "memory": planned.memory, "colour_space": planned.colour_space.value, "width": planned.width,
        "height": planned.height, "green": planned.green.value if planned.green else None,
        "plan": planned.digest(), "channels": channels,
    }  # fmt: skip


@apart
def draw_packed(set: int, target: str, path: str, side: int, channel: str, untouched: bool) -> Made:
    """The PNG of one output, kept. said: the digest of its plan."""
    one = _set(set)
    data, plan = packed_picture(one, target_for(one.project, target), path, View(side, channel or None), untouched)
    return Made(data, {"plan": plan})


@apart
def draw_tried(set: int, target: TargetDocument, output: str, side: int, channel: str) -> Made:
    """The PNG of one output of a target that is not kept."""
    parsed = parse_target(target, "the target")
    return Made(tried_picture(_set(set), parsed, output, View(side, channel or None)))


@apart
def build_one(set: int, target: str, path: str) -> Made:
    """The bytes of one output as it would be delivered, kept."""
    one = _set(set)
    return Made(packed_file(one, target_for(one.project, target), path))


@apart
def figure_budget(project: int, target: str) -> Made:
    return Made(said=budget_of(_project(project), target))


@apart
def figure_memory(project: int, targets: list[str]) -> Made:
    """What the project takes for each of some targets."""
    one = _project(project)
    return Made(said=[memory_of(one, name) for name in targets])


def _destination(pk: int) -> Destination:
    one = Destination.objects.select_related("project").filter(pk=pk).first()
    if one is None:
        raise Http404("There is no such destination any more.")
    return one


@apart
def drift_of(destination: int, delivery: int | None, thorough: bool) -> Made:
    """What others changed at a destination since."""
    one = _destination(destination)
    wanted = None
    if delivery is not None:
        wanted = one.project.deliveries.select_related("project").filter(number=delivery).first()
        if wanted is None or wanted.manifest is None:
            raise Http404("There is no such delivery.")
    sets: dict[str, str] = {}
    for known in (one.holds, wanted):
        if known is not None and known.manifest is not None:
            sets |= {entry["path"]: entry["set"] for entry in known.manifest["files"]}
    try:
        found = drift_at(one, wanted, thorough)
    except Conflict as conflict:
        raise DeliveryRefused("{reason}", reason=conflict) from conflict
    return Made(said=[each.document() | {"set": sets.get(each.path, "")} for each in found])


@apart
def draw_there(destination: int, path: str, side: int, channel: str) -> Made:
    """The PNG of a file as it lies at a destination."""
    return Made(picture_there(_destination(destination), path, View(side, channel or None)))


@apart
def draw_delivered(delivery: int, path: str, side: int, channel: str, misread: str) -> Made:
    """The PNG of a file of a past delivery, as it is or as a misreading leaves it."""
    one = Delivery.objects.select_related("project").filter(pk=delivery).first()
    if one is None:
        raise Http404("There is no such delivery any more.")
    return Made(delivered_picture(one, path, View(side, channel or None), misread))


@apart
def mirror_at(destination: int) -> Made:
    """What the engine of a destination's target would make of what lies there now."""
    one = _destination(destination)
    if one.kind != Destination.Kind.FOLDER:
        raise DeliveryRefused("{one} is no folder: only folders can be read as an engine reads them", one=one.name)
    try:
        root = path_of(one.place)
    except Conflict as conflict:
        raise DeliveryRefused("{reason}", reason=conflict) from conflict
    if not root.is_dir():
        raise DeliveryRefused("{one}: nothing lies there", one=one.name)
    return Made(said=mirror_of(one.project, target_for(one.project, one.target), root))
