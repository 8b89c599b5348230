"""A project as text: a folder of small JSON documents that a version-control system can compare and merge, and the
delivery that is built from it without a studio."""

from __future__ import annotations

from texel.project.comparing import Compared, State, compare
from texel.project.folder import read_folder
from texel.project.kinds import KINDS, Texts, file_names, key_of, must_be_sound, text_digest

__all__ = [
    "KINDS", "Compared", "State", "Texts", "compare", "file_names", "key_of", "must_be_sound", "read_folder",
    "text_digest",
]  # fmt: skip
