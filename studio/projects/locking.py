"""The order in which rows are locked: the project first, so that nobody waits for somebody who waits for them."""

from __future__ import annotations

from django.db import connection

from studio.projects.models import Project

__all__ = ["share_project"]


def share_project(pk: int) -> None:
    """Hold a project against changes until the transaction ends, together with others who only write down what they
    measured. Call it inside transaction.atomic(), before any row of the project is locked."""
    with connection.cursor() as cursor:
        # Django has no words for it. It waits for a change, and a change for it; those who share do not wait.
        cursor.execute(f"SELECT 1 FROM {Project._meta.db_table} WHERE id = %s FOR SHARE", [pk])
