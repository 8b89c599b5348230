"""Vertex colours painted on a model: by arithmetic, alike in the page's code, and written so that others read them."""

import json
import math
import shutil
import subprocess

import numpy as np
import pygltflib
import pytest
from pxr import Usd, UsdGeom

from ground.places import CHECKOUT
from tests.core.test_delivered_models import delivered, folder, validated
from tests.meshes import glb, gltf_parts, quad
from texel.cli import main
from texel.delivery import parse_target
from texel.delivery.target import builtin_targets
from texel.errors import BadDocument
from texel.gltf_file import joined_glb, opened_gltf
from texel.meshes.accessors import Accessors
from texel.meshes.mesh import MeshFile, Piece, Slot
from texel.meshes.painting import painted_mesh, parse_painting, point_normals, spacing_under
from texel.meshes.reading import read_mesh

__all__ = ["folder"]

WEB = CHECKOUT / "web"
UP = [0, 1, 0]


def sheet(points=21, metres=2.0, slot=0, height=0.0, part="deck"):
    """A flat grid in x and z around the middle, seen from above."""
    at = np.linspace(-metres / 2, metres / 2, points)
    x, z = np.meshgrid(at, at)
    places = np.stack([x.ravel(), np.full(x.size, height), z.ravel()], axis=1).astype(np.float32)
    corner = (np.arange(points - 1)[:, None] * points + np.arange(points - 1)).ravel()
    first = np.stack([corner, corner + points, corner + 1], axis=1)
    second = np.stack([corner + 1, corner + points, corner + points + 1], axis=1)
    return Piece(part, slot, places, np.concatenate([first, second]).astype(np.int32))


def mesh_of(*pieces, slots=("deck",)):
    return MeshFile("a.glb", "glTF", tuple(map(Slot, slots)), pieces)


def stroke(points=((0, 0, 0),), normal=UP, pressure=1.0, **more):
    return {
        "channel": "red", "points": [[*point, *normal, pressure] for point in points], "radius": 0.5, "strength": 1.0,
        **more,
    }  # fmt: skip


def painted(mesh, *strokes):
    return [one.colours for one in painted_mesh(mesh, parse_painting(strokes)).pieces]


def fade(distance, falloff):
    t = min(max((1 - distance) / falloff, 0), 1)
    return t * t * (3 - 2 * t)


def test_a_dab_fades_over_its_radius_in_its_channel_alone():
    piece = sheet()
    (made,) = painted(mesh_of(piece), stroke(falloff=0.5, strength=0.8))
    for place, colour in zip(piece.positions, made, strict=True):
        assert colour[0] == pytest.approx(0.8 * fade(math.dist(place, (0, 0, 0)) / 0.5, 0.5), abs=1e-6)
    assert not made[:, 1:3].any()
    assert (made[:, 3] == 1).all()


def test_points_are_counter_clockwise_seen_from_above():
    assert np.allclose(point_normals(sheet()), UP)


def test_the_other_side_of_a_thin_wall_stays_as_it_is():
    top, below = sheet(), sheet(height=-0.01, part="under")
    turned = Piece("under", 0, below.positions, np.ascontiguousarray(below.triangles[:, ::-1]))
    made = painted(mesh_of(top, turned), stroke())
    assert made[0][:, 0].max() == 1
    assert not made[1][:, 0].any()


def test_going_to_and_fro_in_a_stroke_does_not_add_up_and_strokes_do():
    to_and_fro = stroke([(0, 0, 0), (0.3, 0, 0), (0, 0, 0)], strength=0.4)
    (once,) = painted(mesh_of(sheet()), to_and_fro)
    assert once[:, 0].max() == pytest.approx(0.4)
    (twice,) = painted(mesh_of(sheet()), to_and_fro, to_and_fro)
    assert twice[:, 0].max() == pytest.approx(0.8)
    (away,) = painted(mesh_of(sheet()), to_and_fro, {**to_and_fro, "strength": -1.0})
    assert not away[:, 0].any()


def test_pressure_is_between_that_of_the_ends():
    line = {**stroke(radius=0.1, falloff=0), "points": [[-1, 0, 0, *UP, 0.0], [1, 0, 0, *UP, 1.0]]}
    piece = sheet()
    (made,) = painted(mesh_of(piece), line)
    on_it = np.abs(piece.positions[:, 2]) < 1e-6
    assert np.allclose(made[on_it, 0], (piece.positions[on_it, 0] + 1) / 2, atol=1e-6)


