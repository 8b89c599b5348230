"""Buckets of an object store as places to deliver to; a lock of the database lets one delivery at a time hold one."""

from __future__ import annotations

import errno
import hashlib
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from blake3 import blake3
from botocore.config import Config
from botocore.exceptions import BotoCoreError, ClientError
from django.conf import settings
from django.db import connection
from storages.backends.s3 import S3Storage

from studio.bucket import code_of
from texel import digest
from texel.errors import PlaceBusy

__all__ = ["BucketFiles"]

_DIGEST = "blake3"
_POLL_SECONDS = 0.2


@contextmanager
def _told(bucket: str) -> Iterator[None]:
    """Faults of the object store as the rest knows them."""
    try:
        yield
    except ClientError as error:
        code = code_of(error)
        kinds = {"AccessDenied": errno.EACCES, "403": errno.EACCES, "NoSuchBucket": errno.ENOENT}
        raise OSError(kinds.get(code, errno.EIO), f"the object store says {code}", bucket) from error
    except BotoCoreError as error:
        raise OSError(errno.EIO, f"the object store does not answer ({type(error).__name__})", bucket) from error


class BucketFiles:
    """The objects below a prefix of a bucket. What lies there is listed once for each delivery."""

    # Moving is copying and deleting.
    moves_whole = False

    def __init__(self, bucket: str, prefix: str):
        self.name = f"{bucket}/{prefix}"
        self._prefix = prefix.strip("/") + "/"
        waits = Config(connect_timeout=10, read_timeout=60, retries={"max_attempts": 3})
        storage = S3Storage(bucket_name=bucket, endpoint_url=settings.BUCKETS_ADDRESS, client_config=waits)
        self._bucket: Any = storage.bucket
        self._listed: dict[str, tuple[int, int]] | None = None

    @contextmanager
    def held(self, wait: float) -> Iterator[None]:
        # Of 64 bits, as PostgreSQL's advisory locks are numbered.
        number = int.from_bytes(hashlib.sha256(self.name.encode()).digest()[:8], "big", signed=True)
        until = time.monotonic() + wait
        with connection.cursor() as cursor:
            while True:
                cursor.execute("SELECT pg_try_advisory_lock(%s)", [number])
                if cursor.fetchone()[0]:
                    break
                if time.monotonic() >= until:
                    raise PlaceBusy("another delivery is being written to {name}; wait for it", name=self.name)
                time.sleep(_POLL_SECONDS)
        self._listed = None
        try:
            yield
        finally:
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_unlock(%s)", [number])

    def _all(self) -> dict[str, tuple[int, int]]:
        """Path to size and mark of everything that lies there."""
        if self._listed is None:
            with _told(self.name):
                found = self._bucket.objects.filter(Prefix=self._prefix)
                self._listed = {one.key[len(self._prefix) :]: (one.size, _mark(one.e_tag)) for one in found}
        return self._listed

    def _object(self, path: str) -> Any:
        return self._bucket.Object(self._prefix + path)

    def exists(self, path: str) -> bool:
        return path in self._all() or any(one.startswith(path + "/") for one in self._all())

    def size_and_mark(self, path: str) -> tuple[int, int] | None:
        return self._all().get(path)

    def is_sure(self, mark: int, written_ns: int) -> bool:
        # The mark follows from the bytes.
        return bool(mark)

    def digest(self, path: str) -> str | None:
        if path not in self._all():
            return None
        with _told(self.name):
            one = self._object(path)
            # What we wrote says its digest, and the store checked the bytes when it took them.
            said = one.metadata.get(_DIGEST)
            return str(said) if said else blake3(one.get()["Body"].read()).hexdigest()

    def names_in(self, folder: str) -> list[str]:
        start = folder + "/" if folder else ""
        names = (one[len(start) :] for one in self._all() if one.startswith(start))
        return sorted(name for name in names if "/" not in name)

    def leads_out(self, path: str) -> bool:
        return False

    def read(self, path: str) -> bytes | None:
        if path not in self._all():
            return None
        with _told(self.name):
            data: bytes = self._object(path).get()["Body"].read()
            return data

    def write(self, path: str, data: bytes) -> None:
        with _told(self.name):
            made = self._object(path).put(Body=data, Metadata={_DIGEST: digest.of_bytes(data)})
        self._all()[path] = (len(data), _mark(made["ETag"]))

    def take(self, source: Path, path: str) -> None:
        self.write(path, source.read_bytes())

    def move(self, path: str, to: str) -> None:
        with _told(self.name):
            self._object(to).copy_from(CopySource={"Bucket": self._bucket.name, "Key": self._prefix + path})
            self._all()[to] = self._all()[path]
        self.delete(path)

    def delete(self, path: str) -> None:
        with _told(self.name):
            self._object(path).delete()
        self._all().pop(path, None)

    def clear(self, folder: str) -> None:
        for path in [one for one in self._all() if one.startswith(folder + "/")]:
            self.delete(path)

    def prune(self, folder: str) -> None:
        """Object stores have no folders."""


def _mark(e_tag: str) -> int:
    """A number for an entity tag."""
    return int.from_bytes(hashlib.sha256(e_tag.strip('"').encode()).digest()[:6], "big")
