"""Steps that look beyond one texel: size, borders, colour under alpha, steps in height, light, derived maps."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from texel.colour import decode_srgb, encode_srgb, luminance, srgb_to_unit_linear
from texel.derive.from_colour import height_from_luminance, roughness_from_luminance
from texel.derive.occlusion import occlusion_from_height
from texel.derive.specular import loss, metallic_and_colour
from texel.errors import MismatchedMaps
from texel.files.limits import DEFAULT_LIMITS
from texel.image import REC709, Pixels, Texels, to_unit
from texel.normals.vectors import renormalise
from texel.primaries import PRIMARIES, conversion
from texel.recipes.step import (
    COLOURS,
    LENGTHS,
    Context,
    Shape,
    Step,
    choice,
    cover,
    in_texels,
    map_of,
    number,
    over_colour,
    switch,
    whole,
)
from texel.repair.covered import covered_from, fitted_cover
from texel.repair.dequantise import ROUNDS, dequantise
from texel.repair.dilate import dilate_under_alpha
from texel.repair.occlusion import remove_occlusion
from texel.repair.tileable import Fade, make_tileable
from texel.resize import nearest_power_of_two, resize
from texel.roles import Role, Transfer
from texel.strips import by_rows

__all__ = [
    "BaseColourFromSpecular", "Dequantise", "Dilate", "FillBetweenIslands", "HeightFromColour", "MakeTileable",
    "MetallicFromSpecular", "OcclusionFromHeight", "PowerOfTwo", "RemoveOcclusion", "Resize", "RoughnessFromColour",
    "SpecularLoss", "ToSrgbPrimaries",
]  # fmt: skip

_LARGEST = 16384
# What a map that was enlarged is kept with at most, unless it came in floats.
_KEPT_BITS = 16
_TRIED_ROUNDS = 12
_PRIMARY_WORDS = {
    "file": "As the file says",
    "rec2020": "BT.2020", "p3_d65": "P3, white D65", "p3_dci": "P3, DCI white", "ap1": "AP1", "ap0": "AP0",
}  # fmt: skip
_JOINS = {
    "fade": "Faded, the same way for every map of a set",
    "cut": "Cut where they differ least, for one photograph with lines, before maps are made of it",
    "auto": "Faded or cut, whichever is measured to be more like the picture",
}
_METHODS = {"auto": "Area when smaller, Lanczos when larger", "area": "Area mean", "lanczos": "Lanczos"}
_BORDERS = {"auto": "As the map's borders tell", "wrap": "The texture repeats", "clamp": "It ends at its border"}


def _linear(texels: Texels) -> Pixels:
    """Linear colour, shape (h, w, 3), 0 to 1, of a picture whose stored numbers are colour."""
    rgb = _three(texels)
    return to_unit(rgb) if texels.transfer is Transfer.LINEAR else srgb_to_unit_linear(rgb)


def _three(texels: Texels) -> Pixels:
    """Three channels as they are stored; a grey one three times, the third of two black."""
    pixels = texels.pixels
    if texels.channels[0] == "y":
        return pixels[:, :, :1].repeat(3, axis=2)
    if texels.channels == "rg":
        return np.pad(pixels, ((0, 0), (0, 0), (0, 1)))
    return np.ascontiguousarray(pixels[:, :, :3])


def _light_of_file(texels: Texels) -> Pixels:
    """Linear colour, shape (h, w, 3), 0 to 1, of a file that is read in another role than a colour's."""
    rgb = _three(texels)
    linear = (texels.as_colour or texels.transfer) is Transfer.LINEAR
    return np.clip(to_unit(rgb), 0, 1) if linear else srgb_to_unit_linear(rgb)


def _lightness_of(texels: Texels) -> Callable[[Pixels], Pixels]:
    """From some rows of a map, as they are stored, to their lightness."""
    return lambda rows: by_rows(lambda some: _lightness(texels.with_pixels(some)), rows)


def _lightness(texels: Texels) -> Pixels:
    """Perceived lightness, 0 to 1, shape (h, w), of a colour file, whatever the role it gets. A grey one is encoded as
    its lightness if it is sRGB."""
    if texels.channels[0] == "y" and texels.as_colour is not Transfer.LINEAR:
        return to_unit(texels.pixels)[:, :, 0]
    return encode_srgb(luminance(_light_of_file(texels)))


def _grey_of(texels: Texels, rows_of: Callable[[slice], Pixels], context: Context) -> Texels:
    """A step's result of one channel from what ``rows_of`` gives: floats of shape (rows, w), held within 0 to 1."""
    shape = (texels.height, texels.width, 1)
    pixels = context.by_strips(shape, lambda rows: np.clip(rows_of(rows), 0, 1)[:, :, None])
    return replace(texels, pixels=pixels, channels="y", transfer=Transfer.LINEAR)


