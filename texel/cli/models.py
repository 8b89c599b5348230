"""The command on models: what is in a mesh, what its slots probably wear, what is wrong, the model with its maps."""

from __future__ import annotations

import argparse
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from texel.checks import Severity
from texel.cli.shared import FINE, FOUND_ERRORS, Command, Usage, ensure_not_source, folder_named, show, sorted_folder
from texel.delivery import target_named
from texel.errors import BadDocument
from texel.files.writing import write_bytes
from texel.library import Library, list_files
from texel.meshes.delivered import model_order, plan_models, titles_of
from texel.meshes.facts import MeshFacts, measure_mesh
from texel.meshes.judging import Worn, judge_mesh
from texel.meshes.mesh import MeshFile
from texel.meshes.painting import parse_painting
from texel.meshes.plain import plain_order
from texel.meshes.proposals import SURE, Candidate, Proposal, names_of, propose
from texel.meshes.reading import is_mesh, main_file, read_mesh
from texel.meshes.rules import DEFAULT_MODELS, parse_models
from texel.roles import Role
from texel.schemas import check_document, read_json
from texel.sets import TextureSet

__all__ = ["register"]

# Files beside a mesh that it may name: larger folders are not its own.
_MAX_BESIDE = 2000
_WRITTEN = (".glb", ".usdz")


def _read(path: Path) -> tuple[dict[str, Path], MeshFile]:
    """The mesh in a file, with the files below its folder that are no other mesh."""
    if not path.is_file():
        raise FileNotFoundError(2, "there is no such file", str(path))
    main_file({path.name: b""})
    listed = list_files(path.resolve().parent)
    if len(listed) > _MAX_BESIDE:
        listed = {path.name: path}
    beside = {name: file for name, file in listed.items() if name == path.name or not is_mesh(name)}
    beside[path.name] = path
    wanted = {name: file for name, file in beside.items() if file.suffix.lower() in (".bin", ".mtl") or file == path}
    return wanted, read_mesh(path.name, {name: file.read_bytes() for name, file in wanted.items()})


def _worn_of(one: TextureSet, library: Library) -> Worn:
    maps = one.in_use()
    sides = [max(library.shape(ref)[:2]) for ref in maps.values()]
    return Worn(
        one.name, max(sides, default=None), sets=frozenset([one.name]), has_normal=Role.NORMAL in maps,
        opacity="cut_out" if Role.OPACITY in maps else "opaque",
    )  # fmt: skip


def _given(args: argparse.Namespace, keys: list[str]) -> dict[str, str]:
    """Names of sets by slot, as --wears says them. Raises BadDocument."""
    if not args.wears:
        return {}
    path = Path(args.wears)
    given = read_json(path)
    if not isinstance(given, dict) or not all(isinstance(one, str) for one in given.values()):
        raise BadDocument("{path}: an object of slots, each with the name of a set", path=path.name)
    unknown = next((key for key in given if key not in keys), None)
    if unknown is not None:
        raise BadDocument(
            "{path}: there is no slot {unknown!r}; there are {listed}",
            path=path.name,
            unknown=unknown,
            listed=", ".join(map(repr, keys)),
        )
    return given


def _model(args: argparse.Namespace) -> int:
    path = Path(args.file)
    if args.output:
        ensure_not_source([Path(args.output)], [path])
        if Path(args.output).suffix.lower() not in _WRITTEN:
            raise Usage("{output}: a model is written as .glb or .usdz", output=args.output)
    files, mesh = _read(path)
    facts = measure_mesh(mesh, args.unit)
    rules = parse_models(read_json(Path(args.rules)) if args.rules else DEFAULT_MODELS)
    keys = facts.keys
    library, sets = Library({}), {}
    if args.folder:
        library, found = sorted_folder(folder_named(args.folder))
        sets = {one.name: one for one in found.sets}
    candidates = [Candidate(name, name, tuple({ref.file for ref in one.maps})) for name, one in sets.items()]
    proposals = propose(names_of(facts), candidates)
    wears = _wears(keys, proposals, _given(args, keys), sets)
    worn = {at: _worn_of(sets[wears[key]], library) for at, key in enumerate(keys) if key in wears}
    findings = judge_mesh(facts, worn, rules)
    document: dict[str, Any] = {
        "facts": facts.document(), "wears": wears, "findings": [one.document() for one in findings],
        "proposals": {
            key: [vars(one) for one in ranked] for key, ranked in zip(keys, proposals, strict=True)
        },
    }  # fmt: skip
    if args.output:
        document["written"] = _write(args, facts, keys, wears, sets, library, files)
    lines = _lines(facts, keys, wears)
    lines += [f"{one.severity.value:<8} {_slot(facts, one.slot)}{one.message}" for one in findings]
    show(args, document, "\n".join(lines))
    return FOUND_ERRORS if any(one.severity is Severity.ERROR for one in findings) else FINE


