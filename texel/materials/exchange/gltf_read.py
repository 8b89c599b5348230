"""Materials of glTF 2.0 files as sheets: factors, textures and their transforms, and the extensions that a sheet has.

Nothing outside the file is read; pictures inside it are given back as they are. The archived extension
KHR_materials_pbrSpecularGlossiness is converted by the formula that was published with it (texel.derive.specular).
"""

from __future__ import annotations

import base64
import binascii
import math
import re
from functools import partial
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

import numpy as np

from texel.derive.specular import loss, metallic_and_colour
from texel.errors import BadDocument
from texel.gltf_file import BROKEN, broken_words, opened_gltf
from texel.materials.exchange.gltf_write import NEAREST, WRAP_MODES
from texel.materials.exchange.imported import Imported, SheetBuilder, SlotDraft, each_alone, with_refused
from texel.materials.expression import parse_expression
from texel.materials.simplify import constants_of, simplified
from texel.materials.surface import INPUTS, GltfPart
from texel.materials.tree import Call, Constant, Name, Node, Swizzle
from texel.roles import Role

__all__ = ["Pictures", "read_gltf"]

_LARGEST = 256 * 2**20
_MAX_MATERIALS = 200
_SUFFIXES = {"image/png": ".png", "image/jpeg": ".jpg", "image/webp": ".webp", "image/ktx2": ".ktx2"}
_SPECULAR = "KHR_materials_pbrSpecularGlossiness"
# What the sheet's surface has, or what says nothing about it.
_KNOWN = {
    "KHR_materials_emissive_strength", *(one.gltf.extension for one in INPUTS.values() if one.gltf is not None),
    _SPECULAR,
}  # fmt: skip
Document = dict[str, Any]


