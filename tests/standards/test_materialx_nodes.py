"""Single nodes and surfaces of foreign MaterialX documents, against what the specification says they give.

Expected values are worked out by hand from the MaterialX specification 1.39 (standard nodes; from memory where its
text is not at hand), not taken from the code.
"""

import colorsys
import math

import numpy as np
import pytest

from texel.materials import evaluate, parse_master
from texel.materials.exchange import read_materialx


def _document(nodes: str, surface: str) -> str:
    return (
        f'<?xml version="1.0"?><materialx version="1.39" colorspace="lin_rec709">{nodes}{surface}'
        '<surfacematerial name="m" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s" />'
        "</surfacematerial></materialx>"
    )


def _inputs(given: dict[str, tuple[str, str]]) -> str:
    return "".join(f'<input name="{name}" type="{kind}" value="{value}" />' for name, (kind, value) in given.items())


def _value(nodes: str, kind: str):
    """What the node called n gives to a surface's roughness or colour."""
    name = "base_color" if kind == "color3" else "specular_roughness"
    surface = f'<standard_surface name="s" type="surfaceshader"><input name="{name}" type="{kind}" nodename="n" />'
    (found,) = read_materialx(_document(nodes, surface + "</standard_surface>"))
    assert found.lost == ()
    master = parse_master(found.document)
    made = evaluate(master, {}, found.casts[0].changes, 1, 1)["base_color" if kind == "color3" else "roughness"]
    return made[0, 0]


FLOAT, V2, V3, C3 = "float", "vector2", "vector3", "color3"
ONE_NODE = [
    ("add", FLOAT, {"in1": (FLOAT, "0.25"), "in2": (FLOAT, "0.5")}, 0.75),
    ("subtract", FLOAT, {"in1": (FLOAT, "0.75"), "in2": (FLOAT, "0.5")}, 0.25),
    ("divide", FLOAT, {"in1": (FLOAT, "0.25"), "in2": (FLOAT, "0.5")}, 0.5),
    ("modulo", FLOAT, {"in1": (FLOAT, "0.7"), "in2": (FLOAT, "0.4")}, 0.3),
    ("modulo", FLOAT, {"in1": (FLOAT, "-0.1"), "in2": (FLOAT, "0.4")}, 0.3),
    ("invert", FLOAT, {"in": (FLOAT, "0.25")}, 0.75),
    ("invert", FLOAT, {"in": (FLOAT, "0.25"), "amount": (FLOAT, "0.75")}, 0.5),
    ("absval", FLOAT, {"in": (FLOAT, "-0.25")}, 0.25),
    ("sign", FLOAT, {"in": (FLOAT, "0.25")}, 1.0),
    ("floor", FLOAT, {"in": (FLOAT, "1.75")}, 1.0),
    ("ceil", FLOAT, {"in": (FLOAT, "0.25")}, 1.0),
    ("round", FLOAT, {"in": (FLOAT, "0.75")}, 1.0),
    ("fract", FLOAT, {"in": (FLOAT, "1.75")}, 0.75),
    ("sqrt", FLOAT, {"in": (FLOAT, "0.25")}, 0.5),
    ("power", FLOAT, {"in1": (FLOAT, "0.5"), "in2": (FLOAT, "2")}, 0.25),
    ("sin", FLOAT, {"in": (FLOAT, str(math.pi / 6))}, 0.5),
    ("cos", FLOAT, {"in": (FLOAT, str(math.pi / 3))}, 0.5),
    ("min", FLOAT, {"in1": (FLOAT, "0.25"), "in2": (FLOAT, "0.5")}, 0.25),
    ("max", FLOAT, {"in1": (FLOAT, "0.25"), "in2": (FLOAT, "0.5")}, 0.5),
    ("clamp", FLOAT, {"in": (FLOAT, "2"), "low": (FLOAT, "0"), "high": (FLOAT, "0.5")}, 0.5),
    ("mix", FLOAT, {"bg": (FLOAT, "0.2"), "fg": (FLOAT, "0.6"), "mix": (FLOAT, "0.25")}, 0.3),
    ("smoothstep", FLOAT, {"in": (FLOAT, "0.25"), "low": (FLOAT, "0"), "high": (FLOAT, "1")}, 0.15625),
    (
        "remap", FLOAT,
        {"in": (FLOAT, "0.5"), "inlow": (FLOAT, "0"), "inhigh": (FLOAT, "2"), "outlow": (FLOAT, "0.2"),
         "outhigh": (FLOAT, "0.6")}, 0.3,
    ),
    ("dotproduct", FLOAT, {"in1": (V3, "0.5, 0, 0.5"), "in2": (V3, "1, 1, 0.5")}, 0.75),
    ("magnitude", FLOAT, {"in": (V2, "0.3, 0.4")}, 0.5),
    ("extract", FLOAT, {"in": (V3, "0.1, 0.2, 0.3"), "index": ("integer", "1")}, 0.2),
    # Without weights the specification takes those of ACEScg.
    ("luminance", C3, {"in": (C3, "1, 0, 0")}, 0.2722287),
    ("luminance", C3, {"in": (C3, "1, 0, 0"), "lumacoeffs": (C3, "0.2126, 0.7152, 0.0722")}, 0.2126),
    ("luminance", C3, {"in": (C3, "1, 0, 0"), "lumacoeffs": (C3, "0.3, 0.6, 0.1")}, 0.3),
    ("convert", C3, {"in": (FLOAT, "0.25")}, 0.25),
    ("combine3", C3, {"in1": (FLOAT, "0.1"), "in2": (FLOAT, "0.2"), "in3": (FLOAT, "0.3")}, (0.1, 0.2, 0.3)),
    *(
        (
            category, FLOAT,
            {"value1": (FLOAT, a), "value2": (FLOAT, "0.5"), "in1": (FLOAT, "0.1"), "in2": (FLOAT, "0.9")}, expected,
        )
        for category, a, expected in (
            ("ifgreater", "0.6", 0.1), ("ifgreater", "0.5", 0.9), ("ifgreatereq", "0.5", 0.1),
            ("ifgreatereq", "0.4", 0.9), ("ifequal", "0.5", 0.1), ("ifequal", "0.6", 0.9),
        )
    ),
    *(
        (
            "switch", FLOAT,
            {"in1": (FLOAT, "0.1"), "in2": (FLOAT, "0.2"), "in3": (FLOAT, "0.3"), "which": (FLOAT, which)}, expected,
        )
        for which, expected in (("0", 0.1), ("1", 0.2), ("2", 0.3))
    ),
]  # fmt: skip


