"""From a photograph to a surface: corners straightened, light evened out, borders patched."""

import cv2
import numpy as np
import pytest

from texel.colour import decode_srgb, encode_srgb
from texel.errors import BadDocument
from texel.image import Texels
from texel.normals.from_height import normals_from_height
from texel.recipes import apply_recipe, parse_step, shape_after
from texel.recipes.step import Shape
from texel.repair.light import even_light
from texel.repair.quilting import LONGEST, Patches, patches_from, plan_patches
from texel.repair.straighten import Corners, corners_of, straightened
from texel.repair.tileable import cheapest_path
from texel.roles import Role, Transfer
from texel.tiling import border_step


def texture(side=128, seed=1, channels=3):
    """Coarse and fine noise whose borders do not meet."""
    rng = np.random.default_rng(seed)
    coarse = cv2.GaussianBlur(rng.random((side, side), np.float32), (0, 0), side / 32)
    fine = cv2.GaussianBlur(rng.random((side, side, channels), np.float32), (0, 0), 1.2).reshape(side, side, -1)
    coarse = (coarse - coarse.min()) / np.ptp(coarse)
    return np.clip(0.2 + 0.6 * coarse[:, :, None] + 0.6 * (fine - 0.5), 0, 1).astype(np.float32)


def places(side):
    """A map that says of each texel where it comes from."""
    rows, columns = np.indices((side, side), np.float32)
    return np.stack([rows, columns], axis=2)


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize(("axes", "met"), [("both", (0, 1)), ("x", (1,)), ("y", (0,))])
def test_patched_borders_meet_and_the_others_stay(seed, axes, met):
    picture = texture(seed=seed)
    made = plan_patches(picture, 0.15, axes).apply(picture)
    for axis in (0, 1):
        assert border_step(picture, axis)[1] > 1.35
        assert (border_step(made, axis)[1] < 1.35) == (axis in met)


def test_only_what_lies_along_the_borders_changes():
    picture = texture()
    made = plan_patches(picture, 0.15).apply(picture)
    inside = slice(round(0.15 * 128) + 1, -round(0.15 * 128) - 1)
    assert (made[inside, inside] == picture[inside, inside]).all()
    assert (made[:4] != picture[:4]).any()


def test_every_texel_is_one_of_the_picture():
    picture = (texture() * 255).astype(np.uint8)
    made = plan_patches(texture(), 0.2).apply(picture)
    known = {tuple(one) for one in picture.reshape(-1, 3)}
    assert {tuple(one) for one in made.reshape(-1, 3)} <= known


def test_maps_of_a_set_are_patched_alike():
    plan = plan_patches(texture(), 0.15)
    rows, columns = plan.sources()
    assert (plan.apply(places(128)) == np.stack([rows, columns], axis=2)).all()


def test_a_larger_map_follows_the_plan():
    plan = plan_patches(texture(), 0.15)
    small, large = plan.apply(places(128)), plan.apply(places(256))
    assert np.abs(large[::2, ::2] / 2 - small).max() <= 1


def test_a_large_picture_is_planned_smaller_and_still_meets():
    picture = cv2.resize(texture(512), (2048, 2048), interpolation=cv2.INTER_CUBIC)
    plan = plan_patches(picture, 0.1)
    assert (plan.width, plan.height) == (1024, 1024)
    assert border_step(plan.apply(picture), 1)[0] < 0.3 * border_step(picture, 1)[0]


def test_the_cut_is_the_cheapest_of_all_ways():
    """Efros and Freeman 2001: the minimum error boundary cut; tried against every way through a small strip."""
    cost = np.random.default_rng(5).random((5, 4)).astype(np.float32)
    cost[:, 0] = 9  # a cut keeps at least one texel
    ways = [[at] for at in range(4)]
    for _ in range(4):
        ways = [[*way, to] for way in ways for to in range(4) if abs(to - way[-1]) <= 1]
    least = min(sum(float(cost[row, to]) for row, to in enumerate(way)) for way in ways)
    path = cheapest_path(cost)
    assert float(cost[np.arange(5), path].sum()) == pytest.approx(least)


def test_a_plan_goes_through_text_and_back():
    plan = plan_patches(texture(64), 0.2, "x")
    again = patches_from(plan.text())
    assert again.text() == plan.text()
    assert (again.apply(places(64)) == plan.apply(places(64))).all()


