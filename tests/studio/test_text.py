"""A project as text: told, built without the studio byte for byte, and brought together with what people changed."""

import io
import json
import re
import zipfile
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from demo.materials import MASTERS
from remote.client import Studio, StudioRefuses
from remote.text import export, import_, status
from studio.deliveries.models import Delivery
from studio.materials.models import Cast, Master
from studio.meshes.models import Mesh
from studio.projects.models import Project
from studio.sets.models import Placement, TextureSet, Waiver
from tests.pictures import simple_set
from tests.studio.test_models import BOAT, send, slots
from texel import digest
from texel.cli import main
from texel.project import read_folder
from texel.schemas import check_document

pytestmark = pytest.mark.django_db
TARGET = "orm-y-minus"


class Here(Studio):
    """The client, with Django's test client in place of the network."""

    def __init__(self, call):
        super().__init__("http://nowhere", "")
        self._call, self.run_jobs = call, lambda: None

    def _ask(self, method, path, **more):
        fields = more.pop("fields", None)
        if fields is None:
            answer = self._call.client.generic(method, f"/api{path}", more.get("body", b""), "application/json")
        else:
            name, data, *_ = fields["file"]
            body = {**fields, "file": SimpleUploadedFile(name, data)}
            answer = self._call.client.post(f"/api{path}", body)
        if answer.status_code >= 300:
            raise StudioRefuses(json.loads(answer.content)["detail"], answer.status_code)
        answer.data = answer.content
        return answer

    def wait_for_jobs(self, project):
        self.run_jobs()


@pytest.fixture
def studio(call):
    return Here(call)


@pytest.fixture
def folder(tmp_path):
    return tmp_path / "text"


@pytest.fixture
def sets(call, take_in, run_jobs, tmp_path):
    """Three sets, one with a step, one with a finding that is waived."""
    for seed, name in enumerate(("deck", "Hull", "reeds"), 3):
        simple_set(tmp_path / "in", name, seed=seed, n=32)
    (tmp_path / "in/Hull_r.png").unlink()
    sets = {one["name"]: one["id"] for one in take_in(tmp_path / "in")["sets"]}
    normal = next(one for one in call("GET", f"/sets/{sets['deck']}")["maps"] if one["role"] == "normal")
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "flip_green"}]})
    run_jobs()
    found = next(one for one in call("GET", f"/sets/{sets['Hull']}")["findings"] if one["severity"] != "note")
    call("POST", "/waivers", {"finding": found["id"], "reason": "Seen and kept"})
    every = [one for pk in sets.values() for one in call("GET", f"/sets/{pk}")["findings"]]
    of_a_map = next(one for one in every if one["map"] is not None and one["check"] != "twin_across_project")
    call("POST", "/waivers", {"finding": of_a_map["id"], "reason": "This map is so"})
    return sets


@pytest.fixture
def furnished(call, library, sets, run_jobs, tmp_path):
    """The sets, with a master, a derived cast, a model and a patch of ground."""
    name = MASTERS[0]["name"]
    library("POST", "/masters", MASTERS[0])
    library("POST", f"/masters/{name}/publish", {})
    dry = call("POST", "/materials", {"name": "Deck", "master": name})["id"]
    call("POST", f"/materials/{dry}/fill", {"set": sets["deck"]})
    wet = call("POST", "/materials", {"name": "Wet deck", "parent": dry})["id"]
    call("PATCH", f"/materials/{wet}", {"changes": {"dirt": 0.25}})
    model = send(call, BOAT)["id"]
    run_jobs()
    worn = {key: {"kind": "set", "id": sets["Hull"]} for key in slots(call("GET", f"/models/{model}"))}
    call("PATCH", f"/models/{model}", {"wears": worn})
    layers = [{"name": "Reeds", "wears": {"kind": "set", "id": sets["reeds"]}, "tile": 4}]
    call("POST", "/grounds", {"name": "Marsh", "metres": 32, "side": 128, "layers": layers})
    (tmp_path / "in/meshes").mkdir()
    (tmp_path / "in/meshes/boat.glb").write_bytes(BOAT["boat.glb"])
    return sets


def deliver(call, run_jobs, **order):
    number = call("POST", "/deliveries", {"target": TARGET, **order})["number"]
    run_jobs()
    made = Delivery.objects.get(number=number)
    assert made.manifest is not None, made.job.message
    return made.folder


