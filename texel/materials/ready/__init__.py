"""Ready-made masters: what sheets of common practice are begun from, one document a file."""

from __future__ import annotations

import copy

from texel.document_types import MasterDocument
from texel.errors import BadDocument
from texel.schemas import packaged_documents

__all__ = ["PLAINEST", "ready_master", "ready_masters"]

# What a new master is where nobody says otherwise; it stands first.
PLAINEST = "solid-packed"


def ready_masters() -> dict[str, MasterDocument]:
    """All of them by name, the plainest first, then in order of their titles.

    >>> ready_masters()["glass"]["title"]
    'Glass'
    """
    found: dict[str, MasterDocument] = packaged_documents("texel.materials", "ready")
    return dict(sorted(found.items(), key=lambda item: (item[0] != PLAINEST, item[1]["title"])))


def ready_master(name: str) -> MasterDocument:
    """One of them, to be changed. Raises BadDocument for a name that there is not."""
    known = ready_masters()
    if name not in known:
        raise BadDocument(
            "there is no ready-made master {name}; there are {listed}", name=name, listed=", ".join(known)
        )
    return copy.deepcopy(known[name])
