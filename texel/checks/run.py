"""Run every check over sets."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from texel.checks.colour import check_baked_light, check_colour_range, check_grey_colour
from texel.checks.detail import check_depth, check_lossy, check_seams, check_upscaled
from texel.checks.finding import Finding, SetView, Severity
from texel.checks.normal_maps import check_direction, check_lengths, check_strength
from texel.checks.sets import check_missing, check_primaries, check_readable, check_sizes, check_tags
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
)
from texel.errors import TexelError
from texel.library import Library
from texel.sets import TextureSet
from texel.sorting import Undecided

__all__ = ["CHECKS", "check_sets", "check_undecided"]

CHECKS: tuple[Callable[[SetView], list[Finding]], ...] = (
    check_direction,
    check_lengths,
    check_exchanged,
    check_missing,
    check_sizes,
    check_tags,
    check_primaries,
    check_alpha,
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


def check_sets(sets: Iterable[TextureSet], library: Library) -> list[Finding]:
    """Findings of all checks on all sets, in order of harm within each set.

    Maps that cannot be read are a finding each, and the other checks go on without them.
    """
    found: list[Finding] = []
    for one in sets:
        try:
            view = SetView.of(one, library)
        except TexelError as error:
            found.append(Finding("unreadable", Severity.ERROR, one.name, str(error)))
            continue
        broken = check_readable(view)
        files = {finding.file for finding in broken}
        sound = SetView(one, library, {r: ref for r, ref in view.maps.items() if ref.file not in files})
        findings = broken + [f for check in CHECKS for f in check(sound)]
        findings = [f for f in findings if not (f.check == "missing_map" and f.role in view.maps)]
        implied = {check for f in findings for check in _IMPLIED.get(f.check, ())}
        findings = [f for f in findings if f.check not in implied]
        found += sorted(findings, key=lambda f: _ORDER[f.severity])
    return found


def check_undecided(undecided: Iterable[Undecided]) -> list[Finding]:
    """One finding a file that found no place: unreadable pictures are errors, the rest are notes."""
    found = []
    for one in undecided:
        broken = not one.candidates and one.why.startswith(one.file.rsplit("/", 1)[-1] + ":")
        check, severity = ("unreadable", Severity.ERROR) if broken else ("undecided", Severity.NOTE)
        found.append(Finding(check, severity, "", one.why, file=one.file))
    return found