def test_only_the_slot_that_is_named_is_painted_and_the_other_side_where_wanted():
    mesh = mesh_of(sheet(), sheet(slot=1, part="rail"), slots=("deck", "rail"))
    made = painted(mesh, stroke([(0.5, 0, 0)], slot="rail", mirror=True))
    assert not made[0][:, 0].any()
    left, right = (made[1][np.sign(mesh.pieces[1].positions[:, 0]) == side, 0].sum() for side in (-1, 1))
    assert left == pytest.approx(right)


def test_colours_of_the_file_are_painted_over():
    piece = sheet()
    own = Piece(piece.part, 0, piece.positions, piece.triangles, colours=np.full((len(piece.positions), 3), 0.25, "f4"))
    (made,) = painted(mesh_of(own), stroke(strength=0.5, falloff=0))
    assert made[:, 0].max() == pytest.approx(0.75)
    assert made[:, 0].min() == pytest.approx(0.25)


def test_a_mesh_too_coarse_for_the_border_is_told_with_what_it_wants():
    """Points 0.1 m apart, with diagonals; a border of 0.4 m wants two points across it, 0.2 m; a hard one on a brush of
    0.5 m wants two in a quarter of that."""
    piece = sheet()
    (fine,) = parse_painting([stroke(radius=0.8, falloff=0.5)])
    (sharp,) = parse_painting([stroke(radius=0.5, falloff=0.1)])
    told = spacing_under(mesh_of(piece), fine)
    assert told.there == pytest.approx(0.1 * (2 + math.sqrt(2)) / 3, rel=1e-3)
    assert (told.wanted, told.is_too_coarse) == (0.2, False)
    told = spacing_under(mesh_of(piece), sharp)
    assert (told.wanted, told.is_too_coarse) == (0.0625, True)
    assert spacing_under(mesh_of(piece), parse_painting([stroke([(50, 0, 0)])])[0]) is None


@pytest.mark.parametrize(
    "bad", [{"channel": "first"}, {"radius": 0}, {"points": []}, {"strength": 2}, {"points": [[0, 0, 0, 0, 0, 0, 1]]}]
)
def test_strokes_that_say_nothing_are_refused(bad):
    with pytest.raises(BadDocument):
        parse_painting([{**stroke(), **bad}])


def test_the_page_paints_the_same(tmp_path):
    """The page's own code, compiled by Vite's compiler, on a bent sheet with random strokes."""
    chance = np.random.default_rng(7)
    piece = sheet(15)
    bent = piece.positions + np.stack([0 * piece.positions[:, 0], 0.2 * np.sin(piece.positions[:, 0] * 3),
                                       0 * piece.positions[:, 0]], axis=1)  # fmt: skip
    piece = Piece("deck", 0, bent.astype(np.float32), piece.triangles)
    piece = Piece("deck", 0, piece.positions, piece.triangles, normals=point_normals(piece).astype(np.float32))
    strokes = [
        {**stroke([(float(x), 0.0, float(z)) for x, z in chance.uniform(-1, 1, (4, 2))]), "channel": channel,
         "falloff": float(chance.uniform()), "strength": -0.3 if at == 3 else 0.7, "mirror": bool(at % 2)}
        for at, channel in enumerate(["red", "green", "alpha", "red", "blue"])
    ]  # fmt: skip
    build = """
import { readFileSync } from "node:fs";
import { transformWithOxc } from "vite";
const [from, given] = process.argv.slice(1);
const { code } = await transformWithOxc(readFileSync(from, "utf8"), from);
const { LiveVertexStroke } = await import("data:text/javascript," + encodeURIComponent(code));
const { positions, normals, strokes } = JSON.parse(readFileSync(given, "utf8"));
const colours = new Float32Array(positions.length / 3 * 4).map((_, at) => at % 4 === 3 ? 1 : 0);
const piece = { positions, normals, colours };
for (const { points, ...brush } of strokes) {
  const live = new LiveVertexStroke([piece], brush);
  points.forEach((point) => live.add(point));
}
console.log(JSON.stringify([...piece.colours]));
"""
    given = tmp_path / "given.json"
    given.write_text(json.dumps(
        {"positions": piece.positions.ravel().tolist(), "normals": piece.normals.ravel().tolist(), "strokes": strokes}
    ))  # fmt: skip
    source = WEB / "src/screens/models/vertexBrush.ts"
    command = [shutil.which("node"), "--input-type=module", "-e", build, str(source), str(given)]
    told = subprocess.run(command, cwd=WEB, capture_output=True, text=True, check=True).stdout
    page = np.array(json.loads(told)).reshape(-1, 4)
    (core,) = painted(mesh_of(piece), *strokes)
    assert core[:, 0].any()
    assert np.abs(page - core).max() < 1e-5


