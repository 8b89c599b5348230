"""Run every check over sets."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import NamedTuple

from texel.checks.colour import check_baked_light, check_colour_range, check_grey_colour, check_specular
from texel.checks.detail import check_depth, check_lossy, check_seams, check_upscaled
from texel.checks.finding import Finding, SetView, Severity, Wanted
from texel.checks.names import check_names
from texel.checks.normal_maps import check_direction, check_lengths, check_strength
from texel.checks.sets import (
    check_largest,
    check_licence,
    check_missing,
    check_primaries,
    check_readable,
    check_sizes,
    check_tags,
)
from texel.checks.twins import Signed, signature_of, twin_finding, twins_across
from texel.checks.values import (
    check_alpha,
    check_exchanged,
    check_gloss,
    check_gloss_against_roughness,
    check_height_range,
    check_height_steps,
    check_metallic,
    check_opacity,
    check_plain,
    check_twins,
    check_unlike_channels,
)
from texel.errors import TexelError
from texel.library import Library
from texel.roles import Role
from texel.sets import TextureSet
from texel.sorting import Undecided

__all__ = ["CHECKS", "Judged", "check_sets", "check_undecided", "in_order", "judge_set", "undecided_by_set"]

CHECKS: tuple[Callable[[SetView], list[Finding]], ...] = (
    check_licence,
    check_direction,
    check_lengths,
    check_exchanged,
    check_missing,
    check_sizes,
    check_largest,
    check_names,
    check_tags,
    check_primaries,
    check_alpha,
    check_unlike_channels,
    check_plain,
    check_height_steps,
    check_gloss,
    check_strength,
    check_metallic,
    check_gloss_against_roughness,
    check_twins,
    check_colour_range,
    check_baked_light,
    check_grey_colour,
    check_specular,
    check_opacity,
    check_height_range,
    check_upscaled,
    check_seams,
    check_lossy,
    check_depth,
)
# What follows from a fault that is named already is not named again.
_IMPLIED = {
    "roughness_metallic_exchanged": ("metallic_mid_grey", "implausible_colour"),
    "not_a_normal_map": ("normal_strength", "lossy_data"),
}
_ORDER = {Severity.ERROR: 0, Severity.WARNING: 1, Severity.NOTE: 2}


class Judged(NamedTuple):
    """findings: in order of harm. signed: the maps that were read, with what tells twins in other sets."""

    findings: list[Finding]
    signed: list[Signed]


def judge_set(one: TextureSet, library: Library, wanted: Wanted | None = None) -> Judged:
    """Findings of all checks on one set. Maps that cannot be read are a finding each; the other checks go on without
    them. wanted: what the target asks for, None without one."""
    try:
        view = SetView.of(one, library, wanted)
    except TexelError as error:
        return Judged([Finding("unreadable", Severity.ERROR, one.name, str(error))], [])
    broken = check_readable(view)
    files = {finding.file for finding in broken}
    sound = replace(view, maps={r: ref for r, ref in view.maps.items() if ref.file not in files})
    findings = broken + [f for check in CHECKS for f in check(sound)]
    findings = [f for f in findings if not (f.check == "missing_map" and f.role in view.maps)]
    implied = {check for f in findings for check in _IMPLIED.get(f.check, ())}
    findings = [f for f in findings if f.check not in implied]
    return Judged(in_order(findings), _signed(sound))


def in_order(findings: Iterable[Finding]) -> list[Finding]:
    """In order of harm; within a severity as they were found."""
    return sorted(findings, key=lambda f: _ORDER[f.severity])


def _signed(view: SetView) -> list[Signed]:
    maps = ((ref, signature_of(view.map(ref))) for ref in view.maps.values())
    return [Signed(view.name, ref.role, ref.file, signature) for ref, signature in maps if signature is not None]


def check_sets(sets: Iterable[TextureSet], library: Library, wanted: Wanted | None = None) -> list[Finding]:
    """Findings of all checks on all sets, set by set, in order of harm within each; twins across the sets come last."""
    findings: list[Finding] = []
    signed: list[Signed] = []
    for one in sets:
        judged = judge_set(one, library, wanted)
        findings += judged.findings
        signed += judged.signed
    return findings + [twin_finding(twin) for twin in twins_across(signed, signed)]


def undecided_by_set(undecided: Iterable[Undecided]) -> dict[str, tuple[tuple[str, frozenset[Role]], ...]]:
    """Files without a place by the set that they may belong to, with the roles that they may hold: for Wanted."""
    by_set: dict[str, list[tuple[str, frozenset[Role]]]] = {}
    for one in undecided:
        for name in {candidate["set"] for candidate in one.candidates}:
            roles = frozenset(Role(c["role"]) for c in one.candidates if c["set"] == name)
            by_set.setdefault(name, []).append((one.file, roles))
    return {name: tuple(files) for name, files in by_set.items()}


def check_undecided(undecided: Iterable[Undecided]) -> list[Finding]:
    """One finding a file that found no place: unreadable pictures are errors, files named like a map are warnings, the
    rest are notes."""
    findings = []
    for one in undecided:
        broken = not one.candidates and one.why.startswith(one.file.rsplit("/", 1)[-1] + ":")
        severity = Severity.ERROR if broken else Severity.WARNING if one.suffix else Severity.NOTE
        findings.append(Finding("unreadable" if broken else "undecided", severity, "", one.why, file=one.file))
    return findings
