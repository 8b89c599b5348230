"""Sheets: expressions and chains are one tree; kinds, remarks, back ends, versions."""

import copy

import numpy as np
import pytest

from tests.sheets import random_tree
from texel.errors import BadDocument, BadExpression
from texel.image import Texels
from texel.materials import (
    chain_of,
    checked_changes,
    cost_of,
    deciding,
    evaluate,
    parse_chain,
    parse_expression,
    parse_master,
    read_document,
    remarks_on,
    shader_of,
    text_of,
    tree_of,
    used_variants,
    values_of,
)  # fmt: skip
from texel.materials.filling import SlotBinding, binding_remarks, slot_target
from texel.materials.versions import carried, changes_between, next_number, sample_maps
from texel.roles import Role, Transfer
from texel.sets import MapRef, TextureSet

SOLID = {
    "format": "fair-texel/master", "version": 1, "name": "plain-solid", "title": "Plain Solid",
    "slots": [
        {"name": "colour_map", "role": "base_color", "title": "Colour"},
        {"name": "pack", "layout": "occlusion-roughness-metallic", "title": "Pack"},
        {"name": "bumps", "role": "normal", "title": "Bumps"},
    ],
    "parameters": [
        {"name": "shade", "kind": "colour", "default": [1, 1, 1], "title": "Shade"},
        {"name": "bump", "kind": "number", "default": 1, "low": 0, "high": 4, "title": "Bump"},
        {"name": "worn", "kind": "switch", "default": False, "title": "Worn"},
        {"name": "tiles", "kind": "vector", "default": [1, 1], "title": "Tiles"},
    ],
    "coordinates": [{"name": "main", "tiling": "tiles"}],
    "rows": [{"name": "wear", "expression": "levels(pack.r, 0.2, 0.8)"}],
    "inputs": {
        "base_color": "occlude(colour_map * shade, pack.r, 0.5)", "roughness": "choose(pack.g * wear, worn, pack.g)",
        "metallic": "pack.b", "normal": "strengthen(bumps, bump)", "occlusion": "pack.r",
    },
}  # fmt: skip


def solid(**changes):
    document = copy.deepcopy(SOLID)
    for key, value in changes.items():
        document[key] = document[key] | value if isinstance(value, dict) else value
    return parse_master(document)


@pytest.mark.parametrize("seed", range(60))
def test_text_and_chain_are_the_same_tree(seed):
    tree = random_tree(np.random.default_rng(seed), ["a", "b_2", "uv"])
    assert parse_expression(text_of(tree)) == tree
    assert tree_of(chain_of(tree)) == tree
    assert tree_of(parse_chain(chain_of(tree).document())) == tree


@pytest.mark.parametrize(
    ("text", "start", "reason"),
    [
        ("", 0, "missing"), ("a +", 3, "missing or too much"), ("a + $", 4, "missing or too much"),
        ("a + wobble(2)", 4, "no operation wobble"), ("mix(a, b)", 0, "takes 3 values"),
        ("a.rgq", 0, "names no channels"), ("a ** 2", 0, "only numbers"), ("a if b else c", 0, "only numbers"),
        ("__import__('os')", 0, "no operation"), ("a.__class__", 0, "names no channels"), ("[1][0]", 0, "only numbers"),
        ("lambda: 1", 0, "only numbers"), ("1e999", 0, "numbers go up to"), ("'x'", 0, "only numbers may"),
        ("mix(a, b, share=1)", 0, "without names"), ("True", 0, "only numbers may"), ("a + é", 4, "no place"),
        ("(" * 300 + "a" + ")" * 300, None, "nested|too much"), ("-" * 200 + "a", None, "nested"),
        ("a+" * 300 + "a", None, "nested|parts"),
        ("9" * 999, 0, "numbers go up to"), ("a" * 1001, None, "1000 characters"), ("f(a)(b)", 0, "no operation"),
    ],
)  # fmt: skip
def test_what_is_no_expression_is_refused_with_its_place(text, start, reason):
    with pytest.raises(BadExpression, match=reason) as caught:
        parse_expression(text)
    assert start is None or caught.value.start == start
    assert caught.value.end >= caught.value.start


