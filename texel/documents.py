"""What differs between two versions of a JSON document."""

from __future__ import annotations

from typing import Any, NamedTuple

__all__ = ["Difference", "differences"]


class Difference(NamedTuple):
    """path: keys and numbers from the top, joined by "/". before, after: the values, None where there is none."""

    path: str
    before: Any
    after: Any


def differences(before: Any, after: Any, path: str = "") -> list[Difference]:
    """Every leaf that differs, in the order of the second document. Entries of lists that name themselves ("output",
    "part", "name") are matched by that name, so that moving one does not change all behind it.

    >>> [d.path for d in differences({"a": 1, "b": [1, 2]}, {"a": 2, "b": [1]})]
    ['a', 'b/1']
    """
    if before == after:
        return []
    if isinstance(before, list) and isinstance(after, list):
        before, after = _by_name(before), _by_name(after)
    if not (isinstance(before, dict) and isinstance(after, dict)):
        return [Difference(path, before, after)]
    rows = []
    for key in [*after, *(key for key in before if key not in after)]:
        deeper = f"{path}/{key}" if path else str(key)
        if key in before and key in after:
            rows += differences(before[key], after[key], deeper)
        else:
            rows.append(Difference(deeper, before.get(key), after.get(key)))
    return rows


def _by_name(entries: list[Any]) -> dict[str, Any]:
    by_name: dict[str, Any] = {}
    for number, entry in enumerate(entries):
        name = str(number)
        if isinstance(entry, dict):
            name = next((str(entry[key]) for key in ("output", "part", "name") if key in entry), name)
        by_name[name if name not in by_name else f"{name} {number}"] = entry
    return by_name
