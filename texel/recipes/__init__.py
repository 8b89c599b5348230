"""Recipes: a map is made from its source by a list of typed steps, kept as data. Sources are never changed."""

from texel.recipes.catalogue import STEPS, catalogue
from texel.recipes.derivations import DERIVATIONS, derivation_of
from texel.recipes.run import (
    apply_recipe,
    green_after,
    others_of,
    parse_step,
    preview_recipe,
    recipe_digest,
    recipe_words,
    shape_after,
    step_document,
    step_label,
)

__all__ = [
    "DERIVATIONS",
    "STEPS",
    "apply_recipe",
    "catalogue",
    "derivation_of",
    "green_after",
    "others_of",
    "parse_step",
    "preview_recipe",
    "recipe_digest",
    "recipe_words",
    "shape_after",
    "step_document",
    "step_label",
]
