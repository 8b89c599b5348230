"""People, projects and a way to run queued jobs at once, for tests of the studio."""

from __future__ import annotations

import json

import pytest
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from studio.jobs.models import Job
from studio.people.models import LIBRARY_KEEPERS
from studio.projects.models import Membership, Project


class Caller:
    """A signed-in person's calls to the API."""

    def __init__(self, client: Client, base: str = ""):
        self.client, self.base = client, base

    def __call__(self, method: str, path: str, body=None, status: int = 200, seen: int | None = None):
        headers = {"If-Match": f'"{seen}"'} if seen is not None else None
        answer = self.client.generic(
            method, f"/api{self.base}{path}", json.dumps(body) if body is not None else "", "application/json",
            headers=headers,
        )  # fmt: skip
        assert answer.status_code == status, answer.content[:500]
        is_json = "json" in answer.headers.get("Content-Type", "")
        return json.loads(answer.content) if is_json and answer.content else answer

    def upload(self, path: str, name: str, data: bytes, status: int = 200, field_path: str | None = None):
        body = {"file": SimpleUploadedFile(name.rsplit("/", 1)[-1], data), "path": field_path or name}
        answer = self.client.post(f"/api{self.base}{path}", body)
        assert answer.status_code == status, answer.content[:500]
        return json.loads(answer.content)


@pytest.fixture(autouse=True)
def _own_folders(settings, tmp_path):
    settings.HOME = tmp_path
    # Passwords are hashed slowly on purpose, and every test makes people.
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    # Child processes would not see what a test's transaction holds.
    settings.JUDGE_PROCESSES = 1
    settings.DELIVERIES_ROOT = tmp_path / "deliveries"
    settings.STORAGES = {
        **settings.STORAGES,
        "default": {
            "BACKEND": "studio.storage.WholeFiles",
            "OPTIONS": {"location": str(tmp_path / "store")},
        },
    }


@pytest.fixture
def project(db):
    return Project.objects.create(slug="ferry", name="Ferry")


@pytest.fixture
def sign_in(project):
    def make(right: str | None = "manage", name: str = "ada") -> Caller:
        person = get_user_model().objects.create_user(name, password="tide-table-9")
        if right:
            Membership.objects.create(project=project, user=person, right=right)
        if right == "manage":
            person.groups.add(Group.objects.get_or_create(name=LIBRARY_KEEPERS)[0])
        client = Client()
        client.force_login(person)
        return Caller(client, "/projects/ferry")

    return make


@pytest.fixture
def other(sign_in):
    """A second member of the project."""
    return sign_in(name="bram")


@pytest.fixture
def call(sign_in):
    return sign_in()


@pytest.fixture
def library(sign_in, project):
    """Calls to the library that all projects share."""
    call = sign_in("manage", "iris")
    call.base = ""
    return call


@pytest.fixture
def run_jobs():
    """Run every waiting job here and now, as a worker's child would."""
    from studio.jobs import child
    from studio.jobs.queue import take_up

    def run() -> None:
        while waiting := list(Job.objects.filter(state=Job.State.WAITING).order_by("pk")):
            for job in waiting:
                taken = take_up(job.pk)
                if taken is not None:
                    child.run(taken.pk, taken.attempt)

    return run


@pytest.fixture
def take_in(call, run_jobs):
    """Upload a folder, sort and judge it; gives the roll."""

    def run(folder):
        intake = call("POST", "/intakes", {"name": folder.name})["id"]
        for path in sorted(p for p in folder.rglob("*") if p.is_file()):
            call.upload(f"/intakes/{intake}/files", path.relative_to(folder).as_posix(), path.read_bytes())
        call("POST", f"/intakes/{intake}/sort")
        run_jobs()
        return call("GET", "/sets")

    return run
