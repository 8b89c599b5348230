"""Names that are told apart."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["each_once"]


def each_once(names: Iterable[str], taken: Iterable[str] = ()) -> list[str]:
    """The names in their order, a number behind those that were there before or are taken.

    >>> each_once(["rust", "rust", "base"], ["base"])
    ['rust', 'rust_2', 'base_2']
    """
    seen, unique = set(taken), []
    for name in names:
        one, count = name, 1
        while one in seen:
            count += 1
            one = f"{name}_{count}"
        seen.add(one)
        unique.append(one)
    return unique
