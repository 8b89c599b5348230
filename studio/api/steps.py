"""The steps that recipes are made of: what the page needs to offer them and their options."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from texel.recipes import DERIVATIONS, catalogue

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


class DerivationOut(Schema):
    """A map of ``role`` made from one of ``source`` by ``recipe``. estimate: a stop-gap."""

    source: str
    role: str
    estimate: bool
    recipe: list[dict[str, Any]]


class Catalogue(Schema):
    steps: list[StepKind]
    derivations: list[DerivationOut]


@router.get("", response=Catalogue)
def list_steps(request: HttpRequest) -> Any:
    derivations = [
        {"source": d.source.value, "role": d.role.value, "estimate": d.estimate, "recipe": d.recipe}
        for d in DERIVATIONS
    ]
    return {"steps": catalogue(), "derivations": derivations}
