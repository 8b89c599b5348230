"""What is planned to be written: every file with all that goes into it, and the plan of a delivery."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal, get_args

from texel import digest
from texel.atlas.regions import Region
from texel.blocks import memory
from texel.blocks.formats import plain_format
from texel.channels.layout import Layout
from texel.delivery.target import Encoding, Target
from texel.library import layer_digest
from texel.licences import Licence
from texel.recipes import recipe_digest
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef

__all__ = ["BUILD", "REASONS", "Plan", "PlannedFile", "PlannedSource", "Reason"]

# Why a file is not what it was: another file or map went in; the steps on it; the cast's master; the cast's parameters;
# what the target asks for (channels, format, size, names); how Fair Texel itself encodes.
Reason = Literal["source", "recipe", "master", "parameters", "target", "encoder"]
REASONS: tuple[Reason, ...] = get_args(Reason)
# Part of every plan digest: raise it when the same plan would give other bytes than before.
BUILD = 4
_PNG = Encoding("png")
_CHANNEL_LETTERS = {1: "y", 2: "rg", 3: "rgb", 4: "rgba"}


def _in_order(step: dict[str, Any]) -> dict[str, Any]:
    """A step with its options in one order, whatever kept it: equal deliveries have equal manifests."""
    return {"step": step["step"], **dict(sorted(step.items()))}


@dataclass(frozen=True)
class PlannedSource:
    """One map that goes into a file. ref carries the person's recipe; added: the steps that the target asks for.

    digest: of its file; others: digests of the maps that its recipe reads, by name.
    """

    role: Role
    ref: MapRef
    digest: str
    others: tuple[tuple[str, str], ...] = ()
    added: tuple[dict[str, Any], ...] = ()

    @property
    def recipe(self) -> tuple[dict[str, Any], ...]:
        return (*self.ref.recipe, *self.added)

    @property
    def map_digest(self) -> str:
        """Names the map as it goes into the file."""
        layer = layer_digest(self.digest, self.ref.layer)
        return recipe_digest(layer, self.ref.channel, self.recipe, dict(self.others))

    def document(self) -> dict[str, Any]:
        written = {
            "role": self.role.value,
            "file": self.ref.file,
            "digest": self.digest,
            "channel": self.ref.channel,
            "recipe": [_in_order(step) for step in self.ref.recipe],
            "added": [_in_order(step) for step in self.added],
        }
        names = dict(self.others)
        beside = [
            {"name": name, "file": other.file, "channel": other.channel, "map": names[name]}
            for name, other in self.ref.dependencies
        ]
        layer = {"layer": self.ref.layer} if self.ref.layer is not None else {}
        return written | layer | ({"beside": beside} if beside else {})


@dataclass(frozen=True)
class PlannedFile:
    """One file of a delivery. kind: "map", "gltf" (a copy in glTF's conventions), "material", "sidecar" (a text that
    the target's template makes), or of a cast "slot" (a map as a slot takes it) and "cast" (a material file). width,
    height in texels; status: new, changed, unchanged; why: of what is changed, the reasons, of REASONS.

    uses: of a material pairs of slot and path; of a sidecar pairs of path and plan of the files that it tells of.
    normals: the map whose lost length goes into the smaller levels of its roughness. cast: the name of the cast that it
    belongs to, then set is empty; sheet, values: of its material file, digests of its master and of its parameters.
    model: of kind "model", its name; mesh: digest of its files; slots: title, parts and what is worn, of each; sheet
    and values are then of all that is worn. ground: of kind "ground", the name of its patch; mesh: digest of what it
    is made of; about: of its material, what the manifest says of the patch.
    """

    path: str
    set: str
    kind: str
    output: str = ""
    layout: Layout | None = None
    sources: tuple[PlannedSource, ...] = ()
    colour_space: Transfer = Transfer.LINEAR
    encoding: Encoding = _PNG
    green: Green | None = None
    green_from: str | None = None
    width: int = 0
    height: int = 0
    status: str = "new"
    why: tuple[Reason, ...] = ()
    uses: tuple[tuple[str, str], ...] = ()
    normals: PlannedSource | None = None
    template: str = ""
    cast: str = ""
    sheet: str = ""
    values: str = ""
    model: str = ""
    mesh: str = ""
    slots: tuple[tuple[str, tuple[str, ...], str], ...] = ()
    ground: str = ""
    about: Mapping[str, Any] | None = None

    @property
    def owner(self) -> str:
        """What it is left out with when that cannot be built: its set, cast, model or ground; "" for what is of all."""
        if self.model:
            return f"the model {self.model}"
        if self.ground:
            return f"the ground {self.ground}"
        return f"the cast {self.cast}" if self.cast else self.set

    @property
    def container(self) -> str:
        return self.encoding.container

    @property
    def bits(self) -> int:
        return self.encoding.bits

    @property
    def memory(self) -> int:
        """Bytes of graphics memory: of its own format, or of what a plain picture becomes, with a full mip chain."""
        if self.layout is None:
            return 0
        if self.encoding.format is not None:
            return memory(self.encoding.format, self.width, self.height, self.encoding.mips)
        return memory(plain_format(len(self.channels), self.bits), self.width, self.height)

    @property
    def channels(self) -> str:
        return _CHANNEL_LETTERS[len(self.layout.channels)] if self.layout else ""

    @property
    def bytes_decoded(self) -> int:
        return self.width * self.height * len(self.channels) * self.bits // 8

    def digest(self) -> str:
        """Names the bytes to be written by all that goes into them, the path left out for maps."""
        if self.layout is None:
            made: dict[str, Any] = {"build": BUILD, "path": self.path, "set": self.set, "uses": self.uses}
            if self.template:
                made["template"] = self.template
            if self.cast:
                made |= {"cast": self.cast, "sheet": self.sheet, "values": self.values, "width": self.width}
            if self.model:
                made |= {
                    "model": self.model, "sheet": self.sheet, "values": self.values, "width": self.width,
                    "mesh": self.mesh, "slots": self.slots,
                }  # fmt: skip
            if self.ground:
                made |= {"ground": self.ground, "mesh": self.mesh, "width": self.width}
            # A material says how its opacity is drawn, which the opacity's values decide.
            return digest.of_document(made | {"sources": [source.map_digest for source in self.sources]})
        return digest.of_document(
            {
                "build": BUILD,
                "layout": self.layout.document()["channels"],
                "sources": {source.role.value: source.map_digest for source in self.sources},
                "normals": self.normals.map_digest if self.normals else None,
                "colour_space": self.colour_space.value,
                "encoding": self.encoding.document(),
                "green": self.green.value if self.green else None,
            }
        )


@dataclass(frozen=True)
class Plan:
    """files in writing order; orphaned: paths of the previous delivery that this one no longer has. licences, regions:
    of the sets that have some, by name. carried: the part of the previous manifest ("sets", "casts", "models",
    "grounds" and "files") that stays as it is."""

    target: Target
    files: tuple[PlannedFile, ...]
    orphaned: tuple[str, ...] = ()
    problems: tuple[str, ...] = field(default=())
    licences: Mapping[str, Licence] = field(default_factory=dict)
    carried: Mapping[str, Any] = field(
        default_factory=lambda: {"sets": [], "casts": [], "models": [], "grounds": [], "files": []}
    )

    regions: Mapping[str, tuple[Region, ...]] = field(default_factory=dict)

    def without(self, sets: Mapping[str, str]) -> Plan:
        """The same plan with some sets and casts (PlannedFile.owner) left out whole, each for a reason that is told."""
        if not sets:
            return self
        gone = {f.path for f in self.files if f.owner in sets and f.status != "new"}
        left = [f for f in self.files if f.owner not in sets]
        paths = {f.path for f in left} | {entry["path"] for entry in self.carried["files"]}
        told = [
            replace(f, uses=tuple(use for use in f.uses if use[0] in paths)) if f.kind == "sidecar" else f for f in left
        ]
        return replace(
            self,
            files=tuple(told) if any(f.owner for f in told) else (),
            orphaned=tuple(sorted({*self.orphaned, *gone})),
            problems=(*self.problems, *(f"{name}: {why}" for name, why in sets.items())),
        )
