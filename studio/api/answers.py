"""What the page is told about sets, maps and findings; one place that turns rows into it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from studio.api.access import name_of
from studio.api.schemas.shared import FindingOut, MapOut, RoleOut, SetOut, WaiverOut
from studio.sets.models import Finding, Placement, Waiver
from studio.sets.pictures import map_digest
from studio.sets.rows import SetRow
from studio.sets.waivers import waiver_for
from texel.checks.titles import title_of
from texel.document_types import FindingDocument
from texel.recipes import shape_after, step_label
from texel.recipes.step import Shape
from texel.roles import ROLES, Role, facts

__all__ = ["finding_out", "map_out", "role_list", "set_out"]


def role_list() -> list[RoleOut]:
    roles: list[RoleOut] = []
    for role in ROLES:
        known = facts(role)
        roles.append(
            {
                "key": role.value,
                "label": known.label,
                "colour": known.transfer.value == "srgb",
                "scalar": known.channels == 1,
            }
        )
    return roles


def _shape(placement: Placement, probe: Mapping[str, Any]) -> Shape:
    """Size, channels and depth behind the recipe."""
    if not probe:
        return Shape(0, 0, "", 0)
    channels = "y" if placement.channel and placement.recipe else probe["channels"]
    shape = Shape(probe["width"], probe["height"], channels, probe["bits"])
    return shape_after(shape, placement.recipe)


def map_out(
    placement: Placement, in_use: bool, worst: str | None = None, old_names: Sequence[str] | None = None
) -> MapOut:
    """old_names: former names of its file, the oldest first; asked for where they are not given."""
    if old_names is None:
        old_names = [one.path for one in placement.file.old_names.all()]
    probe = (placement.file.source.probe if placement.file.source else None) or {}
    layers = [one["name"] for one in probe.get("layers", ())]
    probe = probe | next((one for one in probe.get("layers", ()) if one["name"] == placement.layer), {})
    shape = _shape(placement, probe)
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
        "said": placement.said,
        "by_hand": placement.by_hand,
        "in_use": in_use,
        "came_as": placement.file.came_as,
        "old_names": list(old_names),
        "digest": map_digest(placement),
        "source": placement.file.source_id or "",
        "width": shape.width,
        "height": shape.height,
        "channels": shape.channels,
        "bits": shape.bits,
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


def finding_out(finding: Finding, in_force: Mapping[tuple[str, str, str], Waiver]) -> FindingOut:
    document: FindingDocument = finding.document
    waiver = waiver_for(finding, in_force)
    told: WaiverOut | None = None
    if waiver is not None:
        by = name_of(waiver.by)
        told = {"id": waiver.pk, "reason": waiver.reason, "until": waiver.until, "by": by}
    return {
        "id": finding.pk, "map": finding.placement_id, "waiver": told, "check": document["check"],
        "title": title_of(document["check"]), "severity": document["severity"], "role": document["role"],
        "file": document["file"],
        "measure": document["measure"], "threshold": document["threshold"], "message": document["message"],
        "said": document.get("said"),
        "remedy": document["remedy"], "place": document["place"], "marks": document.get("marks"),
    }  # fmt: skip


_HARM = {"error": 2, "warning": 1, "note": 0}


def set_out(row: SetRow) -> SetOut:
    one, findings = row.set, row.open_findings()
    worst: dict[int, str] = {}
    for finding in findings:
        key = finding.placement_id
        if key and _HARM[finding.severity] > _HARM.get(worst.get(key, ""), -1):
            worst[key] = finding.severity
    maps, used = [], set()
    for placement in row.maps:
        in_use = placement.role not in used
        used.add(placement.role)
        maps.append(map_out(placement, in_use, worst.get(placement.pk), row.old_names.get(placement.file_id, ())))
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
        "waived": len(row.findings) - len(findings),
        "metres": one.metres,
        "targets": one.targets,
        "regions": one.regions,
        "licence": one.licence,
        "credit": one.credit,
        "headline": findings[0].document["message"] if findings else None,
        "checks": sorted({f.document["check"] for f in findings if f.severity != "note"}),
    }
