"""Where glTF reads its textures: KHR_texture_transform, by its formula and by three.js, written and read."""

import json
import math
import shutil
import subprocess

import numpy as np
import pytest

from tests.standards.test_published_values import WEB
from texel.gltf_file import opened_gltf
from texel.materials import parse_master
from texel.materials.evaluate import placed
from texel.materials.exchange import FilledCast, glb_of, read_gltf
from texel.materials.sampling import coordinates_of
from texel.materials.versions import sample_maps

UV = np.array([[0, 0], [1, 0], [0, 1], [0.25, 0.75], [0.9, 0.1]], np.float32)
# Scale, offset, rotation in radians; the same scale on both axes where three.js is asked, which turns before it scales.
PLACES = [
    ((1.0, 1.0), (0.0, 0.0), math.pi / 2), ((1.5, 1.5), (-0.2, -0.1), 0.3), ((2.0, 2.0), (0.5, 0.25), -2.5),
    ((3.0, 0.5), (0.1, 0.7), 1.0),
]  # fmt: skip
_THREE = """
import("three").then(({ Texture, Vector2 }) => {
  const [place, points] = JSON.parse(process.argv[1]);
  const texture = new Texture();
  texture.flipY = false;
  texture.repeat.fromArray(place[0]); texture.offset.fromArray(place[1]); texture.rotation = place[2];
  texture.updateMatrix();
  console.log(JSON.stringify(points.map((one) => new Vector2(...one).applyMatrix3(texture.matrix).toArray())));
});
"""


def by_formula(place):
    """KHR_texture_transform, Khronos registry: scaled, turned, moved, from glTF's origin at the top left."""
    (sx, sy), (ox, oy), r = place
    u, v = UV[:, 0], UV[:, 1]
    cos, sin = math.cos(r), math.sin(r)
    return np.stack([cos * sx * u + sin * sy * v + ox, -sin * sx * u + cos * sy * v + oy], axis=1)


def by_sheet(document):
    one = parse_master(document).coordinates
    (place,) = [one[slot.coordinates] for slot in parse_master(document).slots.values()]
    return coordinates_of(UV, *placed(place, {}))


def a_gltf(place, **more):
    scale, offset, rotation = place
    moved = {"scale": scale, "offset": offset, "rotation": rotation, **more}
    texture = {"index": 0, "extensions": {"KHR_texture_transform": moved}}
    document = {
        "asset": {"version": "2.0"}, "images": [{"uri": "arrow.png"}], "textures": [{"source": 0}],
        "materials": [{"name": "m", "pbrMetallicRoughness": {"baseColorTexture": texture}}],
    }  # fmt: skip
    return json.dumps(document).encode()


@pytest.mark.parametrize("place", PLACES)
def test_a_texture_is_read_where_the_extension_says(place):
    (found,) = read_gltf(a_gltf(place))
    np.testing.assert_allclose(by_sheet(found.document), by_formula(place), atol=2e-6)


@pytest.mark.parametrize("place", PLACES[:3])
def test_three_reads_it_at_the_same_place(place):
    done = subprocess.run(
        [shutil.which("node") or "", "-e", _THREE, json.dumps([place, UV.tolist()])],
        cwd=WEB, capture_output=True, text=True, check=True,
    )  # fmt: skip
    np.testing.assert_allclose(json.loads(done.stdout), by_formula(place), atol=1e-6)


@pytest.mark.parametrize("place", PLACES)
def test_a_written_texture_is_read_where_the_sheet_reads_it(place):
    (found,) = read_gltf(a_gltf(place))
    master = parse_master(found.document)
    written = glb_of(master, [FilledCast("Plain", {}, sample_maps(master, 8))], 8)
    assert written.baked == {"Plain": ()}
    (texture,) = [one["pbrMetallicRoughness"]["baseColorTexture"] for one in opened_gltf(written.data)[0]["materials"]]
    moved = texture["extensions"]["KHR_texture_transform"]
    again = (moved.get("scale", [1, 1]), moved.get("offset", [0, 0]), moved.get("rotation", 0))
    np.testing.assert_allclose(by_formula(again), by_formula(place), atol=2e-6)


def test_the_tip_of_an_arrow_lands_where_the_extension_puts_it():
    """An arrow that points right in the picture, read at a quarter turn: walking along u one walks up the picture."""
    (found,) = read_gltf(a_gltf(((1.0, 1.0), (0.0, 0.0), math.pi / 2)))
    (start, end, *_) = by_sheet(found.document)
    np.testing.assert_allclose(end - start, [0, -1], atol=1e-6)


def test_a_third_set_of_coordinates_is_told():
    (found,) = read_gltf(a_gltf(PLACES[0], texCoord=2))
    assert parse_master(found.document).coordinates["main"].uv_set == 1
    assert any("UV set 2" in one for one in found.lost)
