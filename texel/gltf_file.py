"""The outer form of glTF 2.0 files: a JSON document, alone or with its bytes in a binary file."""

from __future__ import annotations

import json
import struct
from typing import Any

from texel.schemas import load_json

__all__ = ["BROKEN", "broken_words", "joined_glb", "opened_gltf"]

_MAGIC, _JSON, _BIN = 0x46546C67, 0x4E4F534A, 0x004E4942
# What is raised where a document is not built as glTF 2.0 says.
BROKEN = (
    ValueError, KeyError, IndexError, TypeError, AttributeError, struct.error, RecursionError, OverflowError,
)  # fmt: skip


def broken_words(error: Exception) -> str:
    """What an error of BROKEN says of the document, for whoever sent it.

    >>> broken_words(KeyError("index")), broken_words(TypeError("list indices must be integers"))
    ("it lacks 'index'", 'a part of it is of another kind than glTF 2.0 says')
    """
    if isinstance(error, KeyError):
        return f"it lacks {error.args[0]!r}" if error.args else "it lacks a part"
    if isinstance(error, IndexError):
        return "it names a part that is not there"
    if isinstance(error, struct.error):
        return "it ends too soon"
    if isinstance(error, RecursionError):
        return "its parts are nested too deep"
    if isinstance(error, TypeError | AttributeError):
        return "a part of it is of another kind than glTF 2.0 says"
    return str(error)


def opened_gltf(data: bytes) -> tuple[dict[str, Any], bytes]:
    """The JSON, and the bytes that come with it in a binary file (glTF 2.0, section 4.4).

    Raises ValueError, struct.error, or BadDocument where the JSON is none.
    """
    if data[:4] != b"glTF":
        return load_json(data.decode("utf-8-sig"), "the file"), b""
    magic, version, length = struct.unpack_from("<III", data)
    if version == 1:
        raise ValueError("it is glTF 1; export glTF 2.0")
    if magic != _MAGIC or version != 2 or length > len(data):
        raise ValueError("the header does not fit the file")
    text, chunk, at = b"", b"", 12
    while at + 8 <= length:
        size, kind = struct.unpack_from("<II", data, at)
        body = data[at + 8 : at + 8 + size]
        if len(body) < size:
            raise ValueError("a chunk ends too soon")
        text, chunk = (body, chunk) if kind == _JSON else (text, body if kind == _BIN else chunk)
        at += 8 + size + (-size % 4)
    return load_json(text.decode("utf-8"), "the file"), chunk


def joined_glb(document: dict[str, Any], data: bytes) -> bytes:
    """A binary file of a document and the bytes of its first buffer; ``opened_gltf`` reads it.

    >>> opened_gltf(joined_glb({"asset": {"version": "2.0"}}, b"1234"))
    ({'asset': {'version': '2.0'}}, b'1234')
    """
    text = json.dumps(document, ensure_ascii=False).encode()
    text += b" " * (-len(text) % 4)
    data += bytes(-len(data) % 4)
    chunks = struct.pack("<II", len(text), _JSON) + text
    if data:
        chunks += struct.pack("<II", len(data), _BIN) + data
    return struct.pack("<III", _MAGIC, 2, 12 + len(chunks)) + chunks