@pytest.mark.parametrize(
    ("chain", "reason"),
    [
        ({"start": "a"}, "a start and steps"), ({"start": "a", "steps": [{"step": "fly"}]}, "no operation"),
        ({"start": "a", "steps": [{"step": "mix", "with": ["b"]}]}, "takes with, share"),
        ({"start": "a", "steps": [{"step": "channels", "letters": "r + b"}]}, "no channels"),
        ({"start": "a", "steps": [3]}, "a start and steps"),
    ],
)  # fmt: skip
def test_broken_chains_are_refused(chain, reason):
    with pytest.raises(BadDocument, match=reason):
        parse_chain(chain)


def test_the_semantics_that_docs_promise():
    def value(text):
        master = solid(inputs={"roughness": text})
        return evaluate(master, {}, {}, 2, 2)["roughness"][0, 0, 0]

    assert value("bump / 0") == 0
    assert value("power(0 - 2, 2)") == 0
    assert value("power(0, 0)") == 1
    assert value("root(0 - 4)") == 0
    assert value("levels(0.5, 0.5, 0.5)") == 0
    assert value("normalise(vector(0, 0, 0)).b") == 1
    # Rec. ITU-R BT.709 luminance of pure green.
    assert value("luminance(rgb(0, 1, 0))") == pytest.approx(0.7152)
    assert value("smoothstep(0.25, 0, 1)") == pytest.approx(0.15625)
    assert value("pick(0.1, worn, 0.2)") == pytest.approx(0.1)


def test_a_sheet_computes_what_its_words_say():
    rng = np.random.default_rng(1)
    colour = Texels(rng.integers(0, 256, (8, 8, 3), np.uint8), "rgb", Transfer.SRGB, Role.BASE_COLOR)
    pack = Texels(rng.integers(0, 256, (8, 8, 3), np.uint8), "rgb", Transfer.LINEAR)
    made = evaluate(solid(), {"colour_map": colour, "pack": pack}, {"shade": (0.5, 1, 1), "worn": (1,)}, 8, 8)
    unit = pack.pixels / 255
    # IEC 61966-2-1, the whole curve.
    stored = colour.pixels / 255
    linear = np.where(stored <= 0.04045, stored / 12.92, ((stored + 0.055) / 1.055) ** 2.4)
    wanted = linear * (0.5, 1, 1) * (0.5 + 0.5 * unit[:, :, :1])
    assert np.abs(made["base_color"] - wanted).max() < 1e-5
    wear = np.clip((unit[:, :, :1] - 0.2) / 0.6, 0, 1)
    assert np.abs(made["roughness"] - unit[:, :, 1:2] * wear).max() < 1e-5
    assert np.allclose(made["normal"], (0, 0, 1))
    assert made["emissive_strength"].shape == (8, 8, 1)


def test_coordinates_tile_turn_and_move():
    rng = np.random.default_rng(2)
    pack = Texels(rng.integers(0, 256, (8, 8, 3), np.uint8), "rgb", Transfer.LINEAR)

    def occlusion(**coordinates):
        master = solid(coordinates=[{"name": "main", **coordinates}], parameters=SOLID["parameters"][:3])
        return evaluate(master, {"pack": pack}, {}, 8, 8)["occlusion"][:, :, 0]

    plain = occlusion()
    assert np.abs(plain - pack.pixels[:, :, 0] / 255).max() < 1e-6
    assert np.allclose(occlusion(offset=[0.25, 0.5]), np.roll(plain, (-4, -2), (0, 1)), atol=1e-5)
    # Half a turn around the corner of a tile that repeats is the picture upside down and mirrored.
    assert np.allclose(occlusion(rotation=180), plain[::-1, ::-1], atol=1e-4)
    twice = occlusion(tiling=[2, 2])
    assert np.allclose(twice[:4, :4], twice[4:, 4:], atol=1e-5)


def checks(master):
    return {(one.check, one.row or one.about) for one in remarks_on(master)}


def test_a_sound_sheet_has_no_remarks():
    assert checks(solid()) == set()