def _some(texels: Texels, rows: slice) -> Texels:
    return texels.with_pixels(texels.pixels[rows])


def _resized(
    texels: Texels, width: int, height: int, context: Context, method: str = "auto", edges: str = "auto"
) -> Texels:
    """The map at a size given in full texels. Raises TooLarge beyond what would be read back."""
    DEFAULT_LIMITS.check(texels.name, width, height, len(texels.channels), _KEPT_BITS)
    share = context.scale
    if context.most is not None:
        share = min(share, (context.most / (width * height)) ** 0.5)
    width, height = max(1, round(width * share)), max(1, round(height * share))
    if (width, height) == (texels.width, texels.height):
        return texels
    return resize(texels, width, height, method, edges, context.depth or np.dtype(np.float32))


def _fit(other: Texels, like: Texels) -> Texels:
    """Another map at the size of this one."""
    return resize(other, like.width, like.height)


@dataclass(frozen=True)
class Resize(Step):
    """Another size, in texels: colour in linear light weighed by its alpha, normals as vectors."""

    step = "resize"
    label = "Resize"
    group = "Shape"
    from_stored = True
    width: int = whole(1, _LARGEST, "Width", "texels")
    height: int = whole(1, _LARGEST, "Height", "texels")
    method: str = choice("auto", _METHODS, "Filter")
    edges: str = choice("auto", _BORDERS, "Beyond the border")

    def apply(self, texels: Texels, context: Context) -> Texels:
        return _resized(texels, self.width, self.height, context, self.method, self.edges)

    def shape(self, before: Shape) -> Shape:
        return before._replace(width=self.width, height=self.height)

    @property
    def summary(self) -> str:
        return f"Resize to {self.width} x {self.height}"