_FG, _BG, _MIX = np.array([0.8, 0.3, 0.5, 0.6]), np.array([0.2, 0.9, 0.4, 0.5]), 0.75
_A, _B = _FG[3], _BG[3]
# By MaterialX's own code: libraries/stdlib/genglsl/stdlib_genglsl_impl.mtlx and the files beside it.
BLENDED = {
    "plus": _BG + _FG, "minus": _BG - _FG, "difference": abs(_BG - _FG), "screen": 1 - (1 - _FG) * (1 - _BG),
    "burn": 1 - (1 - _BG) / _FG, "dodge": _BG / (1 - _FG), "in": _FG * _B, "mask": _BG * _A, "out": _FG * (1 - _B),
    "over": _FG + _BG * (1 - _A),
    "matte": np.append(_FG[:3] * _A + _BG[:3] * (1 - _A), _A + _B * (1 - _A)),
    "disjointover": np.append(_FG[:3] + _BG[:3] * ((1 - _A) / _B), 1),
}  # fmt: skip


def _words(values):
    return ", ".join(f"{value:g}" for value in values)


@pytest.mark.parametrize("category", BLENDED)
def test_layers_over_each_other(category):
    given = {"fg": ("color4", _words(_FG)), "bg": ("color4", _words(_BG)), "mix": (FLOAT, f"{_MIX}")}
    blend = f'<{category} name="b" type="color4">{_inputs(given)}</{category}>'
    colour = '<convert name="n" type="color3"><input name="in" type="color4" nodename="b" /></convert>'
    alpha = '<extract name="n" type="float"><input name="in" type="color4" nodename="b" />'
    alpha += '<input name="index" type="integer" value="3" /></extract>'
    expected = BLENDED[category] * _MIX + _BG * (1 - _MIX)
    np.testing.assert_allclose(_value(blend + colour, C3), expected[:3], atol=2e-5)
    np.testing.assert_allclose(_value(blend + alpha, FLOAT), expected[3:], atol=2e-5)


@pytest.mark.parametrize("colour", ["0.8, 0.3, 0.5", "0.1, 0.9, 0.2", "0.2, 0.3, 0.9", "0.4, 0.4, 0.4", "0, 0, 0"])
def test_hue_saturation_and_value_there_and_back(colour):
    """Python's colorsys has the same two conversions."""
    rgb = [float(part) for part in colour.split(",")]
    there = f'<rgbtohsv name="n" type="color3">{_inputs({"in": (C3, colour)})}</rgbtohsv>'
    np.testing.assert_allclose(_value(there, C3), colorsys.rgb_to_hsv(*rgb), atol=1e-5)
    back = f'<hsvtorgb name="n" type="color3">{_inputs({"in": (C3, colour)})}</hsvtorgb>'
    np.testing.assert_allclose(_value(back, C3), colorsys.hsv_to_rgb(*rgb), atol=1e-5)


