"""Mip chains: as an engine should have them, and as plain averaging makes them, level by level."""

from texel.mips.chain import CUT_OFF, Chain, level_sizes, naive_chain, right_chain
from texel.mips.measures import compare_chains

__all__ = ["CUT_OFF", "Chain", "compare_chains", "level_sizes", "naive_chain", "right_chain"]
