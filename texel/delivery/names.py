"""Names of what every delivery has beside the files of its sets; texel.delivery.report writes them."""

from __future__ import annotations

__all__ = ["MANIFEST", "RESERVED"]

MANIFEST = "manifest.json"
RESERVED = (MANIFEST, "checksums.b3", "report.json", "report.html")
