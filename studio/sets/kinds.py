"""What a project's history keeps of sets, maps and waivers; whatever changes them asks for their judgement."""

from __future__ import annotations

from typing import Any

from django.db.models import F, Q

from studio.changes.kinds import Kind, Touched, after_changes, belongs_to, register
from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.sets.judging import ask_to_judge, judge_again
from studio.sets.models import Placement, TextureSet, Waiver

__all__ = ["free_name"]


_JUDGED_BY = ("names", "formats", "licences")


def free_name(project: Project, name: str, taken: set[str] | None = None) -> str:
    """``name``, or with a number behind it when another set of the project has it. taken: their names, where known."""
    taken = set(project.sets.values_list("name", flat=True)) if taken is None else taken
    number, wanted = 2, name[:190]
    while wanted in taken:
        wanted, number = f"{name[:190]}_{number}", number + 1
    return wanted


def _still_holds(one: TextureSet) -> str:
    count = one.placements.count()
    return f"it holds {count} maps that came since" if count else ""


register(
    Kind(
        "sets", 10, TextureSet, ("name", "metres", "licence", "credit", "targets", "regions"),
        lambda project: project.sets.all(),
        lambda row: row.name,
        {
            "name": "the name", "metres": "the size", "licence": "the licence", "credit": "the credit",
            "targets": "the targets", "regions": "the regions",
        },
        name_field="name", free=lambda row, name: free_name(row.project, name), still_used=_still_holds,
    ),
    Kind(
        "placements", 30, Placement,
        (
            "intake_id", "file_id", "set_id", "role", "channel", "layer", "order", "confidence", "why", "said",
            "by_hand", "candidates", "recipe", "suffix",
        ),
        lambda project: project.placements.select_related("file"), lambda row: row.file.path,
        {
            "set_id": "its place", "recipe": "its steps", "layer": "its layer", "candidates": "its likely places",
            "suffix": "its suffix",
        },
        together=(("set_id", "role", "order", "confidence", "why", "said", "by_hand"),),
    ),
    Kind(
        "waivers", 40, Waiver,
        ("set_id", "check_name", "role", "map_digest", "reason", "until", "by_id", "created", "revoked"),
        lambda project: Waiver.objects.filter(set__project=project).select_related("set"),
        lambda row: f"the waiver for {row.set.name}", {"revoked": "whether it holds"},
    ),
)  # fmt: skip


def _touched_sets(touched: Touched) -> set[int]:
    """The sets that a change is seen in."""
    ids = {int(key) for key in touched.get("sets", ())}
    for was, now in touched.get("placements", {}).values():
        ids |= {pk for values in (was, now) if values and isinstance(pk := values.get("set_id"), int)}
    maps = Q(pk__in=[int(key) for key in touched.get("placements", ())])
    files = Q(file__in=[int(key) for key in touched.get("files", ())])
    rows = Placement.objects.filter(maps | files, set__isnull=False)
    return ids | set(rows.values_list("set", flat=True))


@belongs_to
def _sets_of(touched: Touched) -> list[str]:
    """Maps, files and waivers belong to sets."""
    if not touched.keys() & {"placements", "files", "waivers"}:
        return []
    told = [now or was or {} for was, now in touched.get("waivers", {}).values()]
    waived = {pk for values in told if isinstance(pk := values.get("set_id"), int)}
    if missing := [
        int(key) for key, (was, now) in touched.get("waivers", {}).items() if "set_id" not in (now or was or {})
    ]:
        waived |= set(Waiver.objects.filter(pk__in=missing).values_list("set", flat=True))
    return [f"sets:{pk}" for pk in sorted(_touched_sets(touched) | waived)]


def _rules_changed(project: Project, touched: Touched) -> bool:
    """Whether sets are judged by something that changed: the target, or a rule that checks look at."""
    if any("target" in (now or {}) for _, now in touched.get("projects", {}).values()):
        return True
    target = Project.objects.values_list("target", flat=True).get(pk=project.pk)
    rows = project.rules.filter(pk__in=[int(key) for key in touched.get("rules", ())])
    return any(row.kind in _JUDGED_BY or (row.kind == "target" and row.name == target) for row in rows)


@after_changes
def judge_what_changed(project: Project, touched: Touched, by: Any) -> None:
    """Findings of sets that changed, and of all sets where their rules did, are asked for anew; those that a worker is
    about to write down are thrown away."""
    if _rules_changed(project, touched):
        judge_again(project, by)
    elif touched.keys() & {"sets", "placements", "files"}:
        ids = sorted(_touched_sets(touched))
        project.sets.filter(pk__in=ids).update(revision=F("revision") + 1)
        ask_to_judge(project, ids, by)
    if touched.keys() & {"sets", "placements", "files", "waivers"}:
        announce(project.pk, "sets")
