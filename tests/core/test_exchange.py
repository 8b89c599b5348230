"""Masters and casts in open formats and back, and what is refused or told to be lost."""

import json

import pytest

from demo.materials import MASTERS
from tests.sheets import random_master
from texel.cli import main
from texel.errors import BadDocument
from texel.materials import parse_master
from texel.materials.exchange import CastOf, materialx_of, read_materialx
from texel.materials.exchange.mtlx_affine import Unplaced, placement_of
from texel.materials.expression import parse_expression, text_of
from texel.materials.sampling import coordinates_of
from texel.materials.simplify import simplified


@pytest.mark.parametrize("seed", range(60))
def test_own_materialx_is_read_back_as_the_same_sheet(seed):
    master = random_master(seed, 33 * (seed % 3), (1 + seed / 7, 0.1))
    changes = {"amount": (0.123456789,), "way": (2.0,), "shade": (0.1, 0.2, 0.3), "worn": (0.0,)}
    casts = [CastOf("Plain"), CastOf("Moss & 7", changes, {"lie": "moss height.png"})]
    (found,) = read_materialx(materialx_of(master, casts))
    assert parse_master(found.document) == master
    assert list(found.casts) == casts
    assert found.lost == ()


@pytest.mark.parametrize("document", MASTERS, ids=lambda one: one["name"])
def test_masters_of_the_demo_come_back_with_ranges_help_and_layers(document):
    master = parse_master(document)
    (found,) = read_materialx(materialx_of(master))
    assert parse_master(found.document) == master
    assert ("layers" in found.document) == ("layers" in document)


def test_layers_that_no_longer_make_the_sheet_are_read_as_rows():
    layered = next(one for one in MASTERS if "layers" in one)
    quote = "&quot;metallic&quot;: &quot;"
    (found,) = read_materialx(materialx_of(parse_master(layered)).replace(quote, f"{quote}0 * ", 1))
    assert "layers" not in found.document
    assert "read as rows" in found.lost[0]


def _material(body: str, around: str = "") -> str:
    return (
        f'<?xml version="1.0"?><materialx version="1.39" colorspace="lin_rec709">{around}'
        f'<standard_surface name="s" type="surfaceshader">{body}</standard_surface>'
        '<surfacematerial name="m" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s" />'
        "</surfacematerial></materialx>"
    )


def test_what_a_sheet_cannot_say_is_listed_and_a_parameter_stands_for_it():
    noise = '<noise2d name="dirt" type="float"><input name="amplitude" type="float" value="2" /></noise2d>'
    body = (
        '<input name="specular_roughness" type="float" nodename="dirt" />'
        '<input name="transmission" type="float" value="0.5" />'
        '<input name="base_color" type="color3" value="0.5, 0.25, 0.125" colorspace="srgb_texture" />'
    )
    (found,) = read_materialx(_material(body, noise))
    assert found.document["inputs"]["roughness"] == "dirt"
    # 0.5 in sRGB is 0.2140 of linear light (IEC 61966-2-1).
    assert found.document["inputs"]["base_color"].startswith("rgb(0.2140")
    assert len(found.lost) == 2
    assert any("noise2d" in one for one in found.lost)
    assert any("transmission" in one for one in found.lost)


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("no xml", "not MaterialX"),
        ("<materialx version='1.39'><nodegraph name='a'>", "not MaterialX"),
        ("<!DOCTYPE x [<!ENTITY e SYSTEM 'file:///x'>]><materialx version='1.39'>&e;</materialx>", "entities"),
        ("<materialx version='1.39'><constant name='a' type='float'/></materialx>", "no material"),
        (
            _material(
                '<input name="base" type="float" nodename="a" />',
                '<dot name="a" type="float"><input name="in" type="float" nodename="b" /></dot>'
                '<dot name="b" type="float"><input name="in" type="float" nodename="a" /></dot>',
            ),
            "circle",
        ),
        (
            _material(
                '<input name="base" type="float" nodename="n0" />',
                "".join(
                    f'<sin name="n{at}" type="float"><input name="in" type="float" nodename="n{at + 1}" /></sin>'
                    for at in range(3000)
                )
                + '<time name="n3000" type="float" />',
            ),
            "deeper",
        ),
    ],
)  # fmt: skip
def test_documents_that_cannot_be_read_are_refused_with_the_reason(text, reason):
    with pytest.raises(BadDocument, match=reason):
        read_materialx(text, "x.mtlx")


