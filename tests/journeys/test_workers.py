"""A worker killed in the middle of a delivery: the job is taken up again and its result is whole, never half."""

import json
import os
import signal
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from tests.journeys.conftest import wait_for
from texel import digest
from texel.delivery.manifest import RESERVED
from texel.library import list_files


class Script:
    """A script that uses the API with a token, as a build pipeline would."""

    def __init__(self, live):
        shell = (
            "from django.contrib.auth.models import User; from studio.people.models import AccessToken;"
            "print(AccessToken.make(User.objects.get(username='ada'), 'test'))"
        )
        self.address, self.token = (
            f"{live.address}/api",
            live.manage("shell", "-v", "0", "-c", shell).strip().splitlines()[-1],
        )

    def __call__(self, method, path, body=None, data=None, kind="application/json"):
        data = json.dumps(body).encode() if body is not None else data
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": kind}
        request = urllib.request.Request(self.address + path, method=method, data=data, headers=headers)
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.loads(answer.read() or b"null")

    def upload(self, path, name, content):
        edge = "edge-of-part"
        head = (
            f'--{edge}\r\nContent-Disposition: form-data; name="path"\r\n\r\n{name}\r\n'
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="x.png"\r\n\r\n'
        )
        data = head.encode() + content + f"\r\n--{edge}--\r\n".encode()
        return self("POST", path, data=data, kind=f"multipart/form-data; boundary={edge}")


def children_of(pid: int) -> list[int]:
    found = []
    for task in Path(f"/proc/{pid}/task").glob("*/children"):
        found += [int(child) for child in task.read_text().split()]
    return found


@pytest.fixture(scope="module")
def project(live, demo_folders):
    call = Script(live)
    slug = call("POST", "/projects", {"name": "Workers"})["slug"]
    base = f"/projects/{slug}"
    intake = call("POST", f"{base}/intakes", {"name": "all"})["id"]
    for name, path in list_files(demo_folders / "saltmarsh_ferry").items():
        call.upload(f"{base}/intakes/{intake}/files", name, path.read_bytes())
    call("POST", f"{base}/intakes/{intake}/sort")
    wait_for(lambda: (r := call("GET", f"{base}/sets"))["sets"] and all(s["judged"] for s in r["sets"]), what="judging")
    return call, base


def test_a_worker_killed_in_the_middle_of_a_delivery(live, project):
    call, base = project
    number = call("POST", f"{base}/deliveries", {"target": "orm-y-minus"})["number"]
    folder = live.home / "deliveries" / base.rsplit("/", 1)[-1]
    final = folder / f"{number:04d}-orm-y-minus"
    # The supervisor's child is the worker; it dies with its own child in the middle of the work. The unfinished folder
    # is watched, not what the job says of itself: that is written too seldom to be sure of the middle.
    (worker,) = children_of(live.workers[0].pid)
    wait_for(lambda: any(p.is_file() for p in folder.glob(f".{final.name}.part-*/files/**/*")), pause=0.005)
    os.kill(worker, signal.SIGKILL)
    assert not final.exists()
    (job,) = (j for j in call("GET", f"{base}/jobs") if j["kind"] == "deliver")
    assert job["attempt"] == 1
    done = wait_for(
        lambda: (d := call("GET", f"{base}/deliveries/{number}"))["state"] in ("done", "failed") and d,
        90,
        "the delivery",
    )
    assert done["state"] == "done", done["message"]
    assert live.query("SELECT attempt FROM jobs_job WHERE id = %s", job["id"])[0][0] == 2
    for entry in done["manifest"]["files"]:
        assert digest.of_file(final / entry["path"]) == entry["digest"]
    listed = {entry["path"] for entry in done["manifest"]["files"]} | set(RESERVED)
    assert {p.relative_to(final).as_posix() for p in final.rglob("*") if p.is_file()} == listed
    assert [p.name for p in folder.iterdir() if ".part" in p.name] == []


def test_cancelling_a_running_delivery_leaves_nothing(live, project):
    call, base = project
    made = call("POST", f"{base}/deliveries", {"target": "metal-rough-gloss-y-plus"})
    wait_for(lambda: any(j["id"] == made["job"] and j["done"] > 0 for j in call("GET", f"{base}/jobs")))
    call("POST", f"{base}/jobs/{made['job']}/cancel")
    state = wait_for(lambda: (s := call("GET", f"{base}/deliveries/{made['number']}"))["state"] == "cancelled" and s)
    assert state["folder"] is None
    folder = live.home / "deliveries" / base.rsplit("/", 1)[-1]
    assert not (folder / f"{made['number']:04d}-metal-rough-gloss-y-plus").exists()


def test_a_token_that_is_wrong_is_refused(live, project):
    call, base = project
    request = urllib.request.Request(f"{call.address}{base}/sets", headers={"Authorization": "Bearer nonsense"})
    with pytest.raises(urllib.error.HTTPError, match="401"):
        urllib.request.urlopen(request, timeout=10)
