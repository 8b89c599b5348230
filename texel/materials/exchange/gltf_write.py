"""Casts as one binary glTF 2.0 file: maps as they are where the format can say it, baked where it cannot.

Extensions of the Khronos registry: KHR_texture_transform, KHR_materials_emissive_strength, _variants, _specular,
_clearcoat and _sheen.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np

from texel.delivery.gltf import unit_square
from texel.errors import BadDocument
from texel.files import encode
from texel.gltf_file import joined_glb
from texel.image import Texels, narrow, to_unit
from texel.materials.baking import bake, bake_input, gltf_maps
from texel.materials.evaluate import placed, values_of
from texel.materials.exchange.fixed import FilledCast, Textured, fixed_inputs, scaled_normal, textured
from texel.materials.exchange.lost import BLACK, lost_by_baking, lost_by_fixing, lost_opacity
from texel.materials.master import INPUTS, Master, Slot
from texel.materials.simplify import constants_of
from texel.materials.surface import GltfPart, Input
from texel.materials.tree import Constant
from texel.roles import Green, Transfer

__all__ = ["WrittenGltf", "WrittenMaterials", "glb_of", "written_materials"]

_LINEAR_MIPMAP, _LINEAR, NEAREST = 9987, 9729, 9728
# glTF 2.0, 5.26: what lies beyond a picture.
WRAP_MODES = {"repeat": 10497, "clamp": 33071, "mirror": 33648}
_VARIANTS = "KHR_materials_variants"
_ALPHA_MODES = {"cut_out": "MASK", "blend": "BLEND"}
Document = dict[str, Any]
Vertex = tuple[float, float, float, float]


class WrittenGltf(NamedTuple):
    """data: of a .glb file. baked: inputs that had to be baked, by cast. lost: what glTF cannot say."""

    data: bytes
    baked: dict[str, tuple[str, ...]]
    lost: tuple[str, ...]


def glb_of(master: Master, casts: Sequence[FilledCast], side: int = 1024, vertex: Vertex = BLACK) -> WrittenGltf:
    """One material a cast on a unit square; several casts are variants of it.

    side: texels of maps that have to be baked; vertex: the vertex colour in them.
    Raises BadDocument without a cast, or for a size out of range.
    """
    if not casts:
        raise BadDocument("there is no cast to write")
    builder = _Builder()
    baked: dict[str, tuple[str, ...]] = {}
    lost: dict[str, None] = {}
    for cast in casts:
        writer = _MaterialWriter(master, cast, builder, side, vertex)
        builder.materials.append(writer.material())
        baked[cast.name] = tuple(writer.baked)
        lost |= dict.fromkeys(writer.lost) | dict.fromkeys(lost_by_fixing(master, writer.written))
        lost |= dict.fromkeys(lost_by_baking(master, cast.changes, writer.baked, vertex))
    return WrittenGltf(builder.glb([cast.name for cast in casts], master.title), baked, tuple(lost))


class WrittenMaterials(NamedTuple):
    """documents: of materials, for a file whose textures are ``images`` in this order. extensions: that they use. lost:
    what glTF cannot say, by the name of the cast."""

    documents: list[Document]
    images: list[tuple[str, bytes]]
    extensions: tuple[str, ...]
    lost: dict[str, tuple[str, ...]]


def written_materials(
    casts: Sequence[tuple[Master, FilledCast, int]], vertex: Vertex = BLACK
) -> WrittenMaterials:  # fmt: skip
    """Casts of any masters as materials of one file; a picture that several use is there once.

    casts: each with its master and the texels of maps that have to be baked. vertex: the vertex colour in them.
    """
    builder = _Builder()
    lost: dict[str, tuple[str, ...]] = {}
    for master, cast, side in casts:
        writer = _MaterialWriter(master, cast, builder, side, vertex)
        builder.materials.append(writer.material())
        told = dict.fromkeys(writer.lost) | dict.fromkeys(lost_by_fixing(master, writer.written))
        lost[cast.name] = tuple(told | dict.fromkeys(lost_by_baking(master, cast.changes, writer.baked, vertex)))
    return WrittenMaterials(builder.materials, builder.images, tuple(builder.extensions), lost)


@dataclass
class _Builder:
    materials: list[Document] = field(default_factory=list)
    extensions: dict[str, None] = field(default_factory=dict)
    _images: dict[str, int] = field(default_factory=dict)
    images: list[tuple[str, bytes]] = field(default_factory=list)
    # Numbers of a sampler and a picture, and samplers as wrap and filter.
    textures: dict[tuple[int, int], None] = field(default_factory=dict)
    samplers: dict[tuple[str, str], None] = field(default_factory=lambda: {("repeat", "linear"): None})

    def texture(self, name: str, texels: Texels, how: tuple[str, str] = ("repeat", "linear")) -> int:
        """Index of a texture; the same picture is kept once. how: wrap and filter."""
        body = encode(_of_8_bits(texels), "png")
        key = hashlib.sha256(body).hexdigest()
        if key not in self._images:
            self._images[key] = len(self.images)
            self.images.append((name, body))
        self.samplers.setdefault(how)
        made = (list(self.samplers).index(how), self._images[key])
        self.textures.setdefault(made)
        return list(self.textures).index(made)

    def glb(self, names: list[str], title: str) -> bytes:
        data, views, accessors = unit_square()
        images = []
        for name, body in self.images:
            data += bytes(-len(data) % 4)
            images.append({"name": name, "mimeType": "image/png", "bufferView": len(views)})
            views.append({"buffer": 0, "byteOffset": len(data), "byteLength": len(body)})
            data += body
        data += bytes(-len(data) % 4)
        attributes = {"POSITION": 0, "NORMAL": 1, "TANGENT": 2, "TEXCOORD_0": 3}
        if '"texCoord": 1' in json.dumps(self.materials):
            attributes["TEXCOORD_1"] = 3
        primitive: Document = {"attributes": attributes, "indices": 4, "material": 0}
        document: Document = {
            "asset": {"version": "2.0", "generator": "Fair Texel"}, "scene": 0, "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": title}], "meshes": [{"primitives": [primitive]}],
            "materials": self.materials, "accessors": accessors, "bufferViews": views,
            "buffers": [{"byteLength": len(data)}],
        }  # fmt: skip
        if images:
            document |= {
                "images": images,
                "textures": [{"sampler": sampler, "source": at} for sampler, at in self.textures],
                "samplers": [_sampler(*how) for how in self.samplers],
            }  # fmt: skip
        if len(names) > 1:
            self.extensions[_VARIANTS] = None
            document["extensions"] = {_VARIANTS: {"variants": [{"name": name} for name in names]}}
            mappings = [{"material": at, "variants": [at]} for at in range(len(names))]
            primitive["extensions"] = {_VARIANTS: {"mappings": mappings}}
        if self.extensions:
            document["extensionsUsed"] = list(self.extensions)
        return joined_glb(document, data)


def _sampler(wrap: str, kind: str) -> Document:
    nearest = kind == "nearest"
    return {
        "magFilter": NEAREST if nearest else _LINEAR, "minFilter": NEAREST if nearest else _LINEAR_MIPMAP,
        "wrapS": WRAP_MODES[wrap], "wrapT": WRAP_MODES[wrap],
    }  # fmt: skip


def _of_8_bits(texels: Texels) -> Texels:
    """glTF's readers need not take more than 8 bits a channel."""
    if texels.pixels.dtype == np.uint8:
        return texels
    return texels.with_pixels(narrow(np.clip(to_unit(texels.pixels), 0, 1), np.dtype(np.uint8)))