def test_nothing_outside_the_document_is_read(tmp_path):
    (tmp_path / "other.mtlx").write_text(_material(""))
    other = f'xmlns:xi="http://www.w3.org/2001/XInclude" href="{tmp_path}/other.mtlx"'
    outside = f'<constant name="a" type="float" /><xi:include {other} />'
    with pytest.raises(BadDocument, match="no material"):
        read_materialx(f'<materialx version="1.39">{outside}</materialx>')


@pytest.mark.parametrize(
    ("tiling", "offset", "degrees"), [((2, 3), (0.25, -0.5), 30), ((1, -1), (0, 1), 0), ((0.5, 0.5), (0, 0), -120)]
)
def test_coordinates_are_recognised_from_what_they_do(tiling, offset, degrees):
    import numpy as np

    def wanted(u, v):
        return coordinates_of(np.array([u, v], np.float32), tiling, offset, degrees)

    origin, along, across = wanted(0, 0), wanted(1, 0) - wanted(0, 0), wanted(0, 1) - wanted(0, 0)
    rows = [f"{o} + uv.r * ({a}) + uv.g * ({b})" for o, a, b in zip(origin, along, across, strict=True)]
    found = placement_of(parse_expression(f"vector({rows[0]}, 1 - ({rows[1]}))"), {})
    for one, other in zip(found, (tiling, offset, degrees), strict=True):
        np.testing.assert_allclose(one, other, atol=1e-4)
    for bent, reason in (("vector(uv.r * uv.r, uv.g)", "bent"), ("vector(uv.r + uv.g, uv.g)", "sheared")):
        with pytest.raises(Unplaced, match=reason):
            placement_of(parse_expression(bent), {})


@pytest.mark.parametrize(
    ("text", "short"),
    [
        ("(2 + 3) * lie", "5 * lie"), ("lie * 1 + 0", "lie"), ("rgb(a.r, a.g, a.b)", "a.rgb"),
        ("rgb(0.5, 0.5, 0.5)", "0.5"), ("vector(a.r, b.g).g", "b.g"), ("mix(a, b, 1)", "b"), ("a.rgb.b", "a.b"),
    ],
)  # fmt: skip
def test_trees_get_shorter_and_mean_the_same(text, short):
    def deep(node):
        from texel.materials.tree import Call, Swizzle

        if isinstance(node, Swizzle):
            return simplified(Swizzle(deep(node.of), node.letters))
        return simplified(Call(node.operation, tuple(map(deep, node.arguments)))) if isinstance(node, Call) else node

    assert text_of(deep(parse_expression(text))) == short


def test_the_command_line_exports_with_casts_and_imports(tmp_path, capsys):
    master = tmp_path / "lamp.json"
    document = next(one for one in MASTERS if one["name"] == "plain-solid")
    master.write_text(json.dumps(document))
    cast = tmp_path / "rust.json"
    cast.write_text(json.dumps({"format": "fair-texel/cast", "version": 1, "name": "Rust", "changes": {"relief": 2},
                                "slots": {"colour": {"file": "rust_color.png"}}}))  # fmt: skip
    out = tmp_path / "lamp.mtlx"
    assert main(["material", "export", str(master), "--cast", str(cast), "-o", str(out)]) == 0
    assert main(["material", "import", str(out), "-o", str(tmp_path / "back"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out.split("written\n")[-1])
    (one,) = told["materials"]
    assert one["lost"] == []
    assert json.loads((tmp_path / "back/plain-solid.json").read_text())["title"] == document["title"]
    back = json.loads((tmp_path / "back/plain-solid_cast_1.json").read_text())
    assert back["changes"] == {"relief": 2}
    assert back["slots"] == {"colour": {"file": "rust_color.png"}}
    (tmp_path / "bad.mtlx").write_bytes(b"\xff\xfe")
    assert main(["material", "import", str(tmp_path / "bad.mtlx"), "-o", str(tmp_path / "x")]) != 0
    assert "UTF-8" in capsys.readouterr().err
    assert not (tmp_path / "x").exists()
