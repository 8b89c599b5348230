"""Containers in and out: exactness, probing without decoding, and every kind of broken input."""

import os
import struct
import threading
import time

import cv2
import imagecodecs
import numpy as np
import OpenImageIO as oiio
import pytest
import tifffile
from PIL import Image

from tests.pictures import EIGHT, FLOAT, SIXTEEN, huge_png_header, png_chunk, random_texels, save
from texel.errors import ChangedWhileRead, TooLarge, UnreadableImage, Unwritable
from texel.files import Limits, encode, probe, read, write
from texel.files.png import pieces
from texel.image import Texels
from texel.roles import Transfer


@pytest.mark.parametrize(
    ("name", "channels", "dtype"),
    [(f"{c}-{d}.png", c, d) for c in ("y", "ya", "rgb", "rgba") for d in (EIGHT, SIXTEEN)]
    + [(f"{c}.tga", c, EIGHT) for c in ("y", "rgb", "rgba")]
    + [(f"{c}.exr", c, FLOAT) for c in ("y", "ya", "rg", "rgb", "rgba")],
)
def test_written_pictures_come_back_exactly(tmp_path, name, channels, dtype):
    texels = random_texels(channels, dtype)
    path = save(tmp_path / name, texels)
    back = read(path)
    assert back.channels == channels
    assert back.pixels.dtype == dtype
    np.testing.assert_array_equal(back.pixels, texels.pixels)
    found = probe(path)
    assert (found.width, found.height, found.channels, found.bits) == (16, 12, channels, dtype.itemsize * 8)


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT])
@pytest.mark.parametrize("count", [1, 2, 3, 4])
def test_tiff_of_another_library_reads_right(tmp_path, dtype, count):
    pixels = random_texels("rgba"[:count], dtype).pixels
    path = tmp_path / "some.tif"
    extra = [2] if count in (2, 4) else None  # 2: unassociated alpha (TIFF 6.0, ExtraSamples)
    photometric = "rgb" if count > 2 else "minisblack"
    tifffile.imwrite(path, pixels if count > 1 else pixels[:, :, 0], photometric=photometric, extrasamples=extra)
    np.testing.assert_array_equal(read(path).pixels, pixels)


def test_jpeg_reads_as_another_library_reads_it(tmp_path):
    pixels = random_texels("rgb", width=64, height=48).pixels
    path = tmp_path / "some.jpg"
    path.write_bytes(imagecodecs.jpeg8_encode(pixels, level=95))
    ours = read(path).pixels.astype(int)
    theirs = imagecodecs.jpeg8_decode(path.read_bytes()).astype(int)
    assert np.abs(ours - theirs).max() <= 2
    assert probe(path).lossy


def test_alpha_with_data_in_it_does_not_spoil_the_colours(tmp_path):
    pixels = random_texels("rgba").pixels
    pixels[:, :, 3] = 0
    for name in ("a.png", "a.tga"):
        path = save(tmp_path / name, Texels(pixels, "rgba", Transfer.LINEAR))
        np.testing.assert_array_equal(read(path).pixels, pixels)
    floats = (pixels / np.float32(255)).astype(np.float32)
    path = save(tmp_path / "a.exr", Texels(floats, "rgba", Transfer.LINEAR))
    np.testing.assert_array_equal(read(path).pixels, floats)


def test_half_float_exr_reads(tmp_path):
    pixels = random_texels("rgb", FLOAT).pixels.astype(np.float16)
    out = oiio.ImageOutput.create("x.exr")
    out.open(str(tmp_path / "h.exr"), oiio.ImageSpec(16, 12, 3, "half"))
    out.write_image(pixels)
    out.close()
    np.testing.assert_array_equal(read(tmp_path / "h.exr").pixels, pixels.astype(np.float32))


@pytest.mark.parametrize(("channels", "container"), [("rgb", "png"), ("rgba", "tga"), ("rgb", "exr")])
def test_same_texels_same_bytes(channels, container):
    texels = random_texels(channels, FLOAT if container == "exr" else EIGHT)
    first = encode(texels, container)
    time.sleep(1.1)  # a date in the file would have moved on by now
    assert encode(texels, container) == first


