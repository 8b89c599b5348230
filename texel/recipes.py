"""Recipes: a map is made from its source by a list of typed steps, kept as data. Sources are never changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import MISSING, asdict, dataclass, fields, replace
from typing import Any, ClassVar

from texel import digest
from texel.channels.packing import invert as invert_pixels
from texel.errors import BadDocument
from texel.image import ColourTags, Texels
from texel.normals.flip import flip_green
from texel.normals.vectors import renormalise, z_from_xy
from texel.resize import resize
from texel.roles import Green

__all__ = ["STEPS", "apply_recipe", "parse_step", "recipe_digest", "step_label"]


@dataclass(frozen=True)
class FlipGreen:
    """Invert green: Y+ becomes Y- and back. Exact for 8 and 16 bits."""

    step: ClassVar[str] = "flip_green"
    label: ClassVar[str] = "Flip green"

    def apply(self, texels: Texels) -> Texels:
        return flip_green(texels)


@dataclass(frozen=True)
class Renormalise:
    """Every vector at unit length."""

    step: ClassVar[str] = "renormalise"
    label: ClassVar[str] = "Renormalise vectors"

    def apply(self, texels: Texels) -> Texels:
        return renormalise(texels)


@dataclass(frozen=True)
class RebuildZ:
    """Blue from red and green."""

    step: ClassVar[str] = "z_from_xy"
    label: ClassVar[str] = "Rebuild blue"

    def apply(self, texels: Texels) -> Texels:
        return z_from_xy(texels)


@dataclass(frozen=True)
class Invert:
    """Full scale minus value in every channel but alpha; gloss becomes roughness."""

    step: ClassVar[str] = "invert"
    label: ClassVar[str] = "Invert values"

    def apply(self, texels: Texels) -> Texels:
        count = len(texels.channels.removesuffix("a")) or 1
        pixels = texels.pixels.copy()
        pixels[:, :, :count] = invert_pixels(pixels[:, :, :count])
        return texels.with_pixels(pixels)


@dataclass(frozen=True)
class DropAlpha:
    """Leave the alpha channel out."""

    step: ClassVar[str] = "drop_alpha"
    label: ClassVar[str] = "Drop alpha"

    def apply(self, texels: Texels) -> Texels:
        if not texels.has_alpha or len(texels.channels) == 1:
            return texels
        return texels.with_pixels(texels.pixels[:, :, :-1].copy(), texels.channels[:-1])


@dataclass(frozen=True)
class IgnoreTag:
    """Read the numbers as the role asks, whatever colour tag the file carries."""

    step: ClassVar[str] = "ignore_tag"
    label: ClassVar[str] = "Ignore the file's colour tag"

    def apply(self, texels: Texels) -> Texels:
        return replace(texels, tags=ColourTags())


@dataclass(frozen=True)
class Resize:
    """Another size, in texels."""

    step: ClassVar[str] = "resize"
    label: ClassVar[str] = "Resize"
    width: int
    height: int

    def apply(self, texels: Texels) -> Texels:
        return resize(texels, self.width, self.height)


Step = FlipGreen | Renormalise | RebuildZ | Invert | DropAlpha | IgnoreTag | Resize
STEPS: dict[str, type[Step]] = {
    kind.step: kind for kind in (FlipGreen, Renormalise, RebuildZ, Invert, DropAlpha, IgnoreTag, Resize)
}
_LARGEST = 16384


def parse_step(document: dict[str, Any]) -> Step:
    """A step from ``{"step": name, option: value, ...}``. Raises BadDocument for an unknown name or option."""
    kind = STEPS.get(document.get("step", ""))
    if kind is None:
        raise BadDocument(f"there is no step {document.get('step')!r}; steps are {', '.join(STEPS)}")
    options = {key: value for key, value in document.items() if key not in ("step", "label")}
    known = {f.name for f in fields(kind)}
    needed = {f.name for f in fields(kind) if f.default is MISSING}
    if set(options) - known or needed - set(options):
        raise BadDocument(f"step {kind.step} takes {sorted(known) or 'no options'}, not {sorted(options)}")
    for name, value in options.items():
        if not isinstance(value, int) or isinstance(value, bool) or not 1 <= value <= _LARGEST:
            raise BadDocument(f"step {kind.step}: {name} must be a whole number from 1 to {_LARGEST}, not {value!r}")
    return kind(**options)


def step_document(step: Step) -> dict[str, Any]:
    return {"step": step.step, **asdict(step)}


def step_label(document: dict[str, Any]) -> str:
    """The step in words for people."""
    step = parse_step(document)
    return f"{step.label} to {step.width} x {step.height}" if isinstance(step, Resize) else step.label


def apply_recipe(texels: Texels, recipe: Iterable[dict[str, Any]]) -> Texels:
    """All steps in order. Raises BadDocument or MismatchedMaps."""
    for document in recipe:
        texels = parse_step(document).apply(texels)
    return texels


def recipe_digest(source: str, channel: str | None, recipe: Iterable[dict[str, Any]]) -> str:
    """Names the result of a recipe on a source by what goes into it, so that equal work is done once."""
    steps = [step_document(parse_step(s)) for s in recipe]
    return digest.of_document({"source": source, "channel": channel, "recipe": steps})


def green_after(claimed: Green | None, recipe: Iterable[dict[str, Any]]) -> Green | None:
    """The direction of a source that claims ``claimed`` after the recipe's flips."""
    flips: Callable[[Green], Green] = lambda g: {Green.UP: Green.DOWN, Green.DOWN: Green.UP}.get(g, g)  # noqa: E731
    for step in recipe:
        if claimed is not None and step.get("step") == FlipGreen.step:
            claimed = flips(claimed)
    return claimed