def files_below(root):
    return {
        path.relative_to(root).as_posix(): path.read_bytes()
        for path in sorted(root.rglob("*")) if path.is_file() and ".fair-texel" not in path.parts
    }  # fmt: skip


def edit(path: Path, **values):
    document = json.loads(path.read_text())
    path.write_text(json.dumps({**document, **values}))


def test_the_build_gives_byte_for_byte_what_the_studio_delivers(call, studio, run_jobs, furnished, folder, tmp_path):
    delivered = files_below(deliver(call, run_jobs, casts=None, models=None, grounds=None))
    export(studio, "ferry", folder)
    assert shortened(folder)
    out = tmp_path / "out"
    assert main(["build", str(folder), "--sources", str(tmp_path / "in"), "-o", str(out)]) == 0
    built = files_below(out)
    assert built.keys() == delivered.keys()
    assert [name for name in built if built[name] != delivered[name]] == []
    assert b"Seen and kept" in built["report.json"]
    assert b"This map is so" in built["report.json"]


def test_a_second_build_touches_what_changed_alone(studio, sets, folder, tmp_path, capsys):
    export(studio, "ferry", folder)
    build = ["build", str(folder), "--sources", str(tmp_path / "in"), "-o", str(tmp_path / "out"), "--json"]
    assert main(build) == 0
    first = json.loads(capsys.readouterr().out)
    edit(folder / "sets/reeds.json", metres=2.0, maps=json.loads((folder / "sets/reeds.json").read_text())["maps"][:-1])
    assert main(build) == 0
    second = json.loads(capsys.readouterr().out)
    assert first["untouched"] == 0
    assert second["untouched"] > len(second["written"])


def test_the_text_follows_its_schemas_and_is_read_again(studio, furnished, folder):
    export(studio, "ferry", folder)
    texts = read_folder(folder)
    assert {"project", "sets/Hull", "casts/Wet deck", "models/boat", "ground/Marsh"} < texts.keys()
    check_document(texts["sets/deck"], "project-set", "deck")
    assert texts["casts/Wet deck"]["parent"] == "Deck"
    assert status(studio, "ferry", folder) == []


def test_the_zip_file_holds_the_folder_that_the_command_line_writes(call, studio, furnished, folder, tmp_path):
    export(studio, "ferry", folder)
    answer = call.client.get("/api/projects/ferry/text/zip")
    assert 'filename="ferry-text.zip"' in answer["Content-Disposition"]
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        archive.extractall(tmp_path / "unpacked")

    def contents(root):
        return {path.relative_to(root).as_posix(): path.read_bytes() for path in root.rglob("*") if path.is_file()}

    assert contents(tmp_path / "unpacked/ferry-text") == contents(folder)


def shortened(folder):
    """Numbers as many JSON tools write them, the page's own reader among them: 2 for 2.0. How many files changed."""
    changed = 0
    for path in folder.rglob("*.json"):
        text = path.read_text()
        path.write_text(re.sub(r"(?<=[\s\[-])(\d+)\.0(?=[,\s\]])", r"\1", text))
        changed += path.read_text() != text
    return changed


def test_numbers_that_a_tool_wrote_shorter_change_nothing(studio, furnished, folder):
    export(studio, "ferry", folder)
    assert shortened(folder)
    assert status(studio, "ferry", folder) == []


def test_what_was_changed_in_the_folder_comes_into_the_studio_as_one_change(call, studio, furnished, folder):
    export(studio, "ferry", folder)
    edit(folder / "sets/reeds.json", metres=1.5, licence={"name": "CC0-1.0"})
    edit(folder / "casts/Wet_deck.json", changes={})
    told = import_(studio, "ferry", folder, {})
    assert told["applied"] == ["casts/Wet deck", "sets/reeds"]
    assert TextureSet.objects.get(name="reeds").metres == 1.5
    assert status(studio, "ferry", folder) == []
    call("POST", "/undo")
    assert TextureSet.objects.get(name="reeds").metres is None


def test_changes_of_both_sides_are_brought_together(call, studio, sets, folder):
    export(studio, "ferry", folder)
    edit(folder / "sets/reeds.json", metres=1.5)
    call("PUT", f"/sets/{sets['deck']}/metres", {"metres": 3.0})
    states = {one["key"]: one["state"] for one in status(studio, "ferry", folder)}
    assert states == {"sets/reeds": "changed here", "sets/deck": "changed in the studio"}
    import_(studio, "ferry", folder, {})
    assert json.loads((folder / "sets/deck.json").read_text())["metres"] == 3.0
    assert TextureSet.objects.get(name="reeds").metres == 1.5


