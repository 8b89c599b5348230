"""Take files into an intake: one at a time or as a zip, stored by content, judged by header, never trusted by name."""

from __future__ import annotations

import stat
import tempfile
import zipfile
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.files.base import File
from django.core.files.uploadhandler import TemporaryFileUploadHandler
from django.db import transaction

from studio import store
from studio.intake.models import Intake, IntakeFile, SourceFile
from texel.errors import TexelError
from texel.files import KINDS, READABLE, Probe, probe
from texel.library import list_files

__all__ = ["Refused", "StoreSideUploadHandler", "safe_path", "take_file", "take_folder", "take_zip"]

_LONGEST_PATH = 900


class Refused(Exception):
    """An upload that is not taken; the message says why and what to do."""


class StoreSideUploadHandler(TemporaryFileUploadHandler):
    """Uploads go to a file at once, however small: they are hashed and probed there."""


def safe_path(name: str) -> str:
    """A relative path with "/" that stays inside its folder. Raises Refused for everything else."""
    if "\0" in name or len(name) > _LONGEST_PATH:
        raise Refused(f"{name[:80]!r}: the name is too long or holds a zero byte")
    path = PurePosixPath(name.replace("\\", "/"))
    drive = len(name) > 1 and name[1] == ":"
    if path.is_absolute() or drive or ".." in path.parts or not path.parts:
        raise Refused(f"{name!r} points outside its folder; the file was not taken")
    return path.as_posix()


def _is_hidden(path: str) -> bool:
    return any(part.startswith(".") or part == "__MACOSX" for part in PurePosixPath(path).parts)


def probe_document(found: Probe) -> dict:
    """A probe as kept with a source file and sent to the page."""
    tags = found.tags
    return {
        "container": found.container,
        "width": found.width,
        "height": found.height,
        "channels": found.channels,
        "bits": found.bits,
        "tagged": tags.says,
        "lossy": found.lossy,
        "format": found.format,
        "layers": [one._asdict() for one in found.layers],
    }


def _probed(file: File, name: str) -> tuple[dict | None, str]:
    """The probe of an upload, or the reason why it cannot be read."""
    if PurePosixPath(name).suffix.lower() not in READABLE:
        return None, f"{PurePosixPath(name).name}: not a kind of file that can be read ({KINDS})"
    with tempfile.TemporaryDirectory() as folder:
        # The decoder wants a path under the file's own name: a TGA is known by its suffix alone.
        path = Path(folder) / PurePosixPath(name).name
        source = file.temporary_file_path() if hasattr(file, "temporary_file_path") else str(file.name)
        try:
            path.symlink_to(Path(source).absolute())
            found = probe(path)
            settings.PICTURE_LIMITS.check(path.name, found.width, found.height, len(found.channels), found.bits)
        except (TexelError, OSError) as error:
            return None, str(error)[:300]
    return probe_document(found), ""


def _source_of(file: File, name: str) -> tuple[SourceFile, str]:
    """The stored content, and why it cannot be read under ``name``, if it cannot."""
    digest = store.digest_of(file)
    found, problem = _probed(file, name)
    size = file.size
    store.keep(file, digest)
    source, made = SourceFile.objects.get_or_create(pk=digest, defaults={"bytes": size, "probe": found})
    if not made and source.probe is None and found is not None:
        # It came before under a name that says nothing of a picture.
        source.probe = found
        source.save(update_fields=["probe"])
    return source, problem


def take_file(intake: Intake, name: str, file: File) -> IntakeFile:
    """Take one file under its path in the intake.

    A file already known by its digest is not stored twice. One that cannot be read is kept with the reason, so that it
    is listed. Raises Refused for a path outside the folder, one that is taken by another content, or a size beyond the
    limit.
    """
    path = safe_path(name)
    if file.size is None or file.size > settings.MAX_UPLOAD_BYTES:
        limit = settings.MAX_UPLOAD_BYTES // (1024 * 1024)
        raise Refused(f"{path}: larger than the {limit} MB that one upload may have")
    source, problem = _source_of(file, path)
    with transaction.atomic():
        entry, made = IntakeFile.objects.get_or_create(
            intake=intake, path=path, defaults={"source": source, "problem": problem, "came_as": path}
        )
    if not made and entry.source_id != source.pk:
        raise Refused(f"{path}: another file with this name is already in this intake; rename one of the two")
    return entry


def take_folder(intake: Intake, folder: Path) -> None:
    """Take every file of a folder on this machine, as an upload of it would. Raises Refused."""
    for name, path in list_files(folder).items():
        with path.open("rb") as stream:
            take_file(intake, name, File(stream, name=str(path)))


def take_zip(intake: Intake, file: File, name: str = "archive") -> list[IntakeFile]:
    """Take every file of a zip, or none.

    Names are checked and the unpacked size is summed before anything is unpacked, and counted again while unpacking,
    since headers can lie. Raises Refused.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            wanted = _checked(archive, name)
            with transaction.atomic():
                return _unpack(intake, archive, wanted, name)
    except zipfile.BadZipFile as error:
        raise Refused(f"{name}: not a sound zip file ({error})") from error
    except (NotImplementedError, RuntimeError) as error:
        raise Refused(f"{name}: cannot be unpacked ({error})") from error


def _checked(archive: zipfile.ZipFile, name: str) -> list[tuple[zipfile.ZipInfo, str]]:
    entries = [info for info in archive.infolist() if not info.is_dir()]
    if len(entries) > settings.MAX_ZIP_FILES:
        raise Refused(f"{name}: holds {len(entries)} files; at most {settings.MAX_ZIP_FILES} are taken at a time")
    total = sum(info.file_size for info in entries)
    if total > settings.MAX_UNPACKED_BYTES:
        limit = settings.MAX_UNPACKED_BYTES // (1024 * 1024)
        raise Refused(f"{name}: unpacks to {total // (1024 * 1024)} MB; at most {limit} MB are taken")
    wanted = [(info, safe_path(info.filename)) for info in entries]
    links = [path for info, path in wanted if stat.S_ISLNK(info.external_attr >> 16)]
    if links:
        raise Refused(f"{name}: {links[0]} is a link, not a file")
    seen: set[str] = set()
    for _, path in wanted:
        if path in seen:
            raise Refused(f"{name}: holds two files with the name {path}")
        seen.add(path)
    return [(info, path) for info, path in wanted if not _is_hidden(path)]


def _unpack(intake: Intake, archive: zipfile.ZipFile, wanted: list, name: str) -> list[IntakeFile]:
    taken = []
    left = settings.MAX_UNPACKED_BYTES
    for info, path in wanted:
        with archive.open(info) as stream, tempfile.NamedTemporaryFile() as copy:
            size = 0
            while piece := stream.read(1 << 20):
                size += len(piece)
                if size > min(left, info.file_size):
                    raise Refused(f"{name}: {path} unpacks to more than its header says")
                copy.write(piece)
            left -= size
            copy.flush()
            with open(copy.name, "rb") as whole:
                taken.append(take_file(intake, path, File(whole, name=copy.name)))
    return taken
