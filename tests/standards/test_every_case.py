"""Every step, mip chain, pack, container and target on every kind of map (role, channels, depth, size), beside float64.

The references are the definitions themselves, written in NumPy: levels and powers; unit vectors; reoriented normals
(Barré-Brisebois and Hill 2012); Scharr 2000; Frankot and Chellappa 1988; IEC 61966-2-1; means of 2 x 2 texels. Where a
step has no closed form (occlusion, steps smoothed, heights of a photograph) its result is held to what it promises:
range, size, depth, and that plain maps stay plain.
"""

import itertools
import shutil
from dataclasses import replace

import numpy as np
import pytest

from tests.pictures import EIGHT, FLOAT, SIXTEEN
from texel.blocks import WRITABLE_FORMATS, format_named
from texel.blocks.encoding import encode_texture
from texel.channels.layout import Layout, Source
from texel.channels.packing import pack
from texel.delivery import builtin_targets, deliver_folder, plan_delivery, target_named
from texel.errors import DeliveryRefused, MismatchedMaps, TexelError
from texel.files import read
from texel.files.dds import build_dds
from texel.files.dds import read_texture as read_dds
from texel.files.ktx2 import build_ktx2
from texel.files.ktx2 import read_texture as read_ktx2
from texel.files.writing import encode
from texel.image import Texels, narrow
from texel.library import Library
from texel.mips import right_chain
from texel.recipes import STEPS, apply_recipe, shape_after
from texel.recipes.step import Context, Shape
from texel.roles import ROLES, Role, Transfer
from texel.sets import MapRef, TextureSet

CHANNELS = ("y", "ya", "rg", "rgb", "rgba")
DEPTHS = ("8", "16", "float", "signed")
SIZES = ((1, 1), (3, 5), (4096, 1), (1, 4096))
LARGE = (1000, 1000)
KINDS = {"8": EIGHT, "16": SIXTEEN, "float": FLOAT, "signed": FLOAT}
# Options by which a step does something to every map.
OPTIONS = {
    "levels": {"black": 0.2, "white": 0.9, "gamma": 2.0, "low": 0.1, "high": 0.8}, "power": {"exponent": 2.2},
    "clamp": {"low": 0.25, "high": 0.75}, "constant": {"value": 0.3},
    "exchange_channels": {"first": "r", "second": "g"},
    "extract_channel": {"channel": "g"}, "normal_strength": {"strength": 2.5}, "resize": {"width": 7, "height": 4},
    "combine_normal": {"strength": 1.5}, "to_srgb_primaries": {"source": "p3_d65"},
}  # fmt: skip


def a_map(role, channels, depth, size, seed=0):
    """A random map read in its role. Signed: components of vectors, or numbers from -1 to 1."""
    rng = np.random.default_rng(seed)
    values = rng.random((*size, len(channels)), np.float32)
    count = len(channels) - channels.endswith("a")
    if depth == "signed":
        values[:, :, :count] = values[:, :, :count] * 2 - 1
        if role is Role.NORMAL and count == 3:
            values[:, :, :3] /= np.linalg.norm(values[:, :, :3], axis=2, keepdims=True)
        elif role is Role.NORMAL and count == 2:
            values[:, :, :2] *= 0.7
    kind = np.dtype(KINDS[depth])
    pixels = values if kind == np.float32 else narrow(values, kind)
    transfer = Transfer.LINEAR if kind == np.float32 else Transfer.SRGB
    return Texels(pixels, channels, transfer, name="map").as_role(role)


def unit_of(texels):
    """Stored numbers in float64, full scale 1."""
    top = 1 if texels.pixels.dtype == np.float32 else np.iinfo(texels.pixels.dtype).max
    return texels.pixels.astype(np.float64) / top


def parts(texels):
    count = len(texels.channels) - texels.has_alpha
    values = unit_of(texels)
    return values[:, :, :count], values[:, :, count:]


def on_colour(change):
    def wanted(texels, other):
        colour, alpha = parts(texels)
        return np.concatenate([change(colour), alpha], axis=2)

    return wanted


def unit_vectors(vectors):
    length = np.linalg.norm(vectors, axis=2, keepdims=True)
    flat = np.add(np.zeros_like(vectors), (0, 0, 1))
    return np.where(length <= 1e-6, flat, vectors / np.maximum(length, 1e-30))