@pytest.mark.parametrize(
    ("inputs", "wanted"),
    [
        ({"base_color": "pack.rgb"}, ("linear_as_colour", "base_color")),
        ({"roughness": "colour_map.r"}, ("colour_as_data", "roughness")),
        ({"normal": "pack.r"}, ("not_a_normal", "normal")),
        ({"normal": "colour_map"}, ("not_a_normal", "normal")),
        ({"roughness": "pack"}, ("wrong_size", "roughness")),
        ({"base_color": "bumps"}, ("normal_as_value", "base_color")),
        ({"roughness": "pack.g * 2"}, ("leaves_range", "roughness")),
        ({"roughness": "pack.g / pack.r"}, ("division_by_zero", "roughness")),
        ({"roughness": "power(pack.g - 0.5, 2)"}, ("power_of_negative", "roughness")),
        ({"roughness": "choose(pack.g, bump, wear)"}, ("not_a_choice", "roughness")),
        ({"roughness": "uv + pack.rgb"}, ("misfit", "roughness")),
        ({"roughness": "bump.g"}, ("misfit", "roughness")),
        ({"normal": "bumps"}, ("idle_parameter", "bump")),
        ({"roughness": "pack.g"}, ("unused_row", "wear")),
        ({"base_color": "shade"}, ("unused_slot", "colour_map")),
        ({"opacity": "colour_map.a"}, ("opacity_ignored", "opacity")),
    ],
)  # fmt: skip
def test_what_is_wrong_is_said_in_place(inputs, wanted):
    master = solid(inputs=inputs)
    assert wanted in checks(master)
    for one in remarks_on(master):
        assert one.span.end <= len(text_of(dict(master.trees())[one.row])) if one.row else True
        if one.remedy:
            mended = solid(inputs=inputs | {one.row: one.remedy})
            assert (one.check, one.row) not in checks(mended), "a remedy mends what it was offered for"


@pytest.mark.parametrize(
    ("changes", "reason"),
    [
        ({"inputs": {"roughness": "nothing"}}, "there is no nothing"),
        ({"rows": [*SOLID["rows"], {"name": "a", "expression": "b"}, {"name": "b", "expression": "a"}]}, "in a circle"),
        ({"rows": [{"name": "pack", "expression": "1"}]}, "stands there twice"),
        ({"rows": [{"name": "uv", "expression": "1"}]}, "word of the sheet"),
        ({"rows": [{"name": "a__b", "expression": "1"}]}, "does not match"),
        ({"slots": [{"name": "x"}]}, "a role or a layout"),
        ({"slots": [{"name": "x", "layout": "nope"}]}, "spells channels"),
        ({"slots": [*SOLID["slots"], {"name": "x", "role": "height", "coordinates": "far"}]}, "no coordinates far"),
        ({"coordinates": [{"name": "main", "tiling": "pack.r"}]}, "may differ from place to place"),
        ({"parameters": [{"name": "n", "kind": "number", "default": 5, "high": 1}]}, "goes from"),
        ({"parameters": [{"name": "n", "kind": "choice", "default": "x", "options": ["x"]}]}, "at least two"),
        ({"parameters": [{"name": "n", "kind": "switch", "default": 1}]}, "true or false"),
        ({"parameters": [{"name": "n", "kind": "colour", "default": [1, 1]}]}, "3 numbers"),
    ],
)  # fmt: skip
def test_documents_that_make_no_sense_are_refused(changes, reason):
    with pytest.raises(BadDocument, match=reason):
        solid(**changes)


def test_a_problem_is_told_with_its_row_and_place():
    told = read_document(SOLID | {"inputs": {"roughness": "pack.g * ("}})
    assert told["sheet"] is None
    assert (told["problem"]["row"], told["problem"]["start"]) == ("roughness", 9)
    told = read_document(SOLID)
    assert told["problem"] is None
    assert {row["name"] for row in told["sheet"]["rows"]} == {"wear", *SOLID["inputs"]}
    assert read_document(3)["problem"]["row"] == ""


def test_the_shader_declares_what_it_uses():
    shader = shader_of(solid())
    assert {one["name"] for one in shader.uniforms} == {
        "u_shade", "u_bump", "u_worn", "u_tiles", "m_colour_map", "m_pack", "m_bumps",
    }  # fmt: skip
    assert shader.code.count("texture(") == 3
    assert "float r_wear = ft_levels(s_pack.r, 0.2, 0.8);" in shader.code


def test_cost_counts_reads_arithmetic_and_variants():
    master = solid()
    assert (cost_of(master).reads, cost_of(master).variants) == (3, 2)
    assert cost_of(master).arithmetic == 6
    values = [values_of(master, checked_changes(master, changes)) for changes in ({}, {"bump": 2}, {"worn": True})]
    assert used_variants(deciding(master), values) == 2


