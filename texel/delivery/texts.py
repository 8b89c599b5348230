"""What the target's sidecars say: their templates, filled with the manifest's entries."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from texel.delivery.manifest import set_entry
from texel.delivery.plan import Plan, PlannedFile
from texel.delivery.sidecars import render

__all__ = ["sidecar_text"]


def sidecar_text(planned: PlannedFile, plan: Plan, written: Mapping[str, dict[str, Any]]) -> bytes:
    """The bytes of a planned sidecar. written: entries of the manifest by path. Raises Unwritable."""
    target = {"name": plan.target.name, "title": plan.target.title, "green": plan.target.green.value}
    known = {entry["path"]: entry for entry in plan.carried["files"]} | dict(written)
    files = [dict(known[path]) for path, _ in planned.uses if path in known]
    values: dict[str, Any] = {"target": target, "files": files}
    if planned.cast:
        values["material"] = {"name": planned.cast}
    elif planned.model:
        slots: list[Any] = next((one["slots"] for one in files if one["kind"] == "model"), [])
        values["model"] = {"name": planned.model, "slots": slots}
    elif planned.set:
        values["set"] = _set(plan, planned.set, files)
    else:
        names = dict.fromkeys(file["set"] for file in files)
        before = {entry["name"]: {"licence": "", "credit": "", **entry} for entry in plan.carried["sets"]}
        values["sets"] = [
            before.get(name) or _set(plan, name, (one for one in files if one["set"] == name)) for name in names
        ]
    return render(planned.template, values, planned.path)


def _set(plan: Plan, name: str, files: Iterable[Mapping[str, Any]]) -> dict[str, Any]:
    told = set_entry(plan, name, [one["path"] for one in files])
    return {"licence": "", "credit": "", **told}
