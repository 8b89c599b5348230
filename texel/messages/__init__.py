"""Messages of the core: one English text for each key, in en.json, filled with the values that were measured.

A message is its English text, and carries the key and the values by name beside it: a script reads the numbers from
there instead of from the sentence, and the sentence can be said in another language.
"""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources
from string import Formatter
from typing import Any

from texel.roles import Green, Role, facts
from texel.wording import Message, Value, message, plain_value

__all__ = ["Message", "Value", "english_texts", "message_of"]


class _Gaps(Formatter):
    """Python's format specifications, and some of our own: role and Role (a role's name within a sentence and at its
    start), roles (several), green (a direction in words), letters and and (lists), meaning (what files are), look (what
    a channel looks like), file and files (what one and what several files look like)."""

    def format_field(self, value: Any, format_spec: str) -> str:
        if format_spec in ("look", "file", "files"):
            return english_texts()[f"{format_spec}_{value}"]
        if format_spec == "meaning":
            return _meaning(value)
        if format_spec in ("role", "Role"):
            label = facts(Role(value)).label
            return label if format_spec == "Role" else label.lower()
        if format_spec == "green":
            return Green(value).words
        if format_spec == "roles":
            return ", ".join(facts(Role(one)).label.lower() for one in value)
        if format_spec == "letters":
            return ", ".join(value)
        if format_spec == "and":
            return " and the ".join(value)
        return str(super().format_field(value, format_spec))


def _meaning(value: str | list[str]) -> str:
    """A role, "none", "pack" for a layout that nobody knows, or the channels of a pack as "r occlusion"."""
    if isinstance(value, str):
        return english_texts()[f"meaning_{value}"] if value in ("none", "pack") else facts(Role(value)).label.lower()
    parted = (one.partition(" ") for one in value)
    return ", ".join(f"{letter.upper()} {facts(Role(role)).label.lower()}" for letter, _, role in parted)


@lru_cache
def english_texts() -> dict[str, str]:
    """All texts by key."""
    texts: dict[str, str] = json.loads(resources.files("texel").joinpath("messages/en.json").read_text("utf-8"))
    return texts


def message_of(key: str, **values: Value) -> Message:
    """The message of a key with its gaps filled. Raises KeyError for an unknown key or a gap without a value.

    >>> said = message_of("unused_height_range", span=0.125, low=0.25, high=0.375)
    >>> said
    'Height uses 12% of its range, from 0.250 to 0.375.'
    >>> said.key, said.values["low"]
    ('unused_height_range', 0.25)
    """
    # NumPy's numbers and the members of enumerations become what JSON knows.
    plain = {name: plain_value(value) for name, value in values.items()}
    return message(key, _Gaps().vformat(english_texts()[key], (), plain), plain)