def vectors_of(texels):
    if texels.channels[0] == "y":
        raise MismatchedMaps("no vectors")
    found = 2 * parts(texels)[0] - 1
    if found.shape[2] == 2:
        rest = np.sqrt(np.maximum(0, 1 - (found**2).sum(axis=2, keepdims=True)))
        found = np.concatenate([found, rest], axis=2)
    return found


def on_vectors(change):
    def wanted(texels, other):
        stored_ = (change(vectors_of(texels), other) + 1) / 2
        kept = 2 if texels.channels == "rg" and change is not rebuilt else 3
        return np.concatenate([stored_[:, :, :kept], parts(texels)[1]], axis=2)

    return wanted


def reoriented(base, other):
    base, detail = unit_vectors(base), unit_vectors(unit_vectors(vectors_of(other)) * (1.5, 1.5, 1))
    t, u = np.add(base, (0, 0, 1)), detail * (-1, -1, 1)
    return unit_vectors(t * (t * u).sum(axis=2, keepdims=True) / np.maximum(t[:, :, 2:], 1e-6) - u)


def rebuilt(vectors, other):
    squared = (vectors[:, :, :2] ** 2).sum(axis=2, keepdims=True)
    xy = np.where(squared > 1, vectors[:, :, :2] / np.sqrt(np.maximum(squared, 1)), vectors[:, :, :2])
    return np.concatenate([xy, np.sqrt(np.maximum(0, 1 - squared))], axis=2)


def from_height(texels, other):
    """Scharr 2000: 3 10 3 across a central difference, the border wrapped; strength 8 texels."""
    height = unit_of(texels)[:, :, 0] * 8
    smooth = {
        axis: (3 * np.roll(height, 1, axis) + 10 * height + 3 * np.roll(height, -1, axis)) / 16 for axis in (0, 1)
    }
    dx = (np.roll(smooth[0], -1, 1) - np.roll(smooth[0], 1, 1)) / 2
    dy = -(np.roll(smooth[1], -1, 0) - np.roll(smooth[1], 1, 0)) / 2
    return (unit_vectors(np.stack([-dx, -dy, np.ones_like(dx)], axis=2)) + 1) / 2


def to_height(texels, other):
    """Frankot and Chellappa 1988 by two transforms; green as read up."""
    vectors = vectors_of(texels)
    z = np.maximum(vectors[:, :, 2], 1 / 16)
    p, q = np.clip(-vectors[:, :, 0] / z, -16, 16), np.clip(vectors[:, :, 1] / z, -16, 16)
    u, v = (2 * np.pi * np.fft.fftfreq(count) for count in (p.shape[1], p.shape[0]))
    u, v = np.where(np.isclose(abs(u), np.pi), 0, u)[None, :], np.where(np.isclose(abs(v), np.pi), 0, v)[:, None]
    squared = u**2 + v**2
    spectrum = -1j * (u * np.fft.fft2(p) + v * np.fft.fft2(q)) / np.where(squared > 0, squared, 1)
    spectrum[0, 0] = 0
    height = np.fft.ifft2(spectrum).real
    return ((height - height.min()) / max(np.ptp(height), 1e-6))[:, :, None]


def faded(texels, other):
    values = unit_of(texels)
    for axis in (1, 0):
        count = values.shape[axis]
        at = (np.arange(count) + 0.5) / count
        inwards = np.clip(np.minimum(at, 1 - at) / 0.2, 0, 1)
        weight = np.expand_dims(1 - inwards**2 * (3 - 2 * inwards), [1 - axis, 2])
        length = np.sqrt(weight**2 + (1 - weight) ** 2)
        own, rest = (1 - weight) / length, weight / length
        mean = values.mean(axis=(0, 1))
        values = values * own + np.roll(values, count // 2, axis) * rest + mean * (1 - own - rest)
    values = np.clip(values, 0, 1)
    if texels.role is Role.NORMAL and texels.channels in ("rgb", "rgba"):
        values[:, :, :3] = (unit_vectors(2 * values[:, :, :3] - 1) + 1) / 2
    return values


def light(v):
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0) + 0.055) / 1.055) ** 2.4)


def stored(v):
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0) ** (1 / 2.4) - 0.055)


