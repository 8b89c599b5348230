"""What becomes of a map when a target reads it wrongly: as pixels, and in numbers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from texel.channels.packing import invert
from texel.colour import srgb_to_unit_linear
from texel.errors import MismatchedMaps
from texel.image import Texels, full_scale, narrow, to_unit
from texel.measures import Kind, compare, error_picture
from texel.normals.flip import flip_green
from texel.roles import Role, Transfer

__all__ = ["MISREADINGS", "Misreading", "as_srgb", "misread", "misread_figures"]


def _over_numbers(texels: Texels, change: Callable[[Any], Any]) -> Texels:
    count = len(texels.channels) - (1 if texels.has_alpha else 0)
    pixels = texels.pixels.copy()
    pixels[:, :, :count] = change(texels.pixels[:, :, :count])
    return texels.with_pixels(pixels)


def as_srgb(texels: Texels) -> Texels:
    """Data decoded as if it were sRGB colour: 0.5 becomes 0.21 (IEC 61966-2-1). Alpha stays."""
    return _over_numbers(texels, lambda p: narrow(srgb_to_unit_linear(p), texels.pixels.dtype))


def _as_linear(texels: Texels) -> Texels:
    """Colour that nothing decodes: the stored numbers are taken for light."""
    return replace(texels, transfer=Transfer.LINEAR)


def _gloss_as_roughness(texels: Texels) -> Texels:
    return _over_numbers(texels, invert)


def _white(texels: Texels) -> Texels:
    """Nothing is read: white, which occlusion's absence means."""
    return _over_numbers(texels, lambda p: np.full_like(p, full_scale(p.dtype)))


def _exchanged(texels: Texels) -> Texels:
    """Red and blue read as one another, as by a reader of the other order of channels."""
    if len(texels.channels) < 3:
        raise MismatchedMaps("{texels} has no three channels to exchange", texels=texels.name)
    order = [2, 1, 0, *range(3, len(texels.channels))]
    return texels.with_pixels(np.ascontiguousarray(texels.pixels[:, :, order]))


@dataclass(frozen=True)
class Misreading:
    """symptom: what one sees; cause: what the reader did; remedy: what to set. suits: whether a map can be read so."""

    key: str
    symptom: str
    cause: str
    remedy: str
    suits: Callable[[Texels], bool]
    read: Callable[[Texels], Texels]


def _is_colour(texels: Texels) -> bool:
    return texels.transfer is Transfer.SRGB and texels.pixels.dtype != np.float32


def _is_data(texels: Texels) -> bool:
    return texels.transfer is Transfer.LINEAR and texels.role is not Role.NORMAL and texels.pixels.dtype != np.float32


MISREADINGS: tuple[Misreading, ...] = (
    Misreading(
        "data_as_srgb", "Everything is too glossy, as if wet", "Data was decoded as sRGB colour",
        "Mark the texture as linear (not colour) in the target", _is_data, as_srgb,
    ),
    Misreading(
        "normal_as_srgb", "Surfaces lean to one side and look lit from below", "Normals were decoded as sRGB colour",
        "Mark the texture as linear, or as a normal map", lambda t: t.role is Role.NORMAL, as_srgb,
    ),
    Misreading(
        "green_flipped", "Dents look like bumps when the light comes from above", "Green points the other way",
        "Flip green, or set the target's direction", lambda t: t.role is Role.NORMAL and "g" in t.channels, flip_green,
    ),
    Misreading(
        "channels_exchanged", "Metal where there is none, hollows that shine", "Channels are read in another order",
        "Deliver in the layout that the target reads", lambda t: _is_data(t) and len(t.channels) >= 3, _exchanged,
    ),
    Misreading(
        "gloss_as_roughness", "Rough things shine and polished ones are dull", "Gloss was taken for roughness",
        "Invert the values; the name alone does not", lambda t: t.role in (Role.ROUGHNESS, Role.GLOSSINESS),
        _gloss_as_roughness,
    ),
    Misreading(
        "colour_as_linear", "Colours are pale and washed out", "Colour was not decoded from sRGB",
        "Mark the texture as sRGB colour", _is_colour, _as_linear,
    ),
    Misreading(
        "occlusion_missing", "Crevices are as bright as the rest, everything looks flat", "Occlusion is not read",
        "Connect the channel that holds occlusion", lambda t: t.role is Role.OCCLUSION, _white,
    ),
)  # fmt: skip


def misread(texels: Texels, key: str) -> Texels:
    """The map as that misreading leaves it. Raises MismatchedMaps for one that there is not, or that does not fit."""
    misreading = next((one for one in MISREADINGS if one.key == key), None)
    if misreading is None or not misreading.suits(texels):
        fitting = ", ".join(one.key for one in MISREADINGS if one.suits(texels)) or "none"
        raise MismatchedMaps(
            "{texels} cannot be misread as {key!r}; it can as {fitting}", texels=texels.name, key=key, fitting=fitting
        )
    return misreading.read(texels)


def _kind(key: str) -> Kind:
    if key in ("green_flipped", "normal_as_srgb"):
        return Kind.NORMAL
    return Kind.COLOUR if key == "colour_as_linear" else Kind.MASK


def misread_figures(texels: Texels) -> list[dict[str, Any]]:
    """Every misreading that fits the map: symptom, cause, remedy, and its error against the right reading, measured."""
    figures = []
    for one in MISREADINGS:
        if one.suits(texels):
            error = compare(texels, one.read(texels), _kind(one.key))
            mean = {"before": _mean(texels), "after": _mean(one.read(texels))}
            facts = {"symptom": one.symptom, "cause": one.cause, "remedy": one.remedy}
            figures.append({"misreading": one.key, **facts, "mean": mean, "error": error})
    return figures


def misread_picture(texels: Texels, key: str) -> Texels:
    """Where a misreading changes the map, as texel.measures.error_picture shows it. Raises MismatchedMaps."""
    return error_picture(texels, misread(texels, key), _kind(key))


def _mean(texels: Texels) -> float:
    return round(float(to_unit(texels.pixels).mean(dtype=np.float64)), 5)
