"""Which formats a project allows for what, and how much error it lives with (schema "formats")."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any

from texel.blocks import WRITABLE_FORMATS, Format, format_named
from texel.document_types import FormatsDocument
from texel.errors import BadDocument
from texel.schemas import check_document, packaged_documents, read_json

__all__ = ["SORTS", "USUAL_FORMATS", "FormatTable", "builtin_tables", "fits", "parse_table", "table_named"]

# What a delivered picture can be, as far as its format goes, with the title that people read.
SORTS = {
    "colour": "Colour", "colour_alpha": "Colour with alpha", "normal": "Normal", "mask": "One channel",
    "packed": "Packed channels", "height": "Height", "light": "High dynamic range",
}  # fmt: skip
_LEAST_CHANNELS = {"normal": 2, "packed": 3, "colour": 3, "light": 3, "colour_alpha": 4}
# What an output of so many channels begins with on cards for desktops; common practice.
USUAL_FORMATS = {1: "bc4", 2: "bc5", 3: "bc7", 4: "bc7"}


@dataclass(frozen=True)
class FormatTable:
    """allowed: formats by sort, cheapest first. limits: the most that compare's 99th percentile may be, by its kind,
    and the most that coverage may change. sheets: the most that a master's sheet may cost, by texel.materials.Cost."""

    title: str
    allowed: Mapping[str, tuple[Format, ...]]
    limits: Mapping[str, float]
    sheets: Mapping[str, int] = field(default_factory=dict)


def fits(format_: Format, sort: str) -> bool:
    """Whether a format has the channels that a sort of SORTS needs.

    >>> fits(format_named("bc5"), "normal"), fits(format_named("bc4"), "normal")
    (True, False)
    """
    return len(format_.channels) >= _LEAST_CHANNELS.get(sort, 1)


def parse_table(document: Any, where: str = "the formats") -> FormatTable:
    """A table from its JSON document. Raises BadDocument."""
    check_document(document, "formats", where)
    allowed = {}
    for sort, keys in document["allowed"].items():
        formats = [format_named(key) for key in keys]
        for one in formats:
            if one.key not in WRITABLE_FORMATS:
                raise BadDocument("{where}: {label} is read, but not written", where=where, label=one.label)
            if not fits(one, sort):
                need = _LEAST_CHANNELS[sort]
                raise BadDocument(
                    "{where}: {label} has {count} channels; {sort} needs {need}",
                    where=where,
                    label=one.label,
                    count=len(one.channels),
                    sort=sort,
                    need=need,
                )
        allowed[sort] = tuple(sorted(formats, key=lambda one: (one.bits_per_texel, one.key)))
    return FormatTable(document.get("title", ""), allowed, document["limits"], document.get("sheets", {}))


@lru_cache
def builtin_tables() -> dict[str, FormatsDocument]:
    """The ready-made documents, by name: "desktop" (BC formats), "mobile" (ASTC and ETC2)."""
    return packaged_documents("texel.compression", "tables")


def table_named(name: str) -> FormatTable:
    """A table from a file's path, or a ready-made one by its name. Raises BadDocument, OSError."""
    if name in builtin_tables():
        return parse_table(builtin_tables()[name], name)
    path = Path(name)
    if path.suffix == ".json" or path.is_file():
        return parse_table(read_json(path), path.name)
    raise BadDocument(
        "there is no table {name!r}; give a file, or one of {listed}", name=name, listed=", ".join(builtin_tables())
    )
