"""The content-addressed store of pixels and built files, behind Django's storage API."""

from __future__ import annotations

import itertools
import logging
import shutil
import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any, cast

from blake3 import blake3
from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage

from studio.storage import UNFINISHED, Held
from texel.errors import TexelError

__all__ = [
    "MADE_AGAIN", "Copies", "Damaged", "Fetched", "cached", "copy_to", "digest_of", "forget", "has", "held",
    "is_shared", "is_sound", "is_whole", "keep", "keep_file", "local_copies", "read_bytes", "save_bytes",
    "stored_name", "stored_names", "sweep",
]  # fmt: skip

_PIECE = 1 << 20
# Kinds that are made again from sources whenever they are asked for.
MADE_AGAIN = ("picture", "reduced", "decoded", "error", "mips", "green", "trial", "advice", "built", "drawn")
# What files begin with that carry a checksum: no picture, archive or document begins so.
_MARK = b"\x00texel-kept\x01"
_log = logging.getLogger(__name__)
# Both kinds of storage that there are say more than Django's do: studio.storage, studio.bucket.
_storage: Any = default_storage


def stored_name(kind: str, digest: str) -> str:
    """What the store calls a content."""
    return f"{kind}/{digest[:2]}/{digest}"


def digest_of(file: File[Any]) -> str:
    """BLAKE3 of an uploaded file, read in pieces."""
    state = blake3()
    for piece in file.chunks(_PIECE):
        state.update(piece)
    file.seek(0)
    return state.hexdigest()


def has(digest: str, kind: str = "source") -> bool:
    return default_storage.exists(stored_name(kind, digest))


class Damaged(TexelError):
    """Stored bytes that are not what was stored. What was derived is made again; a source has to be uploaded again."""


class _Checked(File):  # type: ignore[type-arg]  # not subscriptable when it runs
    """A file that must have a digest: its last piece is not handed on when it has another."""

    def __init__(self, file: File[Any], digest: str):
        super().__init__(file.file, file.name)
        self._checked, self._digest = file, digest

    def chunks(self, chunk_size: int | None = None) -> Iterator[bytes]:
        state = blake3()
        for piece in self._checked.chunks(_PIECE):
            state.update(piece)
            yield piece
        if state.hexdigest() != self._digest:
            raise Damaged("The upload changed while it was stored. Upload it again.")


def keep(file: File[Any], digest: str) -> bool:
    """Store a source under its digest unless it is there, and whole. Returns whether it was new. Raises Damaged."""
    name = stored_name("source", digest)
    if default_storage.exists(name):
        if is_whole(digest):
            return False
        _log.error("source %s was damaged; it is stored again from an upload", digest)
        default_storage.delete(name)
    default_storage.save(name, _Checked(file, digest))
    file.seek(0)
    return True


def is_whole(digest: str) -> bool:
    """Whether a stored source is there and has its digest."""
    name = stored_name("source", digest)
    if not default_storage.exists(name):
        return False
    with default_storage.open(name, "rb") as stream:
        return digest_of(stream) == digest


def save_bytes(kind: str, digest: str, data: bytes) -> None:
    """Keep what was derived, with a checksum, so that it can be told to be what was made."""
    if not has(digest, kind):
        default_storage.save(stored_name(kind, digest), ContentFile(_MARK + blake3(data).digest() + data))


def _content(data: bytes) -> bytes | None:
    """What was kept, without its checksum; None where it does not agree. What was kept before there were checksums has
    none, and is taken as it is."""
    if not data.startswith(_MARK):
        return data
    start = len(_MARK) + blake3.digest_size
    content = data[start:]
    return content if blake3(content).digest() == data[len(_MARK) : start] else None


def is_sound(name: str) -> bool:
    """Whether something derived, by its name in the store, is what was kept."""
    with default_storage.open(name, "rb") as stream:
        return _content(bytes(stream.read())) is not None


def stored_names(kinds: Callable[[str], bool] = lambda kind: True) -> Iterator[str]:
    """The names of all stored files of some kinds: KIND/AB/DIGEST."""
    try:
        tops, _ = default_storage.listdir("")
    except FileNotFoundError:
        return
    for kind in sorted(filter(kinds, tops)):
        for pair in sorted(default_storage.listdir(kind)[0]):
            for name in sorted(default_storage.listdir(f"{kind}/{pair}")[1]):
                if not name.startswith(UNFINISHED):
                    yield f"{kind}/{pair}/{name}"


def read_bytes(kind: str, digest: str) -> bytes | None:
    """What was derived, or None: also when it is damaged, so that it is made again."""
    name = stored_name(kind, digest)
    if not default_storage.exists(name):
        return None
    with default_storage.open(name, "rb") as stream:
        content = _content(bytes(stream.read()))
    if content is not None:
        return content
    _log.error("%s %s is damaged; it is made again", kind, digest)
    default_storage.delete(name)
    return None


def cached(kind: str, digest: str, make: Callable[[], bytes]) -> bytes:
    """Bytes made once and found again by digest."""
    data = read_bytes(kind, digest)
    if data is None:
        data = make()
        save_bytes(kind, digest, data)
    return data


def _fetch(name: str, path: Path) -> None:
    """Make what is stored readable at ``path``: by a link to where it lies on this machine."""
    path.symlink_to(_storage.here(name))


def keep_file(kind: str, digest: str, path: Path) -> None:
    """Store a file of this machine under its digest. Also where it is there: it is young again then, and whoever takes
    away what nothing needs leaves it. Raises OSError."""
    with path.open("rb") as stream:
        default_storage.save(stored_name(kind, digest), File(stream))


def copy_to(kind: str, digest: str, path: Path) -> None:
    """Write what is stored to a place of this machine. Raises FileNotFoundError, OSError."""
    shutil.copyfile(_storage.here(stored_name(kind, digest)), path)


def is_shared() -> bool:
    """Whether other machines see what is kept in the store, and nothing of it belongs to this machine alone."""
    return bool(_storage.shared)


def held(kind: str) -> Iterator[Held]:
    """All stored files of a kind, with their sizes and times."""
    return cast(Iterator[Held], _storage.held(kind))


def forget(name: str) -> None:
    """Let a machine's own copy of a stored file go, so that the next look is at the store itself."""
    _storage.forget(name)


def sweep(young_seconds: float) -> None:
    """Make room on this machine, where what lies here is fetched again when it is asked for."""
    _storage.sweep(young_seconds)


class Copies:
    """Local copies of sources, under the suffix of their own name, for as long as the context lasts."""

    def __init__(self, root: Path, checked: bool = False):
        """checked: sources are told to be whole before they are used."""
        self._root, self._checked = root, checked
        self._made: dict[tuple[str, str], Path] = {}
        self._numbers = itertools.count()

    def path(self, digest: str, name: str) -> Path:
        key = (digest, name)
        if key not in self._made:
            if self._checked and has(digest) and not is_whole(digest):
                raise Damaged("{name}: what is stored of it is damaged. Upload it again.", name=Path(name).name)
            # The file's own name, so that messages name it; the folder keeps equal names apart. Several threads ask.
            folder = self._root / str(next(self._numbers))
            folder.mkdir()
            path = folder / Path(name).name
            _fetch(stored_name("source", digest), path)
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
def local_copies(checked: bool = False) -> Iterator[Copies]:
    with tempfile.TemporaryDirectory(prefix="texel-") as folder:
        yield Copies(Path(folder), checked)
