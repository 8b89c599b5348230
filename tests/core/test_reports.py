"""Findings for build pipelines: JUnit XML, SARIF, only what changed, a hook before each commit."""

import json
import subprocess
from xml.etree import ElementTree

import pytest

from tests.core.test_cli import run, run_json
from tests.pictures import simple_set
from texel.changed import changed_files
from texel.checks import Severity
from texel.checks.finding import Finding
from texel.checks.reports import junit, sarif
from texel.errors import BadDocument
from texel.roles import Role
from texel.sets import MapRef, TextureSet

DECK = TextureSet("deck", (MapRef(Role.NORMAL, "deck_n.png"), MapRef(Role.ROUGHNESS, "deck_r.png")))
FOUND = [
    Finding("green", Severity.ERROR, "deck", "points down", Role.NORMAL, "deck_n.png"),
    Finding("size", Severity.WARNING, "deck", "too large", Role.ROUGHNESS, "deck_r.png"),
    Finding("undecided", Severity.WARNING, "", "found no place", file="odd\x00\x1b.png"),
]


def test_junit_has_a_case_for_each_map_and_fails_those_with_errors():
    root = ElementTree.fromstring(junit([DECK], FOUND))
    deck, loose = root.findall("testsuite")
    assert {case.get("name"): len(case.findall("failure")) for case in deck} == {
        "set": 0, "normal: deck_n.png": 1, "roughness: deck_r.png": 0,
    }  # fmt: skip
    assert (root.get("tests"), root.get("failures"), deck.get("failures")) == ("4", "1", "1")
    assert deck.find(".//failure").text == "points down"
    assert deck.find(".//system-out").text == "warning: too large"
    assert loose.find("testcase").get("name") == "odd��.png", "signs that XML cannot hold do not break it"


def test_sarif_has_what_its_standard_asks_for():
    """OASIS SARIF 2.1.0: log 3.13 (version, runs), run 3.14 (tool), driver 3.19 (name, rules), result 3.27 (message,
    level, ruleIndex into the rules), artifact location 3.4 (a URI, its base). Numbers from memory."""
    log = json.loads(json.dumps(sarif(FOUND)))
    (one,) = log["runs"]
    rules = one["tool"]["driver"]["rules"]
    assert (log["version"], one["tool"]["driver"]["name"]) == ("2.1.0", "Fair Texel")
    assert len({rule["id"] for rule in rules}) == len(rules) == 3
    for result in one["results"]:
        assert rules[result["ruleIndex"]]["id"] == result["ruleId"]
        assert result["level"] in ("none", "note", "warning", "error")
        assert result["message"]["text"]
    assert one["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"] == "deck_n.png"


@pytest.fixture
def repository(tmp_path):
    """A folder in a repository, with one set committed."""
    git(tmp_path, "init", "-q")
    simple_set(tmp_path / "art", "deck")
    git(tmp_path, "add", ".")
    git(tmp_path, "commit", "-qm", "deck")
    return tmp_path


def git(folder, *words):
    who = ["-c", "user.name=x", "-c", "user.email=x@example.com", "-c", "commit.gpgsign=false"]
    return subprocess.run(["git", "-C", folder, *who, *words], check=True, capture_output=True)


def test_only_what_changed_since_a_commit_is_judged(capsys, repository):
    art = repository / "art"
    assert run_json(capsys, "check", art, "--changed", "HEAD")[1]["findings"] == []
    simple_set(art, "quay")
    _, document = run_json(capsys, "check", art, "--changed", "HEAD")
    assert {one["set"] for one in document["findings"]} <= {"quay", None, ""}
    code, out, _ = run(capsys, "check", art, "--changed", "HEAD")
    assert (code, out.splitlines()[-1].endswith("in 1 sets")) == (0, True)
    assert run(capsys, "check", art, "--changed", "staged")[1].splitlines()[-1].endswith("in 0 sets")


def test_names_of_all_kinds_are_told_as_they_are(repository):
    odd = "line\nbreak ä -x.png"
    (repository / "art" / odd).write_bytes(b"x")
    assert changed_files(repository / "art", "HEAD") == {odd}
    git(repository, "add", ".")
    assert changed_files(repository / "art", "staged") == {odd}


@pytest.mark.parametrize("since", ["nothing", "--output=stolen", "HEAD:art"])
def test_a_commit_that_is_none_is_refused(repository, since):
    with pytest.raises(BadDocument, match="git"):
        changed_files(repository / "art", since)


def test_a_folder_in_no_repository_is_refused(capsys, tmp_path):
    simple_set(tmp_path, "deck")
    code, _, err = run(capsys, "check", tmp_path, "--changed", "HEAD")
    assert (code, err.startswith("texel: git:")) == (2, True)


def test_reports_are_written_beside_what_is_printed(capsys, tmp_path):
    simple_set(tmp_path / "in", "deck")
    code, out, _ = run(
        capsys, "check", tmp_path / "in", "--junit", tmp_path / "a.xml", "--sarif", tmp_path / "a.json", "--json"
    )
    assert code == 0
    assert json.loads((tmp_path / "a.json").read_text())["version"] == "2.1.0"
    assert ElementTree.parse(tmp_path / "a.xml").getroot().tag == "testsuites"
    assert "findings" in json.loads(out)


def test_a_hook_refuses_a_commit_with_errors(capsys, repository):
    art = repository / "art"
    code, out, _ = run(capsys, "hook", art)
    assert (code, "pre-commit" in out) == (0, True)
    simple_set(art, "quay")
    git(repository, "add", ".")
    git(repository, "commit", "-qm", "a good one")
    (art / "quay_normal.png").write_bytes(b"no picture")
    git(repository, "add", ".")
    with pytest.raises(subprocess.CalledProcessError) as refused:
        git(repository, "commit", "-qm", "broken")
    assert b"error" in refused.value.stdout + refused.value.stderr
    assert run(capsys, "hook", art)[0] == 0, "one's own hook is written anew"
    (repository / ".git/hooks/pre-commit").write_text("#!/bin/sh\n")
    assert run(capsys, "hook", art)[0] == 2, "a hook of somebody else's stays"
