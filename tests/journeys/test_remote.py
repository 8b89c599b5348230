"""A build machine against a studio: upload, check, deliver, fetch, with a token that is then revoked."""

import json
import re
import zipfile

import pytest
from playwright.sync_api import expect

from remote import projects
from remote.cli import main
from remote.client import Studio, StudioRefuses
from tests.journeys.conftest import serious_axe_findings
from tests.journeys.test_workers import Script
from tests.pictures import simple_set
from texel.cli import main as texel
from texel.delivery.manifest import RESERVED


@pytest.fixture
def there(live, monkeypatch, capsys):
    """The commands, as a script runs them; and the studio as a client."""
    token = Script(live).token
    studio = Studio(live.address, token, patience=300)
    monkeypatch.setenv("FAIR_TEXEL_ADDRESS", live.address)
    monkeypatch.setenv("FAIR_TEXEL_TOKEN", token)

    def run(*words):
        code = main([str(word) for word in words])
        out, err = capsys.readouterr()
        return code, out, err

    return run, studio


@pytest.fixture
def project(there):
    return there[1].call("POST", "/projects", {"name": "Built elsewhere"})["slug"]


def test_a_build_machine_takes_in_checks_delivers_and_fetches(there, project, tmp_path):
    run, _ = there
    for name in ("deck", "quay"):
        simple_set(tmp_path / "in" / name, name)
    code, out, _ = run("intake", project, tmp_path / "in", "--json")
    assert (code, json.loads(out)["state"]) == (0, "sorted")
    code, out, _ = run("check", project, "--json")
    errors = [one for one in json.loads(out)["findings"] if one["severity"] == "error"]
    assert code == (1 if errors else 0)
    code, out, _ = run("deliver", project, "--set", "deck", "--json")
    made = json.loads(out)
    assert (code, made["sets"], made["state"]) == (0, 1, "done")
    code, out, _ = run("fetch", project, made["number"], tmp_path / "out", "--json")
    names = json.loads(out)["files"]
    assert sorted(
        path.relative_to(tmp_path / "out").as_posix() for path in (tmp_path / "out").rglob("*") if path.is_file()
    ) == sorted(names)
    assert any(name in RESERVED for name in names), "the manifest lies beside the files"
    code, out, _ = run("status", project)
    assert (code, out.startswith("2 sets:")) == (0, True)
    assert run("wait", project)[0] == 0


def test_a_project_goes_out_as_text_is_built_without_the_studio_and_comes_back(there, project, tmp_path, capsys):
    _, studio = there
    simple_set(tmp_path / "in", "deck", n=32)
    studio.take_in(project, tmp_path / "in")
    studio.wait_for_jobs(project)
    text, out = str(tmp_path / "text"), tmp_path / "out"

    def run(*words):
        code = projects.main([str(word) for word in words])
        return code, capsys.readouterr().out

    assert run("export", project, text)[0] == 0
    assert run("status", project, text) == (0, "folder and studio are the same\n")
    assert texel(["build", text, "--sources", str(tmp_path / "in"), "-o", str(out)]) == 0
    number = studio.deliver(project)["number"]
    studio.fetch(project, number, tmp_path / "there")
    for path in sorted(one for one in (tmp_path / "there").rglob("*") if one.is_file()):
        assert (out / path.relative_to(tmp_path / "there")).read_bytes() == path.read_bytes(), path.name
    capsys.readouterr()
    deck = tmp_path / "text/sets/deck.json"
    deck.write_text(json.dumps({**json.loads(deck.read_text()), "metres": 2.0}))
    code, said = run("status", project, text)
    assert (code, "changed here" in said, "metres" in said) == (1, True, True)
    (row,) = studio.sets(project)
    studio.call("PUT", f"/projects/{project}/sets/{row['id']}/metres", {"metres": 3.0})
    code, said = run("import", project, text)
    assert (code, "changed on both sides" in said) == (1, True)
    assert run("import", project, text, "--take-here", "sets/deck.json")[0] == 0
    assert studio.sets(project)[0]["metres"] == 2.0
    assert run("status", project, text)[0] == 0


def test_a_folder_goes_out_and_comes_back_through_the_page(there, ada, live, project, tmp_path):
    page, (_, studio) = ada, there
    simple_set(tmp_path / "in", "deck", n=32)
    studio.take_in(project, tmp_path / "in")
    studio.wait_for_jobs(project)
    page.goto(f"{live.address}/p/{project}")
    page.get_by_role("button", name="As text").click()
    dialog = page.get_by_role("dialog", name="Project as text")
    with page.expect_download() as got:
        dialog.get_by_role("link", name="Download the folder").click()
    with zipfile.ZipFile(got.value.path()) as archive:
        archive.extractall(tmp_path / "text")
    deck = next((tmp_path / "text").rglob("deck.json"))
    deck.write_text(json.dumps({**json.loads(deck.read_text()), "metres": 2.0}))
    assert serious_axe_findings(page) == []

    dialog.locator("[data-test=text-folder]").set_input_files(tmp_path / "text")
    expect(dialog.locator("[data-text='sets/deck']")).to_contain_text("metres")
    dialog.get_by_role("button", name="Bring in 1 document").click()
    expect(page.get_by_text("1 document brought in")).to_be_visible()
    assert studio.sets(project)[0]["metres"] == 2.0
    page.get_by_role("button", name="Undo").last.click()
    expect(page.get_by_text(re.compile("Undone"))).to_be_visible()
    assert studio.sets(project)[0]["metres"] is None


def test_what_cannot_be_done_is_told_without_a_traceback(there, project, tmp_path, monkeypatch):
    run, _ = there
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "x").write_text("x")
    (tmp_path / "empty").mkdir()
    for words, said in (
        (("status", "nothing"), "no such project"), (("intake", project, tmp_path / "empty"), "holds no files"),
        (("fetch", project, 1, tmp_path / "full"), "not empty"),
        (("deliver", project, "--set", "x"), "no set called x"),
        (("--address", "http://127.0.0.1:9", "status", project), "does not answer"),
    ):  # fmt: skip
        code, out, err = run(*words)
        assert (code, out) == (2, ""), words
        assert said in err
    monkeypatch.delenv("FAIR_TEXEL_TOKEN")
    assert "with which token" in run("status", project)[2]


def test_a_token_that_was_revoked_is_refused(there, project, live):
    _, studio = there
    fresh = studio.call("POST", "/tokens", {"name": "build", "days": 1, "right": "look"})["token"]
    other = Studio(live.address, fresh)
    assert other.status(project)["sets"] == 0
    with pytest.raises(StudioRefuses, match="may look"):
        other.call("POST", f"/projects/{project}/intakes", {"name": "x"})
    (row,) = [one for one in studio.call("GET", "/tokens") if one["name"] == "build"]
    studio.call("DELETE", f"/tokens/{row['id']}")
    with pytest.raises(StudioRefuses) as refused:
        other.status(project)
    assert refused.value.status == 401
