"""Meshes of OBJ files, and the materials of the MTL files beside them.

Both formats as their makers published them in the 1990s; only what meshes with textures use is read. Common practice
adds map_Pr, map_Pm, map_Ke and norm for physically based materials. V grows upwards there, so it is turned over.
"""

from __future__ import annotations

import codecs
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from texel.meshes.gltf import level_of_name
from texel.meshes.mesh import MAX_TRIANGLES, MeshFile, Piece, Slot, TextureUse, UnreadableMesh, checked_mesh

__all__ = ["read_obj"]

# Keywords of MTL that name a picture, in small letters.
_MAPS = {
    "map_ka", "map_kd", "map_ks", "map_ns", "map_d", "map_bump", "bump", "disp", "map_disp", "norm", "map_kn", "map_pr",
    "map_pm", "map_ps", "map_ke", "map_refl", "refl",
}  # fmt: skip
# Options of maps, and how many values follow each; "-o", "-s" and "-t" take one to three numbers.
_OPTIONS = {
    "-blendu": 1, "-blendv": 1, "-boost": 1, "-mm": 2, "-texres": 1, "-clamp": 1, "-bm": 1, "-imfchan": 1, "-type": 1
}  # fmt: skip
_CORNERS = 3
Corner = tuple[int, int, int]


def read_obj(name: str, data: bytes, beside: Mapping[str, bytes] | None = None) -> MeshFile:
    """The mesh of an .obj file. beside: its MTL files by name; without them slots have names only.

    Raises UnreadableMesh.
    """
    text = _text_of(data).replace("\\\n", " ")
    reader = _Reader(name)
    try:
        reader.read(text)
        return checked_mesh(reader.done(beside or {}))
    except (ValueError, IndexError, OverflowError) as error:
        raise UnreadableMesh(
            name, "no OBJ that can be read: line {line}: {error}", line=reader.line, error=error
        ) from None


@dataclass
class _Group:
    """Corners of faces of one part and one slot: rows of place, UV and normal, from 0, -1 where there is none."""

    part: str
    slot: int
    corners: list[Corner] = field(default_factory=list)


