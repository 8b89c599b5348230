"""A finding: something a check measured, with its threshold, its place and, where there is one, its remedy."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import numpy as np

from texel.checks.places import Place, marks_of, strongest
from texel.checks.remedy import labelled
from texel.image import Texels
from texel.kept import Kept
from texel.library import Library
from texel.licences import LicenceRules
from texel.messages import Message
from texel.naming.rules import Rules
from texel.roles import Green, Role
from texel.sets import MapRef, TextureSet

__all__ = ["SAMPLE_SIDE", "Finding", "SetView", "Severity", "Wanted", "refusal_by_findings"]

SAMPLE_SIDE = 1024
# Maps of a set with steps applied that are held at once, beside what the library holds.
_MADE_BYTES = 64 * 1024 * 1024


class Severity(StrEnum):
    """error: the delivered set would be wrong. warning: likely wrong or costly. note: good to know."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


_HARM = {Severity.NOTE: 0, Severity.WARNING: 1, Severity.ERROR: 2}


def refusal_by_findings(found: Iterable[tuple[Severity, str]], least: Severity) -> str:
    """Why a set is kept out of a delivery by what was found about it: severities and messages. "" where it is not.

    >>> refusal_by_findings([(Severity.NOTE, "plain"), (Severity.ERROR, "no normal map")], Severity.WARNING)
    'the target refuses sets with errors and warnings: no normal map'
    """
    told = [message for severity, message in found if _HARM[severity] >= _HARM[least]]
    if not told:
        return ""
    words = "errors" if least is Severity.ERROR else "errors and warnings"
    more = f" (and {len(told) - 1} more)" if len(told) > 1 else ""
    return f"the target refuses sets with {words}: {told[0]}{more}"


@dataclass(frozen=True)
class Finding:
    """measure and threshold: numbers in the unit that message names; None where nothing was measured.

    remedy: a recipe step that mends it when applied to the map, or an action on the set (see texel.checks.remedy).
    message: in English; from texel.messages it carries its key and values. marks: how much is wrong where, as
    texel.checks.places.marks_of gives it. output: of a finding about a file to be
    delivered, the digest of all that goes into it.
    """

    check: str
    severity: Severity
    set: str
    message: str
    role: Role | None = None
    file: str | None = None
    measure: float | None = None
    threshold: float | None = None
    remedy: dict[str, Any] | None = None
    place: Place | None = None
    marks: str | None = None
    output: str | None = None

    def document(self) -> dict[str, Any]:
        remedy = None if self.remedy is None else labelled(self.remedy)
        return {
            "check": self.check,
            "severity": self.severity.value,
            "set": self.set,
            "role": self.role.value if self.role else None,
            "file": self.file,
            "measure": None if self.measure is None else round(float(self.measure), 6),
            "threshold": self.threshold,
            "message": str(self.message),
            "said": self.message.document() if isinstance(self.message, Message) else None,
            "remedy": remedy,
            "place": vars(self.place) if self.place else None,
            "marks": self.marks,
            "output": self.output,
        }


@dataclass(frozen=True)
class Wanted:
    """What a target and the house's rules ask of maps.

    largest: texels of the longest side, by role; a role without one has no limit. names, licences: the rules for file
    names and for licences, None where there are none. green: where green points in the target's normal maps; glTF's Y+
    without a target. undecided: files that found no place, by the name of the set that they may belong to, each with
    the roles that it may hold.
    """

    target: str = ""
    largest: Mapping[Role, int] = field(default_factory=dict)
    names: Rules | None = None
    licences: LicenceRules | None = None
    green: Green = Green.UP
    undecided: Mapping[str, tuple[tuple[str, frozenset[Role]], ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class SetView:
    """A set as checks see it: its maps in use, decoded when asked for, recipes applied; and what its target asks."""

    set: TextureSet
    library: Library
    maps: Mapping[Role, MapRef] = field(default_factory=dict)
    wanted: Wanted | None = None
    _made: Kept = field(default_factory=lambda: Kept(_MADE_BYTES), compare=False, repr=False)

    @classmethod
    def of(cls, one: TextureSet, library: Library, wanted: Wanted | None = None) -> SetView:
        """Raises BadDocument when recipes read each other."""
        return cls(one, library, one.in_use(), wanted)

    def map(self, ref: MapRef) -> Texels:
        """A map in use of this set with its recipe applied, made once. Raises TexelError."""
        if not ref.recipe and ref.channel is None:
            return self.library.map(ref)
        return self._made.get(ref.role) or self._made.put(ref.role, self.library.map(ref))

    def sample(self, ref: MapRef) -> Texels:
        """Every n-th texel of a map, at most 1024 a side, none of them mixed: enough for shares and means."""
        texels = self.map(ref)
        step = -(-max(texels.width, texels.height) // SAMPLE_SIDE)
        return texels.with_pixels(np.ascontiguousarray(texels.pixels[::step, ::step])) if step > 1 else texels

    def undecided_for(self, role: Role) -> str | None:
        """The name of a file that may hold ``role`` in this set and lies undecided."""
        waiting = self.wanted.undecided.get(self.name, ()) if self.wanted else ()
        # Gloss is roughness in other terms.
        wanted = {role, Role.GLOSSINESS} if role is Role.ROUGHNESS else {role}
        return next((file.rsplit("/", 1)[-1] for file, roles in waiting if wanted & roles), None)

    @property
    def name(self) -> str:
        return self.set.name

    def finding(self, check: str, severity: Severity, ref: MapRef | None, message: str, **more: Any) -> Finding:
        """A finding about one map of this set (or, with None, about the set).

        field: how much is wrong where in the map, shape (h, w) at any size; it gives the place and the marks. letter:
        the channel to look at there.
        """
        field, letter = more.pop("field", None), more.pop("letter", None)
        if field is not None and ref is not None:
            more = {"place": strongest(field, self.map(ref), letter), "marks": marks_of(field), **more}
        role, file = (ref.role, ref.file) if ref else (None, None)
        return Finding(check, severity, self.name, message, more.pop("role", role), file, **more)
