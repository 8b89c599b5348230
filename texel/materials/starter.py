"""What a new master begins as: a ready-made one under a title of its own."""

from __future__ import annotations

import re

from texel.document_types import MasterDocument
from texel.materials.ready import PLAINEST, ready_master

__all__ = ["starter"]

_LONGEST = 40


def starter(title: str, ready: str = PLAINEST) -> MasterDocument:
    """A master's document for a title; its name is the title in small letters and dashes. ready: the ready-made master
    that it begins as. Raises BadDocument for one there is not.

    >>> starter("Wet Ground!")["name"], starter("Shop window", "glass")["inputs"]["ior"]
    ('wet-ground', 'bend')
    """
    name = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:_LONGEST].strip("-") or "master"
    return {**ready_master(ready), "name": name, "title": title.strip()}
