"""The steps that recipes are made of: what the page needs to offer them and their options."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router

from studio.api.schemas.steps import DerivationOut, Steps
from texel.recipes import DERIVATIONS, catalogue

router = Router(tags=["steps"])


def derivations_out() -> list[DerivationOut]:
    """Which maps can be made from which."""
    return [
        DerivationOut.model_construct(source=d.source.value, role=d.role.value, estimate=d.estimate, recipe=d.recipe)
        for d in DERIVATIONS
    ]


@router.get("", response=Steps)
def list_steps(request: HttpRequest) -> Any:
    return {"steps": catalogue(), "derivations": derivations_out()}
