"""Why a set that has to be approved is not, in words that a delivery of the studio and a build both write down."""

from __future__ import annotations

__all__ = ["unapproved_words"]

_WORDS = {"changed": "it was changed after it was looked at", "sent_back": "it was sent back"}
_OTHERWISE = "it is not approved, and the house rules ask for approval"


def unapproved_words(state: str) -> str:
    """state: the last step of its review, "" without one.

    >>> unapproved_words("sent_back"), unapproved_words("approved")
    ('it was sent back', '')
    """
    return "" if state == "approved" else _WORDS.get(state, _OTHERWISE)
