"""Which map can be made from which other one, and by which steps to begin with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from texel.recipes.run import step_document
from texel.recipes.step import Step
from texel.recipes.surfaces import (
    HeightFromColour,
    MetallicFromSpecular,
    OcclusionFromHeight,
    RoughnessFromColour,
)
from texel.recipes.values import GlossToRoughness
from texel.recipes.vectors import HeightFromNormal, NormalFromHeight
from texel.roles import Role

__all__ = ["DERIVATIONS", "Derivation", "derivation_of"]


@dataclass(frozen=True)
class Derivation:
    """``role`` made from a map of the role ``source``. estimate: a stop-gap, not what the surface really has."""

    source: Role
    role: Role
    steps: tuple[Step, ...]
    estimate: bool = False

    @property
    def recipe(self) -> list[dict[str, Any]]:
        return [step_document(step) for step in self.steps]


# A photograph says nothing of its relief, so it begins gently, in percent of the width: photographed brick, grass and
# gravel (sample pictures of scikit-image) then lean by 6 to 10 degrees on average.
_RELIEF, _SHADED_RELIEF = 0.45, 1.0
# Best first: a missing map is offered from the first source that the set has.
DERIVATIONS: tuple[Derivation, ...] = (
    Derivation(Role.HEIGHT, Role.NORMAL, (NormalFromHeight(),)),
    Derivation(Role.GLOSSINESS, Role.ROUGHNESS, (GlossToRoughness(),)),
    Derivation(Role.NORMAL, Role.HEIGHT, (HeightFromNormal(),)),
    Derivation(Role.HEIGHT, Role.OCCLUSION, (OcclusionFromHeight(),), estimate=True),
    Derivation(Role.SPECULAR, Role.METALLIC, (MetallicFromSpecular(),), estimate=True),
    Derivation(Role.BASE_COLOR, Role.HEIGHT, (HeightFromColour(),), estimate=True),
    Derivation(
        Role.BASE_COLOR, Role.NORMAL, (HeightFromColour(), NormalFromHeight(_RELIEF, unit="percent")), estimate=True
    ),
    Derivation(Role.BASE_COLOR, Role.ROUGHNESS, (RoughnessFromColour(),), estimate=True),
    Derivation(
        Role.BASE_COLOR,
        Role.OCCLUSION,
        (HeightFromColour(), OcclusionFromHeight(_SHADED_RELIEF, unit="percent")),
        estimate=True,
    ),
)


def derivation_of(role: Role, available: set[Role]) -> Derivation | None:
    """The best way to make ``role`` from maps that are there; None when there is none."""
    return next((d for d in DERIVATIONS if d.role is role and d.source in available), None)
