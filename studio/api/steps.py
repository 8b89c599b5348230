"""The steps that recipes are made of: what the page needs to offer them and their options."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from texel.recipes import catalogue

router = Router(tags=["steps"])


class OptionOut(Schema):
    """kind: number, whole, choice, switch or map. values: key to words, for a choice."""

    name: str
    kind: str
    default: float | bool | str | None
    help: str
    low: float | None = None
    high: float | None = None
    unit: str = ""
    values: dict[str, str] = {}


class StepKind(Schema):
    """roles: those that the step makes sense for."""

    step: str
    label: str
    group: str
    roles: list[str]
    help: str
    options: list[OptionOut]


@router.get("", response=list[StepKind])
def list_steps(request: HttpRequest):
    return catalogue()