def _wears(
    keys: list[str], proposals: list[list[Proposal]], given: Mapping[str, str], sets: Mapping[str, TextureSet]
) -> dict[str, str]:
    """Names of sets by slot: those that are sure by name, then those that were said. Raises BadDocument."""
    wears = {key: some[0].key for key, some in zip(keys, proposals, strict=True) if some and some[0].share >= SURE}
    for key, name in given.items():
        if name not in sets:
            raise BadDocument("the slot {key} shall wear {name}, and the folder has no such set", key=key, name=name)
        wears[key] = name
    return wears


def _write(
    args: argparse.Namespace, facts: MeshFacts, keys: list[str], wears: Mapping[str, str],
    sets: Mapping[str, TextureSet], library: Library, files: Mapping[str, Path],
) -> str:  # fmt: skip
    """Write the model with the maps of what its slots wear. Raises BadDocument while one wears nothing."""
    names = [one.name for one in facts.slots]
    slots = [
        {
            "key": key,
            "title": title,
            "parts": list(slot.parts),
            "wears": plain_order(wears[key], set(sets[wears[key]].in_use())) if key in wears else None,
        }
        for key, title, slot in zip(keys, titles_of(names, {}), facts.slots, strict=True)
    ]
    order = model_order({
        "name": Path(args.output).stem, "main": Path(args.file).name, "splits": [], "slots": slots,
        "files": {name: f"model/{name}" for name in files}, "metres": args.unit, "strokes": _strokes(args),
    })  # fmt: skip
    every = {name: library.path(name) for name in library.files} | {f"model/{n}": p for n, p in files.items()}
    target = target_named(args.target or "metal-rough-gloss-y-plus")
    form = Path(args.output).suffix.lower().removeprefix(".")
    planned = plan_models([order], sets, Library(every), replace(target, models=(form,)))
    if planned.problems:
        raise BadDocument("{problems}", problems="; ".join(planned.problems))
    data = planned.make[planned.files[0].path]()
    write_bytes(data, Path(args.output))
    return str(args.output)


def _strokes(args: argparse.Namespace) -> list[Any]:
    """Strokes of --painting, checked. Raises BadDocument."""
    if not args.painting:
        return []
    path = Path(args.painting)
    document = read_json(path)
    check_document(document, "painting", path.name)
    strokes: list[Any] = document["strokes"]
    parse_painting(strokes, path.name)
    return strokes


def _slot(facts: MeshFacts, at: int | None) -> str:
    return "" if at is None else f"{facts.slots[at].name or f'slot {at + 1}'}: "


def _lines(facts: MeshFacts, keys: list[str], wears: Mapping[str, str]) -> list[str]:
    size = " x ".join(f"{one:.3g}" for one in facts.size)
    lines = [f"{facts.name}: {facts.triangles:,} triangles, {len(facts.parts)} parts, {size} m"]
    for key, slot in zip(keys, facts.slots, strict=True):
        if slot.is_worn:
            density = f", {slot.density * 1024:.0f} texels a metre at 1024" if slot.density else ""
            lines.append(f"  {key or '(no name)':<24} {wears.get(key, '-'):<24} {', '.join(slot.parts)}{density}")
    return lines


def register(command: Command) -> None:
    sub = command("model", _model, "look at a mesh: its slots, UVs and density; write it with its maps",
                  ("file", "a .glb, .gltf or .obj file; OpenUSD where its library is installed"))  # fmt: skip
    sub.add_argument("--folder", help="a folder of textures, sorted into sets that the slots may wear")
    sub.add_argument("--wears", help="names of sets by slot (JSON), beside what the names say")
    sub.add_argument("--rules", help="what the house asks of models (JSON)")
    sub.add_argument("--unit", type=float, default=1.0, help="metres of one unit of the file")
    sub.add_argument("--painting", help="strokes that paint its vertex colours (JSON)")
    sub.add_argument("--target", help="how large maps may be: a target's name or document")
    sub.add_argument("-o", "--output", help="write the model with its maps to this .glb or .usdz file")
