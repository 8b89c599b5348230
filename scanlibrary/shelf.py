"""What lies in the stand-in library: files drawn once into a folder, and the documents that describe them."""

from __future__ import annotations

import hashlib
import json
import secrets
import threading
from pathlib import Path

import cv2
import numpy as np

from demo.patterns import Field
from demo.surfaces import Surface
from scanlibrary.surfaces import ITEMS, Item
from texel.document_types import ScanFile, ScanLicence, ScanListed, ScanResolution, ScanSurfaceDocument
from texel.files import write
from texel.image import Texels, narrow
from texel.normals.from_height import normals_from_height
from texel.roles import Green, Transfer

__all__ = ["PIXELS", "Shelf"]

PIXELS = (256, 512, 1024)
_PREVIEW = 256
_ACCOUNT = "Larkspur Tin"


def _maps(surface: Surface, n: int) -> dict[str, Texels]:
    def grey(field: object, bits: type = np.uint8) -> Texels:
        values = np.broadcast_to(np.asarray(field, np.float32), (n, n))
        return Texels(narrow(values[:, :, None], np.dtype(bits)), "y", Transfer.LINEAR)

    vectors = normals_from_height(surface.height, surface.relief * n / 512, Green.UP)
    eight = np.dtype(np.uint8)
    return {
        "basecolor": Texels(narrow(surface.colour, eight), "rgb", Transfer.SRGB),
        "normal": Texels(narrow((vectors + 1) / 2, eight), "rgb", Transfer.LINEAR),
        "roughness": grey(surface.roughness),
        "ao": grey(surface.occlusion),
        "height": grey(surface.height, np.uint16),
    }


class Shelf:
    """The library's folder. key: what an account shows to get in, made once."""

    def __init__(self, root: Path, pixels: tuple[int, ...] = PIXELS):
        self.root, self.pixels = root, pixels
        self.account = _ACCOUNT
        self._lock = threading.Lock()
        root.mkdir(parents=True, exist_ok=True)

    @property
    def key(self) -> str:
        path = self.root / "key"
        if not path.exists():
            path.write_text(secrets.token_urlsafe(24))
            path.chmod(0o600)
        return path.read_text().strip()

    def revision(self, item: str) -> int:
        """Number of the newest revision; each change of a surface that was published counts."""
        return int(self._published().get(item, 1))

    def _published(self) -> dict[str, int]:
        path = self.root / "revisions.json"
        published: dict[str, int] = json.loads(path.read_text()) if path.exists() else {}
        return published

    def publish(self, item: str) -> int:
        """Bring out a new revision of a surface. Raises KeyError for one that is not there."""
        one = ITEMS[item]
        with self._lock:
            published = {**self._published(), one.id: self.revision(one.id) + 1}
            part = self.root / "revisions.part"
            part.write_text(json.dumps(published))
            part.replace(self.root / "revisions.json")
        return published[one.id]

    def listed(self, search: str = "") -> list[ScanListed]:
        """Surfaces whose title or tags hold every word."""
        words = search.lower().split()
        return [
            {
                "id": one.id, "title": one.title, "tags": list(one.tags), "metres": one.metres,
                "revision": self.revision(one.id), "licence": _licence(one), "pixels": list(self.pixels),
            }
            for one in ITEMS.values()
            if all(word in f"{one.title} {' '.join(one.tags)}".lower() for word in words)
        ]  # fmt: skip

    def surface(self, item: str) -> ScanSurfaceDocument:
        """Everything about one surface. Raises KeyError."""
        one = ITEMS[item]
        revision = self.revision(item)
        resolutions: list[ScanResolution] = [
            {"pixels": pixels, "files": [_file(path) for path in self._drawn(one, revision, pixels)]}
            for pixels in self.pixels
        ]
        document: ScanSurfaceDocument = {
            "id": one.id, "title": one.title, "tags": list(one.tags), "metres": one.metres, "revision": revision,
            "licence": _licence(one), "resolutions": resolutions,
        }  # fmt: skip
        if revision > 1:
            document["note"] = "Scanned again."
        return document

    def path_of(self, item: str, pixels: int, name: str) -> Path:
        """A file of the newest revision. Raises KeyError."""
        paths = self._drawn(ITEMS[item], self.revision(item), pixels) if pixels in self.pixels else []
        return {path.name: path for path in paths}[name]

    def preview(self, item: str) -> Path:
        """A small picture of its colour. Raises KeyError."""
        one, revision = ITEMS[item], self.revision(item)
        path = self.root / one.id / f"{revision}" / "preview.png"
        if not path.exists():
            with self._lock:
                path.parent.mkdir(parents=True, exist_ok=True)
                colour = narrow(one.draw(_PREVIEW, revision).colour, np.dtype(np.uint8))
                write(Texels(colour, "rgb", Transfer.SRGB), path)
        return path

    def _drawn(self, one: Item, revision: int, pixels: int) -> list[Path]:
        folder = self.root / one.id / f"{revision}" / f"{pixels}"
        with self._lock:
            if not folder.is_dir():
                self._draw(one, revision)
        return sorted(folder.iterdir())

    def _draw(self, one: Item, revision: int) -> None:
        """All resolutions of a revision: drawn at the largest, the others reduced from it."""
        largest = max(self.pixels)
        surface = one.draw(largest, revision)
        for pixels in self.pixels:
            folder = self.root / one.id / f"{revision}" / f"{pixels}"
            part = folder.with_name(f"{pixels}.part")
            part.mkdir(parents=True, exist_ok=True)
            for word, texels in _maps(_reduced(surface, pixels), pixels).items():
                write(texels, part / f"{one.id.replace('-', '_')}_{word}_{pixels}.png")
            part.rename(folder)


def _reduced(surface: Surface, n: int) -> Surface:
    """A surface at fewer texels. None here is a metal."""

    def smaller(field: Field) -> Field:
        return np.asarray(cv2.resize(field, (n, n), interpolation=cv2.INTER_AREA), np.float32)

    fields = smaller(surface.height), smaller(surface.colour), smaller(surface.roughness)
    return Surface(*fields, metallic=0.0, relief=surface.relief)


def _licence(one: Item) -> ScanLicence:
    name, credit = one.licence
    return {"name": name, "credit": credit} if credit else {"name": name}


def _file(path: Path) -> ScanFile:
    data = path.read_bytes()
    # "slipway_cobble_basecolor_512.png": the word before the size.
    word = path.stem.rsplit("_", 2)[1]
    return {"map": word, "name": path.name, "bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