@pytest.mark.parametrize(
    "text",
    [
        "", "64x64", "64x64:", "64x64:!!", "8x8:eJw=", "99999x2:eJw=", "-1x64:eJw=", "x" * (LONGEST + 1),
        plan_patches(texture(64)).text().replace("64x64", "32x32"), plan_patches(texture(64)).text()[:-40],
        Patches(64, 64, ()).text().replace("64x64", "64xNaN"),
    ],
)  # fmt: skip
def test_what_is_no_plan_is_refused(text):
    with pytest.raises(BadDocument):
        patches_from(text)


def test_a_picture_that_is_too_small_is_refused():
    with pytest.raises(BadDocument, match="too small"):
        plan_patches(np.zeros((8, 64, 1), np.float32))


def test_corners_that_stand_straight_cut_out_what_is_stored():
    picture = np.arange(64, dtype=np.uint16).reshape(8, 8, 1)
    made = straightened(picture, Corners((0.25, 0.5), (1, 0.5), (1, 0.75), (0.25, 0.75)))
    assert made.dtype == np.uint16
    assert (made == picture[4:6, 2:8]).all()


def seen_at_an_angle(corners, width, height):
    """A smooth drawing on a unit square as a camera sees it, by the eight equations of a homography."""
    ends = [(0, 0), (1, 0), (1, 1), (0, 1)]
    equations, right = [], []
    for (u, v), (x, y) in zip(ends, corners, strict=True):
        x, y = x * width, y * height
        equations += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    m = np.append(np.linalg.solve(np.array(equations, float), np.array(right, float)), 1).reshape(3, 3)
    y, x = np.mgrid[0:height, 0:width] + 0.5
    u, v, w = (m[at, 0] * x + m[at, 1] * y + m[at, 2] for at in range(3))
    return drawn(u / w, v / w)


def drawn(u, v):
    return (0.5 + 0.25 * np.sin(9 * u + 4 * v) + 0.25 * np.cos(7 * v - 2 * u)).astype(np.float32)[:, :, None]


def test_a_perspective_is_taken_out():
    corners = Corners((0.2, 0.1), (0.85, 0.2), (0.95, 0.9), (0.05, 0.8))
    made = straightened(seen_at_an_angle(corners, 160, 120), corners)
    height, width = made.shape[:2]
    v, u = (np.mgrid[0:height, 0:width] + 0.5) / np.array([height, width]).reshape(2, 1, 1)
    assert np.abs(made - drawn(u, v)).max() < 0.01


@pytest.mark.parametrize(
    "corners",
    [(0, 0, 1, 1, 1, 0, 0, 1), (0, 0, 0, 0, 1, 1, 0, 1), (0, 0, 0, 1, 1, 1, 1, 0), (0, 0, 1, 0, 0.2, 0.2, 0, 1)],
)
def test_corners_that_cross_or_span_nothing_are_refused(corners):
    with pytest.raises(BadDocument, match="clockwise"):
        corners_of(corners)


@pytest.mark.parametrize("green", ["up", "down"])
def test_normals_turn_with_the_picture(green):
    height = cv2.GaussianBlur(np.random.default_rng(2).random((48, 48), np.float32), (0, 0), 3)
    sign = np.array([1, 1 if green == "up" else -1, 1], np.float32)

    def normals(relief):
        return (normals_from_height(relief, 8) * sign + 1) / 2

    turned = parse_step({
        "step": "straighten", "upper_left_x": 0, "upper_left_y": 1, "upper_right_x": 0, "upper_right_y": 0,
        "lower_right_x": 1, "lower_right_y": 0, "lower_left_x": 1, "lower_left_y": 1, "green_points": green,
    })  # fmt: skip
    texels = Texels(normals(height), "rgb", Transfer.LINEAR, role=Role.NORMAL)
    made = apply_recipe(texels, [turned.document()]).pixels
    wanted = normals(np.ascontiguousarray(np.rot90(height, -1)))
    assert np.abs(made - wanted)[2:-2, 2:-2].max() < 0.01


def test_the_size_of_what_is_straightened_is_known_before():
    step = parse_step({"step": "straighten", "upper_right_x": 0.5, "lower_right_x": 0.5}).document()
    texels = Texels(np.zeros((40, 80, 3), np.uint8), "rgb", Transfer.SRGB, role=Role.BASE_COLOR)
    shape = shape_after(Shape(80, 40, "rgb", 8), [step])
    assert (shape.width, shape.height) == (40, 40)
    assert apply_recipe(texels, [step]).pixels.shape == (40, 40, 3)


