"""What a good reviewer would notice, found by measurement: each check is a function of a set, findings out."""

from texel.checks.finding import Finding, Severity
from texel.checks.run import CHECKS, check_sets, check_undecided

__all__ = ["CHECKS", "Finding", "Severity", "check_sets", "check_undecided"]
