"""A function alone as MaterialX: the definition of its node, for whoever builds graphs of their own."""

from __future__ import annotations

from dataclasses import replace

import MaterialX as mx

from texel.materials.defined import result_size
from texel.materials.exchange.mtlx_nodes import Definitions, spec_of
from texel.materials.function_edits import sheet_of_function
from texel.materials.functions import Function
from texel.materials.master import parse_master
from texel.materials.operations import MAP
from texel.roles import Transfer

__all__ = ["materialx_of_function"]


def materialx_of_function(function: Function) -> str:
    """The document as XML, with the definitions of all that the function calls. A map that it takes is read as plain
    numbers, repeated beyond its edges. Raises BadExpression."""
    document = mx.createDocument()
    document.setColorSpace("lin_rec709")
    shown = parse_master(sheet_of_function(function)).slots
    slots = {name: replace(slot, colour_space=Transfer.LINEAR) for name, slot in shown.items()}
    maps = [slots[one.name] for one in function.inputs if one.size == MAP]
    sizes = tuple(spec_of(slots[one.name]) if one.size == MAP else one.size for one in function.inputs)
    size = result_size(function.operation, [one.size for one in function.inputs], [one.size for one in maps])
    Definitions(document).require(function.operation, size, sizes)
    return str(mx.writeToXmlString(document))
