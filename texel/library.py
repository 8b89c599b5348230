"""The files of one intake, read once each, and the maps that sets make of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path, PurePosixPath

import numpy as np

from texel import digest
from texel.errors import MismatchedMaps, UnreadableImage
from texel.files import DEFAULT_LIMITS, Limits, Probe, probe, read
from texel.image import Texels
from texel.kept import Kept
from texel.naming.tokens import parse_name
from texel.recipes import apply_recipe, green_after, recipe_digest, shape_after
from texel.recipes.step import Context, Shape
from texel.roles import Green
from texel.sets import MapRef

__all__ = ["Library", "claimed_green", "in_role", "layer_digest", "list_files", "map_digest", "named_green"]

_IGNORED = {"thumbs.db", "desktop.ini", ".ds_store"}
# For a file larger than this, room is made before it is read.
_LARGE_FILE = 4 * 1024 * 1024


def list_files(root: Path) -> dict[str, Path]:
    """Every file below ``root`` by its relative path with "/", hidden ones left out, in a stable order.

    Symbolic links are not followed, so that nothing outside the folder is read.
    """
    files = {}
    for path in sorted(root.rglob("*")):
        relative = path.relative_to(root)
        hidden = any(part.startswith(".") or part == "__MACOSX" for part in relative.parts)
        if hidden or path.is_symlink() or not path.is_file() or path.name.lower() in _IGNORED:
            continue
        files[relative.as_posix()] = path
    return files


def named_green(file: str, layer: str | None = None) -> Green | None:
    """The direction that the name of a layer, or else of its file, claims."""
    told = parse_name(layer).green if layer else None
    return told or parse_name(PurePosixPath(file).stem).green


def claimed_green(ref: MapRef) -> Green | None:
    """The direction of a map if its file's name tells the truth: the one named, turned by the recipe's flips."""
    return green_after(named_green(ref.file, ref.layer), ref.recipe)


def map_digest(ref: MapRef, file_digest: Callable[[str], str]) -> str:
    """Names a map by its source, its recipe, and the same of the maps that the recipe reads."""
    others = {name: map_digest(other, file_digest) for name, other in ref.dependencies}
    return recipe_digest(layer_digest(file_digest(ref.file), ref.layer), ref.channel, ref.recipe, others)


def layer_digest(file_digest: str, layer: str | None) -> str:
    """Names one layer of a file; the file itself where no layer was chosen."""
    return digest.of_document({"file": file_digest, "layer": layer}) if layer else file_digest


def in_role(whole: Texels, ref: MapRef) -> Texels:
    """A decoded file as the map that ``ref`` makes of it, no step applied. Raises MismatchedMaps."""
    if ref.channel is not None:
        plane = np.ascontiguousarray(whole.channel(ref.channel)[:, :, None])
        whole = whole.with_pixels(plane, "y")
    return whole.as_role(ref.role, named_green(ref.file, ref.layer))


class Library:
    """Files by name, decoded when first asked for; the least recently used lie in temporary files beyond 128 MiB."""

    def __init__(
        self,
        paths: Mapping[str, Path],
        limits: Limits = DEFAULT_LIMITS,
        digests: Mapping[str, str] | None = None,
        probes: Mapping[str, Probe] | None = None,
    ):
        """paths: may fetch a file only when it is asked for. digests, probes: what is known of files already."""
        self._paths = paths
        self._limits = limits
        self._digests = dict(digests or {})
        self._probes = dict(probes or {})
        # Headers that were found to be within the limits: a plan asks for each a dozen times.
        self._headers: dict[tuple[str, str | None], Probe] = {}
        self._kept = Kept()

    @classmethod
    def of_folder(cls, root: Path, limits: Limits = DEFAULT_LIMITS) -> Library:
        return cls(list_files(root), limits)

    def __contains__(self, file: str) -> bool:
        return file in self._paths

    @property
    def files(self) -> tuple[str, ...]:
        return tuple(self._paths)

    def path(self, file: str) -> Path:
        """Raises UnreadableImage when there is no such file."""
        try:
            return self._paths[file]
        except KeyError:
            raise UnreadableImage(file, "there is no such file here") from None

    def has_digest(self, file: str) -> bool:
        """Whether a file's digest is known already."""
        return file in self._digests

    def know_digest(self, file: str, known: str) -> None:
        """Take a file's digest for known, so that it need not be read for it."""
        self._digests[file] = known

    def digest(self, file: str) -> str:
        if file not in self._digests:
            self._digests[file] = digest.of_file(self.path(file))
        return self._digests[file]

    def probe(self, file: str, layer: str | None = None) -> Probe:
        """The file's header, within the limits. Raises UnreadableImage, TooLarge."""
        known = self._headers.get((file, layer))
        if known is not None:
            return known
        if file not in self._probes:
            self._probes[file] = probe(self.path(file))
        header = self._probes[file].of_layer(layer, file)
        self._limits.check(file, header.width, header.height, len(header.channels), header.bits)
        self._headers[file, layer] = header
        return header

    def texels(self, file: str, layer: str | None = None) -> Texels:
        """The decoded file, or one layer of it. Raises UnreadableImage, TooLarge, ChangedWhileRead."""
        kept = self._kept.get((file, layer))
        if kept is not None:
            return kept
        path = self.path(file)
        if path.stat().st_size > _LARGE_FILE:
            head = self.probe(file, layer)
            self._kept.make_room(head.width * head.height * len(head.channels) * head.bits // 8)
        return self._kept.put((file, layer), read(path, self._limits, layer))

    def source(self, ref: MapRef) -> Texels:
        """A map as its file holds it: the channel taken out, read in its role, no step applied."""
        return in_role(self.texels(ref.file, ref.layer), ref)

    def map(self, ref: MapRef) -> Texels:
        """A map with its recipe applied. Raises TexelError."""
        return apply_recipe(self.source(ref), ref.recipe, self.context(ref))

    def context(self, ref: MapRef) -> Context:
        """What the recipe of ``ref`` may ask for: the maps beside it."""
        dependencies = dict(ref.dependencies)

        def other(name: str) -> Texels:
            if name not in dependencies:
                raise MismatchedMaps(
                    "the recipe of {file} needs the set's {name} map, and there is none", file=ref.file, name=name
                )
            return self.map(dependencies[name])

        return Context(other=other)

    def map_digest(self, ref: MapRef) -> str:
        """Names a map by all that goes into it."""
        return map_digest(ref, self.digest)

    def shape(self, ref: MapRef) -> Shape:
        """Size, channels and depth of a map behind its recipe, told from headers."""
        header = self.probe(ref.file, ref.layer)
        channels = "y" if ref.channel is not None else header.channels
        shape = Shape(header.width, header.height, channels, header.bits)
        return shape_after(shape, ref.recipe) if ref.recipe else shape
