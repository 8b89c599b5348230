"""Search over everything that a person may see."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router

from studio.api.access import user_of
from studio.api.schemas.search import FoundOut
from studio.searching import search

router = Router(tags=["search"])


@router.get("/search", response=list[FoundOut])
def search_everything(request: HttpRequest, words: str, project: str = "") -> Any:
    """Sets, files, casts, masters with their parameters, functions, models, ground and projects that have all of the
    words in their names; where nothing has, what is written much like them. project: whose things come first."""
    return search(user_of(request), words[:400], project)
