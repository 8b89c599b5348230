"""How much memory a job holds, with all processes that it started."""

from __future__ import annotations

from pathlib import Path

__all__ = ["memory_of_tree"]


def _children(pid: int) -> list[int]:
    children: list[int] = []
    for task in Path(f"/proc/{pid}/task").glob("*/children"):
        children += [int(word) for word in task.read_text().split()]
    return children


def _own(pid: int) -> int:
    """Bytes that a process holds; of pages shared with others its part."""
    for line in Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines():
        if line.startswith("Pss:"):
            return int(line.split()[1]) * 1024
    return 0


def memory_of_tree(pid: int) -> int:
    """Bytes of a process and all that descend from it; 0 for one that has ended.

    >>> import os
    >>> memory_of_tree(os.getpid()) > 1 << 20
    True
    """
    try:
        return _own(pid) + sum(memory_of_tree(child) for child in _children(pid))
    except (OSError, ValueError):
        return 0
