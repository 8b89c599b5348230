"""What sheets say beyond maps and arithmetic: computed coordinates, where the surface is, noise, curves, vectors."""

import numpy as np
import pytest

from texel.errors import BadExpression
from texel.image import Texels
from texel.materials import cost_of, evaluate, parse_master, read_sheet, remarks_on
from texel.materials.compiled import CompiledEvaluation
from texel.materials.evaluate import placed
from texel.materials.exchange import FilledCast, glb_of, materialx_of, read_gltf, read_materialx
from texel.materials.exchange.lost import lost_by_baking, lost_starts
from texel.materials.operations import OPERATIONS
from texel.materials.remarks import reachable, starts_read
from texel.roles import Role, Transfer

DYE = {"name": "dye", "role": "base_color", "colour_space": "linear"}
BUMP = {"name": "bump", "kind": "number", "default": 1}


def sheet(inputs, **more):
    return parse_master({"format": "fair-texel/master", "version": 1, "name": "probe", "inputs": inputs, **more})


def value(text, place=None, maps=None, side=1, **more):
    """What an expression gives as roughness, over side x side texels."""
    made = evaluate(sheet({"emissive": text}, **more), maps or {}, {}, side, side, place=place)["emissive"]
    return made[0, 0] if side == 1 else made


def colour_map(pixels):
    return Texels(np.asarray(pixels, np.uint8), "rgb", Transfer.LINEAR, Role.BASE_COLOR)


def test_a_map_is_read_where_a_row_says():
    quarters = colour_map([[[255, 0, 0], [0, 255, 0]], [[0, 0, 255], [51, 51, 51]]])
    at = "read(vector(0.75, 0.25), dye)"
    assert value(at, maps={"dye": quarters}, slots=[DYE]).tolist() == [0, 1, 0]
    assert value("read(vector(1.25, -0.25), dye)", maps={"dye": quarters}, slots=[DYE]).tolist() == [0, 0, 1], "repeats"
    assert value(f"rgb({at}.a, {at}.g, 0)", maps={"dye": quarters}, slots=[DYE]).tolist() == [1, 1, 0]


def test_a_cell_of_an_atlas_is_read_by_its_number():
    """Two by two plain cells, counted row by row from the top left."""
    cells = np.array([[0, 50], [100, 150]], np.uint8).repeat(4, 0).repeat(4, 1)[..., None].repeat(3, 2)
    read = [
        value(f"read(cell_of(vector(0.5, 0.5), 2, 2, {n}), dye)", maps={"dye": colour_map(cells)}, slots=[DYE])[0] * 255
        for n in range(5)
    ]
    assert np.rint(read).tolist() == [0, 50, 100, 150, 0]


def test_coordinates_that_are_no_numbers_are_read_all_the_same():
    made = value("read(vector(power(9, 99), 0.5), dye)", maps={"dye": colour_map([[[9, 9, 9]]])}, slots=[DYE])
    assert np.isfinite(made).all()


@pytest.mark.parametrize(
    ("text", "reason"),
    [("read(uv, 0.5)", "name of a slot"), ("read(uv, bump)", "name of a slot"), ("noise(bump)", "2 or 3 components"),
     ("curve(bump, 0, 1, 2)", "at least 5"), ("read(dye, dye)", "takes 2 components"), ("dot(uv, dye)", "do not meet")],
)  # fmt: skip
def test_what_does_not_fit_is_said_at_its_place(text, reason):
    try:
        told = remarks_on(sheet({"roughness": text}, slots=[DYE], parameters=[BUMP]))[0]
        message, start, end = told.message, *told.span
    except BadExpression as error:
        message, start, end = str(error), error.start, error.end
    assert reason in message
    assert end > start


def test_a_curve_goes_straight_from_point_to_point_and_is_level_beyond():
    """Against NumPy's interp."""
    points = [(0.1, 0.8), (0.4, 0.2), (0.45, 0.9), (1, 0.5)]
    flat = ", ".join(f"{x}, {y}" for x, y in points)
    xs = np.linspace(-0.2, 1.3, 31)
    made = [value(f"curve({x:.4f}, {flat})")[0] for x in xs]
    np.testing.assert_allclose(made, np.interp(xs, *zip(*points, strict=True)), atol=1e-5)


