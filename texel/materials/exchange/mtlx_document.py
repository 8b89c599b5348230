"""MaterialX documents taken in with care, and what MaterialX's own validation does not look for."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

import MaterialX as mx

from texel.errors import BadDocument

__all__ = ["COLOUR_SPACES", "library", "open_document", "problems_of"]

_LARGEST = 8 * 2**20
_MAX_ELEMENTS = 50_000
# Of MaterialX's own library, which transforms them all to linear light of BT.709.
COLOUR_SPACES = {
    "", "none", "srgb_texture", "lin_rec709", "g18_rec709", "g22_rec709", "rec709_display", "acescg", "g22_ap1",
    "lin_ap1", "srgb_displayp3", "lin_displayp3", "adobergb", "lin_adobergb", "lin_rec709_scene", "g22_rec709_scene",
    "srgb_rec709_scene", "lin_ap1_scene",
}  # fmt: skip


@lru_cache
def library() -> mx.Document:
    """MaterialX's standard definitions, loaded once (0.2 s)."""
    document = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), document)
    return document


def open_document(text: str, where: str) -> mx.Document:
    """The document with the standard library behind it. Nothing but the text is read: no includes, no entities.

    Raises BadDocument when it is no MaterialX, too large, or when its nodes read each other in a circle.
    """
    if len(text) > _LARGEST:
        raise BadDocument("{where}: a document has at most {largest} MiB", where=where, largest=_LARGEST // 2**20)
    if re.search(r"<!\s*(DOCTYPE|ENTITY)", text, re.IGNORECASE):
        raise BadDocument("{where}: a document type or entities have no place in MaterialX", where=where)
    document = mx.createDocument()
    options = mx.XmlReadOptions()
    options.readXIncludeFunction = None
    try:
        mx.readFromXmlString(document, text, mx.FileSearchPath(), options)
    except (mx.ExceptionParseError, mx.Exception, RuntimeError) as error:
        raise BadDocument("{where} is not MaterialX: {error}", where=where, error=str(error)[:200]) from None
    count = sum(1 for _ in document.traverseTree())
    if not document.getChildren():
        raise BadDocument("{where} is not MaterialX: it holds no elements", where=where)
    if count > _MAX_ELEMENTS:
        raise BadDocument(
            "{where}: a document has at most {max_elements} elements, this one has {count}",
            where=where,
            max_elements=_MAX_ELEMENTS,
            count=count,
        )
    document.setDataLibrary(library())
    circle = next(_circles(document), None)
    if circle:
        raise BadDocument("{where}: nodes read each other in a circle: {circle}", where=where, circle=circle)
    return document


def problems_of(document: mx.Document) -> list[str]:
    """What is wrong beyond MaterialX's validation: circles, ranges, colour spaces, nodes that nothing defines."""
    problems = [f"nodes read each other in a circle: {circle}" for circle in _circles(document)]
    for element in document.traverseTree():
        space = element.getAttribute("colorspace")
        if space not in COLOUR_SPACES:
            problems.append(f"{element.getNamePath()}: there is no colour space {space}")
        if element.isA(mx.Input):
            problems += _range_problems(element)
        if element.isA(mx.Node) and element.getType() != "material" and element.getNodeDef() is None:
            problems.append(f"{element.getNamePath()}: nothing defines {element.getCategory()} of these types")
    return problems


def _range_problems(element: mx.Input) -> list[str]:
    def numbers(text: str) -> list[float]:
        try:
            return [float(part) for part in text.split(",")] if text else []
        except ValueError:
            return []

    low, high = (numbers(element.getAttribute(key)) for key in ("uimin", "uimax"))
    value = numbers(element.getValueString()) if element.getType() != "filename" else []
    problems = []
    if any(a > b for a, b in zip(low, high, strict=False)):
        problems.append(f"{element.getNamePath()}: its range ends before it begins")
    if any(v < a for v, a in zip(value, low, strict=False)) or any(v > b for v, b in zip(value, high, strict=False)):
        problems.append(f"{element.getNamePath()}: its value is outside its range")
    return problems


def _circles(document: mx.Document) -> Iterator[str]:
    """Each circle of nodes within one graph, and of definitions whose graphs use each other."""
    graphs = [one for one in document.getNodeGraphs() if library().getNodeGraph(one.getName()) is None]
    for holder in [document, *graphs]:
        reads = {
            node.getName(): [given.getNodeName() for given in node.getInputs() if given.getNodeName()]
            for node in holder.getNodes()
        }
        yield from _circles_of(reads)
    bodies = {}
    for graph in graphs:
        if graph.getNodeDefString():
            used = [node.getNodeDef() for node in graph.getNodes()]
            bodies[graph.getNodeDefString()] = [one.getName() for one in used if one is not None]
    yield from _circles_of(bodies)


def _circles_of(reads: dict[str, list[str]]) -> Iterator[str]:
    done: set[str] = set()
    for start in reads:
        # By hand, not by calls: a foreign document may be a chain of thousands.
        path: list[tuple[str, Iterator[str]]] = [(start, iter(reads[start]))] if start not in done else []
        above = {start}
        while path:
            name, rest = path[-1]
            other = next(rest, None)
            if other is None:
                done.add(name)
                above.discard(name)
                path.pop()
            elif other in above:
                names = [one for one, _ in path]
                yield " reads ".join([*names[names.index(other) :], other])
            elif other in reads and other not in done:
                above.add(other)
                path.append((other, iter(reads[other])))