@dataclass
class _Reader:
    name: str
    line: int = 0
    places: list[list[float]] = field(default_factory=list)
    colours: list[list[float]] = field(default_factory=list)
    uvs: list[list[float]] = field(default_factory=list)
    normals: list[list[float]] = field(default_factory=list)
    groups: dict[tuple[str, int], _Group] = field(default_factory=dict)
    slots: dict[str, int] = field(default_factory=dict)
    libraries: list[str] = field(default_factory=list)
    remarks: dict[str, None] = field(default_factory=dict)

    def read(self, text: str) -> None:
        part, group, triangles = "", None, 0
        slot: str | None = None
        for self.line, line in enumerate(text.splitlines(), 1):
            words = line.split()
            if not words or words[0][0] == "#":
                continue
            kind, values = words[0], words[1:]
            if kind == "v":
                self.places.append([float(one) for one in values[:3]])
                if len(values) >= 6:
                    self.colours.append([float(one) for one in values[3:6]])
                if len(values) < _CORNERS:
                    raise ValueError("a point has three numbers")
            elif kind == "vt":
                self.uvs.append([float(values[0]), float(values[1]) if len(values) > 1 else 0.0])
            elif kind == "vn":
                self.normals.append([float(values[0]), float(values[1]), float(values[2])])
            elif kind == "f":
                if group is None:
                    group = self._group(part, slot)
                triangles += self._face(group, values)
                if triangles > MAX_TRIANGLES:
                    raise UnreadableMesh(
                        self.name,
                        "more than {max_triangles:,} triangles; export fewer parts",
                        max_triangles=MAX_TRIANGLES,
                    )
            elif kind in ("o", "g"):
                # Groups within an object name its pieces only where there is no object.
                named = " ".join(values)
                if kind == "o" or not part or self._by_group:
                    part, group = named, None
                    self._by_group = kind == "g"
            elif kind == "usemtl":
                slot, group = " ".join(values), None
            elif kind == "mtllib":
                self.libraries.append(" ".join(values))
            elif kind in ("l", "p", "curv", "surf"):
                self.remarks["lines, points and curves are not looked at"] = None

    _by_group: bool = False

    def _group(self, part: str, slot: str | None) -> _Group:
        at = self.slots.setdefault(slot or "", len(self.slots))
        return self.groups.setdefault((part, at), _Group(part, at))

    def _face(self, group: _Group, values: list[str]) -> int:
        if len(values) < _CORNERS:
            raise ValueError("a face has three corners or more")
        corners = [self._corner(one) for one in values]
        for at in range(1, len(corners) - 1):
            group.corners += (corners[0], corners[at], corners[at + 1])
        return len(corners) - 2

    def _corner(self, word: str) -> Corner:
        parts = word.split("/")
        place = _row(parts[0], len(self.places))
        uv = _row(parts[1], len(self.uvs)) if len(parts) > 1 and parts[1] else -1
        normal = _row(parts[2], len(self.normals)) if len(parts) > 2 and parts[2] else -1
        return place, uv, normal

    def done(self, beside: Mapping[str, bytes]) -> MeshFile:
        places = np.array(self.places, np.float32).reshape(-1, 3)
        uvs = np.array(self.uvs, np.float32).reshape(-1, 2)
        normals = np.array(self.normals, np.float32).reshape(-1, 3)
        uvs[:, 1] = 1 - uvs[:, 1]
        colours = np.array(self.colours, np.float32) if len(self.colours) == len(self.places) else None
        pieces = []
        for group in self.groups.values():
            corners, indices = np.unique(np.array(group.corners, np.int64), axis=0, return_inverse=True)
            part, level = level_of_name(group.part or "mesh")
            at = corners[:, 0]
            has_uv, has_normal = bool((corners[:, 1] >= 0).all()), bool((corners[:, 2] >= 0).all())
            pieces.append(Piece(
                part, group.slot, places[at], indices.reshape(-1, 3).astype(np.int32),
                (uvs[corners[:, 1]],) if has_uv and len(uvs) else (),
                normals[corners[:, 2]] if has_normal and len(normals) else None, None,
                colours[at] if colours is not None and len(colours) else None, level,
            ))  # fmt: skip
        materials = self._materials(beside)
        slots = tuple(materials.get(name, Slot(name)) for name in self.slots)
        return MeshFile(self.name, "OBJ", slots, tuple(pieces), tuple(self.remarks))

    def _materials(self, beside: Mapping[str, bytes]) -> dict[str, Slot]:
        found: dict[str, Slot] = {}
        for library in self.libraries:
            data = beside.get(library)
            if data is None:
                data = beside.get(library.replace("\\", "/").rsplit("/", 1)[-1])
            if data is None:
                self.remarks[f"{library} is not beside it: nothing is known of its materials but their names"] = None
                continue
            found |= _read_mtl(_text_of(data))
        return found


def _text_of(data: bytes) -> str:
    """A file's text: UTF-16 where it begins with that mark, else UTF-8."""
    is_wide = data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
    return data.decode("utf-16" if is_wide else "utf-8-sig", "replace")


def _row(word: str, count: int) -> int:
    """Rows count from 1, or from the end where they are negative."""
    row = int(word)
    row = row - 1 if row > 0 else count + row
    if not 0 <= row < count:
        raise IndexError(f"{word} is none of {count}")
    return row


def _read_mtl(text: str) -> dict[str, Slot]:
    slots: dict[str, Slot] = {}
    name: str | None = None
    uses: list[TextureUse] = []
    alpha = "opaque"
    for line in [*text.splitlines(), "newmtl"]:
        words = line.split()
        if not words:
            continue
        kind = words[0].lower()
        if kind == "newmtl":
            if name is not None:
                slots[name] = Slot(name, tuple(uses), alpha)
            name, uses, alpha = " ".join(words[1:]), [], "opaque"
        elif kind in _MAPS and (file := _file_of(words[1:])):
            uses.append(TextureUse(kind, file))
            alpha = "cut_out" if kind == "map_d" else alpha
        elif kind in ("d", "tr") and len(words) > 1:
            alpha = "blend" if _clear(kind, words[1]) else alpha
    return slots


def _clear(kind: str, word: str) -> bool:
    """Whether a dissolve ("d", 1 is solid) or a transparency ("Tr", 0 is solid) lets anything through."""
    try:
        value = float(word)
    except ValueError:
        return False
    return value < 1 if kind == "d" else value > 0


def _file_of(words: list[str]) -> str:
    """The file behind a map's options; names may hold spaces."""
    at = 0
    while at < len(words) and words[at].startswith("-"):
        option = words[at].lower()
        at += 1
        if option in ("-o", "-s", "-t"):
            while at < len(words) - 1 and _is_number(words[at]):
                at += 1
        else:
            at += _OPTIONS.get(option, 0)
    return " ".join(words[at:]).replace("\\", "/")


def _is_number(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True
