"""The manifest: what every delivered file is, what it was made from, in a form that a script can read."""

from __future__ import annotations

import json
from collections.abc import Container, Iterable, Mapping
from typing import Any

from texel.delivery.names import MANIFEST, RESERVED
from texel.delivery.planned import Plan, PlannedFile

__all__ = ["MANIFEST", "RESERVED", "carried_part", "file_entry", "manifest_bytes", "manifest_document", "set_entry"]


def file_entry(planned: PlannedFile, digest: str, size: int) -> dict[str, Any]:
    """One file's entry. digest: BLAKE3 of its bytes; size: their count."""
    entry: dict[str, Any] = {
        "path": planned.path,
        "set": planned.set,
        "kind": planned.kind,
        "digest": digest,
        "bytes": size,
        "plan": planned.digest(),
    }
    if planned.cast:
        entry["cast"] = planned.cast
    if planned.model:
        entry["model"] = planned.model
    if planned.ground:
        sources = [source.document() for source in planned.sources]
        return entry | {"ground": planned.ground, "mesh": planned.mesh, "width": planned.width, "sources": sources}
    if planned.kind == "sidecar":
        return entry
    if planned.kind == "cast":
        entry |= {"width": planned.width, "sheet": planned.sheet, "values": planned.values}
        entry["sources"] = [source.document() for source in planned.sources]
    if planned.kind == "model":
        slots = [{"slot": title, "parts": list(parts), "wears": wears} for title, parts, wears in planned.slots]
        return entry | {
            "width": planned.width, "sheet": planned.sheet, "values": planned.values,
            "mesh": planned.mesh, "sources": [source.document() for source in planned.sources], "slots": slots,
        }  # fmt: skip
    if planned.layout is None:
        return entry | {"uses": [{"slot": slot, "path": path} for slot, path in planned.uses]}
    channels = {}
    held = {s.role for s in planned.sources}
    for letter, source in planned.layout.channels.items():
        constant = source.role not in held
        channels[letter] = {
            "role": source.role.value if source.role else None,
            "invert": source.invert,
            "constant": source.missing if constant else None,
        }
    return entry | {
        "output": planned.output,
        "container": planned.container,
        "width": planned.width,
        "height": planned.height,
        "bits": planned.bits,
        "colour_space": planned.colour_space.value,
        "green": planned.green.value if planned.green else None,
        "green_from": planned.green_from,
        "channels": channels,
        **({k: v for k, v in planned.encoding.document().items() if k not in ("container", "bits")}),
        "memory": planned.memory,
        "sources": [source.document() for source in planned.sources],
        **({"normals": planned.normals.document()} if planned.normals else {}),
    }


def manifest_document(plan: Plan, written: Mapping[str, dict[str, Any]]) -> dict[str, Any]:
    """The manifest of a built plan. written: file_entry by path. It holds no date and no path of this machine."""
    sets: dict[str, list[str]] = {}
    casts: dict[str, list[str]] = {}
    models: dict[str, list[str]] = {}
    grounds: dict[str, list[PlannedFile]] = {}
    for planned in plan.files:
        if planned.set:
            sets.setdefault(planned.set, []).append(planned.path)
        elif planned.cast:
            casts.setdefault(planned.cast, []).append(planned.path)
        elif planned.model:
            models.setdefault(planned.model, []).append(planned.path)
        elif planned.ground:
            grounds.setdefault(planned.ground, []).append(planned)
    told = [*({"name": name, "files": paths} for name, paths in casts.items()), *plan.carried.get("casts", ())]
    of_models = ({"name": name, "files": paths} for name, paths in models.items())
    told_models = [*of_models, *plan.carried.get("models", ())]
    of_grounds = (_ground_entry(name, files) for name, files in grounds.items())
    told_grounds = [*of_grounds, *plan.carried.get("grounds", ())]
    return {
        "format": "fair-texel/manifest",
        "version": 1,
        "target": {"name": plan.target.name, "digest": plan.target.digest, "green": plan.target.green.value},
        "sets": [*(set_entry(plan, name, paths) for name, paths in sets.items()), *plan.carried["sets"]],
        **({"casts": told} if told else {}),
        **({"models": told_models} if told_models else {}),
        **({"grounds": told_grounds} if told_grounds else {}),
        "files": [*(written[planned.path] for planned in plan.files), *plan.carried["files"]],
    }


def _ground_entry(name: str, files: Iterable[PlannedFile]) -> dict[str, Any]:
    files = list(files)
    about = next((one.about for one in files if one.about is not None), {})
    return {"name": name, **about, "files": [one.path for one in files]}


def carried_part(
    previous: Mapping[str, Any] | None, names: Container[str], casts: Container[str] = (),
    models: Container[str] = (), grounds: Container[str] = (),
) -> dict[str, Any]:  # fmt: skip
    """The entries of a manifest that belong to some of its sets, casts, models and patches of ground."""
    before = previous or {"sets": (), "files": ()}
    return {
        "sets": [entry for entry in before["sets"] if entry["name"] in names],
        "casts": [entry for entry in before.get("casts", ()) if entry["name"] in casts],
        "models": [entry for entry in before.get("models", ()) if entry["name"] in models],
        "grounds": [entry for entry in before.get("grounds", ()) if entry["name"] in grounds],
        "files": [entry for entry in before["files"] if _stays(entry, names, casts, models, grounds)],
    }


def _stays(
    entry: Mapping[str, Any], names: Container[str], casts: Container[str], models: Container[str],
    grounds: Container[str],
) -> bool:  # fmt: skip
    if entry.get("ground"):
        return entry["ground"] in grounds
    if entry.get("cast"):
        return entry["cast"] in casts
    return entry["model"] in models if entry.get("model") else entry["set"] in names


def set_entry(plan: Plan, name: str, paths: list[str]) -> dict[str, Any]:
    """One set's entry, with its licence, whom to name, and its regions, where there are some."""
    entry: dict[str, Any] = {"name": name, "files": paths}
    licence = plan.licences.get(name)
    if licence is not None:
        entry |= {"licence": licence.name} | ({"credit": licence.credit} if licence.credit else {})
    regions = plan.regions.get(name, ())
    return entry | ({"regions": [one.document() for one in regions]} if regions else {})


def manifest_bytes(document: dict[str, Any]) -> bytes:
    return (json.dumps(document, indent=2, ensure_ascii=False, sort_keys=False) + "\n").encode()
