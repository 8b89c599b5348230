"""Headers of uploads, read apart: a crafted file may end the process that reads it."""

from __future__ import annotations

import tempfile
from pathlib import Path, PurePosixPath

from django.conf import settings

from studio.apart import Made, apart
from studio.intake.models import LayerDocument, ProbeDocument
from texel.errors import TexelError
from texel.files import Layer, Probe, probe

__all__ = ["header_of"]

_LONGEST = 300


def _layer(one: Layer) -> LayerDocument:
    return {
        "name": one.name, "part": one.part, "width": one.width, "height": one.height, "channels": one.channels,
        "bits": one.bits, "columns": list(one.columns),
    }  # fmt: skip


def _document(found: Probe) -> ProbeDocument:
    """A probe as kept with a source file and sent to the page."""
    return {
        "container": found.container, "width": found.width, "height": found.height, "channels": found.channels,
        "bits": found.bits, "tagged": found.tags.declared_transfer, "lossy": found.lossy, "format": found.format,
        "layers": [_layer(one) for one in found.layers],
    }  # fmt: skip


@apart
def header_of(path: str, name: str) -> Made:
    """said: the probe of the file at ``path`` under its own name, and the reason why it cannot be read."""
    with tempfile.TemporaryDirectory() as folder:
        # The decoder wants a path under the file's own name: a TGA is known by its suffix alone.
        link = Path(folder) / PurePosixPath(name).name
        try:
            link.symlink_to(Path(path).absolute())
            header = probe(link)
            settings.PICTURE_LIMITS.check(link.name, header.width, header.height, len(header.channels), header.bits)
        except (TexelError, OSError) as error:
            # What the system says of a path is about folders of ours.
            words = str(error) if isinstance(error, TexelError) else f"{link.name}: cannot be read ({error.strerror})"
            return Made(said={"probe": None, "problem": words[:_LONGEST]})
    return Made(said={"probe": _document(header), "problem": ""})
