"""A model's mesh as its file has it: pieces of triangles, each of one part and one material slot."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from texel.errors import TexelError

__all__ = [
    "MAX_TRIANGLES", "Counted", "Floats", "MeshFile", "Piece", "Slot", "TextureUse", "UnreadableMesh", "checked_mesh",
    "kept_name",
]  # fmt: skip

Floats = NDArray[np.float32]
Triangles = NDArray[np.int32]

MAX_TRIANGLES = 5_000_000
MAX_POINTS = 15_000_000
MAX_PIECES = 20_000
# Units; with a unit of a millimetre a model of a thousand kilometres.
_FARTHEST = 1e9
_LONGEST_NAME = 200


class UnreadableMesh(TexelError):
    """A file that holds no mesh which can be read; the message says why and what to do."""

    def __init__(self, name: str, reason: str, /, **values: object):
        super().__init__("{file}: " + reason, file=name, **values)


@dataclass(frozen=True)
class TextureUse:
    """A texture that the file's own material names. use: what for, in glTF's words ("baseColorTexture"), or a keyword
    of MTL ("map_Kd"). file: its name, "" where the picture lies inside without one. uv_set: the coordinates it is read
    with. is_inside: whether the picture lies in the file; image: its number there."""

    use: str
    file: str
    uv_set: int = 0
    is_inside: bool = False
    image: int | None = None


@dataclass(frozen=True)
class Slot:
    """A material slot. name: "" where the file gives none. alpha: "opaque", "cut_out" or "blend"."""

    name: str
    textures: tuple[TextureUse, ...] = ()
    alpha: str = "opaque"
    double_sided: bool = False


@dataclass(frozen=True)
class Piece:
    """Triangles of one part that wear one slot, where the file puts them in the world.

    part: name of the node or object. slot: index into ``MeshFile.slots``. level: of detail, 0 the finest.
    positions: (n, 3), metres, y up. triangles: (m, 3), indices into positions, counter-clockwise seen from outside.
    uvs: each (n, 2), origin at the upper left as glTF has it, one a set. normals: (n, 3). tangents: (n, 4), the sign of
    the bitangent last. colours: (n, 3 or 4), 0 to 1, linear. place: of a glTF file, its node and its primitive there.
    """

    part: str
    slot: int
    positions: Floats
    triangles: Triangles
    uvs: tuple[Floats, ...] = ()
    normals: Floats | None = None
    tangents: Floats | None = None
    colours: Floats | None = None
    level: int = 0
    place: tuple[int, int] | None = None


@dataclass(frozen=True)
class MeshFile:
    """name: of the file. kind: "glTF", "OBJ" or "USD". remarks: what the file holds that is not looked at."""

    name: str
    kind: str
    slots: tuple[Slot, ...]
    pieces: tuple[Piece, ...]
    remarks: tuple[str, ...] = ()

    def of_slot(self, slot: int, level: int | None = 0) -> list[Piece]:
        """The pieces that wear a slot. level: of detail, None for all."""
        return [one for one in self.pieces if one.slot == slot and level in (None, one.level)]

    def levels(self) -> list[int]:
        return sorted({one.level for one in self.pieces})


def checked_mesh(mesh: MeshFile) -> MeshFile:
    """The mesh with names that can be kept, if it can be worked with. Raises UnreadableMesh for one without triangles,
    with too many, or with places that are no numbers."""
    if not any(len(one.triangles) for one in mesh.pieces):
        raise UnreadableMesh(mesh.name, "there are no triangles in it")
    counted = Counted(mesh.name)
    for one in mesh.pieces:
        counted.add(len(one.triangles), len(one.positions))
        if not np.isfinite(one.positions).all() or not all(np.isfinite(uv).all() for uv in one.uvs):
            raise UnreadableMesh(mesh.name, "the part {part!r} has places or UVs that are no numbers", part=one.part)
        if len(one.triangles) and not 0 <= int(one.triangles.min()) <= int(one.triangles.max()) < len(one.positions):
            raise UnreadableMesh(mesh.name, "the part {part!r} names points that it does not have", part=one.part)
        if len(one.positions) and float(np.abs(one.positions).max()) > _FARTHEST:
            raise UnreadableMesh(
                mesh.name,
                "the part {part!r} reaches farther than {farthest:,.0f} units",
                part=one.part,
                farthest=_FARTHEST,
            )
    return replace(
        mesh,
        slots=tuple(map(_kept_slot, mesh.slots)),
        pieces=tuple(replace(one, part=kept_name(one.part)) for one in mesh.pieces),
    )


def _kept_slot(one: Slot) -> Slot:
    textures = tuple(replace(use, file=kept_name(use.file)) for use in one.textures)
    return replace(one, name=kept_name(one.name), textures=textures)


def kept_name(name: str) -> str:
    """A name from a file as it can be kept and shown: without control characters and halves of characters, at most 200
    long.

    >>> kept_name("hull\\x00plate\\ud800")
    'hullplate'
    """
    plain = "".join(one for one in name if one.isprintable() and not 0xD800 <= ord(one) < 0xE000)
    return plain[:_LONGEST_NAME].strip()


class Counted:
    """Counts what is read of a mesh while it is read. name: of the file."""

    def __init__(self, name: str):
        self._name = name
        self._triangles = self._points = self._pieces = 0

    def add(self, triangles: int, points: int) -> None:
        """One piece more. Raises UnreadableMesh for more than is read."""
        self._triangles, self._points, self._pieces = (
            self._triangles + triangles,
            self._points + points,
            self._pieces + 1,
        )
        for count, most, what in (
            (self._triangles, MAX_TRIANGLES, "triangles"), (self._points, MAX_POINTS, "points"),
            (self._pieces, MAX_PIECES, "parts with a material"),
        ):  # fmt: skip
            if count > most:
                raise UnreadableMesh(
                    self._name,
                    "it has more than {most:,} {what}, which is the most; export fewer parts or levels",
                    most=most,
                    what=what,
                )
