"""Pictures for people, stored values, and the library that reads each file once."""

import io

import numpy as np
import pytest
from PIL import Image

from demo.patterns import noise
from tests.pictures import EIGHT, FLOAT, SIXTEEN, normal_texels, random_texels, save
from texel import digest
from texel.errors import MismatchedMaps, TooLarge, UnreadableImage
from texel.files import Limits
from texel.image import Texels, narrow
from texel.kept import Kept
from texel.library import Library, claimed_green, list_files, named_green
from texel.pictures import View, histogram, picture, stored_values
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef
from texel.sorting.content import guess_roles


def shown(texels, **view):
    return np.asarray(Image.open(io.BytesIO(picture(texels, View(**view)))))


def test_pictures_show_stored_numbers_and_alpha_covers_nothing():
    texels = random_texels("rgba")
    texels.pixels[:, :, 3] = 0
    np.testing.assert_array_equal(shown(texels), texels.pixels[:, :, :3])
    np.testing.assert_array_equal(shown(texels, channel="a"), texels.pixels[:, :, 3])
    np.testing.assert_array_equal(shown(random_texels("ya")), random_texels("ya").pixels[:, :, 0])


def test_sixteen_bits_are_shown_by_their_upper_half_and_floats_clipped():
    wide = random_texels("y", SIXTEEN)
    np.testing.assert_array_equal(shown(wide), np.round(wide.pixels[:, :, 0] / 257))
    bright = Texels(np.full((4, 4, 1), 3.0, np.float32), "y", Transfer.LINEAR, Role.HEIGHT)
    assert set(np.unique(shown(bright))) == {255}


def test_linear_colour_is_shown_as_an_eye_needs_it_and_data_is_not():
    half = np.full((4, 4, 3), 0.5, np.float32)
    assert shown(Texels(half, "rgb", Transfer.LINEAR, Role.BASE_COLOR))[0, 0].tolist() == [188] * 3
    assert shown(Texels(half, "rgb", Transfer.LINEAR, Role.NORMAL))[0, 0].tolist() == [128] * 3


def test_two_channels_and_sizes():
    assert shown(random_texels("rg", FLOAT)).shape == (12, 16, 3)
    assert shown(random_texels("rgb", width=64, height=32), side=16).shape == (8, 16, 3)
    assert shown(random_texels("y", width=8, height=8), side=500).shape == (8, 8)


def test_cut_outs_are_clipped_to_the_picture():
    texels = random_texels("rgb")
    np.testing.assert_array_equal(shown(texels, box=(10, 8, 100, 100)), texels.pixels[8:, 10:])
    with pytest.raises(MismatchedMaps, match="outside"):
        picture(texels, View(box=(100, 0, 4, 4)))


@pytest.mark.parametrize(("dtype", "little"), [(EIGHT, "<u1"), (SIXTEEN, "<u2"), (FLOAT, "<f4")])
def test_stored_values_are_exact(dtype, little):
    texels = random_texels("rgb", dtype)
    data, said = stored_values(texels, 4, 2, 3, 5)
    assert (said["width"], said["height"], said["channels"], said["type"]) == ("3", "5", "rgb", dtype.name)
    np.testing.assert_array_equal(np.frombuffer(data, little).reshape(5, 3, 3), texels.pixels[2:7, 4:7])
    _, clipped = stored_values(texels, 14, 10, 50, 50)
    assert (clipped["width"], clipped["height"]) == ("2", "2")


def test_histograms_count_every_texel():
    for dtype in (EIGHT, SIXTEEN, FLOAT):
        counts = histogram(random_texels("rgb", dtype))
        assert {letter: sum(found["counts"]) for letter, found in counts.items()} == dict.fromkeys("rgb", 16 * 12)
    clipped = np.array([[0, 255, 255, 7]], np.uint8)[:, :, None]
    found = histogram(Texels(clipped, "y", Transfer.LINEAR))["y"]
    assert (found["black"], found["white"], found["counts"][7]) == (0.25, 0.5, 1)


def test_files_are_listed_without_what_is_hidden(tmp_path):
    for name in ("b/x.png", "a.png", ".git/y.png", "__MACOSX/z.png", "Thumbs.db", "b/.DS_Store"):
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_bytes(b"x")
    assert list(list_files(tmp_path)) == ["a.png", "b/x.png"]