@pytest.mark.parametrize("text", ["random_at(uv * 40 + 3)", "random_at(world_position * 40)"])
def test_random_numbers_are_spread_evenly(text):
    place = None if "uv" in text else {}
    made = value(text, place, side=40)[..., 0].ravel()
    counts, _ = np.histogram(made, 8, (0, 1))
    assert (abs(counts / len(made) - 1 / 8) < 0.05).all()
    assert len(np.unique(made)) > 40


def test_random_numbers_stay_the_same_for_ever():
    """From the polynomial by hand: hash(x) = ((34 x + 10) mod 289) x mod 289, one component after the other."""

    def hashed(*cells):
        made = 0
        for at, cell in enumerate(cells):
            low = (cell % 289 + (made if at else 17)) % 289
            made = (34 * low + 10) % 289 * low % 289
        return made / 288

    for cells in [(0, 0), (3, -7), (1000, 250), (-1, -1)]:
        made = value(f"random_at(vector({cells[0]} + 0.5, {cells[1]} + 0.25))")[0]
        assert made == pytest.approx(hashed(*cells), abs=1e-6)


def test_noise_goes_through_its_random_numbers_and_is_smooth_between():
    at_cells = [value(f"noise(vector({x}, 2)) - random_at(vector({x}, 2))")[0] for x in range(5)]
    np.testing.assert_allclose(at_cells, 0, atol=1e-6)
    fine = np.array([value(f"noise(vector({x}, 0.3))")[0] for x in np.linspace(0, 4, 81)])
    # Smoothstep rises by at most 1.5 a unit.
    assert np.abs(np.diff(fine)).max() <= 1.5 / 20 + 1e-6


def test_cells_tell_the_distance_to_the_nearest_point():
    made = value("cells(uv * 6)", side=48)[..., 0]
    assert 0 <= made.min() < 0.1
    assert 0.5 < made.max() <= 1


def test_hues_turn_by_the_published_matrix():
    """W3C Filter Effects Module Level 1, feColorMatrix hueRotate: 0 and whole turns change nothing, 180 degrees by the
    matrix written out; grey stays grey."""
    np.testing.assert_allclose(value("shift_hue(rgb(0.3, 0.5, 0.2), 1)"), [0.3, 0.5, 0.2], atol=2e-3)
    half = np.array([[0.426 - 1, 1.43, 0.144], [0.426, 1.43 - 1, 0.144], [0.426, 1.43, 0.144 - 1]])
    np.testing.assert_allclose(value("shift_hue(rgb(0.3, 0.5, 0.2), 0.5)"), half @ [0.3, 0.5, 0.2], atol=1e-5)
    np.testing.assert_allclose(value("shift_hue(rgb(0.4, 0.4, 0.4), 0.37)"), 0.4, atol=1e-5)


def test_four_tints_lie_where_their_channels_are():
    tints = "rgb(1, 0, 0), rgb(0, 1, 0), rgb(0, 0, 1), rgb(1, 1, 0)"
    for mask, wanted in [("1, 0, 0, 0", [1, 0, 0]), ("0, 0, 1, 0", [0, 0, 1]), ("0, 0, 0, 0.5", [1, 1, 0.5])]:
        assert value(f"tint_by_mask(rgb(1, 1, 1), vector({mask}), {tints})").tolist() == wanted


@pytest.mark.parametrize(
    ("text", "wanted"),
    [("greater(2, 1)", 1), ("greater(1, 1)", 0), ("less(1, 2)", 1), ("near(0.5, 0.6, 0.2)", 1), ("floor(-0.5)", -1),
     ("near(0.5, 0.8, 0.2)", 0), ("remainder(7.5, 2)", 1.5), ("remainder(-0.5, 2)", 1.5), ("length(rgb(2, 3, 6))", 7),
     ("dot(rgb(1, 2, 3), rgb(4, 5, 6))", 32)],
)  # fmt: skip
def test_comparisons_and_small_arithmetic(text, wanted):
    assert value(text)[0] == pytest.approx(wanted, abs=1e-6)


def test_normals_go_to_the_world_and_back():
    place = {
        "world_normal": (0.36, 0.8, 0.48),
        "world_tangent": (0.8, 0.0, -0.6),
        "world_bitangent": (-0.48, 0.6, -0.64),
    }
    there = value("to_world(normalise(rgb(0.6, 0, 0.8)))", place)
    np.testing.assert_allclose(there, 0.6 * np.array([0.8, 0, -0.6]) + 0.8 * np.array([0.36, 0.8, 0.48]), atol=1e-6)
    back = value("to_surface(to_world(normalise(rgb(0.6, 0, 0.8))))", place)
    np.testing.assert_allclose(back, [0.6, 0, 0.8], atol=1e-6)


