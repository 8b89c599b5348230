"""The generated GLSL in a real browser against NumPy: the same sheet, the same maps, the same surface."""

import json

import numpy as np
import pytest

from tests.agreement import SIDE, STEP, apart, computed, rgba, shaken
from tests.places import PLACE
from tests.sheets import function_master, operation_master, random_master
from texel.materials import INPUTS, OPERATIONS, parse_master, shader_of
from texel.materials.ready import ready_master, ready_masters
from texel.materials.versions import sample_maps
from texel.roles import Transfer

# Draws every input into floats, texel by texel. Plain WebGL 2; nothing of the page takes part.
_DRAW = """
({ code, uniforms, samplers, maps, side, inputs, place }) => {
  const canvas = new OffscreenCanvas(side, side);
  const gl = canvas.getContext("webgl2");
  if (!gl.getExtension("EXT_color_buffer_float")) throw new Error("no float targets");
  const compile = (type, source) => {
    const made = gl.createShader(type);
    gl.shaderSource(made, source);
    gl.compileShader(made);
    if (!gl.getShaderParameter(made, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(made) + source);
    return made;
  };
  const program = gl.createProgram();
  gl.attachShader(program, compile(gl.VERTEX_SHADER, `#version 300 es
    void main() { gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }`));
  const cases = inputs.map(([name, size], at) =>
    `if (which == ${at}) made = vec4(ft.${name}${size === 1 ? ", 0.0, 0.0" : ""}, 1.0);`);
  gl.attachShader(program, compile(gl.FRAGMENT_SHADER, `#version 300 es
    precision highp float;
    uniform int which;
    out vec4 made;
    ${code}
    void main() {
      vec2 uv = gl_FragCoord.xy / ${side}.0;
      FtPlace place;
      place.uv = place.uv1 = uv;
      ${place}
      FtSurface ft = ft_surface(place);
      ${cases.join("\\n")}
    }`));
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
  gl.useProgram(program);
  let unit = 0;
  for (const one of uniforms) {
    const place = gl.getUniformLocation(program, one.name);
    if (!place) continue;
    if (one.parameter) gl[`uniform${one.default.length}fv`](place, one.default);
  }
  for (const [slot, map] of Object.entries(maps)) {
    const place = gl.getUniformLocation(program, samplers[slot]);
    if (!place) continue;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    gl.texImage2D(gl.TEXTURE_2D, 0, map.srgb ? gl.SRGB8_ALPHA8 : gl.RGBA8, side, side, 0, gl.RGBA, gl.UNSIGNED_BYTE,
      new Uint8Array(map.pixels));
    for (const key of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D, key, gl.LINEAR);
    gl.uniform1i(place, unit++);
  }
  gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
  gl.bindRenderbuffer(gl.RENDERBUFFER, gl.createRenderbuffer());
  gl.renderbufferStorage(gl.RENDERBUFFER, gl.RGBA32F, side, side);
  const target = gl.getParameter(gl.RENDERBUFFER_BINDING);
  gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.RENDERBUFFER, target);
  gl.viewport(0, 0, side, side);
  return inputs.map((_, at) => {
    gl.uniform1i(gl.getUniformLocation(program, "which"), at);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const read = new Float32Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.FLOAT, read);
    return Array.from(read, (value) => (Number.isFinite(value) ? value : null));
  });
}
"""


@pytest.fixture(scope="module")
def gpu(browser):
    page = browser.new_page()
    page.goto("about:blank")
    yield page
    page.close()


def _place():
    """Where the surface is, as GLSL; what the tests do not name is as on a flat square."""
    given = {"camera_distance": (1.0,), "object_random": (0.5,), **PLACE}
    kinds = {1: "float", 2: "vec2", 3: "vec3", 4: "vec4"}
    return " ".join(f"place.{name} = {kinds[len(one)]}({', '.join(map(str, one))});" for name, one in given.items())


def drawn(gpu, master, maps):
    shader = shader_of(master)
    given = {
        slot: {"srgb": master.slots[slot].colour_space is Transfer.SRGB, "pixels": rgba(texels).ravel().tolist()}
        for slot, texels in maps.items()
    }
    inputs = [[one.name, one.size] for one in INPUTS.values()]
    told = gpu.evaluate(
        _DRAW,
        {"code": shader.code, "uniforms": json.loads(json.dumps(shader.uniforms)), "samplers": shader.samplers,
         "maps": given, "side": SIDE, "inputs": inputs, "place": _place()},
    )  # fmt: skip
    shaped = [np.array(one, np.float64).reshape(SIDE, SIDE, 4) for one in told]
    return {one.name: made[:, :, : one.size] for one, made in zip(INPUTS.values(), shaped, strict=True)}


@pytest.mark.parametrize("seed", range(20))
def test_random_sheets_give_the_same_surface(gpu, seed):
    master = random_master(seed)
    maps = sample_maps(master, SIDE)
    made, wanted, off = drawn(gpu, master, maps), computed(master, maps), shaken(master, maps)
    assert np.mean(list(off.values())) < 0.1
    for name in INPUTS:
        assert np.nanmax(np.where(off[name], 0, apart(made[name], wanted[name]))) <= STEP, name
        assert not np.isnan(made[name]).any() or not np.isfinite(wanted[name]).all(), name


@pytest.mark.parametrize("name", OPERATIONS)
def test_every_operation_gives_the_same_surface(gpu, name):
    master = operation_master(name)
    maps = sample_maps(master, SIDE)
    made, wanted, off = drawn(gpu, master, maps), computed(master, maps), shaken(master, maps)
    assert np.nanmax(np.where(off["emissive"], 0, apart(made["emissive"], wanted["emissive"]))) <= STEP


@pytest.mark.parametrize("name", ready_masters())
def test_ready_made_masters_give_the_same_surface(gpu, name):
    master = parse_master(ready_master(name))
    maps = sample_maps(master, SIDE)
    made, wanted, off = drawn(gpu, master, maps), computed(master, maps), shaken(master, maps)
    for one in master.inputs:
        # What is read between texels is weighed in steps of 1/256 by hardware.
        assert np.nanmax(np.where(off[one], 0, apart(made[one], wanted[one]))) <= 2 * STEP, one


def test_functions_give_the_same_surface(gpu):
    master = function_master()
    maps = sample_maps(master, SIDE)
    made, wanted, off = drawn(gpu, master, maps), computed(master, maps), shaken(master, maps)
    for one in master.inputs:
        assert np.nanmax(np.where(off[one], 0, apart(made[one], wanted[one]))) <= STEP, one


def test_coordinates_are_read_alike_between_texels(gpu):
    document = {
        "format": "fair-texel/master", "version": 1, "name": "turned",
        "slots": [{"name": "colour", "role": "base_color"}, {"name": "bumps", "role": "normal"}],
        "coordinates": [{"name": "main", "tiling": [1.5, 0.75], "offset": [0.1, 0.3], "rotation": 33}],
        "inputs": {"base_color": "colour", "normal": "bumps"},
    }  # fmt: skip
    master = parse_master(document)
    maps = sample_maps(master, SIDE)
    made, wanted = drawn(gpu, master, maps), computed(master, maps)
    # Hardware weighs neighbours in steps of 1/256; the waves differ by a few steps of 8 bits from texel to texel.
    assert np.abs(made["base_color"] - wanted["base_color"]).max() <= STEP
    assert np.abs(made["normal"] - wanted["normal"]).max() <= 2 * STEP, "vectors span twice as far as what is stored"
