"""Readers are many and each has its own way to fail; whoever asks for a file hears of one."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from texel.errors import TexelError, UnreadableImage

__all__ = ["in_words"]

_log = logging.getLogger(__name__)


@contextmanager
def in_words(path: Path) -> Iterator[None]:
    """What a reader stumbles over in a damaged file becomes UnreadableImage; errors of ours and of the system stay."""
    try:
        yield
    except (TexelError, OSError, MemoryError):
        raise
    except Exception as error:
        # Its trace is for us: the file may show a fault of ours.
        _log.info("reading %s", path.name, exc_info=True)
        raise UnreadableImage(path.name, "damaged: what its header says makes no sense to its reader") from error
