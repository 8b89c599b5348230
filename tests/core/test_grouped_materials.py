"""Materials of one document that are built alike become casts of one master, and look as they did."""

import json

import numpy as np
import pytest

from texel.materials import evaluate, parse_master
from texel.materials.exchange import CastOf, materialx_of, read_gltf, read_material_bytes
from texel.materials.versions import sample_maps


def _random_gltf(seed: int) -> bytes:
    """A dozen materials of a few builds with any factors, those that are 1 left out as writers do."""
    rng = np.random.default_rng(seed)

    def number(high: float = 1.0) -> float:
        return float(rng.choice([0.0, 0.25, 1.0, round(rng.random() * high, 3)]))

    materials = []
    for at in range(12):
        mapped = at % 3
        base = {"baseColorFactor": [number(), number(), number(), 1], "roughnessFactor": number()}
        one = {"name": f"Quay {at}", "pbrMetallicRoughness": base, "emissiveFactor": [number(), 0, number()]}
        if mapped:
            base["baseColorTexture"] = {"index": at % 2}
            one["normalTexture"] = {"index": 1, "scale": number(2)}
        if mapped == 2:
            base["metallicRoughnessTexture"] = {"index": 0}
            one["occlusionTexture"] = {"index": 0, "strength": number()}
        if rng.random() < 0.3:
            one["extensions"] = {"KHR_materials_emissive_strength": {"emissiveStrength": 1 + 9 * number()}}
        materials.append(one)
    images = [{"uri": f"{name}.png"} for name in "ab"]
    textures = [{"source": 0}, {"source": 1}]
    document = {"asset": {"version": "2.0"}, "images": images, "textures": textures, "materials": materials}
    return json.dumps(document).encode()


def _looks(document, changes):
    master = parse_master(document)
    return dict(evaluate(master, sample_maps(master), changes, 32, 32))


@pytest.mark.parametrize("seed", range(8))
def test_a_cast_of_the_group_looks_as_its_material_did(seed):
    data = _random_gltf(seed)
    alone = {one.document["title"]: one for one in read_gltf(data)}
    together = read_material_bytes(data, "quay.gltf")
    casts = [(one, cast) for one in together for cast in one.casts]
    assert len(together) < len(alone) == len(casts)
    for one, cast in casts:
        before = alone[cast.name]
        assert cast.files == before.casts[0].files
        was, now = _looks(before.document, {}), _looks(one.document, cast.changes)
        for name, value in was.items():
            np.testing.assert_allclose(np.broadcast_to(now[name], value.shape), value, atol=1e-6, err_msg=name)


def test_groups_are_named_by_what_their_casts_have_in_common_and_say_what_each_lost():
    sampler = {"samplers": [{"wrapT": 33071}], "textures": [{"source": 0, "sampler": 0}, {"source": 0}]}
    materials = [
        {"name": f"Wet pier {word}", "pbrMetallicRoughness": {"baseColorTexture": {"index": at}}}
        for at, word in enumerate(("new", "old"))
    ]
    document = {"asset": {"version": "2.0"}, "images": [{"uri": "a.png"}], "materials": materials, **sampler}
    (found,) = read_material_bytes(json.dumps(document).encode(), "props.gltf")
    assert (found.document["title"], found.document["name"]) == ("Wet pier", "wet-pier")
    assert found.document.get("parameters") == []
    assert found.lost == ("Wet pier new: Base colour: beyond its edge its texture goes on as across, downwards too",)


def test_masters_of_our_own_are_never_joined():
    documents = [
        {"format": "fair-texel/master", "version": 1, "name": name, "title": name, "inputs": {"roughness": value}}
        for name, value in (("one", "0.2"), ("two", "0.4"))
    ]
    bodies = [materialx_of(parse_master(document), [CastOf("A")]) for document in documents]
    inner = bodies[1].split("<materialx", 1)[1].split(">", 1)[1].rsplit("</materialx>", 1)[0]
    whole = bodies[0].replace("</materialx>", inner + "</materialx>")
    assert len(read_material_bytes(whole.encode(), "two.mtlx")) == 2


def test_materials_that_differ_in_what_their_nodes_are_called_are_casts_of_one():
    def one(name: str, colour: str) -> str:
        return (
            f'<image name="{name}_image" type="color3"><input name="file" type="filename" value="{name}.png" /></image>'
            f'<multiply name="{name}_tinted" type="color3"><input name="in1" type="color3" nodename="{name}_image" />'
            f'<input name="in2" type="color3" value="{colour}" /></multiply>'
            f'<standard_surface name="{name}_s" type="surfaceshader">'
            f'<input name="base_color" type="color3" nodename="{name}_tinted" /></standard_surface>'
            f'<surfacematerial name="{name}" type="material"><input name="surfaceshader" type="surfaceshader"'
            f' nodename="{name}_s" /></surfacematerial>'
        )

    both = one("deck", "1, 0.5, 0") + one("hull", "0, 0.5, 1")
    text = f'<?xml version="1.0"?><materialx version="1.39">{both}</materialx>'
    (found,) = read_material_bytes(text.encode(), "boat.mtlx")
    assert [cast.files for cast in found.casts] == [{"deck_image": "deck.png"}, {"deck_image": "hull.png"}]
    assert list(found.casts[1].changes.values()) == [(0.0, 0.5, 1.0)]
    assert parse_master(found.document)