@dataclass(frozen=True)
class PowerOfTwo(Step):
    """Each side to the nearest power of two."""

    step = "power_of_two"
    label = "Make power of two"
    group = "Shape"
    from_stored = True

    def apply(self, texels: Texels, context: Context) -> Texels:
        width, height = (nearest_power_of_two(round(side / context.scale)) for side in (texels.width, texels.height))
        return _resized(texels, width, height, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(width=nearest_power_of_two(before.width), height=nearest_power_of_two(before.height))


@dataclass(frozen=True)
class Dilate(Step):
    """Colour under alpha taken from the nearest texel inside, so that no fringe shows when the map gets smaller."""

    step = "dilate"
    label = "Dilate colour under alpha"
    group = "Shape"
    exact = True
    suits = COLOURS
    mask: str = choice(
        "own", {"own": "This map's own alpha", "opacity": "The set's opacity map"}, "Where the cut-out comes from"
    )
    threshold: float = number(0.5, 0.01, 1, "Alpha below this is outside")

    def apply(self, texels: Texels, context: Context) -> Texels:
        if self.mask == "opacity":
            alpha = to_unit(_fit(context.other("opacity"), texels).channel("r"))
        elif texels.has_alpha:
            alpha = to_unit(texels.channel("a"))
        else:
            return texels
        return over_colour(texels, lambda v: dilate_under_alpha(v, alpha, self.threshold))

    @property
    def others(self) -> tuple[str, ...]:
        return ("opacity",) if self.mask == "opacity" else ()


@dataclass(frozen=True)
class FillBetweenIslands(Step):
    """Texels that no UV island of a model covers, given the value of the nearest one that is covered, so that nothing
    else shows at seams and in smaller mips. The model says which; it must be put on anew when its UVs change."""

    step = "fill_between_islands"
    label = "Fill between UV islands"
    group = "Shape"
    exact = True
    islands: str = cover("The texels that the model uses")

    def apply(self, texels: Texels, context: Context) -> Texels:
        if not self.islands:
            return texels
        used = fitted_cover(covered_from(self.islands), texels.width, texels.height)
        return texels.with_pixels(dilate_under_alpha(texels.pixels, used.astype(np.float32)))


@dataclass(frozen=True)
class MakeTileable(Step):
    """Borders that meet, by going over into a part of the same picture that has no seam there."""

    step = "make_tileable"
    label = "Make tileable"
    group = "Shape"
    from_stored = True
    width: float = number(0.2, 0.02, 0.5, "Share of the side along the border that may change")
    axes: str = choice("both", {"both": "All borders", "x": "Left and right", "y": "Upper and lower"}, "Which borders")
    method: str = choice("fade", _JOINS, "How the one goes over into the other")

    def apply(self, texels: Texels, context: Context) -> Texels:
        vectors = texels.role is Role.NORMAL and texels.channels in ("rgb", "rgba")
        made: Callable[[slice], Pixels]
        if self.method == "fade":
            made = Fade(texels.pixels, self.width, self.axes).rows
        else:
            whole = make_tileable(to_unit(texels.pixels), self.width, self.axes, self.method)
            made = whole.__getitem__

        def stored(rows: slice) -> Pixels:
            some = np.clip(made(rows), 0, 1)
            return renormalise(texels.with_pixels(some)).pixels if vectors else some

        return texels.with_pixels(context.by_strips(texels.pixels.shape, stored))


@dataclass(frozen=True)
class Dequantise(Step):
    """Steps out of a height where it lies in plateaus: a smooth 16-bit surface that rounds to the same steps."""

    step = "dequantise"
    label = "Remove banding"
    group = "Shape"
    suits = (Role.HEIGHT,)
    depth = 16
    from_stored = True
    edges: str = choice("wrap", {"wrap": "The texture repeats", "clamp": "It ends at its border"}, "Beyond the border")

    def apply(self, texels: Texels, context: Context) -> Texels:
        # Tried out, a rougher heal shows what it will do, soon enough to follow a hand.
        rounds = ROUNDS if context.most is None else _TRIED_ROUNDS
        smooth = dequantise(texels.pixels[:, :, 0], None, self.edges == "wrap", rounds)
        return _grey_of(texels, smooth.__getitem__, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y", bits=max(16, before.bits))


@dataclass(frozen=True)
class RemoveOcclusion(Step):
    """Occlusion divided out of the colour. An estimate: texels that were black stay unknown."""

    step = "remove_occlusion"
    label = "Take baked occlusion out"
    group = "Light"
    from_stored = True
    suits = (Role.BASE_COLOR,)
    occlusion: str = map_of("occlusion", "The occlusion that was multiplied in")
    strength: float = number(1, 0, 1, "How much of it was multiplied in")

    def apply(self, texels: Texels, context: Context) -> Texels:
        occlusion = _fit(context.other(self.occlusion), texels).channel("r")

        def stored(rows: slice) -> Pixels:
            baked = to_unit(occlusion[rows])

            def change(values: Pixels) -> Pixels:
                if texels.transfer is Transfer.LINEAR:
                    return remove_occlusion(values, baked, self.strength)
                return encode_srgb(remove_occlusion(decode_srgb(values), baked, self.strength))

            return over_colour(texels.with_pixels(to_unit(texels.pixels[rows])), change).pixels

        return texels.with_pixels(context.by_strips(texels.pixels.shape, stored))


@dataclass(frozen=True)
class ToSrgbPrimaries(Step):
    """Colours given in other primaries brought to those of sRGB, in linear light. What sRGB cannot show is clipped in
    integer maps and stays below 0 or above 1 in floats."""

    step = "to_srgb_primaries"
    label = "To sRGB primaries"
    group = "Light"
    suits = COLOURS
    local = True

    source: str = choice("rec2020", _PRIMARY_WORDS, "The primaries that the numbers are in.")

    def apply(self, texels: Texels, context: Context) -> Texels:
        told = texels.tags.primaries if self.source == "file" else PRIMARIES[self.source]
        if told is None:
            raise MismatchedMaps("{texels} does not say which primaries its colours are in", texels=texels.name)
        matrix = conversion(told).astype(np.float32)
        encoded = texels.transfer is Transfer.SRGB

        def change(pixels: Pixels) -> Pixels:
            if pixels.shape[2] == 1:
                return pixels  # grey is grey in all primaries
            if pixels.shape[2] != 3:
                raise MismatchedMaps("{texels} has no three colours to bring to other primaries", texels=texels.name)
            light = decode_srgb(pixels) if encoded else pixels
            brought = light @ matrix.T
            return encode_srgb(np.clip(brought, 0, 1)) if encoded else brought.astype(np.float32)

        tags = replace(texels.tags, cicp=None, chromaticities=REC709, icc=None)
        return replace(over_colour(texels, change), tags=tags)


@dataclass(frozen=True)
class HeightFromColour(Step):
    """A first height from one colour picture: bright is taken for high, or dark, and slow changes for light."""

    step = "height_from_colour"
    label = "Height from colour"
    group = "Derive"
    from_stored = True
    suits = (Role.HEIGHT, Role.NORMAL, Role.OCCLUSION)
    depth = 16
    fine: float = number(0.15, 0, 2, "Weight of the finest detail")
    broad: float = number(1, 0, 2, "Weight of the broadest forms")
    flatten: float = number(0.1, 0.005, 0.5, "Forms wider than this share of the side are taken for light")
    dark_is_high: bool = switch(False, "Dark places are high instead of low, as of pale joints between dark stones")

    def apply(self, texels: Texels, context: Context) -> Texels:
        height = height_from_luminance(texels.pixels, self.fine, self.broad, self.flatten, _lightness_of(texels))
        if self.dark_is_high:
            np.subtract(1, height, out=height)
        return _grey_of(texels, height.__getitem__, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y", bits=max(16, before.bits))


@dataclass(frozen=True)
class RoughnessFromColour(Step):
    """A first roughness from one colour picture: a level, and some of the picture's detail."""

    step = "roughness_from_colour"
    label = "Roughness from colour"
    group = "Derive"
    from_stored = True
    suits = (Role.ROUGHNESS,)
    level: float = number(0.6, 0, 1, "Roughness of the middle grey")
    variation: float = number(0.3, 0, 1, "How much the detail shows")
    bright_is_rough: bool = switch(False, "Bright places are rough instead of smooth")

    def apply(self, texels: Texels, context: Context) -> Texels:
        light = _lightness_of(texels)
        field = roughness_from_luminance(texels.pixels, self.level, self.variation, self.bright_is_rough, light)
        return _grey_of(texels, field.__getitem__, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y")


@dataclass(frozen=True)
class OcclusionFromHeight(Step):
    """Occlusion of a height: the share of the sky that each place sees above its horizons in 16 directions."""

    step = "occlusion_from_height"
    label = "Occlusion from height"
    group = "Derive"
    suits = (Role.OCCLUSION,)
    from_stored = True
    relief: float = number(8, 0.01, 512, "Height of white above black", "texels")
    unit: str = choice("texels", LENGTHS, "What relief is measured in")
    size: float = number(1, 0.001, 10000, "Length of the texture's width, for relief in metres", "metres")
    reach: float = number(0.25, 0.002, 0.5, "How far a place may be shaded from, share of the side")
    strength: float = number(1, 0, 8, "1 as measured; the result to this power")
    edges: str = choice("wrap", {"wrap": "The texture repeats", "clamp": "It ends at its border"}, "Beyond the border")

    def apply(self, texels: Texels, context: Context) -> Texels:
        relief = in_texels(self.relief, self.unit, self.size, texels, context)
        wrap = self.edges == "wrap"
        openness = occlusion_from_height(texels.pixels[:, :, 0], relief, self.reach, wrap, self.strength)
        return _grey_of(texels, openness.__getitem__, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y")


@dataclass(frozen=True)
class MetallicFromSpecular(Step):
    """Metallic of a specular map and the set's base colour (its diffuse): the way to metallic/roughness. Lossy."""

    step = "metallic_from_specular"
    label = "Metallic from specular"
    group = "Derive"
    from_stored = True
    suits = (Role.METALLIC,)
    diffuse: str = map_of("base_color", "The diffuse colour")

    def apply(self, texels: Texels, context: Context) -> Texels:
        diffuse = _fit(context.other(self.diffuse), texels)

        def metallic(rows: slice) -> Pixels:
            return metallic_and_colour(_linear(_some(diffuse, rows)), _light_of_file(_some(texels, rows)))[0]

        return _grey_of(texels, metallic, context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y")


@dataclass(frozen=True)
class BaseColourFromSpecular(Step):
    """Base colour of a diffuse and the set's specular map: the way to metallic/roughness. Lossy."""

    step = "base_color_from_specular"
    label = "Base colour from diffuse and specular"
    group = "Derive"
    from_stored = True
    suits = (Role.BASE_COLOR,)
    specular: str = map_of("specular", "The specular colour")

    def apply(self, texels: Texels, context: Context) -> Texels:
        specular = _fit(context.other(self.specular), texels)
        channels = "rgba" if texels.has_alpha else "rgb"

        def stored(rows: slice) -> Pixels:
            some = _some(texels, rows)
            _, colour = metallic_and_colour(_linear(some), _linear(_some(specular, rows)))
            colour = encode_srgb(colour) if texels.transfer is Transfer.SRGB else colour
            return (
                np.concatenate([colour, to_unit(some.channel("a")[:, :, None])], axis=2) if texels.has_alpha else colour
            )

        shape = (texels.height, texels.width, len(channels))
        return texels.with_pixels(context.by_strips(shape, stored), channels)

    def shape(self, before: Shape) -> Shape:
        return super().shape(before)._replace(channels="rgba" if before.channels.endswith("a") else "rgb")


@dataclass(frozen=True)
class SpecularLoss(Step):
    """What turning specular/glossiness into metallic/roughness loses: largest channel difference, white is 1."""

    step = "specular_loss"
    label = "Show what the conversion loses"
    group = "Derive"
    from_stored = True
    suits = (Role.SPECULAR,)
    diffuse: str = map_of("base_color", "The diffuse colour")

    def apply(self, texels: Texels, context: Context) -> Texels:
        diffuse = _fit(context.other(self.diffuse), texels)
        return _grey_of(texels, lambda rows: loss(_linear(_some(diffuse, rows)), _linear(_some(texels, rows))), context)

    def shape(self, before: Shape) -> Shape:
        return before._replace(channels="y")