@pytest.mark.parametrize(
    ("chunks", "says"),
    [
        ([(b"sRGB", b"\0")], "srgb"),
        ([(b"gAMA", struct.pack(">I", 45455))], "srgb"),
        ([(b"gAMA", struct.pack(">I", 100000))], "linear"),
        ([(b"gAMA", struct.pack(">I", 100000)), (b"sRGB", b"\0")], "srgb"),
        ([(b"sRGB", b"\0"), (b"cICP", bytes([1, 8, 0, 1]))], "linear"),
        ([], None),
    ],
)
def test_png_colour_tags_and_which_wins(tmp_path, chunks, says):
    """W3C PNG Specification, third edition, 4.3: cICP over iCCP over sRGB over gAMA."""
    path = tmp_path / "tagged.png"
    path.write_bytes(b"".join(pieces(random_texels("y").pixels, chunks)))
    assert probe(path).tags.declared_transfer == says
    assert read(path).tags.declared_transfer == says


def test_only_colour_gets_a_colour_tag(tmp_path):
    colour = Texels(random_texels("rgb").pixels, "rgb", Transfer.SRGB)
    assert probe(save(tmp_path / "colour.png", colour)).tags.declared_transfer == "srgb"
    assert probe(save(tmp_path / "data.png", random_texels("rgb"))).tags.declared_transfer is None


@pytest.mark.parametrize("cut", [10, 60, -60, -6])
def test_truncated_png_is_refused_with_the_reason(tmp_path, cut):
    path = tmp_path / "cut.png"
    path.write_bytes(encode(random_texels("rgb"), "png")[:cut])
    with pytest.raises(UnreadableImage, match=r"cut\.png: .*(cut off|header)"):
        read(path)


def test_damaged_png_data_is_refused(tmp_path):
    body = bytearray(encode(random_texels("rgb"), "png"))
    at = body.index(b"IDAT") + 20
    body[at] ^= 0xFF
    (tmp_path / "bad.png").write_bytes(body)
    with pytest.raises(UnreadableImage, match="damaged"):
        read(tmp_path / "bad.png")


