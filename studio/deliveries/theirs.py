"""What others did at a destination: looked at beside what we delivered, and taken in as sources."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.base import ContentFile
from django.http import Http404

from studio.changes.errors import Conflict
from studio.deliveries.archive import here
from studio.deliveries.models import Delivery, Destination
from studio.deliveries.places import path_of
from studio.deliveries.transfers import place_of
from studio.intake.models import Intake
from studio.intake.uploads import drop_intake, take_file
from studio.sorting.asking import ask_to_sort
from texel.errors import BadDocument
from texel.files import read
from texel.misread import misread
from texel.pictures import View, picture
from texel.roles import Role, Transfer

__all__ = ["delivered_picture", "picture_there", "place_in_words", "take_in"]

_MAX_TAKEN = 200


def delivered_picture(delivery: Delivery, path: str, view: View, misreading: str = "") -> bytes:
    """The PNG of a file of a past delivery, as it is or as a misreading leaves it.

    Raises Http404, TexelError for what is no picture, or cannot be misread so.
    """
    files: list[Any] = delivery.manifest["files"] if delivery.manifest else []
    known = {entry["path"]: entry for entry in files}
    try:
        folder = here(delivery)
    except FileNotFoundError:
        raise Http404("The files of this delivery are not there.") from None
    if path not in known or not (folder / path).is_file():
        raise Http404("This delivery has no such file.")
    texels = read(folder / path, settings.PICTURE_LIMITS)
    if misreading:
        roles = {channel["role"] for channel in known[path].get("channels", {}).values()}
        # One role says what the whole picture is; several are data.
        role = Role(roles.pop()) if len(roles) == 1 and None not in roles else None
        meant = replace(texels, role=role, transfer=Transfer(known[path]["colour_space"]))
        texels = misread(meant, misreading)
    return picture(texels, view)


def picture_there(one: Destination, path: str, view: View) -> bytes:
    """The PNG of a file as it lies at a destination. Raises Http404, Conflict, TexelError for what is no picture."""
    with tempfile.NamedTemporaryFile(suffix=Path(path).suffix[:16]) as copy:
        copy.write(_bytes_there(one, path))
        copy.flush()
        return picture(read(Path(copy.name), settings.PICTURE_LIMITS), view)


def _bytes_there(one: Destination, path: str) -> bytes:
    if one.kind == Destination.Kind.ZIP:
        raise Conflict("{one} is a zip: download it to look into it", one=one.name)
    there = place_of(one).there
    if path.startswith((".", "/")) or "/." in path or "\\" in path or "\0" in path or there.leads_out(path):
        raise Http404("There is no such file.")
    found = there.size_and_mark(path)
    if found is None:
        raise Http404("There is no such file any more.")
    if found[0] > settings.MAX_UPLOAD_BYTES:
        raise Conflict("{path} is larger than a file that may be taken in", path=path)
    return there.read(path) or b""


def take_in(one: Destination, paths: Iterable[str], by: Any) -> Intake:
    """Files as they lie at a destination, as new sources: an intake of their own, sorted at once.

    Raises Http404, Conflict, UploadRejected; then nothing was taken in.
    """
    wanted = list(dict.fromkeys(paths))
    if not wanted or len(wanted) > _MAX_TAKEN:
        raise BadDocument("choose 1 to {max_taken} files to take in", max_taken=_MAX_TAKEN)
    intake = Intake.objects.create(project=one.project, name=f"From {one.name}"[:200], by=by)
    try:
        for path in wanted:
            take_file(intake, path, ContentFile(_bytes_there(one, path), name=path))
    except BaseException:
        drop_intake(intake)
        raise
    ask_to_sort(intake, by)
    return intake


def place_in_words(one: Destination) -> tuple[str, str | None]:
    """Where a destination lies, and what is wrong with that, if anything is."""
    if one.kind == Destination.Kind.BUCKET:
        bucket = one.place.partition("/")[0]
        allowed = bucket in settings.DESTINATION_BUCKETS
        return one.place, None if allowed else f"this server does not deliver to {bucket} any more"
    try:
        return str(path_of(one.place)), None
    except Conflict as conflict:
        return one.place, str(conflict)