@pytest.mark.parametrize(("category", "expected"), [("premult", (0.4, 0.1, 0.2)), ("unpremult", (1.6, 0.4, 0.8))])
def test_colours_times_their_alpha(category, expected):
    node = f'<{category} name="b" type="color4">{_inputs({"in": ("color4", "0.8, 0.2, 0.4, 0.5")})}</{category}>'
    node += '<convert name="n" type="color3"><input name="in" type="color4" nodename="b" /></convert>'
    np.testing.assert_allclose(_value(node, C3), expected, atol=1e-5)


@pytest.mark.parametrize(
    ("kind", "text", "wanted", "expected"),
    [
        (FLOAT, "0.25", "color4", (0.25, 0.25, 0.25, 0.25)), (V2, "0.1, 0.2", V3, (0.1, 0.2, 0)),
        (V2, "0.1, 0.2", "color4", (0.1, 0.2, 0, 1)), (C3, "0.1, 0.2, 0.3", "color4", (0.1, 0.2, 0.3, 1)),
    ],
)  # fmt: skip
def test_wider_values_are_filled_as_the_library_fills_them(kind, text, wanted, expected):
    """MaterialX's graphs for its convert nodes (libraries/stdlib/stdlib_ng.mtlx, 1.39)."""
    node = f'<convert name="w" type="{wanted}">{_inputs({"in": (kind, text)})}</convert>'
    for index, value in enumerate(expected):
        taken = f'<extract name="n" type="float"><input name="in" type="{wanted}" nodename="w" />'
        taken += f'<input name="index" type="integer" value="{index}" /></extract>'
        np.testing.assert_allclose(_value(node + taken, FLOAT), [value], atol=1e-6)


def test_vectors_crossed_and_turned_by_a_matrix():
    cross = f'<crossproduct name="c" type="vector3">{_inputs({"in1": (V3, "1, 2, 3"), "in2": (V3, "4, 5, 6")})}'
    to_colour = '<convert name="n" type="color3"><input name="in" type="vector3" nodename="c" /></convert>'
    np.testing.assert_allclose(_value(cross + "</crossproduct>" + to_colour, C3), np.cross([1, 2, 3], [4, 5, 6]))
    cells = "0, 1, 0, 0, 0, 2, 3, 0, 0"
    turned = f'<transformmatrix name="c" type="vector3">{_inputs({"in": (V3, "1, 2, 3"), "mat": ("matrix33", cells)})}'
    # Rows one after the other, the vector a row before the matrix, as MaterialX multiplies.
    expected = np.array([1, 2, 3]) @ np.array([float(part) for part in cells.split(",")]).reshape(3, 3)
    np.testing.assert_allclose(_value(turned + "</transformmatrix>" + to_colour, C3), expected)


@pytest.mark.parametrize("index", ["-1", "3", "1000000000"])
def test_a_channel_that_there_is_not_is_told(index):
    node = f'<extract name="n" type="float">{_inputs({"in": (C3, "1, 2, 3"), "index": ("integer", index)})}</extract>'
    surface = '<standard_surface name="s" type="surfaceshader"><input name="metalness" type="float" nodename="n" />'
    (found,) = read_materialx(_document(node, surface + "</standard_surface>"))
    assert any("there is no channel" in one for one in found.lost)


@pytest.mark.parametrize("number", ["inf", "-inf", "nan", "1e999"])
def test_numbers_that_are_none_are_told(number):
    surface = f'<standard_surface name="s" type="surfaceshader">{_inputs({"metalness": (FLOAT, number)})}'
    (found,) = read_materialx(_document("", surface + "</standard_surface>"))
    assert any("no number that can be worked with" in one for one in found.lost)


def test_coloured_opacity_and_a_coloured_default_are_told():
    image = (
        f'<image name="n" type="color3">{_inputs({"file": ("filename", "a.png"), "default": (C3, "1, 0, 0")})}</image>'
    )
    surface = '<standard_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="n" />'
    surface += _inputs({"opacity": (C3, "1, 0.5, 0.25")})
    (found,) = read_materialx(_document(image, surface + "</standard_surface>"))
    assert any(one.startswith("opacity: ") for one in found.lost)
    assert any("without its map it is 1, 0, 0" in one for one in found.lost)


def test_folders_parted_by_backslashes_are_understood():
    image = (
        f'<image name="n" type="color3">{_inputs({"file": ("filename", chr(92).join(["maps", "rust.png"]))})}</image>'
    )
    surface = '<standard_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="n" />'
    (found,) = read_materialx(_document(image, surface + "</standard_surface>"))
    assert list(found.casts[0].files.values()) == ["maps/rust.png"]


