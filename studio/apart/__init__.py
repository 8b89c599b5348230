"""Risky work, apart from the web server: decoding, drawing and reading foreign documents, in limited child processes.

@apart
def tile_of(map: int, level: int) -> Made: ...

made = tile_of.ask(person.pk, near=digest, map=12, level=0)
"""

from studio.apart.work import Apart, Busy, Made, apart

__all__ = ["Apart", "Busy", "Made", "apart"]
