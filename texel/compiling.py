"""Loops that are compiled when they are called first (numba)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from numba import njit

__all__ = ["compiled"]


def compiled(function: Callable[..., Any]) -> Any:
    """The function compiled, and kept beside its module or in the user's cache, where there is room for that. It lets
    other threads run, and divides by zero as NumPy does."""
    try:
        return njit(function, cache=True, nogil=True, error_model="numpy")
    except RuntimeError:
        return njit(function, nogil=True, error_model="numpy")
