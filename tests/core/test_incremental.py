"""Delivering again: only what changed is built, with the reason; the result is a full delivery's, byte for byte."""

import json
import os
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.test_cli import run
from tests.pictures import random_texels, save, simple_set
from texel import digest
from texel.delivery import builtin_targets, deliver_folder, folder, parse_target, plan_delivery
from texel.delivery.drift import Choice
from texel.delivery.files_there import OURS
from texel.delivery.incremental import deliver_incrementally
from texel.delivery.place import Drifted
from texel.errors import BadDocument, DeliveryRefused, Unwritable
from texel.library import Library
from texel.licences import Licence
from texel.roles import Role
from texel.schemas import check_document
from texel.sets import MapRef, TextureSet
from texel.sorting import sort_files

TARGET = builtin_targets()["orm-y-minus"]


def sets_of(source):
    library = Library.of_folder(source)
    return sort_files(library).sets, library


def again(source, out, target=TARGET, change=lambda sets: sets, every=None):
    sets, library = sets_of(source)
    return deliver_incrementally(
        lambda previous: plan_delivery(change(sets), library, parse_target(target), previous), library, out, every
    )


def full(source, out, target=TARGET, change=lambda sets: sets):
    shutil.rmtree(out, ignore_errors=True)
    sets, library = sets_of(source)
    deliver_folder(plan_delivery(change(sets), library, parse_target(target)), library, out)


def tree(root):
    files = [one for one in root.rglob("*") if one.is_file() and OURS not in one.parts]
    return {one.relative_to(root).as_posix(): one.read_bytes() for one in files}


def statuses(plan):
    return {one.path: (one.status, one.why) for one in plan.files if one.status != "unchanged"}


@pytest.fixture
def source(tmp_path):
    for seed, name in enumerate(("deck", "hull"), 3):
        simple_set(tmp_path / "in", name, seed=seed)
    return tmp_path / "in"


CHANGES = ("paint", "remove", "add", "recipe", "green", "size", "edit", "licence")


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.sampled_from(CHANGES), st.integers(0, 99)), min_size=1, max_size=5))
def test_an_incremental_delivery_equals_a_full_one_whatever_happened_before(tmp_path_factory, changes):
    root = tmp_path_factory.mktemp("sequence")
    source, out = root / "in", root / "out"
    for seed, name in enumerate(("deck", "hull"), 3):
        simple_set(source, name, seed=seed)
    target = json.loads(json.dumps(TARGET))
    recipes, licences = {}, {}

    def changed(sets):
        return [
            TextureSet(
                one.name,
                [
                    MapRef(m.role, m.file, m.channel, recipe=tuple(recipes.get((one.name, m.role), ())))
                    for m in one.maps
                ],
                licence=licences.get(one.name, Licence()),
            )
            for one in sets
        ]

    again(source, out, target, changed)
    for what, number in changes:
        name = ("deck", "hull")[number % 2]
        if what == "paint":
            save(source / f"{name}_r.png", random_texels("y", width=64, height=64, seed=number))
        elif what == "remove":
            (source / f"{name}_h.png").unlink(missing_ok=True)
        elif what == "add":
            simple_set(source, "pier", seed=number)
        elif what == "recipe":
            recipes[name, Role.ROUGHNESS] = [{"step": "invert"}] * (number % 3)
        elif what == "green":
            target["green"] = ("up", "down")[number % 2]
        elif what == "size":
            target["largest"] = (16, 32, 64)[number % 3]
        elif what == "licence":
            licences[name] = Licence("CC-BY-4.0", f"somebody {number}")
        elif what == "edit" and (out / f"{name}/{name}_orm.png").exists():
            (out / f"{name}/{name}_orm.png").write_bytes(b"edited by somebody")
        again(source, out, target, changed, Choice.OVERWRITE)
        full(source, root / "full", target, changed)
        assert tree(out) == tree(root / "full"), what