@pytest.mark.parametrize(("facing", "plane"), [((1, 0, 0), (2, 1)), ((0, 1, 0), (0, 2)), ((0, 0, 1), (0, 1))])
def test_triplanar_reads_the_side_that_it_faces(facing, plane):
    """The corner of the world that it looks along plays no part."""
    shades = colour_map((np.arange(64).reshape(8, 8, 1) * 4).repeat(3, 2))
    place = {"world_normal": facing, "world_position": (0.3125, -0.4375, 0.8125)}
    at = [place["world_position"][axis] * (-1 if axis == 1 else 1) for axis in plane]
    wanted = value(f"read(vector({at[0]}, {at[1]}), dye)", maps={"dye": shades}, slots=[DYE])
    made = value("triplanar(world_position, dye, 4)", place, {"dye": shades}, slots=[DYE])
    np.testing.assert_allclose(made, wanted, atol=1e-6)


def test_parallax_moves_what_lies_deeper_further_and_nothing_from_above():
    grey = [colour_map(np.full((4, 4, 3), depth)) for depth in (255, 128, 0)]
    aside = {"view_direction": (0.6, 0.8, 0.0)}
    moved = [value("rgb(parallax(uv, dye, 0.1).r, 0, 0)", aside, {"dye": one}, slots=[DYE])[0] - 0.5 for one in grey]
    # Seen from the right, what lies deep appears further to the left: depth times the tangent of the angle.
    np.testing.assert_allclose(moved, [0, -0.0373, -0.075], atol=1e-3)
    above = value("rgb(parallax(uv, dye, 0.1).r, 0, 0)", None, {"dye": grey[2]}, slots=[DYE])[0]
    assert above == pytest.approx(0.5)


def test_cost_counts_what_is_read_elsewhere_and_steps_within_operations():
    plain = cost_of(sheet({"base_color": "dye"}, slots=[DYE]))
    three = cost_of(sheet({"base_color": "triplanar(world_position, dye, 4)"}, slots=[DYE]))
    assert (plain.reads, three.reads, three.samplers) == (1, 3, 1)
    assert three.arithmetic > 10


def test_baking_says_what_it_assumed_of_the_place():
    master = sheet({"roughness": "levels(world_position.g, 0, 2)", "metallic": "object_random"})
    (told,) = lost_by_baking(master, {}, ["roughness"])
    assert told.startswith("Position in the world: baked as on a flat square metre")
    assert lost_starts(master) == ["Random number of the object: MaterialX has none, so it is 0.5"]


@pytest.mark.parametrize("name", OPERATIONS)
def test_every_operation_says_what_it_is(name):
    one = OPERATIONS[name]
    assert one.label
    assert one.example
    assert len(one.begins_with) >= len(one.arguments) - 1
    assert (one.definition is None) == (one.planes is not None or name == "read")


def test_tiling_offset_and_rotation_are_expressions_of_parameters_and_of_one_or_two_numbers():
    place = {"name": "main", "tiling": "bump * 2", "offset": "vector(bump, 0.5)", "rotation": "(bump - 1) * 90"}
    master = sheet({"emissive": "dye"}, coordinates=[place], parameters=[BUMP], slots=[DYE])
    (one,) = master.coordinates.values()
    assert placed(one, {"bump": (1.5,)}) == ((3.0, 3.0), (1.5, 0.5), 45.0)
    assert "bump" in reachable(master)
    moving = sheet({"emissive": "dye"}, coordinates=[{"name": "main", "offset": "time"}], slots=[DYE])
    assert placed(moving.coordinates["main"], {"time": (0.25,)})[1] == (0.25, 0.25)


@pytest.mark.parametrize(
    ("place", "reason"),
    [({"tiling": "vector(1, 2, bump)"}, "has 3 numbers"), ({"rotation": "vector(bump, 1)"}, "has 2 numbers")],
)
def test_coordinates_of_too_many_numbers_are_told(place, reason):
    (told, *_) = remarks_on(
        sheet({"emissive": "dye"}, coordinates=[{"name": "main", **place}], parameters=[BUMP], slots=[DYE])
    )
    assert (told.check, told.about) == ("misfit", "main")
    assert reason in told.message


