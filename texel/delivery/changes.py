"""What became of each file since a delivery before, and why."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from typing import Any

from texel.delivery.manifest import file_entry
from texel.delivery.planned import REASONS, PlannedFile, Reason

__all__ = ["REASONS", "Reason", "compare", "status_of"]

_ASKED = (
    "output",
    "container",
    "bits",
    "colour_space",
    "green",
    "channels",
    "format",
    "quality",
    "mips",
    "zstd",
    "dither",
)


def status_of(planned: PlannedFile, before: Mapping[str, Any] | None) -> tuple[str, tuple[Reason, ...]]:
    """ "new", "changed" or "unchanged", and of what is changed the reasons, of REASONS.

    before: the file's entry in the manifest of the delivery before, None where it had none.
    """
    if before is None:
        return "new", ()
    if before["plan"] == planned.digest():
        return "unchanged", ()
    return "changed", _reasons(before, file_entry(planned, "", 0))


def compare(old: Mapping[str, Any], new: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Two manifests, path by path: {"path", "set", "status", "why"}; status is new, changed, unchanged or removed."""
    before = {entry["path"]: entry for entry in old["files"]}
    now = {entry["path"]: entry for entry in new["files"]}
    told = []
    for path in sorted({*before, *now}):
        then, today = before.get(path), now.get(path)
        why: tuple[Reason, ...] = ()
        if then is None or today is None:
            status = "new" if then is None else "removed"
        else:
            status = "unchanged" if then["digest"] == today["digest"] else "changed"
            why = _reasons(then, today) if status == "changed" else ()
        told.append({"path": path, "set": (today or then or {})["set"], "status": status, "why": list(why)})
    return told


def _reasons(before: Mapping[str, Any], now: Mapping[str, Any]) -> tuple[Reason, ...]:
    """Why an entry of a manifest is not what it was."""
    why: set[Reason] = set(_of_sources(before.get("sources", ()), now.get("sources", ())))
    why |= set(_of_sources(_listed(before.get("normals")), _listed(now.get("normals"))))
    if any(before.get(key) != now.get(key) for key in _ASKED):
        why.add("target")
    if before.get("sheet") != now.get("sheet"):
        why.add("master")
    if before.get("values") != now.get("values"):
        why.add("parameters")
    if any(before.get(key) != now.get(key) for key in ("kind", "uses", "mesh", "slots")):
        why.add("source")
    if "source" not in why and any(before.get(key) != now.get(key) for key in ("width", "height")):
        why.add("target")
    return tuple(one for one in REASONS if one in why) or ("encoder",)


def _listed(source: Any) -> list[Any]:
    return [source] if source else []


def _of_sources(before: Iterable[Mapping[str, Any]], now: Iterable[Mapping[str, Any]]) -> Iterable[Reason]:
    """Why maps that go into a file are not those of before, by role."""
    then, today = _by_role(before), _by_role(now)
    if set(then) != set(today):
        yield "source"
    for key in set(then) & set(today):
        old, new = then[key], today[key]
        if any(old.get(key) != new.get(key) for key in ("digest", "channel", "layer")):
            yield "source"
        if old["recipe"] != new["recipe"]:
            yield "recipe"
        if _others(old) != _others(new):
            yield "source"
        if old["added"] != new["added"]:
            yield "target"


def _by_role(sources: Iterable[Mapping[str, Any]]) -> dict[tuple[str, int], Mapping[str, Any]]:
    """Sources by role, and by their number where several have one: a model has those of all its slots."""
    counts: Counter[str] = Counter()
    found = {}
    for one in sources:
        found[one["role"], counts[one["role"]]] = one
        counts[one["role"]] += 1
    return found


def _others(source: Mapping[str, Any]) -> list[tuple[str, str]]:
    return [(one["name"], one["map"]) for one in source.get("beside", ())]