def lit(reflectance):
    """Under light that falls off to one side and to the corners; with it, the light alone."""
    y, x = np.mgrid[0:1:128j, 0:1:128j]
    light = (0.4 + 0.6 * x) * (1 - 0.3 * ((x - 0.5) ** 2 + (y - 0.5) ** 2))
    return (reflectance * light[:, :, None]).astype(np.float32), light.astype(np.float32)


def test_light_is_evened_out_and_the_mean_kept():
    reflectance = 0.3 + 0.2 * texture()
    picture, _ = lit(reflectance)
    made = even_light(picture, 0.1)
    scale = made.mean() / reflectance.mean()
    assert made.mean() == pytest.approx(picture.mean(), rel=1e-3)
    halves = [np.abs(one[:, :64].mean() / one[:, 64:].mean() - 1) for one in (picture, made)]
    assert halves[0] > 0.3
    assert halves[1] < 0.05
    assert (
        np.corrcoef((made / scale).ravel(), reflectance.ravel())[0, 1]
        > np.corrcoef(picture.ravel(), reflectance.ravel())[0, 1]
    )


def test_hues_stay_unless_the_light_has_a_colour():
    picture, light = lit(np.full((128, 128, 3), 0.5, np.float32) * [1, 0.5, 0.25])
    made = even_light(picture, 0.1)
    assert np.abs(made[:, :, 0] / made[:, :, 1] - 2).max() < 1e-3
    warm = picture * np.stack([light, np.ones_like(light), 1 / light], axis=2)
    even = even_light(warm, 0.1, by_channel=True)
    assert np.ptp(even[16:-16, 16:-16, 0]) < 0.3 * np.ptp(warm[16:-16, 16:-16, 0])


def test_colour_is_evened_out_in_light_and_alpha_stays():
    picture, _ = lit(0.3 + 0.2 * texture())
    alpha = np.random.default_rng(3).random((128, 128, 1), np.float32)
    texels = Texels(np.concatenate([encode_srgb(picture), alpha], axis=2), "rgba", Transfer.SRGB, role=Role.BASE_COLOR)
    made = apply_recipe(texels, [{"step": "even_light", "reach": 0.1}]).pixels
    assert np.allclose(decode_srgb(made[:, :, :3].copy()), even_light(picture, 0.1), atol=2e-3)
    assert (made[:, :, 3:] == alpha).all()


def test_a_slope_goes_out_of_a_height():
    relief = texture(channels=1) * 0.3
    slope = np.linspace(0, 0.6, 128, dtype=np.float32)[None, :, None]
    texels = Texels(relief + slope, "y", Transfer.LINEAR, role=Role.HEIGHT)
    made = apply_recipe(texels, [{"step": "even_light", "reach": 0.1}]).pixels
    assert abs(made[:, :32].mean() - made[:, -32:].mean()) < 0.1
    assert made.mean() == pytest.approx(texels.pixels.mean(), abs=0.01)


def test_the_step_lays_the_patches_that_it_is_given():
    plan = plan_patches(texture(seed=7), 0.15)
    roughness = Texels(
        (texture(channels=1, seed=9) * 65535).astype(np.uint16), "y", Transfer.LINEAR, role=Role.ROUGHNESS
    )
    made = apply_recipe(roughness, [{"step": "patch_borders", "patches": plan.text()}]).pixels
    assert (made == plan.apply(roughness.pixels)).all()


def test_the_command_writes_recipes_that_cut_maps_of_a_set_alike(tmp_path):
    from texel.cli import main
    from texel.files import read, write

    colour = Texels((texture() * 255).astype(np.uint8), "rgb", Transfer.SRGB, role=Role.BASE_COLOR)
    rough = Texels((places(128)[:, :, :1] * 500).astype(np.uint16), "y", Transfer.LINEAR, role=Role.ROUGHNESS)
    write(colour, tmp_path / "colour.png")
    write(rough, tmp_path / "rough.png")
    asked = ["tileable", str(tmp_path / "colour.png"), "--corners", "0", "0", "0.5", "0", "0.5", "1", "0", "1"]
    recipe = tmp_path / "rough.json"
    assert main([*asked, "--role", "roughness", "-o", str(recipe)]) == 0
    assert main(["apply", str(recipe), str(tmp_path / "rough.png"), str(tmp_path / "out.png")]) == 0
    rows, _ = plan_patches(colour.pixels[:, :64] / np.float32(255), 0.15).sources()
    told = read(tmp_path / "out.png").pixels[:, :, 0].astype(int) // 500
    assert told.shape == (128, 64)
    assert (told == rows).all()
    assert main([*asked[:2], "--corners", *"01010101", "-o", str(recipe)]) == 2