def test_a_conflict_is_told_and_nothing_changes_until_somebody_says(call, studio, sets, folder):
    export(studio, "ferry", folder)
    edit(folder / "sets/deck.json", metres=1.5)
    edit(folder / "sets/reeds.json", metres=9.0)
    call("PUT", f"/sets/{sets['deck']}/metres", {"metres": 3.0})
    told = import_(studio, "ferry", folder, {})
    assert [(one["key"], [d["path"] for d in one["differences"]]) for one in told["conflicts"]] == [
        ("sets/deck", ["metres"])
    ]
    assert TextureSet.objects.get(name="reeds").metres is None, "nothing at all"
    assert import_(studio, "ferry", folder, {"sets/deck": "here"})["conflicts"] == []
    assert TextureSet.objects.get(name="deck").metres == 1.5


def test_an_export_does_not_write_over_what_was_not_imported(studio, sets, folder):
    export(studio, "ferry", folder)
    edit(folder / "sets/reeds.json", metres=1.5)
    with pytest.raises(StudioRefuses, match=r"sets/reeds.json"):
        export(studio, "ferry", folder)
    assert export(studio, "ferry", folder, replace=True) == ["sets/reeds.json"]


def test_maps_move_steps_change_and_sets_go_away_by_text(call, studio, furnished, folder):
    export(studio, "ferry", folder)
    reeds = json.loads((folder / "sets/reeds.json").read_text())
    taken = next(one for one in reeds["maps"] if one["role"] == "height")
    edit(folder / "sets/reeds.json", maps=[one for one in reeds["maps"] if one is not taken], name="rushes")
    (folder / "sets/Hull.json").unlink()
    (folder / "models/boat.json").unlink()
    edit(folder / "ground/Marsh.json", wears=[None])
    import_(studio, "ferry", folder, {})
    assert set(TextureSet.objects.values_list("name", flat=True)) == {"deck", "rushes"}
    assert not Placement.objects.filter(file__path=taken["file"], set__isnull=False).exists()
    waiting = Placement.objects.filter(set__isnull=True).values_list("file__path", flat=True)
    assert sum(path.startswith("Hull") for path in waiting) == 5


def test_casts_that_would_derive_from_each_other_are_refused(studio, furnished, folder):
    export(studio, "ferry", folder)
    edit(folder / "casts/Deck.json", parent="Wet deck")
    with pytest.raises(StudioRefuses, match="derives from too many casts, or from itself"):
        import_(studio, "ferry", folder, {})
    assert Cast.objects.get(name="Deck").parent is None


def test_slots_wear_regions_as_the_text_has_them_and_none_that_would_be_gone(call, studio, furnished, folder):
    plank = {"name": "plank", "left": 0.0, "top": 0.0, "width": 1.0, "height": 0.25}
    TextureSet.objects.filter(name="Hull").update(regions=[plank])
    mesh = Mesh.objects.get()
    worn = {"kind": "set", "id": furnished["Hull"], "region": "plank"}
    call("PATCH", f"/models/{mesh.pk}", {"wears": {next(iter(mesh.wears)): worn}})
    export(studio, "ferry", folder)
    edit(folder / "sets/Hull.json", regions=[{**plank, "height": 0.5}])
    import_(studio, "ferry", folder, {})
    mesh.refresh_from_db()
    assert [one["region"]["height"] for one in mesh.wears.values() if "region" in one] == [0.5]
    edit(folder / "sets/Hull.json", regions=[])
    with pytest.raises(StudioRefuses, match="wears plank"):
        import_(studio, "ferry", folder, {})


def test_a_folder_without_its_project_is_refused(studio, sets, folder):
    export(studio, "ferry", folder)
    (folder / "project.json").unlink()
    with pytest.raises(StudioRefuses, match=r"lacks project\.json"):
        import_(studio, "ferry", folder, {})


def test_a_set_that_was_renamed_in_the_text_stays_the_same_set(studio, sets, folder):
    export(studio, "ferry", folder)
    edit(folder / "sets/reeds.json", name="rushes")
    import_(studio, "ferry", folder, {})
    assert TextureSet.objects.get(name="rushes").pk == sets["reeds"]