def without_occlusion(texels, other):
    colour, alpha = parts(texels)
    divisor = np.maximum(unit_of(other)[:, :, :1], 0.15)
    if texels.transfer is Transfer.LINEAR:
        return np.concatenate([np.minimum(colour / divisor, 1), alpha], axis=2)
    return np.concatenate([stored(np.minimum(light(colour) / divisor, 1)), alpha], axis=2)


def exchanged(texels, other):
    values = unit_of(texels).copy()
    a, b = texels.channels.index("r"), texels.channels.index("g")
    values[:, :, [a, b]] = values[:, :, [b, a]]
    return values


def taken(texels, other):
    return unit_of(texels)[:, :, 0 if texels.channels[0] == "y" else texels.channels.index("g")][:, :, None]


def flipped(texels, other):
    values = unit_of(texels).copy()
    values[:, :, 1] = 1 - values[:, :, 1]
    return values


def same(texels, other):
    return unit_of(texels)


def bent(v):
    return 0.1 + 0.7 * np.clip((v - 0.2) / 0.7, 0, 1) ** 0.5


WANTED = {
    "levels": on_colour(bent), "power": on_colour(lambda v: np.maximum(v, 0) ** 2.2),
    "clamp": on_colour(lambda v: np.clip(v, 0.25, 0.75)), "constant": on_colour(lambda v: np.full_like(v, 0.3)),
    "invert": on_colour(lambda v: 1 - v), "gloss_to_roughness": on_colour(lambda v: 1 - v),
    "exchange_channels": exchanged, "extract_channel": taken, "flip_green": flipped, "ignore_tag": same,
    "drop_alpha": lambda texels, other: parts(texels)[0], "make_tileable": faded,
    "renormalise": on_vectors(lambda v, other: unit_vectors(v)), "z_from_xy": on_vectors(rebuilt),
    "normal_strength": on_vectors(lambda v, other: unit_vectors(v * (2.5, 2.5, 1))),
    "combine_normal": on_vectors(reoriented), "normal_from_height": from_height, "height_from_normal": to_height,
    "remove_occlusion": without_occlusion,
}  # fmt: skip
# Filters as wide as the map: tried on long maps in one role only.
WIDE = ("resize", "power_of_two", "height_from_colour", "roughness_from_colour", "dequantise")
# Float32 beside float64 where a root or a quotient magnifies what is left of it near zero, and in a transform.
LOOSER = {
    "height_from_normal": 2e-3,
    "combine_normal": 2e-4,
    "z_from_xy": 2e-4,
    "normal_strength": 2e-4,
    "renormalise": 1e-4,
}
# What the other map of the set is, for steps that read one.
OTHERS = {"combine_normal": Role.NORMAL, "remove_occlusion": Role.OCCLUSION, "dilate": Role.OPACITY}


def cases(sizes):
    return itertools.product(ROLES, CHANNELS, DEPTHS, sizes)


def check_step(name, role, channels, depth, size):
    """Whether the step was done; False where it refused with a message."""
    texels = a_map(role, channels, depth, size)
    other_role = OTHERS.get(name, Role.SPECULAR if name == "base_color_from_specular" else Role.BASE_COLOR)
    other = a_map(other_role, "y" if other_role in (Role.OCCLUSION, Role.OPACITY) else "rgb", "8", size, 1)
    step = {"step": name, **OPTIONS.get(name, {}), **({"green_is": "up"} if name == "height_from_normal" else {})}
    before = texels.pixels.copy()
    try:
        made = apply_recipe(texels, [step], Context(other=lambda _: other))
    except MismatchedMaps:
        return False
    np.testing.assert_array_equal(texels.pixels, before, "a step changed its source")
    what = f"{name} of {role.value}, {channels}, {depth}, {size}"
    shape = shape_after(Shape(texels.width, texels.height, texels.channels, texels.bits), [step])
    assert (made.width, made.height, made.channels, made.bits) == shape, what
    assert np.isfinite(made.pixels).all(), what
    if name in WANTED and name != "resize":
        # Half a step of the result's depth, and what float32 leaves of a sum over thousands of texels.
        most = (0.5 / np.iinfo(made.pixels.dtype).max if made.bits < 32 else 0) + LOOSER.get(name, 2e-5)
        # A step on vectors reads a float map of another role as normals first, as a whole.
        vectors = name == "height_from_normal" or STEPS[name].suits == (Role.NORMAL,)
        asked = (
            texels.as_role(Role.NORMAL) if vectors and name != "normal_from_height" and texels.bits == 32 else texels
        )
        wanted = WANTED[name](asked, other)
        off = np.abs(unit_of(made) - (np.clip(wanted, 0, 1) if made.bits < 32 else wanted))
        assert off.max() <= most, f"{what}: {off.max()} off"
    return True


