"""Recipe steps: applied, refused, named by digest; resizing against OpenCV and Pillow."""

import cv2
import numpy as np
import pytest
from PIL import Image

from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels
from texel.errors import BadDocument, MismatchedMaps
from texel.image import ColourTags, Texels, full_scale, narrow, to_unit
from texel.normals.direction import find_direction
from texel.normals.vectors import decode, lengths
from texel.recipes import STEPS, apply_recipe, green_after, parse_step, recipe_digest, step_document, step_label
from texel.resize import resize
from texel.roles import Green, Role, Transfer, facts
from texel.sets import MapRef, TextureSet


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN])
@pytest.mark.parametrize("channels", ["y", "ya", "rgb", "rgba"])
def test_invert_twice_is_exact_and_leaves_alpha(dtype, channels):
    texels = random_texels(channels, dtype)
    once = apply_recipe(texels, [{"step": "invert"}])
    np.testing.assert_array_equal(apply_recipe(once, [{"step": "invert"}]).pixels, texels.pixels)
    if "a" in channels:
        np.testing.assert_array_equal(once.channel("a"), texels.channel("a"))
    np.testing.assert_array_equal(once.pixels[:, :, 0], np.iinfo(dtype).max - texels.pixels[:, :, 0])


def test_steps_apply_in_order():
    texels = normal_texels(Green.UP)
    recipe = [{"step": "flip_green"}, {"step": "resize", "width": 64, "height": 64}, {"step": "renormalise"}]
    made = apply_recipe(texels, recipe)
    assert (made.width, made.height) == (64, 64)
    assert find_direction(made).green is Green.DOWN
    assert np.abs(lengths(decode(made)) - 1).max() < 0.01


def test_drop_alpha():
    assert apply_recipe(random_texels("rgba"), [{"step": "drop_alpha"}]).channels == "rgb"
    assert apply_recipe(random_texels("ya"), [{"step": "drop_alpha"}]).channels == "y"
    assert apply_recipe(random_texels("rgb"), [{"step": "drop_alpha"}]).channels == "rgb"


@pytest.mark.parametrize(
    ("step", "word"),
    [
        ({"step": "sharpen"}, "no step 'sharpen'"),
        ({}, "no step"),
        ({"step": "resize", "width": 4}, "takes"),
        ({"step": "resize", "width": 0, "height": 4}, "whole number"),
        ({"step": "resize", "width": True, "height": 4}, "whole number"),
        ({"step": "resize", "width": 99999, "height": 4}, "16384"),
        ({"step": "flip_green", "amount": 1}, "takes"),
    ],
)
def test_bad_steps_say_what_is_wrong(step, word):
    with pytest.raises(BadDocument, match=word):
        parse_step(step)


def test_every_step_has_a_label_and_comes_back_from_its_document():
    for name in STEPS:
        document = {"step": name, **({"width": 8, "height": 4} if name == "resize" else {})}
        whole = step_document(parse_step(document))
        assert document.items() <= whole.items()
        assert step_document(parse_step(whole)) == whole
        assert recipe_digest("a" * 64, None, [document]) == recipe_digest("a" * 64, None, [whole])
        assert step_label(document)[0].isupper()


def test_equal_recipes_have_equal_digests_whatever_is_written_for_people():
    plain = recipe_digest("a" * 64, None, [{"step": "flip_green"}])
    assert recipe_digest("a" * 64, None, [{"step": "flip_green", "label": "Flip green"}]) == plain
    others = {
        recipe_digest("b" * 64, None, [{"step": "flip_green"}]),
        recipe_digest("a" * 64, "r", [{"step": "flip_green"}]),
        recipe_digest("a" * 64, None, []),
        recipe_digest("a" * 64, None, [{"step": "flip_green"}] * 2),
    }
    assert plain not in others
    assert len(others) == 4


def test_a_claimed_direction_turns_with_each_flip():
    flip = [{"step": "flip_green"}]
    assert green_after(Green.UP, flip) is Green.DOWN
    assert green_after(Green.UP, flip * 2) is Green.UP
    assert green_after(None, flip) is None


def test_data_is_made_smaller_as_opencv_and_pillow_do():
    """Area means: OpenCV's INTER_AREA, and Pillow's box filter for whole factors."""
    texels = random_texels("y", EIGHT, 64, 64)
    ours = resize(texels, 16, 16).pixels[:, :, 0].astype(int)
    by_opencv = cv2.resize(texels.pixels, (16, 16), interpolation=cv2.INTER_AREA).astype(int)
    by_pillow = np.asarray(Image.fromarray(texels.pixels[:, :, 0]).resize((16, 16), Image.Resampling.BOX)).astype(int)
    assert np.abs(ours - by_opencv).max() <= 1
    assert np.abs(ours - by_pillow).max() <= 1