class _MaterialWriter:
    def __init__(self, master: Master, cast: FilledCast, builder: _Builder, side: int, vertex: Vertex):
        self._master, self._cast, self._builder, self._side = master, cast, builder, side
        self._vertex = vertex
        self._trees = fixed_inputs(master, cast)
        self._bare = {name: "rgba"[: slot.size] for name, slot in master.slots.items() if not slot.is_normal}
        self._maps: Mapping[str, Texels] | None = None
        self._strength = 1.0
        self.baked: list[str] = []
        self.lost: list[str] = lost_opacity(master)
        self.written: set[str] = set()

    def material(self) -> Document:
        surface: Document = {}
        material: Document = {"name": self._cast.name, "pbrMetallicRoughness": surface}
        self._colour(surface, material)
        self._pack(surface, material)
        self._normal(material)
        self._glow(material)
        self._more(material)
        return material

    def _of(self, name: str, size: int = 1) -> Textured | None:
        return textured(self._trees[name], size, self._bare)

    def _bake(self, name: str, *inputs: str) -> Document | None:
        """The baked texture of gltf_maps; None where the sheet says nothing of it."""
        if self._maps is None:
            made = bake(self._master, self._cast.maps, self._cast.changes, self._side, self._side, vertex=self._vertex)
            self._maps, self._strength = gltf_maps(self._master, made), made.emissive_strength
        if name not in self._maps:
            return None
        self.baked += [one for one in inputs if one in self._master.inputs]
        return {"index": self._builder.texture(f"{self._cast.name} {name}", self._maps[name])}

    def _slot_texture(self, name: str) -> Document:
        """A slot's own map, read where its coordinates say."""
        slot = self._master.slots[name]
        self.written.add(name)
        how = (slot.wrap, slot.filter)
        texture: Document = {"index": self._builder.texture(slot.title, self._cast.maps[name], how)}
        tiling, offset, degrees, uv_set = self._placed(slot)
        moved: Document = {}
        if tuple(tiling) != (1.0, 1.0):
            moved["scale"] = list(tiling)
        if tuple(offset) != (0.0, 0.0):
            moved["offset"] = list(offset)
        if degrees:
            # A sheet turns the other way round than KHR_texture_transform.
            moved["rotation"] = math.radians(-degrees)
        if uv_set:
            texture["texCoord"] = uv_set
        if moved:
            texture["extensions"] = {"KHR_texture_transform": moved}
            self._builder.extensions["KHR_texture_transform"] = None
        return texture

    def _placed(self, slot: Slot) -> tuple[tuple[float, ...], tuple[float, ...], float, int]:
        one = self._master.coordinates[slot.coordinates]
        return *placed(one, values_of(self._master, self._cast.changes)), one.uv_set

    def _is_map(self, slot: str, srgb: bool) -> bool:
        """Whether a slot's map can go out as it is: in the colour space that glTF reads it in, with its channels."""
        texels = self._cast.maps.get(slot)
        space = self._master.slots[slot].colour_space is Transfer.SRGB
        return texels is not None and space == srgb and len(texels.channels) >= 3

    def _colour(self, surface: Document, material: Document) -> None:
        mode = self._master.opacity_mode
        colour, alpha = self._of("base_color", 3), self._of("opacity")
        opaque = mode == "opaque"
        if not opaque:
            material |= {"alphaMode": _ALPHA_MODES[mode], "doubleSided": True}
            if mode == "cut_out":
                material["alphaCutoff"] = self._cut_off()
        if colour is not None and _within(colour.factor) and (opaque or _alpha_fits(colour, alpha)):
            opacity = 1.0 if opaque or alpha is None else alpha.factor[0]
            if not colour.slot:
                surface["baseColorFactor"] = [*colour.factor, opacity]
                return
            has_alpha = self._cast.maps[colour.slot].has_alpha
            # A map whose alpha the sheet does not read must not be read as opacity; an opaque material ignores it.
            wanted = opaque or (alpha is not None and (bool(alpha.slot) == has_alpha))
            if colour.letters == "rgb" and self._is_map(colour.slot, srgb=True) and wanted:
                surface["baseColorTexture"] = self._slot_texture(colour.slot)
                if (*colour.factor, opacity) != (1.0,) * 4:
                    surface["baseColorFactor"] = [*colour.factor, opacity]
                return
        texture = self._bake("base_color", "base_color", *([] if opaque else ["opacity"]))
        if texture is not None:
            surface["baseColorTexture"] = texture
        else:
            surface["baseColorFactor"] = [*INPUTS["base_color"].neutral, 1.0]

    def _cut_off(self) -> float:
        value = constants_of(self._trees["cut_off"]) if "cut_off" in self._master.inputs else (self._master.cut_off,)
        if value is None:
            self.lost.append("Cut-off: glTF takes one number, and it varies")
            return self._master.cut_off
        return min(max(value[0], 0.0), 1.0)

    def _pack(self, surface: Document, material: Document) -> None:
        """Metallic in blue, roughness in green, occlusion in red (glTF 2.0, 3.9.2 and 3.9.3)."""
        metallic, roughness, shade = self._of("metallic"), self._of("roughness"), self._of("occlusion")
        plain = [one.factor[0] for one in (metallic, roughness) if one is not None and not one.slot]
        baked = None
        if len(plain) == 2 and _within(plain):
            surface |= {"metallicFactor": plain[0], "roughnessFactor": plain[1]}
        elif (
            metallic is not None and roughness is not None and metallic.slot == roughness.slot != ""
            and (metallic.letters, roughness.letters) == ("b", "g") and self._is_map(metallic.slot, srgb=False)
            and _within((*metallic.factor, *roughness.factor))
        ):  # fmt: skip
            surface["metallicRoughnessTexture"] = self._slot_texture(metallic.slot)
            for name, one in (("metallicFactor", metallic), ("roughnessFactor", roughness)):
                if one.factor != (1.0,):
                    surface[name] = one.factor[0]
        else:
            baked = self._bake("pack", "metallic", "roughness")
            surface["metallicRoughnessTexture"] = baked
        strength = constants_of(self._trees["occlusion_strength"])
        if shade is not None and not shade.slot and shade.factor == (1.0,):
            return
        if (
            shade is not None and shade.slot and shade.letters == "r" and shade.factor == (1.0,)
            and strength is not None and _within(strength) and self._is_map(shade.slot, srgb=False)
        ):  # fmt: skip
            material["occlusionTexture"] = self._slot_texture(shade.slot)
            if strength != (1.0,):
                material["occlusionTexture"]["strength"] = strength[0]
            return
        texture = self._bake("pack", "occlusion")
        if texture is not None:
            material["occlusionTexture"] = texture

    def _normal(self, material: Document) -> None:
        if "normal" not in self._master.inputs:
            return
        if constants_of(self._trees["normal"]) == (0.0, 0.0, 1.0):
            return
        scaled = scaled_normal(self._trees["normal"], self._trees["normal_strength"])
        if scaled is not None and self._normal_fits(scaled[0]):
            material["normalTexture"] = self._slot_texture(scaled[0])
            if scaled[1] != 1:
                material["normalTexture"]["scale"] = scaled[1]
            return
        texture = self._bake("normal", "normal")
        if texture is not None:
            material["normalTexture"] = texture

    def _normal_fits(self, name: str) -> bool:
        """A map of three channels in Y+, not turned: glTF turns the coordinates, but not the vectors."""
        slot = self._master.slots.get(name)
        if slot is None or not slot.is_normal or not self._is_map(name, srgb=False):
            return False
        return slot.green is not Green.DOWN and self._placed(slot)[2] == 0

    def _glow(self, material: Document) -> None:
        glow, strength = self._of("emissive", 3), constants_of(self._trees["emissive_strength"])
        if "emissive" not in self._master.inputs or (glow and not glow.slot and glow.factor == (0.0,) * 3):
            return
        total = None
        if glow is not None and strength is not None and min((*glow.factor, *strength)) >= 0:
            factor = [one * strength[0] for one in glow.factor]
            if not glow.slot or (glow.letters == "rgb" and self._is_map(glow.slot, srgb=True)):
                if glow.slot:
                    material["emissiveTexture"] = self._slot_texture(glow.slot)
                total = max(factor)
                material["emissiveFactor"] = [one / max(total, 1.0) for one in factor]
        if total is None:
            texture = self._bake("emissive", "emissive")
            if texture is None:
                return
            material |= {"emissiveTexture": texture, "emissiveFactor": [1.0, 1.0, 1.0]}
            total = self._strength
        if total > 1:
            self._extend(material, "KHR_materials_emissive_strength", {"emissiveStrength": total})

    def _more(self, material: Document) -> None:
        """What extensions say: by a number, by a slot's own map, or by a baked one. Heights are lost."""
        for name, one in INPUTS.items():
            if one.gltf is not None and name in self._master.inputs:
                self._part(material, one, one.gltf)
        for name in ("height", "height_scale"):
            if name in self._master.inputs:
                self.lost.append(f"{INPUTS[name].label}: glTF has no displacement")

    def _part(self, material: Document, one: Input, part: GltfPart) -> None:
        if one.meaning == "normal":
            self._second_normal(material, one, part)
            return
        value = constants_of(self._trees[one.name])
        if value is not None and all(one.bounds[0] <= number <= one.bounds[1] for number in value):
            wide = value * one.size if len(value) == 1 else value
            if wide != one.neutral:
                self._extend(material, part.extension, {part.factor: _factor([number * part.unit for number in wide])})
            return
        if not part.texture:
            self.lost.append(f"{one.label}: glTF takes one number here, and it is another or varies")
            return
        made = textured(self._trees[one.name], one.size, self._bare)
        srgb = one.meaning == "colour"
        if (
            made is not None and made.slot and made.letters == part.letters and _within(made.factor)
            and self._is_map(made.slot, srgb) and (part.letters != "a" or self._cast.maps[made.slot].has_alpha)
        ):  # fmt: skip
            self._extend(material, part.extension, {part.texture: self._slot_texture(made.slot)})
            self._extend(material, part.extension, {part.factor: _factor(made.factor)})
            return
        self._extend(material, part.extension, {part.texture: self._baked_part(one, part.letters)})
        self._extend(material, part.extension, {part.factor: _factor([1.0] * one.size)})

    def _baked_part(self, one: Input, letters: str) -> Document:
        """A baked map of one input, its value where the extension reads it."""
        texels = self._baked_input(one)
        if letters != "rgb":
            pixels = np.full((*texels.pixels.shape[:2], 4 if letters == "a" else 3), 255, np.uint8)
            pixels[..., "rgba".index(letters)] = texels.pixels[..., 0]
            texels = Texels(pixels, "rgba" if letters == "a" else "rgb", Transfer.LINEAR, name=one.name)
        return {"index": self._builder.texture(f"{self._cast.name} {one.name}", texels)}

    def _baked_input(self, one: Input) -> Texels:
        self.baked.append(one.name)
        maps, changes = self._cast.maps, self._cast.changes
        return bake_input(self._master, maps, changes, self._side, one.name, self._vertex)

    def _second_normal(self, material: Document, one: Input, part: GltfPart) -> None:
        tree = self._trees[one.name]
        if constants_of(tree) == (0.0, 0.0, 1.0):
            return
        scaled = scaled_normal(tree, Constant(1.0))
        if scaled is not None and self._normal_fits(scaled[0]):
            texture = self._slot_texture(scaled[0]) | ({"scale": scaled[1]} if scaled[1] != 1 else {})
        else:
            texture = {"index": self._builder.texture(f"{self._cast.name} {one.name}", self._baked_input(one))}
        self._extend(material, part.extension, {part.texture: texture})

    def _extend(self, material: Document, extension: str, values: Document) -> None:
        self._builder.extensions[extension] = None
        material.setdefault("extensions", {}).setdefault(extension, {}).update(values)


def _factor(values: Sequence[float]) -> float | list[float]:
    return list(values) if len(values) > 1 else values[0]


def _within(values: Sequence[float]) -> bool:
    return all(0 <= value <= 1 for value in values)


def _alpha_fits(colour: Textured, alpha: Textured | None) -> bool:
    """Opacity that lies in the base colour map's alpha, or is one number."""
    if alpha is None or not _within(alpha.factor):
        return False
    return not alpha.slot or (alpha.slot == colour.slot and alpha.letters == "a")
