"""Materials that others wrote: one by one, under names that fit, cut into rows where they are long."""

import json

import pytest

from texel.errors import BadDocument
from texel.materials import evaluate, parse_master
from texel.materials.exchange import read_gltf, read_materialx
from texel.materials.exchange.imported import SheetBuilder, free_name
from texel.materials.expression import MAX_CHARACTERS, parse_expression
from texel.materials.simplify import simplified
from texel.materials.tree import Call, Constant, Name, Swizzle, call


def materialx(*surfaces: str, around: str = "") -> str:
    materials = "".join(
        f'<surfacematerial name="m{at}" type="material"><input name="surfaceshader" type="surfaceshader"'
        f' nodename="s{at}" /></surfacematerial>'
        for at in range(len(surfaces))
    )
    return f'<?xml version="1.0"?><materialx version="1.39">{around}{"".join(surfaces)}{materials}</materialx>'


def plain(at: int, roughness: float) -> str:
    given = f'<input name="specular_roughness" type="float" value="{roughness}" />'
    return f'<standard_surface name="s{at}" type="surfaceshader">{given}</standard_surface>'


def odd(at: int) -> str:
    return f'<surface name="s{at}" type="surfaceshader" />'


def test_a_material_that_is_refused_leaves_the_others():
    first, last = read_materialx(materialx(plain(0, 0.25), odd(1), plain(2, 0.75)))
    assert [first.document["title"], last.document["title"]] == ["m0", "m2"]
    assert [one[:14] for one in first.lost] == ["Left out: m1: "]
    assert last.lost == ()


def test_when_all_are_refused_each_is_named():
    with pytest.raises(BadDocument, match=r"m0.*m1"):
        read_materialx(materialx(odd(0), odd(1)))


def test_a_broken_gltf_material_leaves_the_others():
    broken = {"name": "torn", "pbrMetallicRoughness": {"baseColorTexture": {"index": 7}}}
    document = {"asset": {"version": "2.0"}, "materials": [{"name": "whole"}, broken, 5]}
    (found,) = read_gltf(json.dumps(document).encode())
    assert found.document["title"] == "whole"
    assert [one.split(":")[1].strip() for one in found.lost] == ["torn", "material 3"]


