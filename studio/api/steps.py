"""The steps that recipes are made of: what the page needs to offer them and their options."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router

from studio.api.schemas.steps import Catalogue
from texel.recipes import DERIVATIONS, catalogue

router = Router(tags=["steps"])


@router.get("", response=Catalogue)
def list_steps(request: HttpRequest) -> Any:
    derivations = [
        {"source": d.source.value, "role": d.role.value, "estimate": d.estimate, "recipe": d.recipe}
        for d in DERIVATIONS
    ]
    return {"steps": catalogue(), "derivations": derivations}
