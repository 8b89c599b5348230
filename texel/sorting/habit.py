"""A folder's habit: which suffix means which role. Found by sorting, taught by people; an open document ("habit")."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from texel.errors import BadDocument
from texel.messages import message_of
from texel.naming.tokens import Pack
from texel.roles import Role
from texel.schemas import check_document
from texel.sorting.splitting import Affix
from texel.wording import Reasons, reason_fields

__all__ = ["SURE", "Habit", "HabitLine", "Meant", "habit_document", "line_of", "meaning_value", "parse_habit"]

# From here on a guess is called sure; below it is shown as a guess, to be confirmed.
SURE = 0.85
# A role; a layout of channels; () for a pack that nobody can read; None for what is no map.
Meant = Role | Pack | None


@dataclass(frozen=True)
class HabitLine:
    """What one affix means for all files that have it.

    affix: see texel.sorting.splitting. folder: the folder, and those below it, for which the line holds; "" for all.
    meant: see Meant. written: the affix as most files write it. files: how many have it. confidence: 0 to 1. why: the
    reasons in words. taught: a person said so; such a line is not judged again. decided: whether files were placed by
    it. examples: up to three files.
    """

    affix: Affix
    meant: Meant
    folder: str = ""
    written: str = ""
    files: int = 0
    confidence: float = 1.0
    why: str = ""
    taught: bool = False
    decided: bool = True
    examples: tuple[str, ...] = ()

    @property
    def roles(self) -> tuple[Role, ...]:
        if isinstance(self.meant, Role):
            return (self.meant,)
        return tuple(role for _, role in self.meant or ())

    @property
    def sure(self) -> bool:
        return self.decided and self.confidence >= SURE

    @property
    def meaning_in_words(self) -> str:
        """The meaning as a person reads it, such as "normal" or "R occlusion, G roughness"."""
        return str.__str__(message_of("meaning", meaning=meaning_value(self.meant)))

    def joined(self, other: HabitLine) -> HabitLine:
        """One line for the same affix and meaning in two folders: files added up, the lesser confidence."""
        surer = self if self.files >= other.files else other
        return replace(
            surer, files=self.files + other.files, confidence=min(self.confidence, other.confidence),
            taught=self.taught and other.taught, decided=self.decided and other.decided,
        )  # fmt: skip

    def document(self) -> dict[str, Any]:
        written: dict[str, Any] = {"suffix": self.affix.word, "where": self.affix.where, "role": _role_word(self.meant)}
        if isinstance(self.meant, tuple) and self.meant:
            written["channels"] = {letter or "rgb": role.value for letter, role in self.meant}
        return written | {
            "folder": self.folder, "written": self.written, "files": self.files,
            "confidence": round(self.confidence, 3), **reason_fields(self.why), "taught": self.taught,
            "decided": self.decided, "examples": list(self.examples),
        }  # fmt: skip


@dataclass(frozen=True)
class Habit:
    """The lines of one folder, or of one project."""

    lines: tuple[HabitLine, ...] = field(default_factory=tuple)

    def taught(self) -> Habit:
        """Only what a person said."""
        return Habit(tuple(line for line in self.lines if line.taught))

    def line_for(self, affix: Affix, file: str) -> HabitLine | None:
        """The line that holds for a file: of those for its affix the one with the longest folder above the file."""
        fitting = [
            line
            for line in self.lines
            if line.affix == affix and (not line.folder or file.startswith(line.folder + "/"))
        ]
        return max(fitting, key=lambda line: len(line.folder), default=None)


def meaning_value(meant: Meant) -> str | list[str]:
    """A meaning as messages hold it.

    >>> meaning_value(None), meaning_value(()), meaning_value((("r", Role.OCCLUSION), ("", Role.NORMAL)))
    ('none', 'pack', ['r occlusion', 'rgb normal'])
    """
    if isinstance(meant, tuple) and meant:
        return [f"{letter or 'rgb'} {role.value}" for letter, role in meant]
    return _role_word(meant)


def _why(entry: dict[str, Any]) -> str:
    return Reasons.of(entry.get("why", ""), entry.get("said", ()))


def _role_word(meant: Meant) -> str:
    return "none" if meant is None else meant.value if isinstance(meant, Role) else "pack"


def habit_document(lines: Iterable[HabitLine]) -> dict[str, Any]:
    """The document that parse_habit reads."""
    return {"format": "fair-texel/habit", "version": 1, "lines": [line.document() for line in lines]}


def parse_habit(document: Any, where: str = "the habit") -> Habit:
    """A habit from its JSON document. Every decided line counts as taught: whoever hands it over stands behind it.

    Raises BadDocument.

    >>> line = {"suffix": "nm", "role": "normal"}
    >>> parse_habit({"format": "fair-texel/habit", "version": 1, "lines": [line]}).lines[0].meaning_in_words
    'normal'
    """
    check_document(document, "habit", where)
    lines = []
    seen: set[tuple[str, str, str]] = set()
    for entry in document["lines"]:
        if not entry.get("decided", True):
            continue
        key = (entry["suffix"].lower(), entry.get("where", "end"), entry.get("folder", ""))
        if key in seen:
            raise BadDocument("{where}: two lines say what {what} means", where=where, what=key[0] or "a bare name")
        seen.add(key)
        lines.append(
            HabitLine(
                Affix(key[0], key[1]), _meant(entry, where), key[2], entry.get("written", ""), entry.get("files", 0),
                1.0, _why(entry) or message_of("why_taught"), True, True,
                tuple(entry.get("examples", ())),
            )
        )  # fmt: skip
    return Habit(tuple(lines))


def line_of(entry: dict[str, Any]) -> HabitLine:
    """A line as HabitLine.document wrote it, nothing taken for taught that was not."""
    channels = entry.get("channels", {})
    meant: Meant = tuple(("" if letter == "rgb" else letter, Role(role)) for letter, role in channels.items())
    if entry["role"] != "pack":
        meant = None if entry["role"] == "none" else Role(entry["role"])
    return HabitLine(
        Affix(entry["suffix"], entry["where"]), meant, entry["folder"], entry["written"], entry["files"],
        entry["confidence"], _why(entry), entry["taught"], entry["decided"], tuple(entry["examples"]),
    )  # fmt: skip


def _meant(entry: dict[str, Any], where: str) -> Meant:
    word = entry["role"]
    channels = entry.get("channels", {})
    if word == "pack":
        if not channels:
            raise BadDocument(
                "{where}: {suffix} is a pack, but no channel says what it holds", where=where, suffix=entry["suffix"]
            )
        if len(set(channels.values())) != len(channels):
            raise BadDocument(
                "{where}: two channels of {suffix} hold the same role", where=where, suffix=entry["suffix"]
            )
        return tuple(("" if letter == "rgb" else letter, Role(role)) for letter, role in channels.items())
    if channels:
        raise BadDocument("{where}: {suffix} has channels, but is no pack", where=where, suffix=entry["suffix"])
    return None if word == "none" else Role(word)
