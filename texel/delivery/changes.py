"""What became of each file since a delivery before, and why."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any

from texel.delivery.manifest import file_entry

if TYPE_CHECKING:
    from texel.delivery.plan import PlannedFile

__all__ = ["REASONS", "status_of"]

# Why a file is not what it was: another file or map went in; the steps on it; what the target asks for (channels,
# format, size, names); how Fair Texel itself encodes.
REASONS = ("source", "recipe", "target", "encoder")
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


def status_of(planned: PlannedFile, before: Mapping[str, Any] | None) -> tuple[str, tuple[str, ...]]:
    """ "new", "changed" or "unchanged", and of what is changed the reasons, of REASONS.

    before: the file's entry in the manifest of the delivery before, None where it had none.
    """
    if before is None:
        return "new", ()
    if before["plan"] == planned.digest():
        return "unchanged", ()
    now = file_entry(planned, "", 0)
    why = set(_of_sources(before.get("sources", ()), now.get("sources", ())))
    why |= set(_of_sources(_listed(before.get("normals")), _listed(now.get("normals"))))
    if any(before.get(key) != now.get(key) for key in _ASKED):
        why.add("target")
    if before["kind"] != now["kind"] or before.get("uses") != now.get("uses"):
        why.add("source")
    if "source" not in why and any(before.get(key) != now.get(key) for key in ("width", "height")):
        why.add("target")
    return "changed", tuple(one for one in REASONS if one in why) or ("encoder",)


def _listed(source: Any) -> list[Any]:
    return [source] if source else []


def _of_sources(before: Iterable[Mapping[str, Any]], now: Iterable[Mapping[str, Any]]) -> Iterable[str]:
    """Why maps that go into a file are not those of before, by role."""
    then = {one["role"]: one for one in before}
    today = {one["role"]: one for one in now}
    if set(then) != set(today):
        yield "source"
    for role in set(then) & set(today):
        old, new = then[role], today[role]
        if any(old.get(key) != new.get(key) for key in ("digest", "channel", "layer")):
            yield "source"
        if old["recipe"] != new["recipe"]:
            yield "recipe"
        if _others(old) != _others(new):
            yield "source"
        if old["added"] != new["added"]:
            yield "target"


def _others(source: Mapping[str, Any]) -> list[tuple[str, str]]:
    return [(one["name"], one["map"]) for one in source.get("beside", ())]