@pytest.mark.parametrize("name", ["cut.tga", "cut.tif", "cut.jpg", "cut.exr"])
def test_other_truncated_files_are_refused(tmp_path, name):
    path = tmp_path / name
    pixels = random_texels("rgb", width=64, height=64).pixels
    if name.endswith("jpg"):
        data = imagecodecs.jpeg8_encode(pixels)
    elif name.endswith("tif"):
        tifffile.imwrite(path, pixels)
        data = path.read_bytes()
    else:
        texels = random_texels("rgb", FLOAT if name.endswith("exr") else EIGHT, 64, 64)
        data = encode(texels, name[-3:])
    path.write_bytes(data[: len(data) // 2])
    with pytest.raises(UnreadableImage, match=name):
        read(path)


def test_text_named_png_and_empty_files_are_refused(tmp_path):
    for name, body, word in (
        ("a.png", b"hello there", "not a picture"),
        ("b.png", b"", "empty"),
        ("c.tga", b"text " * 9, "TGA"),
    ):
        (tmp_path / name).write_bytes(body)
        for look in (probe, read):
            with pytest.raises(UnreadableImage, match=word):
                look(tmp_path / name)


def test_limits_are_checked_before_decoding(tmp_path):
    path = tmp_path / "huge.png"
    path.write_bytes(huge_png_header())
    assert probe(path).width == 100000
    with pytest.raises(TooLarge, match="100000 x 100000"):
        read(path)
    path.write_bytes(huge_png_header(16384, 16384))
    with pytest.raises(TooLarge, match="1024 MiB"):
        read(path)
    tga = tmp_path / "wide.tga"
    tga.write_bytes(struct.pack("<BBBHHBHHHHBB", 0, 0, 2, 0, 0, 0, 0, 0, 40000, 1, 24, 0x20) + b"\0" * 120000)
    with pytest.raises(TooLarge, match="40000"):
        read(tga)
    small = save(tmp_path / "small.png", random_texels("rgb"))
    with pytest.raises(TooLarge):
        read(small, Limits(max_side=8))


def test_zero_size_header_is_refused(tmp_path):
    path = tmp_path / "none.png"
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n"
        + png_chunk(b"IHDR", struct.pack(">IIBBBBB", 0, 5, 8, 2, 0, 0, 0))
        + png_chunk(b"IEND", b"")
    )
    with pytest.raises(UnreadableImage, match="0 x 5"):
        read(path)


def test_a_file_that_grows_while_read_is_refused(tmp_path, monkeypatch):
    path = save(tmp_path / "grows.png", random_texels("rgb"))
    real = imagecodecs.png_decode

    def decode_while_somebody_writes(data):
        with path.open("ab") as stream:
            stream.write(b"more")
        return real(data)

    monkeypatch.setattr(imagecodecs, "png_decode", decode_while_somebody_writes)
    with pytest.raises(ChangedWhileRead, match="changed while it was read"):
        read(path)


def test_reading_while_another_thread_writes_gives_the_whole_or_an_error(tmp_path):
    whole = encode(random_texels("rgb", width=256, height=256), "png")
    path = tmp_path / "live.png"
    path.write_bytes(whole[:100])

    def writer():
        with path.open("ab") as stream:
            for at in range(100, len(whole), 4096):
                stream.write(whole[at : at + 4096])
                stream.flush()
                os.fsync(stream.fileno())

    thread = threading.Thread(target=writer)
    thread.start()
    outcomes = set()
    while thread.is_alive():
        try:
            read(path)
            outcomes.add("whole")
        except UnreadableImage:
            outcomes.add("refused")
    thread.join()
    assert outcomes <= {"whole", "refused"}
    assert read(path).width == 256


def test_what_a_container_cannot_hold_is_said(tmp_path):
    with pytest.raises(Unwritable, match="floats"):
        encode(random_texels("rgb", FLOAT), "png")
    with pytest.raises(Unwritable, match="8 bits"):
        encode(random_texels("rgb", SIXTEEN), "tga")
    with pytest.raises(Unwritable, match="linear"):
        encode(Texels(random_texels("rgb").pixels, "rgb", Transfer.SRGB), "exr")
    with pytest.raises(Unwritable, match=r"\.png"):
        save(tmp_path / "out.bmp", random_texels("rgb"))
    assert list(tmp_path.iterdir()) == []


def dds(fourcc: bytes, side: int, blocks: bytes, dxgi: int | None = None) -> bytes:
    """A DDS file of one level around block-compressed data (the header of the public DDS documentation)."""
    pixel_format = struct.pack("<II4sIIIII", 32, 4, fourcc, 0, 0, 0, 0, 0)
    head = struct.pack("<IIIIIII44x", 124, 0x81007, side, side, len(blocks), 0, 1)
    more = struct.pack("<IIIII", dxgi, 3, 0, 1, 0) if dxgi else b""
    return b"DDS " + head + pixel_format + struct.pack("<IIIII", 0x1000, 0, 0, 0, 0) + more + blocks


@pytest.mark.parametrize(
    ("fourcc", "block", "dxgi", "channels"),
    [
        (b"DXT1", 8, None, "rgba"), (b"DXT5", 16, None, "rgba"), (b"ATI1", 8, None, "y"), (b"ATI2", 16, None, "rg"),
        (b"DX10", 16, 98, "rgba"),
    ],
)  # fmt: skip
def test_block_formats_decode_as_in_a_second_reader(tmp_path, fourcc, block, dxgi, channels):
    blocks = np.random.default_rng(1).integers(0, 256, 16 * block, np.uint8)
    blocks[::block] |= 1  # a first byte of 0 is a reserved mode of BC7, which decoders show as they like
    path = tmp_path / "a.dds"
    path.write_bytes(dds(fourcc, 16, blocks.tobytes(), dxgi))
    texels = read(path)
    assert (texels.channels, probe(path).lossy) == (channels, True)
    second = np.asarray(Image.open(path))
    second = second[:, :, None] if second.ndim == 2 else second
    count = min(second.shape[2], len(channels))
    # BC7 is exact by its specification; the older formats leave the rounding of interpolants open.
    assert np.abs(texels.pixels[:, :, :count].astype(int) - second[:, :, :count]).max() <= (0 if dxgi else 1)
    path.write_bytes(path.read_bytes()[:-40])
    with pytest.raises(UnreadableImage, match="cut off"):
        read(path)


def test_bc1_red_of_five_bits(tmp_path):
    # Khronos Data Format Specification 1.3, S3TC: the high bits are repeated into the low ones; 2/3 and 1/3 between.
    five = lambda v: (v << 3) | (v >> 2)  # noqa: E731
    assert [five(v) for v in (0, 16, 31)] == [0, 132, 255]
    block = struct.pack("<HHI", 31 << 11, 16 << 11, 0b11_10_01_00)
    (tmp_path / "b.dds").write_bytes(dds(b"DXT1", 4, block))
    row = read(tmp_path / "b.dds").pixels[0, :, 0].astype(int)
    wanted = np.array([255, 132, (2 * 255 + 132) / 3, (255 + 2 * 132) / 3])
    assert np.abs(row - wanted).max() <= 1


def test_webp_and_radiance_hdr(tmp_path):
    pixels = np.random.default_rng(2).integers(0, 256, (12, 16, 4), np.uint8)
    Image.fromarray(pixels).save(tmp_path / "a.webp", lossless=True, exact=True)
    np.testing.assert_array_equal(read(tmp_path / "a.webp").pixels, pixels)
    Image.fromarray(pixels[:, :, :3]).save(tmp_path / "b.webp", quality=40)
    assert [probe(tmp_path / name).lossy for name in ("a.webp", "b.webp")] == [False, True]
    light = np.random.default_rng(3).random((12, 16, 3), np.float32) * 4
    cv2.imwrite(str(tmp_path / "c.hdr"), light)
    second = cv2.imread(str(tmp_path / "c.hdr"), cv2.IMREAD_UNCHANGED)[:, :, ::-1]
    texels = read(tmp_path / "c.hdr")
    assert (texels.transfer, texels.bits) == (Transfer.LINEAR, 32)
    np.testing.assert_array_equal(texels.pixels, second)
    for name in ("a.webp", "c.hdr"):
        (tmp_path / name).write_bytes((tmp_path / name).read_bytes()[:-100])
        with pytest.raises(UnreadableImage):
            read(tmp_path / name)


@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN, FLOAT])
@pytest.mark.parametrize("channels", ["y", "ya", "rgb", "rgba"])
def test_tiff_keeps_every_number_and_a_second_reader_agrees(tmp_path, dtype, channels):
    texels = random_texels(channels, dtype)
    write(texels, tmp_path / "a.tif")
    again = read(tmp_path / "a.tif")
    assert again.channels == channels
    np.testing.assert_array_equal(again.pixels, texels.pixels)
    np.testing.assert_array_equal(tifffile.imread(tmp_path / "a.tif").reshape(texels.pixels.shape), texels.pixels)
    assert encode(texels, "tiff") == (tmp_path / "a.tif").read_bytes()


