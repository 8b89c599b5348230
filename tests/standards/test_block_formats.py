"""Block formats and their containers against published sizes, second decoders and second readers."""

import json
import struct
import subprocess
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
import texture2ddecoder
from quicktex.s3tc import bc1, bc3, bc4, bc5

from demo.surfaces import SURFACES
from tests.pictures import EIGHT, FLOAT, random_texels
from texel.blocks import FORMATS, WRITABLE_FORMATS, decode_level, memory
from texel.blocks.encoding import QUALITIES, encode_level, encode_texture
from texel.errors import UnreadableImage, Unwritable
from texel.files import probe, read
from texel.files.dds import build_dds
from texel.files.dds import read_texture as read_dds
from texel.files.ktx2 import build_ktx2
from texel.files.ktx2 import read_texture as read_ktx2
from texel.image import Texels, narrow, to_unit
from texel.roles import Role, Transfer

WEB = Path(__file__).resolve().parents[2] / "web"


@pytest.fixture(scope="module")
def slate():
    """A demo surface as RGBA, alpha from its height."""
    surface = SURFACES["slate_pier"](64)
    values = np.dstack([surface.colour, surface.height]).astype(np.float32)
    return Texels(narrow(np.clip(values, 0, 1), EIGHT), "rgba", Transfer.SRGB, Role.BASE_COLOR, name="slate")


# Khronos Data Format Specification 1.3: bytes of a block of S3TC, RGTC, BPTC, ETC2 (4 x 4) and ASTC (any footprint).
_BLOCK_BYTES = {
    "bc1": 8, "bc4": 8, "bc2": 16, "bc3": 16, "bc5": 16, "bc6h": 16, "bc7": 16, "etc2": 8, "etc2a": 16, "eac_r": 8,
    "eac_rg": 16, "astc_4x4": 16, "astc_6x6": 16, "astc_8x8": 16, "astc_12x12": 16,
}  # fmt: skip


@pytest.mark.parametrize(("key", "size"), _BLOCK_BYTES.items())
def test_a_block_takes_the_bytes_that_the_specification_gives_it(key, size):
    assert FORMATS[key].bytes_of(1, 1) == FORMATS[key].size == size
    assert FORMATS[key].bytes_of(*FORMATS[key].block) == size


def test_bits_a_texel_of_astc_and_memory_with_mips():
    """ASTC: 8, 3.56 and 2 bits a texel (Khronos Data Format, ASTC). A chain tends to 4/3 of its first level."""
    assert [round(FORMATS[f"astc_{n}x{n}"].bits_per_texel, 2) for n in (4, 6, 8)] == [8, 3.56, 2]
    full = FORMATS["bc7"].bytes_of(4096, 4096)
    assert memory(FORMATS["bc7"], 4096, 4096, mips=False) == full == 4096 * 4096
    assert memory(FORMATS["bc7"], 4096, 4096) / full == pytest.approx(4 / 3, abs=1e-4)


@pytest.mark.parametrize("key", [k for k in WRITABLE_FORMATS if FORMATS[k].bits == 8])
@pytest.mark.parametrize("size", [(64, 64), (50, 34), (3, 1)])
def test_every_format_comes_back_near_to_what_it_was(slate, key, size):
    format_ = FORMATS[key]
    width, height = size
    pixels = np.ascontiguousarray(slate.pixels[:height, :width])
    back = decode_level(encode_level(pixels, format_), format_, width, height)
    assert back.shape == (height, width, len(format_.channels))
    wanted = pixels[:, :, : len(format_.channels)]
    coarse = 26 if key.startswith("astc") and FORMATS[key].bits_per_texel < 3 else 8
    assert np.abs(back.astype(int) - wanted).mean() <= (coarse if format_.is_block else 0)


@pytest.mark.parametrize("key", ["bc6h", "rgba16f", "rgba32f", "r32f"])
def test_float_formats_take_linear_light(slate, key):
    format_ = FORMATS[key]
    texture = encode_texture(slate, format_, mips=False)
    assert texture.transfer is Transfer.LINEAR
    back = texture.level(0).pixels
    # IEC 61966-2-1, written out here.
    unit = to_unit(slate.pixels[:, :, :3])
    light = np.where(unit <= 0.04045, unit / 12.92, ((unit + 0.055) / 1.055) ** 2.4)
    count = min(3, len(format_.channels))
    assert np.abs(back[:, :, :count] - light[:, :, :count]).mean() < (0.01 if key == "bc6h" else 2e-4)


def _second_decoder(key, data, width, height):
    by_quicktex = {"bc1": bc1, "bc3": bc3, "bc4": bc4, "bc5": bc5}
    if key in by_quicktex:
        kind = key.upper()
        module = by_quicktex[key]
        texture = getattr(module, f"{kind}Texture").from_bytes(data, width, height)
        raw = {"bc4": lambda: module.BC4Decoder(0), "bc5": lambda: module.BC5Decoder(0, 1)}
        decoder = raw.get(key, getattr(module, f"{kind}Decoder"))()
        return np.frombuffer(decoder.decode(texture).tobytes(), np.uint8).reshape(height, width, 4)
    raw = texture2ddecoder.decode_bc7(data, width, height)
    return np.frombuffer(raw, np.uint8).reshape(height, width, 4)[:, :, [2, 1, 0, 3]]


