"""Errors whose message a person can act on. Every one of them is a TexelError."""

from __future__ import annotations

__all__ = [
    "BadDocument",
    "BadExpression",
    "ChangedWhileRead",
    "DeliveryRefused",
    "MismatchedMaps",
    "PlaceBusy",
    "TexelError",
    "TooLarge",
    "UnreadableImage",
    "Unwritable",
]


class TexelError(Exception):
    """Something a person has to decide or mend; the message says what and how."""


class UnreadableImage(TexelError):
    """A file that is not, or not wholly, a picture that can be read."""

    def __init__(self, name: str, reason: str):
        self.name, self.reason = name, reason
        super().__init__(f"{name}: {reason}")


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

    def __init__(self, message: str, start: int, end: int, row: str = ""):
        super().__init__(f"row {row}: {message}" if row else message)
        self.message, self.start, self.end, self.row = message, start, end, row


class DeliveryRefused(TexelError):
    """A delivery that would overwrite or mix up something."""


class PlaceBusy(DeliveryRefused):
    """Another delivery is being written to the same place."""
