"""Files into texture sets: by name, by folder, by content."""

from texel.sorting.sort import Sorted, Undecided, sort_files

__all__ = ["Sorted", "Undecided", "sort_files"]
