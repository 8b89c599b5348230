"""What the checks find in a project's sets, as the studio judges them, and what its report says of that."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

from texel import digest
from texel.checks import Wanted, in_order, judge_set
from texel.checks.finding import Finding, Severity, refusal_by_findings
from texel.compression import FormatTable
from texel.delivery import Target, plan_delivery
from texel.delivery.checks import check_encodings
from texel.errors import BadDocument, TexelError
from texel.files.writing import write_bytes
from texel.library import Library
from texel.licences import licence_key
from texel.naming.rules import parse_names
from texel.project.orders import Project, waivers_of
from texel.roles import Role
from texel.sets import TextureSet

__all__ = ["Findings", "kept_out_by", "notes_of"]

_ABOUT_LICENCES = ("licence_unknown", "licence_refused", "credit_missing")


@lru_cache
def _code() -> str:
    """Names the code that judges: what it found before counts only while it is the same."""
    names = sorted(str(one) for one in _modules(resources.files("texel")))
    return digest.of_document([digest.of_file(Path(name)) for name in names])


def _modules(folder: Any) -> Iterable[Any]:
    for one in folder.iterdir():
        if one.is_dir():
            yield from _modules(one)
        elif one.name.endswith(".py"):
            yield one


class Findings:
    """Findings of sets as documents, kept in a file by all that they follow from. make: a set alone and a library."""

    def __init__(self, project: Project, make: Callable[[str], tuple[TextureSet, Library]], memory: Path | None = None):
        self._project, self._make, self._memory = project, make, memory
        target = project.target()
        names = project.rules.get(("names", "house"))
        self._target, self._table = target, project.formats
        parsed = parse_names(names) if names is not None else None
        self._wanted = Wanted(target.title, target.largest, parsed, project.licences, target.green)
        rules = [document for key, document in project.rules.items() if key[0] in ("names", "formats", "licences")]
        self._rules = digest.of_document([_code(), target.digest, rules])
        self._kept = self._remembered()

    def _remembered(self) -> dict[str, Any]:
        try:
            kept = json.loads(self._memory.read_text("utf-8")) if self._memory else {}
            return kept if isinstance(kept, dict) else {}
        except (OSError, ValueError):
            return {}

    def remember(self) -> None:
        """Raises OSError."""
        if self._memory is not None:
            self._memory.parent.mkdir(parents=True, exist_ok=True)
            write_bytes(json.dumps(self._kept, ensure_ascii=False).encode(), self._memory)

    def of(self, name: str) -> list[dict[str, Any]]:
        """The findings of a set, each with the key that a waiver holds for under ``waiver``."""
        document = self._project.sets[name]
        undecided = document.get("told", {}).get("undecided", [])
        said = {key: document.get(key) for key in ("name", "licence", "maps", "metres", "regions")}
        key = digest.of_document([self._rules, said, undecided])
        kept = self._kept.get(name)
        if not isinstance(kept, dict) or kept.get("key") != key:
            self._kept[name] = kept = {"key": key, "findings": self._judged(name, undecided)}
        found: list[dict[str, Any]] = kept["findings"]
        return found

    def _judged(self, name: str, undecided: Iterable[Mapping[str, Any]]) -> list[dict[str, Any]]:
        one, library = self._make(name)
        waiting = tuple((file["file"], frozenset(Role(role) for role in file["roles"])) for file in undecided)
        wanted = replace(self._wanted, undecided={name: waiting}) if waiting else self._wanted
        judged = judge_set(one, library, wanted)
        findings = in_order([*judged.findings, *_of_delivery(one, library, self._target, self._table)])
        return [{**finding.document(), "waiver": list(_waived_as(finding, one, library))} for finding in findings]


def _waived_as(finding: Finding, one: TextureSet, library: Library) -> tuple[str, str, str]:
    """What a waiver of a finding is kept by: check, role, and what names the map, as the studio has it."""
    role = finding.role.value if finding.role else ""
    if finding.check in _ABOUT_LICENCES:
        return finding.check, "", licence_key(one.licence.name)
    if finding.output:
        return finding.check, role, finding.output
    try:
        maps = one.linked().maps
    except BadDocument:
        maps = one.maps
    ref = next((ref for ref in maps if (ref.role, ref.file) == (finding.role, finding.file)), None)
    return finding.check, role, library.map_digest(ref) if ref is not None else ""


def _of_delivery(one: TextureSet, library: Library, target: Target, table: FormatTable) -> list[Any]:
    try:
        return check_encodings(plan_delivery([one], library, target), library, table)
    except (TexelError, OSError):
        return []  # the checks have said why it cannot be delivered


def notes_of(document: Mapping[str, Any], findings: Iterable[Mapping[str, Any]]) -> dict[str, Any]:
    """What a report says of a set: findings that count, and waivers with their reasons."""
    waivers, told = waivers_of(document), {"findings": list[Any](), "waivers": list[Any]()}
    for one in findings:
        waiver = waivers.get(tuple(one["waiver"]))
        if waiver is not None:
            told["waivers"].append(
                {
                    "check": one["check"],
                    "message": one["message"],
                    "reason": waiver["reason"],
                    "by": waiver.get("by", ""),
                }
            )
        elif one["severity"] != "note":
            told["findings"].append({key: one[key] for key in ("check", "severity", "message")})
    return told


def kept_out_by(target: Target, document: Mapping[str, Any], findings: Iterable[Mapping[str, Any]]) -> str:
    """Why a target refuses a set by what was found about it; "" where it does not."""
    if not target.refuses:
        return ""
    waivers = waivers_of(document)
    told = [(Severity(one["severity"]), one["message"]) for one in findings if tuple(one["waiver"]) not in waivers]
    return refusal_by_findings(told, Severity(target.refuses))
