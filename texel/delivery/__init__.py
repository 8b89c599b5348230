"""Deliver sets for a target: plan, build, manifest, material, folder."""

from texel.delivery.folder import deliver_folder
from texel.delivery.plan import Plan, PlannedFile, plan_delivery
from texel.delivery.target import Output, Target, builtin_targets, parse_target, target_named

__all__ = [
    "Output",
    "Plan",
    "PlannedFile",
    "Target",
    "builtin_targets",
    "deliver_folder",
    "parse_target",
    "plan_delivery",
    "target_named",
]
