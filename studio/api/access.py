"""Who may do what: sessions for the page, tokens for scripts, rights by membership."""

from __future__ import annotations

import re
from typing import Any

from django.http import Http404, HttpRequest
from ninja.errors import HttpError
from ninja.security import APIKeyCookie, HttpBearer
from ninja.utils import check_csrf

from studio.changes.recorded import acting
from studio.people.address import address_of
from studio.people.log import note
from studio.people.tokens import has_all_rights, person_of, right_of
from studio.projects.models import Membership, Project
from texel.errors import ToldError

__all__ = [
    "BearerToken",
    "NotAllowed",
    "SessionCookie",
    "address_of",
    "must_administer",
    "must_come_from_the_page",
    "name_of",
    "project_for",
    "user_of",
]


# Routes outside projects that answer and change nothing.
_KEEPS_NOTHING = re.compile(r"/api/(masters/(read|chain)|functions/(read|draw-out|[^/]+/into))")


class NotAllowed(ToldError):
    """A member whose right is too low; strangers get 404 instead, so that they learn nothing."""


class SessionCookie(APIKeyCookie):
    """The page's session; forged requests from other sites are refused by its CSRF check."""

    param_name = "sessionid"

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        return request.user if request.user.is_authenticated else None


class BearerToken(HttpBearer):
    """Authorization: Bearer TOKEN, for scripts."""

    def authenticate(self, request: HttpRequest, token: str) -> Any:
        person = person_of(token)
        if person is None:
            note("token_refused", "", request.path, address_of(request))
        elif not _is_within(request, person):
            note("refused", person, f"{request.method} {request.path}", address_of(request))
            raise NotAllowed(
                "This token may {right}, and nothing outside projects; make one with all rights for this.",
                right=right_of(person),
            )
        return person


def _is_within(request: HttpRequest, person: Any) -> bool:
    """Whether a token's right reaches so far. Within projects each route asks for the right that it needs
    (``project_for``); elsewhere everything that keeps something needs the highest, so that no route forgets to ask."""
    if has_all_rights(person) or request.method in ("GET", "HEAD", "OPTIONS"):
        return True
    return request.path.startswith("/api/projects/") or bool(_KEEPS_NOTHING.fullmatch(request.path))


def user_of(request: HttpRequest) -> Any:
    """The signed-in person, by session or token; what is recorded from now on was done by them."""
    person = getattr(request, "auth", None) or request.user
    acting.set(person if getattr(person, "pk", None) else None)
    return person


def must_come_from_the_page(request: HttpRequest) -> None:
    """Routes without auth are exempt from the framework's own check against requests that other sites forge, and
    signing somebody in unasked is an attack too. Raises HttpError 403."""
    if check_csrf(request):
        raise HttpError(403, "The page is out of date; load it again.")


def name_of(person: Any) -> str | None:
    """An account's name; None where the account is gone."""
    return person.get_username() if person is not None else None


def must_administer(request: HttpRequest) -> None:
    """Raises NotAllowed for everybody but administrators of the studio, by themselves or with a token of all rights."""
    person = user_of(request)
    if not (person.is_superuser and has_all_rights(person)):
        note("refused", person, f"{request.method} {request.path}", address_of(request))
        raise NotAllowed("This is for administrators of the studio.")


def project_for(request: HttpRequest, slug: str, right: str = Membership.Right.LOOK) -> Project:
    """The project, if the person may do that in it. Raises Http404 for strangers, NotAllowed for too low a right."""
    user = user_of(request)
    membership = Membership.objects.select_related("project").filter(project__slug=slug, user=user).first()
    if membership is None:
        raise Http404("There is no such project.")
    if not membership.may(right):
        note("refused", user, f"{request.method} {request.path}", address_of(request), membership.project)
        raise NotAllowed(
            "You may {right} in {project}; this needs the right to {right2}.",
            right=membership.right,
            project=membership.project.name,
            right2=right,
        )
    token_right = right_of(user)
    if Membership.RANK[Membership.Right(token_right)] < Membership.RANK[Membership.Right(right)]:
        note("refused", user, f"{request.method} {request.path}", address_of(request), membership.project)
        raise NotAllowed(
            "This token may {right} in {project}; this needs one that may {right2}.",
            right=token_right, project=membership.project.name, right2=right,
        )  # fmt: skip
    return membership.project
