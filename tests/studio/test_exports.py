"""Casts written in open formats by a worker, and masters read from files, through the API."""

import io
import json
import zipfile

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from demo.materials import MASTERS
from tests.pictures import simple_set
from texel.materials import parse_master
from texel.materials.exchange import CastOf, materialx_of, read_gltf, read_materialx

SOLID = MASTERS[0]


@pytest.fixture
def deck(take_in, tmp_path, library, call):
    """Two casts of one master, filled from a set."""
    simple_set(tmp_path / "in", "deck")
    take_in(tmp_path / "in")
    library("POST", "/masters", SOLID)
    library("POST", "/masters/plain-solid/publish", {})
    one = call("POST", "/materials", {"name": "Deck & Hull", "master": "plain-solid"})
    number = next(one["id"] for one in call("GET", "/sets")["sets"] if one["name"] == "deck")
    call("POST", f"/materials/{one['id']}/fill", {"set": number})
    other = call("POST", "/materials", {"name": "Worn deck", "parent": one["id"]})
    call("PATCH", f"/materials/{other['id']}", {"changes": {"relief": 2}})
    return [one["id"], other["id"]]


def written(call, run_jobs, **order):
    """The order's row in the list of exports, and its bytes."""
    job = call("POST", "/materials/exports", {"side": 32, **order})["id"]
    assert call("GET", f"/materials/exports/{job}/file", status=404)
    run_jobs()
    row = next(one for one in call("GET", "/materials/exports") if one["id"] == job)
    assert (row["state"], row["by"]) == ("done", "ada"), row["message"]
    answer = call.client.get(f"/api/projects/ferry/materials/exports/{job}/file")
    assert row["size"] == len(answer.content)
    assert row["file"] in answer["Content-Disposition"]
    return row, answer.content


def test_casts_are_written_with_their_maps_and_what_they_inherit(call, run_jobs, deck):
    row, data = written(call, run_jobs, casts=deck, format="mtlx")
    archive = zipfile.ZipFile(io.BytesIO(data))
    (found,) = read_materialx(archive.read("plain-solid.mtlx").decode())
    assert [cast.name for cast in found.casts] == ["Deck & Hull", "Worn deck"]
    assert found.casts[1].changes == {"relief": (2.0,)}
    assert set(found.casts[0].files.values()) | set(found.casts[1].files.values()) <= set(archive.namelist())
    assert len(found.casts[1].files) == 3, "the derived cast has its parent's maps"
    row, data = written(call, run_jobs, casts=deck, format="glb")
    assert [one.document["title"] for one in read_gltf(data)] == ["Deck & Hull", "Worn deck"]
    assert row["baked"] == {"Deck & Hull": ["base_color"], "Worn deck": ["base_color"]}
    row, data = written(call, run_jobs, casts=deck[:1], format="glsl")
    archive = zipfile.ZipFile(io.BytesIO(data))
    assert {"plain-solid.glsl", "plain-solid_deck_hull.json", "maps/deck_hull_colour.png"} <= set(archive.namelist())


def test_maps_are_baked_packed_as_a_layout_wants_them(call, run_jobs, deck):
    order = {
        "casts": deck[:1],
        "format": "maps",
        "bits": 16,
        "green": "down",
        "layouts": ["occlusion-roughness-metallic"],
    }
    _, data = written(call, run_jobs, **order)
    archive = zipfile.ZipFile(io.BytesIO(data))
    names = {"base_color", "normal", "occlusion-roughness-metallic"}
    assert set(archive.namelist()) == {f"deck_hull_{name}.png" for name in names}
    picture = Image.open(io.BytesIO(archive.read("deck_hull_occlusion-roughness-metallic.png")))
    assert picture.size == (32, 32)
    assert np.asarray(picture).shape[2] == 3


def test_orders_that_cannot_be_carried_out_are_refused_at_once(call, run_jobs, deck, sign_in):
    for wrong, status in (
        ({"casts": []}, 409), ({"casts": [999999]}, 409), ({"format": "obj"}, 422), ({"side": 0}, 422),
        ({"side": 10**6}, 422), ({"layouts": ["nonsense!"]}, 422), ({"bits": 12}, 422),
    ):  # fmt: skip
        call("POST", "/materials/exports", {"casts": deck, "format": "maps", **wrong}, status=status)
    assert call("GET", "/materials/exports") == []
    sign_in(None, "eve")("GET", "/materials/exports", status=404)
    looker = sign_in("look", "leo")
    assert looker("GET", "/materials/exports") == []
    looker("POST", "/materials/exports", {"casts": deck, "format": "json"}, status=403)