def test_a_library_reads_each_file_once_and_keeps_what_it_knows(tmp_path, monkeypatch):
    path = save(tmp_path / "a_bc.png", random_texels("rgb"))
    library = Library.of_folder(tmp_path)
    first = library.texels("a_bc.png")
    monkeypatch.setattr("texel.library.read", lambda *a: pytest.fail("read twice"))
    assert library.texels("a_bc.png") is first
    assert library.digest("a_bc.png") == digest.of_file(path) == digest.of_bytes(path.read_bytes())
    what_is_known = library.probe("a_bc.png")
    monkeypatch.setattr("texel.library.probe", lambda *a: pytest.fail("probed"))
    known = Library({"x.png": path}, probes={"x.png": what_is_known})
    assert known.probe("x.png") is what_is_known


def test_what_was_not_used_lately_is_set_aside_and_comes_back_as_it_was():
    kept = Kept(limit=2 * 64 * 64 * 3)
    maps = {name: random_texels("rgb", width=64, height=64, seed=at) for at, name in enumerate("abc")}
    for name, texels in maps.items():
        kept.put(name, texels)
    assert [kept.get(name) is maps[name] for name in "bc"] == [True, True]
    again = kept.get("a")
    assert isinstance(again.pixels, np.memmap)
    np.testing.assert_array_equal(again.pixels, maps["a"].pixels)
    assert (again.channels, again.transfer, again.name) == ("rgb", maps["a"].transfer, maps["a"].name)


def test_what_finds_no_place_aside_is_forgotten(monkeypatch):
    size = 64 * 64 * 3
    kept = Kept(limit=size, aside=size)
    for at, name in enumerate("abc"):
        kept.put(name, random_texels("rgb", width=64, height=64, seed=at))
    assert [kept.get(name) is None for name in "ab"] == [True, False]
    monkeypatch.setattr("texel.kept.tempfile.TemporaryFile", _full_disk)
    kept.put("d", random_texels("rgb", width=64, height=64))
    kept.put("e", random_texels("rgb", width=64, height=64))
    assert [kept.get(name) is None for name in "de"] == [True, False]


def _full_disk(*args, **more):
    raise OSError(28, "No space left on device")


def test_a_large_file_finds_room_before_it_is_read(tmp_path, monkeypatch):
    save(tmp_path / "a.png", random_texels("rgb", width=64, height=64))
    monkeypatch.setattr("texel.library._LARGE_FILE", 100)
    library, asked = Library.of_folder(tmp_path), []
    monkeypatch.setattr(Kept, "make_room", lambda self, size: asked.append(size))
    library.texels("a.png")
    assert asked == [64 * 64 * 3]


def test_a_library_says_what_it_lacks_and_keeps_its_limits(tmp_path):
    save(tmp_path / "a.png", random_texels("rgb"))
    library = Library.of_folder(tmp_path, Limits(max_side=4))
    with pytest.raises(UnreadableImage, match="no such file"):
        library.texels("b.png")
    for look in (library.probe, library.texels):
        with pytest.raises(TooLarge):
            look("a.png")


def test_maps_are_channels_read_in_their_role(tmp_path):
    packed = random_texels("rgba")
    save(tmp_path / "a_orm.png", packed)
    save(tmp_path / "a_nor_dx.png", normal_texels(Green.DOWN))
    library = Library.of_folder(tmp_path)
    rough = library.map(MapRef(Role.ROUGHNESS, "a_orm.png", "g", recipe=({"step": "invert"},)))
    assert (rough.channels, rough.role, rough.transfer) == ("y", Role.ROUGHNESS, Transfer.LINEAR)
    np.testing.assert_array_equal(rough.pixels[:, :, 0], 255 - packed.pixels[:, :, 1])
    normal = MapRef(Role.NORMAL, "a_nor_dx.png", recipe=({"step": "flip_green"},))
    assert library.source(normal).green is Green.DOWN
    assert library.map(normal).green is Green.UP
    assert (named_green(normal.file), claimed_green(normal)) == (Green.DOWN, Green.UP)


@pytest.mark.parametrize(
    ("make", "role"),
    [
        (lambda: normal_texels(), Role.NORMAL),
        (lambda: random_texels("rgb", width=64, height=64), Role.BASE_COLOR),
        (
            lambda: Texels(np.where(np.tri(64)[:, :, None] > 0, 0, 255).astype(np.uint8), "y", Transfer.LINEAR),
            Role.METALLIC,
        ),
        (lambda: random_texels("y", np.uint16, width=64, height=64), Role.HEIGHT),
        (lambda: random_texels("y", width=64, height=64), Role.ROUGHNESS),
        (
            lambda: Texels(narrow(1 - noise(64, 3)[:, :, None] ** 4, EIGHT), "y", Transfer.LINEAR),
            Role.OCCLUSION,
        ),
    ],
)
def test_roles_guessed_from_pixels(make, role):
    guesses = guess_roles(make())
    assert guesses[0].role is role
    assert 0 < guesses[0].confidence <= 0.9
    assert all(guess.why for guess in guesses)