@pytest.mark.parametrize(("category", "kind", "given", "expected"), ONE_NODE)
def test_one_node_gives_what_the_specification_says(category, kind, given, expected):
    node = f'<{category} name="n" type="{kind}">{_inputs(given)}</{category}>'
    np.testing.assert_allclose(_value(node, kind), np.broadcast_to(expected, _value(node, kind).shape), atol=1e-5)


def test_outputs_of_a_node_that_takes_a_value_apart():
    apart = '<separate3vec name="v" type="multioutput"><input name="in" type="vector3" value="0.1, 0.2, 0.3" />'
    apart = apart.replace("separate3vec", "separate3") + "</separate3>"
    for output, expected in (("outx", 0.1), ("outy", 0.2), ("outz", 0.3)):
        node = f'<dot name="n" type="float"><input name="in" type="float" nodename="v" output="{output}" /></dot>'
        np.testing.assert_allclose(_value(apart + node, "float"), [expected], atol=1e-6)


def test_a_vector_is_turned_and_made_of_unit_length():
    turned = '<rotate2d name="r" type="vector2"><input name="in" type="vector2" value="0.25, 0.5" />'
    turned += '<input name="amount" type="float" value="90" /></rotate2d>'
    for index, expected in ((0, 0.5), (1, -0.25)):
        node = '<extract name="n" type="float"><input name="in" type="vector2" nodename="r" />'
        node += f'<input name="index" type="integer" value="{index}" /></extract>'
        np.testing.assert_allclose(_value(turned + node, "float"), [expected], atol=1e-5)
    unit = '<normalize name="u" type="vector3"><input name="in" type="vector3" value="3, 0, 4" /></normalize>'
    node = '<convert name="n" type="color3"><input name="in" type="vector3" nodename="u" /></convert>'
    np.testing.assert_allclose(_value(unit + node, "color3"), [0.6, 0, 0.8], atol=1e-5)


SURFACES = [
    (
        "UsdPreviewSurface",
        {"diffuseColor": (C3, "0.1, 0.2, 0.3"), "roughness": (FLOAT, "0.4"), "metallic": (FLOAT, "0.5"),
         "opacity": (FLOAT, "0.6"), "opacityThreshold": (FLOAT, "0.25"), "clearcoat": (FLOAT, "0.7")},
        {"base_color": (0.1, 0.2, 0.3), "roughness": 0.4, "metallic": 0.5, "opacity": 0.6, "coat": 0.7},
        {"mode": "cut_out", "cut_off": 0.25},
    ),
    (
        "gltf_pbr",
        {"base_color": (C3, "0.1, 0.2, 0.3"), "metallic": (FLOAT, "0"), "roughness": (FLOAT, "0.4"),
         "occlusion": (FLOAT, "0.5"), "alpha": (FLOAT, "0.5"), "alpha_mode": ("integer", "2"),
         "emissive": (C3, "1, 0.5, 0"), "emissive_strength": (FLOAT, "3")},
        {"base_color": (0.1, 0.2, 0.3), "metallic": 0, "roughness": 0.4, "occlusion": 0.5, "opacity": 0.5,
         "emissive": (1, 0.5, 0), "emissive_strength": 3},
        {"mode": "blend", "cut_off": 0.5},
    ),
    (
        "standard_surface",
        {"base": (FLOAT, "0.5"), "base_color": (C3, "0.4, 0.2, 0.8"), "metalness": (FLOAT, "1"),
         "specular_roughness": (FLOAT, "0.3"), "coat": (FLOAT, "0.2"), "coat_roughness": (FLOAT, "0.6")},
        {"base_color": (0.2, 0.1, 0.4), "metallic": 1, "roughness": 0.3, "coat": 0.2, "coat_roughness": 0.6},
        None,
    ),
    (
        "open_pbr_surface",
        {"base_weight": (FLOAT, "1"), "base_color": (C3, "0.4, 0.2, 0.8"), "base_metalness": (FLOAT, "0.25"),
         "specular_roughness": (FLOAT, "0.3"), "coat_weight": (FLOAT, "0.5")},
        {"base_color": (0.4, 0.2, 0.8), "metallic": 0.25, "roughness": 0.3, "coat": 0.5},
        None,
    ),
]  # fmt: skip


@pytest.mark.parametrize(("category", "given", "expected", "opacity"), SURFACES, ids=lambda one: str(one)[:20])
def test_a_surface_of_plain_values_is_read(category, given, expected, opacity):
    (found,) = read_materialx(_document("", f'<{category} name="s" type="surfaceshader">{_inputs(given)}</{category}>'))
    master = parse_master(found.document)
    surface = evaluate(master, {}, {}, 1, 1)
    for name, value in expected.items():
        np.testing.assert_allclose(surface[name][0, 0], np.broadcast_to(value, surface[name].shape[2:]), atol=1e-5)
    assert found.document.get("opacity") == opacity