@pytest.mark.parametrize(("key", "most"), [("bc1", 1), ("bc3", 1), ("bc4", 1), ("bc5", 1), ("bc7", 0)])
def test_decoders_agree_with_a_second_one(slate, key, most):
    """BC7 is exact by its specification; the others leave the rounding of interpolants to the decoder. Random blocks
    reach forms that no encoder writes."""
    format_ = FORMATS[key]
    noise = np.random.default_rng(7).integers(0, 256, format_.bytes_of(64, 64), np.uint8).tobytes()
    for data in (encode_level(slate.pixels, format_), noise):
        ours = decode_level(data, format_, 64, 64).astype(int)
        theirs = _second_decoder(key, data, 64, 64)[:, :, : ours.shape[2]]
        assert np.abs(ours - theirs).max() <= most


def test_astc_agrees_with_the_decoder_of_its_own_encoder(slate):
    import astc_encoder

    data = encode_level(slate.pixels, FORMATS["astc_6x6"])
    context = astc_encoder.ASTCContext(astc_encoder.ASTCConfig(astc_encoder.ASTCProfile.LDR, 6, 6, 1, 60))
    out = astc_encoder.ASTCImage(astc_encoder.ASTCType.U8, 64, 64)
    theirs = context.decompress(data, out, astc_encoder.ASTCSwizzle.from_str("RGBA")).data
    ours = decode_level(data, FORMATS["astc_6x6"], 64, 64)
    assert np.abs(ours.astype(int) - np.frombuffer(theirs, np.uint8).reshape(64, 64, 4)).max() <= 1


def test_threads_and_bands_give_the_same_bytes(slate):
    big = np.tile(slate.pixels, (9, 9, 1))
    for key in ("bc1", "bc5", "bc7", "astc_6x6", "etc2"):
        one = encode_level(big, FORMATS[key], "quick")
        assert one == encode_level(big, FORMATS[key], "quick", threads=2), key
    assert encode_level(big[:64, :64], FORMATS["bc1"], "quick") == encode_level(slate.pixels, FORMATS["bc1"], "quick")


@pytest.mark.parametrize("key", ["bc1", "bc7", "astc_4x4"])
def test_better_qualities_are_no_worse(slate, key):
    errors = []
    for quality in QUALITIES:
        back = decode_level(encode_level(slate.pixels, FORMATS[key], quality), FORMATS[key], 64, 64)
        errors.append(float(np.mean((back[:, :, :3].astype(float) - slate.pixels[:, :, :3]) ** 2)))
    assert errors[0] >= errors[1] * 0.99
    assert errors[1] >= errors[2] * 0.99


def test_wrong_lengths_and_read_only_formats_are_refused(slate):
    with pytest.raises(UnreadableImage, match="take 2048 bytes, not 10"):
        decode_level(b"x" * 10, FORMATS["bc1"], 64, 64)
    with pytest.raises(Unwritable, match="read, but not written"):
        encode_texture(slate, FORMATS["bc2"])


def test_bc1_red_widens_its_five_bits():
    """High bits repeated into the low ones, interpolants 2/3 + 1/3 (Khronos Data Format 1.3, S3TC)."""
    block = struct.pack("<HHI", 17 << 11, 5 << 11, 0b11100100)
    row = decode_level(block, FORMATS["bc1"], 4, 1)[0, :, 0].astype(int)
    first, second = (17 << 3) | (17 >> 2), (5 << 3) | (5 >> 2)
    np.testing.assert_allclose(row, [first, second, (2 * first + second) / 3, (first + 2 * second) / 3], atol=1)


# --- containers ---------------------------------------------------------------------------------------------------


_PARSE = """
import { read } from "three/examples/jsm/libs/ktx-parse.module.js";
import { readFileSync } from "node:fs";
const file = read(new Uint8Array(readFileSync(process.argv[1])));
const dfd = file.dataFormatDescriptor[0];
console.log(JSON.stringify({ vk: file.vkFormat, size: [file.pixelWidth, file.pixelHeight], scheme:
  file.supercompressionScheme, typeSize: file.typeSize, model: dfd.colorModel, transfer: dfd.transferFunction,
  block: dfd.texelBlockDimension, bytes: dfd.bytesPlane[0], samples: dfd.samples.length, levels:
  file.levels.map((l) => [l.levelData.byteLength, l.uncompressedByteLength]),
  writer: String(file.keyValue.KTXwriter) }));
"""


