"""Formats tried on one map: encoded whole in a worker, kept by what went in, shown beside the original."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

from studio import store
from studio.jobs.announce import announce
from studio.jobs.models import Job
from studio.jobs.progress import Progress
from studio.jobs.queue import enqueue
from studio.jobs.registry import job as job_kind
from studio.rules.models import table_of
from studio.sets.facts import TrialsOut
from studio.sets.models import Placement
from studio.sets.pictures import map_digest
from studio.sets.reading import read_map
from texel import digest
from texel.blocks import WRITABLE_FORMATS, Format, format_named
from texel.blocks.encoding import QUALITIES
from texel.compression import Subject, sort_of, whole_trial, within
from texel.compression.trial import Trial
from texel.errors import BadDocument
from texel.image import Texels
from texel.measures import error_picture
from texel.mips import right_chain
from texel.normals.vectors import z_from_xy
from texel.pictures import View, picture
from texel.previews import dump_texels, load_texels
from texel.roles import Role
from texel.threads import may_use

__all__ = ["ask_to_try", "trial_picture", "trials_document", "try_formats"]


def _key(placement: Placement, format_: str, quality: str) -> str:
    return digest.of_document(
        {"map": map_digest(placement), "role": placement.role, "format": format_, "quality": quality}
    )


def _checked(formats: list[str], quality: str) -> list[Format]:
    if quality not in QUALITIES:
        raise BadDocument(
            "{quality!r} is not a quality; there are {listed}", quality=quality, listed=", ".join(QUALITIES)
        )
    known = [format_named(key) for key in formats]
    for one in known:
        if one.key not in WRITABLE_FORMATS:
            raise BadDocument("{label} is read, but not written", label=one.label)
    return known


def ask_to_try(placement: Placement, formats: list[str], quality: str, by: Any) -> Job:
    """Queue a job that tries formats on a map. Raises BadDocument."""
    labels = [one.label for one in _checked(formats, quality)]
    if not labels:
        raise BadDocument("choose at least one format")
    title = f"Try {', '.join(labels)} on {placement.file.path}"
    return enqueue(placement.project, "try", title, by, map=placement.pk, formats=formats, quality=quality)


@job_kind("try", minutes=60)
def try_formats(job: Job, progress: Progress) -> str:
    """The job "try". What was tried before is found again; a map that is gone is nothing to try on."""
    rows = Placement.objects.select_related("file__source", "set", "project")
    placement = rows.filter(pk=job.payload["map"]).first()
    if placement is None:
        return "the map is gone"
    formats, quality = _checked(job.payload["formats"], job.payload["quality"]), job.payload["quality"]
    wanted = [one for one in formats if _tried(_key(placement, one.key, quality)) is None]
    if wanted:
        texels = _read(placement)
        subject = Subject(texels, texels.width, texels.height, sort_of(texels))
        chain = right_chain(texels)
        for number, format_ in enumerate(wanted):
            progress.report(number, len(wanted), format_.label)
            trial, decoded = whole_trial(subject, format_, quality, may_use(), chain)
            _keep(placement, texels, subject, trial, decoded, quality)
            announce(placement.project_id, "trials", map=placement.pk)
    return f"{len(formats)} formats"


def _read(placement: Placement) -> Texels:
    texels = read_map(placement)
    return texels if texels.role is not None or not placement.role else texels.as_role(Role(placement.role))


def _keep(placement: Placement, texels: Texels, subject: Subject, trial: Trial, decoded: Texels, quality: str) -> None:
    key = _key(placement, trial.format.key, quality)
    shown = replace(decoded, role=texels.role)
    store.save_bytes("decoded", key, dump_texels(shown))
    store.save_bytes("error", key, picture(error_picture(texels, shown, subject.kind)))
    # Last, since it says that the rest is there.
    store.save_bytes("trial", key, json.dumps(trial.document()).encode())


def _tried(key: str) -> bytes | None:
    """The figures of a trial whose pictures are there too: the store may have let go of them."""
    whole = store.has(key, "decoded") and store.has(key, "error")
    return store.read_bytes("trial", key) if whole else None


def trials_document(placement: Placement, quality: str) -> TrialsOut:
    """What the map is, the project's formats for it and its limit, and what was tried so far. Raises TexelError."""
    _checked([], quality)
    texels = _read(placement)
    sort, table = sort_of(texels), table_of(placement.project)
    kind = Subject(texels, texels.width, texels.height, sort).kind.value
    trials = []
    for key in WRITABLE_FORMATS:
        data = _tried(_key(placement, key, quality))
        if data is not None:
            trial = json.loads(data)
            known = Trial(format_named(key), trial["memory"], trial["error"], trial["size"])
            trials.append(trial | {"within": within(known, table)})
    return {
        "sort": sort, "kind": kind, "limit": table.limits[kind], "quality": quality,
        "allowed": [one.key for one in table.allowed[sort]],
        "formats": [{"key": key, "label": format_named(key).label} for key in WRITABLE_FORMATS],
        "plain_bytes": texels.width * texels.height * len(texels.channels) * texels.bits // 8, "trials": trials,
    }  # fmt: skip


def trial_picture(placement: Placement, format_: str, quality: str, what: str, view: View) -> bytes:
    """The PNG of a decoded trial ("decoded"), or of where its error lies ("error"). Raises BadDocument."""
    if what not in ("decoded", "error"):
        raise BadDocument("{what!r} is no picture of a trial; there are decoded and error", what=what)
    key = _key(placement, format_, quality)
    data = store.read_bytes(what, key)
    if data is None:
        raise BadDocument("{format} was not tried on this map yet", format=format_)
    if what == "error":
        return data
    shown = load_texels(data, placement.file.path)
    if placement.role:
        shown = shown.as_role(Role(placement.role))
    # Two channels of a normal map are looked at as a reader sees them: with the third rebuilt.
    two_of_three = shown.role is Role.NORMAL and len(shown.channels) == 2
    return picture(z_from_xy(shown) if two_of_three else shown, view)