@pytest.mark.parametrize("name", sorted(STEPS))
def test_a_step_is_right_on_every_kind_of_map(name):
    """1100 maps from 3 to 32 768 numbers each; a step that makes no sense on one refuses in words."""
    kinds = [*cases(SIZES)]
    if name in WIDE:
        kinds = [*cases(SIZES[:2]), *itertools.product(STEPS[name].suits[:1], CHANNELS, DEPTHS, SIZES[2:])]
    done = sum(check_step(name, *kind) for kind in kinds)
    assert done >= len(kinds) // 5


@pytest.mark.parametrize("name", sorted(STEPS))
def test_a_step_is_right_on_a_large_map(name):
    role = STEPS[name].suits[0]
    done = [check_step(name, role, channels, depth, LARGE) for channels, depth in (("rgb", "8"), ("y", "16"))]
    assert any(done)


def halved(values):
    height, width = (max(1, side // 2) for side in values.shape[:2])
    rows = (
        np.stack([part.mean(axis=0) for part in np.array_split(values, height)]) if values.shape[0] % 2 == 0 else None
    )
    assert rows is not None
    return np.stack([part.mean(axis=1) for part in np.array_split(rows, width, axis=1)], axis=1)


@pytest.mark.parametrize("depth", DEPTHS)
def test_the_first_smaller_level_is_the_mean_in_its_own_space(depth):
    for role, channels, size in itertools.product(ROLES, CHANNELS, ((2, 2), (8, 4), (4096, 2), (2, 4096))):
        texels = a_map(role, channels, depth, size)
        level = right_chain(texels)[1]
        colour, alpha = parts(texels)
        if role is Role.NORMAL and channels[0] != "y":
            made = (unit_vectors(halved(unit_vectors(vectors_of(texels)))) + 1) / 2
            colour = made[:, :, : colour.shape[2]]
        elif texels.transfer is Transfer.SRGB:
            weight = np.maximum(alpha, 2.0**-24) if texels.has_alpha else np.ones_like(colour[:, :, :1])
            colour = stored(halved(light(colour) * weight) / halved(weight))
        else:
            colour = halved(colour)
        alpha = halved(alpha)
        wanted = np.concatenate([colour, alpha], axis=2)
        covered = role is Role.OPACITY or (texels.has_alpha and texels.transfer is Transfer.SRGB)
        most = (0.5 / np.iinfo(level.pixels.dtype).max if level.bits < 32 else 0) + 2e-5
        off = np.abs(unit_of(level) - (np.clip(wanted, 0, 1) if level.bits < 32 else wanted))
        # Random alpha is soft: no cut-out, whose coverage would be kept instead of its mean.
        assert off.max() <= most or (covered and texels.width * texels.height <= 32), (role, channels, depth, size)


@pytest.mark.parametrize("container", ["png", "tga", "tiff", "exr"])
def test_a_container_gives_back_what_it_took_or_refuses(container, tmp_path):
    written = 0
    for role, channels, depth, size in cases(SIZES):
        texels = a_map(role, channels, depth, size)
        path = tmp_path / f"map.{container}"
        try:
            path.write_bytes(encode(texels, container))
        except TexelError:
            continue
        written += 1
        again = read(path)
        assert again.channels == channels, (role, channels, depth, size)
        np.testing.assert_allclose(unit_of(again), unit_of(texels), atol=1e-6 if again.bits == 32 else 0)
    assert written >= 100


@pytest.mark.parametrize("depth", DEPTHS)
def test_packed_channels_are_those_of_their_maps(depth):
    """Straight, inverted and bent, beside a plain map of another depth."""
    layout = Layout(
        "p",
        {
            "r": Source(Role.OCCLUSION), "g": Source(Role.ROUGHNESS, invert=True),
            "b": Source(Role.METALLIC, missing=0.25),
            "a": Source(Role.HEIGHT, black=0.2, white=0.8, power=2.0),
        },
    )  # fmt: skip
    for channels, size in itertools.product(CHANNELS, (*SIZES, LARGE)):
        roles = (Role.OCCLUSION, Role.ROUGHNESS, Role.HEIGHT)
        maps = {role: a_map(role, channels, depth, size, at) for at, role in enumerate(roles)}
        made = unit_of(pack(layout, maps))
        red = {role: unit_of(one)[:, :, 0] for role, one in maps.items()}
        bent_ = np.clip((red[Role.HEIGHT] - 0.2) / 0.6, 0, 1) ** 2
        planes = (red[Role.OCCLUSION], 1 - red[Role.ROUGHNESS], np.full(size, 0.25), bent_)
        most = 1e-6 if depth in ("float", "signed") else 0.5 / np.iinfo(KINDS[depth]).max + 1e-9
        for at, plane in enumerate(planes):
            assert np.abs(made[:, :, at] - plane).max() <= most, (channels, depth, size, at)


@pytest.mark.parametrize("key", sorted(WRITABLE_FORMATS))
def test_a_format_of_graphics_hardware_keeps_size_and_numbers_or_refuses(key):
    """Uncompressed formats give back what they took, rounded to their depth; blocks a picture of the same size."""
    format_ = format_named(key)
    # Its encoder takes a tenth of a second to begin.
    sizes = ((3, 5),) if format_.family == "astc" else ((1, 1), (3, 5), (256, 1), (1, 256))
    roles = (Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS)
    for role, channels, depth, size in itertools.product(roles, CHANNELS, DEPTHS, sizes):
        texels = a_map(role, channels, depth, size)
        try:
            texture = encode_texture(texels, format_, "quick")
        except TexelError:
            continue
        for container in (build_ktx2(texture), build_dds(texture) if None not in format_.dxgi[:1] else None):
            if container is None:
                continue
            again = (read_ktx2 if container[1:4] == b"KTX" else read_dds)(container, "again").level(0)
            assert (again.height, again.width) == size
        first = parts(texels)[0][:, :, :1]
        if not format_.is_block and format_.bits < 32:
            off = np.abs(unit_of(again)[:, :, :1] - np.clip(first, 0, 1))
            assert off.max() <= 0.5 / (2**format_.bits - 1) + 1e-7, (key, role, channels, depth, size)


@pytest.mark.parametrize("name", sorted(builtin_targets()))
def test_a_set_of_any_kind_is_delivered_to_every_target(name, tmp_path):
    """Each file can be read again and has its plan's size; no kind of map ends a delivery."""
    refused = []
    for channels, depth, size in itertools.product(CHANNELS, DEPTHS, ((3, 5), (1, 64), (64, 1))):
        folder, out = tmp_path / "in", tmp_path / "out"
        folder.mkdir()
        # Two channels find a container in OpenEXR alone; the rest in TIFF.
        suffix = "exr" if channels == "rg" else "tif"
        for role, word in ((Role.BASE_COLOR, "basecolor"), (Role.NORMAL, "normal"), (Role.ROUGHNESS, "roughness")):
            texels = a_map(role, channels, depth, size)
            texels = texels if suffix == "tif" else replace(texels, transfer=Transfer.LINEAR)
            (folder / f"wall_{word}.{suffix}").write_bytes(encode(texels, suffix.replace("tif", "tiff")))
        library = Library.of_folder(folder)
        refs = tuple(
            MapRef(role, f"wall_{word}.{suffix}")
            for role, word in ((Role.BASE_COLOR, "basecolor"), (Role.NORMAL, "normal"), (Role.ROUGHNESS, "roughness"))
        )
        plan = plan_delivery([TextureSet("wall", refs)], library, target_named(name))
        if not plan.files:
            assert plan.problems, (channels, depth, size)
        else:
            try:
                plan, _ = deliver_folder(plan, library, out)
            except DeliveryRefused as error:
                refused.append(str(error))
            else:
                assert not [problem for problem in plan.problems if "Error:" in problem], (
                    channels,
                    depth,
                    size,
                    plan.problems,
                )
                for planned in (one for one in plan.files if one.kind != "material"):
                    made = read(out / planned.path)
                    assert (made.width, made.height) == (planned.width, planned.height)
        shutil.rmtree(folder)
        shutil.rmtree(out, ignore_errors=True)
    # An error of ours is told by its name, as in "IndexError: ...".
    assert not [message for message in refused if "Error:" in message]


def test_how_many_maps_the_steps_are_tried_on(record_property):
    maps = len(STEPS) * len([*cases(SIZES)])
    record_property("maps", maps)
    assert maps > 25000
