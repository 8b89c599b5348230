"""Take files into an intake: one at a time or as a zip, stored by content, judged by header, never trusted by name."""

from __future__ import annotations

import lzma
import stat
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any

from django.conf import settings
from django.core.files.base import File
from django.core.files.uploadhandler import TemporaryFileUploadHandler
from django.db import connection, transaction
from django.db.models import Q, Sum

from studio import store
from studio.apart.work import Ended
from studio.changes.errors import Conflict
from studio.intake.asked import header_of
from studio.intake.models import Intake, IntakeFile, ProbeDocument, SourceFile
from studio.projects.models import Project
from texel.errors import TexelError
from texel.files import KINDS, READABLE
from texel.library import list_files

__all__ = [
    "Arrived",
    "FromZip",
    "StoreSideUploadHandler",
    "UploadRejected",
    "add_arrived",
    "alone_with_sources",
    "arrive",
    "drop_intake",
    "free_path",
    "must_be_open",
    "room_for",
    "room_in",
    "safe_path",
    "stored",
    "take_file",
    "take_folder",
    "take_zip",
]

_LONGEST_PATH = 900


class UploadRejected(TexelError):
    """An upload that is not taken; the message says why and what to do."""


class StoreSideUploadHandler(TemporaryFileUploadHandler):
    """Uploads go to a file at once, however small: they are hashed and probed there."""


def safe_path(name: str) -> str:
    """A relative path with "/" that stays inside its folder. Raises UploadRejected for everything else."""
    if "\0" in name or len(name) > _LONGEST_PATH:
        raise UploadRejected("{name!r}: the name is too long or holds a zero byte", name=name[:80])
    path = PurePosixPath(name.replace("\\", "/"))
    drive = len(name) > 1 and name[1] == ":"
    if path.is_absolute() or drive or ".." in path.parts or not path.parts:
        raise UploadRejected("{name!r} points outside its folder; the file was not taken", name=name)
    return path.as_posix()


def _is_hidden(path: str) -> bool:
    return any(part.startswith(".") or part == "__MACOSX" for part in PurePosixPath(path).parts)


def _probed(file: File[Any], name: str, person: int) -> tuple[ProbeDocument | None, str]:
    """The probe of an upload, or the reason why it cannot be read."""
    if PurePosixPath(name).suffix.lower() not in READABLE:
        return None, f"{PurePosixPath(name).name}: not a kind of file that can be read ({KINDS})"
    path = file.temporary_file_path() if hasattr(file, "temporary_file_path") else str(file.name)
    try:
        said = header_of.ask(person, path=path, name=name).said
    except Ended as error:
        return None, f"{PurePosixPath(name).name}: {error}"
    return said["probe"], said["problem"]


# The number of the lock that uploads share, and that collecting what is unused takes alone.
_SOURCES = 7_305_118


@contextmanager
def _beside_others() -> Iterator[None]:
    """Inside, until the transaction ends, no source is taken away as unused."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock_shared(%s)", [_SOURCES])
    yield


@contextmanager
def alone_with_sources() -> Iterator[None]:
    """Inside, until the transaction ends, no upload is stored."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_SOURCES])
    yield


@dataclass(frozen=True)
class Arrived:
    """A file that was looked at and not stored yet. problem: why it cannot be read, "" for one that can."""

    path: str
    file: File[Any]
    digest: str
    probe: ProbeDocument | None
    problem: str


def arrive(intake: Intake, name: str, file: File[Any]) -> Arrived:
    """Look at a file that shall come into an intake: its path, size, digest and header.

    Raises UploadRejected for a path outside the folder, or a size beyond the limits.
    """
    path = safe_path(name)
    if file.size is None or file.size > settings.MAX_UPLOAD_BYTES:
        limit = settings.MAX_UPLOAD_BYTES // (1024 * 1024)
        raise UploadRejected("{path}: larger than the {limit} MB that one upload may have", path=path, limit=limit)
    room_for(intake, file.size)
    digest = store.digest_of(file)
    probe, problem = _probed(file, path, intake.by_id or 0)
    return Arrived(path, file, digest, probe, problem)


@contextmanager
def stored(one: Arrived) -> Iterator[SourceFile]:
    """Store what arrived, once however often it comes; inside, in a transaction, somebody says what uses it."""
    with transaction.atomic(), _beside_others():
        size = one.file.size
        store.keep(one.file, one.digest)
        source, made = SourceFile.objects.get_or_create(pk=one.digest, defaults={"bytes": size, "probe": one.probe})
        if not made and source.probe is None and one.probe is not None:
            # It came before under a name that says nothing of a picture.
            source.probe = one.probe
            source.save(update_fields=["probe"])
        yield source


