"""Checks of the set and its files: missing maps, sizes, colour tags, files that cannot be read."""

from __future__ import annotations

import numpy as np

from texel.checks.finding import Finding, SetView, Severity
from texel.checks.places import Place, whole
from texel.checks.remedy import derive
from texel.colour import decode_srgb, srgb_to_unit_linear
from texel.errors import TexelError
from texel.image import REC709, Texels, to_unit
from texel.licences import objection
from texel.messages import message_of
from texel.primaries import name_of
from texel.resize import nearest_power_of_two
from texel.roles import Role, Transfer, facts
from texel.sets import MapRef
from texel.strips import strips
from texel.threads import each

__all__ = [
    "check_largest", "check_licence", "check_missing", "check_primaries", "check_readable", "check_sizes", "check_tags",
]  # fmt: skip

# What every surface is expected to have; a target may ask for more.
_EXPECTED = (Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS)


def check_readable(view: SetView) -> list[Finding]:
    """unreadable: a map's file that cannot be read, or whose recipe cannot be applied."""
    findings = []
    for ref in view.maps.values():
        try:
            view.map(ref)
        except (TexelError, OSError) as error:
            findings.append(view.finding("unreadable", Severity.ERROR, ref, str(error)))
    return findings


def check_missing(view: SetView) -> list[Finding]:
    """missing_map: base colour, normal or roughness without a map. measure: maps; threshold: 1.

    Glossiness and specular say how rough a surface is in other terms. Where a file that may be the map lies undecided,
    the finding is a note that names it.
    """
    findings = []
    for role in _EXPECTED:
        if role in view.maps or (role is Role.ROUGHNESS and {Role.GLOSSINESS, Role.SPECULAR} & set(view.maps)):
            continue
        message, severity = message_of("missing_map", role=role), Severity.WARNING
        undecided = view.undecided_for(role)
        if undecided:
            message = message_of("missing_map_undecided", role=role, file=undecided)
            severity = Severity.NOTE
        remedy = derive(role, set(view.maps))
        findings.append(
            view.finding("missing_map", severity, None, message, role=role, measure=0, threshold=1, remedy=remedy)
        )
    return findings


def check_licence(view: SetView) -> list[Finding]:
    """licence_unknown, licence_refused, credit_missing: the set's licence by the project's rules; silent without any.

    What is measured here are words: there is no measure and no threshold.
    """
    objected = objection(view.set.licence, view.wanted.licences if view.wanted else None)
    return [view.finding(objected.check, Severity(objected.harm), None, objected.message)] if objected else []


def _power_of_two(side: int) -> bool:
    return side & (side - 1) == 0


def check_sizes(view: SetView) -> list[Finding]:
    """sizes_differ, not_power_of_two, not_multiple_of_four: one finding a map.

    Mip chains halve evenly only for powers of two; block formats code 4 x 4 texels (Khronos Data Format, S3TC).
    measure: the side in texels; threshold: the side it should have.
    """
    findings: list[Finding] = []
    sizes = [(ref, _size(view, ref)) for ref in view.maps.values()]
    largest = max((size for _, size in sizes), default=(1, 1))
    wanted = (nearest_power_of_two(largest[0]), nearest_power_of_two(largest[1]))
    for ref, (width, height) in sizes:
        if (width, height) != largest:
            message = message_of(
                "sizes_differ", width=width, height=height, wanted_width=largest[0], wanted_height=largest[1]
            )
            remedy = {"step": "resize", "width": wanted[0], "height": wanted[1]}
            place = Place(0, 0, width, height)
            more = {"measure": width, "threshold": largest[0], "remedy": remedy, "place": place}
            findings.append(view.finding("sizes_differ", Severity.WARNING, ref, message, **more))
        findings += _shape(view, ref, width, height)
    return findings


def _size(view: SetView, ref: MapRef) -> tuple[int, int]:
    texels = view.map(ref)
    return texels.width, texels.height


