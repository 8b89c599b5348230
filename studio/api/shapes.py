"""What the page is told about sets, maps and findings; one place that turns rows into it."""

from __future__ import annotations

from datetime import date
from typing import Any

from ninja import Schema

from studio.sets.models import Finding, Placement, TextureSet, Waiver
from studio.sets.pictures import map_digest
from studio.sets.waivers import waiver_for, waivers_in_force
from texel.recipes import shape_after, step_label
from texel.recipes.step import Shape
from texel.roles import ROLES, Role, facts

__all__ = ["FindingOut", "MapOut", "SetOut", "UndecidedOut", "finding_out", "map_out", "role_list", "set_out"]


class StepOut(Schema):
    step: str
    label: str
    off: bool
    options: dict[str, Any]


class MapOut(Schema):
    """digest names the map as its recipe leaves it: a picture's address with it may be kept for ever.

    width, height, channels, bits: behind the recipe; source_width, source_height: of the file. layer: which of
    ``layers``, the pictures of a file that holds several.
    """

    id: int
    revision: int
    set: int | None
    role: str
    file: str
    channel: str | None
    layer: str | None
    layers: list[str]
    confidence: float
    why: str
    by_hand: bool
    in_use: bool
    came_as: str
    old_names: list[str]
    digest: str
    source: str
    width: int
    height: int
    channels: str
    bits: int
    source_width: int
    source_height: int
    recipe: list[StepOut]
    worst: str | None


class CandidateOut(Schema):
    """channel: of a packed file, "" for a whole one."""

    role: str
    channel: str = ""
    set: str
    confidence: float
    why: str


class UndecidedOut(Schema):
    """suffix: what its name ends in, shared with other files that can be decided together; "" for none."""

    map: MapOut
    suffix: str
    readable: bool
    candidates: list[CandidateOut]


class PlaceOut(Schema):
    x: int
    y: int
    width: int
    height: int
    channel: str | None


class WaiverOut(Schema):
    id: int
    reason: str
    until: date | None
    by: str | None


class FindingOut(Schema):
    id: int
    map: int | None
    check: str
    severity: str
    role: str | None
    file: str | None
    measure: float | None
    threshold: float | None
    message: str
    remedy: dict[str, Any] | None
    place: PlaceOut | None
    waiver: WaiverOut | None = None
    marks: str | None = None


class SetOut(Schema):
    """judged: whether the findings speak of the set as it is. headline: the message of the worst finding that counts;
    waived: how many do not. metres: of surface that the width of its texture covers. licence: SPDX identifier or
    LicenseRef-..., "" while nobody said; credit: who is to be named."""

    id: int
    name: str
    revision: int
    judged: bool
    maps: list[MapOut]
    errors: int
    warnings: int
    missing: list[str]
    waived: int
    metres: float | None
    licence: str
    credit: str
    headline: str | None


class RoleOut(Schema):
    key: str
    label: str
    colour: bool
    scalar: bool


def role_list() -> list[dict[str, Any]]:
    found = []
    for role in ROLES:
        known = facts(role)
        found.append(
            {
                "key": role.value,
                "label": known.label,
                "colour": known.transfer.value == "srgb",
                "scalar": known.channels == 1,
            }
        )
    return found


def _shape(placement: Placement, probe: dict[str, Any]) -> dict[str, Any]:
    """Size, channels and depth behind the recipe."""
    if not probe:
        return {"width": 0, "height": 0, "channels": "", "bits": 0}
    channels = "y" if placement.channel and placement.recipe else probe["channels"]
    shape = Shape(probe["width"], probe["height"], channels, probe["bits"])
    return shape_after(shape, placement.recipe)._asdict()


def map_out(placement: Placement, in_use: bool, worst: str | None = None) -> dict[str, Any]:
    probe = (placement.file.source.probe if placement.file.source else None) or {}
    layers = [one["name"] for one in probe.get("layers", ())]
    probe = probe | next((one for one in probe.get("layers", ()) if one["name"] == placement.layer), {})
    return {
        "id": placement.pk,
        "revision": placement.revision,
        "set": placement.set_id,
        "role": placement.role,
        "file": placement.file.path,
        "channel": placement.channel or None,
        "layer": placement.layer or (layers[0] if layers else None),
        "layers": layers,
        "confidence": placement.confidence,
        "why": placement.why,
        "by_hand": placement.by_hand,
        "in_use": in_use,
        "came_as": placement.file.came_as,
        "old_names": [one.path for one in placement.file.old_names.all()],
        "digest": map_digest(placement),
        "source": placement.file.source_id or "",
        **_shape(placement, probe),
        "source_width": probe.get("width", 0),
        "source_height": probe.get("height", 0),
        "recipe": [
            {
                "step": step["step"],
                "label": step_label(step),
                "off": step.get("off", False),
                "options": {k: v for k, v in step.items() if k not in ("step", "off")},
            }
            for step in placement.recipe
        ],
        "worst": worst,
    }


def finding_out(finding: Finding, in_force: dict[Any, Waiver]) -> dict[str, Any]:
    document = finding.document
    waiver = waiver_for(finding, in_force)
    told = None
    if waiver is not None:
        by = waiver.by.get_username() if waiver.by else None
        told = {"id": waiver.pk, "reason": waiver.reason, "until": waiver.until, "by": by}
    return {
        "id": finding.pk, "map": finding.placement_id, "waiver": told,
        **{key: document.get(key) for key in FindingOut.model_fields if key not in ("id", "map", "waiver")},
    }  # fmt: skip


_HARM = {"error": 2, "warning": 1, "note": 0}


def set_out(one: TextureSet) -> dict[str, Any]:
    """Prefetch placements__file__source and __old_names, findings__placement__file and waivers__by first."""
    in_force = waivers_in_force(one)
    everything = list(one.findings.all())
    findings = [finding for finding in everything if waiver_for(finding, in_force) is None]
    worst: dict[int, str] = {}
    for finding in findings:
        key = finding.placement_id
        if key and _HARM[finding.severity] > _HARM.get(worst.get(key, ""), -1):
            worst[key] = finding.severity
    maps, used = [], set()
    for placement in sorted(one.placements.all(), key=lambda p: (p.order, p.pk)):
        in_use = placement.role not in used
        used.add(placement.role)
        maps.append(map_out(placement, in_use, worst.get(placement.pk)))
    missing = [f.document["role"] for f in findings if f.document["check"] == "missing_map"]
    return {
        "id": one.pk,
        "name": one.name,
        "revision": one.revision,
        "judged": one.judged == one.revision,
        "maps": maps,
        "errors": sum(f.severity == "error" for f in findings),
        "warnings": sum(f.severity == "warning" for f in findings),
        "missing": [Role(role).value for role in missing],
        "waived": len(everything) - len(findings),
        "metres": one.metres,
        "licence": one.licence,
        "credit": one.credit,
        "headline": findings[0].document["message"] if findings else None,
    }
