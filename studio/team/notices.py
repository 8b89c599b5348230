"""Notices: told in the page, and by mail where somebody has an address."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.validators import validate_email
from django.db import transaction
from django.http import Http404
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from studio.jobs.announce import announce
from studio.projects.models import Project
from studio.team.models import Notice
from texel.errors import BadDocument

__all__ = ["has_mail_server", "mail", "mail_to", "mark_seen", "notices_of", "tell"]

_LONGEST = 400
_KEPT = 500


def tell(project: Project, people: Iterable[Any], by: Any, text: str, path: str) -> None:
    """Tell members of a project something; nobody is told of what they did themselves.

    path: of the page it is about, below the project's. Mails leave with the transaction, by the queue, which tries
    again.
    """
    text = text if len(text) <= _LONGEST else text[: _LONGEST - 1] + "…"
    wanted = {one.pk: one for one in people if by is None or one.pk != by.pk}
    members = project.members.filter(user__in=wanted, user__is_active=True).values_list("user", flat=True)
    whole = f"/p/{project.slug}{path}"
    for pk in members:
        person = wanted[pk]
        Notice.objects.create(person=person, project=project, by=by, text=text, path=whole)
        if person.email:
            mail.defer(
                to=person.email, subject=f"{project.name}: {text}"[:200], text=f"{text}\n\n{settings.ADDRESS}{whole}"
            )
    if wanted:
        announce(project.pk, "notices")


@app.task(name="mail", retry=RetryStrategy(max_attempts=8, exponential_wait=10))
def mail(to: str, subject: str, text: str) -> None:
    """Send one mail; while the mail server is away, later again."""
    send_mail(" ".join(subject.split()), text, settings.MAIL_FROM, [to])


def has_mail_server() -> bool:
    """Whether mails leave this machine; otherwise they are printed."""
    return "console" not in settings.EMAIL_BACKEND


def mail_to(person: Any, address: str) -> None:
    """Where somebody's notices are mailed to; "" for no mails. Raises BadDocument for what is no address."""
    address = address.strip()
    if address:
        try:
            validate_email(address)
        except ValidationError:
            raise BadDocument("{address} is no mail address", address=address) from None
    person.email = address
    person.save(update_fields=["email"])


def notices_of(person: Any) -> Any:
    """A person's notices of projects that they are in still, the newest first."""
    return Notice.objects.filter(person=person, project__members__user=person).select_related("project", "by")[:_KEPT]


def mark_seen(person: Any, pk: int | None) -> None:
    """One notice, or all of them where ``pk`` is None. Raises Http404."""
    with transaction.atomic():
        rows = Notice.objects.filter(person=person)
        if pk is not None:
            rows = rows.filter(pk=pk)
            if not rows.exists():
                raise Http404("You have no such notice.")
        rows.filter(seen__isnull=True).update(seen=timezone.now())
