"""Digests: one way to name bytes and documents by their content."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from blake3 import blake3

__all__ = ["canonical_json", "of_bytes", "of_document", "of_file"]

_CHUNK = 1 << 20


def of_bytes(data: bytes) -> str:
    """BLAKE3 of bytes, 64 hexadecimal digits."""
    return blake3(data).hexdigest()


def of_file(path: Path) -> str:
    """BLAKE3 of a file's bytes, read in pieces."""
    state = blake3()
    with path.open("rb") as stream:
        while piece := stream.read(_CHUNK):
            state.update(piece)
    return state.hexdigest()


def canonical_json(document: Any) -> bytes:
    """A document as bytes that are equal whenever the documents are: sorted keys, no spaces, UTF-8."""
    return json.dumps(document, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()


def of_document(document: Any) -> str:
    return of_bytes(canonical_json(document))
