"""A zip file as a place to deliver to: one file, written beside its place and renamed."""

from __future__ import annotations

import os
import shutil
import zipfile
from collections.abc import Iterable
from pathlib import Path

__all__ = ["write_zip", "zip_entry"]

# Zip entries carry a date; a fixed one keeps equal deliveries equal byte by byte.
_DATE = (2000, 1, 1, 0, 0, 0)
_CHUNK = 1 << 20


def zip_entry(path: str) -> zipfile.ZipInfo:
    """An entry that is the same whenever it is written, readable for everybody once it is unpacked."""
    entry = zipfile.ZipInfo(path, _DATE)
    entry.external_attr = 0o644 << 16
    return entry


def write_zip(root: Path, paths: Iterable[str], out: Path) -> None:
    """Files below ``root`` into a zip, uncompressed, whole or not at all. Raises OSError."""
    beside = out.with_name(f".{out.name}.{os.getpid()}.part")
    try:
        with zipfile.ZipFile(beside, "w", zipfile.ZIP_STORED) as archive:
            for path in sorted(paths):
                opened = archive.open(zip_entry(path), "w", force_zip64=True)
                with (root / path).open("rb") as source, opened as stream:
                    shutil.copyfileobj(source, stream, _CHUNK)
        os.chmod(beside, 0o644)
        os.replace(beside, out)
    finally:
        beside.unlink(missing_ok=True)
