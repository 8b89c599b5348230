"""Block containers that are cut, bent or lie: each is read right or refused with a reason, and nothing else happens."""

import struct

import numpy as np
import pytest

from tests.pictures import random_texels, simple_set
from texel.blocks import FORMATS
from texel.blocks.encoding import encode_texture
from texel.checks import check_sets
from texel.errors import UnreadableImage
from texel.files import Limits, probe, read
from texel.files.dds import build_dds, cuts_out
from texel.files.ktx2 import build_ktx2
from texel.library import Library
from texel.roles import Role, Transfer
from texel.sets import MapRef, TextureSet

KINDS = {"ktx2": lambda t: build_ktx2(t), "zstd": lambda t: build_ktx2(t, 3), "dds": build_dds}


def built(kind, key="bc7", side=32):
    texels = random_texels("rgba", width=side, height=side).as_role(Role.BASE_COLOR)
    return KINDS[kind](encode_texture(texels, FORMATS[key], "quick"))


def put(tmp_path, kind, data):
    path = tmp_path / f"x.{'dds' if kind == 'dds' else 'ktx2'}"
    path.write_bytes(bytes(data))
    return path


@pytest.mark.parametrize("kind", KINDS)
def test_every_cut_is_refused_with_a_reason(tmp_path, kind):
    whole = built(kind)
    first = read(put(tmp_path, kind, whole)).pixels
    for length in range(0, len(whole), 37):
        path = put(tmp_path, kind, whole[:length])
        try:
            found = read(path)
        except UnreadableImage:
            continue
        # Smaller levels lie behind the first one in a DDS.
        np.testing.assert_array_equal(found.pixels, first)


@pytest.mark.parametrize("kind", KINDS)
def test_bent_bytes_are_read_or_refused(tmp_path, kind):
    whole = bytearray(built(kind))
    rng = np.random.default_rng(11)
    limits = Limits(max_side=4096, max_decoded=64 << 20)
    for _ in range(300):
        bent = bytearray(whole)
        for _ in range(rng.integers(1, 4)):
            bent[rng.integers(0, min(len(bent), 260))] = rng.integers(0, 256)
        path = put(tmp_path, kind, bent)
        try:
            found = read(path, limits)
        except UnreadableImage:
            continue
        assert found.pixels.nbytes <= 64 << 20


@pytest.mark.parametrize(
    ("at", "value", "reason"), [(20, 0, "makes no sense"), (28, 4, "layers"), (40, 99, "makes no sense")]
)
def test_headers_that_lie_are_named(tmp_path, at, value, reason):
    bent = bytearray(built("ktx2"))
    bent[at : at + 4] = struct.pack("<I", value)
    with pytest.raises(UnreadableImage, match=reason):
        probe(put(tmp_path, "ktx2", bent))


@pytest.mark.parametrize("key", ["bc1", "bc3", "bc4", "bc5", "bc7", "etc2a", "astc_8x8"])
def test_odd_sizes_keep_their_size(tmp_path, key):
    texels = random_texels("rgba", width=13, height=7).as_role(Role.BASE_COLOR)
    texture = encode_texture(texels, FORMATS[key], "quick")
    assert [texture.level(n).pixels.shape[:2] for n in range(len(texture.levels))] == [(7, 13), (3, 6), (1, 3), (1, 1)]
    path = put(tmp_path, "ktx2", build_ktx2(texture))
    assert (probe(path).width, probe(path).height) == (13, 7)
    np.testing.assert_array_equal(read(path).pixels, texture.level(0).pixels)


def test_bc1_with_holes_comes_with_its_alpha(tmp_path):
    # First colour not larger than the second: the fourth index is see-through (Khronos Data Format 1.3, S3TC).
    holes = struct.pack("<HHI", 0, 0xFFFF, 0b11_10_01_00)
    solid = struct.pack("<HHI", 0xFFFF, 0, 0b11_10_01_00)
    assert cuts_out(holes)
    assert not cuts_out(solid)
    head = bytearray(built("dds", "bc1", 4)[:148])
    path = put(tmp_path, "dds", head + holes)
    assert probe(path).channels == "rgba"
    assert read(path).pixels[0, :, 3].tolist() == [255, 255, 255, 0]
    assert probe(put(tmp_path, "dds", head + solid)).channels == "rgb"


def test_block_containers_serve_in_sets_and_are_judged_by_their_tag(tmp_path):
    simple_set(tmp_path, "deck")
    colour = read(tmp_path / "deck_bc.png").as_role(Role.BASE_COLOR)
    rough = read(tmp_path / "deck_r.png").as_role(Role.ROUGHNESS)
    (tmp_path / "deck_bc.ktx2").write_bytes(build_ktx2(encode_texture(colour, FORMATS["bc7"], "quick")))
    wet = encode_texture(rough, FORMATS["bc7"], "quick")
    wet = type(wet)(wet.format, wet.width, wet.height, wet.levels, Transfer.SRGB)
    (tmp_path / "deck_r.dds").write_bytes(build_dds(wet))
    library = Library.of_folder(tmp_path)
    one = TextureSet("deck", (
        MapRef(Role.BASE_COLOR, "deck_bc.ktx2"), MapRef(Role.NORMAL, "deck_n.png"),
        MapRef(Role.ROUGHNESS, "deck_r.dds"),
    ))  # fmt: skip
    found = {(f.check, f.role) for f in check_sets([one], library)}
    assert ("tag_against_role", Role.ROUGHNESS) in found
    assert ("tag_against_role", Role.BASE_COLOR) not in found
    assert ("lossy_data", Role.ROUGHNESS) in found
