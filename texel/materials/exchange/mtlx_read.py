"""Materials from MaterialX: our own exports exactly, foreign ones as far as rows can say them."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import MaterialX as mx

from texel.errors import BadDocument
from texel.materials.exchange.imported import Imported, each_alone, with_refused
from texel.materials.exchange.mtlx_document import open_document, problems_of
from texel.materials.exchange.mtlx_foreign import read_foreign
from texel.materials.exchange.mtlx_own import NotOurs, read_own

__all__ = ["read_materialx"]


def read_materialx(text: str, where: str = "the document") -> list[Imported]:
    """One master for each sheet of ours, or for each material of a foreign document.

    Raises BadDocument when the text is no MaterialX, when its nodes read each other in a circle, or when it holds no
    material.
    """
    try:
        return _read(open_document(text, where), text, where)
    except (LookupError, ValueError, RuntimeError) as error:
        # What MaterialX itself finds only on the way, definitions that inherit from each other for instance.
        raise BadDocument("{where} cannot be read: {error}", where=where, error=str(error)[:200]) from None


def _read(document: mx.Document, text: str, where: str) -> list[Imported]:
    own: list[Imported] = []
    reasons: list[str] = []
    for definition in document.getNodeDefs():
        if definition.hasAttribute("ft_name"):
            try:
                own.append(read_own(document, definition))
            except NotOurs as reason:
                reasons.append(f"It was changed since it was written here, and is read as a foreign one: {reason}")
    if own and not reasons:
        return own
    if "http://www.w3.org/2001/XInclude" in text:
        reasons.append("Other documents that it includes are not read")
    valid, why = document.validate()
    if not valid:
        reasons.append(f"MaterialX's own check finds: {why.strip().splitlines()[0][:200]}")
    # What nothing defines is told where it is read.
    reasons += [one for one in problems_of(document) if "nothing defines" not in one]
    materials, refused = each_alone(
        [(title, partial(_foreign, document, (title, *rest))) for title, *rest in _materials(document)]
    )
    for material in document.getMaterialNodes():
        reasons += [
            f"{material.getName()}: its {given.getName()} is not read"
            for given in material.getInputs()
            if given.getName() not in ("surfaceshader", "displacementshader")
        ]
    if not materials and not own:
        if refused:
            raise BadDocument("{where}: {listed}", where=where, listed="; ".join(refused))
        raise BadDocument("{where}: there is no material with a surface in it", where=where)
    return own + with_refused([replace(one, lost=(*reasons, *one.lost)) for one in materials], refused)


def _foreign(document: mx.Document, material: tuple[str, mx.Node, mx.Node | None]) -> Imported:
    try:
        return read_foreign(document, material)
    except (LookupError, ValueError, RuntimeError, OverflowError) as error:
        raise BadDocument(
            "{material}: it cannot be read: {error}", material=material[0], error=str(error)[:200]
        ) from None


def _materials(document: mx.Document) -> list[tuple[str, mx.Node, mx.Node | None]]:
    """Title, surface and displacement of each material; surfaces that no material takes stand for themselves."""
    materials = []
    for material in document.getMaterialNodes():
        surface, displacement = (
            _connected(document, material.getInput(name)) for name in ("surfaceshader", "displacementshader")
        )
        if surface is not None:
            materials.append((material.getAttribute("uiname") or material.getName(), surface, displacement))
    taken = {surface.getName() for _, surface, _ in materials}
    for node in document.getNodes():
        if node.getType() == "surfaceshader" and node.getName() not in taken:
            materials.append((node.getName(), node, None))
    return materials


def _connected(document: mx.Document, given: mx.Input | None) -> mx.Node | None:
    if given is None:
        return None
    if given.getNodeGraphString():
        graph = document.getNodeGraph(given.getNodeGraphString())
        output = graph.getOutput(given.getOutputString() or "out") if graph is not None else None
        return graph.getNode(output.getNodeName()) if output is not None else None
    return document.getNode(given.getNodeName()) if given.getNodeName() else None
