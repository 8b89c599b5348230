"""A project as text: told, compared, and brought together with one that people have in a folder."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterable
from typing import Any, cast

from django.http import HttpRequest, HttpResponse
from ninja import File, Path, Router
from ninja.files import UploadedFile
from pydantic import ValidationError

from studio.api.access import project_for, user_of
from studio.api.schemas.text import GivenText, TextBrought, TextCompared, TextPart
from studio.deliveries.zips import zip_entry
from studio.projects.models import Membership
from studio.text.bringing import bring, compared, texts_of
from texel.errors import BadDocument
from texel.project import Compared, Texts, file_names, key_of, text_digest
from texel.schemas import load_json

router = Router(tags=["text"])
_LARGEST = 64 * 1024 * 1024


def _parts(texts: Texts) -> list[TextPart]:
    paths = file_names(texts)
    return [
        {"key": key, "path": paths[key], "digest": text_digest(document), "document": document}
        for key, document in texts.items()
    ]


def _compared(found: Iterable[Compared]) -> list[TextCompared]:
    some = list(found)
    paths = file_names(one.key for one in some)
    return [
        {
            "key": one.key, "path": paths[one.key], "state": one.state.value, "here": one.here, "studio": one.studio,
            "differences": [cast(Any, told._asdict()) for told in one.differences],
        }
        for one in some
    ]  # fmt: skip


def _given(file: UploadedFile) -> tuple[GivenText, Texts]:
    """Raises BadDocument."""
    if (file.size or 0) > _LARGEST:
        raise BadDocument("a project's text has at most {limit} MiB", limit=_LARGEST >> 20)
    try:
        given = GivenText.model_validate(load_json(file.read().decode("utf-8"), "the text"))
    except (UnicodeDecodeError, ValidationError) as error:
        raise BadDocument("the text is not as it should be: {error}", error=str(error)[:300]) from None
    texts: Texts = {}
    for path, document in given.documents.items():
        key = key_of(path, document)
        if key in texts:
            raise BadDocument("{path} describes {key}, and so does another file", path=path, key=key)
        texts[key] = document
    return given, texts


@router.get("", response=list[TextPart])
def project_text(request: HttpRequest, slug: Path[str]) -> Any:
    """Everything that a project's text consists of; undecided files and what was delivered are no part of it."""
    return _parts(texts_of(project_for(request, slug)))


@router.get("/zip")
def download(request: HttpRequest, slug: Path[str]) -> HttpResponse:
    """The same as a folder in a ZIP file, as ``texel project export`` writes it, with exported.json."""
    project = project_for(request, slug)
    parts = _parts(texts_of(project))
    digests = {part["key"]: part["digest"] for part in parts}
    known = {"format": "fair-texel/exported", "version": 1, "parts": dict(sorted(digests.items()))}
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, document in [*((part["path"], part["document"]) for part in parts), ("exported.json", known)]:
            text = json.dumps(document, indent=2, ensure_ascii=False) + "\n"
            archive.writestr(zip_entry(f"{project.slug}-text/{path}"), text, zipfile.ZIP_DEFLATED)
    answer = HttpResponse(packed.getvalue(), content_type="application/zip")
    answer["Content-Disposition"] = f'attachment; filename="{project.slug}-text.zip"'
    return answer


@router.post("/compare", response=list[TextCompared])
def compare_text(request: HttpRequest, slug: Path[str], file: File[UploadedFile]) -> Any:
    """What differs between a text and the studio, and on which side it changed. file: JSON as GivenText says."""
    project = project_for(request, slug)
    given, texts = _given(file)
    return _compared(compared(project, texts, given.exported))


@router.post("", response=TextBrought)
def bring_text(request: HttpRequest, slug: Path[str], file: File[UploadedFile]) -> Any:
    """Take over what changed in a text; one change, which can be taken back. file: JSON as GivenText says. With
    conflicts nothing is applied: say for each whether to take what is here or what the studio has."""
    project = project_for(request, slug, Membership.Right.PREPARE)
    given, texts = _given(file)

    def allow(right: str) -> None:
        project_for(request, slug, right)

    brought = bring(project, texts, given.exported, given.take, user_of(request), allow)
    told: TextBrought = {
        "applied": brought.applied, "conflicts": _compared(brought.conflicts), "parts": _parts(texts_of(project)),
    }  # fmt: skip
    return told
