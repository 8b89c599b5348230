"""PNG reading against two other libraries, on the conformance images (see png/README.md)."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image

from texel.errors import UnreadableImage
from texel.files import probe, read
from texel.image import Texels, full_scale

FOLDER = Path(__file__).parent / "png"
SOUND = sorted(p.name for p in FOLDER.glob("*.png") if not p.name.startswith("invalid"))


def _spread(texels: Texels) -> np.ndarray:
    """All four channels: grey three times, alpha full where there is none."""
    pixels = texels.pixels
    colours = pixels[:, :, [0, 0, 0]] if texels.channels[0] == "y" else pixels[:, :, :3]
    alpha = texels.channel("a") if texels.has_alpha else np.full(pixels.shape[:2], full_scale(pixels.dtype))
    return np.dstack([colours, alpha]).astype(pixels.dtype)


def _by_openimageio(path: Path, dtype: np.dtype) -> np.ndarray:
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    pixels = opened.read_image(dtype.name)
    opened.close()
    pixels = pixels.reshape(*pixels.shape[:2], -1)
    letters = {1: "y", 2: "ya", 3: "rgb", 4: "rgba"}[pixels.shape[2]]
    return _spread(Texels(pixels, letters, read(path).transfer))


def _by_pillow(path: Path) -> np.ndarray:
    with Image.open(path) as picture:
        if picture.mode == "L" and "transparency" in picture.info:
            # Pillow spreads the samples of 4 bits over 0 to 255, but not the transparent one.
            picture.info["transparency"] *= 255 // (2 ** int(path.stem[-2:]) - 1)
        return np.asarray(picture.convert("RGBA"))


def _by_opencv(path: Path) -> np.ndarray:
    pixels = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    pixels = pixels.reshape(*pixels.shape[:2], -1)
    order = {1: [0, 0, 0], 3: [2, 1, 0], 4: [2, 1, 0, 3]}[pixels.shape[2]]
    return pixels[:, :, order]


def test_the_images_are_all_here():
    assert len(SOUND) == 37
    assert {int(name[6:8]) for name in SOUND if name.startswith("basn0g")} == {1, 2, 4, 8, 16}


@pytest.mark.parametrize("name", SOUND)
def test_a_sound_image_reads_as_two_other_libraries_read_it(name):
    path = FOLDER / name
    texels = read(path)
    head = probe(path)
    assert (head.width, head.height, head.bits) == (texels.width, texels.height, texels.bits)
    assert head.channels == texels.channels
    mine = _spread(texels)
    np.testing.assert_array_equal(mine, _by_openimageio(path, mine.dtype))
    if texels.bits == 8:
        np.testing.assert_array_equal(mine, _by_pillow(path))
    else:  # Pillow makes 8 bits of 16, OpenCV does not see the transparent grey
        theirs = _by_opencv(path)
        np.testing.assert_array_equal(mine[:, :, : theirs.shape[2]], theirs)


def test_bits_below_a_byte_are_spread_over_it():
    # PNG third edition, 13.12: a sample of n bits means v / (2^n - 1).
    for name, steps in (("basn0g01.png", 2), ("basn0g02.png", 4), ("basn0g04.png", 16)):
        found = np.unique(read(FOLDER / name).pixels)
        assert set(found) <= set(np.arange(steps) * 255 // (steps - 1))
        assert len(found) >= steps - 1


@pytest.mark.parametrize(
    ("name", "reason"),
    [
        ("invalid-crc32.png", "CRC"),
        ("invalid-noend.png", "cut off before its end"),
        ("invalid-palette.png", "palette has"),
        ("invalid-trunc.png", "cut off inside its IEND"),
        ("invalid-zlib.png", "incorrect data check"),
    ],
)
def test_a_broken_image_is_refused_with_its_reason(name, reason):
    with pytest.raises(UnreadableImage, match=reason) as caught:
        read(FOLDER / name)
    assert name in str(caught.value)


def test_interlaced_and_plain_gradients_are_the_same_picture():
    plain, interlaced = (read(FOLDER / f"gray-gradient{word}.png").pixels for word in ("", ".interlaced"))
    np.testing.assert_array_equal(plain, interlaced)
