"""Damaged files end in a refusal in words, never in another error, in other pixels, or in the end of the process."""

import struct
import subprocess
import sys

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench import fuzz
from tests.pictures import random_texels
from texel.blocks import FORMATS
from texel.cli import main
from texel.errors import BadDocument, TexelError, UnreadableImage
from texel.files import probe, read
from texel.files.refusing import in_words
from texel.files.tiff import check_whole
from texel.files.writing import encode
from texel.materials.exchange import read_material_bytes
from texel.schemas import read_json


def test_readers_refuse_or_read_what_was_damaged(tmp_path):
    """Sixty files a batch, each batch in a process of its own; the seed is fixed. ./ft fuzz goes on with others."""
    found = fuzz.run(0, 1, tmp_path / "found", batches=12)
    assert not found, "\n".join(found)


SOUND = fuzz.seeds()


@settings(max_examples=150, deadline=None)
@given(
    name=st.sampled_from(sorted(name for name in SOUND if name.endswith((".png", ".tga", ".tiff")))),
    changes=st.lists(st.tuples(st.floats(0, 1), st.integers(0, 255)), min_size=1, max_size=4),
    cut=st.floats(0.02, 1),
)
def test_any_few_changed_bytes_are_read_or_refused(tmp_path_factory, name, changes, cut):
    data = bytearray(SOUND[name])
    for where, byte in changes:
        data[int(where * (len(data) - 1))] = byte
    path = tmp_path_factory.mktemp("f") / name
    path.write_bytes(data[: max(1, int(cut * len(data)))])
    fuzz.try_file(path)


_BLOCKS = """
import sys
import numpy as np
from texel.blocks import FORMATS, decode_level
format_ = FORMATS[sys.argv[1]]
rng = np.random.default_rng(5)
for size in ((4, 4), (5, 7), (16, 16), (1, 1), (64, 3)):
    count = format_.bytes_of(*size)
    for way in range(12):
        data = rng.integers(0, 256, count, np.uint8)
        if way % 4 == 1:
            data[:] = (0, 255, 0xFC)[way // 4]
        if way % 4 == 2:
            data[::16] = 0xFC
        if way % 4 == 3:
            data[rng.integers(0, count, count // 2)] = 0
        assert decode_level(data.tobytes(), format_, *size, "x").shape[:2] == size[::-1]
"""


@pytest.mark.parametrize("key", sorted(key for key, one in FORMATS.items() if one.is_block))
def test_blocks_that_no_encoder_writes_do_not_end_the_process(key):
    """The fault: ASTC blocks of ones alone ended it."""
    done = subprocess.run([sys.executable, "-c", _BLOCKS, key], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-500:]