def test_a_file_becomes_a_master_and_says_what_it_lost(deck, library, sign_in):
    text = materialx_of(parse_master(SOLID), [CastOf("Old", {}, {"colour": "old_color.png"})])

    def upload(name, body, status=200, who=library):
        answer = who.client.post("/api/masters/import", {"file": SimpleUploadedFile(name, body)})
        assert answer.status_code == status, answer.content
        return answer.json()

    (found,) = upload("solid.mtlx", text.encode())
    assert found["lost"] == []
    assert found["casts"] == [{"name": "Old", "changes": {}, "files": {"colour": "old_color.png"}}]
    assert found["document"]["name"] == "plain-solid-2", "the library has the other already"
    made = library("POST", "/masters", found["document"])
    assert made["document"]["inputs"].keys() == SOLID["inputs"].keys()
    gltf = {
        "asset": {"version": "2.0"},
        "materials": [{"name": "Tin", "extensions": {"KHR_materials_iridescence": {"iridescenceFactor": 1}}}],
    }
    twice = {"asset": {"version": "2.0"}, "materials": [{"name": "Tin"}, {"name": "Tin"}]}
    (found,) = upload("twins.gltf", json.dumps(twice).encode())
    assert [one["name"] for one in found["casts"]] == ["Tin", "Tin"]
    (found,) = upload("tin.gltf", json.dumps(gltf).encode())
    assert found["lost"] == ["KHR_materials_iridescence: the sheet's surface has nothing like it"]
    assert "no glTF" in upload("tin.glb", b"glTF", 422)["detail"]
    assert "read from" in upload("tin.png", b"x", 422)["detail"]
    assert upload("solid.mtlx", text.encode(), 403, sign_in("prepare", "pat"))


def test_materials_of_a_file_are_cast_in_a_project_with_the_maps_that_it_has(call, library, take_in, tmp_path, sign_in):
    simple_set(tmp_path / "in", "deck")
    take_in(tmp_path / "in")
    base = {"baseColorTexture": {"index": 0}, "metallicFactor": 0}
    materials = [
        {"name": "Pier, wet", "pbrMetallicRoughness": base | {"roughnessFactor": 0.2}},
        {
            "name": "Pier, dry",
            "pbrMetallicRoughness": base | {"roughnessFactor": 0.8, "baseColorTexture": {"index": 1}},
        },
    ]
    gltf = {
        "asset": {"version": "2.0"}, "materials": materials, "textures": [{"source": 0}, {"source": 1}],
        "images": [{"uri": "textures/DECK_bc.png"}, {"uri": "gone_bc.png"}],
    }  # fmt: skip
    answer = library.client.post(
        "/api/masters/import", {"file": SimpleUploadedFile("pier.gltf", json.dumps(gltf).encode())}
    )
    (found,) = answer.json()
    order = {"document": found["document"], "casts": found["casts"]}
    sign_in("prepare", "pat")("POST", "/materials/import", order, status=403)
    wrong = [{"name": "x", "changes": {"nothing": 1}}]
    call("POST", "/materials/import", {**order, "casts": wrong}, status=422)
    assert library("GET", "/masters") == []
    made = call("POST", "/materials/import", order)
    assert made["unfilled"] == [{"cast": "Pier, dry", "slot": "base_colour", "file": "gone_bc.png"}]
    wet, dry = (call("GET", f"/materials/{one['id']}") for one in made["casts"])
    assert (wet["values"]["roughness"], dry["values"]["roughness"]) == ([0.2], [0.8])
    assert [(one["slot"], one["set_name"]) for one in wet["fills"]] == [("base_colour", "deck")]
    call("POST", "/materials/import", order, status=409)
    assert call("POST", "/undo")["label"] == "Read Pier"
    assert call("GET", "/materials")["casts"] == []
    assert [one["newest"] for one in library("GET", "/masters")] == ["1.0.0"]
