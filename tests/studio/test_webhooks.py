"""Webhooks: who is told what, signed and tried again; nothing goes where an administrator did not allow it."""

import hashlib
import hmac
import json
import socket
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from studio.deliveries.models import Delivery
from studio.jobs.models import Job
from studio.jobs.queue import finish
from studio.webhooks import guard
from studio.webhooks.models import Sending, Webhook
from studio.webhooks.sending import _NotTaken, deliver
from tests.sheets import a_master
from texel.errors import BadDocument

pytestmark = pytest.mark.django_db


class Listener(BaseHTTPRequestHandler):
    def do_POST(self):
        body = self.rfile.read(int(self.headers["Content-Length"]))
        self.server.heard.append((self.path, dict(self.headers), body))
        status = self.server.answers.pop(0) if self.server.answers else 200
        self.send_response(status)
        if status == 302:
            self.send_header("Location", "http://127.0.0.1:1/inside")
        self.end_headers()
        self.wfile.write(b"thanks")

    def log_message(self, *words):
        pass


@pytest.fixture
def listener(settings, monkeypatch):
    """Somebody who listens on loopback, which the administrator allowed; queued messages are kept for the test."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), Listener)
    server.heard, server.answers, server.queued = [], [], []
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.WEBHOOK_HOSTS = [f"127.0.0.1:{server.server_port}"]
    monkeypatch.setattr(deliver, "defer", lambda **words: server.queued.append(words))
    yield server
    server.shutdown()


def hook(call, listener, events=("delivery", "findings", "update"), status=200, **more):
    address = f"http://127.0.0.1:{listener.server_port}/here?a=1"
    return call("POST", "/webhooks", {"name": "Build", "address": address, "events": list(events)} | more, status)


def delivered(project, state="done"):
    job = Job.objects.create(project=project, kind="deliver", title="x")
    Delivery.objects.create(project=project, number=3, target={"name": "orm"}, sets={}, set_ids=[1, 2], job=job)
    finish(job.pk, None, state)


def test_a_delivery_is_told_with_a_signature_that_its_key_makes(call, listener, project):
    made = hook(call, listener)
    assert made["key"] not in str(Webhook.objects.values_list())
    delivered(project)
    deliver(**listener.queued[0])
    ((path, headers, body),) = listener.heard
    told = json.loads(body)
    assert path == "/here?a=1"
    assert (told["event"], told["number"], told["sets"], told["state"]) == ("delivery", 3, 2, "done")
    wanted = hmac.new(made["key"].encode(), headers["X-Texel-Time"].encode() + b"\n" + body, hashlib.sha256)
    assert headers["X-Texel-Signature"] == wanted.hexdigest()
    (row,) = call("GET", f"/webhooks/{made['id']}/sendings")
    assert (row["status"], row["answer"], row["done"], row["attempts"]) == (200, "thanks", True, 1)


def test_what_is_not_taken_is_tried_again_and_can_be_sent_again_by_hand(call, listener, project):
    made = hook(call, listener)
    delivered(project)
    listener.answers[:] = [500, 302]
    for _ in range(2):
        with pytest.raises(_NotTaken):
            deliver(**listener.queued[0])
    deliver(**listener.queued[0])
    assert len(listener.heard) == 3, "a redirection is not followed, and not taken"
    (row,) = call("GET", f"/webhooks/{made['id']}/sendings")
    assert (row["attempts"], row["done"]) == (3, True)
    deliver(**listener.queued[0])
    assert len(listener.heard) == 3, "what was taken is not sent twice"
    call("POST", f"/webhooks/{made['id']}/sendings/{row['id']}/again")
    deliver(**listener.queued[-1])
    assert len(listener.heard) == 4


def test_findings_and_newer_masters_are_told(call, listener, project, library):
    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {"note": "First"})
    call("POST", "/materials", {"name": "Quay", "master": "stone"})
    hook(call, listener)
    finish(Job.objects.create(project=project, kind="judge", title="x").pk, None, "done")
    library("PUT", "/masters/stone/draft", a_master() | {"title": "Other stone"})
    library("POST", "/masters/stone/publish", {"note": "Second"})
    findings, update = [row.message for row in Sending.objects.order_by("pk")]
    assert (findings["event"], findings["sets_with_errors"]) == ("findings", 0)
    assert (update["event"], update["master"], update["note"]) == ("update", "stone", "Second")


def test_who_wants_to_know_something_else_or_is_paused_is_told_nothing(call, listener, project):
    made = hook(call, listener, events=("findings",))
    delivered(project)
    call("PATCH", f"/webhooks/{made['id']}", {"paused": True})
    finish(Job.objects.create(project=project, kind="judge", title="x").pk, None, "done")
    assert listener.queued == []


def test_webhooks_are_removed_and_named_once(call, listener):
    made = hook(call, listener)
    hook(call, listener, status=409)
    hook(call, listener, name="Other", events=(), status=422)
    call("DELETE", f"/webhooks/{made['id']}", status=204)
    call("DELETE", f"/webhooks/{made['id']}", status=404)


@pytest.mark.parametrize("address", [
    "http://127.0.0.1/", "http://localhost:5432/", "http://[::1]/", "http://169.254.169.254/latest", "http://10.0.0.1/",
    "http://2130706433/", "http://0/", "http://[::ffff:127.0.0.1]/", "http://100.64.0.1/",
])  # fmt: skip
def test_nothing_goes_inside_the_house_unless_it_is_named(settings, address):
    """RFC 1918, 4291, 3927, 6598: private, loopback, link-local, shared; addresses in other spellings."""
    settings.WEBHOOK_HOSTS = ["*"]
    with pytest.raises(BadDocument):
        guard.allowed(address)


def test_hosts_outside_are_allowed_by_name_or_all(settings, monkeypatch):
    monkeypatch.setattr(socket, "getaddrinfo", lambda *a, **k: [(2, 1, 6, "", ("93.184.215.14", 443))])
    settings.WEBHOOK_HOSTS = []
    with pytest.raises(BadDocument, match="not among the hosts"):
        guard.allowed("https://build.example/x")
    settings.WEBHOOK_HOSTS = ["build.example"]
    assert guard.allowed("https://build.example/x?y=1").path == "/x?y=1"
    settings.WEBHOOK_HOSTS = ["*"]
    assert guard.allowed("https://other.example").ip == "93.184.215.14"


def test_a_name_that_points_inside_later_leads_nowhere(settings, monkeypatch, call, listener, project):
    settings.WEBHOOK_HOSTS = ["*"]
    told = iter([("93.184.215.14", 80), ("127.0.0.1", 80)])
    monkeypatch.setattr(socket, "getaddrinfo", lambda *a, **k: [(2, 1, 6, "", next(told))])
    hook(call, listener, address="http://build.example/")
    delivered(project)
    with pytest.raises(_NotTaken, match="inside the house"):
        deliver(**listener.queued[0])


@pytest.mark.parametrize(
    "address", ["ftp://x.example/", "https://", "https://u:p@x.example/", "https://x.example:99999/", "x"]
)
def test_what_is_no_address_is_refused(settings, address):
    settings.WEBHOOK_HOSTS = ["*", "x.example"]
    with pytest.raises(BadDocument):
        guard.allowed(address)


def test_nothing_is_counted_where_nobody_wants_to_know(listener, project):
    """Judging ends often, and counting reads the findings of all sets."""
    job = Job.objects.create(project=project, kind="judge", title="x")
    with CaptureQueriesContext(connection) as asked:
        finish(job.pk, None, "done")
    assert not [one for one in asked.captured_queries if "sets_finding" in one["sql"]]
