"""Written glTF, loaded by three.js in a real browser: every texture that it binds, with its transform and its factor,
shows what NumPy computes for the sheet."""

import base64
from pathlib import Path

import numpy as np
import pytest

from demo.materials import MASTERS
from tests.sheets import random_master
from texel.materials import evaluate, parse_master
from texel.materials.exchange import FilledCast, glb_of
from texel.materials.versions import sample_maps

SIDE = 32
THREE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "three"
_PAGE = """<!doctype html><script type="importmap">
{"imports": {"three": "/build/three.module.js", "three/addons/": "/examples/jsm/"}}</script>"""
# Draws the square with each of its material's textures alone, unlit, into floats; rows from the top.
_DRAW = """
async ({ glb, side }) => {
  const three = await import("three");
  const { GLTFLoader } = await import("three/addons/loaders/GLTFLoader.js");
  const bytes = Uint8Array.from(atob(glb), (one) => one.charCodeAt(0));
  const { scene } = await new GLTFLoader().parseAsync(bytes.buffer, "");
  let mesh;
  scene.traverse((one) => { if (one.isMesh) mesh = one; });
  const given = mesh.material;
  const renderer = new three.WebGLRenderer({ canvas: new OffscreenCanvas(side, side) });
  const target = new three.WebGLRenderTarget(side, side, { type: three.FloatType, depthBuffer: false });
  const camera = new three.OrthographicCamera(-0.5, 0.5, 0.5, -0.5, 0.1, 10);
  camera.position.z = 2;
  const found = {};
  for (const key of ["map", "roughnessMap", "normalMap", "emissiveMap", "aoMap"]) {
    const map = given[key];
    if (!map) continue;
    map.minFilter = map.magFilter = three.LinearFilter;
    map.generateMipmaps = false;
    map.needsUpdate = true;
    map.channel = 0;
    mesh.material = new three.MeshBasicMaterial({ map, toneMapped: false, side: three.DoubleSide });
    renderer.setRenderTarget(target);
    renderer.render(scene, camera);
    const pixels = new Float32Array(side * side * 4);
    renderer.readRenderTargetPixels(target, 0, 0, side, side, pixels);
    found[key] = Array.from(pixels);
  }
  const colour = given.color.toArray(), glow = given.emissive.toArray();
  return { found, colour, glow, glowing: given.emissiveIntensity, roughness: given.roughness,
    metalness: given.metalness, scale: given.normalScale.x, occlusion: given.aoMapIntensity };
}
"""


@pytest.fixture(scope="module")
def three_page(browser):
    page = browser.new_page()

    def serve(route):
        path = route.request.url.split("three.test", 1)[1]
        if path == "/":
            route.fulfill(body=_PAGE, content_type="text/html")
        else:
            route.fulfill(path=THREE / path.lstrip("/"), content_type="text/javascript")

    page.route("http://three.test/**", serve)
    page.goto("http://three.test/")
    yield page
    page.close()


def _turned(name: str, **place) -> dict:
    return {
        "format": "fair-texel/master", "version": 1, "name": name, "coordinates": [{"name": "main", **place}],
        "slots": [{"name": "dye", "role": "base_color"}], "inputs": {"base_color": "dye * rgb(0.5, 0.75, 1)"},
    }  # fmt: skip


SHEETS = [
    *(parse_master(one) for one in MASTERS),
    *(random_master(seed) for seed in range(4)),
    parse_master(_turned("quarter", rotation=90)),
    parse_master(_turned("leaning", rotation=33, offset=[0.2, 0.1])),
    parse_master(_turned("tiled", tiling=[2, 2], rotation=-120)),
]


@pytest.mark.parametrize("master", SHEETS, ids=lambda one: one.name)
def test_three_shows_what_numpy_computes(three_page, master):
    maps = sample_maps(master, SIDE)
    written = glb_of(master, [FilledCast("Plain", {}, maps)], SIDE)
    told = three_page.evaluate(_DRAW, {"glb": base64.b64encode(written.data).decode(), "side": SIDE})
    drawn = {key: np.array(one, np.float32).reshape(SIDE, SIDE, 4)[::-1] for key, one in told["found"].items()}
    wanted = evaluate(master, maps, {}, SIDE, SIDE)
    colour = drawn["map"][..., :3] if "map" in drawn else np.ones(3)
    # A step of 8 bits of sRGB is up to 2.3 steps of light; between texels hardware weighs in steps of 1/256.
    _agrees(colour * told["colour"], wanted["base_color"], 3.5)
    pack = drawn.get("roughnessMap", np.ones((SIDE, SIDE, 4)))
    _agrees(pack[..., 1:2] * told["roughness"], wanted["roughness"], 1.5)
    _agrees(pack[..., 2:3] * told["metalness"], wanted["metallic"], 1.5)
    if "aoMap" in drawn:
        shade = 1 + (wanted["occlusion"] - 1) * wanted["occlusion_strength"]
        _agrees(1 + (drawn["aoMap"][..., :1] - 1) * told["occlusion"], shade, 1.5)
    if "emissiveMap" in drawn:
        glow = np.maximum(wanted["emissive"] * wanted["emissive_strength"], 0)
        bright = max(1.0, float(np.nan_to_num(glow, posinf=0).max()))
        made = drawn["emissiveMap"][..., :3] * told["glow"] * told["glowing"]
        _agrees(made / bright, np.nan_to_num(glow, posinf=0) / bright, 3.5)
    if "normalMap" in drawn:
        vectors = drawn["normalMap"][..., :3] * 2 - 1
        vectors[..., :2] *= told["scale"]
        vectors /= np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-6)
        assert np.abs(vectors - wanted["normal"]).max() <= 4 / 255


def _agrees(made, wanted, steps: float) -> None:
    made, wanted = np.broadcast_arrays(np.clip(made, 0, 1), np.clip(np.nan_to_num(wanted), 0, 1))
    assert np.abs(made - wanted).max() <= steps / 255
