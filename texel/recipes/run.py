"""Parse, name and apply recipes. A step with ``"off": true`` is kept but passed over."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache, partial
from itertools import groupby
from typing import Any

import numpy as np

from texel import digest
from texel.errors import BadDocument
from texel.image import Texels, narrow, to_unit
from texel.recipes.catalogue import STEPS
from texel.recipes.speed import by_strips, by_table
from texel.recipes.step import NORMALS, Context, Shape, Step
from texel.roles import Green, Role

__all__ = [
    "apply_recipe", "green_after", "others_of", "parse_step", "preview_recipe", "recipe_digest", "recipe_words",
    "shape_after", "step_document", "step_label",
]  # fmt: skip

Recipe = Iterable[Mapping[str, Any]]
_PLAIN = Context()
_MAX_TRIED = 2048 * 2048
# Keys of a step's document that are no options of it.
_BESIDE = ("step", "label", "off")
_DEPTHS: dict[int, np.dtype[Any]] = {8: np.dtype(np.uint8), 16: np.dtype(np.uint16)}


def parse_step(document: Mapping[str, Any]) -> Step:
    """A step from ``{"step": name, option: value, ...}``. Raises BadDocument for an unknown name or option."""
    kind = STEPS.get(document.get("step", ""))
    if kind is None:
        raise BadDocument(
            "there is no step {document!r}; steps are {listed}", document=document.get("step"), listed=", ".join(STEPS)
        )
    if not isinstance(document.get("off", False), bool):
        raise BadDocument("step {step}: off must be true or false, not {off!r}", step=kind.step, off=document["off"])
    return kind.parse({key: value for key, value in document.items() if key not in _BESIDE})


def step_document(step: Step) -> dict[str, Any]:
    return step.document()


def step_label(document: Mapping[str, Any]) -> str:
    """The step in words for people."""
    return parse_step(document).summary


def recipe_words(recipe: Recipe) -> list[str]:
    """The steps in force in words for people, in order."""
    return [step.summary for step in _steps(recipe)]


def _steps(recipe: Recipe) -> list[Step]:
    """The steps in force; those switched off are checked all the same."""
    parsed = [(parse_step(document), document.get("off", False)) for document in recipe]
    return [step for step, off in parsed if not off]


def apply_recipe(texels: Texels, recipe: Recipe, context: Context = _PLAIN) -> Texels:
    """All steps in order. Raises BadDocument or MismatchedMaps.

    Integers stay integers through exact steps. Others work on floats; what follows stays float, and the result is
    rounded once, to the depth of the source or to what a step asks for (16 bits for derived heights and normals).
    """
    steps = _steps(recipe)
    bits = max([texels.bits, *(step.depth for step in steps)])
    groups = [(way, list(group)) for way, group in groupby(steps, _way)]
    for at, (way, group) in enumerate(groups):
        # Rounding is a part of the last group's work where that spares a pass over the whole picture.
        depth = _DEPTHS.get(bits) if at == len(groups) - 1 else None
        if way == "curve" and texels.bits < 32:
            texels = by_table(texels, group, depth)
        elif way == "local" and texels.bits < 32:
            texels = by_strips(texels, partial(_one_by_one, steps=group, context=context), depth)
        else:
            texels = _one_by_one(texels, group, context, depth)
    if texels.pixels.dtype == np.float32 and bits in _DEPTHS:
        texels = replace(texels, pixels=narrow(texels.pixels, _DEPTHS[bits]))
    return texels


def _way(step: Step) -> str:
    if step.curve is not None:
        return "curve"
    return "local" if step.local else "whole"


def _one_by_one(texels: Texels, steps: Sequence[Step], context: Context, depth: np.dtype[Any] | None = None) -> Texels:
    for step in steps:
        role, integers = texels.role, texels.bits < 32
        if not (step.exact or step.from_stored):
            texels = replace(texels, pixels=to_unit(texels.pixels))
            if integers and step.suits == NORMALS:
                # Integers hold (n + 1) / 2 whatever their role; made floats, they must not be asked for their sign.
                texels = replace(texels, role=Role.NORMAL)
        texels = step.apply(texels, replace(context, depth=depth if step is steps[-1] else None))
        if integers and step.suits == NORMALS and not step.from_stored:
            texels = replace(texels, role=role)
    return texels


def preview_recipe(small: Texels, scale: float, recipe: Recipe, context: Context = _PLAIN) -> Texels:
    """A recipe on a map that was made smaller: ``scale`` texels here for each of the full map (at most 1).

    Steps that enlarge the map do so only up to four million texels here.
    """
    return apply_recipe(small, recipe, replace(context, scale=scale, most=_MAX_TRIED))


def others_of(recipe: Recipe) -> tuple[str, ...]:
    """Names of the other maps that a recipe reads, in order, each once."""
    return tuple(dict.fromkeys(name for step in _steps(recipe) for name in step.others))


def recipe_digest(source: str, channel: str | None, recipe: Recipe, others: Mapping[str, str] | None = None) -> str:
    """Names the result of a recipe on a source by what goes into it, so that equal work is done once.

    others: the digests of the other maps that it reads, by name.
    """
    if not recipe and not others:
        return _plain_digest(source, channel)
    document: dict[str, Any] = {"source": source, "channel": channel, "recipe": [s.document() for s in _steps(recipe)]}
    return digest.of_document(document | ({"others": dict(sorted(others.items()))} if others else {}))


@lru_cache(maxsize=20_000)
def _plain_digest(source: str, channel: str | None) -> str:
    """Of a source without steps: a plan asks for the same ones several times."""
    return digest.of_document({"source": source, "channel": channel, "recipe": []})


def green_after(claimed: Green | None, recipe: Recipe) -> Green | None:
    """The direction of a source that claims ``claimed`` behind the recipe."""
    for step in _steps(recipe):
        claimed = step.green(claimed)
    return claimed


def shape_after(shape: Shape, recipe: Recipe) -> Shape:
    """Size, channels and depth behind the recipe, told without decoding anything."""
    for step in _steps(recipe):
        shape = step.shape(shape)
    return shape
