"""Schemas of budgets and advice on formats."""

from __future__ import annotations

from ninja import Schema


class Queued(Schema):
    job: int
