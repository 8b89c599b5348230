"""Materials: masters as sheets, casts derived from them, and back ends that print or compute one tree."""

from texel.materials.casts import checked_changes, document_value, stacked
from texel.materials.chain import chain_of, parse_chain, tree_of
from texel.materials.cost import Cost, cost_of, deciding, over_budget, used_variants
from texel.materials.evaluate import Surface, evaluate, values_of
from texel.materials.expression import parse_expression, text_of
from texel.materials.glsl import Shader, shader_of
from texel.materials.kinds import Kinds
from texel.materials.layers import stacked_sheets
from texel.materials.master import INPUTS, Master, parse_master
from texel.materials.operations import OPERATIONS
from texel.materials.reading import catalogue, operation_facts, read_document, read_sheet
from texel.materials.remarks import Remark, remarks_on

__all__ = [
    "INPUTS",
    "OPERATIONS",
    "Cost",
    "Kinds",
    "Master",
    "Remark",
    "Shader",
    "Surface",
    "catalogue",
    "chain_of",
    "checked_changes",
    "cost_of",
    "deciding",
    "document_value",
    "evaluate",
    "operation_facts",
    "over_budget",
    "parse_chain",
    "parse_expression",
    "parse_master",
    "read_document",
    "read_sheet",
    "remarks_on",
    "shader_of",
    "stacked",
    "stacked_sheets",
    "text_of",
    "tree_of",
    "used_variants",
    "values_of",
]  # fmt: skip
