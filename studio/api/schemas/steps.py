"""Schemas of the steps that recipes are made of."""

from __future__ import annotations

from ninja import Schema

from studio.api.documents import Step


class OptionOut(Schema):
    """kind: number, whole, choice, switch, map; or cover and patches, which nobody types. values: key to words, of a
    choice."""

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
    recipe: list[Step]


class Steps(Schema):
    steps: list[StepKind]
    derivations: list[DerivationOut]
