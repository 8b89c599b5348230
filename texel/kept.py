"""Pictures kept in memory up to a limit; beyond it their pixels lie in temporary files, mapped when asked for."""

from __future__ import annotations

import contextlib
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np

from texel.image import Pixels, Texels

__all__ = ["Kept"]

_MIB = 1024 * 1024


@dataclass(frozen=True)
class _Aside:
    """A picture whose pixels lie in a file that has no name any more: it is gone when nobody has it open."""

    texels: Texels
    file: BinaryIO
    shape: tuple[int, ...]
    dtype: np.dtype[Any]

    def bring(self) -> Texels:
        pixels: Pixels = np.memmap(self.file, self.dtype, "r", shape=self.shape)
        return self.texels.with_pixels(pixels)


class Kept:
    """Pictures by key, the least recently used ones set aside beyond ``limit`` bytes, and forgotten where no more than
    ``aside`` bytes may lie in temporary files. Of use to several threads."""

    def __init__(self, limit: int = 128 * _MIB, aside: int = 2048 * _MIB):
        self._limit, self._most_aside = limit, aside
        self._near: OrderedDict[Hashable, Texels] = OrderedDict()
        self._aside: OrderedDict[Hashable, _Aside] = OrderedDict()
        self._held = self._held_aside = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable) -> Texels | None:
        with self._lock:
            texels = self._near.get(key)
            if texels is None and key in self._aside:
                texels = self._aside[key].bring()
                self._hold(key, texels)
            elif texels is not None:
                self._near.move_to_end(key)
            return texels

    def put(self, key: Hashable, texels: Texels) -> Texels:
        """Keep a picture; returns it."""
        with self._lock:
            self._hold(key, texels)
        return texels

    def make_room(self, size: int) -> None:
        """Set aside what there is too much of once a picture of ``size`` bytes comes."""
        with self._lock:
            self._shed(max(0, self._limit - size), 0)

    def _hold(self, key: Hashable, texels: Texels) -> None:
        before = self._near.pop(key, None)
        self._held += texels.pixels.nbytes - (before.pixels.nbytes if before is not None else 0)
        self._near[key] = texels
        self._shed(self._limit, 1)

    def _shed(self, limit: int, least: int) -> None:
        while self._held > limit and len(self._near) > least:
            key, texels = self._near.popitem(last=False)
            self._held -= texels.pixels.nbytes
            if key not in self._aside:
                self._set_aside(key, texels)

    def _set_aside(self, key: Hashable, texels: Texels) -> None:
        size = texels.pixels.nbytes
        if size > self._most_aside:
            return
        while self._held_aside + size > self._most_aside:
            self._held_aside -= _bytes_of(self._aside.popitem(last=False)[1])
        # A full disk is no fault: what was not kept is read again.
        with contextlib.suppress(OSError):
            file = tempfile.TemporaryFile(prefix="texels-")  # noqa: SIM115 (it is kept open on purpose)
            np.ascontiguousarray(texels.pixels).tofile(file)
            file.flush()
            # A copy: a part of the picture would hold all of it.
            nothing = texels.with_pixels(texels.pixels[:0].copy())
            self._aside[key] = _Aside(nothing, file, texels.pixels.shape, texels.pixels.dtype)
            self._held_aside += size


def _bytes_of(one: _Aside) -> int:
    return int(np.prod(one.shape)) * one.dtype.itemsize