def tiff(order="<", palette_at=None, strip=6, kind=3, cut=None):
    """A TIFF 6.0 of 3 x 2 texels of 8 bits, with a palette of 256 colours where kind is 3."""
    tags = [(256, 3, 1, 3), (257, 3, 1, 2), (258, 3, 1, 8), (259, 3, 1, 1), (262, 3, 1, kind), (273, 4, 1, 8)]
    tags += [(277, 3, 1, 1), (278, 3, 1, 2), (279, 4, 1, strip)]
    directory_at = 14
    after = directory_at + 2 + 12 * (len(tags) + (kind == 3)) + 4
    if kind == 3:
        tags.append((320, 3, 768, after if palette_at is None else palette_at))
    body = (b"II" if order == "<" else b"MM") + struct.pack(f"{order}HI", 42, directory_at) + bytes(range(6))
    body += struct.pack(f"{order}H", len(tags))
    for number, type_, count, value in tags:
        short = type_ == 3 and count == 1
        body += struct.pack(f"{order}HHI", number, type_, count)
        body += struct.pack(f"{order}HH", value, 0) if short else struct.pack(f"{order}I", value)
    body += struct.pack(f"{order}I", 0)
    palette = [65535 * (at % 256) // 255 for at in range(768)]
    return (body + (struct.pack(f"{order}768H", *palette) if kind == 3 else b""))[:cut]


@pytest.mark.parametrize("order", ["<", ">"])
def test_a_whole_tiff_with_a_palette_is_read(tmp_path, order):
    path = tmp_path / "a.tif"
    path.write_bytes(tiff(order))
    check_whole(path)
    assert read(path).pixels[0, :, 0].tolist() == [0, 1, 2]


@pytest.mark.parametrize("damage", [{"cut": -1}, {"cut": 400}, {"palette_at": 10**6}, {"strip": 10**6}, {"cut": 60}])
def test_a_tiff_that_lacks_a_part_is_refused(tmp_path, damage):
    """The fault: with its palette cut off, the indices were read as greys, without a word."""
    path = tmp_path / "a.tif"
    path.write_bytes(tiff(**damage))
    with pytest.raises(UnreadableImage, match=r"cut off|directory"):
        read(path)


def test_palette_colours_without_a_palette_are_refused(tmp_path):
    path = tmp_path / "a.tif"
    data = bytearray(tiff(kind=1))
    data[data.index(struct.pack("<HHI", 262, 3, 1)) + 8] = 3
    path.write_bytes(data)
    with pytest.raises(UnreadableImage, match="without a palette"):
        check_whole(path)


@pytest.mark.parametrize("colour_type", [1, 5, 7, 44, 255])
def test_a_png_of_a_colour_type_that_there_is_not_is_refused(tmp_path, colour_type):
    path = tmp_path / "a.png"
    data = bytearray(encode(random_texels("rgb"), "png"))
    data[25] = colour_type
    path.write_bytes(data)
    for reader in (probe, read):
        with pytest.raises(UnreadableImage):
            reader(path)


def test_a_second_header_in_a_png_is_no_way_round_the_first(tmp_path):
    """A header chunk behind the first replaced nothing but the check of its depth."""
    data = encode(random_texels("rgb"), "png")
    path = tmp_path / "a.png"
    path.write_bytes(data[:33] + data[8:33] + data[33:])
    fuzz.try_file(path)


def test_errors_of_readers_become_refusals_and_those_of_the_system_stay(tmp_path):
    with pytest.raises(UnreadableImage, match=r"a\.exr: damaged"), in_words(tmp_path / "a.exr"):
        raise UnicodeDecodeError("utf-8", b"\xff", 0, 1, "invalid start byte")
    for error in (FileNotFoundError("x"), MemoryError(), TexelError("ours")):
        with pytest.raises(type(error)), in_words(tmp_path / "a.exr"):
            raise error


DOCUMENTS = {
    "no UTF-8": b'{"title": "\xe5 name"}', "NaN": b'{"version": NaN}', "infinite": b'{"version": 1e999}',
    "huge": b'{"version": ' + b"9" * 5000 + b"}", "deep": b"[" * 100000, "cut": b'{"format": "fair', "empty": b"",
    "list": b"[[]]", "number": b"7",
}  # fmt: skip
READERS = (
    ("material", "check"), ("pack", "--set", "roughness=r.png", "-o", "out.png", "--layout"), ("names", ".", "--rules"),
    ("deliver", ".", "-o", "../out", "--target"), ("check", ".", "--licences"), ("check", ".", "--formats"),
    ("check", ".", "--sets"), ("check", ".", "--names"), ("sort", ".", "--habit"),
)  # fmt: skip


@pytest.mark.parametrize("reader", READERS, ids=" ".join)
def test_a_document_that_makes_no_sense_ends_in_one_line(tmp_path, monkeypatch, capsys, reader):
    """The fault: documents that are not UTF-8 ended in a trace."""
    (tmp_path / "in").mkdir()
    monkeypatch.chdir(tmp_path / "in")
    (tmp_path / "in" / "r.png").write_bytes(encode(random_texels("y"), "png"))
    document = tmp_path / "document.json"
    for kind, data in DOCUMENTS.items():
        document.write_bytes(data)
        assert main([*reader, str(document)]) == 2, kind
        said = capsys.readouterr().err
        assert len(said.splitlines()) == 1, (kind, said)
        assert "Traceback" not in said, kind


def test_a_document_with_a_mark_of_its_encoding_is_read(tmp_path):
    (tmp_path / "a.json").write_bytes(b"\xef\xbb\xbf" + '{"title": "Kaj\u00fcte"}'.encode())
    assert read_json(tmp_path / "a.json") == {"title": "Kaj\u00fcte"}


@pytest.mark.parametrize(
    "body", [b'{"asset": {"version": "2.0"}, "materials": [{"alphaCutoff": 1e999}]}', b"\xff", b"[" * 99999]
)
def test_a_foreign_material_that_makes_no_sense_is_refused(body):
    with pytest.raises(BadDocument):
        read_material_bytes(body, "a.gltf")
