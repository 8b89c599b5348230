"""Texts that carry what they were made of: an English sentence with gaps, and what fills them.

A script reads the values by name instead of from the sentence, and the sentence can be said in another language.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import Enum
from string import Formatter
from typing import Any, TypedDict

__all__ = [
    "Message", "MessageDocument", "Reasons", "Value", "because", "filled", "message", "plain_value", "reason_fields",
    "said_of",
]  # fmt: skip

# What JSON can hold: numbers as they were measured, names of members of enumerations.
Value = str | int | float | list[str]


class MessageDocument(TypedDict):
    """What of a message a script reads."""

    key: str
    values: dict[str, Value]


class Message(str):
    """The English text. key: what names it in every language. values: what its gaps were filled with, by name."""

    key: str
    values: Mapping[str, Value]

    def document(self) -> MessageDocument:
        return {"key": self.key, "values": dict(self.values)}

    @classmethod
    def of(cls, text: str, document: MessageDocument) -> Message:
        """The message whose document this is."""
        return message(document["key"], text, document["values"])


class Reasons(str):
    """A text that was put together from several messages. said: their keys and values, in order."""

    said: tuple[MessageDocument, ...]

    @classmethod
    def of(cls, text: str, said: Iterable[MessageDocument]) -> Reasons:
        made = cls(text)
        made.said = tuple(said)
        return made


def because(*texts: str, between: str = "; ") -> Reasons:
    """One text of several, which still knows the key and the values of each. Empty ones are left out.

    >>> told = because(filled("{count} files", count=2), filled("all grey"), between=", ")
    >>> told, [one["key"] for one in told.said]
    ('2 files, all grey', ['{count} files', 'all grey'])
    """
    return Reasons.of(between.join(text for text in texts if text), [one for text in texts for one in said_of(text)])


def said_of(text: str) -> list[MessageDocument]:
    """Keys and values of the messages in a text; none for one that a person wrote."""
    if isinstance(text, Reasons):
        return list(text.said)
    return [text.document()] if isinstance(text, Message) else []


def reason_fields(text: str, most: int | None = None) -> dict[str, Any]:
    """A reason as documents hold it: "why" is the English text, cut to ``most`` letters, "said" its keys and values.

    >>> reason_fields(filled("{count} files", count=2))
    {'why': '2 files', 'said': [{'key': '{count} files', 'values': {'count': 2}}]}
    """
    return {"why": str.__str__(text)[:most], "said": said_of(text)}


def filled(sentence: str, /, **values: object) -> Message:
    """A sentence with its gaps filled, by Python's format specifications. Its key is the sentence itself.

    Raises KeyError for a gap without a value.

    >>> said = filled("{file} has {count} layers", file="deck.tif", count=3)
    >>> said, said.key, said.values["count"]
    ('deck.tif has 3 layers', '{file} has {count} layers', 3)
    """
    return message(sentence, Formatter().vformat(sentence, (), values), values)


def message(key: str, text: str, values: Mapping[str, object]) -> Message:
    """A text that is filled already, with its key and what filled it."""
    made = Message(text)
    made.key, made.values = key, {name: plain_value(value) for name, value in values.items()}
    return made


def plain_value(value: object) -> Value:
    """A value as JSON knows it: numbers rounded to 6 digits, everything else as text.

    >>> plain_value(1 / 3), plain_value(["a", 2]), plain_value(None)
    (0.333333, ['a', '2'], 'None')
    """
    if isinstance(value, list | tuple):
        return [str(one) for one in value]
    if isinstance(value, str):
        return str(value.value) if isinstance(value, Enum) else str.__str__(value)
    if isinstance(value, int):
        return int(value)
    try:
        return round(float(value), 6)  # type: ignore[arg-type]  # NumPy's numbers are floats too
    except (TypeError, ValueError):
        return str(value)
