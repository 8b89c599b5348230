"""For whoever runs the server: readiness, numbers for a monitor, failed jobs tried again, logs that programs read."""

import json
import logging
import re

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client

from studio import serving
from studio.jobs.models import Job
from studio.logs import JsonLines, at_work
from tests.studio.conftest import Caller

pytestmark = pytest.mark.django_db


@pytest.fixture
def admin(sign_in):
    root = sign_in(None, "root")
    get_user_model().objects.filter(username="root").update(is_superuser=True)
    return Caller(root.client)


def failed(project, kind="try"):
    return Job.objects.create(project=project, kind=kind, title="Try formats", state="failed", message="no", attempt=3)


def test_a_server_is_ready_when_its_database_is_as_new_as_it_is(monkeypatch):
    assert Caller(Client())("GET", "/ready") == {"ready": True, "says": ""}
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM django_migrations WHERE app = 'team'")
    told = Caller(Client())("GET", "/ready", status=503)
    assert told["says"].endswith("changes of the database wait")


def test_numbers_are_in_the_form_that_their_format_describes(admin, project):
    """Prometheus exposition format 0.0.4: HELP and TYPE before the samples of a family, labels in quotes, one sample a
    line (from memory of its description)."""
    failed(project)
    text = admin("GET", "/metrics").content.decode()
    assert text.endswith("\n")
    sample = re.compile(r'([a-z_]+)(\{[a-z]+="[^"\n]*"(,[a-z]+="[^"\n]*")*\})? -?[0-9.e+]+')
    family = ""
    for line in text.splitlines():
        if line.startswith("# HELP "):
            family = line.split()[2]
        elif line.startswith("# TYPE "):
            assert line.split()[2:] in ([family, "gauge"], [family, "counter"])
        else:
            assert sample.fullmatch(line)[1] == family
    assert 'fair_texel_jobs{kind="try",state="failed"} 1\n' in text
    assert "fair_texel_projects 1\n" in text


def test_labels_that_hold_signs_of_the_format_are_written_as_it_asks():
    assert serving._label('a"b\\c\nd') == 'a\\"b\\\\c\\nd'


def test_failed_jobs_are_listed_and_tried_again(admin, project):
    job = failed(project)
    (row,) = admin("GET", "/server")["failed"]
    assert (row["title"], row["message"], row["project"]) == ("Try formats", "no", "Ferry")
    admin("POST", f"/server/jobs/{job.pk}/retry", status=204)
    job.refresh_from_db()
    assert (job.state, job.attempt, job.message) == ("waiting", 0, "")
    admin("POST", f"/server/jobs/{job.pk}/retry", status=409)
    assert admin("GET", "/server")["queue"] == {"waiting": 1}


def test_what_was_told_as_failed_is_asked_for_again_where_it_was(admin, project):
    job = failed(project, "model")
    assert "ask for it there again" in admin("POST", f"/server/jobs/{job.pk}/retry", status=409)["detail"]


def test_a_request_keeps_its_id_and_gets_one_where_it_has_none():
    assert Client().get("/api/ready", headers={"X-Request-Id": "abc-1"}).headers["X-Request-Id"] == "abc-1"
    for odd in ("a b", "x" * 99, ""):
        assert re.fullmatch(
            "[0-9a-f]{32}", Client().get("/api/ready", headers={"X-Request-Id": odd}).headers["X-Request-Id"]
        )


def test_logs_are_one_object_a_line_with_what_was_at_work():
    at_work.set("job 17")
    try:
        raise ValueError("two\nlines")
    except ValueError as error:
        told = (type(error), error, error.__traceback__)
    record = logging.LogRecord("studio.x", logging.ERROR, "x.py", 1, "broken: %s\n", ("näh",), told)
    text = JsonLines().format(record)
    at_work.set("")
    assert "\n" not in text
    line = json.loads(text)
    assert (line["level"], line["message"], line["work"]) == ("error", "broken: näh\n", "job 17")
    assert "ValueError" in line["trace"]


def test_a_job_of_a_kind_that_there_is_no_more_is_not_tried(admin, project):
    job = failed(project, "former")
    assert "there are no such jobs any more" in admin("POST", f"/server/jobs/{job.pk}/retry", status=409)["detail"]
