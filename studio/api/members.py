"""Who is in a project: members and their rights, invitations, hand over, the security log."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Path, Router, Status

from studio.api.access import name_of, project_for, user_of
from studio.api.schemas.people import HandOver, InvitationOut, LogLine, MemberOut, NewInvitation, NewLink, Right
from studio.api.seen import IfMatch, newest_of, seen
from studio.people import links, members
from studio.people.models import Invitation, LogEntry
from studio.projects.models import Membership

router = Router(tags=["members"])


@newest_of(Membership)
def _member_out(request: HttpRequest, row: Membership) -> MemberOut:
    return {"name": row.user.get_username(), "right": row.right, "revision": row.revision}


@router.get("/members", response=list[MemberOut])
def list_members(request: HttpRequest, slug: Path[str]) -> Any:
    rows = project_for(request, slug).members.select_related("user").order_by("user__username")
    return [_member_out(request, row) for row in rows]


@router.put("/members/{name}", response=MemberOut)
def put_member(request: HttpRequest, slug: Path[str], name: Path[str], given: Right, if_match: IfMatch = None) -> Any:
    """Let somebody look, prepare, set the rules or manage. The last one who manages keeps that right."""
    project = project_for(request, slug, Membership.Right.MANAGE)
    row = members.set_right(project, name, given.right, user_of(request), seen(if_match))
    return _member_out(request, row)


@router.delete("/members/{name}", response={204: None})
def delete_member(request: HttpRequest, slug: Path[str], name: Path[str]) -> Any:
    """Take somebody out of the project, or leave it. The last one who manages stays."""
    person = user_of(request)
    own = name == person.get_username()
    project = project_for(request, slug, Membership.Right.LOOK if own else Membership.Right.MANAGE)
    members.remove(project, name, person)
    return Status(204, None)


@router.get("/log", response=list[LogLine])
def show_log(request: HttpRequest, slug: Path[str]) -> Any:
    """The security log of the project: changes of rights and members, refusals; the newest 200 lines."""
    rows = project_for(request, slug, Membership.Right.MANAGE).log.all()[:200]
    return [
        {
            "event": LogEntry.EVENTS.get(row.event, row.event), "name": row.name, "about": row.about,
            "address": row.address, "at": row.at,
        }
        for row in rows
    ]  # fmt: skip


def _invitation(row: Invitation) -> InvitationOut:
    by = name_of(row.by)
    return {
        "id": row.pk, "right": row.right, "about": row.about, "by": by, "created": row.created, "until": row.until,
    }  # fmt: skip


@router.get("/invitations", response=list[InvitationOut])
def list_invitations(request: HttpRequest, slug: Path[str]) -> Any:
    """Those that nobody has taken yet; what their links carry was shown once."""
    return [_invitation(row) for row in links.invitations_of(project_for(request, slug, Membership.Right.MANAGE))]


@router.post("/invitations", response=NewLink)
def make_invitation(request: HttpRequest, slug: Path[str], given: NewInvitation) -> Any:
    """A link into the project that works once, shown this once: the page's address /invitation#SECRET."""
    project = project_for(request, slug, Membership.Right.MANAGE)
    row, secret = links.invite(project, given.right, given.days, given.about, user_of(request))
    return {"secret": secret, "path": f"/invitation#{secret}", "until": row.until}


@router.delete("/invitations/{int:pk}", response={204: None})
def revoke_invitation(request: HttpRequest, slug: Path[str], pk: int) -> Any:
    links.revoke_invitation(project_for(request, slug, Membership.Right.MANAGE), pk, user_of(request))
    return Status(204, None)


@router.post("/hand-over", response=list[MemberOut])
def hand_over(request: HttpRequest, slug: Path[str], given: HandOver) -> Any:
    """Let another member manage the project in one's own place; keep: the right that one keeps, or none to leave."""
    project = project_for(request, slug, Membership.Right.MANAGE)
    members.hand_over(project, given.to, given.keep, user_of(request))
    return [_member_out(request, row) for row in project.members.select_related("user").order_by("user__username")]