def test_colour_is_resized_in_linear_light_and_alpha_is_not():
    pixels = np.full((4, 4, 4), 128, np.uint8)
    pixels[:, :, :3] = np.where(np.arange(4) % 2, 0, 255)[None, :, None]
    small = resize(Texels(pixels, "rgba", Transfer.SRGB, Role.BASE_COLOR), 2, 2)
    # The mean of black and white in linear light is 0.5, which IEC 61966-2-1 stores as 188.
    assert small.pixels[0, 0].tolist() == [188, 188, 188, 128]


def test_normals_do_not_shorten():
    small = resize(normal_texels(n=256, strength=30), 32, 32)
    assert np.abs(lengths(decode(small)) - 1).max() < 0.01


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT])
def test_the_same_size_is_the_same_picture(dtype):
    texels = random_texels("rgb", dtype)
    assert resize(texels, texels.width, texels.height) is texels
    larger = resize(texels, 40, 40)
    assert (larger.pixels.dtype, larger.width) == (dtype, 40)


class TestTexels:
    """Pixels together with what they mean."""

    def test_shapes_and_kinds_are_checked(self):
        with pytest.raises(ValueError, match="does not hold"):
            Texels(np.zeros((4, 4, 3), np.uint8), "rgba", Transfer.SRGB)
        with pytest.raises(ValueError, match="float64"):
            Texels(np.zeros((4, 4, 3)), "rgb", Transfer.SRGB)

    def test_a_role_brings_its_colour_space_but_floats_stay_linear(self):
        assert random_texels("rgb").as_role(Role.BASE_COLOR).transfer is Transfer.SRGB
        assert random_texels("rgb").as_role(Role.NORMAL).transfer is Transfer.LINEAR
        assert random_texels("rgb", FLOAT).as_role(Role.BASE_COLOR).transfer is Transfer.LINEAR

    def test_channels_are_found_by_letter(self):
        grey = random_texels("ya")
        np.testing.assert_array_equal(grey.channel("g"), grey.pixels[:, :, 0])
        np.testing.assert_array_equal(grey.channel("a"), grey.pixels[:, :, 1])
        with pytest.raises(MismatchedMaps, match="no A"):
            random_texels("rgb").channel("a")

    def test_numbers_and_values(self):
        assert [full_scale(d) for d in (EIGHT, SIXTEEN, FLOAT)] == [255, 65535, 1]
        every = np.arange(256, dtype=np.uint8)
        np.testing.assert_array_equal(narrow(to_unit(every), EIGHT), every)

    def test_tags(self):
        assert ColourTags().declared_transfer is None
        assert ColourTags(icc="some name", icc_transfer="srgb").declared_transfer == "srgb"
        # What a profile calls itself says nothing.
        assert ColourTags(icc="sRGB IEC61966-2.1").declared_transfer == "other"
        assert ColourTags(gamma=0.5).declared_transfer == "other"
        assert ColourTags(cicp=(1, 13, 0, 1)).declared_transfer == "srgb"

    def test_every_role_has_facts(self):
        assert all(0 <= facts(role).neutral <= 1 and facts(role).label for role in Role)


def test_an_untouched_set_has_no_steps_and_nothing_made_by_them():
    flip, derived = {"step": "flip_green"}, {"step": "normal_from_height", "strength": 2}
    one = TextureSet(
        "deck",
        (
            MapRef(Role.HEIGHT, "h.png"), MapRef(Role.NORMAL, "h.png", recipe=(derived,)),
            MapRef(Role.NORMAL, "n.png", recipe=(flip,)), MapRef(Role.BASE_COLOR, "c.png"),
            MapRef(Role.OPACITY, "c.png", "a", recipe=({"step": "invert"},)),
        ),
    )  # fmt: skip
    kept = one.untouched().maps
    assert [(ref.role, ref.file) for ref in kept] == [
        (Role.HEIGHT, "h.png"), (Role.NORMAL, "n.png"), (Role.BASE_COLOR, "c.png"), (Role.OPACITY, "c.png"),
    ]  # fmt: skip
    assert not any(ref.recipe for ref in kept)
