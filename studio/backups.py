"""Backups: the database and what it refers to, so that an empty machine becomes the same studio.

Stored files never change and are named by what they hold, so a backup copies those that it lacks. They are copied
before the database is dumped, and once more afterwards: what the dump refers to is there, whatever came or went
meanwhile.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NamedTuple, TypedDict
from urllib.parse import quote

from django.conf import settings
from django.core.files.base import File
from django.core.files.storage import default_storage
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder

from studio.storage import UNFINISHED
from studio.store import MADE_AGAIN, stored_names
from texel.errors import TexelError
from texel.files.writing import write_bytes

__all__ = ["Backed", "BackupFailed", "back_up", "restore"]

_FORMAT = {"format": "fair-texel/backup", "version": 1}
_KEPT_DUMPS = 10
_PIECE = 1 << 20


class BackupFailed(TexelError):
    """A backup or its restoring did not work; the message says what to do."""


class Backed(NamedTuple):
    """copied, bytes: stored files that the backup lacked. dump: the file of the database."""

    dump: Path
    copied: int
    bytes: int


def _database() -> tuple[list[str], dict[str, str]]:
    """How PostgreSQL's own programs reach the database; the password is in no command line."""
    kept = settings.DATABASES["default"]
    address = (
        f"postgresql://{quote(kept['USER'])}@{kept['HOST']}:{kept['PORT']}/{quote(connection.settings_dict['NAME'])}"
    )
    return [f"--dbname={address}"], {**os.environ, "PGPASSWORD": kept["PASSWORD"] or ""}


def _run(program: str, *words: str) -> None:
    where, env = _database()
    try:
        done = subprocess.run([program, *where, *words], env=env, capture_output=True, text=True, check=False)
    except FileNotFoundError:
        raise BackupFailed("{program} is not installed; it comes with PostgreSQL's client", program=program) from None
    if done.returncode:
        raise BackupFailed("{program}: {said}", program=program, said=done.stderr.strip()[-1500:] or "failed")


def _copy_store(to: Path) -> tuple[int, int]:
    """Stored files that the backup lacks; how many, and their bytes."""
    copied = size = 0
    for name in stored_names(lambda kind: kind not in MADE_AGAIN):
        place = to / "store" / name
        if place.exists():
            continue
        try:
            with default_storage.open(name, "rb") as stored:
                write_bytes(stored.chunks(_PIECE), _made(place.parent) / place.name)
        except FileNotFoundError:
            continue  # taken away meanwhile
        copied, size = copied + 1, size + place.stat().st_size
    return copied, size


def _dump(to: Path) -> None:
    """The database as it is at one moment; whole or not there."""
    with tempfile.TemporaryDirectory(dir=_made(to.parent), prefix=UNFINISHED) as beside:
        written = Path(beside) / to.name
        _run("pg_dump", "--format=custom", "--no-owner", f"--file={written}")
        written.replace(to)


def _copy_deliveries(to: Path) -> None:
    """Folders of deliveries, which appear whole and never change."""
    root = Path(settings.DELIVERIES_ROOT)
    for folder in sorted(root.glob("*/*")) if root.is_dir() else ():
        place = to / "deliveries" / folder.relative_to(root)
        if not folder.is_dir() or folder.name.startswith(".") or place.exists():
            continue
        with tempfile.TemporaryDirectory(dir=_made(to / "deliveries"), prefix=UNFINISHED) as beside:
            try:
                shutil.copytree(folder, Path(beside) / "whole", symlinks=True)
            except (FileNotFoundError, shutil.Error):
                if folder.exists():
                    raise
                continue  # taken away meanwhile: it had been kept long enough
            place.parent.mkdir(parents=True, exist_ok=True)
            (Path(beside) / "whole").replace(place)


def _made(folder: Path) -> Path:
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _migrations() -> list[str]:
    applied = MigrationRecorder(connection).applied_migrations()
    return sorted(f"{app}.{name}" for app, name in applied)


def back_up(to: Path) -> Backed:
    """Write a backup into a folder, which may hold earlier ones: stored files are added, the newest ten dumps of the
    database kept. Raises BackupFailed, OSError."""
    _made(to)
    to.chmod(0o700)
    copied, size = _copy_store(to)
    stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%S.%f")
    dump = to / "database" / f"{stamp}.dump"
    _dump(dump)
    again, more = _copy_store(to)
    _copy_deliveries(to)
    secret = settings.HOME / "secret"
    if secret.is_file():
        # Keys of scan libraries are sealed with it.
        shutil.copy2(secret, to / "secret")
    about = {**_FORMAT, "dump": dump.name, "migrations": _migrations()}
    write_bytes((json.dumps(about, indent=2) + "\n").encode(), to / "backup.json")
    for old in sorted((to / "database").glob("*.dump"))[:-_KEPT_DUMPS]:
        old.unlink()
    return Backed(dump, copied + again, size + more)


class _About(TypedDict):
    dump: str
    migrations: list[str]


def _about(of: Path) -> _About:
    try:
        about: Any = json.loads((of / "backup.json").read_text())
        if {key: about.get(key) for key in _FORMAT} != _FORMAT:
            raise ValueError
    except (OSError, ValueError, AttributeError):
        raise BackupFailed("{folder} holds no backup of this program", folder=of) from None
    made: _About = about
    return made


def _tables() -> int:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM information_schema.tables WHERE table_schema = 'public'")
        row = cursor.fetchone()
    return int(row[0]) if row else 0


def restore(of: Path) -> int:
    """Make an empty machine the studio of a backup: database, stored files, deliveries, secret; how many stored files.

    Raises BackupFailed where there is something in the database already, and where the backup is of a newer version.
    """
    about = _about(of)
    known = {
        f"{path.parent.parent.name}.{path.stem}" for path in Path(settings.BASE_DIR).glob("studio/*/migrations/0*.py")
    }
    apps = {name.partition(".")[0] for name in known}
    newer = [one for one in about["migrations"] if one.partition(".")[0] in apps and one not in known]
    if newer:
        raise BackupFailed("the backup is of a newer version of this program; it knows {newer}", newer=newer[0])
    if _tables():
        raise BackupFailed("the database is not empty; restore onto a machine, or with a data folder, that is")
    copied = 0
    for path in sorted((of / "store").rglob("*")) if (of / "store").is_dir() else ():
        name = path.relative_to(of / "store").as_posix()
        if path.is_file() and not path.name.startswith(UNFINISHED) and not default_storage.exists(name):
            with path.open("rb") as stream:
                default_storage.save(name, File(stream))
            copied += 1
    if (of / "deliveries").is_dir():
        shutil.copytree(of / "deliveries", settings.DELIVERIES_ROOT, dirs_exist_ok=True, symlinks=True)
    if (of / "secret").is_file() and not os.environ.get("FAIR_TEXEL_SECRET"):
        shutil.copy2(of / "secret", settings.HOME / "secret")
    connection.close()
    # Whole or not at all.
    dump = of / "database" / about["dump"]
    _run("pg_restore", "--no-owner", "--exit-on-error", "--single-transaction", str(dump))
    return copied
