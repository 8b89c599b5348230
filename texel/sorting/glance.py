"""Looks at files, several at a time over all cores, each decoded once and not kept."""

from __future__ import annotations

from collections.abc import Callable, Iterable, MutableMapping
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait

from texel.errors import TexelError
from texel.library import Library
from texel.sorting.looks import Look, look_at
from texel.threads import may_use

__all__ = ["Glances"]


class Glances:
    """The looks of a library's files, found when first asked for. A file that cannot be decoded has none."""

    def __init__(self, library: Library, looks: MutableMapping[str, Look | None] | None = None):
        """looks: those that are known already; it is added to."""
        self._library = library
        self._looks: MutableMapping[str, Look | None] = {} if looks is None else looks

    def prepare(self, files: Iterable[str], on_file: Callable[[str], None]) -> None:
        """Look at many files. on_file is called in this thread with each one's name as it is done; it may raise."""
        waiting = [file for file in dict.fromkeys(files) if file not in self._looks]
        workers = may_use()
        with ThreadPoolExecutor(workers) as pool:
            # Twice as many as there are cores: decoders never wait, and no more pictures are held than that.
            running: dict[Future[Look | None], str] = {}
            try:
                while waiting or running:
                    while waiting and len(running) < 2 * workers:
                        file = waiting.pop(0)
                        running[pool.submit(self._look, file)] = file
                    done, _ = wait(running, return_when=FIRST_COMPLETED)
                    for one in done:
                        file = running.pop(one)
                        self._looks[file] = one.result()
                        on_file(file)
            except BaseException:
                for one in running:
                    one.cancel()
                raise

    def get(self, file: str) -> Look | None:
        if file not in self._looks:
            self._looks[file] = self._look(file)
        return self._looks[file]

    def known(self, file: str) -> Look | None:
        """The look of a file that was looked at already."""
        return self._looks.get(file)

    def _look(self, file: str) -> Look | None:
        try:
            return look_at(self._library.texels(file))
        except (TexelError, OSError):
            return None
