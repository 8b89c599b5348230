"""Models taken in: files stored by content, read once before anything is kept, and new versions of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from pathlib import PurePosixPath
from typing import Any, TypeAlias

from django.conf import settings
from django.core.files.base import File
from django.db import transaction
from django.db.models import Max

from studio import store
from studio.changes.engine import change
from studio.changes.errors import Conflict
from studio.changes.kinds import free_name_in
from studio.intake.uploads import Arrived, UploadRejected, room_in, safe_path, stored
from studio.meshes.asked import check_model
from studio.meshes.models import Mesh, MeshFile, MeshVersion
from studio.projects.models import Project
from texel.meshes.reading import main_file

__all__ = ["ModelFile", "bring_back", "new_version", "take_model"]

_MAX_FILES = 64
# A file and the path that it has beside the others.
ModelFile: TypeAlias = "tuple[str, File[Any]]"


def _read(project: Project, files: Sequence[ModelFile], by: Any) -> tuple[str, Mapping[str, File[Any]]]:
    """The name of the file with the mesh, and all files by their paths. Raises UploadRejected, TexelError."""
    if not files or len(files) > _MAX_FILES:
        raise UploadRejected(
            "a model has one to {max_files} files, these are {count}", max_files=_MAX_FILES, count=len(files)
        )
    named: dict[str, File[Any]] = {}
    for name, file in files:
        path = safe_path(name)
        if path in named:
            raise UploadRejected("{path}: two files with this name", path=path)
        named[path] = file
        if (file.size or 0) > settings.MAX_UPLOAD_BYTES:
            limit = settings.MAX_UPLOAD_BYTES >> 20
            raise UploadRejected("{path}: larger than the {limit} MB that one upload may have", path=path, limit=limit)
    main = main_file(dict.fromkeys(named, b""))
    room_in(project, by.pk if by else 0, sum(file.size or 0 for file in named.values()))
    paths = {
        name: file.temporary_file_path() if hasattr(file, "temporary_file_path") else str(file.name)
        for name, file in named.items()
    }
    check_model.ask(by.pk if by else 0, main=main, paths=paths)
    return main, named


def _keep(version: MeshVersion, files: Mapping[str, File[Any]]) -> None:
    with ExitStack() as stack:
        rows = []
        for name, file in files.items():
            source = stack.enter_context(stored(Arrived(name, file, store.digest_of(file), None, "")))
            rows.append(MeshFile(version=version, name=name, source=source))
        MeshFile.objects.bulk_create(rows)


def take_model(project: Project, files: Sequence[ModelFile], by: Any, name: str = "") -> Mesh:
    """A new model of files that came together: the mesh, and what it names. Can be undone.

    Raises UploadRejected and TexelError for what cannot be read; then nothing is kept.
    """
    main, named = _read(project, files, by)
    with transaction.atomic(), change(project, by, "") as doing:
        version = MeshVersion.objects.create(main=main, by=by)
        _keep(version, named)
        called = free_name_in(project.meshes, name or PurePosixPath(main).stem, "Model")
        doing.label = f"Take in {called}"
        mesh = doing.create(Mesh, project=project, name=called, version=version, by=by)
        MeshVersion.objects.filter(pk=version.pk).update(mesh=mesh)
    return mesh


def new_version(project: Project, pk: int, files: Sequence[ModelFile], by: Any, seen: int | None = None) -> Mesh:
    """The model exported again: slots of the same names keep what they wear. Can be undone. Raises as take_model."""
    main, named = _read(project, files, by)
    with transaction.atomic(), change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        last = mesh.versions.aggregate(last=Max("number"))["last"] or 0
        version = MeshVersion.objects.create(mesh=mesh, number=last + 1, main=main, by=by)
        _keep(version, named)
        if mesh.version is not None and _contents(mesh.version) == _contents(version):
            raise Conflict("{mesh}: these are the files that it has already", mesh=mesh.name)
        doing.label = f"New version of {mesh.name}"
        doing.update(mesh, version_id=version.pk)
    return mesh


def _contents(version: MeshVersion) -> set[tuple[str, str]]:
    return set(version.files.values_list("name", "source_id"))


def bring_back(project: Project, pk: int, number: int, by: Any, seen: int | None = None) -> Mesh:
    """Use a former version of a model's files. Can be undone. Raises Conflict where there is none."""
    with change(project, by, "") as doing:
        mesh = doing.row(Mesh, pk, seen)
        version = mesh.versions.filter(number=number).first()
        if version is None:
            raise Conflict("{mesh} has no version {number}", mesh=mesh.name, number=number)
        doing.label = f"Version {number} of {mesh.name}"
        doing.update(mesh, version_id=version.pk)
    return mesh
