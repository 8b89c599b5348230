"""Arrays of numbers in glTF 2.0 files (sections 3.6 and 5.1 of its text): strides, whole numbers, sparse values."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Mapping
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

__all__ = ["Accessors"]

_KINDS: dict[int, np.dtype[Any]] = {
    5120: np.dtype("i1"), 5121: np.dtype("u1"), 5122: np.dtype("<i2"), 5123: np.dtype("<u2"), 5125: np.dtype("<u4"),
    5126: np.dtype("<f4"),
}  # fmt: skip
_PARTS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
_MAX_ITEMS = 20_000_000
# Bytes of all arrays that are read: a document may name one array a thousand times, or ask for zeros.
_MAX_BYTES = 2 << 30
Document = dict[str, Any]


class Accessors:
    """Reads the arrays of a document. chunk: the bytes of a binary file. beside: other files by name, for buffers.

    Raises ValueError, KeyError, IndexError or TypeError for what is broken, and FileNotFoundError for a buffer that
    is not there.
    """

    def __init__(self, document: Document, chunk: bytes, beside: Mapping[str, bytes]):
        self._document, self._chunk, self._beside = document, chunk, beside
        self._buffers: dict[int, bytes] = {}
        self._bytes = 0

    def buffer(self, index: int) -> bytes:
        if index not in self._buffers:
            self._buffers[index] = self._read(self._document["buffers"][index])
        return self._buffers[index]

    def _read(self, buffer: Document) -> bytes:
        uri = buffer.get("uri")
        if uri is None:
            return self._chunk
        if uri.startswith("data:"):
            try:
                return base64.b64decode(uri.partition(",")[2], validate=True)
            except binascii.Error:
                raise ValueError("a buffer inside is no base64") from None
        name = unquote(uri).replace("\\", "/").removeprefix("./")
        data = self._beside.get(name)
        if data is None:
            data = self._beside.get(name.rsplit("/", 1)[-1])
        if data is None:
            raise FileNotFoundError(name)
        return data

    def view(self, index: int) -> tuple[bytes, int]:
        """The bytes of a view, and its stride, 0 where the items lie close together."""
        view = self._document["bufferViews"][index]
        start, length = _whole(view.get("byteOffset", 0)), _whole(view["byteLength"])
        buffer = self.buffer(_whole(view["buffer"]))
        if start + length > len(buffer):
            raise ValueError("a view reaches beyond its buffer")
        return buffer[start : start + length], _whole(view.get("byteStride", 0))

    def array(self, index: int) -> NDArray[Any]:
        """An accessor's values as they are kept, shape (count, parts)."""
        accessor = self._document["accessors"][_whole(index)]
        kind, parts = _KINDS[accessor["componentType"]], _PARTS[accessor["type"]]
        count = _whole(accessor["count"])
        if count > _MAX_ITEMS:
            raise ValueError(f"an array of {count:,} values; at most {_MAX_ITEMS:,} are read")
        self._bytes += 4 * count * parts
        if self._bytes > _MAX_BYTES:
            raise ValueError(f"its arrays have more than {_MAX_BYTES >> 20} MB together")
        if "bufferView" in accessor:
            values = self._items(accessor["bufferView"], accessor.get("byteOffset", 0), kind, count, parts)
        else:
            values = np.zeros((count, parts), kind)
        if "sparse" in accessor:
            values = values.copy()
            self._fill(values, accessor["sparse"], kind, parts)
        return values

    def numbers(self, index: int) -> NDArray[np.float32]:
        """An accessor's values as numbers: those that are normalised from whole ones between -1 and 1 (section 3.6)."""
        accessor = self._document["accessors"][_whole(index)]
        values = self.array(index)
        numbers = values.astype(np.float32)
        if accessor.get("normalized") and values.dtype.kind in "iu":
            numbers = np.maximum(numbers / np.float32(np.iinfo(values.dtype).max), -1)
        return np.ascontiguousarray(numbers)

    def _items(self, view: int, offset: int, kind: np.dtype[Any], count: int, parts: int) -> NDArray[Any]:
        data, stride = self.view(view)
        size = kind.itemsize * parts
        step, offset = stride or size, _whole(offset)
        if count and offset + step * (count - 1) + size > len(data):
            raise ValueError("an array reaches beyond its view")
        if step < size:
            raise ValueError("a stride is shorter than what it steps over")
        return np.ndarray((count, parts), kind, data, offset, (step, kind.itemsize)) if count else np.zeros((0, parts))

    def _fill(self, values: NDArray[Any], sparse: Document, kind: np.dtype[Any], parts: int) -> None:
        count = _whole(sparse["count"])
        where = sparse["indices"]
        places = self._items(where["bufferView"], where.get("byteOffset", 0), _KINDS[where["componentType"]], count, 1)
        given = sparse["values"]
        values[places[:, 0].astype(np.int64)] = self._items(
            given["bufferView"], given.get("byteOffset", 0), kind, count, parts
        )


def _whole(value: Any) -> int:
    """A count or a place; negative ones would be read from the end."""
    if not isinstance(value, int) or value < 0:
        raise ValueError(f"{value!r} is no place in a file")
    return value
