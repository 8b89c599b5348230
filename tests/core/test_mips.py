"""Mip chains: against arithmetic done by hand, the papers' formulas, and OpenCV's area filter."""

from __future__ import annotations

import itertools

import cv2
import numpy as np
import pytest

from tests.pictures import random_texels
from texel.colour import decode_srgb, encode_srgb
from texel.image import Texels, to_unit
from texel.mips import compare_chains, level_sizes, naive_chain, right_chain
from texel.mips.coverage import coverage, keep_coverage
from texel.mips.roughness import roughened
from texel.normals.vectors import decode, lengths
from texel.roles import Role, Transfer


def _map(pixels, role: Role, channels: str | None = None) -> Texels:
    pixels = np.asarray(pixels)
    pixels = pixels if pixels.ndim == 3 else pixels[:, :, None]
    letters = channels or {1: "y", 3: "rgb", 4: "rgba"}[pixels.shape[2]]
    return Texels(pixels, letters, Transfer.SRGB).as_role(role)


@pytest.mark.parametrize(("size", "levels"), [((1, 1), 1), ((4096, 4096), 13), ((1000, 1000), 10), ((256, 3), 9)])
def test_a_full_chain_has_as_many_levels_as_the_standard_says(size, levels):
    # Khronos KTX 2.0 and Vulkan: floor(log2(max(width, height))) + 1, each side halved and rounded down, at least 1.
    sizes = level_sizes(*size)
    assert len(sizes) == levels == int(np.floor(np.log2(max(size)))) + 1
    assert sizes[-1] == (1, 1)
    assert all(b == (max(1, a[0] // 2), max(1, a[1] // 2)) for a, b in itertools.pairwise(sizes))


def test_level_0_is_the_map_itself():
    for role in (Role.NORMAL, Role.BASE_COLOR, Role.HEIGHT):
        one = _map(np.random.default_rng(0).integers(0, 256, (8, 8, 3), dtype=np.uint8), role)
        assert right_chain(one)[0] is one


def test_colour_is_averaged_in_light():
    # A chequer of black and white gives off half the light: sRGB 188, not 128 (IEC 61966-2-1: 0.5 is 0.7354).
    chequer = np.indices((8, 8)).sum(axis=0) % 2 * 255
    one = _map(np.repeat(chequer[:, :, None], 3, axis=2).astype(np.uint8), Role.BASE_COLOR)
    assert {int(v) for level in right_chain(one)[1:] for v in level.pixels.ravel()} == {188}
    assert {int(v) for level in naive_chain(one)[1:] for v in level.pixels.ravel()} == {128}


def test_colour_levels_are_opencvs_area_filter_of_decoded_light():
    pixels = np.random.default_rng(1).integers(0, 65536, (24, 40, 3), dtype=np.uint16)
    light = decode_srgb(to_unit(pixels))
    chain = right_chain(_map(pixels, Role.BASE_COLOR))
    for level in chain[1:]:
        light = cv2.resize(light, (level.width, level.height), interpolation=cv2.INTER_AREA).reshape(
            level.height, level.width, 3
        )
        assert np.abs(to_unit(level.pixels) - encode_srgb(light)).max() <= 1 / 65535


def test_what_is_seen_through_does_not_colour_its_neighbours():
    pixels = np.zeros((4, 4, 4), np.uint8)
    pixels[:, :2] = (200, 40, 40, 255)
    pixels[:, 2:] = (0, 255, 0, 0)
    last = right_chain(_map(pixels, Role.BASE_COLOR))[-1].pixels[0, 0]
    assert np.abs(last[:3].astype(int) - (200, 40, 40)).max() <= 1
    clear = right_chain(_map(np.full((4, 4, 4), (9, 90, 200, 0), np.uint8), Role.BASE_COLOR))
    assert clear[-1].pixels[0, 0].tolist() == [9, 90, 200, 0]


def test_normals_stay_at_unit_length_and_averaging_shortens_them():
    angles = np.random.default_rng(2).uniform(-0.9, 0.9, (2, 64, 64))
    vectors = np.dstack(
        [np.sin(angles[0]), np.sin(angles[1]) * np.cos(angles[0]), np.cos(angles[0]) * np.cos(angles[1])]
    )
    one = _map(((vectors + 1) * 127.5 + 0.5).astype(np.uint8), Role.NORMAL)
    for level in right_chain(one)[1:]:
        assert np.abs(lengths(decode(level)) - 1).max() < 0.01
    assert compare_chains(right_chain(one), naive_chain(one))["levels"][3]["naive"] < 0.95


def test_lost_length_becomes_roughness_by_toksvigs_factor():
    # Toksvig 2005: s' = ft s with ft = L / (L + s (1 - L)); the lobe of power s is as wide as a = sqrt(2 / (s + 2)).
    for roughness, length in ((0.3, 0.9), (0.5, 0.99), (0.8, 0.5)):
        power = 2 / roughness**4 - 2
        shorter = length / (length + power * (1 - length)) * power
        expected = (2 / (shorter + 2)) ** 0.25
        assert float(roughened(np.float32([roughness]), np.float32([length]))[0]) == pytest.approx(expected, rel=1e-4)
    # The two ends: nothing lost changes nothing; a mirror of scattered normals is rough, and nothing passes 1.
    assert roughened(np.float32([0.0, 0.4, 1.0]), np.float32([1, 1, 1])).tolist() == pytest.approx([0, 0.4, 1])
    assert roughened(np.float32([0.0, 1.0]), np.float32([1e-6, 0.2])).tolist() == pytest.approx([1, 1], abs=1e-3)


def test_roughness_takes_up_what_the_normal_map_loses_and_gloss_the_reverse():
    ridges = np.zeros((64, 64, 3), np.float32)
    ridges[:, :, 0] = np.where(np.arange(64) % 2, 0.6, -0.6)
    ridges[:, :, 2] = 0.8
    normals = _map(((ridges + 1) * 127.5 + 0.5).astype(np.uint8), Role.NORMAL)
    rough = _map(np.full((64, 64), 51, np.uint8), Role.ROUGHNESS)
    gloss = _map(np.full((64, 64), 204, np.uint8), Role.GLOSSINESS)
    # Two vectors 2 x 36.9 degrees apart: their mean has length 0.8.
    expected = float(roughened(np.float32([0.2]), np.float32([0.8]))[0])
    for level, smooth in zip(right_chain(rough, normals)[1:], right_chain(gloss, normals)[1:], strict=True):
        assert np.abs(to_unit(level.pixels) - expected).max() < 0.005
        assert np.abs(1 - to_unit(smooth.pixels) - expected).max() < 0.005
    assert [int(level.pixels.max()) for level in right_chain(rough)] == [51] * 7
    # A normal map of half the size has nothing to lose at its own size.
    half = normals.with_pixels(normals.pixels[::2, ::2].copy())
    assert int(right_chain(rough, half)[1].pixels.max()) == 51


def test_cut_outs_keep_their_coverage_and_plain_averaging_loses_it():
    # Castano 2010: thin leaves thin out in averaged levels; the share above the cut-off stays with scaled alpha.
    noise = cv2.GaussianBlur(np.random.default_rng(4).random((256, 256), dtype=np.float32), (0, 0), 1.2)
    leaves = np.where(noise > np.quantile(noise, 0.8), 255, 0).astype(np.uint8)
    one = _map(leaves, Role.OPACITY)
    found = compare_chains(right_chain(one), naive_chain(one))["levels"]
    assert found[0]["right"] == pytest.approx(0.2, abs=1e-4)
    for level, averaged in zip(found[1:6], naive_chain(one)[1:6], strict=True):
        values = averaged.pixels.ravel()
        # No other scale of this level comes nearer to the share (within a texel, as means are rounded there).
        nearest = min(abs(float(np.mean(values >= value)) - 0.2) for value in np.unique(values))
        assert abs(level["right"] - 0.2) <= nearest + 1.5 / values.size
    assert found[3]["right"] == pytest.approx(0.2, abs=0.01)
    assert found[4]["naive"] < 0.01
    in_alpha = _map(np.dstack([np.full((256, 256, 3), 90, np.uint8), leaves]), Role.BASE_COLOR)
    assert compare_chains(right_chain(in_alpha), naive_chain(in_alpha))["levels"][3]["right"] == pytest.approx(
        0.2, abs=0.01
    )


def test_coverage_is_kept_on_any_field_as_near_as_a_texel():
    rng = np.random.default_rng(3)
    for wanted in (0.05, 0.31, 0.8):
        field = rng.random((32, 32), dtype=np.float32) ** 3
        assert coverage(keep_coverage(field, wanted, 0.5), 0.5) == pytest.approx(wanted, abs=1 / 1024)
    blank = np.zeros((4, 4), np.float32)
    assert keep_coverage(blank, 0.5, 0.5) is blank


def test_soft_opacity_is_a_mean():
    ramp = np.tile(np.arange(256, dtype=np.uint8), (4, 1))
    chain = right_chain(_map(ramp, Role.OPACITY))
    assert abs(int(chain[-1].pixels[0, 0, 0]) - 127) <= 1


@pytest.mark.parametrize("channels", ["rg", "rgb", "rgba"])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_levels_of_a_normal_map_have_its_channels_and_alpha_is_a_mean(channels, dtype):
    """The fault: every normal map with alpha ended in a traceback."""
    pixels = random_texels(channels, dtype, 8, 8).pixels
    chain = right_chain(Texels(pixels, channels, Transfer.LINEAR, Role.NORMAL))
    assert [(one.channels, one.pixels.dtype, one.width) for one in chain] == [
        (channels, np.dtype(dtype), side) for side in (8, 4, 2, 1)
    ]
    if channels == "rgba":
        mean = to_unit(pixels)[:, :, 3].mean()
        assert to_unit(chain[-1].pixels)[0, 0, 3] == pytest.approx(mean, abs=0.003)


@pytest.mark.parametrize("channels", ["y", "ya"])
def test_grey_colour_is_averaged_in_linear_light_too(channels):
    """Black and white in equal parts are 0.5 of the light, stored as 188 (IEC 61966-2-1); 128 was the fault."""
    pixels = np.full((4, 4, len(channels)), 255, np.uint8)
    pixels[:, ::2, 0] = 0
    chain = right_chain(Texels(pixels, channels, Transfer.SRGB, Role.BASE_COLOR))
    assert [int(level.pixels[0, 0, 0]) for level in chain[1:]] == [188, 188]
    measured = compare_chains(chain, naive_chain(chain[0]))["levels"][1]["right"]
    assert measured == pytest.approx(0.5 if channels == "y" else 1, abs=0.003)  # of a cut-out its coverage
