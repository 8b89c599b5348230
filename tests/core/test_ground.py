"""Ground: shape, rules, painting and weights against arithmetic; repetition on a series from plain tiles to noise."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ground.places import CHECKOUT
from texel.errors import BadDocument
from texel.ground.draining import drained
from texel.ground.noise import lattice, value_noise
from texel.ground.painting import add_stroke, painted
from texel.ground.patch import Layer, Stroke, parse_patch
from texel.ground.repetition import VISIBLE, measure_repetition, repetition_of
from texel.ground.surface import Ground, far_maps
from texel.ground.terrain import edge_distance, heights_of, slope_degrees, water
from texel.ground.tiles import Tile, tile_of, tiled
from texel.ground.weights import by_relief, lay, packed_weights, stacked, stored_weights
from texel.image import Texels
from texel.materials.sampling import uv_grid
from texel.roles import Green, Role, Transfer

FLAT = {"kind": "made", "low": 0, "high": 1}


def document(layers=None, **more):
    return {
        "format": "fair-texel/ground", "version": 1, "name": "Flat", "metres": 64, "side": 128, "shape": FLAT,
        "layers": layers or [{"name": "mud", "tile": 4}], **more,
    }  # fmt: skip


def patch(layers=None, **more):
    return parse_patch(document(layers, **more))


def ramp(side=128, rise=0.5):
    """Heights that rise to the east by ``rise`` metres a metre of a texel of half a metre."""
    return np.tile(np.arange(side, dtype=np.float32) * rise * 0.5, (side, 1))


def colours(pixels):
    return Texels(pixels, "rgb", Transfer.SRGB, Role.BASE_COLOR)


def spots(side=64, seed=3):
    """A tile with spots of its own, which the eye finds again in the next one."""
    grey = np.random.default_rng(seed).integers(60, 200, (8, 8, 1)).astype(np.uint8)
    return colours(np.repeat(np.kron(grey, np.ones((side // 8, side // 8, 1), np.uint8)), 3, axis=2))


# Documents.


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"layers": [{"name": "a", "tile": 1}, {"name": "a", "tile": 1}]}, "two layers are called a"),
        ({"shape": {"kind": "made", "low": 2, "high": 1}}, "the highest place is lower"),
        ({"shape": {"kind": "map", "low": 0, "high": 1}}, "names the map"),
        ({"layers": [{"name": "a", "tile": 1, "rule": [{"measure": "edge", "of": "b"}]}]}, "no layer 'b' below"),
        (
            {"layers": [{"name": "a", "tile": 1, "rule": [{"measure": "slope", "from": 9, "to": 1}]}]},
            "from 9 down to 1",
        ),
        ({"side": 100}, "at side"),
        ({"layers": [{"name": str(n), "tile": 1} for n in range(9)]}, "at layers"),
    ],
)
def test_what_is_wrong_with_a_document_is_said(change, words):
    with pytest.raises(BadDocument, match=words):
        parse_patch(document() | change)


def test_strokes_on_layers_that_are_gone_are_left_out():
    stroke = {"layer": "gone", "points": [[1, 1, 1]], "radius": 1, "strength": 1}
    assert patch(strokes=[stroke]).strokes == ()


# Shape and measures.


def test_a_made_shape_fills_its_range_and_is_the_same_every_time():
    shape = {"kind": "made", "low": -2, "high": 3, "seed": 4, "creeks": 0.5}
    one, other = heights_of(patch(shape=shape)), heights_of(patch(shape=shape))
    assert (one.min(), one.max()) == (-2, 3)
    assert np.array_equal(one, other)


def test_another_seed_makes_another_land():
    assert not np.array_equal(*(heights_of(patch(shape=FLAT | {"seed": seed})) for seed in (1, 2)))


def test_a_height_map_of_16_bits_keeps_its_heights():
    pixels = np.random.default_rng(1).integers(0, 65536, (128, 128, 1)).astype(np.uint16)
    shape = {"kind": "map", "low": -10, "high": 55.535, "map": "h.png"}
    made = heights_of(patch(shape=shape), Texels(pixels, "y", Transfer.LINEAR))
    assert np.abs(made - (pixels[:, :, 0] * 0.001 - 10)).max() < 1e-5


def test_a_height_map_that_is_not_there_is_told():
    with pytest.raises(BadDocument, match=r"its height map h\.png is not there"):
        heights_of(patch(shape={"kind": "map", "low": 0, "high": 1, "map": "h.png"}))


def test_the_slope_of_a_ramp_is_its_angle():
    assert np.allclose(slope_degrees(ramp(rise=np.tan(np.radians(30))), 0.5), 30, atol=1e-3)


@given(st.integers(0, 1000))
@settings(max_examples=20, deadline=None)
def test_all_rain_leaves_over_the_border(seed):
    heights = np.random.default_rng(seed).random((12, 17))
    area = drained(heights)
    border = np.ones_like(area, bool)
    border[1:-1, 1:-1] = False
    # What border texels drain came from inside, or is their own.
    assert area[border].sum() == heights.size


def test_water_gathers_in_a_valley():
    x = np.abs(np.arange(65) - 32)
    valley = (x[None, :] + 0.1 * np.arange(65)[:, None]).astype(np.float32)
    found = water(valley)
    assert found[5, 32] > 0.7
    assert found[5, 20] < 0.5


def test_distance_from_an_edge_is_counted_from_where_the_weight_crosses_a_half():
    weight = np.zeros((9, 9), np.float32)
    weight[:, :4] = 1
    assert edge_distance(weight, 2.0)[4].tolist() == [-7, -5, -3, -1, 1, 3, 5, 7, 9]


def test_noise_is_smooth_between_the_numbers_of_its_lattice():
    at = np.array([3.0, 3.0001]), np.array([5.0, 5.0])
    assert value_noise(*at, 7)[0] == lattice(np.array([3]), np.array([5]), 7)[0]
    assert abs(np.diff(value_noise(*at, 7))[0]) < 1e-6


# Rules.


def rule(*terms, below=()):
    return [{"name": "mud", "tile": 4}, *below, {"name": "top", "tile": 4, "rule": list(terms)}]


def test_a_rule_lies_between_its_ends_and_fades_around_them():
    made = lay(patch(rule({"measure": "altitude", "from": 10, "fade": 4})), ramp()).weights[1]
    heights = ramp()
    assert (made[heights >= 12] == 1).all()
    assert (made[heights <= 8] == 0).all()
    assert made[heights == 10][0] == pytest.approx(0.5)


def test_a_term_without_ends_leaves_the_layer_everywhere():
    assert lay(patch(rule({"measure": "slope"})), ramp(rise=2.0)).weights[1].min() == 1


def test_terms_of_a_rule_hold_together():
    terms = ({"measure": "altitude", "from": 10, "fade": 0}, {"measure": "altitude", "to": 20, "fade": 0})
    made = lay(patch(rule(*terms)), ramp()).weights[1]
    assert np.array_equal(made == 1, (ramp() >= 10) & (ramp() <= 20))


def test_slope_keeps_a_layer_off_what_is_steep():
    steep = ramp(rise=1.0)
    assert lay(patch(rule({"measure": "slope", "to": 44, "fade": 0})), steep).weights[1].max() == 0
    assert lay(patch(rule({"measure": "slope", "to": 46, "fade": 0})), steep).weights[1].min() == 1


def test_a_layer_follows_the_edge_of_another():
    sand = {"name": "sand", "tile": 4, "rule": [{"measure": "altitude", "from": 16, "fade": 0}]}
    term = {"measure": "edge", "of": "sand", "from": -2, "to": 2, "fade": 0}
    made = lay(patch(rule(term, below=[sand])), ramp()).weights[2]
    # Half a metre a texel: four texels on each side.
    assert np.flatnonzero(made[0]).tolist() == list(range(60, 68))


def test_noise_of_another_seed_lies_elsewhere():
    made = [lay(patch(rule({"measure": "noise", "from": 0.5, "seed": seed})), ramp()).weights[1] for seed in (1, 2)]
    assert not np.array_equal(*made)
    assert 0.2 < made[0].mean() < 0.8


# Painting.


def stroke(*points, **more):
    given = {"layer": "mud", "radius": 4.0, "strength": 1.0, "falloff": 0.0, **more}
    return Stroke(points=tuple((x, y, p) for x, y, p in points), **given)


def laid(*strokes, metres=64.0, side=128):
    amount = np.zeros((side, side), np.float32)
    for one in strokes:
        add_stroke(amount, one, metres)
    return amount


def test_a_dab_is_a_disc_of_its_radius():
    made = laid(stroke((32, 32, 1)))
    y, x = np.mgrid[:128, :128] * 0.5 + 0.25
    assert np.array_equal(made == 1, np.hypot(x - 32, y - 32) <= 4)


def test_a_stroke_to_and_fro_does_not_add_up_but_a_second_one_does():
    to_and_fro = stroke((20, 32, 1), (40, 32, 1), (20, 32, 1), strength=0.25)
    assert laid(to_and_fro).max() == pytest.approx(0.25)
    assert laid(to_and_fro, to_and_fro).max() == pytest.approx(0.5)


def test_pressure_runs_from_point_to_point():
    made = laid(stroke((16, 32, 0), (48, 32, 1)))
    assert made[64, 64] == pytest.approx(0.5, abs=0.02)


def test_a_stroke_fades_over_its_falloff():
    made = laid(stroke((32, 32, 1), falloff=1.0))
    assert made[64, 64] > 0.9
    assert 0.4 < made[64, 68] < 0.6
    assert made[64, 72] < 0.05


def test_a_mirrored_stroke_lies_on_both_sides():
    made = laid(stroke((16, 32, 1), mirror="x"))
    assert np.array_equal(made, made[:, ::-1])


def test_what_leaves_the_patch_comes_in_on_the_other_side():
    made = laid(stroke((0, 0, 1), wrap=True))
    assert made[0, 0] == made[0, -1] == made[-1, 0] == made[-1, -1] == 1


def test_taking_away_uncovers_what_lies_below():
    strokes = [{"layer": "top", "points": [[32, 32, 1]], "radius": 4, "strength": -1, "falloff": 0}]
    made = lay(patch(rule(), strokes=strokes), ramp()).weights
    assert made[:, 64, 64].tolist() == [1, 0]
    assert made[:, 10, 10].tolist() == [0, 1]


def test_strokes_stay_on_their_layer():
    strokes = [{"layer": "top", "points": [[32, 32, 1]], "radius": 4, "strength": 1}]
    made = painted(patch(rule(), strokes=strokes))
    assert (made[0].max(), made[1].max()) == (0, 1)


def test_the_page_lays_strokes_down_as_is_done_here():
    """The page's own test lays the same strokes and compares with the same file."""
    for case in json.loads((CHECKOUT / "web/src/tests/strokes.json").read_text()):
        points = tuple(tuple(one) for one in case["points"])
        made = laid(Stroke(layer="mud", points=points, **case["brush"]), metres=case["metres"], side=case["side"])
        assert (np.rint(made * 127) + 128).astype(int).ravel().tolist() == case["paint"]


