"""Masters and casts in open formats and back, and what is refused or told to be lost."""

import json
from pathlib import Path

import MaterialX as mx
import numpy as np
import pytest

from demo.materials import MASTERS
from tests.sheets import random_master
from texel.cli import main
from texel.colour import srgb_to_unit_linear
from texel.derive.specular import metallic_and_colour
from texel.errors import BadDocument
from texel.files import read, write
from texel.image import Texels
from texel.materials import evaluate, parse_master
from texel.materials.exchange import CastOf, FilledCast, export, glb_of, materialx_of, read_gltf, read_materialx
from texel.materials.exchange.mtlx_affine import Unplaced, placement_of
from texel.materials.expression import parse_expression, text_of
from texel.materials.sampling import coordinates_of
from texel.materials.simplify import simplified
from texel.materials.tree import Call, Swizzle
from texel.materials.versions import sample_maps
from texel.roles import Role, Transfer


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
        '<input name="thin_film_thickness" type="float" value="500" />'
        '<input name="base_color" type="color3" value="0.5, 0.25, 0.125" colorspace="srgb_texture" />'
    )
    (found,) = read_materialx(_material(body, noise))
    assert found.document["inputs"]["roughness"] == "dirt"
    # 0.5 in sRGB is 0.2140 of linear light (IEC 61966-2-1).
    assert found.document["inputs"]["base_color"].startswith("rgb(0.2140")
    assert len(found.lost) == 2
    assert any("noise2d" in one for one in found.lost)
    assert any("thin_film_thickness" in one for one in found.lost)


def test_ranges_and_colour_spaces_that_make_no_sense_are_told():
    body = (
        '<input name="specular_roughness" type="float" value="2" uimin="0" uimax="1" />'
        '<input name="base_color" type="color3" value="1, 0, 0" colorspace="moonlight" />'
    )
    (found,) = read_materialx(_material(body))
    assert any("outside its range" in one for one in found.lost)
    assert any("no colour space moonlight" in one for one in found.lost)


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


def test_circles_and_endless_growth_through_definitions_are_refused():
    through = (
        '<nodegraph name="g"><input name="x" type="float" nodename="m" /><sin name="n" type="float">'
        '<input name="in" type="float" interfacename="x" /></sin><output name="out" type="float" nodename="n" />'
        '</nodegraph><sin name="m" type="float"><input name="in" type="float" nodegraph="g" output="out" /></sin>'
    )
    with pytest.raises(BadDocument, match="circle"):
        read_materialx(_material('<input name="base" type="float" nodename="m" />', through))
    base = '<input name="base" type="float" nodename="m" />'
    growing = "".join(
        f'<nodedef name="ND_{at}" node="n{at}"><output name="out" type="float" /></nodedef>'
        f'<nodegraph name="NG_{at}" nodedef="ND_{at}"><n{at + 1} name="a" type="float" />'
        f'<n{at + 1} name="b" type="float" /><add name="c" type="float">'
        '<input name="in1" type="float" nodename="a" /><input name="in2" type="float" nodename="b" /></add>'
        '<output name="out" type="float" nodename="c" /></nodegraph>'
        for at in range(30)
    )
    with pytest.raises(BadDocument, match="more than"):
        read_materialx(_material(base, f'{growing}<n0 name="m" type="float" />'))
    inherit = "".join(
        f'<nodedef name="ND_{one}" node="aa" inherit="ND_{other}"><output name="out" type="float" /></nodedef>'
        for one, other in ("ab", "ba")
    )
    with pytest.raises(BadDocument, match="cannot be read"):
        read_materialx(
            _material('<input name="base" type="float" nodename="m" />', f'{inherit}<aa name="m" type="float" />')
        )


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
        ("(2 + 3) * lie", "5 * lie"), ("lie * 1 + 0", "lie"), ("rgb(a.r, a.g, a.b)", "a.rgb"), ("a.rgb.b", "a.b"),
        ("rgb(0.5, 0.5, 0.5)", "0.5"), ("vector(a.r, b.g).g", "b.g"), ("mix(a, b, 1)", "b"), ("pick(a, 2, b, c)", "c"),
    ],
)  # fmt: skip
def test_trees_get_shorter_and_mean_the_same(text, short):
    def deep(node):
        if isinstance(node, Swizzle):
            return simplified(Swizzle(deep(node.of), node.letters))
        return simplified(Call(node.operation, tuple(map(deep, node.arguments)))) if isinstance(node, Call) else node

    assert text_of(deep(parse_expression(text))) == short


