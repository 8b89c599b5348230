"""The standard surface: what a sheet can set, and what each of it is called in the formats that have it.

Names are those of glTF 2.0 and OpenPBR where they have one.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from texel.materials.operations import Interval

__all__ = ["INPUTS", "GltfPart", "Input"]


class GltfPart(NamedTuple):
    """An input in an extension of glTF's materials. texture: of a map that the factor multiplies, "" where there is
    none; letters: the channels of it. unit: by what ours is multiplied."""

    extension: str
    factor: str
    texture: str = ""
    letters: str = ""
    unit: float = 1.0


@dataclass(frozen=True)
class Input:
    """What a surface takes. size: components. meaning: "colour", "normal" or "data". bounds: what it may be. on_demand:
    shown once somebody asks for it. gltf: where an extension has it. materialx: of the glTF surface of MaterialX's
    library; uniform: that takes one number for the whole surface. openpbr: of its OpenPBR surface. usd: of
    UsdPreviewSurface."""

    name: str
    label: str
    size: int
    meaning: str
    neutral: tuple[float, ...]
    bounds: Interval = (0.0, 1.0)
    on_demand: bool = False
    gltf: GltfPart | None = None
    materialx: str = ""
    uniform: bool = False
    openpbr: str = ""
    usd: str = ""
    help: str = ""


_SPECULAR, _COAT, _SHEEN = "KHR_materials_specular", "KHR_materials_clearcoat", "KHR_materials_sheen"
_ANISOTROPY, _THROUGH = "KHR_materials_anisotropy", "KHR_materials_diffuse_transmission"
_TURN = 6.283185307179586

INPUTS: dict[str, Input] = {
    one.name: one
    for one in (
        Input("base_color", "Base colour", 3, "colour", (0.5, 0.5, 0.5), materialx="base_color", openpbr="base_color"),
        Input("metallic", "Metallic", 1, "data", (0.0,), materialx="metallic", openpbr="base_metalness"),
        Input("roughness", "Roughness", 1, "data", (0.5,), materialx="roughness", openpbr="specular_roughness"),
        Input("normal", "Normal", 3, "normal", (0.0, 0.0, 1.0), (-1.0, 1.0), materialx="normal",
              openpbr="geometry_normal"),
        Input("normal_strength", "Normal strength", 1, "data", (1.0,), (0.0, 8.0)),
        Input("occlusion", "Occlusion", 1, "data", (1.0,), materialx="occlusion"),
        Input("occlusion_strength", "Occlusion strength", 1, "data", (1.0,)),
        Input("emissive", "Emissive", 3, "colour", (0.0, 0.0, 0.0), materialx="emissive", openpbr="emission_color"),
        Input("emissive_strength", "Emissive strength", 1, "data", (1.0,), (0.0, 100.0)),
        Input("opacity", "Opacity", 1, "data", (1.0,), materialx="alpha", openpbr="geometry_opacity"),
        Input("height", "Height", 1, "data", (0.5,)),
        Input("height_scale", "Height scale", 1, "data", (0.0,), (-10.0, 10.0)),
        Input("specular", "Specular", 1, "data", (1.0,), on_demand=True, materialx="specular",
              openpbr="specular_weight", gltf=GltfPart(_SPECULAR, "specularFactor", "specularTexture", "a"),
              help="how much of what a non-metal reflects is there"),
        Input("coat", "Coat", 1, "data", (0.0,), on_demand=True, materialx="clearcoat", openpbr="coat_weight",
              gltf=GltfPart(_COAT, "clearcoatFactor", "clearcoatTexture", "r"), usd="clearcoat",
              help="how much of a clear layer lies on it"),
        Input("coat_roughness", "Coat roughness", 1, "data", (0.0,), on_demand=True, materialx="clearcoat_roughness",
              openpbr="coat_roughness", usd="clearcoatRoughness",
              gltf=GltfPart(_COAT, "clearcoatRoughnessFactor", "clearcoatRoughnessTexture", "g")),
        Input("sheen", "Sheen", 3, "colour", (0.0, 0.0, 0.0), on_demand=True, materialx="sheen_color",
              openpbr="fuzz_color", gltf=GltfPart(_SHEEN, "sheenColorFactor", "sheenColorTexture", "rgb"),
              help="light from fine fibres, as cloth has it"),
        Input("cut_off", "Cut-off", 1, "data", (0.5,), on_demand=True, materialx="alpha_cutoff", uniform=True,
              usd="opacityThreshold", help="opacity below which a cut-out is not there"),
        Input("transmission", "Transmission", 1, "data", (0.0,), on_demand=True, materialx="transmission",
              openpbr="transmission_weight",
              gltf=GltfPart("KHR_materials_transmission", "transmissionFactor", "transmissionTexture", "r"),
              help="how much light goes through, as through glass"),
        Input("ior", "Index of refraction", 1, "data", (1.5,), (1.0, 3.0), on_demand=True, materialx="ior",
              uniform=True, openpbr="specular_ior", gltf=GltfPart("KHR_materials_ior", "ior"), usd="ior",
              help="1.33 for water, 1.5 for most else"),
        Input("specular_color", "Specular colour", 3, "colour", (1.0, 1.0, 1.0), on_demand=True,
              materialx="specular_color", openpbr="specular_color",
              gltf=GltfPart(_SPECULAR, "specularColorFactor", "specularColorTexture", "rgb"),
              help="of what a non-metal reflects"),
        Input("coat_normal", "Coat normal", 3, "normal", (0.0, 0.0, 1.0), (-1.0, 1.0), on_demand=True,
              materialx="clearcoat_normal", openpbr="geometry_coat_normal",
              gltf=GltfPart(_COAT, "", "clearcoatNormalTexture", "rgb"), help="of the clear layer"),
        Input("sheen_roughness", "Sheen roughness", 1, "data", (0.0,), on_demand=True, materialx="sheen_roughness",
              openpbr="fuzz_roughness", gltf=GltfPart(_SHEEN, "sheenRoughnessFactor", "sheenRoughnessTexture", "a")),
        Input("anisotropy", "Anisotropy", 1, "data", (0.0,), on_demand=True, materialx="anisotropy_strength",
              openpbr="specular_roughness_anisotropy", gltf=GltfPart(_ANISOTROPY, "anisotropyStrength"),
              help="how much reflections are drawn out, as on brushed metal"),
        Input("anisotropy_rotation", "Anisotropy rotation", 1, "data", (0.0,), on_demand=True,
              materialx="anisotropy_rotation", gltf=GltfPart(_ANISOTROPY, "anisotropyRotation", unit=_TURN),
              help="of the direction that they are drawn out in, in turns from the tangent"),
        Input("subsurface", "Subsurface", 1, "data", (0.0,), on_demand=True, openpbr="subsurface_weight",
              gltf=GltfPart(_THROUGH, "diffuseTransmissionFactor", "diffuseTransmissionTexture", "a"),
              help="how much light is scattered through, as by leaves and wax"),
        Input("subsurface_color", "Subsurface colour", 3, "colour", (1.0, 1.0, 1.0), on_demand=True,
              openpbr="subsurface_color",
              gltf=GltfPart(_THROUGH, "diffuseTransmissionColorFactor", "diffuseTransmissionColorTexture", "rgb"),
              help="of the light that is scattered through"),
    )
}  # fmt: skip
