"""What stands in a delivery beside the files of its sets: checksums, a report as JSON and as a page, the manifest."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from typing import Any
from urllib.parse import quote

import jinja2

from texel.delivery.manifest import MANIFEST, manifest_bytes
from texel.delivery.plan import Plan

__all__ = [
    "CHECKSUMS",
    "IN_MEMORY",
    "REPORT",
    "REPORT_PAGE",
    "checksums",
    "closing_files",
    "report_document",
    "report_page",
]

# Kinds of files that an engine loads; copies for one material file are read in their place.
IN_MEMORY = ("map", "slot")
CHECKSUMS, REPORT, REPORT_PAGE = "checksums.b3", "report.json", "report.html"
# In this order, whatever kept them: equal deliveries have equal reports.
_OF_FINDING, _OF_WAIVER = ("check", "severity", "message"), ("check", "message", "reason", "by")
# What browsers show by themselves.
_SHOWN = ("png",)


def closing_files(plan: Plan, manifest: dict[str, Any], notes: Mapping[str, Any]) -> dict[str, bytes]:
    """Path to bytes, in writing order: the manifest is last, since who reads it takes the delivery for whole."""
    report = report_document(plan, manifest, notes)
    return {
        CHECKSUMS: checksums(manifest),
        REPORT_PAGE: report_page(report),
        REPORT: (json.dumps(report, indent=2, ensure_ascii=False) + "\n").encode(),
        MANIFEST: manifest_bytes(manifest),
    }


def checksums(manifest: Mapping[str, Any]) -> bytes:
    """A line for each file: its BLAKE3 and its path, as ``b3sum --check`` of the BLAKE3 project reads them."""
    return "".join(f"{entry['digest']}  {entry['path']}\n" for entry in manifest["files"]).encode()


def report_document(plan: Plan, manifest: Mapping[str, Any], notes: Mapping[str, Any]) -> dict[str, Any]:
    """What was delivered, from what, how large, with which errors, waivers and licences; see report.schema.json.

    notes: by set, {"findings": [...], "waivers": [...]}, and under "errors" the error figures of files by path; what is
    not there was not measured. It holds no date, so that equal deliveries have equal reports.
    """
    entries = {entry["path"]: entry for entry in manifest["files"]}
    errors = notes.get("errors", {})
    of_sets = notes.get("sets", {})
    sets = []
    for one in manifest["sets"]:
        files = [_file(entries[path], errors.get(path)) for path in one["files"]]
        told = of_sets.get(one["name"], {})
        sets.append(
            {
                "name": one["name"],
                "licence": one.get("licence", ""),
                "credit": one.get("credit", ""),
                "bytes": sum(file["bytes"] for file in files),
                "memory": sum(file["memory"] for file in files),
                "files": files,
                "findings": [{key: one[key] for key in _OF_FINDING} for one in told.get("findings", ())],
                "waivers": [{key: one[key] for key in _OF_WAIVER} for one in told.get("waivers", ())],
            }
        )
    return {
        "format": "fair-texel/report",
        "version": 1,
        "target": {"name": plan.target.name, "title": plan.target.title},
        "files": len(entries),
        "bytes": sum(entry["bytes"] for entry in entries.values()),
        "memory": sum(entry.get("memory", 0) for entry in entries.values() if entry["kind"] in IN_MEMORY),
        "left_out": list(plan.problems),
        "sets": sets,
        **_listed("casts", manifest, entries),
        **_listed("models", manifest, entries),
        **_listed("grounds", manifest, entries),
    }


def _listed(
    what: str, manifest: Mapping[str, Any], entries: Mapping[str, Mapping[str, Any]]
) -> dict[str, Any]:  # fmt: skip
    """The casts, models or patches of ground that were delivered, where there are any."""
    told = []
    for one in manifest.get(what, ()):
        files = [_file(entries[path], None) for path in one["files"]]
        told.append({"name": one["name"], "bytes": sum(file["bytes"] for file in files), "files": files})
    return {what: told} if told else {}


def _file(entry: Mapping[str, Any], error: Mapping[str, Any] | None) -> dict[str, Any]:
    is_map = entry["kind"] in ("map", "gltf", "slot")
    return {
        "path": entry["path"],
        "kind": entry["kind"],
        "bytes": entry["bytes"],
        "memory": entry.get("memory", 0) if entry["kind"] in IN_MEMORY else 0,
        "form": _form(entry) if is_map else "",
        "sources": list(dict.fromkeys(source["file"] for source in entry.get("sources", ()))),
        "error": dict(error) if error else None,
    }


def _form(entry: Mapping[str, Any]) -> str:
    how = entry.get("format") or f"{entry['bits']} bits"
    space = "sRGB" if entry["colour_space"] == "srgb" else "linear"
    green = {"up": ", Y+", "down": ", Y-"}.get(entry["green"] or "", "")
    return f"{entry['width']} x {entry['height']}, {entry['container'].upper()}, {how}, {space}{green}"


@lru_cache
def _page() -> jinja2.Template:
    text = resources.files("texel").joinpath("delivery/report.html").read_text("utf-8")
    made = jinja2.Environment(autoescape=True, undefined=jinja2.StrictUndefined, trim_blocks=True, lstrip_blocks=True)
    made.filters["size"] = _size
    made.filters["address"] = _address
    return made.from_string(text)


def _size(count: int) -> str:
    """
    >>> _size(1536), _size(3 * 1024 * 1024)
    ('1.5 KiB', '3.0 MiB')
    """
    return f"{count / 1024**2:.1f} MiB" if count >= 1024**2 else f"{count / 1024:.1f} KiB"


def _address(path: str) -> str:
    """A path as a relative address, which a colon or a number sign in a name must not end."""
    return "./" + quote(path)


def report_page(report: Mapping[str, Any]) -> bytes:
    """The report as a page for browsers, with the pictures that they can show; it loads nothing from elsewhere."""
    return _page().render(report=report, shown=_SHOWN).encode()