# Weights.


@given(st.integers(1, 8), st.integers(0, 1000), st.sampled_from([8, 16]))
@settings(max_examples=30, deadline=None)
def test_stored_weights_sum_to_full_scale_at_every_texel(count, seed, bits):
    covered = list(np.random.default_rng(seed).random((count, 16, 16)).astype(np.float32) ** 3)
    weights = stacked(covered)
    stored = stored_weights(weights, bits)
    assert np.abs(weights.sum(axis=0) - 1).max() < 1e-6
    assert (stored.sum(axis=0, dtype=np.int64) == 2**bits - 1).all()
    assert np.abs(stored / (2**bits - 1) - weights).max() < 1 / (2**bits - 1) + 1e-6


@given(st.integers(2, 8), st.integers(0, 1000))
@settings(max_examples=30, deadline=None)
def test_weights_shaped_by_relief_sum_to_one(count, seed):
    make = np.random.default_rng(seed)
    weights = stacked(list((make.random((count, 8, 8)) > 0.5).astype(np.float32) * make.random((count, 8, 8))))
    made = by_relief(weights, make.random((count, 8, 8)).astype(np.float32), make.random(count).tolist())
    assert np.abs(made.sum(axis=0) - 1).max() < 1e-5
    assert (made[weights == 0] == 0).all()


