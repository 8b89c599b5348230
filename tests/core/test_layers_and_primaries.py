"""Pictures within an OpenEXR, and colours given in other primaries than sRGB's."""

import numpy as np
import OpenEXR
import pytest

from tests.pictures import FLOAT, normal_texels, random_texels, save
from texel.checks import check_sets
from texel.errors import UnreadableImage
from texel.files import probe, read
from texel.image import ColourTags, Texels
from texel.library import Library
from texel.primaries import PRIMARIES, conversion
from texel.recipes import apply_recipe
from texel.roles import Role, Transfer
from texel.sorting import sort_files


def layered(path, **more):
    """Two parts, written by OpenEXR: a surface with two groups of channels, and a height."""
    rng = np.random.default_rng(4)
    colour, height = rng.random((12, 16, 3), np.float32), rng.random((12, 16), np.float32)
    normal = np.ascontiguousarray(normal_texels(n=16).pixels[:12] / np.float32(255))
    head = {"type": OpenEXR.scanlineimage, **more}
    layered = {f"basecolor.{c}": colour[:, :, i].copy() for i, c in enumerate("RGB")}
    layered |= {f"normal.{c}": normal[:, :, i].copy() for i, c in enumerate("XYZ")}
    parts = [
        OpenEXR.Part({**head, "name": "surface"}, layered),
        OpenEXR.Part({**head, "name": "height"}, {"Y": height}),
    ]
    OpenEXR.File(parts).write(str(path))
    return colour, normal, height


def test_every_layer_is_listed_and_can_be_chosen(tmp_path):
    path = tmp_path / "deck.exr"
    colour, normal, height = layered(path)
    found = probe(path)
    assert [(one.name, one.channels) for one in found.layers] == [
        ("surface.basecolor", "rgb"), ("surface.normal", "rgb"), ("height", "y"),
    ]  # fmt: skip
    np.testing.assert_array_equal(read(path).pixels, colour)
    np.testing.assert_array_equal(read(path, layer="surface.normal").pixels, normal)
    np.testing.assert_array_equal(read(path, layer="height").pixels[:, :, 0], height)
    with pytest.raises(UnreadableImage, match=r"no layer 'albedo'; it has surface\.basecolor"):
        read(path, layer="albedo")


def test_a_layered_picture_is_a_set_in_one_file(tmp_path):
    layered(tmp_path / "deck.exr")
    found = sort_files(Library.of_folder(tmp_path), "in")
    assert [(m.role, m.layer) for m in found.sets[0].maps] == [
        (Role.BASE_COLOR, "surface.basecolor"), (Role.NORMAL, "surface.normal"), (Role.HEIGHT, "height"),
    ]  # fmt: skip
    library = Library.of_folder(tmp_path)
    refs = found.sets[0].maps
    assert len({library.map_digest(ref) for ref in refs}) == 3
    assert library.map(refs[2]).channels == "y"


def test_a_picture_without_layers_lists_none(tmp_path):
    path = save(tmp_path / "a.exr", random_texels("rgba", FLOAT))
    assert probe(path).layers == ()
    assert read(path).channels == "rgba"


def test_chromaticities_come_back_and_data_has_none(tmp_path):
    wide = ColourTags(chromaticities=PRIMARIES["ap1"])
    colour = Texels(random_texels("rgb", FLOAT).pixels, "rgb", Transfer.LINEAR, Role.BASE_COLOR, tags=wide)
    path = save(tmp_path / "bc.exr", colour)
    told = OpenEXR.File(str(path)).header()["chromaticities"]
    np.testing.assert_allclose(told, PRIMARIES["ap1"], atol=1e-5)
    np.testing.assert_allclose(probe(path).tags.primaries, PRIMARIES["ap1"], atol=1e-5)
    data = Texels(colour.pixels, "rgb", Transfer.LINEAR, Role.NORMAL)
    assert "chromaticities" not in OpenEXR.File(str(save(tmp_path / "n.exr", data))).header()


def test_other_primaries_are_found_and_mended(tmp_path):
    wide = ColourTags(cicp=(9, 13, 0, 1))
    rng = np.random.default_rng(5).integers(60, 220, (64, 64, 3)).astype(np.uint8)
    save(tmp_path / "deck_bc.png", Texels(rng, "rgb", Transfer.SRGB, Role.BASE_COLOR, tags=wide))
    library = Library.of_folder(tmp_path)
    sets = sort_files(library, "in").sets
    finding = next(f for f in check_sets(sets, library) if f.check == "primaries_against_role")
    assert finding.remedy == {"step": "to_srgb_primaries", "source": "rec2020"}
    mended = apply_recipe(library.map(sets[0].maps[0]), [finding.remedy])
    assert mended.tags.primaries == PRIMARIES["rec709"]


# ITU-R BT.2087-0, annex 1: the matrix from BT.709 to BT.2020, to four digits.
_BT2087 = [[0.6274, 0.3293, 0.0433], [0.0691, 0.9195, 0.0114], [0.0164, 0.0880, 0.8956]]


def test_conversion_to_wide_primaries_is_the_published_matrix():
    np.testing.assert_allclose(conversion(PRIMARIES["rec709"], PRIMARIES["rec2020"]), _BT2087, atol=6e-5)


def test_white_stays_white_whatever_the_primaries():
    for name, primaries in PRIMARIES.items():
        np.testing.assert_allclose(conversion(primaries) @ np.ones(3), np.ones(3), atol=1e-6, err_msg=name)
