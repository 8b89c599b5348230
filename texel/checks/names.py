"""The check of file names by the house's rules."""

from __future__ import annotations

from texel.checks.finding import Finding, SetView, Severity
from texel.messages import message_of
from texel.naming.judging import Named, judge_names
from texel.roles import Role
from texel.sets import MapRef

__all__ = ["check_names"]

_CHANNELS = "rgba"


def _roles(refs: list[MapRef]) -> tuple[Role, ...]:
    """What a file is for: its own role, or those of its channels in order."""
    whole = [ref for ref in refs if ref.channel is None]
    if whole:
        return (whole[0].role,)
    return tuple(ref.role for ref in sorted(refs, key=lambda ref: _CHANNELS.index(ref.channel or "r")))


def check_names(view: SetView) -> list[Finding]:
    """name_against_rules: a file's name against the house's rules; measure: how much is wrong with it; threshold: 0.

    One finding a file. Other tools pick maps up by suffix: a wrong one is a lost map. Nothing is said without rules.
    """
    if view.wanted is None or view.wanted.names is None:
        return []
    by_file: dict[str, list[MapRef]] = {}
    for ref in view.set.maps:
        by_file.setdefault(ref.file, []).append(ref)
    named = [Named(file, _roles(refs), view.name) for file, refs in by_file.items()]
    findings = []
    for verdict, refs in zip(judge_names(named, view.wanted.names), by_file.values(), strict=True):
        if not verdict.fine:
            message = message_of("name_against_rules", path=verdict.path, problems="; ".join(verdict.problems))
            if verdict.right and verdict.right != verdict.path:
                message = message_of("name_against_rules_right", **message.values, right=verdict.right)
            more = {"measure": len(verdict.problems), "threshold": 0}
            findings.append(view.finding("name_against_rules", Severity.WARNING, refs[0], message, **more))
    return findings