def test_where_two_layers_meet_the_higher_relief_shows():
    weights = np.full((2, 1, 2), 0.5, np.float32)
    made = by_relief(weights, np.float32([[[0.9, 0.1]], [[0.1, 0.9]]]), [1.0, 1.0])
    assert made[:, 0].tolist() == [[1, 0], [0, 1]]


def test_weights_are_packed_layer_after_layer():
    stored = np.arange(5, dtype=np.uint8)[:, None, None] * np.ones((5, 2, 2), np.uint8)
    assert [one.pixels[0, 0].tolist() for one in packed_weights(stored, 4)] == [[0, 1, 2, 3], [4, 0, 0, 0]]
    assert [one.channels for one in packed_weights(stored, 3)] == ["rgb", "rgb"]


# Tiles.


def test_a_tile_as_large_as_the_patch_is_laid_once():
    tile = tile_of({Role.BASE_COLOR: spots()})
    made = tiled(tile, Layer("a", 64.0), uv_grid(64, 64), 64.0, 1.0)
    assert np.allclose(made[..., :3], tile.values[..., :3], atol=1e-4)


def test_a_turned_layer_turns_its_normals():
    values = np.zeros((4, 4, 9), np.float32)
    values[..., 3] = 0.5
    made = tiled(Tile(values, 4), Layer("a", 4.0, turn=90), uv_grid(4, 4), 16.0, 4.0)
    assert np.allclose(made[..., 3:5], [0, 0.5], atol=1e-6)


