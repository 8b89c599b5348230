"""The plan of a delivery: every file that will be written, what goes into it, and whether it changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from functools import lru_cache, partial
from typing import Any, TypeVar

from texel.channels.layout import Layout, Source
from texel.delivery.changes import status_of
from texel.delivery.manifest import carried_part
from texel.delivery.names import RESERVED
from texel.delivery.planned import BUILD, Plan, PlannedFile, PlannedSource
from texel.delivery.target import Encoding, Output, Target
from texel.errors import DeliveryRefused, TexelError, UnreadableImage
from texel.library import Library, claimed_green, layer_digest
from texel.naming.compose import apply_case, safe_name
from texel.normals.direction import find_direction
from texel.recipes import green_after, recipe_digest
from texel.recipes.surfaces import Resize
from texel.recipes.vectors import FlipGreen, RebuildZ
from texel.roles import Green, Role, Transfer
from texel.sets import MapRef, TextureSet
from texel.threads import may_use

__all__ = [
    "BUILD", "Plan", "PlannedFile", "PlannedSource", "check_length", "measured_green", "plan_delivery", "plan_output",
]  # fmt: skip

_PNG = Encoding("png")
_Made = TypeVar("_Made")
# Bytes of a file's name: ext4, APFS (in UTF-8) and others; NTFS takes 255 units of UTF-16, which are no more bytes.
_LONGEST_NAME = 255
_OPPOSITE_OF = {Role.ROUGHNESS: Role.GLOSSINESS, Role.GLOSSINESS: Role.ROUGHNESS}
_GLTF_PACK = {
    "r": Source(Role.OCCLUSION, missing=1.0),
    "g": Source(Role.ROUGHNESS, missing=0.5),
    "b": Source(Role.METALLIC, missing=0.0),
}


def measured_green(library: Library, ref: MapRef) -> tuple[Green, str]:
    """The direction of a normal map after its recipe, and how it is known: "recipe", "pixels", "name", "unknown"."""
    if green_after(None, ref.recipe) is not None:
        # A step makes the vectors and knows how they point.
        return green_after(None, ref.recipe) or Green.UNKNOWN, "recipe"
    source = library.source(ref)
    measured = Green.UNKNOWN if source.channels[0] == "y" else find_direction(source).green
    if measured is not Green.UNKNOWN:
        return green_after(measured, ref.recipe) or Green.UNKNOWN, "pixels"
    claimed = claimed_green(ref)
    return (claimed, "name") if claimed else (Green.UNKNOWN, "unknown")


def plan_delivery(
    sets: Iterable[TextureSet],
    library: Library,
    target: Target,
    previous: Mapping[str, Any] | None = None,
    greens: Mapping[str, tuple[Green, str]] | None = None,
    refused: Mapping[str, str] | None = None,
    carry: Iterable[str] = (),
    casts: Iterable[PlannedFile] = (),
    carry_casts: Iterable[str] = (),
    carry_models: Iterable[str] = (),
    carry_grounds: Iterable[str] = (),
) -> Plan:
    """Everything that delivering ``sets`` for ``target`` will write.

    previous: the manifest of the delivery before, to tell new, changed, unchanged and orphaned.
    greens: directions already measured, by digest of the normal map (Library.map_digest), beside those that the
    manifest tells; the rest is measured here.
    carry: names of sets of the previous delivery that stay as they were delivered, where they are not among ``sets``.
    casts: files of casts, models and patches of ground (delivered.py of texel.materials, texel.meshes, texel.ground),
    delivered beside the sets.
    carry_casts, carry_models, carry_grounds: names of those of the previous delivery that stay as they were delivered.
    refused: why a set may not be delivered, by its name. Such sets, and those that cannot be (a map that cannot be
    read, a file's name that another set has or that is too long), are named in ``problems`` and left out whole.
    """
    files: list[PlannedFile] = []
    problems: list[str] = []
    licences = {}
    sets = list(sets)
    greens = {**greens_told(previous), **(greens or {})}
    greens |= _measured(sets, library, greens)
    for one in sets:
        if one.name in (refused or {}):
            problems.append(f"{one.name}: {(refused or {})[one.name]}")
            continue
        if one.licence.name:
            licences[one.name] = one.licence
        try:
            files += _plan_set(one, library, target, greens)
        except (TexelError, OSError) as error:
            problems.append(f"{one.name}: {error}")
    of_casts = list(casts)
    carried = carried_part(
        previous, set(carry) - {f.set for f in files}, set(carry_casts) - {f.cast for f in of_casts},
        set(carry_models) - {f.model for f in of_casts}, set(carry_grounds) - {f.ground for f in of_casts},
    )  # fmt: skip
    collisions = _collisions([*files, *of_casts], carried)
    taken = {f.path.lower(): f.set for f in files} | {e["path"].lower(): e["set"] for e in carried["files"]}
    of_sets = {**carried, "files": [entry for entry in carried["files"] if entry["set"]]}
    for sidecar in _plan_sidecars("", [f for f in files if f.set not in collisions], target, carried=of_sets):
        if sidecar.path.lower() in taken:
            problems.append(f"{sidecar.path}: {taken[sidecar.path.lower()]} writes a file of this name")
        else:
            files.append(sidecar)
    files += of_casts
    files += _sidecars_beside(of_casts, target)
    known = {entry["path"]: entry for entry in (previous or {}).get("files", ())}
    marked = tuple(_marked(f, known) for f in files)
    there = {f.path for f in files} | {entry["path"] for entry in carried["files"]}
    orphaned = tuple(sorted(set(known) - there))
    regions = {one.name: one.regions for one in sets if one.regions}
    return Plan(target, marked, orphaned, tuple(problems), licences, carried, regions).without(collisions)


def _sidecars_beside(files: Iterable[PlannedFile], target: Target) -> list[PlannedFile]:
    """The target's texts about casts and models."""
    by_owner: dict[tuple[str, str], list[PlannedFile]] = {}
    for one in files:
        if not one.ground:
            by_owner.setdefault((one.cast, one.model), []).append(one)
    planned = []
    for (cast, model), some in by_owner.items():
        each, name = ("model", model) if model else ("material", cast)
        called = apply_case(safe_name(name), target.case)
        made = _plan_sidecars("", some, target, called, each=each)
        planned += [replace(one, cast=cast, model=model) for one in made]
    return planned


def _measured(
    sets: Iterable[TextureSet], library: Library, known: Mapping[str, tuple[Green, str]]
) -> dict[str, tuple[Green, str]]:
    """Digests and directions that nobody knows yet, several at once. What cannot be read is told by who plans it."""
    refs = [ref for one in sets for ref in one.maps]
    unread = {ref.file for ref in refs if not library.has_digest(ref.file)}
    with ThreadPoolExecutor(may_use()) as pool:
        list(pool.map(lambda file: _tried(lambda: library.digest(file)), unread))
        normals = {}
        for ref in refs:
            key = _tried(partial(library.map_digest, ref)) if ref.role is Role.NORMAL else None
            if key is not None and key not in known:
                normals[key] = ref
        found = pool.map(lambda ref: _tried(lambda: measured_green(library, ref)), normals.values())
        return {key: one for key, one in zip(normals, found, strict=True) if one is not None}


def _tried(work: Callable[[], _Made]) -> _Made | None:
    with suppress(TexelError, OSError):
        return work()
    return None


def greens_told(manifest: Mapping[str, Any] | None) -> dict[str, tuple[Green, str]]:
    """Directions of normal maps that a manifest tells, by digest of the map: they need not be measured again."""
    told: dict[str, tuple[Green, str]] = {}
    for entry in (manifest or {}).get("files", ()):
        how = entry.get("green_from")
        # What a name told, another name may tell otherwise.
        for source in entry.get("sources", ()) if how in ("pixels", "recipe") else ():
            if source["role"] != Role.NORMAL.value:
                continue
            others = {one["name"]: one["map"] for one in source.get("beside", ())}
            layer = layer_digest(source["digest"], source.get("layer"))
            key = recipe_digest(layer, source["channel"], source["recipe"], others)
            turned = any(step["step"] == FlipGreen.step for step in source["added"])
            wanted = Green(entry["green"])
            found = {Green.UP: Green.DOWN, Green.DOWN: Green.UP}[wanted] if turned else wanted
            told[key] = found, how
    return told


def _marked(planned: PlannedFile, known: Mapping[str, Any]) -> PlannedFile:
    status, why = status_of(planned, known.get(planned.path))
    return planned if (status, why) == (planned.status, planned.why) else replace(planned, status=status, why=why)


def _collisions(files: list[PlannedFile], carried: Mapping[str, Any]) -> dict[str, str]:
    """Sets and casts that would write over a file of one before them, or over one of ours, and why they cannot."""
    carried_sets = {
        entry["path"].lower(): entry.get("cast") or entry.get("model") or entry.get("ground") or entry["set"]
        for entry in carried["files"]
    }
    seen: dict[str, PlannedFile] = {}
    collisions: dict[str, str] = {}
    for planned in files:
        if planned.path.lower() in RESERVED:
            collisions.setdefault(
                planned.owner, f"{planned.path} is the name of a file that every delivery has; rename it"
            )
            continue
        other = seen.setdefault(planned.path.lower(), planned)
        before = carried_sets.get(planned.path.lower(), other.owner)
        if (other is not planned or planned.path.lower() in carried_sets) and planned.owner not in collisions:
            what = " sets" if planned.set else ""
            collisions[planned.owner] = f"it would write {planned.path} like {before}; rename one of the two{what}"
    return collisions


def check_length(path: str) -> None:
    """Raises DeliveryRefused for a name that no usual file system takes."""
    name = max(path.split("/"), key=lambda part: len(part.encode()))
    if len(name.encode()) > _LONGEST_NAME:
        raise DeliveryRefused(
            "the name {name}... has {count} bytes; file systems take {longest_name}",
            name=name[:40],
            count=len(name.encode()),
            longest_name=_LONGEST_NAME,
        )


def _plan_set(
    one: TextureSet, library: Library, target: Target, greens: Mapping[str, tuple[Green, str]]
) -> list[PlannedFile]:
    maps = one.in_use()
    name = apply_case(safe_name(one.name), target.case)
    folder = safe_name(target.folder.replace("{set}", name)) + "/" if target.folder else ""
    planned = []
    for output in target.outputs:
        available = set(maps) | {_OPPOSITE_OF[r] for r in maps if r in _OPPOSITE_OF}
        if not available & set(output.needs):
            continue
        stem = target.pattern.replace("{set}", name).replace("{output}", output.output)
        path = f"{folder}{stem}.{output.encoding.container}"
        check_length(path)
        planned.append(plan_output(one.name, path, output, maps, library, target.green, greens, "map"))
    if target.material == "gltf" and planned:
        planned += _plan_gltf(one.name, folder, name, planned, maps, library, greens)
    return [*planned, *_plan_sidecars(one.name, planned, target, name)]


def _plan_sidecars(
    set_name: str,
    files: list[PlannedFile],
    target: Target,
    name: str = "",
    carried: Mapping[str, Any] | None = None,
    each: str = "",
) -> list[PlannedFile]:
    """The target's texts about one set, about one thing of another kind (each, called ``name``), or about the whole
    delivery where the set has no name."""
    each = each or ("set" if set_name else "delivery")
    planned = []
    for one in target.sidecars if files else ():
        if one.each == each:
            path = "/".join(part.replace(f"{{{each}}}", name) for part in one.name.split("/"))
            check_length(path)
            of_others = ((entry["path"], entry["plan"]) for entry in (carried or {}).get("files", ()))
            uses = (*((file.path, file.digest()) for file in files), *of_others)
            encoding = Encoding(path.rsplit(".", 1)[-1])
            planned.append(PlannedFile(path, set_name, "sidecar", encoding=encoding, uses=uses, template=one.template))
    return planned


def _source_of(role: Role, maps: Mapping[Role, MapRef]) -> tuple[MapRef, bool] | None:
    """The map that serves a role, and whether it must be inverted: roughness = 1 - glossiness."""
    if role in maps:
        return maps[role], False
    opposite = _OPPOSITE_OF.get(role)
    return (maps[opposite], True) if opposite is not None and opposite in maps else None


def plan_output(
    set_name: str,
    path: str,
    output: Output,
    maps: Mapping[Role, MapRef],
    library: Library,
    green: Green,
    greens: Mapping[str, tuple[Green, str]],
    kind: str,
) -> PlannedFile:
    """One file of an output, from the maps of a set in use. Raises TexelError for maps that cannot be read."""
    sources: dict[Role, PlannedSource] = {}
    green_from = None
    for role in output.layout.roles:
        source, how = _plan_source(role, maps, library, green, greens)
        green_from = how or green_from
        if source is not None:
            sources[role] = source
    layout = _without_absent_alpha(output.layout, sources)
    shapes = {role: library.shape(source.ref)[:2] for role, source in sources.items()}
    width, height = _common_size(shapes.values(), output.largest)
    for role, source in sources.items():
        _check_channels(library, source.ref, layout, role)
    normals = None
    if output.encoding.mips and {Role.ROUGHNESS, Role.GLOSSINESS} & set(sources):
        normals, _ = _plan_source(Role.NORMAL, maps, library, green, greens)
    return PlannedFile(
        path, set_name, kind, output.output, layout,
        tuple(_resized(source, shapes[role], (width, height)) for role, source in sources.items()), output.colour_space,
        output.encoding, green if green_from else None, green_from, width, height,
        normals=_resized(normals, library.shape(normals.ref)[:2], (width, height)) if normals else None,
    )  # fmt: skip


def _plan_source(
    role: Role,
    maps: Mapping[Role, MapRef],
    library: Library,
    green: Green,
    greens: Mapping[str, tuple[Green, str]],
) -> tuple[PlannedSource | None, str | None]:
    """The map that serves a role with the steps that the target asks for, and how green's direction is known."""
    source = _source_of(role, maps)
    if source is None:
        return None, None
    ref, inverted = source
    added: list[dict[str, Any]] = [{"step": "invert"}] if inverted else []
    green_from = None
    if role is Role.NORMAL:
        steps, green_from = _normal_steps(library, ref, green, greens)
        added += steps
    others = tuple((name, library.map_digest(other)) for name, other in ref.dependencies)
    return PlannedSource(role, ref, library.digest(ref.file), others, tuple(added)), green_from


def _normal_steps(
    library: Library, ref: MapRef, green: Green, greens: Mapping[str, tuple[Green, str]]
) -> tuple[list[dict[str, str]], str]:
    measured, how = greens.get(library.map_digest(ref)) or measured_green(library, ref)
    steps = []
    if len(library.shape(ref).channels.removesuffix("a")) == 2:
        steps.append({"step": RebuildZ.step})
    if measured is not Green.UNKNOWN and measured is not green:
        steps.append({"step": FlipGreen.step})
    return steps, how if measured is not Green.UNKNOWN else "assumed"


def _without_absent_alpha(layout: Layout, sources: Mapping[Role, PlannedSource]) -> Layout:
    channels = {letter: s for letter, s in layout.channels.items() if s.missing is not None or s.role in sources}
    return layout if len(channels) == len(layout.channels) else Layout(layout.name, channels, layout.title)


def _common_size(sizes: Iterable[tuple[int, int]], largest: int | None) -> tuple[int, int]:
    """The largest size among the sources, or what remains of it within ``largest`` texels a side."""
    width, height = max(sizes, key=lambda size: size[0] * size[1])
    if largest is not None and max(width, height) > largest:
        share = largest / max(width, height)
        width, height = max(1, round(width * share)), max(1, round(height * share))
    return width, height


def _resized(source: PlannedSource, size: tuple[int, int], wanted: tuple[int, int]) -> PlannedSource:
    """The source with a resize step where it has another size."""
    if size == wanted:
        return source
    step = {"step": Resize.step, "width": wanted[0], "height": wanted[1]}
    return replace(source, added=(*source.added, step))


def _check_channels(library: Library, ref: MapRef, layout: Layout, role: Role) -> None:
    letters = library.probe(ref.file, ref.layer).channels
    if ref.channel is not None and ref.channel not in letters and not (letters[0] == "y" and ref.channel in "rgb"):
        raise UnreadableImage(
            ref.file,
            "it has the channels {letters}, there is no {channel}",
            letters=letters.upper(),
            channel=ref.channel.upper(),
        )
    if role is not Role.NORMAL:
        return
    wanted = {s.channel for s in layout.channels.values() if s.role is role}
    if library.shape(ref).channels[0] == "y" and wanted - {"r"}:
        raise UnreadableImage(ref.file, "a grey picture cannot serve as a normal map; give it another role")


def _fits_gltf(planned: PlannedFile, slot: str) -> bool:
    """Whether a delivered file can be used by glTF 2.0 as it is: PNG, channels in glTF's places, normals Y+."""
    if planned.container != "png" or planned.layout is None:
        return False
    channels = planned.layout.channels
    if slot == "pack":
        return planned.colour_space is Transfer.LINEAR and all(
            letter in channels and channels[letter].role is source.role and not channels[letter].invert
            for letter, source in _GLTF_PACK.items()
        )
    role = Role(slot)
    space = Transfer.LINEAR if role is Role.NORMAL else Transfer.SRGB
    if planned.colour_space is not space or (role is Role.NORMAL and planned.green is not Green.UP):
        return False
    return all(
        letter in channels and channels[letter] == Source(role, letter, False, channels[letter].missing)
        for letter in "rgb"
    )


@lru_cache
def _gltf_output(slot: str) -> Output:
    if slot == "pack":
        layout = Layout("gltf_pack", dict(_GLTF_PACK))
        return Output("orm", layout, Transfer.LINEAR, _PNG, layout.roles)
    role = Role(slot)
    channels = {letter: Source(role, letter, missing=0.5) for letter in "rgb"}
    if role is Role.BASE_COLOR:
        channels["a"] = Source(Role.OPACITY, missing=None)
    space = Transfer.LINEAR if role is Role.NORMAL else Transfer.SRGB
    return Output(role.value, Layout(f"gltf_{slot}", channels), space, _PNG, (role,))


def _plan_gltf(
    set_name: str, folder: str, name: str, planned: list[PlannedFile], maps: Mapping[Role, MapRef], library: Library,
    greens: Mapping[str, tuple[Green, str]],
) -> list[PlannedFile]:  # fmt: skip
    """The material file, and copies in glTF's own conventions of maps that the target wants otherwise."""
    uses, extra = [], []
    has_pack = any(_source_of(role, maps) for role in (Role.OCCLUSION, Role.ROUGHNESS, Role.METALLIC))
    present = {Role.BASE_COLOR.value, Role.NORMAL.value, Role.EMISSIVE.value} & {r.value for r in maps}
    for slot in sorted(present | ({"pack"} if has_pack else set())):
        fitting = next((f for f in planned if _fits_gltf(f, slot)), None)
        if fitting is None:
            output = _gltf_output(slot)
            path = f"{folder}gltf/{name}_{output.output}.png"
            fitting = plan_output(set_name, path, output, maps, library, Green.UP, greens, "gltf")
            extra.append(fitting)
        uses.append((slot, fitting.path))
    colour = dict(uses).get(Role.BASE_COLOR.value)
    opacity = tuple(
        source
        for file in (*planned, *extra)
        if file.path == colour
        for source in file.sources
        if source.role is Role.OPACITY
    )
    path = f"{folder}{name}.gltf"
    material = PlannedFile(path, set_name, "material", sources=opacity, encoding=Encoding("gltf"), uses=tuple(uses))
    return [*extra, material]
