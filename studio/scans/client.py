"""Speak to a scan library (docs/scan-library.md). What it answers is checked like any document from elsewhere."""

from __future__ import annotations

import hashlib
import os
import time
from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote, urlencode

import urllib3
from django.conf import settings

from texel.document_types import ScanFile, ScanSurfaceDocument, ScanSurfacesDocument
from texel.errors import TexelError
from texel.schemas import check_document, load_json

__all__ = ["Library", "LibraryAway", "address_of", "library_names"]

_MAX_DOCUMENT = 8 * 1024 * 1024
_MAX_PREVIEW = 16 * 1024 * 1024
_PIECE = 256 * 1024
# Attempts in a row that bring nothing at all; the pause before each is twice the former.
_ATTEMPTS = 6
_FIRST_PAUSE = 0.5
_TIMEOUT = urllib3.Timeout(connect=10, read=30)


class LibraryAway(TexelError):
    """A library did not answer, or not as it should; the message says what to do."""


def library_names() -> list[str]:
    """The libraries that whoever runs the server allows."""
    return list(settings.SCAN_LIBRARIES)


def address_of(library: str) -> str:
    """Raises LibraryAway for one that is not allowed (any more)."""
    address: str | None = settings.SCAN_LIBRARIES.get(library)
    if address is None:
        raise LibraryAway("this server knows no scan library {library}", library=library)
    return address.rstrip("/")


class Library:
    """One library, as the owner of a key sees it. pause: seconds before the first attempt to go on."""

    def __init__(self, name: str, key: str, pause: float = _FIRST_PAUSE):
        self.name, self.pause = name, pause
        self._address = address_of(name)
        self._headers = {"Authorization": f"Bearer {key}", "Accept-Encoding": "identity"}
        # An answer that leads elsewhere is none: only addresses that were allowed are asked.
        self._pool = urllib3.PoolManager(timeout=_TIMEOUT, retries=False)

    def surfaces(self, search: str = "", page: int = 1) -> ScanSurfacesDocument:
        """A page of what it holds. Raises LibraryAway."""
        where = f"surfaces?{urlencode({'search': search, 'page': page})}"
        return self._document(where, "scan-surfaces")  # type: ignore[return-value]

    def surface(self, item: str) -> ScanSurfaceDocument:
        """Everything about one surface. Raises LibraryAway."""
        document: ScanSurfaceDocument = self._document(f"surfaces/{quote(item, safe='')}", "scan-surface")  # type: ignore[assignment]
        if document["id"] != item:
            raise LibraryAway("{name} answered with another surface than {item}", name=self.name, item=item)
        return document

    def preview(self, item: str) -> bytes:
        """A small picture in any format that can be read. Raises LibraryAway."""
        return self._bytes(f"surfaces/{quote(item, safe='')}/preview", _MAX_PREVIEW)

    def fetch(self, item: str, pixels: int, file: ScanFile, path: Path, on_bytes: Callable[[int], None]) -> None:
        """Fetch a file to ``path``, going on where it broke off, now or before. on_bytes: is told how many are there.

        Raises LibraryAway when it breaks too often in a row, or what came is not what was said; what came so far is
        kept for another time in the first case.
        """
        part = path.with_name(path.name + ".part")
        where = f"surfaces/{quote(item, safe='')}/files/{pixels}/{quote(file['name'], safe='')}"
        failed = 0
        while (have := _size(part)) < file["bytes"]:
            try:
                self._go_on(where, part, have, file["bytes"], on_bytes)
            except (urllib3.exceptions.HTTPError, ConnectionError) as error:
                failed = 0 if _size(part) > have else failed + 1
                if failed >= _ATTEMPTS:
                    kept = f"{self.name} breaks off at {file['name']} ({type(error).__name__}); what came is kept"
                    raise LibraryAway("{kept}: go on later", kept=kept) from error
                if failed:
                    time.sleep(self.pause * 2 ** (failed - 1))
        with part.open("rb") as stream:
            digest = hashlib.file_digest(stream, "sha256").hexdigest()
        if digest != file["sha256"] or part.stat().st_size != file["bytes"]:
            part.unlink()
            raise LibraryAway(
                "{name} is not what {name2} said it would be; try again", name=file["name"], name2=self.name
            )
        os.replace(part, path)

    def _go_on(self, where: str, part: Path, have: int, size: int, on_bytes: Callable[[int], None]) -> None:
        headers = self._headers | ({"Range": f"bytes={have}-"} if have else {})
        answer = self._asked(where, headers)
        try:
            if have and answer.status != 206:
                # It cannot go on in the middle: from the start.
                have = 0
            with part.open("ab" if have else "wb") as out:
                for piece in answer.stream(_PIECE, decode_content=False):
                    have += len(piece)
                    if have > size:
                        raise LibraryAway("{stem} is larger than {name} said", stem=part.stem, name=self.name)
                    out.write(piece)
                    on_bytes(have)
        finally:
            answer.release_conn()
        if have < size:
            raise urllib3.exceptions.IncompleteRead(have, size - have)

    def _asked(self, where: str, headers: dict[str, str]) -> urllib3.BaseHTTPResponse:
        answer = self._pool.request(
            "GET", f"{self._address}/{where}", headers=headers, preload_content=False, redirect=False
        )
        if answer.status in (200, 206):
            return answer
        answer.drain_conn()
        if answer.status in (401, 403):
            raise LibraryAway("{name} does not take the key; enter it again", name=self.name)
        if answer.status == 404:
            raise LibraryAway("{name} does not have this any more", name=self.name)
        if answer.status >= 500:
            raise urllib3.exceptions.HTTPError(f"answered {answer.status}")
        raise LibraryAway(
            "{name} answered {status}, which is none of the answers it may give", name=self.name, status=answer.status
        )

    def _bytes(self, where: str, most: int) -> bytes:
        try:
            answer = self._asked(where, self._headers)
            try:
                data = answer.read(most + 1, decode_content=False)
            finally:
                answer.release_conn()
        except (urllib3.exceptions.HTTPError, ConnectionError) as error:
            raise LibraryAway(
                "{name} does not answer ({problem}); try again later", name=self.name, problem=type(error).__name__
            ) from error
        if len(data) > most:
            raise LibraryAway("{name} answered with more than {most} MB", name=self.name, most=most >> 20)
        return data

    def _document(self, where: str, kind: str) -> object:
        told = f"the answer of {self.name}"
        document = load_json(self._bytes(where, _MAX_DOCUMENT).decode("utf-8", "replace"), told)
        check_document(document, kind, told)
        return document


def _size(path: Path) -> int:
    return path.stat().st_size if path.exists() else 0