def _parsed(path):
    """What a second reader (ktx-parse, as three.js ships it) makes of a KTX2 file."""
    command = ["node", "--input-type=module", "-e", _PARSE, str(path)]
    return json.loads(subprocess.run(command, cwd=WEB, check=True, capture_output=True, text=True).stdout)


@pytest.mark.parametrize("key", ["bc1", "bc3", "bc5", "bc6h", "bc7", "etc2a", "astc_6x6", "rgba8", "r16", "rgba16f"])
@pytest.mark.parametrize("zstd", [None, 3])
def test_ktx2_is_read_by_us_and_by_a_second_reader(slate, tmp_path, key, zstd):
    texture = encode_texture(slate, FORMATS[key], "quick")
    path = tmp_path / "slate.ktx2"
    path.write_bytes(build_ktx2(texture, zstd))
    back = read_ktx2(path.read_bytes(), "slate.ktx2")
    assert back == texture
    theirs = _parsed(path)
    srgb = texture.transfer is Transfer.SRGB
    assert theirs["vk"] == FORMATS[key].vk[1 if srgb else 0]
    assert theirs["size"] == [64, 64]
    assert theirs["model"] == FORMATS[key].model
    # KHR_DF_TRANSFER_SRGB is 2, KHR_DF_TRANSFER_LINEAR 1 (Khronos Data Format 1.3).
    assert theirs["transfer"] == (2 if srgb else 1)
    assert theirs["block"][:2] == [side - 1 for side in FORMATS[key].block]
    assert theirs["scheme"] == (0 if zstd is None else 2)
    assert len(theirs["levels"]) == 7
    assert [u for _, u in theirs["levels"]] == [len(level) for level in texture.levels]
    assert "Fair Texel" in theirs["writer"]
    found = probe(path)
    assert (found.width, found.height, found.channels, found.format) == (64, 64, FORMATS[key].channels, key)
    assert found.tags.declared_transfer == ("srgb" if srgb else "linear")
    np.testing.assert_array_equal(read(path).pixels, texture.level(0).pixels)


@pytest.mark.parametrize("key", ["bc1", "bc3", "bc4", "bc5", "bc7", "rgba8"])
def test_dds_is_read_by_us_and_by_openimageio(slate, tmp_path, key):
    """OpenImageIO knows these DXGI codes and decodes them with a decoder of its own."""
    texture = encode_texture(slate, FORMATS[key], "quick")
    path = tmp_path / "slate.dds"
    path.write_bytes(build_dds(texture))
    assert read_dds(path.read_bytes(), "slate.dds") == texture
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    levels = 0
    while opened.seek_subimage(0, levels):
        theirs = np.asarray(opened.read_image(0, levels, 0, opened.spec().nchannels, "uint8")).astype(int)
        ours = texture.level(levels).pixels.astype(int)
        theirs = theirs.reshape(*ours.shape[:2], -1)[:, :, : ours.shape[2]]
        assert np.abs(theirs - ours).max() <= 2, levels
        levels += 1
    assert levels == 7
    assert probe(path).tags.declared_transfer == ("srgb" if texture.transfer is Transfer.SRGB else "linear")


def test_what_no_container_or_decoder_holds_is_refused(slate, tmp_path):
    with pytest.raises(Unwritable, match=r"no code for ASTC 6 x 6; write a \.ktx2"):
        build_dds(encode_texture(slate, FORMATS["astc_6x6"], "quick", mips=False))
    whole = build_ktx2(encode_texture(slate, FORMATS["bc7"], "quick"))
    cut = tmp_path / "cut.ktx2"
    for length, reason in ((40, "within its header"), (120, "level index"), (len(whole) // 2, "cut off|damaged")):
        cut.write_bytes(whole[:length])
        with pytest.raises(UnreadableImage, match=reason):
            read(cut)
    layered = bytearray(whole)
    layered[36:40] = struct.pack("<I", 6)
    cut.write_bytes(layered)
    with pytest.raises(UnreadableImage, match="several faces"):
        probe(cut)
    universal = bytearray(whole)
    universal[12:16], universal[44:48] = struct.pack("<I", 0), struct.pack("<I", 1)
    cut.write_bytes(universal)
    with pytest.raises(UnreadableImage, match="universal"):
        probe(cut)
    lying = bytearray(build_ktx2(encode_texture(slate, FORMATS["bc7"], "quick"), 3))
    lying[20:28] = struct.pack("<II", 4096, 4096)
    cut.write_bytes(lying)
    with pytest.raises(UnreadableImage, match="its index says"):
        read(cut)


def test_raw_sixteen_bits_and_floats_are_exact():
    sixteen = random_texels("rgba", np.uint16)
    assert np.array_equal(encode_texture(sixteen, FORMATS["rgba16"], mips=False).level(0).pixels, sixteen.pixels)
    floats = random_texels("rgba", FLOAT)
    assert np.array_equal(encode_texture(floats, FORMATS["rgba32f"], mips=False).level(0).pixels, floats.pixels)
