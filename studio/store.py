"""The content-addressed store of pixels and built files, behind Django's storage API."""

from __future__ import annotations

import itertools
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from blake3 import blake3
from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage

__all__ = ["Copies", "Fetched", "cached", "digest_of", "has", "keep", "local_copies", "read_bytes", "save_bytes"]

_PIECE = 1 << 20


def _name(kind: str, digest: str) -> str:
    return f"{kind}/{digest[:2]}/{digest}"


def digest_of(file: File) -> str:
    """BLAKE3 of an uploaded file, read in pieces."""
    state = blake3()
    for piece in file.chunks(_PIECE):
        state.update(piece)
    file.seek(0)
    return state.hexdigest()


def has(digest: str, kind: str = "source") -> bool:
    return default_storage.exists(_name(kind, digest))


def keep(file: File, digest: str) -> bool:
    """Store a source under its digest unless it is there. Returns whether it was new."""
    if has(digest):
        return False
    default_storage.save(_name("source", digest), file)
    return True


def save_bytes(kind: str, digest: str, data: bytes) -> None:
    if not has(digest, kind):
        default_storage.save(_name(kind, digest), ContentFile(data))


def read_bytes(kind: str, digest: str) -> bytes | None:
    """The stored bytes, or None."""
    name = _name(kind, digest)
    if not default_storage.exists(name):
        return None
    with default_storage.open(name, "rb") as stream:
        return stream.read()


def cached(kind: str, digest: str, make) -> bytes:
    """Bytes made once and found again by digest."""
    data = read_bytes(kind, digest)
    if data is None:
        data = make()
        save_bytes(kind, digest, data)
    return data


def _fetch(name: str, path: Path) -> None:
    """Make what is stored readable at ``path``: by a link where the store is a folder of this machine."""
    try:
        kept = Path(default_storage.path(name))
    except NotImplementedError:  # what storages elsewhere raise
        with default_storage.open(name, "rb") as stream, path.open("wb") as copy:
            while piece := stream.read(_PIECE):
                copy.write(piece)
        return
    if not kept.is_file():
        raise FileNotFoundError(name)
    path.symlink_to(kept.absolute())


class Copies:
    """Local copies of sources, under the suffix of their own name, for as long as the context lasts."""

    def __init__(self, root: Path):
        self._root = root
        self._made: dict[tuple[str, str], Path] = {}
        self._numbers = itertools.count()

    def path(self, digest: str, name: str) -> Path:
        key = (digest, name)
        if key not in self._made:
            # The file's own name, so that messages name it; the folder keeps equal names apart. Several threads ask.
            folder = self._root / str(next(self._numbers))
            folder.mkdir()
            path = folder / Path(name).name
            _fetch(_name("source", digest), path)
            self._made[key] = path
        return self._made[key]


class Fetched(Mapping[str, Path]):
    """Paths of sources by file name, each copied here when it is first asked for. sources: digest by name."""

    def __init__(self, sources: Mapping[str, str], copies: Copies):
        self._sources, self._copies = sources, copies

    def __getitem__(self, name: str) -> Path:
        return self._copies.path(self._sources[name], name)

    def __contains__(self, name: object) -> bool:
        return name in self._sources

    def __iter__(self) -> Iterator[str]:
        return iter(self._sources)

    def __len__(self) -> int:
        return len(self._sources)


@contextmanager
def local_copies() -> Iterator[Copies]:
    with tempfile.TemporaryDirectory(prefix="texel-") as folder:
        yield Copies(Path(folder))