@pytest.mark.parametrize(
    ("change", "number"),
    [
        (lambda d: d["parameters"].pop(1) and d["inputs"].update(normal="bumps"), (2, 0, 0)),
        (lambda d: d["slots"][1].update(layout="metallic-roughness-occlusion"), (2, 0, 0)),
        (lambda d: d["parameters"][1].update(high=2), (2, 0, 0)),
        (lambda d: d["parameters"][1].update(default=2), (1, 3, 0)),
        (lambda d: d["inputs"].update(metallic="pack.b * 0.5"), (1, 3, 0)),
        (lambda d: d["inputs"].update(metallic="pack.b * 1"), (1, 2, 4)),
        (lambda d: d["inputs"].update(metallic="pack.b + maximum(bump - 3.9, 0)"), (1, 3, 0)),
        (lambda d: d["inputs"].update(metallic="pack.b + maximum(bump - 3.9, 0) * worn"), (1, 3, 0)),
        (lambda d: d["inputs"].update(metallic="pack.b / maximum(tiles.r - tiles.g + 1999, 0) * 0"), (1, 3, 0)),
        (lambda d: d["coordinates"][0].update(uv_set=1), (1, 3, 0)),
        (lambda d: d.update(help="For anything dull."), (1, 2, 4)),
        (lambda d: d["parameters"].append({"name": "new", "kind": "number", "default": 0}), (1, 2, 4)),
    ],
)
def test_a_version_is_numbered_by_what_it_breaks(change, number):
    document = copy.deepcopy(SOLID)
    change(document)
    changes = changes_between(solid(), parse_master(document))
    assert changes
    assert next_number((1, 2, 3), changes) == number
    assert changes_between(solid(), solid()) == []


def test_a_choice_in_another_order_begins_where_it_began():
    choice = {"name": "look", "kind": "choice", "default": "wet", "options": ["dry", "wet"]}
    rows = {"roughness": "pick(0.9, look, 0.1)"}
    turned = {"roughness": "pick(0.1, look, 0.9)"}
    old = solid(parameters=[*SOLID["parameters"], choice], inputs=rows)
    new = solid(parameters=[*SOLID["parameters"], choice | {"options": ["wet", "dry"]}], inputs=turned)
    assert {one.breaks for one in changes_between(old, new)} == {"keeps"}
    other = solid(parameters=[*SOLID["parameters"], choice | {"options": ["wet", "dry"]}], inputs=rows)
    assert "changes" in {one.breaks for one in changes_between(old, other)}


def _remarks(inputs, rows=()):
    document = copy.deepcopy(SOLID) | {"inputs": inputs, "rows": list(rows)}
    return {(one.check, one.about) for one in remarks_on(parse_master(document)) if one.severity != "note"}


@pytest.mark.parametrize(
    ("inputs", "rows", "found"),
    [
        ({"roughness": "mid"}, [("mid", "colour_map.r * 0.5")], ("colour_as_data", "colour_map")),
        ({"roughness": "far"}, [("mid", "colour_map.r"), ("far", "mid * 0.5")], ("colour_as_data", "colour_map")),
        ({"base_color": "mid"}, [("mid", "pack.rgb * 0.5")], ("linear_as_colour", "pack")),
    ],
)
def test_what_a_slot_means_is_followed_through_rows(inputs, rows, found):
    named = [{"name": name, "expression": text} for name, text in rows]
    assert found in _remarks(inputs, named)


@pytest.mark.parametrize("expression", ["levels(pack.g, 0.5, 0.5)", "smoothstep(pack.g, bump, bump)"])
def test_levels_whose_ends_are_one_are_told(expression):
    assert ("levels_without_span", "") in _remarks({"roughness": expression})
    assert ("levels_without_span", "") not in _remarks({"roughness": "levels(pack.g, 0.2, 0.5)"})


def test_a_range_without_ends_is_told_as_such():
    (found,) = [
        one for one in remarks_on(solid(inputs={"roughness": "tiles.r - tiles.g + uv.r * 0"})) if one.row == "roughness"
    ]
    assert "minus infinity to infinity" in found.message


def test_two_coordinates_of_one_name_are_refused():
    with pytest.raises(BadDocument, match="coordinates main stand there twice"):
        solid(coordinates=[{"name": "main"}, {"name": "main", "rotation": 90}])


def test_a_cast_carries_over_what_the_new_version_takes():
    master = solid()
    told = carried(
        {"bump": 9, "worn": True, "shade": [1, 0, 0], "gone": 1},
        lambda name, value: checked_changes(master, {name: value}),
        {"shade": ""},
    )
    assert told.kept == {"worn": True}
    assert set(told.lost) == {"bump", "shade", "gone"}