@pytest.mark.parametrize("way", ["two_scales", "hexagons"])
def test_mixing_keeps_the_mean_and_the_contrast(way):
    tile = tile_of({Role.BASE_COLOR: spots()})
    made = tiled(tile, Layer("a", 4.0, repeat=way), uv_grid(256, 256), 64.0, 0.25)[..., 0]
    assert made.mean() == pytest.approx(tile.values[..., 0].mean(), abs=0.02)
    assert made.std() == pytest.approx(tile.at(16)[..., 0].std(), rel=0.25)


def test_maps_of_other_proportions_are_refused():
    wide = Texels(np.zeros((64, 16, 1), np.uint8), "y", Transfer.LINEAR, Role.ROUGHNESS)
    with pytest.raises(BadDocument, match="different proportions"):
        tile_of({Role.BASE_COLOR: colours(np.zeros((64, 64, 3), np.uint8)), Role.ROUGHNESS: wide})


# Repetition.


def ground(repeat="plain", tile=4.0, texels=None):
    one = patch([{"name": "mud", "tile": tile, "repeat": repeat}], shape={"kind": "made", "low": 0, "high": 0})
    heights = heights_of(one)
    return Ground(one, heights, lay(one, heights).weights, [tile_of({Role.BASE_COLOR: texels or spots()})])


def test_repetition_is_ordered_from_plain_tiles_to_noise():
    series = [measure_repetition(ground(way), 20)[0].strength for way in ("plain", "two_scales", "hexagons")]
    noise = colours(np.random.default_rng(5).integers(0, 255, (1024, 1024, 3)).astype(np.uint8))
    series.append(measure_repetition(ground(tile=64.0, texels=noise), 20)[0].strength)
    assert series[0] > 0.8
    assert series[0] > series[1] > series[2] > series[3] - 0.02
    assert series[3] < 0.02


def test_places_one_tile_apart_agree_wholly_in_a_plain_repetition_and_not_in_noise():
    make = np.random.default_rng(2)
    everywhere = np.ones((256, 256), bool)
    plain = np.tile(make.random((32, 32)), (8, 8)).astype(np.float32)
    assert repetition_of(plain, everywhere, [(32, 0), (0, 32)], 48)[1] == pytest.approx(1, abs=0.05)
    noise = make.random((256, 256)).astype(np.float32)
    assert abs(repetition_of(noise, everywhere, [(32, 0), (0, 32)], 48)[1]) < 0.05


def test_an_even_tile_does_not_repeat_for_the_eye():
    grey = colours(np.full((64, 64, 3), 128, np.uint8))
    assert measure_repetition(ground(texels=grey), 20)[0].strength == pytest.approx(0, abs=0.01)


def test_where_it_vanishes_and_what_helps_are_told_for_a_layer():
    found = measure_repetition(ground(), 20, "mud")[0]
    assert found.is_seen
    assert found.vanishes > 4
    assert not measure_repetition(ground(tile=found.vanishes), 20)[0].is_seen
    assert found.remedies[0].layer.repeat == "hexagons"
    assert found.remedies[0].strength < VISIBLE


def test_density_is_told_in_texels_a_metre_and_what_the_distance_needs():
    found = measure_repetition(ground(), 10)[0]
    # 64 texels on 4 m; a screen of 1080 pixels shows 2 tan(30 degrees) 10 m of ground.
    assert found.density == 16
    assert found.needed == pytest.approx(1080 / (20 * np.tan(np.pi / 6)))
    assert found.sharp_from == pytest.approx(10 * found.needed / 16)


def test_too_little_of_a_layer_tells_nothing():
    one = patch(rule({"measure": "altitude", "from": 500}))
    both = Ground(one, ramp(), lay(one, ramp()).weights, [tile_of({})] * 2)
    assert measure_repetition(both, 20)[1].strength is None


# The whole patch.


def test_maps_for_far_away_have_the_layers_colours_and_the_lands_normals():
    one = patch(rule({"measure": "altitude", "from": 16, "fade": 0}))
    tiles = [tile_of({Role.BASE_COLOR: colours(np.full((4, 4, 3), value, np.uint8))}) for value in (50, 200)]
    made = far_maps(Ground(one, ramp(), lay(one, ramp()).weights, tiles), 128, Green.DOWN)
    assert made[Role.BASE_COLOR].pixels[0, [5, 120], 0].tolist() == [50, 200]
    normal = made[Role.NORMAL].pixels[64, 64] / 127.5 - 1
    # A rise of a half to the east leans the normal to the west.
    assert np.allclose(normal, np.array([-0.5, 0, 1]) / np.hypot(1, 0.5), atol=0.01)