def test_what_a_foreign_texture_or_material_says_besides_is_told():
    document = {
        "asset": {"version": "2.0"}, "images": [{"uri": "a.png"}], "samplers": [{"magFilter": 9728, "wrapS": 33071}],
        "textures": [{"source": 0, "sampler": 0}],
        "materials": [{"doubleSided": True, "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
    }  # fmt: skip
    (found,) = read_gltf(json.dumps(document).encode())
    for word in ("doubleSided", "goes on as across"):
        assert any(word in one for one in found.lost), word
    assert (found.document["slots"][0]["wrap"], found.document["slots"][0]["filter"]) == ("clamp", "nearest")


def test_what_a_materialx_image_or_material_says_besides_is_told():
    image = (
        '<image name="n" type="color3"><input name="file" type="filename" value="a.png" />'
        '<input name="filtertype" type="string" value="closest" /><input name="layer" type="string" value="dirt" />'
        "</image>"
    )
    surface = '<standard_surface name="s0" type="surfaceshader"><input name="base_color" type="color3" nodename="n" />'
    text = materialx(surface + "</standard_surface>", around=image).replace(
        "</surfacematerial>", '<input name="backsurfaceshader" type="surfaceshader" nodename="s0" /></surfacematerial>'
    )
    (found,) = read_materialx(text)
    for word in ("layer dirt", "backsurfaceshader is not read"):
        assert any(word in one for one in found.lost), word
    assert found.document["slots"][0]["filter"] == "nearest"


@pytest.mark.parametrize("count", [2, 10, 100])
def test_names_fit_with_their_number(count):
    taken: set[str] = set()
    for _ in range(count):
        taken.add(free_name("A very long name that a library gives to each of its maps", taken))
    assert len(taken) == count
    assert max(map(len, taken)) == 40
    (row,) = [one for one in taken if one.endswith(f"_{count}")]
    parse_master(
        {
            "format": "fair-texel/master", "version": 1, "name": "long", "inputs": {"roughness": row},
            "rows": [{"name": name, "expression": "0.5"} for name in sorted(taken)],
        }
    )  # fmt: skip


def a_sum(count: int):
    """Of so many numbers that each is another, as deep as there are."""
    tree = Swizzle(Name("uv"), "r")
    for at in range(count):
        tree = call("add", call("multiply", tree, Constant(0.5 + at / 1000)), Constant(at / 7919))
    return tree


@pytest.mark.parametrize("count", [20, 60, 115])
def test_long_expressions_become_rows_that_mean_the_same(count):
    builder = SheetBuilder("long", "Long")
    builder.set_input("roughness", a_sum(count))
    found = builder.done()
    master = parse_master(found.document)
    assert all(len(row["expression"]) <= MAX_CHARACTERS for row in found.document.get("rows", ()))
    x, wanted = 0.5, 0.5
    for at in range(count):
        wanted = wanted * (0.5 + at / 1000) + at / 7919
    assert evaluate(master, {}, {}, 1, 1)["roughness"][0, 0, 0] == pytest.approx(wanted, rel=1e-5), x


def test_rows_deeper_than_can_be_followed_are_refused_with_the_row():
    rows = [{"name": f"row_{at}", "expression": f"row_{at - 1} * 2 + 1" if at else "uv.r"} for at in range(100)]
    document = {"format": "fair-texel/master", "version": 1, "name": "deep", "inputs": {"roughness": "row_99"}}
    with pytest.raises(BadDocument, match=r"the row row_\d+ is 24\d operations deep"):
        parse_master(document | {"rows": rows})
    assert parse_master(document | {"rows": rows[:79], "inputs": {"roughness": "row_78"}})


def test_a_sheet_of_more_rows_than_it_may_have_is_refused_by_name():
    builder = SheetBuilder("wide", "Wide")
    builder.rows = {f"row_{at}": parse_expression("uv.r * 2") for at in range(201)}
    builder.set_input("roughness", Name("row_0"))
    with pytest.raises(BadDocument, match="Wide: it takes 201 rows"):
        builder.done()


def test_channels_of_one_number_are_the_number():
    builder = SheetBuilder("flat", "Flat")
    builder.parameters["wear"] = {"name": "wear", "kind": "number", "title": "Wear", "default": 0.25}
    builder.rows["twice"] = call("multiply", Name("wear"), Constant(2.0))
    builder.set_input("roughness", Swizzle(Name("twice"), "g"))
    builder.set_input("base_color", Swizzle(Call("absolute", (Name("wear"),)), "bgr"))
    document = builder.done().document
    assert document["inputs"]["roughness"] == "twice"
    made = evaluate(parse_master(document), {}, {}, 1, 1)
    assert made["base_color"][0, 0].tolist() == [0.25, 0.25, 0.25]


def test_channels_of_one_channel_are_that_channel():
    assert simplified(Swizzle(Swizzle(Name("map"), "g"), "bb")) == Swizzle(Name("map"), "gg")


def test_a_surface_of_an_unknown_kind_is_read_by_the_names_of_its_inputs():
    given = (
        '<input name="Color" type="color3" value="0.5, 0.25, 0.125" /><input name="metalness" type="float" value="1" />'
        '<input name="density" type="float" value="2.7" /><input name="tags" type="string" value="mirror" />'
    )
    (found,) = read_materialx(materialx(f'<lab_surface name="s0" type="surfaceshader">{given}</lab_surface>'))
    assert found.document["inputs"]["base_color"] == "rgb(0.5, 0.25, 0.125)"
    assert found.document["inputs"]["metallic"] == "1"
    for word in ("lab_surface: a kind of surface that is not known", "density", "tags"):
        assert any(one.startswith(word) for one in found.lost), word
