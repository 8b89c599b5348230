"""What the surfaces of MaterialX's library call the inputs of ours."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from texel.materials.simplify import component, constants_of, simplified
from texel.materials.tree import Call, Constant, Node

__all__ = ["NITS", "SURFACES", "Surface", "by_common_names"]

Values = Callable[[str], Node]
# Candelas a square metre that count as a strength of 1, as OpenPBR's own emission has them at a photographic exposure.
NITS = 1000.0


@dataclass(frozen=True)
class Surface:
    """inputs: ours from theirs. normal: theirs; coat_normal: that of the coat. opacity: mode and cut-off.
    known: what of theirs is taken."""

    inputs: Callable[[Values], dict[str, Node]]
    normal: str
    opacity: Callable[[Values], tuple[str, float]]
    known: frozenset[str]
    coat_normal: str = ""


def _times(a: Node, b: Node) -> Node:
    return simplified(Call("multiply", (a, b)))


def _standard_surface(of: Values) -> dict[str, Node]:
    return {
        "base_color": _times(of("base_color"), of("base")), "metallic": of("metalness"),
        "roughness": of("specular_roughness"), "specular": of("specular"), "coat": of("coat"),
        "coat_roughness": of("coat_roughness"), "sheen": _times(of("sheen_color"), of("sheen")),
        "opacity": component(of("opacity"), "r"), **_glow(of("emission_color"), of("emission")),
        "specular_color": of("specular_color"), "ior": of("specular_IOR"), "transmission": of("transmission"),
        "anisotropy": of("specular_anisotropy"), "anisotropy_rotation": of("specular_rotation"),
        **_where(of("sheen"), {"sheen_roughness": of("sheen_roughness")}),
        **_where(of("subsurface"), {"subsurface": of("subsurface"), "subsurface_color": of("subsurface_color")}),
    }  # fmt: skip


def _open_pbr(of: Values) -> dict[str, Node]:
    return {
        "base_color": _times(of("base_color"), of("base_weight")), "metallic": of("base_metalness"),
        "roughness": of("specular_roughness"), "specular": of("specular_weight"), "coat": of("coat_weight"),
        "coat_roughness": of("coat_roughness"), "sheen": _times(of("fuzz_color"), of("fuzz_weight")),
        "opacity": of("geometry_opacity"), "specular_color": of("specular_color"), "ior": of("specular_ior"),
        "transmission": of("transmission_weight"), "anisotropy": of("specular_roughness_anisotropy"),
        **_where(of("fuzz_weight"), {"sheen_roughness": of("fuzz_roughness")}),
        **_where(
            of("subsurface_weight"),
            {"subsurface": of("subsurface_weight"), "subsurface_color": of("subsurface_color")},
        ),
        **_glow(of("emission_color"), _times(of("emission_luminance"), Constant(1 / NITS))),
    }  # fmt: skip


def _where(share: Node, inputs: dict[str, Node]) -> dict[str, Node]:
    """What is nothing to speak of where a share is 0."""
    return {} if constants_of(share) == (0.0,) else inputs


def _glow(colour: Node, strength: Node) -> dict[str, Node]:
    """No light at all is no colour of light, so that a strength of 0 is nothing to speak of."""
    if constants_of(strength) == (0.0,):
        return {}
    return {"emissive": colour, "emissive_strength": strength}


def _gltf(of: Values) -> dict[str, Node]:
    return {
        "base_color": of("base_color"), "metallic": of("metallic"), "roughness": of("roughness"),
        "occlusion": of("occlusion"), "specular": of("specular"), "coat": of("clearcoat"),
        "coat_roughness": of("clearcoat_roughness"), "sheen": of("sheen_color"), "opacity": of("alpha"),
        "transmission": of("transmission"), "ior": of("ior"), "specular_color": of("specular_color"),
        "sheen_roughness": of("sheen_roughness"), "anisotropy": of("anisotropy_strength"),
        "anisotropy_rotation": _times(of("anisotropy_rotation"), Constant(1 / (2 * math.pi))),
        **_glow(of("emissive"), of("emissive_strength")),
    }  # fmt: skip


def _preview_surface(of: Values) -> dict[str, Node]:
    surface = {
        "base_color": of("diffuseColor"), "metallic": of("metallic"), "roughness": of("roughness"),
        "occlusion": of("occlusion"), "emissive": of("emissiveColor"), "opacity": of("opacity"),
        "coat": of("clearcoat"), "coat_roughness": of("clearcoatRoughness"), "ior": of("ior"),
    }  # fmt: skip
    if constants_of(of("displacement")) != (0.0,):
        surface |= {"height": of("displacement"), "height_scale": Constant(1.0)}
    return surface


def _number(node: Node) -> float:
    constants = constants_of(node)
    return constants[0] if constants else 0.0


def _blended(name: str) -> Callable[[Values], tuple[str, float]]:
    """Blended as soon as it may be less than opaque."""
    return lambda of: ("opaque" if constants_of(of(name)) in ((1.0,), (1.0, 1.0, 1.0)) else "blend", 0.5)


def _gltf_opacity(of: Values) -> tuple[str, float]:
    mode = ("opaque", "cut_out", "blend")[min(max(round(_number(of("alpha_mode"))), 0), 2)]
    return mode, _number(of("alpha_cutoff"))


def _preview_opacity(of: Values) -> tuple[str, float]:
    threshold = _number(of("opacityThreshold"))
    return ("cut_out", threshold) if threshold > 0 else _blended("opacity")(of)


# What surfaces at large call the inputs of ours, without underscores and capitals; the first that is there is taken.
_COMMON: dict[str, tuple[str, ...]] = {
    "base_color": ("basecolor", "color", "diffusecolor", "diffuse", "albedo"),
    "metallic": ("metallic", "metalness"),
    "roughness": ("roughness", "specularroughness"),
    "occlusion": ("occlusion", "ambientocclusion", "ao"),
    "emissive": ("emissive", "emissivecolor", "emission", "emissioncolor"),
    "opacity": ("opacity", "alpha"),
}


def by_common_names(types: Mapping[str, str]) -> Surface | None:
    """A surface of a kind that nothing defines, read by what its inputs are called; None where no name is known.

    types: of the inputs that are given, by name.

    >>> sorted(by_common_names({"Base_Color": "color3", "metalness": "float", "density": "float"}).known)
    ['Base_Color', 'metalness']
    """
    plain = {name.replace("_", "").lower(): name for name in types}
    wanted = {"base_color": "color3", "emissive": "color3"}
    surface = {}
    for ours, words in _COMMON.items():
        theirs = next((plain[word] for word in words if word in plain), None)
        if theirs is not None and types[theirs] == wanted.get(ours, "float"):
            surface[ours] = theirs
    normal = plain.get("normal", "")
    if not surface:
        return None
    opacity = _blended(surface["opacity"]) if "opacity" in surface else _opaque
    known = frozenset([*surface.values(), *([normal] if normal else [])])
    return Surface(lambda of: {ours: of(theirs) for ours, theirs in surface.items()}, normal, opacity, known)


def _opaque(of: Values) -> tuple[str, float]:
    return "opaque", 0.5


SURFACES: dict[str, Surface] = {
    "standard_surface": Surface(
        _standard_surface, "normal", _blended("opacity"),
        frozenset({
            "base", "base_color", "metalness", "specular_roughness", "specular", "coat", "coat_roughness", "sheen",
            "sheen_color", "opacity", "emission", "emission_color", "normal", "specular_color", "specular_IOR",
            "transmission", "specular_anisotropy", "specular_rotation", "sheen_roughness", "subsurface",
            "subsurface_color", "coat_normal",
        }),
        "coat_normal",
    ),
    "open_pbr_surface": Surface(
        _open_pbr, "geometry_normal", _blended("geometry_opacity"),
        frozenset({
            "base_weight", "base_color", "base_metalness", "specular_roughness", "specular_weight", "coat_weight",
            "coat_roughness", "fuzz_color", "fuzz_weight", "geometry_opacity", "emission_color", "emission_luminance",
            "geometry_normal", "specular_color", "specular_ior", "transmission_weight", "fuzz_roughness",
            "specular_roughness_anisotropy", "subsurface_weight", "subsurface_color", "geometry_coat_normal",
        }),
        "geometry_coat_normal",
    ),
    "gltf_pbr": Surface(
        _gltf, "normal", _gltf_opacity,
        frozenset({
            "base_color", "metallic", "roughness", "occlusion", "specular", "clearcoat", "clearcoat_roughness",
            "sheen_color", "emissive", "emissive_strength", "alpha", "alpha_mode", "alpha_cutoff", "normal",
            "transmission", "ior", "specular_color", "sheen_roughness", "anisotropy_strength", "anisotropy_rotation",
            "clearcoat_normal",
        }),
        "clearcoat_normal",
    ),
    "UsdPreviewSurface": Surface(
        _preview_surface, "normal", _preview_opacity,
        frozenset({
            "diffuseColor", "metallic", "roughness", "occlusion", "emissiveColor", "opacity", "clearcoat",
            "clearcoatRoughness", "displacement", "opacityThreshold", "normal", "ior",
        }),
    ),
}  # fmt: skip