@pytest.mark.parametrize("channels", ["y", "ya", "rgb", "rgba"])
@pytest.mark.parametrize("dtype", [EIGHT, SIXTEEN])
@pytest.mark.parametrize("size", [(1, 1000), (2, 1000), (1, 4096), (4096, 1), (1, 1), (3, 5)])
def test_narrow_and_tall_pngs_are_written(channels, dtype, size, tmp_path):
    """The fault: the encoder's buffer had no room for the byte that begins each row."""
    texels = random_texels(channels, dtype, *size)
    found = read(save(tmp_path / "a.png", texels))
    np.testing.assert_array_equal(found.pixels, texels.pixels)


@pytest.mark.parametrize("tile", [0, 16])
@pytest.mark.parametrize(("suffix", "kind"), [("exr", "half"), ("exr", "float"), ("tif", "float")])
def test_wide_floats_are_read_by_bands_as_they_would_be_whole(tmp_path, monkeypatch, suffix, kind, tile):
    """Written by OpenImageIO in rows or tiles; the limit of what is decoded into memory is lowered."""
    path = tmp_path / f"a.{suffix}"
    spec = oiio.ImageSpec(37, 45, 4, kind)
    if tile:
        spec.tile_width = spec.tile_height = tile
    spec.attribute("oiio:UnassociatedAlpha", 1)
    output = oiio.ImageOutput.create(str(path))
    values = np.random.default_rng(0).random((45, 37, 4), np.float32)
    assert output.open(str(path), spec)
    assert output.write_image(values)
    output.close()
    whole = read(path).pixels
    monkeypatch.setattr("texel.files.reading._IN_MEMORY", 0)
    monkeypatch.setattr("texel.files.reading._ROWS", 7)
    banded = read(path).pixels
    assert isinstance(banded, np.memmap)
    np.testing.assert_array_equal(banded, whole)
