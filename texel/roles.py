"""What a map is for (its role), and what follows from it: colour space and neutral value."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from texel.errors import BadDocument

__all__ = ["ROLES", "Green", "Role", "RoleFacts", "Transfer", "facts", "role_named"]


class Transfer(StrEnum):
    """How stored numbers relate to light: sRGB-encoded, or proportional (also: plain data)."""

    SRGB = "srgb"
    LINEAR = "linear"


class Green(StrEnum):
    """Where a normal map's green channel points: up the picture (Y+) or down (Y-)."""

    UP = "up"
    DOWN = "down"
    UNKNOWN = "unknown"

    @property
    def words(self) -> str:
        return {"up": "Y+", "down": "Y-"}.get(self.value, "unknown")


class Role(StrEnum):
    BASE_COLOR = "base_color"
    NORMAL = "normal"
    ROUGHNESS = "roughness"
    METALLIC = "metallic"
    OCCLUSION = "occlusion"
    HEIGHT = "height"
    EMISSIVE = "emissive"
    OPACITY = "opacity"
    GLOSSINESS = "glossiness"
    SPECULAR = "specular"
    DETAIL_MASK = "detail_mask"


@dataclass(frozen=True)
class RoleFacts:
    """Facts about one role.

    transfer: colour pictures are sRGB-encoded, everything else is data (glTF 2.0, 3.9.2; common practice).
    channels: 3 for a picture in colour or a normal, 1 for a scalar.
    neutral: the value, 0 to 1, that stands in for a missing map of a scalar role without showing.
    """

    label: str
    transfer: Transfer
    channels: int
    neutral: float


_FACTS = {
    Role.BASE_COLOR: RoleFacts("Base colour", Transfer.SRGB, 3, 0.5),
    Role.NORMAL: RoleFacts("Normal", Transfer.LINEAR, 3, 0.5),
    Role.ROUGHNESS: RoleFacts("Roughness", Transfer.LINEAR, 1, 0.5),
    Role.METALLIC: RoleFacts("Metallic", Transfer.LINEAR, 1, 0.0),
    Role.OCCLUSION: RoleFacts("Occlusion", Transfer.LINEAR, 1, 1.0),
    Role.HEIGHT: RoleFacts("Height", Transfer.LINEAR, 1, 0.5),
    Role.EMISSIVE: RoleFacts("Emissive", Transfer.SRGB, 3, 0.0),
    Role.OPACITY: RoleFacts("Opacity", Transfer.LINEAR, 1, 1.0),
    Role.GLOSSINESS: RoleFacts("Glossiness", Transfer.LINEAR, 1, 0.5),
    Role.SPECULAR: RoleFacts("Specular", Transfer.SRGB, 3, 0.5),
    Role.DETAIL_MASK: RoleFacts("Detail mask", Transfer.LINEAR, 1, 0.0),
}

ROLES: tuple[Role, ...] = tuple(Role)


def facts(role: Role) -> RoleFacts:
    """The facts about a role.

    >>> facts(Role.BASE_COLOR).transfer.value
    'srgb'
    >>> facts(Role.OCCLUSION).neutral
    1.0
    """
    return _FACTS[role]


def role_named(word: str) -> Role:
    """A role by its name in documents. Raises BadDocument, which lists them.

    >>> role_named("base_color")
    <Role.BASE_COLOR: 'base_color'>
    """
    try:
        return Role(word)
    except ValueError:
        raise BadDocument("{word!r} is not a role; roles are {listed}", word=word, listed=", ".join(Role)) from None
