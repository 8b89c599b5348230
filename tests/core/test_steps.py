"""The steps of recipes: against the papers, against reference libraries, and in what they promise to keep."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.data
from scipy import ndimage, stats

from demo.patterns import noise
from demo.surfaces import SURFACES
from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels, save
from texel.cli import main
from texel.colour import encode_srgb
from texel.derive.occlusion import occlusion_from_height
from texel.errors import BadDocument, MismatchedMaps, TooLarge
from texel.files import read
from texel.filters import blur
from texel.image import ColourTags, Texels, narrow, to_unit
from texel.library import Library
from texel.normals.combine import combine, scale_strength
from texel.normals.direction import find_direction
from texel.normals.from_height import normals_from_height, slopes
from texel.normals.to_height import height_from_normals
from texel.normals.vectors import decode, lengths
from texel.previews import dump_texels, load_texels, preview_map
from texel.recipes import STEPS, apply_recipe, catalogue, others_of, recipe_digest, shape_after
from texel.recipes.derivations import DERIVATIONS
from texel.recipes.step import Context, Shape
from texel.repair.dequantise import dequantise, plateaus, step_size
from texel.repair.dilate import dilate_under_alpha
from texel.repair.tileable import make_tileable, unlikeness
from texel.resize import reduced, resize
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef, TextureSet
from texel.tiling import SEAM, VISIBLE_STEP, border_step

N = 128


def grey(field, dtype=EIGHT, role=Role.HEIGHT):
    return Texels(narrow(np.asarray(field, np.float32)[:, :, None], dtype), "y", Transfer.LINEAR, role)


def vectors(seed, strength=20.0):
    return normals_from_height(noise(N, seed), strength)


def apply(texels, *steps, **others):
    context = Context(other=lambda name: others[name.replace("/", "_")])
    return apply_recipe(texels, steps, context)


def test_reoriented_normals_as_in_the_paper():
    # Barré-Brisebois and Hill 2012, the shader code of "Reoriented Normal Mapping", in stored values 0 to 1.
    a, b = (vectors(1) + 1) / 2, (vectors(2) + 1) / 2
    t = a * np.array([2, 2, 2]) + np.array([-1, -1, 0])
    u = b * np.array([-2, -2, 2]) + np.array([1, 1, -1])
    r = t * np.sum(t * u, axis=2, keepdims=True) / t[:, :, 2:] - u
    r /= np.linalg.norm(r, axis=2, keepdims=True)
    np.testing.assert_allclose(combine(vectors(1), vectors(2)), r, atol=1e-4)


@pytest.mark.parametrize("method", ["reoriented", "whiteout", "partial_derivative"])
def test_a_flat_detail_changes_nothing(method):
    flat = np.broadcast_to(np.array([0, 0, 1], np.float32), (N, N, 3))
    np.testing.assert_allclose(combine(vectors(1), flat, method), vectors(1), atol=1e-5)
    np.testing.assert_allclose(combine(flat, vectors(1), method), vectors(1), atol=1e-5)


def test_partial_derivatives_add_slopes():
    first, second = noise(N, 1), noise(N, 2)
    both = normals_from_height(first * 20 + second * 5)
    made = combine(normals_from_height(first * 20), normals_from_height(second * 5), "partial_derivative")
    np.testing.assert_allclose(made, both, atol=1e-4)


def test_strength_is_a_factor_on_the_slopes():
    field = noise(N, 3) * 10
    np.testing.assert_allclose(scale_strength(normals_from_height(field), 3), normals_from_height(field * 3), atol=1e-5)


def test_a_detail_of_the_other_direction_is_turned_first():
    base, up, down = normal_texels(Green.UP), normal_texels(Green.UP, seed=5), normal_texels(Green.DOWN, seed=5)
    step = {"step": "combine_normal"}
    a, b = (apply(base, step, normal_2=detail).pixels.astype(int) for detail in (up, down))
    assert np.abs(a - b).max() <= 1
    assert apply(base, {**step, "tiles": 4}, normal_2=up).pixels.shape == base.pixels.shape


def test_wide_slopes_are_opencvs_5_by_5_sobel():
    field = noise(N, 4)
    dx, dy = slopes(field, "wide")
    padded = cv2.copyMakeBorder(field, 2, 2, 2, 2, cv2.BORDER_WRAP)
    np.testing.assert_allclose(dx, cv2.Sobel(padded, cv2.CV_32F, 1, 0, ksize=5)[2:-2, 2:-2] / 128, atol=1e-5)
    np.testing.assert_allclose(dy, -cv2.Sobel(padded, cv2.CV_32F, 0, 1, ksize=5)[2:-2, 2:-2] / 128, atol=1e-5)


@pytest.mark.parametrize("wrap", [True, False])
def test_height_of_an_analytic_surface(wrap):
    # z = 3 sin(2 pi 2x/n) cos(2 pi y/n) (repeats) or 4 exp(-r^2) (does not); slopes by hand.
    y, x = np.mgrid[0:N, 0:N].astype(np.float64)
    if wrap:
        a, b = 2 * np.pi * 2 / N, 2 * np.pi / N
        z = 3 * np.sin(a * x) * np.cos(b * y)
        zx, zdown = 3 * a * np.cos(a * x) * np.cos(b * y), -3 * b * np.sin(a * x) * np.sin(b * y)
    else:
        cx, cy, s = 0.4 * N, 0.55 * N, 0.2 * N
        z = 4 * np.exp(-((x - cx) ** 2 + (y - cy) ** 2) / s**2)
        zx, zdown = z * -2 * (x - cx) / s**2, z * -2 * (y - cy) / s**2
    n = np.stack([-zx, zdown, np.ones_like(z)], axis=2)
    n /= np.linalg.norm(n, axis=2, keepdims=True)
    found = height_from_normals(n.astype(np.float32), wrap)
    error = (found - found.mean()) - (z - z.mean())
    assert np.sqrt(np.mean(error**2)) < 0.01 * z.std()


def test_normal_from_height_and_back():
    field = noise(256, 6, 2.2)
    steps = {"step": "normal_from_height", "strength": 10}
    normal = apply(grey(field, SIXTEEN).as_role(Role.NORMAL), steps)
    assert (normal.bits, normal.channels, normal.green) == (16, "rgb", Green.UP)
    assert find_direction(normal).green is Green.UP
    back = apply(normal.as_role(Role.HEIGHT), {"step": "height_from_normal"})
    assert np.corrcoef(to_unit(back.pixels).ravel(), field.ravel())[0, 1] > 0.995


def test_metres_are_texels_at_the_right_size():
    height = grey(noise(N, 7), SIXTEEN).as_role(Role.NORMAL)
    texels = apply(height, {"step": "normal_from_height", "strength": 6.4})
    metres = apply(height, {"step": "normal_from_height", "strength": 0.1, "unit": "metres", "size": 2})
    assert np.abs(texels.pixels.astype(int) - metres.pixels).max() <= 1


def test_dilate_takes_the_nearest_colour_as_scipy_finds_it():
    rng = np.random.default_rng(1)
    colour = rng.integers(0, 256, (40, 50, 3), np.uint8)
    alpha = (ndimage.gaussian_filter(rng.random((40, 50)), 3) > 0.5).astype(np.float32)
    made = dilate_under_alpha(colour, alpha)
    np.testing.assert_array_equal(made[alpha == 1], colour[alpha == 1])
    exact = ndimage.distance_transform_edt(alpha < 0.5)
    rows, columns = np.nonzero(alpha < 0.5)
    inside = np.argwhere(alpha >= 0.5)
    for r, c in list(zip(rows, columns, strict=True))[::7]:
        near = inside[np.hypot(*(inside - [r, c]).T) <= exact[r, c] * 1.05 + 0.5]
        assert any((colour[i, j] == made[r, c]).all() for i, j in near)


def test_tileable_borders_meet_and_keep_the_contrast():
    strip = np.stack([noise(2 * N, 8)[:N, :N], noise(2 * N, 9)[:N, :N], noise(2 * N, 10)[:N, :N]], axis=2)
    seam = lambda v: np.abs(v[:, 0] - v[:, -1]).mean() / np.abs(np.diff(v, axis=1)).mean()  # noqa: E731
    made = make_tileable(strip)
    assert seam(strip) > 2
    assert seam(made) < 1.5
    assert abs(made.std() / strip.std() - 1) < 0.3
    np.testing.assert_allclose(make_tileable(strip, 0.1, "x")[:, N // 2], strip[:, N // 2], atol=1e-6)


def test_dequantised_height_rounds_to_the_same_steps():
    true = noise(N, 11, 3.0)
    stepped = np.round(true * 40) / 40
    made = dequantise(stepped.astype(np.float32))
    assert np.abs(made - stepped).max() <= 0.5 / 40 + 1e-5
    rms = lambda v: float(np.sqrt(np.mean(np.square(v))))  # noqa: E731
    where = plateaus(stepped.astype(np.float32))[:, 1:]
    assert 0.5 < where.mean() < 1
    assert rms((made - true)[:, 1:][where]) < 0.7 * rms((stepped - true)[:, 1:][where])
    # What is seen of steps is their slope.
    slope = np.diff(true)
    assert rms((np.diff(made) - slope)[where]) < 0.3 * rms((np.diff(stepped) - slope)[where])
    assert len(np.unique(apply(grey(stepped), {"step": "dequantise"}).pixels)) > 2000


def test_removing_occlusion_undoes_multiplying_it():
    surface = SURFACES["cork_fender"](N)
    linear = np.clip(surface.colour, 0.1, 0.9) ** 2.2
    occlusion = np.clip(surface.occlusion, 0.3, 1)
    baked = np.clip(np.clip(linear * occlusion[:, :, None], 0, 1), 0.0031308, 1)
    stored = narrow((1.055 * baked ** (1 / 2.4) - 0.055).astype(np.float32), SIXTEEN)
    texels = Texels(stored, "rgb", Transfer.SRGB, Role.BASE_COLOR)
    made = apply(texels, {"step": "remove_occlusion"}, occlusion=grey(occlusion, SIXTEEN, Role.OCCLUSION))
    back = ((to_unit(made.pixels) + 0.055) / 1.055) ** 2.4
    assert np.abs(back - linear).max() < 0.01
    weak = apply(texels, {"step": "remove_occlusion", "strength": 0}, occlusion=grey(occlusion))
    np.testing.assert_array_equal(weak.pixels, texels.pixels)


def test_specular_workflow_of_pure_materials():
    # Pure cases of the archived KHR_materials_pbrSpecularGlossiness conversion: a dielectric has specular 0.04 and no
    # metal; a metal has no diffuse and its colour in the specular.
    encode = lambda c: narrow(np.array(c, np.float32)[None, None] ** (1 / 2.2), SIXTEEN)  # noqa: E731
    colour = lambda c, role: Texels(encode(c), "rgb", Transfer.SRGB, role)  # noqa: E731
    diffuse, dielectric = colour([0.4, 0.2, 0.1], Role.BASE_COLOR), colour([0.04] * 3, Role.SPECULAR)
    black, gold = colour([0, 0, 0], Role.BASE_COLOR), colour([0.9, 0.6, 0.2], Role.SPECULAR)
    metallic = {"step": "metallic_from_specular"}
    assert apply(dielectric, metallic, base_color=diffuse).pixels.max() < 0.03 * 65535
    assert apply(gold, metallic, base_color=black).pixels.min() > 0.98 * 65535
    base = {"step": "base_color_from_specular"}
    for given, specular, wanted in ((diffuse, dielectric, diffuse), (black, gold, gold)):
        made = apply(given, base, specular=specular)
        assert np.abs(made.pixels.astype(int) - wanted.pixels).max() < 0.03 * 65535
    assert apply(dielectric, {"step": "specular_loss"}, base_color=diffuse).pixels.max() < 0.03 * 65535


def test_values_are_rounded_once_at_the_end_of_a_run():
    texels = random_texels("y", EIGHT)
    unit = texels.pixels.astype(np.float64) / 255
    made = apply(texels, {"step": "power", "exponent": 3}, {"step": "power", "exponent": 0.5})
    np.testing.assert_array_equal(made.pixels, np.floor(unit**1.5 * 255 + 0.5))
    levels = {"step": "levels", "black": 0.2, "white": 0.8, "gamma": 2, "low": 0.1, "high": 0.9}
    wanted = 0.1 + 0.8 * np.clip((unit - 0.2) / 0.6, 0, 1) ** 0.5
    assert np.abs(apply(texels, levels).pixels - wanted * 255).max() <= 0.501


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT])
def test_exact_steps_keep_every_number(dtype):
    texels = random_texels("rgba", dtype)
    swap = {"step": "exchange_channels", "first": "r", "second": "a"}
    np.testing.assert_array_equal(apply(texels, swap, swap).pixels, texels.pixels)
    np.testing.assert_array_equal(apply(texels, swap).channel("r"), texels.channel("a"))
    one = apply(texels, {"step": "extract_channel", "channel": "b"})
    np.testing.assert_array_equal(one.pixels[:, :, 0], texels.channel("b"))
    assert one.pixels.dtype == dtype


def test_what_shape_says_is_what_comes_out():
    height, other = grey(noise(60, 1)), normal_texels(Green.UP, 60)
    for name in STEPS:
        step = {"step": name, **({"width": 24, "height": 20} if name == "resize" else {})}
        given = {Role.NORMAL: other}.get(STEPS[name].suits[0], height)
        if name in ("height_from_normal", "exchange_channels", "metallic_from_specular", "base_color_from_specular"):
            given = other
        if name == "normal_from_height":
            given = height.as_role(Role.NORMAL)
        others = dict.fromkeys(("normal_2", "base_color", "specular"), other) | {"occlusion": height}
        made = apply(given, step, **others)
        before = Shape(given.width, given.height, given.channels, given.bits)
        assert shape_after(before, [step]) == (made.width, made.height, made.channels, made.bits), name


def test_the_catalogue_and_the_docs_name_every_step_and_option():
    assert {entry["step"] for entry in catalogue()} == set(STEPS)
    assert json.loads(json.dumps(catalogue()))
    docs = (Path(__file__).resolve().parents[2] / "docs/documents.md").read_text("utf-8")
    rows = {line.split("`")[1]: line for line in docs.splitlines() if line.startswith("| `")}
    for entry in catalogue():
        assert all(f"`{option['name']}`" in rows[entry["step"]] for option in entry["options"]), entry["step"]


def test_a_step_switched_off_is_passed_over():
    texels = random_texels("rgb")
    off = {"step": "invert", "off": True}
    np.testing.assert_array_equal(apply(texels, off).pixels, texels.pixels)
    assert recipe_digest("a" * 64, None, [off]) == recipe_digest("a" * 64, None, [])
    with pytest.raises(BadDocument, match="off must be"):
        apply(texels, {"step": "invert", "off": 1})


@pytest.mark.parametrize(
    ("step", "word"),
    [
        ({"step": "levels", "black": 2}, "a number from 0 to 1"),
        ({"step": "power", "exponent": float("nan")}, "a number"),
        ({"step": "combine_normal", "method": "add"}, "one of"),
        ({"step": "combine_normal", "detail": "rust"}, "a role"),
        ({"step": "combine_normal", "detail": "normal/1"}, "a role"),
        ({"step": "roughness_from_colour", "bright_is_rough": 1}, "true or false"),
    ],
)
def test_bad_options_say_what_is_wrong(step, word):
    with pytest.raises(BadDocument, match=word):
        apply(random_texels("rgb"), step)


def test_maps_beside_are_found_named_and_never_go_in_circles(tmp_path):
    save(tmp_path / "a_n.png", normal_texels(Green.UP))
    save(tmp_path / "b_n.png", normal_texels(Green.UP, seed=3))
    save(tmp_path / "a_bc.png", random_texels("rgb"))
    combine_step = {"step": "combine_normal", "detail": "normal/2"}
    refs = (
        MapRef(Role.NORMAL, "a_n.png", recipe=(combine_step,)),
        MapRef(Role.NORMAL, "b_n.png", recipe=({"step": "normal_strength", "strength": 2},)),
    )
    library = Library.of_folder(tmp_path)
    first = TextureSet("a", refs).in_use()[Role.NORMAL]
    assert [name for name, _ in first.dependencies] == ["normal/2"] == list(others_of(first.recipe))
    detail = library.map(refs[1])
    np.testing.assert_array_equal(
        library.map(first).pixels, apply(library.source(refs[0]), combine_step, normal_2=detail).pixels
    )
    weaker = TextureSet("a", (refs[0], MapRef(Role.NORMAL, "b_n.png"))).in_use()[Role.NORMAL]
    assert library.map_digest(first) != library.map_digest(weaker)
    with pytest.raises(MismatchedMaps, match="needs the set's normal/2 map"):
        library.map(TextureSet("a", refs[:1]).in_use()[Role.NORMAL])
    circle = (
        MapRef(Role.BASE_COLOR, "a_bc.png", recipe=({"step": "remove_occlusion"},)),
        MapRef(Role.OCCLUSION, "a_bc.png", recipe=({"step": "combine_normal", "detail": "base_color"},)),
    )
    with pytest.raises(BadDocument, match="circle"):
        TextureSet("a", circle).in_use()


@pytest.mark.parametrize(
    "recipe",
    [
        [{"step": "levels", "gamma": 2}],
        [{"step": "normal_from_height", "strength": 16}],
        [{"step": "height_from_colour"}, {"step": "occlusion_from_height"}],
        [{"step": "power_of_two"}],
    ],
)
def test_a_preview_looks_like_the_result_made_smaller(recipe):
    full = grey(noise(500, 12, 2.2), SIXTEEN)
    role = Role.NORMAL if recipe[0]["step"] == "normal_from_height" else Role.HEIGHT
    full = full.as_role(role)
    small = load_texels(dump_texels(reduced(full, 125)), "x").as_role(role)
    made = preview_map(MapRef(role, "x", recipe=tuple(recipe)), lambda ref: (small, 0.25))
    wanted = reduced(apply(full, *recipe), max(made.width, made.height))
    assert made.pixels.shape == wanted.pixels.shape
    assert np.abs(to_unit(made.pixels) - to_unit(wanted.pixels)).mean() < 0.02


def test_derived_maps_from_a_colour_picture_have_relief():
    surface = SURFACES["slate_pier"](256)
    colour = Texels(narrow(surface.colour, EIGHT), "rgb", Transfer.SRGB, Role.BASE_COLOR)
    height = apply(colour.as_role(Role.HEIGHT), {"step": "height_from_colour"})
    assert height.bits == 16
    assert np.corrcoef(to_unit(height.pixels).ravel(), surface.height.ravel())[0, 1] > 0.3
    normal = apply(colour.as_role(Role.NORMAL), {"step": "height_from_colour"}, {"step": "normal_from_height"})
    assert np.abs(lengths(decode(normal)) - 1).max() < 0.001
    rough = apply(colour.as_role(Role.ROUGHNESS), {"step": "roughness_from_colour", "level": 0.7})
    assert abs(float(to_unit(rough.pixels).mean()) - 0.7) < 0.05


def test_apply_and_inspect_on_the_command_line(tmp_path, capsys):
    save(tmp_path / "a_bc.png", random_texels("rgb"))
    save(tmp_path / "a_ao.png", random_texels("y"))
    recipe = {
        "format": "fair-texel/recipe",
        "version": 1,
        "role": "base_color",
        "recipe": [{"step": "remove_occlusion"}],
    }
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    words = ["apply", str(tmp_path / "r.json"), str(tmp_path / "a_bc.png"), str(tmp_path / "o.png")]
    assert main(words) == 2
    assert "--map occlusion=FILE" in capsys.readouterr().err
    assert main([*words, "--map", f"occlusion={tmp_path / 'a_ao.png'}", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["steps"] == ["Take baked occlusion out"]
    assert read(tmp_path / "o.png").pixels.shape == read(tmp_path / "a_bc.png").pixels.shape
    assert main(["inspect", str(tmp_path / "a_bc.png"), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    pixels = read(tmp_path / "a_bc.png").pixels
    assert said["channels"]["g"]["mean"] == pytest.approx(pixels[:, :, 1].mean() / 255, abs=1e-5)
    assert said["channels"]["g"]["distinct"] == len(np.unique(pixels[:, :, 1]))
    assert said["named"]["role"] == "base_color"
    (tmp_path / "bad.json").write_text('{"recipe": []}')
    assert main(["apply", str(tmp_path / "bad.json"), *words[2:]]) == 2


def test_enlarging_is_held_to_the_limits_and_previews_stay_small():
    small = grey(noise(64, 1))
    with pytest.raises(TooLarge, match="MiB"):
        apply(normal_texels(n=64), {"step": "resize", "width": 16384, "height": 16384})
    large = {"step": "resize", "width": 8192, "height": 8192}
    made = preview_map(MapRef(Role.HEIGHT, "x", recipe=(large,)), lambda ref: (small, 1.0))
    assert (made.width, made.height) == (2048, 2048)


@pytest.mark.parametrize(("wrap", "mode"), [(True, "wrap"), (False, "nearest")])
@pytest.mark.parametrize("sigma", [0.8, 5, 12, 40])
def test_blur_is_scipys_gaussian(wrap, mode, sigma):
    field = noise(300, 13, 1.2)[:270]
    wanted = ndimage.gaussian_filter(field, sigma, mode=mode, truncate=3 if sigma < 1 else 4)
    assert np.abs(blur(field, sigma, wrap) - wanted).max() < 0.01


_OF_COLOUR = [
    ("metallic_from_specular", Role.METALLIC), ("height_from_colour", Role.HEIGHT),
    ("roughness_from_colour", Role.ROUGHNESS),
]  # fmt: skip


@pytest.mark.parametrize(
    ("step", "role", "floats"),
    # In a colour role integers are read as the role asks, and a check names the tag.
    [
        ("specular_loss", Role.SPECULAR, True),
        *((step, role, floats) for step, role in _OF_COLOUR for floats in (True, False)),
    ],
)
def test_a_step_reads_colour_by_the_files_own_transfer(step, role, floats):
    """The fault: a float specular map, which holds linear light, was decoded as sRGB once more."""
    light = 0.1 + 0.8 * random_texels("rgb", FLOAT, 32, 32).pixels
    sixteen = narrow(encode_srgb(light), SIXTEEN)
    as_srgb = Texels(sixteen, "rgb", Transfer.SRGB).as_role(role)
    if floats:
        as_linear = Texels(light.astype(np.float32), "rgb", Transfer.LINEAR).as_role(role)
    else:
        as_linear = Texels(narrow(light, SIXTEEN), "rgb", Transfer.LINEAR, tags=ColourTags(gamma=1.0)).as_role(role)
    other = Context(other=lambda name: random_texels("rgb", SIXTEEN, 32, 32, seed=4).as_role(Role.BASE_COLOR))
    first, second = (to_unit(apply_recipe(one, [{"step": step}], other).pixels) for one in (as_srgb, as_linear))
    assert float(np.ptp(first)) > 0.05
    np.testing.assert_allclose(first, second, atol=3 / 255)


def openness_by_hand(height, relief, reach, directions=64):
    """Brute force in float64: every texel along 64 directions, cosine-weighted visibility above the steepest slope."""
    field, total = height.astype(np.float64) * relief, np.zeros(height.shape)
    for angle in np.arange(directions) * 2 * np.pi / directions:
        steepest = np.zeros(height.shape)
        for distance in range(1, int(reach * max(height.shape)) + 1):
            y, x = round(distance * np.sin(angle)), round(distance * np.cos(angle))
            steepest = np.maximum(steepest, (np.roll(field, (-y, -x), (0, 1)) - field) / np.hypot(y, x))
        total += 1 / (1 + steepest**2)
    return total / directions


@pytest.mark.parametrize("relief", [2, 8, 32])
@pytest.mark.parametrize("name", ["brick", "gravel", "noise"])
def test_occlusion_from_height_is_what_brute_force_sees(name, relief):
    height = (noise(128, 3, 1.0) if name == "noise" else getattr(skimage.data, name)()[:128, :128] / 255).astype(
        np.float32
    )
    found, wanted = occlusion_from_height(height, relief), openness_by_hand(height, relief, 0.25)
    assert stats.spearmanr(found.ravel(), wanted.ravel()).statistic > 0.97
    assert float(np.sqrt(np.mean((found - wanted) ** 2))) < 0.03


def test_a_pit_sees_what_its_walls_leave_and_its_relief_counts():
    """A pit as deep as half its width: from its middle the walls rise by 45 degrees, and 1 / (1 + 1) of the light gets
    in."""
    height = np.ones((129, 129), np.float32)
    y, x = np.mgrid[-64:65, -64:65]
    height[np.hypot(y, x) < 16] = 0
    assert float(occlusion_from_height(height, 16)[64, 64]) == pytest.approx(0.5, abs=0.04)
    assert float(occlusion_from_height(height, 8)[64, 64]) == pytest.approx(0.8, abs=0.04)
    half = {"step": "occlusion_from_height", "relief": 0.5, "unit": "metres", "size": 129 / 32}
    made = apply_recipe(Texels(height[:, :, None], "y", Transfer.LINEAR, Role.OCCLUSION), [half])
    assert float(made.pixels[64, 64, 0]) == pytest.approx(0.5, abs=0.04)


@pytest.mark.parametrize("roughness", [3.0, 2.0, 1.0, 0.6])
@pytest.mark.parametrize("levels", [20, 40, 100, 255])
def test_smoothing_steps_never_takes_from_a_surface_and_rounds_back(roughness, levels):
    """The fault: a rough height, whose rounding is the best that is known of it, came out further from the truth."""
    true = noise(N, 11, roughness)
    stepped = (np.round(true * levels) / levels).astype(np.float32)
    made = dequantise(stepped)
    rms = [float(np.sqrt(np.mean(np.square(one - true)))) for one in (made, stepped)]
    assert rms[0] <= rms[1] * 1.01
    np.testing.assert_array_equal(np.round(made * levels), np.round(stepped * levels))
    sixteen = narrow(made, SIXTEEN) / 65535
    np.testing.assert_array_equal(np.round(sixteen * levels), np.round(stepped * levels))


def test_the_step_is_the_one_that_the_map_shows():
    """A few blended values between the steps do not make the step smaller."""
    stepped = (np.round(noise(N, 11, 3.0) * 40) / 40).astype(np.float32)
    stepped[5, 5:9] += np.float32(1e-4)
    assert step_size(stepped) == pytest.approx(1 / 40, rel=1e-3)


@pytest.mark.parametrize("name", ["brick", "grass", "gravel"])
def test_a_photograph_begins_with_a_gentle_relief_whatever_its_size(name):
    """Common practice for stone and grass: a mean lean of about 6 to 11 degrees. 18 to 34 were the fault, and an
    occlusion of which 45 % was plain white."""
    photo = Texels(getattr(skimage.data, name)()[:, :, None], "y", Transfer.SRGB)
    steps = {one.role: one.recipe for one in DERIVATIONS if one.source is Role.BASE_COLOR}
    lean = {}
    for side in (256, 512):
        colour = resize(photo.as_role(Role.BASE_COLOR), side, side)
        raw = Texels(colour.pixels, "y", Transfer.SRGB)
        upright = decode(apply_recipe(raw.as_role(Role.NORMAL), steps[Role.NORMAL]))[:, :, 2]
        lean[side] = float(np.degrees(np.arccos(np.clip(upright, -1, 1))).mean())
        openness = to_unit(apply_recipe(raw.as_role(Role.OCCLUSION), steps[Role.OCCLUSION]).pixels)
        assert float(np.mean(openness >= 254.5 / 255)) < 0.15
        assert 0.75 < float(openness.mean()) < 0.97
    assert 5.5 < lean[512] < 11.5
    # At half the size the finest grain is gone, but relief in percent of the width leans as far.
    assert 0.5 * lean[512] < lean[256] < 1.2 * lean[512]


def test_dark_is_high_turns_the_relief_over():
    grey = random_texels("y", SIXTEEN, 32, 32).as_role(Role.HEIGHT)
    usual, turned = (
        to_unit(apply(grey, {"step": "height_from_colour", "dark_is_high": dark}).pixels) for dark in (False, True)
    )
    np.testing.assert_allclose(turned, 1 - usual, atol=1e-4)


def test_a_pattern_with_lines_is_cut_and_no_two_patterns_lie_over_each_other():
    """Photographed brick of scikit-image: faded, its border differs from the rest by its gradients, cut it does not."""
    brick = (skimage.data.brick() / 255).astype(np.float32)[:, :, None]
    made = {method: make_tileable(brick, 0.2, "both", method) for method in ("fade", "cut", "auto")}
    assert unlikeness(brick, made["cut"], 0.2) < 0.03 < 0.1 < unlikeness(brick, made["fade"], 0.2)
    np.testing.assert_array_equal(made["auto"], made["cut"])
    for axis in (0, 1):
        step, ratio = border_step(made["cut"], axis)
        assert ratio < SEAM or step < VISIBLE_STEP
    # In the middle it is the picture itself.
    np.testing.assert_allclose(made["cut"][120:-120, 120:-120], brick[120:-120, 120:-120], atol=1e-6)


def test_faded_maps_of_a_set_stay_in_register():
    """Every map is moved alike, whatever it shows: the same picture in two roles comes out the same."""
    grey = random_texels("y", FLOAT, 64, 64)
    step = {"step": "make_tileable"}
    height, rough = (apply(grey.as_role(role), step).pixels for role in (Role.HEIGHT, Role.ROUGHNESS))
    np.testing.assert_array_equal(height, rough)
