"""Comments, reviews of sets, who has what open; and one's own notices and what waits for one."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Status

from studio.api.access import name_of, project_for, user_of
from studio.api.projects import one_project
from studio.api.schemas.projects import ProjectOut
from studio.api.schemas.team import (
    AnswerOut,
    Approval,
    Closed,
    CommentOut,
    CommentText,
    Here,
    Mail,
    MailOut,
    NewComment,
    NoticeOut,
    PresenceOut,
    ReviewOut,
    ReviewSteps,
    WaitingOut,
)
from studio.api.seen import IfMatch, newest_of, seen
from studio.projects.models import Membership
from studio.team import comments, notices, presence, reviews, waiting
from studio.team.models import Comment, ReviewStep

router = Router(tags=["team"])
own = Router(tags=["team"])
_PREPARE = Membership.Right.PREPARE
_RULES = Membership.Right.RULES


def _answer(request: HttpRequest, row: Comment) -> AnswerOut:
    return {
        "id": row.pk, "text": row.text, "by": name_of(row.by),
        "mine": row.by_id == user_of(request).pk, "created": row.created, "edited": row.edited,
        "revision": row.revision,
    }  # fmt: skip


@newest_of(Comment)
def _comment(request: HttpRequest, row: Comment) -> CommentOut:
    about = row.set or row.cast
    return {
        **_answer(request, row),
        "set": row.set_id, "cast": row.cast_id, "name": about.name if about else "", "map": row.map_id, "x": row.x,
        "y": row.y, "check": row.check_name,
        "mentions": sorted(one.get_username() for one in row.mentions.all()),
        "closed": row.closed, "closed_by": name_of(row.closed_by),
        "answers": [_answer(request, one) for one in row.answers.all()],
    }  # fmt: skip


@router.get("/comments", response=list[CommentOut])
def list_comments(request: HttpRequest, slug: Path[str], about: str = "", closed: bool | None = None) -> Any:
    """Comments with their answers, oldest first. about: "sets:12" or "casts:3"; closed: only settled ones, or open."""
    rows = comments.comments_of(project_for(request, slug), about, closed)
    return [_comment(request, row) for row in rows]


@router.post("/comments", response=CommentOut)
def add_comment(request: HttpRequest, slug: Path[str], given: NewComment) -> Any:
    """Say something about a set, a place in a map, a finding or a cast; or answer. Everybody in the project may."""
    row = comments.add(project_for(request, slug), comments.Said(**given.dict()), user_of(request))
    return _comment(request, row)


@router.patch("/comments/{int:pk}", response=CommentOut)
def edit_comment(
    request: HttpRequest, slug: Path[str], pk: Path[int], given: CommentText, if_match: IfMatch = None
) -> Any:
    """Change one's own words."""
    row = comments.edit(project_for(request, slug), pk, given.text, user_of(request), seen(if_match))
    return _comment(request, row)


@router.delete("/comments/{int:pk}", response={204: None})
def delete_comment(request: HttpRequest, slug: Path[str], pk: Path[int]) -> Any:
    """Take one's own comment away, as long as nobody else answered."""
    comments.remove(project_for(request, slug), pk, user_of(request))
    return Status(204, None)


@router.put("/comments/{int:pk}/closed", response=CommentOut)
def close_comment(request: HttpRequest, slug: Path[str], pk: Path[int], given: Closed) -> Any:
    """Settle a comment, or open it again."""
    return _comment(request, comments.close(project_for(request, slug), pk, given.closed, user_of(request)))


def _review(row: ReviewStep) -> ReviewOut:
    return {
        "set": row.set_id, "name": row.set.name, "state": row.state, "reason": row.reason,
        "by": name_of(row.by), "at": row.at,
    }  # fmt: skip


@router.get("/reviews", response=list[ReviewOut])
def list_reviews(request: HttpRequest, slug: Path[str]) -> Any:
    """How the review of each set stands; sets that are not in review are not among them."""
    project = project_for(request, slug)
    return [_review(row) for row in reviews.steps_now(project.sets.all())]


