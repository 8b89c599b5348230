"""The security log: who signed in, who was refused, whose rights changed, what was deleted. It only grows."""

from __future__ import annotations

import logging
from typing import Any

from studio.people.models import LogEntry

__all__ = ["note"]

_log = logging.getLogger("studio.security")
_LONGEST = 300


def note(event: str, by: Any, about: str = "", address: str = "", project: Any = None) -> None:
    """Keep one line. event: one of LogEntry.EVENTS; by: a person, or a name that somebody claimed; address: of the
    network. It is written to the process's log as well, where other programs can watch it."""
    person = by if getattr(by, "pk", None) else None
    name = person.get_username() if person else str(by or "")
    LogEntry.objects.create(
        event=event, person=person, name=name[:150], about=about[:_LONGEST], address=address[:45], project=project
    )
    _log.info("%s by %r: %s %s", event, name, about, address)