def test_only_what_changed_is_built(tmp_path, source, monkeypatch):
    again(source, tmp_path / "out")
    built = []
    build = folder.build_map
    monkeypatch.setattr(
        folder, "build_map", lambda planned, library: built.append(planned.path) or build(planned, library)
    )
    save(source / "deck_r.png", random_texels("y", width=64, height=64, seed=80))
    _, _, brought = again(source, tmp_path / "out")
    assert built == ["deck/deck_orm.png"]
    assert set(brought.written) == {"deck/deck_orm.png", "manifest.json", "checksums.b3", "report.json", "report.html"}


def test_sources_that_did_not_change_are_not_read_again(tmp_path, source, monkeypatch):
    for path in source.iterdir():
        os.utime(path, ns=(1, path.stat().st_mtime_ns - 5 * 10**9))  # older than file systems are vague about
    again(source, tmp_path / "out")
    save(source / "deck_r.png", random_texels("y", width=64, height=64, seed=83))
    read, of_file = [], digest.of_file
    monkeypatch.setattr("texel.library.digest.of_file", lambda path: read.append(path.name) or of_file(path))
    plan, *_ = again(source, tmp_path / "out")
    assert [name for name in read if (source / name).exists()] == ["deck_r.png"]
    assert statuses(plan) == {"deck/deck_orm.png": ("changed", ("source",))}
    (tmp_path / "out" / OURS / "sources.json").write_text("nonsense")
    again(source, tmp_path / "out")
    full(source, tmp_path / "full")
    assert tree(tmp_path / "out") == tree(tmp_path / "full")


def test_each_change_is_told_with_its_reason(tmp_path, source):
    again(source, tmp_path / "out")
    save(source / "deck_r.png", random_texels("y", width=64, height=64, seed=81))
    plan, *_ = again(source, tmp_path / "out")
    assert statuses(plan) == {"deck/deck_orm.png": ("changed", ("source",))}

    def inverted(sets):
        steps = ({"step": "invert"},)
        return [
            TextureSet(
                one.name,
                [MapRef(m.role, m.file, m.channel, recipe=steps if m.role is Role.HEIGHT else ()) for m in one.maps],
            )
            for one in sets
        ]

    plan, *_ = again(source, tmp_path / "out", change=inverted)
    assert statuses(plan) == {f"{name}/{name}_height.png": ("changed", ("recipe",)) for name in ("deck", "hull")}
    plan, *_ = again(source, tmp_path / "out", TARGET | {"largest": 32}, inverted)
    assert {why for _, why in statuses(plan).values()} == {("target",)}


def test_another_way_of_encoding_is_the_encoders_doing(tmp_path, source, monkeypatch):
    again(source, tmp_path / "out")
    monkeypatch.setattr("texel.delivery.planned.BUILD", 99)
    plan, *_ = again(source, tmp_path / "out")
    assert set(statuses(plan).values()) == {("changed", ("encoder",))}


def test_opacity_that_turns_soft_changes_the_material_that_draws_it(tmp_path, source):
    """glTF 2.0, alphaMode: the opacity's values are in the colour's file, the word for them in the material."""
    cut = np.zeros((64, 64), np.uint8)
    cut[:, 32:] = 255
    save(source / "deck_opacity.png", random_texels("y", width=64, height=64).with_pixels(cut[:, :, None]))
    target = builtin_targets()["gltf"]
    again(source, tmp_path / "out", target)
    assert json.loads((tmp_path / "out/deck/deck.gltf").read_text())["materials"][0]["alphaMode"] == "MASK"
    soft = np.tile(np.arange(64, dtype=np.uint8) * 4, (64, 1))
    save(source / "deck_opacity.png", random_texels("y", width=64, height=64).with_pixels(soft[:, :, None]))
    again(source, tmp_path / "out", target)
    assert json.loads((tmp_path / "out/deck/deck.gltf").read_text())["materials"][0]["alphaMode"] == "BLEND"


def test_drift_is_told_before_anything_is_built(tmp_path, source, monkeypatch):
    again(source, tmp_path / "out")
    (tmp_path / "out/hull/hull_color.png").write_bytes(b"retouched")
    before = tree(tmp_path / "out")
    save(source / "deck_r.png", random_texels("y", width=64, height=64, seed=82))
    monkeypatch.setattr(folder, "build_map", lambda *_: pytest.fail("built"))
    with pytest.raises(Drifted, match="hull_color"):
        again(source, tmp_path / "out")
    assert tree(tmp_path / "out") == before


