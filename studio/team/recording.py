"""What the history and reviews learn of each other."""

from __future__ import annotations

from typing import Any

from studio.changes.kinds import Touched, about_of, after_changes
from studio.changes.recorded import record_rows
from studio.projects.models import Project
from studio.team.models import Comment, ReviewStep
from studio.team.reviews import void_what_changed

__all__ = ["void_reviews"]

_SHOWN = 120
_STEPS = {
    "ready": "Mark {name} ready", "approved": "Approve {name}", "sent_back": "Send {name} back: {reason}",
    "withdrawn": "Take {name} out of review",
}  # fmt: skip


def _about(row: Comment) -> list[str]:
    own = [f"comments:{row.pk}"]
    return [*own, f"sets:{row.set_id}"] if row.set_id is not None else [*own, f"casts:{row.cast_id}"]


def _step(row: ReviewStep) -> str:
    return _STEPS.get(row.state, "").format(name=row.set.name, reason=row.reason)


record_rows(
    Comment, lambda row: f"Comment: {row.text[:_SHOWN]}", lambda row: f"Remove the comment: {row.text[:_SHOWN]}",
    about=_about,
)  # fmt: skip
record_rows(ReviewStep, _step, project=lambda row: row.set.project, about=lambda row: [f"sets:{row.set_id}"])


@after_changes
def void_reviews(project: Project, touched: Touched, by: Any) -> None:
    """A set that changes is not approved any more."""
    if touched.keys() & {"sets", "placements", "files"}:
        own = {kind: rows for kind, rows in touched.items() if kind in ("sets", "placements", "files")}
        ids = {int(one.partition(":")[2]) for one in about_of(own) if one.startswith("sets:")}
        void_what_changed(project, project.sets.filter(pk__in=ids).values_list("pk", flat=True), by)