@pytest.mark.parametrize("size", [2, 3, 4])
def test_vectors_have_two_to_four_components(size):
    parameters = [{"name": "box", "kind": "vector", "size": size, "default": [0.5] * size}]
    master = sheet({"roughness": "length(box)"}, parameters=parameters)
    assert master.parameters["box"].size == size
    made = evaluate(master, {}, {}, 1, 1)["roughness"]
    assert made.item() == pytest.approx(0.5 * size**0.5)
    (back,) = read_materialx(materialx_of(master))
    assert parse_master(back.document).parameters == master.parameters


def test_names_of_operations_may_be_names_of_a_sheet():
    """New operations must not take the words of sheets that are there."""
    master = sheet({"roughness": "noise + noise(uv * 0)"}, rows=[{"name": "noise", "expression": "0.25"}])
    assert evaluate(master, {}, {}, 1, 1)["roughness"].item() >= 0.25


def test_a_name_of_its_own_goes_before_where_the_surface_is():
    parameters = [{"name": "time", "kind": "number", "default": 0.75}]
    master = sheet({"roughness": "time"}, parameters=parameters)
    assert evaluate(master, {}, {}, 1, 1)["roughness"].item() == 0.75
    assert not read_sheet(master)["moves"]


def test_what_operations_read_of_the_place_is_known():
    snow = sheet({"roughness": "to_world(normalise(vector(0, 0, 1))).g"})
    assert {"world_normal", "world_tangent"} <= starts_read(snow)
    assert evaluate(snow, {}, {}, 1, 1)["roughness"].item() == pytest.approx(1)
    assert read_sheet(sheet({"roughness": "fraction(time)"}))["moves"]


def _strip(**how):
    """Four texels in a row, 0, 85, 170, 255, read along a line from -1 to 2 at their middles."""
    texels = Texels(
        np.arange(4, dtype=np.uint8).reshape(1, 4, 1).repeat(3, 2) * 85, "rgb", Transfer.LINEAR, Role.BASE_COLOR
    )
    slots = [{**DYE, **how}]
    places = [{"name": "main", "tiling": [3, 1], "offset": [-1, 0]}]
    master = sheet({"emissive": "dye"}, slots=slots, coordinates=places)
    slow = evaluate(master, {"dye": texels}, {}, 12, 1)["emissive"][0, :, 0]
    fast = CompiledEvaluation(master, {"dye": texels}, {}, 12, 1).surface()["emissive"][0, :, 0]
    np.testing.assert_allclose(fast, slow, atol=1e-6)
    return np.rint(slow * 3).astype(int).tolist()


@pytest.mark.parametrize(
    ("wrap", "wanted"),
    [("repeat", [0, 1, 2, 3] * 3), ("clamp", [0] * 4 + [0, 1, 2, 3] + [3] * 4),
     ("mirror", [3, 2, 1, 0, 0, 1, 2, 3, 3, 2, 1, 0])],
)  # fmt: skip
def test_beyond_a_picture_it_goes_on_as_its_slot_says(wrap, wanted):
    """As the wrap modes of glTF 2.0, 5.26: REPEAT, CLAMP_TO_EDGE, MIRRORED_REPEAT."""
    assert _strip(wrap=wrap) == wanted
    assert _strip(wrap=wrap, filter="nearest") == wanted


def test_between_texels_the_nearest_is_taken_where_the_slot_says_so():
    halves = colour_map([[[0, 0, 0], [255, 255, 255]]])
    at = "read(vector(0.45, 0.5), dye)"
    assert 0.3 < value(at, maps={"dye": halves}, slots=[DYE])[0] < 0.5
    assert value(at, maps={"dye": halves}, slots=[{**DYE, "filter": "nearest"}])[0] == 0


@pytest.mark.parametrize(("wrap", "kind"), [("clamp", "linear"), ("mirror", "nearest"), ("repeat", "linear")])
def test_wrapping_and_filtering_go_through_the_formats_and_back(wrap, kind):
    slot = {"name": "leaf", "role": "base_color", "wrap": wrap, "filter": kind}
    master = sheet({"base_color": "leaf", "emissive": "read(uv * 2, leaf)"}, slots=[slot])
    (found,) = read_materialx(materialx_of(master))
    assert parse_master(found.document) == master
    plain = sheet({"base_color": "leaf"}, slots=[slot])
    map_ = Texels(np.zeros((2, 2, 3), np.uint8), "rgb", Transfer.SRGB, Role.BASE_COLOR)
    (found,) = read_gltf(glb_of(plain, [FilledCast("Leaf", {}, {"leaf": map_})], 4).data)
    (back,) = parse_master(found.document).slots.values()
    assert (back.wrap, back.filter) == (wrap, kind)
