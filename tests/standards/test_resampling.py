"""Resizing against plain float64 sums over the kernels' definitions, and against Pillow, which is no part of this.

Area: the mean over what an output texel covers. Lanczos: sinc(x) sinc(x / 4), |x| < 4, widened when shrinking
(Duchon 1979; the usual windowed sinc). Light: IEC 61966-2-1. Weighing by alpha: Porter and Duff 1984.
"""

import numpy as np
import pytest
from PIL import Image

from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels
from texel.image import Texels, to_unit
from texel.normals.vectors import decode, unit
from texel.recipes import apply_recipe
from texel.recipes.step import Context
from texel.resize import repeated, resize
from texel.roles import Role, Transfer, facts

SIZES = [(1, 1), (3, 5), (1, 40), (40, 1), (37, 23), (64, 32)]
COUNTS = {"y": 1, "ya": 2, "rg": 2, "rgb": 3, "rgba": 4}


def along(values, axis, wanted, area, wrap=False, repeats=1):
    """One axis by the kernel's definition, texel by texel, in float64."""
    lines = np.moveaxis(np.asarray(values, np.float64), axis, 0)
    count, scale = len(lines), len(lines) * repeats / wanted
    found = np.zeros((wanted, *lines.shape[1:]))
    for at in range(wanted):
        weights = {}
        stretch, middle = max(1.0, scale), (at + 0.5) * scale - 0.5
        reach = 4 * stretch + 2
        for source in range(int(middle - reach), int(middle + reach) + 1):
            if area:
                weight = min(source + 1, (at + 1) * scale) - max(source, at * scale)
            else:
                x = (source - middle) / stretch
                weight = np.sinc(x) * np.sinc(x / 4) if abs(x) < 4 else 0
            if weight > 1e-12 or (not area and weight):
                weights[source] = weight
        for source, weight in weights.items():
            inside = source % count if wrap or repeats > 1 else min(max(source, 0), count - 1)
            found[at] += weight / sum(weights.values()) * lines[inside]
    return np.moveaxis(found, 0, axis)


def light(stored):
    return np.where(stored <= 0.04045, stored / 12.92, ((stored + 0.055) / 1.055) ** 2.4)


def stored_of(linear):
    linear = np.clip(linear, 0, 1)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def reference(texels, width, height, wrap=(False, False)):
    """Plain float64: the picture at another size, 0 to 1, and how much each colour counts."""
    dtype = texels.pixels.dtype
    values = texels.pixels.astype(np.float64) / (1 if dtype == np.float32 else np.iinfo(dtype).max)
    count = len(texels.channels) - texels.has_alpha
    colours, alpha = values[:, :, :count], values[:, :, count:]
    normal = texels.role is Role.NORMAL and count > 1
    if normal:
        colours = 2 * colours - 1
        if count == 2:
            rest = np.sqrt(np.maximum(0, 1 - (colours**2).sum(axis=2, keepdims=True)))
            colours = np.concatenate([colours, rest], axis=2)
    elif texels.transfer is Transfer.SRGB:
        colours = light(colours)
    weighed = texels.has_alpha and facts(texels.role).transfer is Transfer.SRGB
    if weighed:
        colours = colours * alpha
    for axis, wanted in ((0, height), (1, width)):
        area = wanted <= values.shape[axis]
        colours, alpha = (along(one, axis, wanted, area, wrap[axis]) for one in (colours, alpha))
    if weighed:
        colours = colours / np.where(np.abs(alpha) < 1e-9, 1, alpha)
    if normal:
        length = np.linalg.norm(colours, axis=2, keepdims=True)
        colours = (np.where(length > 1e-9, colours / np.maximum(length, 1e-9), [0, 0, 1])[:, :, :count] + 1) / 2
    elif texels.transfer is Transfer.SRGB:
        colours = stored_of(colours)
    found = np.concatenate([colours, alpha], axis=2)
    counts = np.concatenate([np.broadcast_to(alpha > 0.05 if weighed else 1, colours.shape), alpha * 0 + 1], axis=2)
    own = dtype == np.float32 and not normal
    low, high = (values.min(axis=(0, 1)), values.max(axis=(0, 1))) if own else (0, 1)
    return np.clip(found, low, high), counts


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT], ids=str)
@pytest.mark.parametrize("channels", COUNTS)
@pytest.mark.parametrize("role", [Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS, Role.HEIGHT, Role.OPACITY])
def test_every_role_channels_depth_and_size_is_what_float64_makes_of_it(role, channels, dtype):
    step = 1e-4 if dtype == FLOAT else 0.501 / np.iinfo(dtype).max + 2e-5
    for height, width in SIZES:
        texels = random_texels(channels, dtype, width, height, seed=height).as_role(role)
        for wanted in ((width * 2, height * 2), (7, 11), (width, 4)):
            made = resize(texels, *wanted, edges="clamp")
            assert (made.channels, made.pixels.dtype, made.pixels.shape[:2]) == (channels, dtype, wanted[::-1])
            found, counts = reference(texels, *wanted)
            apart = np.abs(to_unit(made.pixels) - found) * counts
            # Of a mean of unrelated vectors hardly a length is left to tell a direction by.
            allowed = 0.02 if role is Role.NORMAL else step
            assert np.quantile(apart, 0.98) <= step, (height, width, wanted)
            assert apart.max() <= allowed + step, (height, width, wanted)


