"""Build what a project's text orders, without a studio: the same files, byte for byte, over all cores, and only what
changed since it was built before."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple

from texel.delivery import Plan, plan_delivery
from texel.delivery.advice import advise_files
from texel.delivery.drift import Choice
from texel.delivery.files_there import OURS
from texel.delivery.incremental import deliver_incrementally
from texel.delivery.place import Brought
from texel.ground.delivered import plan_ground
from texel.library import Library
from texel.materials.delivered import PlannedCasts, plan_casts
from texel.meshes.delivered import plan_models
from texel.project.judged import Findings, kept_out_by, notes_of
from texel.project.orders import Project, TargetOrder, order_for, waivers_of
from texel.project.sources import Sources, found
from texel.sets import TextureSet
from texel.threads import may_use

__all__ = ["Built", "build_project"]


class Built(NamedTuple):
    """plan: without what could not be built. findings: of the checks by set, that are not waived."""

    plan: Plan
    manifest: Mapping[str, Any]
    brought: Brought
    findings: Mapping[str, list[Mapping[str, Any]]]


def build_project(
    project: Project, roots: Iterable[Path], out: Path, target: str = "", *, casts: bool = True, models: bool = True,
    ground: bool = True, measure: bool = False, every: Choice | None = None, wait: float = 0.0,
) -> Built:  # fmt: skip
    """Bring ``out`` to what the project delivers for a target, the project's own without a name.

    roots: folders of sources. casts, models, ground: whether they are delivered beside the sets. measure: what
    compression changes in each file stands in the report. every, wait: as of deliver_incrementally. Raises
    BadDocument, also for sources that are not there, DeliveryRefused, Drifted, OSError.
    """
    order = order_for(project, target, casts, models, ground)
    memory = out / OURS
    sources = Sources(roots, memory / "found.json")
    there = found(sources, order.files, order.paths)
    library = Library(there, digests=order.files)
    by_content = {content: there[key] for key, content in order.files.items()}

    def alone(name: str) -> tuple[TextureSet, Library]:
        one = order_for(project, target, False, False, False, only=name)
        return one.sets[0], Library({key: by_content[content] for key, content in one.files.items()}, digests=one.files)

    findings = Findings(project, alone, memory / "findings.json")
    # What only fills slots is not in the report; whether the target takes it is asked all the same.
    names = [one.name for one in (order.sets if order.target.refuses else order.chosen)]
    with ThreadPoolExecutor(may_use()) as pool:
        found_in = dict(zip(names, pool.map(findings.of, names), strict=True))
    refused = dict(order.refused)
    for name, told in found_in.items():
        reason = kept_out_by(order.target, project.sets[name], told)
        if reason and name not in refused:
            refused[name] = reason
    planned = _beside(order, library, refused)
    notes: dict[str, Any] = {
        "sets": {one.name: notes_of(project.sets[one.name], found_in[one.name]) for one in order.chosen}, "errors": {}
    }  # fmt: skip

    def plan_against(previous: dict[str, Any] | None) -> Plan:
        plan = plan_delivery(order.chosen, library, order.target, previous, None, refused, (), planned.files)
        if measure:
            notes["errors"].update(_errors(project, plan, library))
        return replace(plan, problems=(*plan.problems, *planned.problems))

    plan, manifest, brought = deliver_incrementally(
        plan_against, library, out, every, wait, notes, make=planned.make
    )  # fmt: skip
    with suppress(OSError):  # the delivery is whole without it
        sources.remember()
        findings.remember()
    return Built(plan, manifest, brought, {name: _open(project, name, told) for name, told in found_in.items()})


def _open(project: Project, name: str, findings: Iterable[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    waivers = waivers_of(project.sets[name])
    return [one for one in findings if tuple(one["waiver"]) not in waivers]


def _beside(order: TargetOrder, library: Library, refused: Mapping[str, str]) -> PlannedCasts:
    by_name = {one.name: one for one in order.sets}
    made = [
        plan_casts(order.casts, by_name, library, order.target, {}, refused),
        plan_models(order.models, by_name, library, order.target, {}, refused),
        plan_ground(order.grounds, by_name, library, order.target, {}, refused),
    ]
    return PlannedCasts(
        [file for one in made for file in one.files], made[0].make | made[1].make | made[2].make,
        [problem for one in made for problem in one.problems],
    )  # fmt: skip


def _errors(project: Project, plan: Plan, library: Library) -> dict[str, Any]:
    """What compression changes in each file, by path."""
    maps = [planned for planned in plan.files if planned.kind == "map"]
    measured = advise_files(maps, library, project.formats, may_use())
    return {planned.path: document["current"]["error"] for planned, document in measured}
