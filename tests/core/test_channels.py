"""Packing and unpacking: bit-exact, checked against a second library."""

import cv2
import numpy as np
import pytest
from PIL import Image

from tests.pictures import EIGHT, FLOAT, SIXTEEN, random_texels
from texel.channels import Layout, Source, layout_named, pack, parse_layout, spell_layout, unpack
from texel.channels.layout import ready_layout
from texel.errors import BadDocument, MismatchedMaps
from texel.image import widen
from texel.roles import Role, Transfer

ORM = (Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC)


def grey(role, dtype=EIGHT, seed=0, **size):
    return random_texels("y", dtype, seed=seed, **size).as_role(role)


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN])
def test_pack_and_unpack_are_exact(dtype):
    maps = {role: grey(role, dtype, seed) for seed, role in enumerate(ORM)}
    packed = pack(spell_layout("orm"), maps)
    assert packed.pixels.dtype == dtype
    assert packed.transfer is Transfer.LINEAR
    back = unpack(spell_layout("orm"), packed)
    for role in ORM:
        np.testing.assert_array_equal(back[role].pixels, maps[role].pixels)


def test_packing_agrees_with_pillow_and_opencv():
    maps = {role: grey(role, seed=seed) for seed, role in enumerate(ORM)}
    ours = pack(spell_layout("orm"), maps).pixels
    planes = [maps[role].pixels[:, :, 0] for role in ORM]
    np.testing.assert_array_equal(ours, np.asarray(Image.merge("RGB", [Image.fromarray(p) for p in planes])))
    np.testing.assert_array_equal(ours, cv2.merge(planes))


def test_missing_maps_become_constants_and_inversion_is_exact():
    layout = Layout(
        "x",
        {
            "r": Source(Role.OCCLUSION, missing=1.0),
            "g": Source(Role.ROUGHNESS, invert=True),
            "b": Source(None, missing=0.25),
            "a": Source(Role.METALLIC, missing=None),
        },
    )
    rough = grey(Role.ROUGHNESS)
    packed = pack(layout, {Role.ROUGHNESS: rough})
    assert packed.channels == "rgb"
    assert set(np.unique(packed.pixels[:, :, 0])) == {255}
    np.testing.assert_array_equal(packed.pixels[:, :, 1], 255 - rough.pixels[:, :, 0])
    assert set(np.unique(packed.pixels[:, :, 2])) == {64}
    np.testing.assert_array_equal(unpack(layout, packed)[Role.ROUGHNESS].pixels, rough.pixels)


def test_eight_bits_widen_exactly_beside_sixteen():
    maps = {Role.OCCLUSION: grey(Role.OCCLUSION), Role.ROUGHNESS: grey(Role.ROUGHNESS, SIXTEEN)}
    packed = pack(spell_layout("orm"), maps)
    assert packed.bits == 16
    np.testing.assert_array_equal(packed.pixels[:, :, 0], maps[Role.OCCLUSION].pixels[:, :, 0].astype(np.uint16) * 257)
    np.testing.assert_array_equal(packed.pixels[:, :, 1], maps[Role.ROUGHNESS].pixels[:, :, 0])


def test_every_8_bit_value_survives_16_bits_and_16_narrow_to_nearest():
    every = np.arange(256, dtype=np.uint8)
    np.testing.assert_array_equal(widen(widen(every, SIXTEEN), EIGHT), every)
    wide = np.arange(65536, dtype=np.uint16)
    np.testing.assert_array_equal(widen(wide, EIGHT), np.round(wide / 257).astype(np.uint8))


def test_floats_stay_floats():
    packed = pack(spell_layout("orm"), {Role.ROUGHNESS: grey(Role.ROUGHNESS, FLOAT)})
    assert packed.pixels.dtype == np.float32
    assert packed.pixels[0, 0, 0] == 1.0


def test_a_colour_packed_by_itself_stays_colour():
    colour = random_texels("rgba").as_role(Role.BASE_COLOR)
    layout = Layout("c", {letter: Source(Role.BASE_COLOR, letter) for letter in "rgb"})
    packed = pack(layout, {Role.BASE_COLOR: colour})
    assert (packed.role, packed.transfer) == (Role.BASE_COLOR, Transfer.SRGB)
    np.testing.assert_array_equal(packed.pixels, colour.pixels[:, :, :3])


def test_what_does_not_fit_is_said():
    maps = {Role.OCCLUSION: grey(Role.OCCLUSION), Role.ROUGHNESS: grey(Role.ROUGHNESS, width=8, height=8)}
    with pytest.raises(MismatchedMaps, match="occlusion 16 x 12, roughness 8 x 8"):
        pack(spell_layout("orm"), maps)
    with pytest.raises(MismatchedMaps, match="also needs B"):
        unpack(spell_layout("orm"), random_texels("rg"))
    with pytest.raises(MismatchedMaps, match="there is no A"):
        pack(Layout("x", {"r": Source(Role.ROUGHNESS, "a")}), {Role.ROUGHNESS: grey(Role.ROUGHNESS)})


def test_layout_documents_round_trip(tmp_path):
    layout = spell_layout("mrao")
    assert parse_layout(layout.document()).channels == layout.channels
    path = tmp_path / "mine.json"
    path.write_text(__import__("json").dumps(layout.document()))
    assert layout_named(str(path)).roles == (Role.METALLIC, Role.ROUGHNESS, Role.OCCLUSION)


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"channels": {"g": {"role": "metallic"}}}, "'r' is a required"),
        ({"channels": {"r": {"role": "metalic"}}}, "metalic"),
        ({"channels": {"r": {"missing": 2}}}, "2"),
        ({"channels": {"r": {"role": "metallic"}, "b": {"role": "height"}}}, "gaps"),
        ({"channels": {"r": {"role": "metallic", "missing": None}}}, "alpha"),
        ({"version": 9}, "version"),
    ],
)
def test_bad_layout_documents_say_where(change, word):
    with pytest.raises(BadDocument, match=word):
        parse_layout(spell_layout("orm").document() | change, "mine.json")


def test_words_that_spell_nothing_are_refused():
    with pytest.raises(BadDocument, match="'hull' is neither"):
        layout_named("hull")


@pytest.mark.parametrize(("letters", "alpha"), [("rgba", None), ("rgb", 0)])
def test_four_masks_of_one_map_may_lack_the_fourth(letters, alpha):
    masks = random_texels(letters)
    packed = pack(ready_layout("four-masks"), {Role.DETAIL_MASK: masks})
    np.testing.assert_array_equal(packed.pixels[..., :3], masks.pixels[..., :3])
    np.testing.assert_array_equal(packed.pixels[..., 3], masks.pixels[..., 3] if alpha is None else alpha)