def free_path(intake: Intake, wanted: str) -> str:
    """``wanted``, or with a number behind its stem where another file of the intake is called so by now."""
    taken = set(intake.files.values_list("path", flat=True))
    path, number = PurePosixPath(wanted), 2
    while str(path) in taken:
        path, number = PurePosixPath(wanted).with_stem(f"{PurePosixPath(wanted).stem}_{number}"), number + 1
    return str(path)


def add_arrived(intake: Intake, one: Arrived) -> IntakeFile:
    """Add what arrived as a new file, whatever others are called by now."""
    with stored(one) as source:
        return IntakeFile.objects.create(
            intake=intake, path=free_path(intake, one.path), came_as=one.path, source=source, problem=one.problem
        )


def take_file(intake: Intake, name: str, file: File[Any]) -> IntakeFile:
    """Take one file under its path in the intake.

    A file already known by its digest is not stored twice. One that cannot be read is kept with the reason, so that it
    is listed. Raises UploadRejected for a path outside the folder, one that is taken by another content, or a size
    beyond the limit.
    """
    arrived = arrive(intake, name, file)
    path = arrived.path
    with stored(arrived) as source:
        entry, made = IntakeFile.objects.get_or_create(
            intake=intake, path=path, defaults={"source": source, "problem": arrived.problem, "came_as": path}
        )
    if not made and entry.source_id != source.pk:
        raise UploadRejected(
            "{path}: another file with this name is already in this intake; rename one of the two", path=path
        )
    return entry


def take_folder(intake: Intake, folder: Path) -> None:
    """Take every file of a folder on this machine, as an upload of it would. Raises UploadRejected."""
    for name, path in list_files(folder).items():
        with path.open("rb") as stream:
            take_file(intake, name, File(stream, name=str(path)))


@dataclass(frozen=True)
class FromZip:
    """What came out of a zip. refused: names of entries that were not taken, with the reason."""

    taken: list[IntakeFile]
    refused: list[tuple[str, str]]


def take_zip(intake: Intake, file: File[Any], name: str = "archive") -> FromZip:
    """Take every file of a zip that can be read; the others are told, and harm none of them.

    Names are checked and the unpacked size is summed before anything is unpacked, and counted again while unpacking,
    since headers can lie. Nothing is stored before all of it is unpacked: what is refused as a whole leaves nothing.
    Raises UploadRejected for a file that is no zip, that unpacks to too much, or whose names lead out of its folder.
    """
    with tempfile.TemporaryDirectory(prefix="texel-zip-") as folder:
        try:
            with zipfile.ZipFile(file) as archive:
                wanted, refused = _checked(archive, name)
                unpacked = _unpack(archive, wanted, name, Path(folder), refused)
        except (zipfile.BadZipFile, NotImplementedError, *_BROKEN) as error:
            raise UploadRejected(
                "{name}: not a sound zip file ({reason})", name=name, reason=_words_of(error)
            ) from error
        room_for(intake, sum(path.stat().st_size for _, path in unpacked))
        taken = []
        for path, copy in unpacked:
            try:
                with copy.open("rb") as whole:
                    taken.append(take_file(intake, path, File(whole, name=str(copy))))
            except UploadRejected as error:
                refused.append((path, str(error)))
    return FromZip(taken, refused)


def _words_of(error: Exception) -> str:
    """What is wrong, without a path of this machine."""
    return (error.strerror or "cannot be read") if isinstance(error, OSError) else str(error)[:200] or "cut off"


_Entries = list[tuple[zipfile.ZipInfo, str]]


