"""The stand-in library over HTTP: the interface of docs/scan-library.md, and nothing else."""

from __future__ import annotations

import hmac
import json
import re
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import parse_qs, unquote, urlsplit

from scanlibrary.shelf import Shelf

__all__ = ["Service"]

_TITLE = "Tin Library"
_PAGE = 50
_PIECE = 64 * 1024
_RANGE = re.compile(r"bytes=(\d+)-$")


class Service(ThreadingHTTPServer):
    """Serves a shelf on loopback. break_after: the connection is cut after so many bytes of a file, to try how a
    client goes on; None: never."""

    daemon_threads = True

    def __init__(self, shelf: Shelf, port: int = 0, break_after: int | None = None):
        super().__init__(("127.0.0.1", port), _Handler)
        self.shelf, self.break_after = shelf, break_after
        # Of each file that was sent: from which byte on.
        self.sent: list[tuple[str, int]] = []

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.server_address[1]}"


class _Handler(BaseHTTPRequestHandler):
    server: Service
    protocol_version = "HTTP/1.1"

    def log_message(self, format: str, *args: object) -> None:
        pass

    def do_GET(self) -> None:
        shelf = self.server.shelf
        given = self.headers.get("Authorization", "").removeprefix("Bearer ").strip()
        if not hmac.compare_digest(given.encode(), shelf.key.encode()):
            return self._problem(HTTPStatus.UNAUTHORIZED, "this key opens no account")
        address = urlsplit(self.path)
        asked = {name: values[0] for name, values in parse_qs(address.query).items()}
        parts = [unquote(part) for part in address.path.strip("/").split("/")]
        try:
            match parts:
                case ["surfaces"]:
                    self._list(asked)
                case ["surfaces", item]:
                    self._json(shelf.surface(item))
                case ["surfaces", item, "preview"]:
                    self._file(shelf.preview(item))
                case ["surfaces", item, "files", pixels, name]:
                    self._file(shelf.path_of(item, int(pixels), name))
                case _:
                    self._problem(HTTPStatus.NOT_FOUND, "there is nothing of this name")
        except (KeyError, ValueError):
            self._problem(HTTPStatus.NOT_FOUND, "there is no such surface or file")

    def _list(self, asked: dict[str, str]) -> None:
        rows = self.server.shelf.listed(asked.get("search", ""))
        page = max(1, int(asked.get("page", "1")))
        shown = rows[(page - 1) * _PAGE : page * _PAGE]
        self._json(
            {
                "format": "fair-texel/scan-surfaces", "version": 1, "title": _TITLE,
                "account": self.server.shelf.account, "surfaces": shown,
                "next": page + 1 if len(rows) > page * _PAGE else None,
            }
        )  # fmt: skip

    def _json(self, document: object, status: HTTPStatus = HTTPStatus.OK) -> None:
        data = json.dumps(document).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def _problem(self, status: HTTPStatus, message: str) -> None:
        self._json({"detail": message}, status)

    def _file(self, path: Path) -> None:
        size = path.stat().st_size
        asked = _RANGE.fullmatch(self.headers.get("Range", ""))
        start = int(asked.group(1)) if asked else 0
        if start >= size:
            return self._problem(HTTPStatus.REQUESTED_RANGE_NOT_SATISFIABLE, "the file ends before")
        self.server.sent.append((path.name, start))
        self.send_response(HTTPStatus.PARTIAL_CONTENT if asked else HTTPStatus.OK)
        self.send_header("Content-Type", "image/png")
        self.send_header("Content-Length", str(size - start))
        self.send_header("Accept-Ranges", "bytes")
        if asked:
            self.send_header("Content-Range", f"bytes {start}-{size - 1}/{size}")
        self.end_headers()
        left = self.server.break_after
        with path.open("rb") as stream:
            stream.seek(start)
            while piece := stream.read(_PIECE):
                if left is not None and left < len(piece):
                    self.wfile.write(piece[:left])
                    self.wfile.flush()
                    self.close_connection = True
                    self.connection.close()
                    return
                self.wfile.write(piece)
                left = None if left is None else left - len(piece)
