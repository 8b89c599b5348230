"""The store in a bucket of an object store that speaks S3, for servers and workers on several machines.

What was read or written lies in a folder of each machine, too: contents never change under their name, so what lies
there is right for as long as it lies there.
"""

from __future__ import annotations

import errno
import os
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import IO, Any

from botocore.config import Config
from botocore.exceptions import BotoCoreError, ClientError
from django.core.files.base import File
from django.core.files.storage import Storage
from storages.backends.s3 import S3Storage

from studio.storage import UNFINISHED, Held, StoreAway

__all__ = ["Bucket", "code_of"]

_MISSING = ("404", "NoSuchKey", "NotFound")
# Kinds whose absence counts wherever it is asked for: what one machine took away is gone for all.
_ASKED_EACH_TIME = ("source", "delivered")
# What was used so lately may be read by a job that goes on.
_IN_USE_SECONDS = 3600


def code_of(error: ClientError) -> str:
    """What an object store says is wrong, such as NoSuchKey."""
    return str(error.response.get("Error", {}).get("Code", ""))


@contextmanager
def _told(name: str) -> Iterator[None]:
    """Faults of the object store as those of files."""
    try:
        yield
    except ClientError as error:
        code = code_of(error)
        if code in _MISSING:
            raise FileNotFoundError(name) from error
        raise StoreAway(errno.EIO, f"the object store says {code}", name) from error
    except BotoCoreError as error:
        said = f"the object store does not answer ({type(error).__name__})"
        raise StoreAway(errno.EIO, said, name) from error


class Bucket(Storage):
    """bucket: its name. address: of the object store, None for that of its usual clients; they also tell the key.
    location: the folder of this machine; kept_bytes: what may stay in it."""

    shared = True

    def __init__(self, bucket: str, address: str | None, location: str, kept_bytes: int):
        self._root, self._kept_bytes = Path(location), kept_bytes
        waits = Config(connect_timeout=5, read_timeout=60, retries={"max_attempts": 4, "mode": "standard"})
        self._bucket_name = bucket
        self._s3 = S3Storage(bucket_name=bucket, endpoint_url=address, client_config=waits)

    @property
    def _bucket(self) -> Any:
        # Made for each thread, as boto3 asks for.
        return self._s3.bucket

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def here(self, name: str) -> Path:
        """Where a file lies on this machine, fetched where it does not lie there yet. Raises FileNotFoundError."""
        place = self._root / name
        if place.is_file():
            return place
        place.parent.mkdir(parents=True, exist_ok=True)
        handle, beside = tempfile.mkstemp(prefix=UNFINISHED, dir=place.parent)
        try:
            with os.fdopen(handle, "wb") as stream, _told(name):
                self._bucket.Object(name).download_fileobj(stream)
            os.replace(beside, place)
        finally:
            Path(beside).unlink(missing_ok=True)
        return place

    def _open(self, name: str, mode: str = "rb") -> File[Any]:
        stream: IO[Any] = self.here(name).open(mode)
        return File(stream, name)

    def _save(self, name: str, content: Any) -> str:
        place = self._root / name
        place.parent.mkdir(parents=True, exist_ok=True)
        handle, beside = tempfile.mkstemp(prefix=UNFINISHED, dir=place.parent)
        try:
            with os.fdopen(handle, "wb") as stream:
                # Whole, and checked by whoever hands it over, before any of it is sent.
                for piece in content.chunks():
                    stream.write(piece)
            with _told(name):
                self._bucket.Object(name).upload_file(beside)
            os.replace(beside, place)
        finally:
            Path(beside).unlink(missing_ok=True)
        return name

    def exists(self, name: str) -> bool:
        if name.partition("/")[0] not in _ASKED_EACH_TIME and (self._root / name).is_file():
            return True
        try:
            with _told(name):
                self._bucket.Object(name).load()
        except FileNotFoundError:
            return False
        return True

    def delete(self, name: str) -> None:
        (self._root / name).unlink(missing_ok=True)
        with _told(name):
            self._bucket.Object(name).delete()

    def forget(self, name: str) -> None:
        """Let what lies on this machine go, so that the next look is at the bucket."""
        (self._root / name).unlink(missing_ok=True)

    def size(self, name: str) -> int:
        with _told(name):
            return int(self._bucket.Object(name).content_length)

    def listdir(self, path: str) -> tuple[list[str], list[str]]:
        """Folders and files below a path, as the store is laid out: KIND/AB/DIGEST."""
        prefix = f"{path.strip('/')}/" if path else ""
        pages = self._bucket.meta.client.get_paginator("list_objects_v2")
        folders: list[str] = []
        files: list[str] = []
        with _told(path):
            for page in pages.paginate(Bucket=self._bucket_name, Prefix=prefix, Delimiter="/"):
                folders += [one["Prefix"][len(prefix) : -1] for one in page.get("CommonPrefixes", ())]
                files += [one["Key"][len(prefix) :] for one in page.get("Contents", ())]
        return folders, files

    def held(self, kind: str) -> Iterator[Held]:
        """All files of a kind. A bucket knows when each was written, not when it was read last."""
        with _told(kind):
            for one in self._bucket.objects.filter(Prefix=f"{kind}/"):
                written: datetime = one.last_modified
                yield Held(one.key, one.size, written.timestamp(), written.timestamp())

    def sweep(self, young_seconds: float) -> None:
        """Make room on this machine: the longest unused beyond what may stay, and what broke off."""
        rows = []
        for path in self._root.rglob("*") if self._root.is_dir() else ():
            try:
                told = path.stat()
            except FileNotFoundError:
                continue
            if path.is_file():
                rows.append((max(told.st_atime, told.st_mtime), told.st_size, path))
        total, old = sum(size for _, size, _ in rows), time.time() - young_seconds
        for used, size, path in sorted(rows):
            if path.name.startswith(UNFINISHED):
                gone = used < old
            else:
                gone = total > self._kept_bytes and used < time.time() - _IN_USE_SECONDS
            if gone:
                path.unlink(missing_ok=True)
                total -= size