def test_sample_maps_fit_their_slots():
    found = sample_maps(solid())
    assert {name: texels.channels for name, texels in found.items()} == {
        "colour_map": "rgb", "pack": "rgba", "bumps": "rgb",
    }  # fmt: skip
    lengths = np.linalg.norm(found["bumps"].pixels / 127.5 - 1, axis=2)
    assert np.abs(lengths - 1).max() < 0.02


def test_wrong_fills_are_found():
    master = solid()
    deck = TextureSet("deck", tuple(MapRef(role, f"{role}.png") for role in (Role.BASE_COLOR, Role.GLOSSINESS)))
    fills = {"colour_map": SlotBinding("deck"), "pack": SlotBinding("deck"), "bumps": SlotBinding("gone")}
    found = {(one.check, one.slot, one.severity.value) for one in binding_remarks(master, fills, {"deck": deck})}
    assert found == {("map_missing", "pack", "warning"), ("set_missing", "bumps", "error")}
    remarks = binding_remarks(master, {"colour_map": SlotBinding("deck", Role.GLOSSINESS)}, {"deck": deck})
    assert {one.check for one in remarks} == {"wrong_role", "wrong_colour_space", "slot_empty"}
    assert slot_target(master.slots["pack"]).outputs[0].colour_space is Transfer.LINEAR


def layered(**mask):
    """Flat red below, flat blue above, by the vertex colour's red."""

    def flat(colour, height):
        inputs = {"base_color": "own", "height": str(height), "normal": "normalise(vector(0.5, 0, 1))"}
        return {"parameters": [{"name": "own", "kind": "colour", "default": colour}], "inputs": inputs}

    layers = [
        {"name": "under", "sheet": flat([1, 0, 0], 0.2)},
        {"name": "over", "sheet": flat([0, 0, 1], 0.8), "mask": {"edge": 0, **mask}},
    ]
    return parse_master({"format": "fair-texel/master", "version": 1, "name": "two", "layers": layers})


@pytest.mark.parametrize(
    ("mask", "red", "share"),
    [
        ({}, 0, 0), ({}, 1, 1), ({}, 0.5, 0.5), ({"softness": 0.2}, 0.3, 0), ({"contrast": 1}, 0.6, 1),
        ({"contrast": 0.5, "softness": 1}, 0.5, 0.5), ({"edge": 1, "softness": 0.1}, 0.4, 1),
        ({"edge": 1}, 0, 0), ({"edge": 1}, 1, 1), ({"source": "none", "amount": 1}, 0, 1),
    ],
)  # fmt: skip
def test_a_layer_lies_where_its_mask_says(mask, red, share):
    made = evaluate(layered(**mask), {}, {}, 2, 2, vertex=(red, 0, 0, 1))
    assert made["base_color"][0, 0] == pytest.approx([1 - share, 0, share], abs=1e-5)
    assert made["height"][0, 0, 0] == pytest.approx(0.2 + 0.6 * share, abs=1e-5)
    assert np.linalg.norm(made["normal"][0, 0]) == pytest.approx(1, abs=1e-5)


def test_layers_keep_their_own_names_parameters_and_borders():
    master = layered(border=1, source="map")
    assert {"under_own", "over_own", "over_softness", "over_border_colour"} <= set(master.parameters)
    assert set(master.slots) == {"over_mask"}
    assert {one.check for one in remarks_on(master)} == set()
    read = read_document(master.document)["sheet"]
    written = {row["name"]: row["origin"] for row in read["rows"]}
    assert written["over_base_color"] == {"layer": "over", "row": "base_color", "is_input": True}
    assert written["over_weight"] is None
    mask = Texels(np.full((2, 2, 1), 128, np.uint8), "y", Transfer.LINEAR)
    edge = evaluate(master, {"over_mask": mask}, {}, 2, 2)["base_color"][0, 0]
    assert edge == pytest.approx(np.array([0.5, 0, 0.5]) * (0.4, 0.35, 0.3), abs=0.01)
    shader_of(master)


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        (lambda d: d["layers"].pop(), "at layers: this is too short"),
        (lambda d: d["layers"][1].update(name="under"), "one name"),
        (lambda d: d["layers"][1]["sheet"]["inputs"].update(height="0.5 +"), "row over_height: something"),
        (lambda d: d.update(inputs={"height": "1"}), "at the top: this is valid under each"),
        (lambda d: d["layers"][1]["mask"].update(source="ultraviolet"), "not one of"),
    ],
)
def test_layers_that_make_no_sense_are_refused(change, reason):
    document = copy.deepcopy(layered().document)
    change(document)
    with pytest.raises(BadDocument, match=reason):
        parse_master(document)
