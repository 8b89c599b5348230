"""Errors whose message a person can act on. Every one of the core is a TexelError."""

from __future__ import annotations

from typing import Any, Self

from texel.wording import Message, filled

__all__ = [
    "BadDocument",
    "BadExpression",
    "ChangedWhileRead",
    "DeliveryRefused",
    "MismatchedMaps",
    "PlaceBusy",
    "TexelError",
    "ToldError",
    "TooLarge",
    "UnreadableImage",
    "Unwritable",
]


class ToldError(Exception):
    """An error whose message is made for people, and carries its key and its values (texel.wording).

    >>> ToldError("{file} has no layer {layer}", file="deck.tif", layer=3).message.values["layer"]
    3
    """

    def __init__(self, sentence: str, /, **values: object):
        self.message = filled(sentence, **values)
        super().__init__(str(self.message))

    @classmethod
    def of(cls, message: Message) -> Self:
        """An error with a message that is filled already."""
        made = cls.__new__(cls, str(message))
        made.message = message
        return made

    def __reduce__(self) -> tuple[Any, ...]:
        # Sentences were filled already.
        return _again, (type(self), self.args, self.__dict__)


def _again(kind: type[ToldError], args: tuple[Any, ...], state: dict[str, Any]) -> ToldError:
    made = kind.__new__(kind, *args)
    made.__dict__.update(state)
    return made


class TexelError(ToldError):
    """Something a person has to decide or mend; the message says what and how."""


class UnreadableImage(TexelError):
    """A file that is not, or not wholly, a picture that can be read."""

    def __init__(self, name: str, reason: str, /, **values: object):
        self.name, self.reason = name, filled(reason, **values)
        super().__init__("{file}: " + reason, file=name, **values)


class TooLarge(UnreadableImage):
    """A picture whose header asks for more than the limits allow; it was not decoded."""


class ChangedWhileRead(UnreadableImage):
    """A file that grew, shrank or was rewritten while it was being read."""

    def __init__(self, name: str):
        super().__init__(name, "the file changed while it was read; wait until it is complete and try again")


class Unwritable(TexelError):
    """Pixels that the asked container cannot hold without losing something."""


class MismatchedMaps(TexelError):
    """Maps that cannot be combined as they are, for instance because their sizes differ."""


class BadDocument(TexelError):
    """A layout, target, recipe or set document that does not follow its schema."""


class BadExpression(BadDocument):
    """An expression that cannot be read. start, end: the characters that are wrong, from 0; row: of a sheet."""

    def __init__(self, sentence: str, start: int, end: int, row: str = "", /, **values: object):
        if row:
            super().__init__("row {row}: " + sentence, row=row, **values)
        else:
            super().__init__(sentence, **values)
        self.start, self.end, self.row = start, end, row
        self.problem = filled(sentence, **values)

    def of_row(self, row: str) -> BadExpression:
        """The same, of a row of a sheet. Its place in the expression stays."""
        return BadExpression(self.problem.key, self.start, self.end, row, **self.problem.values)

    def at(self, start: int, end: int) -> BadExpression:
        """The same at another place."""
        return BadExpression(self.problem.key, start, end, self.row, **self.problem.values)


class DeliveryRefused(TexelError):
    """A delivery that would overwrite or mix up something."""


class PlaceBusy(DeliveryRefused):
    """Another delivery is being written to the same place."""