def test_waivers_are_given_and_taken_back_by_text(studio, sets, folder):
    export(studio, "ferry", folder)
    hull = json.loads((folder / "sets/Hull.json").read_text())
    edit(folder / "sets/Hull.json", waivers=[{**hull["waivers"][0], "until": "2099-01-31"}])
    import_(studio, "ferry", folder, {})
    of_hull = Waiver.objects.filter(set__name="Hull", revoked=False)
    assert [one.until.isoformat() for one in of_hull] == ["2099-01-31"]
    edit(folder / "sets/Hull.json", waivers=[])
    import_(studio, "ferry", folder, {})
    assert not of_hull.all().exists()


def test_files_that_the_project_lacks_are_uploaded_from_the_sources(studio, sets, run_jobs, folder, tmp_path):
    studio.run_jobs = run_jobs
    export(studio, "ferry", folder)
    simple_set(tmp_path / "more", "rope", seed=40)
    data = (tmp_path / "more/rope_bc.png").read_bytes()
    new = {
        "format": "fair-texel/project-set", "version": 1, "name": "Rope",
        "maps": [{"role": "base_color", "file": "rope_bc.png", "digest": digest.of_bytes(data)}],
    }  # fmt: skip
    (folder / "sets/Rope.json").write_text(json.dumps(new))
    with pytest.raises(StudioRefuses, match=r"no file of this path and content: rope_bc\.png"):
        import_(studio, "ferry", folder, {})
    import_(studio, "ferry", folder, {}, [tmp_path / "more"])
    assert [one.file.path for one in TextureSet.objects.get(name="Rope").placements.all()] == ["rope_bc.png"]


def test_rules_need_the_right_to_set_them(sign_in, studio, sets, folder):
    export(studio, "ferry", folder)
    edit(folder / "project.json", approval=True)
    prepares = Here(sign_in("prepare", "bo"))
    with pytest.raises(StudioRefuses, match="needs the right to rules"):
        import_(prepares, "ferry", folder, {})
    export(studio, "ferry", folder, replace=True)
    edit(folder / "sets/Hull.json", waivers=[])
    with pytest.raises(StudioRefuses, match="needs the right to rules"):
        import_(prepares, "ferry", folder, {})
    edit(folder / "project.json", approval=True)
    import_(studio, "ferry", folder, {})
    assert Project.objects.get(slug="ferry").approval


def test_a_master_that_the_library_lacks_comes_with_a_keeper_alone(call, sign_in, studio, furnished, folder):
    export(studio, "ferry", folder)
    text = json.loads((folder / f"masters/{MASTERS[0]['name']}.json").read_text())
    text["number"], text["sheet"]["title"] = "7.0.0", "Another"
    (folder / f"masters/{MASTERS[0]['name']}.json").write_text(json.dumps(text))
    with pytest.raises(StudioRefuses, match="library keeper"):
        import_(Here(sign_in("rules", "bo")), "ferry", folder, {})
    import_(studio, "ferry", folder, {})
    assert "7.0.0" in [one.number for one in Master.objects.get(name=text["name"]).versions.all()]


def test_an_unapproved_set_is_left_out_by_both(call, studio, run_jobs, sets, folder, tmp_path):
    call("PUT", "/approval", {"wanted": True})
    ids = [sets["deck"], sets["reeds"]]
    for state in ("ready", "approved"):
        call("POST", "/reviews", {"sets": ids, "state": state})
    delivered = files_below(deliver(call, run_jobs))
    export(studio, "ferry", folder)
    build = ["build", str(folder), "--sources", str(tmp_path / "in"), "--sets-only", "-o"]
    assert main([*build, str(tmp_path / "out")]) == 1, "Hull is left out"
    assert files_below(tmp_path / "out") == delivered
    edit(folder / "sets/deck.json", metres=4.0)
    main([*build, str(tmp_path / "changed")])
    assert "it was changed after it was looked at" in (tmp_path / "changed/report.json").read_text()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("[]", "is not as it should be"),
        ('{"documents": {"sets/../../x.json": {}}}', "no place for a document"),
        ('{"documents": {"sets/a.json": {"name": "a", "maps": 3}}}', "not a project-set document"),
        ('{"documents": {"sets/a.json": {"name": "a"}, "sets/b.json": {"name": "a"}}}', "another file"),
    ],
)
def test_texts_that_make_no_sense_are_refused_in_words(call, studio, sets, text, words):
    with pytest.raises(StudioRefuses, match=words):
        studio.send("/projects/ferry/text", text.encode())
    assert TextureSet.objects.count() == 3
