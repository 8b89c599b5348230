"""What the house asks of models: texel density, how many materials, how far UV islands lie apart."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, cast

from texel.document_types import ModelsDocument
from texel.schemas import check_document

__all__ = ["DEFAULT_MODELS", "ModelRules", "parse_models"]

# 512 texels a metre, and twice or half of it at most: common practice for what a player walks past. Eight texels
# between islands on a map of 1024 keep three smaller mips clean (common practice).
DEFAULT_MODELS: ModelsDocument = {
    "format": "fair-texel/models", "version": 1, "title": "Models",
    "density": {"texels": 512, "factor": 2}, "materials": 8, "gap": {"texels": 8, "side": 1024},
}  # fmt: skip


@dataclass(frozen=True)
class ModelRules:
    """density: texels a metre that are wanted, None where it does not matter; factor: how many times more or less may
    be. materials: the most of one model, None for any number. gap: texels between UV islands on a map of ``side``,
    and in proportion on others; None where it does not matter."""

    density: float | None = None
    factor: float = 2.0
    materials: int | None = None
    gap: float | None = None
    side: int = 1024

    def gap_on(self, side: int) -> float | None:
        """Texels wanted between islands on a map of ``side``."""
        return None if self.gap is None else self.gap * side / self.side


def parse_models(document: Any, where: str = "the rules for models") -> ModelRules:
    """The rules of a document (schema models). Raises BadDocument.

    >>> parse_models(DEFAULT_MODELS).gap_on(2048)
    16.0
    """
    check_document(document, "models", where)
    given = cast(ModelsDocument, document)
    density, gap = given.get("density"), given.get("gap")
    return ModelRules(
        float(density["texels"]) if density else None, float(density["factor"]) if density else 2.0,
        given.get("materials"), float(gap["texels"]) if gap else None, gap["side"] if gap else 1024,
    )  # fmt: skip