@router.get("/reviews/{int:pk}", response=list[ReviewOut])
def steps_of_review(request: HttpRequest, slug: Path[str], pk: Path[int]) -> Any:
    """All steps of the review of a set, the newest first."""
    rows = ReviewStep.objects.filter(set__project=project_for(request, slug), set=pk).select_related("by", "set")
    return [_review(row) for row in rows.order_by("-pk")]


@router.post("/reviews", response=list[ReviewOut])
def step_of_review(request: HttpRequest, slug: Path[str], given: ReviewSteps) -> Any:
    """Mark sets ready, or take them out of review (right to prepare); approve them or send them back with a reason
    (right to set the rules). All or none."""
    needed = _RULES if given.state in ("approved", "sent_back") else _PREPARE
    project = project_for(request, slug, needed)
    return [_review(row) for row in reviews.review(project, given.sets, given.state, given.reason, user_of(request))]


@router.put("/approval", response=ProjectOut)
def put_approval(request: HttpRequest, slug: Path[str], given: Approval, if_match: IfMatch = None) -> Any:
    """Whether only approved sets are delivered. Can be undone."""
    project = project_for(request, slug, _RULES)
    reviews.ask_for_approval(project, given.wanted, user_of(request), seen(if_match))
    return one_project(request, slug)


@router.get("/presence", response=list[PresenceOut])
def who_is_here(request: HttpRequest, slug: Path[str], about: str = "") -> Any:
    """Who else has something open. about: only this, as "sets:12"."""
    rows = presence.others_at(project_for(request, slug), user_of(request), about)
    return [{"person": row.person.get_username(), "about": row.about, "editing": row.editing} for row in rows]


@router.put("/presence", response={204: None})
def say_here(request: HttpRequest, slug: Path[str], given: Here) -> Any:
    """Say what a window has open; it is forgotten when it does not say so again for 45 seconds."""
    presence.here(project_for(request, slug), user_of(request), given.tab, given.about, given.editing)
    return Status(204, None)


@router.delete("/presence/{tab}", response={204: None})
def say_gone(request: HttpRequest, slug: Path[str], tab: Path[str]) -> Any:
    presence.leave(project_for(request, slug), user_of(request), tab)
    return Status(204, None)


@own.get("/notices", response=list[NoticeOut])
def list_notices(request: HttpRequest) -> Any:
    """One's own notices, the newest first."""
    return [
        {
            "id": row.pk, "project": row.project.name, "by": name_of(row.by),
            "text": row.text, "path": row.path, "created": row.created, "seen": row.seen,
        }
        for row in notices.notices_of(user_of(request))
    ]  # fmt: skip


@own.put("/notices/seen", response={204: None})
def see_all_notices(request: HttpRequest) -> Any:
    notices.mark_seen(user_of(request), None)
    return Status(204, None)


@own.put("/notices/{int:pk}/seen", response={204: None})
def see_notice(request: HttpRequest, pk: int) -> Any:
    notices.mark_seen(user_of(request), pk)
    return Status(204, None)


@own.get("/waiting", response=list[WaitingOut])
def what_waits(request: HttpRequest) -> Any:
    """What waits for oneself over all projects: sets to approve, sets sent back, comments that mention one."""
    return waiting.waits_for(user_of(request))


@own.get("/mail", response=MailOut)
def show_mail(request: HttpRequest) -> Any:
    """Where one's notices are mailed to."""
    return {"address": user_of(request).email, "sent": notices.has_mail_server()}


@own.put("/mail", response=MailOut)
def put_mail(request: HttpRequest, given: Mail) -> Any:
    """Say where one's notices are mailed to; empty for no mails."""
    notices.mail_to(user_of(request), given.address)
    return {"address": given.address.strip(), "sent": notices.has_mail_server()}