def _checked(archive: zipfile.ZipFile, name: str) -> tuple[_Entries, list[tuple[str, str]]]:
    """The entries to unpack under their paths, and those that are refused. Raises UploadRejected for the whole."""
    entries = [info for info in archive.infolist() if not info.is_dir()]
    if len(entries) > settings.MAX_ZIP_FILES:
        raise UploadRejected(
            "{name}: holds {count} files; at most {most} are taken at a time",
            name=name,
            count=len(entries),
            most=settings.MAX_ZIP_FILES,
        )
    total = sum(info.file_size for info in entries)
    if total > settings.MAX_UNPACKED_BYTES:
        limit = settings.MAX_UNPACKED_BYTES // (1024 * 1024)
        raise UploadRejected(
            "{name}: unpacks to {total} MB; at most {limit} MB are taken",
            name=name,
            total=total // (1024 * 1024),
            limit=limit,
        )
    wanted: _Entries = []
    refused: list[tuple[str, str]] = []
    seen: set[str] = set()
    for info in entries:
        # Names that lead out of the folder, and links, are in no archive by accident: nothing of it is taken.
        path = safe_path(info.filename)
        if stat.S_ISLNK(info.external_attr >> 16):
            raise UploadRejected("{name}: {path} is a link, not a file", name=name, path=path)
        if path in seen:
            refused.append((path, f"{name} holds two files with the name {path}; the first was taken"))
        elif not _is_hidden(path):
            seen.add(path)
            wanted.append((info, path))
    return wanted, refused


def _unpack(
    archive: zipfile.ZipFile, wanted: _Entries, name: str, folder: Path, refused: list[tuple[str, str]]
) -> list[tuple[str, Path]]:
    """Unpack entries into files of their own; gives path and file of each, and adds those that cannot be read."""
    unpacked = []
    left = settings.MAX_UNPACKED_BYTES
    for number, (info, path) in enumerate(wanted):
        copy = folder / str(number)
        try:
            left -= _unpack_one(archive, info, copy, min(left, info.file_size))
        except _TooLarge:
            raise UploadRejected("{name}: {path} unpacks to more than its header says", name=name, path=path) from None
        except (zipfile.BadZipFile, NotImplementedError, *_BROKEN) as error:
            copy.unlink(missing_ok=True)
            refused.append((path, f"{path} cannot be unpacked ({_words_of(error)})"))
            continue
        unpacked.append((path, copy))
    return unpacked


class _TooLarge(Exception):
    pass


# What the unpackers of the standard library raise for archives that are broken in one way or another.
_BROKEN = (RuntimeError, zlib.error, lzma.LZMAError, EOFError, ValueError, OSError, struct.error, IndexError, KeyError)


def _unpack_one(archive: zipfile.ZipFile, info: zipfile.ZipInfo, copy: Path, most: int) -> int:
    size = 0
    with archive.open(info) as stream, copy.open("wb") as out:
        while piece := stream.read(1 << 20):
            size += len(piece)
            if size > most:
                raise _TooLarge
            try:
                out.write(piece)
            except OSError as error:
                # The disk, not the archive.
                raise UploadRejected(
                    "there is no room to unpack {filename} ({reason})", filename=info.filename, reason=error.strerror
                ) from error
    return size


def must_be_open(intake: Intake, *also: str) -> None:
    """Raises Conflict when nothing can be done with an intake any more. also: states that will do as well."""
    if intake.state not in (Intake.State.OPEN, *also):
        raise Conflict("The intake {intake} is closed; open a new one.", intake=intake.name)


def drop_intake(intake: Intake) -> None:
    """Give up an intake. Raises Conflict for one that was sorted."""
    if intake.state not in (Intake.State.OPEN, Intake.State.FAILED):
        raise Conflict("This intake is already sorted; its maps are in use.")
    intake.delete()


def room_for(intake: Intake, more: int) -> None:
    """Raises UploadRejected when a project, or all intakes of one person, would hold more than they may."""
    room_in(intake.project, intake.by_id or 0, more)


def room_in(project: Project, person: int, more: int) -> None:
    """Raises UploadRejected when a project, or all that one person took in, would hold ``more`` bytes than they may.
    person: their id, 0 for nobody."""
    for limit, whose, rows in (
        (
            settings.PROJECT_BYTES, f"The project {project.name}",
            Q(uses__intake__project=project) | Q(in_meshes__version__mesh__project=project),
        ),
        (
            settings.PERSON_BYTES, "What you have taken in",
            Q(uses__intake__by=person) | Q(in_meshes__version__mesh__by=person),
        ),
    ):  # fmt: skip
        if not limit:
            continue
        held = SourceFile.objects.filter(rows).values("pk").distinct()
        used = SourceFile.objects.filter(pk__in=held).aggregate(all=Sum("bytes"))["all"] or 0
        if used + more > limit:
            raise UploadRejected(
                "{whose} would hold {used} MB; at most {limit} MB are kept. Ask an administrator for more "
                "room, or take out what is not needed.",
                whose=whose,
                used=used + more >> 20,
                limit=limit >> 20,
            )
