"""Checks of what a target would make of sets: each encoding against the project's formats."""

from __future__ import annotations

from texel.checks import Finding, Severity
from texel.compression import FormatTable, cautions
from texel.delivery.advice import role_of, subject_of
from texel.delivery.plan import Plan, PlannedFile
from texel.library import Library
from texel.measures import Kind, kind_of
from texel.messages import message_of
from texel.roles import Transfer

__all__ = ["check_encodings"]

# What makes the picture wrong; the rest costs memory or quality.
_ERRORS = ("srgb_data", "linear_colour")


def check_encodings(plan: Plan, library: Library, table: FormatTable) -> list[Finding]:
    """What is wrong with the encodings that a plan asks for, one finding a caution; file: the delivered path.

    measure: the measured cost of ignoring it, in the unit that the message names; threshold: 0. Raises TexelError.
    """
    findings = []
    for planned in plan.files:
        if planned.kind != "map" or not _may_err(planned):
            continue
        subject = subject_of(planned, library)
        for one in cautions(subject, planned.encoding.format, table, planned.colour_space):
            severity = Severity.ERROR if one.caution in _ERRORS else Severity.WARNING
            message = message_of(
                "output_caution",
                **one.message.values,
                output=planned.output,
                caution=one.message,
                cost=one.cost,
                unit=one.unit,
            )
            findings.append(
                Finding(
                    one.caution, severity, planned.set, message, subject.texels.role, planned.path, one.cost, 0.0,
                    output=planned.digest(),
                )
            )  # fmt: skip
    return findings


def _may_err(planned: PlannedFile) -> bool:
    """Whether its pixels need to be looked at: a plain picture in its right colour space cannot be wrong."""
    colour = kind_of(role_of(planned)) is Kind.COLOUR
    return planned.encoding.format is not None or colour is not (planned.colour_space is Transfer.SRGB)
