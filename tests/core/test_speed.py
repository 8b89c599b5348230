"""Ways to the same result with less work give that very result: tables, strips, loose PNG."""

import numpy as np
import pytest
from PIL import Image

from demo.patterns import noise
from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels
from texel.colour import decode_srgb, encode_srgb, srgb_to_unit_linear, store_srgb
from texel.files import encode
from texel.image import Texels, narrow, to_unit
from texel.normals.vectors import decode, lengths, unit
from texel.recipes import apply_recipe, parse_step
from texel.recipes.speed import by_strips, by_table
from texel.recipes.step import Context
from texel.roles import Role, Transfer
from texel.strips import SMALL, by_rows, strip_rows

CURVES = [
    {"step": "levels", "black": 0.1, "white": 0.8, "gamma": 2.2, "low": 0.05, "high": 0.9},
    {"step": "power", "exponent": 0.4},
    {"step": "clamp", "low": 0.3, "high": 0.7},
    {"step": "constant", "value": 0.25},
]


def one_by_one(texels, documents):
    """The steps on floats, whole pictures at a time, rounded at the end."""
    floats = texels.with_pixels(to_unit(texels.pixels))
    for document in documents:
        floats = parse_step(document).apply(floats, Context())
    return narrow(floats.pixels, texels.pixels.dtype)


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN])
@pytest.mark.parametrize("channels", ["y", "ya", "rgb", "rgba"])
@pytest.mark.parametrize("count", [1, 2, 4])
def test_curves_by_table_are_the_curves(dtype, channels, count):
    texels = random_texels(channels, dtype, 64, 48)
    made = apply_recipe(texels, CURVES[:count])
    wanted = one_by_one(texels, CURVES[:count])
    # Floats of 32 bits may round the other way at a tie.
    assert np.abs(made.pixels.astype(int) - wanted).max() <= 1
    assert np.mean(made.pixels != wanted) < 0.01
    if "a" in channels:
        np.testing.assert_array_equal(made.channel("a"), texels.channel("a"))


def test_a_table_keeps_what_inverting_twice_must_keep():
    texels = random_texels("rgba", SIXTEEN)
    steps = [{"step": "invert"}, {"step": "power", "exponent": 1}, {"step": "invert"}]
    np.testing.assert_array_equal(apply_recipe(texels, steps).pixels, texels.pixels)
    table = by_table(texels, [parse_step(CURVES[1])], None)
    assert table.pixels.dtype == np.float32


@pytest.mark.parametrize("step", ["renormalise", "z_from_xy", "normal_strength"])
def test_strips_give_what_the_whole_gives(step):
    texels = normal_texels(n=1024)
    assert texels.pixels.size > SMALL
    document = {"step": step, **({"strength": 1.7} if step == "normal_strength" else {})}
    made = apply_recipe(texels, [document])
    whole = one_by_one(texels, [document])
    assert np.abs(made.pixels.astype(int) - whole).max() <= 1
    floats = by_strips(texels, lambda t: t.with_pixels(to_unit(t.pixels)), None)
    np.testing.assert_array_equal(floats.pixels, to_unit(texels.pixels))


@pytest.mark.parametrize("shape", [(1, 1), (7, 3), (3000, 1000), (2000, 500, 3)])
def test_rows_are_worked_on_in_order_and_none_is_lost(shape):
    array = np.arange(np.prod(shape), dtype=np.float32).reshape(shape)
    np.testing.assert_array_equal(by_rows(lambda part: part * 2, array), array * 2)
    np.testing.assert_array_equal(by_rows(lambda part: part.astype(np.uint16), array), array.astype(np.uint16))
    assert 1 <= strip_rows(array) <= shape[0]


def test_an_error_in_a_strip_is_not_swallowed():
    array = np.zeros((4000, 1000), np.float32)
    array[-1, -1] = 1

    def refuse(part):
        if part.max() > 0:
            raise ValueError("here")
        return part

    with pytest.raises(ValueError, match="here"):
        by_rows(refuse, array)


def test_srgb_in_32_bits_is_srgb_in_64():
    values = np.linspace(0, 1, 70001)
    np.testing.assert_allclose(decode_srgb(values.astype(np.float32)), decode_srgb(values), atol=3e-7)
    np.testing.assert_allclose(encode_srgb(values.astype(np.float32)), encode_srgb(values), atol=3e-7)
    assert decode_srgb(np.array(0.5)).shape == ()
    for dtype in (EIGHT, SIXTEEN):
        stored = np.arange(int(np.iinfo(dtype).max) + 1, dtype=dtype)[None, :, None]
        np.testing.assert_array_equal(store_srgb(srgb_to_unit_linear(stored), dtype), stored)


def test_narrowing_large_and_small_arrays_rounds_alike():
    values = np.random.default_rng(2).random((1200, 900), np.float32) * 1.2 - 0.1
    small = np.concatenate([narrow(row[None], EIGHT) for row in values])
    np.testing.assert_array_equal(narrow(values, EIGHT), small)
    assert narrow(np.float32(0.5), EIGHT) == 128
    assert narrow(np.array([0.5, 2.0], FLOAT), FLOAT).tolist() == [0.5, 2.0]


def test_unit_vectors_of_large_maps_with_nothing_in_places():
    texels = normal_texels(n=1024)
    pixels = texels.pixels.astype(np.float32) / 255
    pixels[5, 7] = 0.5
    vectors = unit(decode(Texels(pixels, "rgb", Transfer.LINEAR, Role.NORMAL)))
    np.testing.assert_allclose(lengths(vectors), 1, atol=1e-5)
    np.testing.assert_array_equal(vectors[5, 7], (0, 0, 1))


@pytest.mark.parametrize("channels", ["y", "rgb", "rgba"])
def test_a_loose_png_holds_the_same_picture(tmp_path, channels):
    texels = Texels(narrow(np.repeat(noise(32, 1)[:, :, None], len(channels), 2), EIGHT), channels, Transfer.LINEAR)
    loose, packed = (encode(texels, "png", pack) for pack in (False, True))
    assert len(loose) > len(packed)
    for name, data in (("loose", loose), ("packed", packed)):
        (tmp_path / name).write_bytes(data)
        with Image.open(tmp_path / name) as picture:
            np.testing.assert_array_equal(np.asarray(picture).reshape(texels.pixels.shape), texels.pixels)
