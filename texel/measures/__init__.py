"""Measures of error between two maps: colour, normals, masks; as numbers and as a picture."""

from texel.measures.compare import Kind, compare, difference, error_picture, kind_of, weight_of

__all__ = ["Kind", "compare", "difference", "error_picture", "kind_of", "weight_of"]
