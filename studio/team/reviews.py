"""The review of sets: marked ready, approved, sent back with a reason. What changes afterwards is not approved
any more."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction
from django.db.models import OuterRef, QuerySet, Subquery

from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.jobs.announce import announce
from studio.projects.models import Membership, Project
from studio.sets.models import TextureSet
from studio.team.models import ReviewStep
from studio.team.notices import tell
from texel.errors import BadDocument
from texel.project.reviews import unapproved_words

__all__ = ["ask_for_approval", "newest_steps", "review", "steps_now", "unapproved", "void_what_changed"]

State = ReviewStep.State
_LONGEST = 1000
_WORDS = {
    State.READY: "marks {sets} ready", State.APPROVED: "approves {sets}", State.SENT_BACK: "sends {sets} back",
    State.WITHDRAWN: "takes {sets} back out of review",
}  # fmt: skip
# From which state which may follow; None: before the first step.
_FOLLOWS: dict[str, set[str | None]] = {
    State.READY: {None, State.SENT_BACK, State.CHANGED, State.WITHDRAWN},
    State.APPROVED: {State.READY},
    State.SENT_BACK: {State.READY, State.APPROVED},
    State.WITHDRAWN: {State.READY, State.APPROVED, State.SENT_BACK, State.CHANGED},
}


def steps_now(sets: QuerySet[TextureSet]) -> QuerySet[ReviewStep]:
    """The newest step of each set that has any."""
    last = ReviewStep.objects.filter(set=OuterRef("pk")).order_by("-id").values("pk")[:1]
    newest = sets.order_by().annotate(step=Subquery(last)).values("step")
    return ReviewStep.objects.filter(pk__in=newest).select_related("set__project", "by")


def newest_steps(sets: Collection[int]) -> dict[int, ReviewStep]:
    """The newest steps of sets by their ids; those without one are left out."""
    return {row.set_id: row for row in steps_now(TextureSet.objects.filter(pk__in=sets))}


def review(project: Project, sets: Sequence[int], state: str, reason: str, by: Any) -> list[ReviewStep]:
    """Take a step for several sets, all or none. Raises Conflict where it cannot follow, BadDocument without a reason
    for sending back."""
    reason = " ".join(reason.split())[:_LONGEST]
    if state not in _FOLLOWS:
        raise BadDocument("a step of a review is one of {listed}", listed=", ".join(_FOLLOWS))
    if state == State.SENT_BACK and not reason:
        raise BadDocument("say why it goes back")
    with transaction.atomic():
        rows = list(project.sets.select_for_update(no_key=True).filter(pk__in=sets).order_by("pk"))
        if not rows or len(rows) != len(set(sets)):
            raise Conflict("some of these sets are gone; look again")
        before = newest_steps([row.pk for row in rows])
        for row in rows:
            was = before[row.pk].state if row.pk in before else None
            if was not in _FOLLOWS[state]:
                raise Conflict(
                    "{name} is {state}; that step does not follow", name=row.name,
                    state=(was or "not in review").replace("_", " "),
                )  # fmt: skip
        steps = [ReviewStep.objects.create(set=row, state=state, reason=reason, by=by) for row in rows]
        _tell(project, rows, state, reason, by)
        announce(project.pk, "sets")
    return steps


def _tell(project: Project, rows: Sequence[TextureSet], state: str, reason: str, by: Any) -> None:
    """Whoever may approve hears of what is ready; whoever marked it ready hears what became of it."""
    if state == State.READY:
        may = project.members.filter(right__in=[Membership.Right.RULES, Membership.Right.MANAGE]).values("user")
        people = list(get_user_model().objects.filter(pk__in=may))
    else:
        asked = ReviewStep.objects.filter(set__in=rows, state=State.READY).select_related("by")
        people = [step.by for step in asked if step.by is not None]
    names = rows[0].name if len(rows) == 1 else f"{len(rows)} sets"
    text = f"{by.get_username()} {_WORDS[State(state)].format(sets=names)}" + (f": {reason}" if reason else "")
    path = f"/set/{rows[0].pk}" if len(rows) == 1 else f"/sets?review={state}"
    tell(project, people, by, text, path)


def void_what_changed(project: Project, sets: Collection[int], by: Any) -> None:
    """What was ready or approved and has changed since has to be looked at again."""
    person = by if getattr(by, "pk", None) else None
    for pk, step in newest_steps(sets).items():
        if step.state in (State.READY, State.APPROVED):
            ReviewStep.objects.create(set_id=pk, state=State.CHANGED, by=person)


def unapproved(project: Project, rows: Sequence[TextureSet]) -> dict[str, str]:
    """Why sets may not be delivered, by their names, where the house's rules ask for approval."""
    if not Project.objects.filter(pk=project.pk, approval=True).exists():
        return {}
    steps = newest_steps([row.pk for row in rows])
    told = {row.name: unapproved_words(steps[row.pk].state if row.pk in steps else "") for row in rows}
    return {name: words for name, words in told.items() if words}


def ask_for_approval(project: Project, wanted: bool, by: Any, seen: int | None = None) -> None:
    """Whether only approved sets are delivered. Can be undone. Raises Stale."""
    label = "Deliver approved sets only" if wanted else "Deliver sets without approval"
    with change(project, by, label) as doing:
        doing.update(doing.row(Project, project.pk, seen), approval=wanted)
