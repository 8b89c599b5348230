"""One file with a stage and its pictures: the USDZ package of OpenUSD.

The specification (openusd.org, "USDZ File Format Specification"): a zip without compression or encryption whose first
file is the stage, and in which the data of each file begins at a multiple of 64 bytes.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping

__all__ = ["usdz_of"]

_ALIGNED = 64
# Fixed part of a zip's local header, and head of one of its extra fields (APPNOTE.TXT 4.3.7 and 4.5.1).
_LOCAL_HEADER, _FIELD_HEAD = 30, 4
# An identifier for the filling that readers pass over, as the specification leaves it open.
_FILLING = (0x1986).to_bytes(2, "little")


def usdz_of(files: Mapping[str, bytes]) -> bytes:
    """A package of files by path, the stage first. Equal files give equal bytes.

    >>> data = usdz_of({"stage.usda": b"#usda 1.0"})
    >>> data.index(b"#usda 1.0") % 64
    0
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for path, data in files.items():
            info = zipfile.ZipInfo(path)
            start = out.tell() + _LOCAL_HEADER + len(path.encode()) + _FIELD_HEAD
            filling = -start % _ALIGNED
            info.extra = _FILLING + filling.to_bytes(2, "little") + bytes(filling)
            archive.writestr(info, data)
    return out.getvalue()
