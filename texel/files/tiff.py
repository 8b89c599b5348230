"""Whether a TIFF holds all that its first directory speaks of (TIFF 6.0; BigTIFF is the same with longer numbers).

Readers take a tag whose numbers lie beyond the file's end for one that is not there: without its palette, indices
become greys, and nobody is told.
"""

from __future__ import annotations

import struct
from pathlib import Path
from typing import BinaryIO, NamedTuple

from texel.errors import UnreadableImage

__all__ = ["check_whole"]

# Bytes of a number of each type: 1 BYTE, 2 ASCII, 3 SHORT, 4 LONG, 5 RATIONAL, ... 16 to 18 BigTIFF's.
_SIZES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4, 16: 8, 17: 8, 18: 8}
_CODES = {1: "B", 3: "H", 4: "I", 16: "Q"}
_PHOTOMETRIC, _PALETTED, _COLOUR_MAP = 262, 3, 320
# Where strips or tiles lie, and how many bytes each has.
_PARTS = ((273, 279), (324, 325))
_MAX_TAGS, _MAX_PARTS = 4096, 1 << 20


class _Tag(NamedTuple):
    kind: int
    length: int
    value: bytes


def check_whole(path: Path) -> None:
    """Raise UnreadableImage when the first directory, what its tags speak of, or a strip or tile is cut off."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        head = stream.read(16)
        order = {b"II": "<", b"MM": ">"}.get(head[:2])
        magic = struct.unpack(f"{order}H", head[2:4])[0] if order and len(head) >= 8 else 0
        if order is None or magic not in (42, 43) or (magic == 43 and len(head) < 16):
            raise UnreadableImage(path.name, "the TIFF is cut off inside its header")
        tags = _tags(stream, path.name, size, order, big=magic == 43)
        if _first(tags, _PHOTOMETRIC, order) == _PALETTED and _COLOUR_MAP not in tags:
            raise UnreadableImage(path.name, "a TIFF of palette colours without a palette")
        for where, how_many in _PARTS:
            for at, count in zip(_all(tags, where, order), _all(tags, how_many, order), strict=False):
                if at + count > size:
                    raise UnreadableImage(path.name, "the TIFF is cut off inside its pixels")


def _read(stream: BinaryIO, at: int, count: int, size: int, name: str) -> bytes:
    if at + count > size:
        raise UnreadableImage(name, "the TIFF is cut off inside its directory or what that speaks of")
    stream.seek(at)
    return stream.read(count)


def _tags(stream: BinaryIO, name: str, size: int, order: str, big: bool) -> dict[int, _Tag]:
    """The tags of the first directory with their numbers, as bytes."""
    word, counter, entry = ("Q", "Q", 20) if big else ("I", "H", 12)
    long = struct.calcsize(word)
    (at,) = struct.unpack(order + word, _read(stream, 8 if big else 4, long, size, name))
    (count,) = struct.unpack(order + counter, _read(stream, at, struct.calcsize(counter), size, name))
    if count > _MAX_TAGS:
        raise UnreadableImage(name, "a TIFF directory of {count} tags", count=count)
    entries = _read(stream, at + struct.calcsize(counter), count * entry, size, name)
    tags = {}
    for start in range(0, len(entries), entry):
        number, kind, length = struct.unpack(f"{order}HH{word}", entries[start : start + 4 + long])
        own = entries[start + 4 + long : start + entry]
        needed = _SIZES.get(kind, 1) * length
        if needed > long:
            (where,) = struct.unpack(order + word, own)
            own = _read(stream, where, needed, size, name)
        tags[number] = _Tag(kind, length, own[:needed])
    return tags


def _all(tags: dict[int, _Tag], number: int, order: str) -> tuple[int, ...]:
    tag = tags.get(number)
    if tag is None or tag.kind not in _CODES or tag.length > _MAX_PARTS:
        return ()
    return struct.unpack(f"{order}{tag.length}{_CODES[tag.kind]}", tag.value)


def _first(tags: dict[int, _Tag], number: int, order: str) -> int | None:
    return next(iter(_all(tags, number, order)), None)
