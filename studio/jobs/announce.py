"""Tell every open page that something changed, through PostgreSQL's NOTIFY, in the transaction that changed it."""

from __future__ import annotations

import json

from django.db import connection

__all__ = ["CHANNEL", "announce"]

CHANNEL = "studio"


def announce(project_id: int, kind: str, **facts: object) -> None:
    """kind: "job", "sets", "intake", "deliveries". It arrives when the transaction is committed."""
    message = json.dumps({"project": project_id, "kind": kind, **facts})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, message])