@pytest.mark.parametrize("dtype", [EIGHT, FLOAT], ids=str)
def test_an_enlarged_normal_map_keeps_its_directions(dtype):
    """The fault: any number below zero, from the filter itself, made the map a signed one (18 to 22 degrees)."""
    texels = normal_texels(n=64, strength=40, dtype=dtype)
    made = decode(resize(texels, 150, 150, edges="clamp"))
    wanted = reference(texels, 150, 150)[0] * 2 - 1
    angles = np.degrees(np.arccos(np.clip((unit(made) * unit(wanted.astype(np.float32))).sum(axis=2), -1, 1)))
    assert angles.max() < (0.6 if dtype == EIGHT else 0.1)


def test_shrinking_by_lanczos_folds_no_detail_back():
    """A zone plate (frequency growing outwards): what lies above half the new frequency must become grey."""
    at = np.arange(512) - 255.5
    plate = 0.5 + 0.5 * np.cos(np.pi * (at[:, None] ** 2 + at**2) / 512)
    texels = Texels(plate.astype(np.float32)[:, :, None], "y", Transfer.LINEAR, Role.HEIGHT)
    small = resize(texels, 128, 128, "lanczos").pixels[:, :, 0]
    inner = (np.arange(128) - 63.5)[:, None] ** 2 + (np.arange(128) - 63.5) ** 2 > 50**2
    assert float(small[inner].std()) < 0.03
    by_pillow = np.asarray(Image.fromarray(texels.pixels[:, :, 0]).resize((128, 128), Image.Resampling.LANCZOS))
    # Pillow's Lanczos has three lobes instead of four.
    assert float(np.abs(small - by_pillow)[16:-16, 16:-16].mean()) < 0.02


def test_each_axis_goes_its_own_way():
    texels = random_texels("y", FLOAT, 40, 20).as_role(Role.HEIGHT)
    made = resize(texels, 10, 50, edges="clamp")
    np.testing.assert_allclose(made.pixels, reference(texels, 10, 50)[0], atol=1e-5)


@pytest.mark.parametrize("role", [Role.BASE_COLOR, Role.NORMAL, Role.HEIGHT])
def test_a_map_that_tiles_still_tiles_when_it_is_made_larger(role):
    channels = "y" if role is Role.HEIGHT else "rgb"
    texels = (normal_texels(n=64) if role is Role.NORMAL else random_texels(channels, EIGHT, 64, 64)).as_role(role)
    made = resize(texels, 150, 130)
    moved = resize(texels.with_pixels(np.roll(texels.pixels, (32, 32), (0, 1))), 150, 130)
    assert np.abs(np.roll(moved.pixels.astype(int), (-65, -75), (0, 1)) - made.pixels).max() <= 1


def test_a_map_that_does_not_tile_keeps_its_other_side_out():
    ramp = np.tile(np.linspace(0, 1, 64, dtype=np.float32), (64, 1))[:, :, None]
    made = resize(Texels(ramp, "y", Transfer.LINEAR, Role.HEIGHT), 128, 64).pixels
    assert float(made[:, 0].max()) < 0.01


def test_what_is_seen_through_does_not_tint_what_is_seen():
    pixels = np.zeros((32, 32, 4), np.uint8)
    pixels[8:24, 8:24] = (200, 180, 40, 255)
    pixels[:, :, :3][pixels[:, :, 3] == 0] = (255, 0, 255)
    for size in ((16, 16), (50, 50), (13, 60)):
        made = resize(Texels(pixels, "rgba", Transfer.SRGB, Role.BASE_COLOR), *size).pixels
        seen = made[:, :, 3] > 8
        assert np.abs(made[seen][:, :3].astype(int) - (200, 180, 40)).max() <= 2


@pytest.mark.parametrize("tiles", [3, 7])
def test_each_repeat_of_a_detail_begins_where_it_belongs(tiles):
    """64 is no multiple of 3 or 7: the fault began each repeat at a whole texel, ever further off."""
    texels = random_texels("y", FLOAT, 16, 16).as_role(Role.HEIGHT)
    wanted = along(along(texels.pixels, 0, 64, 16 * tiles >= 64, True, tiles), 1, 64, 16 * tiles >= 64, True, tiles)
    wanted = np.clip(wanted, texels.pixels.min(), texels.pixels.max())
    np.testing.assert_allclose(repeated(texels, 64, 64, tiles), wanted, atol=1e-4)


def test_a_detail_normal_repeats_in_phase():
    base = Texels(np.float32([[[0.5, 0.5, 1]]]).repeat(64, 0).repeat(64, 1), "rgb", Transfer.LINEAR).as_role(
        Role.NORMAL
    )
    detail = normal_texels(n=32, strength=4, dtype=FLOAT).as_role(Role.NORMAL)
    step = {"step": "combine_normal", "detail": "normal/2", "tiles": 3}
    made = decode(apply_recipe(base, [step], Context(other=lambda name: detail)))
    vectors = along(along(decode(detail), 0, 64, True, True, 3), 1, 64, True, True, 3)
    np.testing.assert_allclose(made, unit(vectors.astype(np.float32)), atol=1e-4)
