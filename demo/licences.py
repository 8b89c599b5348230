"""Licences of the demo: what its projects take, and under which terms its sets came. All of it is invented."""

from __future__ import annotations

from texel.document_types import LicencesDocument

__all__ = ["LICENCES", "OTHERS", "RULES"]

RULES: LicencesDocument = {
    "format": "fair-texel/licences", "version": 1, "title": "What our games take", "unknown": "warning",
    "terms": [
        {"licence": "LicenseRef-own-work", "use": "free", "why": "Made in the house."},
        {"licence": "CC0-1.0", "use": "free"},
        {"licence": "CC-BY-4.0", "use": "credit"},
        {"licence": "LicenseRef-print-only", "use": "refused", "why": "Bought for a poster, not for a game."},
    ],
}  # fmt: skip
# By set: licence and who is to be named. OTHERS: of every other set.
LICENCES: dict[str, tuple[str, str]] = {
    "oyster_shell_gravel": ("CC0-1.0", ""),
    "reed_bed": ("CC-BY-4.0", "Reeds by Imke of the salt marsh"),
    "lichen bark": ("CC-BY-4.0", "Bark by the Night Orchard walkers"),
    "LanternGlass": ("LicenseRef-print-only", ""),
}
OTHERS = ("LicenseRef-own-work", "")