STROKE = stroke([(0.5, 0, 0.5)], radius=5, falloff=0, slot="planks")
BOAT = glb(quad(part="hull", slot="planks"), quad(part="coil", slot="rope", at=4))


def painted_boat(folder, mesh=BOAT, **target):
    made = parse_target({**builtin_targets()["orm-y-minus"], "models": ["glb", "usdz"], **target})
    return delivered(folder, mesh, target=made, strokes=[STROKE])[2]


def layers_of(data, attribute="_LAYERS"):
    document, chunk = opened_gltf(data)
    reader = Accessors(document, chunk, {})
    return {
        node["name"]: reader.numbers(document["meshes"][node["mesh"]]["primitives"][0]["attributes"][attribute])
        for node in document["nodes"]
    }


def test_painted_colours_are_delivered_as_an_attribute_of_our_own(folder, tmp_path):
    data = painted_boat(folder)["models/boat.glb"]
    assert validated(data, tmp_path) == []
    layers = layers_of(data)
    assert np.array_equal(layers["hull"], np.tile([1, 0, 0, 1], (4, 1)))
    assert np.array_equal(layers["coil"], np.tile([0, 0, 0, 1], (4, 1)))
    assert pygltflib.GLTF2.load_from_bytes(data).meshes[0].primitives[0].attributes.COLOR_0 is None


def test_as_the_formats_vertex_colours_where_the_target_wants_that(folder, tmp_path):
    files = painted_boat(folder, vertex_colours="color")
    assert validated(files["models/boat.glb"], tmp_path) == []
    assert np.array_equal(layers_of(files["models/boat.glb"], "COLOR_0")["hull"], np.tile([1, 0, 0, 1], (4, 1)))
    hull = next(one for one in read_mesh("b.usdz", {"b.usdz": files["models/boat.usdz"]}).pieces if one.part == "hull")
    assert np.array_equal(hull.colours, np.tile([1, 0, 0, 1], (6, 1)))


def test_openusd_has_them_as_a_primvar(folder, tmp_path):
    (tmp_path / "boat.usdz").write_bytes(painted_boat(folder)["models/boat.usdz"])
    stage = Usd.Stage.Open(str(tmp_path / "boat.usdz"))
    layers = UsdGeom.PrimvarsAPI(stage.GetPrimAtPath("/boat/hull")).GetPrimvar("layers")
    assert [tuple(one) for one in layers.Get()] == [(1, 0, 0, 1)] * 4


def test_two_nodes_of_one_mesh_are_painted_apart(folder):
    document, data = gltf_parts([quad(part="hull", slot="planks"), quad(part="coil", slot="rope")])
    document["nodes"].append({"name": "right", "mesh": 0, "translation": [30, 0, 0]})
    document["scenes"] = [{"nodes": [0, 1, 2]}]
    layers = layers_of(painted_boat(folder, joined_glb(document, data))["models/boat.glb"])
    assert layers["hull"][:, 0].all()
    assert not layers["right"][:, 0].any()


def test_another_stroke_is_another_file_and_the_command_line_paints(folder, tmp_path, capsys):
    _, manifest, _, _ = delivered(folder, BOAT, strokes=[STROKE])
    assert delivered(folder, BOAT, strokes=[STROKE], previous=manifest)[0].files[0].status == "unchanged"
    assert delivered(folder, BOAT, strokes=[STROKE, STROKE], previous=manifest)[0].files[0].why == ("source",)
    (tmp_path / "m").mkdir()
    (tmp_path / "m" / "boat.glb").write_bytes(BOAT)
    painting = tmp_path / "painting.json"
    painting.write_text(json.dumps({"format": "fair-texel/painting", "version": 1, "strokes": [STROKE]}))
    words = ["model", str(tmp_path / "m" / "boat.glb"), "--folder", str(folder), "--painting", str(painting)]
    assert main([*words, "-o", str(tmp_path / "out.glb")]) == 0
    assert layers_of((tmp_path / "out.glb").read_bytes())["hull"][:, 0].all()
    painting.write_text('{"strokes": 3}')
    assert main([*words, "-o", str(tmp_path / "out.glb")]) == 2
    assert "painting.json" in capsys.readouterr().err
