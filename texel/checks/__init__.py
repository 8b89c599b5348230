"""What a good reviewer would notice, found by measurement: each check is a function of a set, findings out."""

from texel.checks.finding import Finding, Severity, Wanted
from texel.checks.run import CHECKS, Judged, check_sets, check_undecided, in_order, judge_set, undecided_by_set
from texel.checks.twins import TONE_APART, Signed, tone_of, twin_finding, twins_across

__all__ = [
    "CHECKS", "TONE_APART", "Finding", "Judged", "Severity", "Signed", "Wanted", "check_sets", "check_undecided",
    "in_order", "judge_set", "tone_of", "twin_finding", "twins_across", "undecided_by_set",
]  # fmt: skip