def test_a_delivery_that_comes_to_nothing_leaves_no_folder(tmp_path, source, monkeypatch):
    monkeypatch.setattr(folder, "build_map", lambda *_: (_ for _ in ()).throw(Unwritable("no room for it")))
    with pytest.raises(DeliveryRefused, match="no room"):
        again(source, tmp_path / "out")
    assert not (tmp_path / "out").exists()


LIST = '{% for set in sets %}\n{{ set.name }} {{ set.licence or "nobody said" }}\n{% endfor %}'
SETTINGS = """{"set": {{ set.name | tojson }}, "maps": [
{% for one in files if one.kind == "map" %}
{{ one.path | tojson }}{{ "" if loop.last else "," }}
{% endfor %}
]}"""
SIDECARS = [
    {"name": "{set}/{set}.settings.json", "each": "set", "template": SETTINGS},
    {"name": "sets.txt", "each": "delivery", "template": LIST},
]


def test_templates_of_the_target_are_written_for_each_set_and_for_all(tmp_path, source):
    plan, document, _ = again(source, tmp_path / "out", TARGET | {"sidecars": SIDECARS})
    check_document(document, "manifest", "the manifest")
    settings = json.loads((tmp_path / "out/deck/deck.settings.json").read_text())
    assert settings["set"] == "deck"
    assert settings["maps"] == [one.path for one in plan.files if one.set == "deck" and one.kind == "map"]
    assert (tmp_path / "out/sets.txt").read_text() == "deck nobody said\nhull nobody said\n"


def test_a_template_that_changed_writes_its_file_anew_and_nothing_else(tmp_path, source):
    again(source, tmp_path / "out", TARGET | {"sidecars": SIDECARS})
    plan, *_ = again(source, tmp_path / "out", TARGET | {"sidecars": [SIDECARS[0], SIDECARS[1] | {"template": "none"}]})
    assert set(statuses(plan)) == {"sets.txt"}


@pytest.mark.parametrize(
    ("template", "reason"),
    [
        ("{{ ''.__class__.__mro__ }}", "unsafe|undefined|no attribute"),
        ("{% set x = 1 %}", "may not use set"),
        ("{% include '/etc/passwd' %}", "may not use include"),
        ("{% macro m() %}{{ m() }}{% endmacro %}", "may not use macro"),
        ("{{ lipsum() }}", "a call"),
        ("{{ files[0].path.upper() }}", "a call"),
        ("{{ 'a' * 1000000000 }}", r"may not use \*"),
        ("{{ '%1000000000d' % 1 }}", "may not use %"),
        ("{{ 'x' | center(1000000000) }}", "no filter center"),
        ("{% for a in files %}{% for b in files %}{% for c in files %}{% endfor %}{% endfor %}{% endfor %}", "2 deep"),
        ("{{ nothing.at_all }}", "undefined"),
        ("{% for one in files %}", "line 1"),
        (
            "{{ target.name" + " | replace('o', 'ooooooooooooooooooooooooooooooooooooooooo')" * 12 + " }}",
            "grows beyond",
        ),
    ],
)
def test_templates_reach_nothing_and_grow_without_end_nowhere(tmp_path, source, template, reason):
    side = [{"name": "all.txt", "each": "delivery", "template": template}]
    with pytest.raises((BadDocument, Unwritable, DeliveryRefused), match=reason):
        again(source, tmp_path / "out", TARGET | {"sidecars": side})


@pytest.mark.parametrize("name", ["../all.txt", "a/../b", ".hidden/all", "a//b", "manifest.json/x/.y"])
def test_sidecars_stay_in_the_delivery(name):
    with pytest.raises(BadDocument):
        parse_target(TARGET | {"sidecars": [{"name": name, "each": "delivery", "template": ""}]})


