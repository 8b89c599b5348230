"""Mip chains: as an engine should have them, and as plain averaging makes them, level by level."""

from texel.mips.chain import CUT_OFF, Chain, naive_chain, right_chain
from texel.mips.measures import compare_chains
from texel.mips.sizes import level_count, level_sizes

__all__ = ["CUT_OFF", "Chain", "compare_chains", "level_count", "level_sizes", "naive_chain", "right_chain"]