def test_the_command_line_exports_with_casts_and_imports(tmp_path, capsys):
    master = tmp_path / "lamp.json"
    document = next(one for one in MASTERS if one["name"] == "plain-solid")
    master.write_text(json.dumps(document))
    write(Texels(np.full((4, 4, 3), 90, np.uint8), "rgb", Transfer.SRGB), tmp_path / "rust_color.png")
    cast = tmp_path / "rust.json"
    cast.write_text(json.dumps({"format": "fair-texel/cast", "version": 1, "name": "Rust", "changes": {"relief": 2},
                                "slots": {"colour": {"file": "rust_color.png"}}}))  # fmt: skip
    for ending in ("mtlx", "glb", "usda", "glsl", "json"):
        words = ["material", "export", str(master), "--cast", str(cast), "--size", "16"]
        assert main([*words, "-o", str(tmp_path / f"out/lamp.{ending}"), "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert [Path(one).exists() for one in told["written"]] == [True] * len(told["written"])
    for ending in ("mtlx", "glb"):
        back = tmp_path / f"back-{ending}"
        assert main(["material", "import", str(tmp_path / f"out/lamp.{ending}"), "-o", str(back), "--json"]) == 0
        (one,) = json.loads(capsys.readouterr().out)["materials"]
        assert one["lost"] == []
        assert parse_master(json.loads(Path(one["master"]).read_text())).inputs
        found = json.loads(Path(one["casts"][0]).read_text())
        assert found["name"] == "Rust"
        if ending == "mtlx":
            assert found["changes"] == {"relief": 2}
            assert found["slots"] == {"colour": {"file": "maps/rust_colour.png"}}
        else:
            assert all((back / fill["file"]).exists() for fill in found["slots"].values())


def _solid_casts():
    master = parse_master(next(one for one in MASTERS if one["name"] == "plain-solid"))
    maps = sample_maps(master, 8)
    return master, [FilledCast("Old tin", {"relief": (2.0,)}, {"colour": maps["colour"]}), FilledCast("New", {}, {})]


def test_our_own_documents_come_with_the_maps_of_casts():
    made = export(*_solid_casts()[:1], "json", "tin", _solid_casts()[1])
    assert json.loads(made.files["tin_old_tin.json"])["slots"] == {"colour": {"file": "maps/old_tin_colour.png"}}
    assert made.files["maps/old_tin_colour.png"].startswith(b"\x89PNG")


def test_glsl_comes_with_what_each_cast_gives_its_uniforms():
    master, casts = _solid_casts()
    made = export(master, "glsl", "tin", casts)
    told = json.loads(made.files["tin_old_tin.json"])
    assert told["uniforms"]["u_relief"] == [2.0]
    assert set(told["uniforms"]) == {f"u_{name}" for name in master.parameters}
    assert told["samplers"]["m_colour"] == {"file": "maps/old_tin_colour.png", "colour_space": "srgb"}
    assert json.loads(made.files["tin_new.json"])["samplers"]["m_bumps"]["constant"] == [0.5, 0.5, 1.0, 1.0]


def test_glsl_says_which_sampler_decodes():
    code = export(_solid_casts()[0], "glsl", "tin", []).files["tin.glsl"].decode()
    assert "sampler2D m_colour: the map of slot colour, repeated, read as sRGB, decoded to linear light" in code
    assert "sampler2D m_bumps: the map of slot bumps, repeated, read as stored" in code


def test_files_that_cannot_be_imported_leave_nothing(tmp_path, capsys):
    for name, body, reason in (
        ("bad.mtlx", b"\xff\xfe", "UTF-8"), ("bad.glb", b"glTF\2\0\0\0\xff\xff\0\0", "no glTF"),
        ("bad.gltf", b'{"asset": {"version": "1.0"}}', "only 2.0"),
        ("none.gltf", b'{"asset": {"version": "2.0"}}', "no mat"),
        ("odd.gltf", b'{"asset": {"version": "2.0"}, "materials": [{"normalTexture": {"index": 7}}]}', "no glTF"),
        ("bad.txt", b"", "read from"),
    ):  # fmt: skip
        (tmp_path / name).write_bytes(body)
        assert main(["material", "import", str(tmp_path / name), "-o", str(tmp_path / "x")]) != 0
        assert reason in capsys.readouterr().err
        assert not (tmp_path / "x").exists()


def _read_again(master, cast, folder, side=32):
    """A cast written as glTF and read back: its surface, computed from the pictures inside."""
    (found,) = read_gltf(glb_of(master, [cast], side).data)
    again = parse_master(found.document)
    maps = {}
    for slot, file in found.casts[0].files.items():
        (folder / file).write_bytes(found.pictures[file])
        maps[slot] = read(folder / file)
    return found, evaluate(again, maps, {}, side, side)


@pytest.mark.parametrize("document", MASTERS, ids=lambda one: one["name"])
def test_a_cast_looks_the_same_after_a_round_trip_through_gltf(document, tmp_path):
    master = parse_master(document)
    cast = FilledCast("Cast", {}, sample_maps(master, 32))
    found, again = _read_again(master, cast, tmp_path)
    wanted = evaluate(master, cast.maps, {}, 32, 32)
    assert found.lost == ()
    for name in ("base_color", "metallic", "roughness", "emissive"):
        # Two roundings to 8 bits; in light a step of the brightest sRGB values is 2.3 times as large.
        near = 2.4 / 255 if name in ("base_color", "emissive") else 1 / 255
        assert np.abs(np.clip(wanted[name], 0, 1) - np.clip(again[name], 0, 1)).max() <= near, name
    assert np.abs(wanted["normal"] - again["normal"]).max() <= 3 / 255
    if "opacity" in document:
        assert found.document["opacity"]["mode"] == document["opacity"]["mode"]


def test_gltf_says_by_factors_and_transforms_what_it_can_and_bakes_the_rest():
    master = parse_master(next(one for one in MASTERS if one["name"] == "plain-solid"))
    maps = sample_maps(master, 16)
    plain = {"dirt": (0.0,), "shade": (0.5, 0.25, 1.0), "relief": (2.0,), "tiling": (2.0, 3.0), "dull": (1.0,)}
    written = glb_of(master, [FilledCast("Plain", plain, maps), FilledCast("Dirty", {}, maps)], 16)
    assert written.baked == {"Plain": (), "Dirty": ("base_color",)}
    first, second = read_gltf(written.data)
    assert first.document["inputs"]["base_color"] == "base_colour * rgb(0.5, 0.25, 1)"
    assert first.document["inputs"]["normal_strength"] == "2"
    assert first.document["coordinates"][0]["tiling"] == [2, 3]
    assert second.document["coordinates"][0]["tiling"] == [1, 1]
    turned = glb_of(master, [FilledCast("Turned", {**plain, "turn": (90.0,)}, maps)], 16)
    assert turned.baked == {"Turned": ("normal",)}, "glTF turns where a normal map is read, not its vectors"


def test_specular_and_glossiness_are_converted_with_the_loss_told():
    def gltf(specular):
        body = {"diffuseFactor": [0.8, 0.6, 0.4, 1], "specularFactor": specular, "glossinessFactor": 0.75}
        material = {"name": "m", "extensions": {"KHR_materials_pbrSpecularGlossiness": body}}
        return json.dumps({"asset": {"version": "2.0"}, "materials": [material]}).encode()

    (found,) = read_gltf(gltf([0.04, 0.04, 0.04]))
    assert found.document["inputs"]["roughness"] == "0.25"
    assert "metallic" not in found.document["inputs"], "a specular of 0.04 is no metal"
    assert found.lost == ()
    (found,) = read_gltf(gltf([0.5, 0.1, 0.1]))
    assert any("off by" in one for one in found.lost)


def test_rows_of_specular_and_glossiness_are_the_conversion_of_maps():
    rng = np.random.default_rng(5)
    pixels = rng.integers(0, 256, (8, 8, 4), np.uint8)
    diffuse = rng.integers(0, 256, (8, 8, 3), np.uint8)
    extension = {"diffuseTexture": {"index": 0}, "specularGlossinessTexture": {"index": 1}}
    document = {
        "asset": {"version": "2.0"}, "textures": [{"source": 0}, {"source": 1}],
        "images": [{"uri": "d.png"}, {"uri": "s%20g.png"}],
        "materials": [{"extensions": {"KHR_materials_pbrSpecularGlossiness": extension}}],
    }  # fmt: skip
    (found,) = read_gltf(json.dumps(document).encode())
    files = {file: slot for slot, file in found.casts[0].files.items()}
    assert set(files) == {"d.png", "s g.png"}
    maps = {
        files["d.png"]: Texels(diffuse, "rgb", Transfer.SRGB),
        files["s g.png"]: Texels(pixels, "rgba", Transfer.SRGB),
    }
    made = evaluate(parse_master(found.document), maps, {}, 8, 8)
    metallic, colour = metallic_and_colour(
        srgb_to_unit_linear(diffuse), srgb_to_unit_linear(np.ascontiguousarray(pixels[:, :, :3]))
    )
    np.testing.assert_allclose(made["metallic"][:, :, 0], metallic, atol=1e-3)
    np.testing.assert_allclose(made["base_color"], colour, atol=2e-3)
    np.testing.assert_allclose(made["roughness"][:, :, 0], 1 - pixels[:, :, 3] / 255, atol=1e-6)


def test_height_moves_the_surface_and_is_read_through_a_foreign_definition():
    solid = next(one for one in MASTERS if one["name"] == "plain-solid")
    lie = {"name": "lie", "title": "Height", "role": "height"}
    inputs = solid["inputs"] | {"height": "lie * 0.8", "height_scale": "0.1 * relief"}
    lifted = parse_master(solid | {"slots": [*solid["slots"], lie], "inputs": inputs})
    text = materialx_of(lifted, [CastOf("Deck", {"relief": (2.0,)})])
    document = mx.createDocument()
    mx.readFromXmlString(document, text)
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    document.importLibrary(library)
    assert document.validate() == (True, "")
    (material,) = document.getMaterialNodes()
    lift = document.getNode(material.getInput("displacementshader").getNodeName())
    assert lift.getInput("relief").getValue() == 2
    (own,) = read_materialx(text)
    assert parse_master(own.document) == lifted
    foreign = text.replace('ft_name="plain-solid"', "")
    assert foreign != text
    (found,) = read_materialx(foreign)
    assert not [line for line in found.lost if line.startswith("Displacement")]
    master = parse_master(found.document)
    assert "height" in master.inputs
    maps = sample_maps(lifted)
    (height,) = (slot.name for slot in master.slots.values() if slot.role is Role.HEIGHT)
    same = sample_maps(master) | {height: maps["lie"]}
    was = evaluate(lifted, maps, {"relief": (2.0,)}, 16, 16)
    now = evaluate(master, same, found.casts[0].changes, 16, 16)
    for name in ("height", "height_scale"):
        np.testing.assert_allclose(np.broadcast_to(now[name], was[name].shape), was[name], atol=1e-5)