def read_gltf(data: bytes, where: str = "the document") -> list[Imported]:
    """One master and cast for each material. Raises BadDocument when the file is no glTF 2.0, or has no material."""
    if len(data) > _LARGEST:
        raise BadDocument("{where}: a file has at most {largest} MiB", where=where, largest=_LARGEST // 2**20)
    try:
        document, chunk = opened_gltf(data)
        if document["asset"]["version"].split(".")[0] != "2":
            raise BadDocument(
                "{where}: it is glTF {version}, only 2.0 can be read", where=where, version=document["asset"]["version"]
            )
        materials = document.get("materials", [])
        if not materials:
            raise BadDocument("{where}: there is no material in it", where=where)
        if len(materials) > _MAX_MATERIALS:
            raise BadDocument(
                "{where}: at most {max_materials} materials are read at once, it has {count}",
                where=where,
                max_materials=_MAX_MATERIALS,
                count=len(materials),
            )
        pictures = Pictures(document, chunk)
    except BROKEN as error:
        raise BadDocument(
            "{where} is no glTF 2.0 that can be read: {problem}", where=where, problem=broken_words(error)
        ) from None

    def read(at: int, title: str) -> Imported:
        try:
            return _Reader(document, materials[at], at, pictures).read()
        except BROKEN as error:
            raise BadDocument(
                "{title}: it is no glTF 2.0 that can be read: {problem}", title=title, problem=broken_words(error)
            ) from None

    titles = [_title_of(one, at) for at, one in enumerate(materials)]
    all_read, refused = each_alone((title, partial(read, at, title)) for at, title in enumerate(titles))
    if not all_read:
        raise BadDocument("{where}: {listed}", where=where, listed="; ".join(refused))
    return with_refused(all_read, refused)


def _title_of(material: Any, at: int) -> str:
    name = material.get("name") if isinstance(material, dict) else None
    return name if isinstance(name, str) and name else f"material {at + 1}"


class Pictures:
    """Names of images as files, and the bytes of those that lie inside."""

    def __init__(self, document: Document, chunk: bytes):
        self._document, self._chunk = document, chunk
        self.inside: dict[str, bytes] = {}
        self._names: dict[int, str] = {}

    def name(self, index: int) -> str:
        if index not in self._names:
            self._names[index] = self._named(index, self._document["images"][index])
        return self._names[index]

    def _named(self, index: int, image: Document) -> str:
        uri = image.get("uri", "")
        if uri and not uri.startswith("data:"):
            return unquote(uri).replace("\\", "/")
        body, kind = self._inside(image, uri)
        stem = re.sub(r"[^A-Za-z0-9_-]+", "_", PurePosixPath(image.get("name", "")).name).strip("_")[:60]
        name = f"{stem or f'image_{index}'}{_SUFFIXES.get(kind, '.png')}"
        if name in self.inside and self.inside[name] != body:
            name = f"{PurePosixPath(name).stem}_{index}{PurePosixPath(name).suffix}"
        self.inside[name] = body
        return name

    def _inside(self, image: Document, uri: str) -> tuple[bytes, str]:
        if uri:
            head, _, text = uri.partition(",")
            try:
                return base64.b64decode(text, validate=True), head.removeprefix("data:").split(";")[0]
            except binascii.Error:
                raise ValueError("a picture inside is no base64") from None
        view = self._document["bufferViews"][image["bufferView"]]
        buffer = self._document["buffers"][view["buffer"]]
        whole = self._chunk if "uri" not in buffer else base64.b64decode(buffer["uri"].partition(",")[2])
        start = view.get("byteOffset", 0)
        body = whole[start : start + view["byteLength"]]
        if len(body) < view["byteLength"]:
            raise ValueError("a picture inside ends too soon")
        return body, image.get("mimeType", "")


class _Reader:
    def __init__(self, document: Document, material: Document, at: int, pictures: Pictures):
        self._document, self._material, self._pictures = document, material, pictures
        title = _title_of(material, at)
        self._sheet = SheetBuilder(title, title)
        self._used: set[str] = set()

    def read(self) -> Imported:
        material, sheet = self._material, self._sheet
        extensions = material.get("extensions", {})
        if _SPECULAR in extensions:
            self._specular_glossiness(extensions[_SPECULAR])
        else:
            self._metallic_roughness(material.get("pbrMetallicRoughness", {}))
        self._normal_and_light(extensions)
        self._more(extensions)
        if material.get("doubleSided") and not sheet.opacity:
            # What is not opaque is written with both sides.
            sheet.lose("doubleSided: a sheet says nothing of backs")
        for name in extensions:
            if name not in _KNOWN:
                sheet.lose(f"{name}: the sheet's surface has nothing like it")
        imported = sheet.done()
        inside = {name: body for name, body in self._pictures.inside.items() if name in self._used}
        return Imported(imported.document, imported.casts, imported.lost, inside)

    # Textures.

    def _texture(self, info: Document, title: str, channels: int, srgb: bool = False, role: Role | None = None) -> str:
        """The slot for a texture; the same for the same picture read at the same place."""
        texture = self._document["textures"][info["index"]]
        source = texture.get("source")
        for extension in texture.get("extensions", {}).values():
            source = extension.get("source", source)
        if source is None:
            self._sheet.lose(f"{title}: its texture has no picture that can be read")
            file = ""
        else:
            file = self._pictures.name(source)
            self._used.add(file)
        wrap, kind = self._sampler(texture, title)
        moved = info.get("extensions", {}).get("KHR_texture_transform", {})
        place = self._sheet.place(
            _pair(moved.get("scale", [1, 1])), _pair(moved.get("offset", [0, 0])),
            # A sheet turns the other way round than KHR_texture_transform; 0.0 for a turn of none.
            round(-math.degrees(moved.get("rotation", 0.0)), 5) + 0.0, self._uv_set(moved, info, title),
        )  # fmt: skip
        for slot in self._sheet.slots.values():
            known = (slot.file, slot.coordinates, slot.srgb, slot.role, slot.wrap, slot.filter)
            if file and known == (file, place, srgb, role, wrap, kind):
                return slot.name
        name = self._sheet.free_name(title)
        default = "white" if role is not Role.NORMAL else "flat_normal"
        self._sheet.slots[name] = SlotDraft(
            name, title, channels, srgb, default, place, file, role is Role.NORMAL, role, wrap, kind
        )  # fmt: skip
        return name

    def _uv_set(self, moved: Document, info: Document, title: str) -> int:
        wanted = int((moved if "texCoord" in moved else info).get("texCoord", 0))
        if wanted not in (0, 1):
            self._sheet.lose(f"{title}: it is read at UV set {wanted}, sheets have 0 and 1; 1 is taken")
        return min(wanted, 1)

    def _sampler(self, texture: Document, title: str) -> tuple[str, str]:
        """How a texture is wrapped and filtered."""
        if "sampler" not in texture:
            return "repeat", "linear"
        sampler = self._document["samplers"][texture["sampler"]]
        words = {number: word for word, number in WRAP_MODES.items()}
        across, down = (words.get(sampler.get(key), "repeat") for key in ("wrapS", "wrapT"))
        if across != down:
            self._sheet.lose(f"{title}: beyond its edge its texture goes on as across, downwards too")
        return across, "nearest" if sampler.get("magFilter") == NEAREST else "linear"

    def _times(self, holder: Document, key: str, letters: str, factor: Any, title: str, srgb: bool = False) -> Node:
        """A factor times channels of a texture, if there is one."""
        parts = [float(one) for one in factor] if isinstance(factor, list) else [float(factor)]
        value = simplified(Call("rgb", tuple(map(Constant, parts)))) if len(parts) == 3 else Constant(parts[0])
        if key not in holder:
            return value
        slot = self._texture(holder[key], title, 3, srgb)
        return simplified(Call("multiply", (Swizzle(Name(slot), letters), value)))

    # Inputs.

    def _metallic_roughness(self, one: Document) -> None:
        sheet = self._sheet
        factor = one.get("baseColorFactor", [1, 1, 1, 1])
        sheet.set_input("base_color", self._times(one, "baseColorTexture", "rgb", factor[:3], "Base colour", srgb=True))
        self._opacity(self._times(one, "baseColorTexture", "a", factor[3], "Base colour", srgb=True))
        for name, key, letter in (("metallic", "metallicFactor", "b"), ("roughness", "roughnessFactor", "g")):
            made = self._times(one, "metallicRoughnessTexture", letter, one.get(key, 1), "Metallic roughness")
            sheet.set_input(name, made)

    def _opacity(self, made: Node) -> None:
        mode = {"MASK": "cut_out", "BLEND": "blend"}.get(self._material.get("alphaMode", "OPAQUE"))
        if mode is None:
            return
        self._sheet.opacity = {"mode": mode, "cut_off": float(self._material.get("alphaCutoff", 0.5))}
        self._sheet.set_input("opacity", made)

    def _specular_glossiness(self, one: Document) -> None:
        """Rows that solve for metallic, as texel.derive.specular does for maps."""
        sheet = self._sheet
        diffuse = one.get("diffuseFactor", [1, 1, 1, 1])
        colour = self._times(one, "diffuseTexture", "rgb", diffuse[:3], "Diffuse", srgb=True)
        self._opacity(self._times(one, "diffuseTexture", "a", diffuse[3], "Diffuse", srgb=True))
        shine, gloss = one.get("specularFactor", [1, 1, 1]), one.get("glossinessFactor", 1)
        key = "specularGlossinessTexture"
        if key in one:
            slot = self._texture(one[key], "Specular", 4, True, Role.SPECULAR)
            specular = simplified(Call("multiply", (Swizzle(Name(slot), "rgb"), _colour(shine))))
            glossiness = simplified(Call("multiply", (Swizzle(Name(slot), "a"), Constant(float(gloss)))))
        else:
            specular, glossiness = _colour(shine), Constant(float(gloss))
        rows = {
            "d": colour, "s": specular,
            "d_bright": "root(0.299 * d.r * d.r + 0.587 * d.g * d.g + 0.114 * d.b * d.b)",
            "s_bright": "root(0.299 * s.r * s.r + 0.587 * s.g * s.g + 0.114 * s.b * s.b)",
            "rest": "1 - maximum(maximum(s.r, s.g), s.b)",
            "half": "d_bright * rest / 0.96 + s_bright - 0.08",
            "solved": "(root(half * half - 0.16 * (0.04 - s_bright)) - half) / 0.08",
            "metal": "choose(clamp(solved, 0, 1), (s_bright - 0.04) * 1000000 + 0.5, 0)",
        }  # fmt: skip
        if constants_of(colour) is not None and constants_of(specular) is not None:
            self._plain_specular(colour, specular)
        else:
            for name, made in rows.items():
                sheet.rows[name] = parse_expression(made) if isinstance(made, str) else self._wide(made)
            from_diffuse = "d * (rest / 0.96 / maximum(1 - metal, 0.000001) * (1 - metal * metal))"
            from_specular = "(s - 0.04 * (1 - metal)) * (metal * metal / maximum(metal, 0.000001))"
            sheet.set_input("base_color", parse_expression(f"clamp({from_diffuse} + {from_specular}, 0, 1)"))
            sheet.set_input("metallic", Name("metal"))
            sheet.lose(
                "Specular and glossiness: metallic and base colour are derived, which cannot keep every look; a dark "
                "diffuse with a grey specular comes out metallic"
            )
        sheet.set_input("roughness", simplified(Call("invert", (glossiness,))))

    def _wide(self, made: Node) -> Node:
        """With channels to take, even where it is one number."""
        value = constants_of(made)
        return made if value is None or len(value) > 1 else Call("rgb", (made,) * 3)

    def _plain_specular(self, colour: Node, specular: Node) -> None:
        pair = [np.array(constants_of(one), np.float32) for one in (colour, specular)]
        diffuse, shine = (np.broadcast_to(one, (3,)).reshape(1, 1, 3) for one in pair)
        metallic, base = metallic_and_colour(diffuse, shine)
        self._sheet.set_input("metallic", Constant(round(float(metallic[0, 0]), 6)))
        self._sheet.set_input("base_color", _colour([round(float(part), 6) for part in base[0, 0]]))
        lost = float(loss(diffuse, shine)[0, 0])
        if lost > 0.5 / 255:
            self._sheet.lose(f"Specular and glossiness: the conversion is off by {lost:.3f} at most, of 1")

    def _normal_and_light(self, extensions: Document) -> None:
        material, sheet = self._material, self._sheet
        if "normalTexture" in material:
            info = material["normalTexture"]
            slot = self._texture(info, "Normal", 3, role=Role.NORMAL)
            sheet.set_input("normal", Swizzle(Name(slot), "rgb"))
            sheet.set_input("normal_strength", Constant(float(info.get("scale", 1))))
            if sheet.coordinates[sheet.slots[slot].coordinates]["rotation"]:
                sheet.lose("Normal: glTF turns where the map is read, the sheet its vectors as well")
        if "occlusionTexture" in material:
            info = material["occlusionTexture"]
            slot = self._texture(info, "Occlusion", 3)
            sheet.set_input("occlusion", Swizzle(Name(slot), "r"))
            sheet.set_input("occlusion_strength", Constant(float(info.get("strength", 1))))
        factor = material.get("emissiveFactor", [0, 0, 0])
        strength = extensions.get("KHR_materials_emissive_strength", {}).get("emissiveStrength", 1)
        if any(factor):
            sheet.set_input("emissive", self._times(material, "emissiveTexture", "rgb", factor, "Emissive", srgb=True))
            sheet.set_input("emissive_strength", Constant(float(strength)))

    def _more(self, extensions: Document) -> None:
        sheet = self._sheet
        for name, one in INPUTS.items():
            part = one.gltf
            holder = extensions.get(part.extension) if part is not None else None
            if part is None or not isinstance(holder, dict):
                continue
            if one.meaning == "normal":
                self._second_normal(name, holder, part)
                continue
            given = holder.get(part.factor, _default(name, part, holder))
            factor = [float(value) / part.unit for value in (given if isinstance(given, list) else [given])]
            texture = part.texture or "no texture"
            value = factor if len(factor) > 1 else factor[0]
            made = self._times(holder, texture, part.letters, value, one.label, srgb=one.meaning == "colour")
            sheet.set_input(name, made)
        for key in ("anisotropyTexture",):
            if key in extensions.get("KHR_materials_anisotropy", {}):
                sheet.lose(f"{key}: the sheet's surface has nothing like it")

    def _second_normal(self, name: str, holder: Document, part: GltfPart) -> None:
        if part.texture in holder:
            info = holder[part.texture]
            slot = self._texture(info, INPUTS[name].label, 3, role=Role.NORMAL)
            bare, scale = Swizzle(Name(slot), "rgb"), float(info.get("scale", 1))
            self._sheet.set_input(name, bare if scale == 1 else Call("strengthen", (bare, Constant(scale))))


def _default(name: str, part: GltfPart, holder: Document) -> float | list[float]:
    """What glTF means where a factor is left out: nothing of it, where it has a factor of its own."""
    neutral = [value * part.unit for value in INPUTS[name].neutral]
    return neutral if len(neutral) > 1 else neutral[0]


def _pair(value: Any) -> tuple[float, float]:
    return float(value[0]), float(value[1])


def _colour(parts: Any) -> Node:
    return simplified(Call("rgb", tuple(Constant(float(one)) for one in parts)))