def _shape(view: SetView, ref: MapRef, width: int, height: int) -> list[Finding]:
    odd = next((side for side in (width, height) if side % 4), None)
    uneven = next((side for side in (width, height) if not _power_of_two(side)), None)
    if uneven is None:
        return []
    side = odd or uneven
    width_to, height_to = nearest_power_of_two(width), nearest_power_of_two(height)
    remedy = {"step": "resize", "width": width_to, "height": height_to}
    check = "not_power_of_two" if odd is None else "not_multiple_of_four"
    message = message_of(check, width=width, height=height, wanted_width=width_to, wanted_height=height_to)
    return [
        view.finding(
            check, Severity.WARNING, ref, message,
            measure=side, threshold=nearest_power_of_two(side), remedy=remedy, place=Place(0, 0, width, height),
        )
    ]  # fmt: skip


def check_largest(view: SetView) -> list[Finding]:
    """larger_than_target: a map's longest side, texels, against the most that the target takes. Deliveries are made
    smaller anyway; the remedy does it here, where it can be seen. Nothing is said without a target."""
    if view.wanted is None:
        return []
    findings = []
    for role, ref in view.maps.items():
        most = view.wanted.largest.get(role)
        width, height = _size(view, ref)
        if most is None or max(width, height) <= most:
            continue
        share = most / max(width, height)
        remedy = {"step": "resize", "width": max(1, round(width * share)), "height": max(1, round(height * share))}
        message = message_of("larger_than_target", width=width, height=height, target=view.wanted.target, most=most)
        findings.append(
            view.finding(
                "larger_than_target", Severity.NOTE, ref, message, measure=max(width, height), threshold=most,
                remedy=remedy, place=Place(0, 0, width, height),
            )
        )  # fmt: skip
    return findings


_SRGB_AT_HALF = float(decode_srgb(np.array(0.5)))


def _misread(texels: Texels, says: str) -> float | None:
    """Mean absolute error of the values, 0 to 1, when a reader obeys the tag instead of the role."""
    if says == "other":
        return None
    sums = each(
        lambda rows: float(
            np.abs(to_unit(texels.pixels[rows]) - srgb_to_unit_linear(texels.pixels[rows])).sum(dtype=np.float64)
        ),
        strips(texels.height, texels.pixels[0].size),
    )
    return sum(sums) / texels.pixels.size


def check_tags(view: SetView) -> list[Finding]:
    """tag_against_role: what the file says about its colours (PNG chunks, ICC profile) against what the role needs.

    Readers that obey the tag would decode data as colour, or leave colour undecoded; deliveries write the right one.
    measure: mean error of the values, 0 to 1, for such a reader, None for a profile that is neither; threshold: 0.
    """
    findings = []
    for ref in view.maps.values():
        texels = view.map(ref)
        says = texels.tags.declared_transfer
        wants = facts(ref.role).transfer
        if says is None or says == wants.value:
            continue
        message = message_of("tag_on_colour", tagged=says, role=ref.role)
        if wants is Transfer.LINEAR:
            message = message_of("tag_on_data", tagged=says, role=ref.role, half=_SRGB_AT_HALF)
        findings.append(
            view.finding(
                "tag_against_role", Severity.WARNING, ref, message,
                measure=_misread(view.sample(ref), says), threshold=0.0, remedy={"step": "ignore_tag"},
                place=whole(texels),
            )
        )  # fmt: skip
    return findings


def check_primaries(view: SetView) -> list[Finding]:
    """primaries_against_role: a colour map whose file names other primaries than sRGB's (cICP, ICC, chromaticities).

    Engines take base colour for BT.709, the primaries of sRGB and glTF 2.0; others come out paler or more garish.
    measure: the largest distance of a chromaticity in x or y; threshold: 0.0015, which is rounding.
    """
    findings = []
    for ref in view.maps.values():
        texels = view.map(ref)
        told = texels.tags.primaries
        if facts(ref.role).transfer is not Transfer.SRGB or told is None:
            continue
        distance = max(abs(a - b) for a, b in zip(told, REC709, strict=True))
        if distance < 0.0015:
            continue
        name = name_of(told)
        remedy = {"step": "to_srgb_primaries", "source": name or "file"}
        message = message_of("primaries_against_role")
        findings.append(
            view.finding(
                "primaries_against_role", Severity.WARNING, ref, message, measure=distance, threshold=0.0015,
                remedy=remedy, place=whole(texels),
            )
        )  # fmt: skip
    return findings
