"""What differs between a project's text and the studio, and on which side it changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from texel.documents import Difference, differences
from texel.project.kinds import Texts, text_digest

__all__ = ["Compared", "State", "compare"]


class State(StrEnum):
    """On which side something changed since both were the same."""

    HERE = "changed here"
    STUDIO = "changed in the studio"
    CONFLICT = "changed on both sides"


@dataclass(frozen=True)
class Compared:
    """Something that is not the same on both sides. differences: from the studio's to the text's; what is missing on
    one side has none. here, studio: whether it is there."""

    key: str
    state: State
    here: bool
    studio: bool
    differences: tuple[Difference, ...]


def compare(exported: Mapping[str, str], here: Texts, studio: Texts) -> list[Compared]:
    """Everything that differs, by key. exported: digests by key from when both sides were the same last; what both
    sides changed alike is no difference.

    >>> known = {"sets/deck": text_digest({"name": "deck"})}
    >>> told = compare(known, {"sets/deck": {"name": "deck", "metres": 2.0}}, {"sets/deck": {"name": "deck"}})
    >>> [(one.key, one.state.value) for one in told]
    [('sets/deck', 'changed here')]
    """
    found = []
    for key in sorted({*here, *studio}):
        mine, theirs = here.get(key), studio.get(key)
        ours = text_digest(mine) if mine is not None else None
        other = text_digest(theirs) if theirs is not None else None
        if ours == other:
            continue
        before = exported.get(key)
        state = State.STUDIO if ours == before else State.HERE if other == before else State.CONFLICT
        told = differences(_said(theirs), _said(mine)) if mine is not None and theirs is not None else []
        found.append(Compared(key, state, mine is not None, theirs is not None, tuple(told)))
    return found


def _said(document: Mapping[str, object]) -> dict[str, object]:
    return {key: value for key, value in document.items() if key != "told"}