def test_files_that_every_delivery_has_are_not_written_over(tmp_path, source):
    side = {"name": "Report.html", "each": "delivery", "template": "mine"}
    with pytest.raises(BadDocument, match="every delivery has a file of this name"):
        parse_target(TARGET | {"sidecars": [side]})
    plan, *_ = again(source, tmp_path / "out", TARGET | {"sidecars": [side | {"name": "deck/deck_orm.png"}]})
    assert plan.problems == ("deck/deck_orm.png: deck writes a file of this name",)


def test_the_report_tells_of_each_file_and_loads_nothing_from_elsewhere(tmp_path, source):
    again(source, tmp_path / "out")
    report = json.loads((tmp_path / "out/report.json").read_text())
    check_document(report, "report", "the report")
    assert [one["name"] for one in report["sets"]] == ["deck", "hull"]
    assert report["bytes"] == sum(len(data) for path, data in tree(tmp_path / "out").items() if "/" in path)
    page = (tmp_path / "out/report.html").read_text()
    assert "deck_orm.png" in page
    assert "http" not in page
    assert "deck_r.png" in page


def test_the_checksums_are_those_of_the_files(tmp_path, source):
    again(source, tmp_path / "out")
    lines = (tmp_path / "out/checksums.b3").read_text().splitlines()
    tool = shutil.which("b3sum")
    if tool:
        subprocess.run([tool, "--check", "checksums.b3"], cwd=tmp_path / "out", check=True)
    import blake3

    assert {line.split("  ")[1]: line.split("  ")[0] for line in lines} == {
        path: blake3.blake3(data).hexdigest() for path, data in tree(tmp_path / "out").items() if "/" in path
    }


def test_the_command_line_plans_delivers_again_and_tells_drift(capsys, tmp_path, source):
    out = tmp_path / "out"
    words = [str(source), "--target", "orm-y-minus", "-o", str(out)]
    code, _, _ = run(capsys, "deliver", *words, "--incremental", "--json")
    assert code == 0
    code, told, _ = run(capsys, "plan", *words, "--json")
    assert (code, {one["status"] for one in json.loads(told)["files"]}) == (0, {"unchanged"})
    (out / "deck/deck_orm.png").write_bytes(b"edited")
    code, told, _ = run(capsys, "drift", str(out), "--json")
    assert (code, [one["kind"] for one in json.loads(told)["drift"]]) == (1, ["changed"])
    code, _, said = run(capsys, "deliver", *words, "--incremental")
    assert code == 2
    assert "deck_orm.png" in said
    code, told, _ = run(capsys, "deliver", *words, "--incremental", "--keep", "--json")
    assert json.loads(told)["kept"] == ["deck/deck_orm.png"]
    code, _, said = run(capsys, "drift", str(source))
    assert (code, "nothing was delivered" in said) == (2, True)


def test_sets_that_are_carried_stay_as_they_were_delivered(tmp_path, source):
    """What one delivers of two sets, one after the other, is what one delivers of both at once, but for their order."""
    target = TARGET | {"sidecars": SIDECARS}
    full(source, tmp_path / "both", target)
    sets, library = sets_of(source)
    previous = None
    for one in sets:
        plan = plan_delivery([one], library, parse_target(target), previous, carry={"deck", "hull"})
        plan, previous = deliver_folder(plan, library, tmp_path / "out", replace=True)
        assert plan.orphaned == ()
    assert {entry["path"]: entry for entry in previous["files"]} == {
        entry["path"]: entry for entry in json.loads((tmp_path / "both/manifest.json").read_text())["files"]
    } | {"sets.txt": next(entry for entry in previous["files"] if entry["path"] == "sets.txt")}
    assert sorted((tmp_path / "out/sets.txt").read_text().splitlines()) == ["deck nobody said", "hull nobody said"]
    assert [one["name"] for one in json.loads((tmp_path / "out/report.json").read_text())["sets"]] == ["hull", "deck"]


def test_a_set_that_writes_over_a_carried_one_is_left_out(tmp_path, source):
    _, previous, _ = again(source, tmp_path / "out")
    sets, library = sets_of(source)
    other = TextureSet("Deck", sets[0].maps)
    plan = plan_delivery([other, sets[1]], library, parse_target(TARGET), previous, carry={"deck"})
    assert "Deck: it would write deck/deck_color.png like deck" in plan.problems[0]
