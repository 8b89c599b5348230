"""The list of sets as a table for other programs: one row a set."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from typing_extensions import TypedDict

from studio.projects.models import Project
from studio.sets.rows import SetRow, set_rows

__all__ = ["COLUMNS", "TableRow", "as_csv", "table_of"]


class TableRow(TypedDict):
    """checked: whether the findings speak of the set as it is. maps: file by role. side: of the largest map, in
    texels. review: how its review stands, "" outside one."""

    id: int
    name: str
    checked: bool
    errors: int
    warnings: int
    worst: str
    maps: dict[str, str]
    side: int
    metres: float | None
    licence: str
    targets: list[str]
    review: str


COLUMNS = (
    "id", "name", "checked", "errors", "warnings", "worst", "roles", "files", "side", "metres", "licence", "targets",
    "review",
)  # fmt: skip
# What spreadsheets take for the beginning of a formula (OWASP, CSV injection).
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def _row(row: SetRow, review: str) -> TableRow:
    found = row.open_findings()
    probes = [(one.file.source.probe if one.file.source else None) or {} for one in row.maps]
    counts = {harm: sum(one.severity == harm for one in found) for harm in ("error", "warning")}
    return {
        "id": row.set.pk, "name": row.set.name, "checked": row.set.judged == row.set.revision,
        "errors": counts["error"], "warnings": counts["warning"],
        "worst": str(found[0].document["message"]) if found else "",
        "maps": {one.role: one.file.path for one in row.maps},
        "side": max((max(int(one.get("width", 0)), int(one.get("height", 0))) for one in probes), default=0),
        "metres": row.set.metres, "licence": row.set.licence, "targets": list(row.set.targets), "review": review,
    }  # fmt: skip


def table_of(project: Project, reviews: dict[int, str]) -> list[TableRow]:
    """All sets by name. reviews: how the review of each stands, by id."""
    return [_row(row, reviews.get(row.set.pk, "")) for row in set_rows(project.sets.order_by("name"))]


def _cell(value: object) -> str:
    """A value that no spreadsheet takes for a formula: what could be one begins with an apostrophe.

    >>> _cell("=1+1"), _cell(-1), _cell(None), _cell(True)
    ("'=1+1", '-1', '', 'yes')
    """
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    text = str(value)
    return f"'{text}" if isinstance(value, str) and text.startswith(_FORMULA) else text


def as_csv(rows: Iterable[TableRow]) -> str:
    """RFC 4180, with a head; lists in one cell are separated by "; "."""
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(COLUMNS)
    for row in rows:
        values: dict[str, object] = {
            **row, "roles": "; ".join(row["maps"]), "files": "; ".join(row["maps"].values()),
            "targets": "; ".join(row["targets"]),
        }  # fmt: skip
        writer.writerow([_cell(values[name]) for name in COLUMNS])
    return stream.getvalue()
