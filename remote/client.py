"""A client of the studio's API (studio/api/openapi.json), thin over urllib3.

    from remote import Studio

    studio = Studio("https://textures.example", token="...")
    intake = studio.take_in("saltmarsh-ferry", Path("exports"))
    studio.wait_for_jobs("saltmarsh-ferry")
    errors = [one for one in studio.findings("saltmarsh-ferry") if one["severity"] == "error"]
    number = studio.deliver("saltmarsh-ferry")["number"]
    studio.fetch("saltmarsh-ferry", number, Path("delivered"))

Anything else of the API: ``studio.call("GET", "/projects")``.
"""

from __future__ import annotations

import json
import os
import shutil
import tempfile
import time
import zipfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import quote

import urllib3

__all__ = ["Studio", "StudioRefuses"]

_ENDED = {"done", "failed", "cancelled"}
_PIECE = 1 << 20
_FIRST_PAUSE, _LONGEST_PAUSE = 0.2, 5.0


class StudioRefuses(Exception):
    """The studio said no, or did not answer; status: of HTTP, 0 where there was no answer."""

    def __init__(self, message: str, status: int = 0):
        super().__init__(message)
        self.status = status


class Studio:
    """One studio, as the owner of a token sees it. address: such as https://textures.example; token: made under
    *Account*. patience: seconds to wait for jobs, None for ever."""

    def __init__(self, address: str, token: str, patience: float | None = 3600):
        self._api = address.rstrip("/") + "/api"
        self._token, self.patience = token, patience
        self._pool = urllib3.PoolManager(timeout=urllib3.Timeout(connect=10, read=300), retries=False)

    def _ask(self, method: str, path: str, **more: Any) -> urllib3.BaseHTTPResponse:
        headers = {"Authorization": f"Bearer {self._token}", **more.pop("headers", {})}
        try:
            # An answer that leads elsewhere is none: the token is for this address alone.
            answer = self._pool.request(method, self._api + path, headers=headers, redirect=False, **more)
        except urllib3.exceptions.HTTPError as error:
            raise StudioRefuses(f"{self._api} does not answer: {error}") from None
        if answer.status >= 300:
            told = answer.read() if more.get("preload_content") is False else answer.data
            try:
                detail = json.loads(told)["detail"]
            except (ValueError, KeyError, TypeError):
                detail = f"the answer was {answer.status}"
            raise StudioRefuses(detail if isinstance(detail, str) else json.dumps(detail), answer.status)
        return answer

    def call(self, method: str, path: str, body: object = None) -> Any:
        """One operation of the API. path: below /api, such as "/projects". Raises StudioRefuses."""
        more: dict[str, Any] = {}
        if body is not None:
            more = {"body": json.dumps(body).encode(), "headers": {"Content-Type": "application/json"}}
        data = self._ask(method, path, **more).data
        return json.loads(data) if data else None

    def send(self, path: str, data: bytes) -> Any:
        """An operation of the API that takes one file. Raises StudioRefuses."""
        answer = self._ask("POST", path, fields={"file": ("text.json", data, "application/json")}).data
        return json.loads(answer) if answer else None

    def _of(self, project: str, path: str) -> str:
        return f"/projects/{quote(project, safe='')}{path}"

    def projects(self) -> list[dict[str, Any]]:
        return list(self.call("GET", "/projects"))

    def status(self, project: str) -> dict[str, Any]:
        """What waits in a project: sets by what was found, sets that changed since their delivery, the last changes."""
        return dict(self.call("GET", self._of(project, "/overview")))

    def take_in(
        self, project: str, folder: Path, name: str = "", told: Callable[[str], None] = lambda path: None
    ) -> dict[str, Any]:
        """Upload a folder's files and ask for them to be sorted; the intake. A file that the studio refuses stands in
        it with the reason. told: called with each path. An upload that breaks off leaves no intake behind."""
        files = sorted(path for path in folder.rglob("*") if path.is_file())
        if not files:
            raise StudioRefuses(f"{folder} holds no files")
        named = {path.relative_to(folder).as_posix(): path for path in files}
        return self.take_in_files(project, named, name or folder.resolve().name, told)

    def take_in_files(
        self, project: str, files: Mapping[str, Path], name: str, told: Callable[[str], None] = lambda path: None
    ) -> dict[str, Any]:
        """Upload files, by the paths that they shall have, as one intake, and ask for them to be sorted."""
        intake = self.call("POST", self._of(project, "/intakes"), {"name": name})
        at = self._of(project, f"/intakes/{intake['id']}")
        try:
            for inside, path in files.items():
                told(inside)
                fields = {"path": inside, "file": (path.name, path.read_bytes())}
                self._ask("POST", f"{at}/files", fields=fields)
            return dict(self.call("POST", f"{at}/sort"))
        except BaseException:
            with suppress(StudioRefuses):
                self.call("DELETE", at)
            raise

    def jobs(self, project: str) -> list[dict[str, Any]]:
        return list(self.call("GET", self._of(project, "/jobs")))

    def wait_for_jobs(self, project: str) -> None:
        """Wait until no job of a project waits or runs. Raises StudioRefuses when it takes too long."""
        self._wait(lambda: all(job["state"] in _ENDED for job in self.jobs(project)), "its jobs")

    def _wait(self, done: Callable[[], bool], what: str) -> None:
        until = None if self.patience is None else time.monotonic() + self.patience
        pause = _FIRST_PAUSE
        while not done():
            if until is not None and time.monotonic() > until:
                raise StudioRefuses(f"{what} did not end within {self.patience:g} seconds")
            time.sleep(pause)
            pause = min(_LONGEST_PAUSE, 1.5 * pause)

    def sets(self, project: str) -> list[dict[str, Any]]:
        return list(self.call("GET", self._of(project, "/sets"))["sets"])

    def findings(self, project: str) -> list[dict[str, Any]]:
        """What was found about all sets and is not waived, each with the name of its set."""
        for row in self.call("GET", self._of(project, "/sets/table")):
            if not row["checked"]:
                raise StudioRefuses(f"{row['name']} is not checked yet; wait for the jobs first")
        return list(self.call("GET", self._of(project, "/sets/findings")))

    def deliver(self, project: str, target: str = "", sets: list[int] | None = None) -> dict[str, Any]:
        """Deliver sets, all without ids, for a target, the project's own without a name; waits until it is whole.
        Raises StudioRefuses with the reason where it fails."""
        target = target or self.call("GET", self._of(project, ""))["target"]
        made = self.call("POST", self._of(project, "/deliveries"), {"target": target, "sets": sets})
        at = self._of(project, f"/deliveries/{made['number']}")
        told: dict[str, Any] = {}

        def ended() -> bool:
            told.update(self.call("GET", at))
            return told["state"] in _ENDED

        self._wait(ended, f"delivery {made['number']}")
        if told["state"] != "done":
            raise StudioRefuses(f"delivery {made['number']} {told['state']}: {told['message']}")
        return told

    def fetch(self, project: str, number: int, to: Path) -> list[str]:
        """Fetch a delivery's files into a folder, which is new or empty; whole or not at all. Their paths."""
        if to.exists() and (not to.is_dir() or any(to.iterdir())):
            raise StudioRefuses(f"{to} is there already and not empty")
        to.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=to.parent, prefix=".fetching-") as beside:
            packed = Path(beside) / "delivery.zip"
            answer = self._ask("GET", self._of(project, f"/deliveries/{number}/zip"), preload_content=False)
            with packed.open("wb") as stream:
                for piece in answer.stream(_PIECE):
                    stream.write(piece)
            whole = Path(beside) / "whole"
            names = list(_unpacked(packed, whole))
            if to.exists():
                to.rmdir()
            os.replace(whole, to)
        return names


def _unpacked(packed: Path, to: Path) -> Iterator[str]:
    """Unpack a zip; a path that leads out of the folder is refused."""
    with zipfile.ZipFile(packed) as archive:
        for entry in archive.infolist():
            target = (to / entry.filename).resolve()
            if not target.is_relative_to(to.resolve()):
                raise StudioRefuses(f"the delivery holds a path that leads out of it: {entry.filename}")
            if entry.is_dir():
                continue
            target.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(entry) as source, target.open("wb") as stream:
                shutil.copyfileobj(source, stream, _PIECE)
            yield entry.filename
