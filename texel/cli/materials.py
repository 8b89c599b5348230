"""Commands on masters: check, compare, export, bake, ready-made ones."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from texel.channels.layout import layout_named
from texel.checks import Severity
from texel.cli.shared import FINE, FOUND_ERRORS, Command, Usage, ensure_not_source, show
from texel.compression.table import table_named
from texel.delivery.gltf import gltf_of_maps
from texel.errors import BadDocument
from texel.files import read, write
from texel.files.writing import write_bytes
from texel.image import Texels
from texel.materials import Master, checked_changes, cost_of, over_budget, parse_master, remarks_on, text_of
from texel.materials.baking import bake, gltf_maps, packed_maps
from texel.materials.exchange import ENDINGS, OPENPBR, FilledCast, cast_document, export, read_material
from texel.materials.ready import ready_master, ready_masters
from texel.materials.versions import changes_between, next_number
from texel.roles import Green, Role
from texel.schemas import check_document, read_json
from texel.tiles import ANY, files_of

__all__ = ["register"]

_ACTIONS = ("check", "diff", "export", "import", "ready")


def _master(name: str) -> Master:
    path = Path(name)
    return parse_master(read_json(path), path.name)


def _ready(args: argparse.Namespace) -> int:
    if len(args.files) > 1:
        raise Usage("material ready takes one name, or none to list them")
    if not args.files:
        listed = [{"name": name, "title": one["title"], "help": one["help"]} for name, one in ready_masters().items()]
        show(args, {"masters": listed}, "\n".join(f"{one['name']:<22}{one['help']}" for one in listed))
        return FINE
    document = ready_master(args.files[0])
    if args.output:
        write_bytes(json.dumps(document, indent=2, ensure_ascii=False).encode(), Path(args.output))
        show(args, {"written": [args.output]}, args.output)
    else:
        show(args, dict(document), json.dumps(document, indent=2, ensure_ascii=False))
    return FINE


def _material(args: argparse.Namespace) -> int:
    if args.action == "ready":
        return _ready(args)
    wanted = 2 if args.action == "diff" else 1
    if len(args.files) != wanted:
        raise Usage(
            "material {action} takes {wanted} document{what}",
            action=args.action,
            wanted=wanted,
            what="s" if wanted > 1 else "",
        )
    return {"check": _check, "diff": _diff, "export": _export, "import": _import}[args.action](args)


def _check(args: argparse.Namespace) -> int:
    master = _master(args.files[0])
    remarks, cost = remarks_on(master), cost_of(master)
    lines = [f"{one.severity.value:<8} {one.row or one.about}: {one.message}" for one in remarks]
    lines.append(
        f"{cost.reads} texture reads, {cost.samplers} samplers, {cost.arithmetic} arithmetic steps, "
        f"{cost.variants} variants"
    )  # fmt: skip
    over = over_budget(cost, table_named(args.formats).sheets) if args.formats else []
    lines += [f"warning  cost: {one}" for one in over]
    rows = {name: text_of(tree) for name, tree in master.trees()}
    document = {
        "remarks": [one.document() for one in remarks], "cost": cost.document(), "over_budget": over, "rows": rows,
    }  # fmt: skip
    show(args, document, "\n".join(lines))
    return FOUND_ERRORS if any(one.severity is Severity.ERROR for one in remarks) else FINE


def _diff(args: argparse.Namespace) -> int:
    before, after = (_master(name) for name in args.files)
    changes = changes_between(before, after)
    place = {0: "the first place", 1: "the second place", 2: "the third place"}
    number = next_number((0, 0, 0), changes)
    lines = [f"{one.breaks:<8} {one.message}: {one.before or '-'} -> {one.after or '-'}" for one in changes]
    lines.append(f"raises {place[number.index(1)]} of the version" if changes else "nothing differs")
    show(args, {"changes": [one.document() for one in changes]}, "\n".join(lines))
    return FINE


def _export(args: argparse.Namespace) -> int:
    if not args.output:
        raise Usage("say where to write with -o FILE, its ending one of {listed}", listed=", ".join(ENDINGS))
    out = Path(args.output)
    kind = out.suffix.removeprefix(".").lower()
    if kind not in ENDINGS:
        raise Usage("{out}: write to a name that ends in one of {listed}", out=out.name, listed=", ".join(ENDINGS))
    if args.openpbr and kind != "mtlx":
        raise Usage("--openpbr is for files that end in .mtlx")
    kind = OPENPBR if args.openpbr else kind
    sources = [Path(name) for name in (args.files[0], *(args.cast or []))]
    master = _master(args.files[0])
    casts = [_filled(master, Path(name)) for name in args.cast or []]
    if args.map:
        if casts:
            raise Usage("--map fills the slots of the master itself; a cast document names its own files")
        casts = [FilledCast(master.title, {}, *_maps(master, args.map))]
        sources += [Path(one.split("=", 1)[1]) for one in args.map]
    made = export(master, kind, out.stem, casts, args.size, _vertex(args))
    ensure_not_source([out.parent / path for path in made.files], sources)
    for path, body in made.files.items():
        (out.parent / path).parent.mkdir(parents=True, exist_ok=True)
        write_bytes(body, out.parent / path)
    written = [str(out.parent / path) for path in made.files]
    document = {"written": written, "lost": list(made.lost), "baked": made.baked or {}}
    lines = [*written, *(f"  lost: {line}" for line in made.lost)]
    lines += [f"  baked for {name}: {', '.join(inputs)}" for name, inputs in (made.baked or {}).items() if inputs]
    show(args, document, "\n".join(lines))
    return FINE


def _vertex(args: argparse.Namespace) -> tuple[float, float, float, float]:
    """Raises Usage."""
    try:
        red, green, blue, alpha = (float(part) for part in args.vertex.split(","))
    except ValueError:
        raise Usage("--vertex takes four numbers from 0 to 1: R,G,B,A") from None
    colour = (red, green, blue, alpha)
    if not all(0 <= part <= 1 for part in colour):
        raise Usage("--vertex takes four numbers from 0 to 1: R,G,B,A")
    return colour


def _cast_document(path: Path) -> dict[str, Any]:
    document = read_json(path)
    check_document(document, "cast", path.name)
    made: dict[str, Any] = document
    return made


def _filled(master: Master, path: Path) -> FilledCast:
    """A cast from its document, its files read from beside it."""
    document = _cast_document(path)
    changes = checked_changes(master, document.get("changes", {}), path.name)
    maps: dict[str, Texels] = {}
    tiles: dict[str, dict[int, Texels]] = {}
    for slot, one in document.get("slots", {}).items():
        if slot not in master.slots:
            raise BadDocument("{path}: {title} has no slot {slot}", path=path.name, title=master.title, slot=slot)
        if "file" not in one:
            raise BadDocument(
                "{path}: slot {slot} is filled from a set; here it takes a file", path=path.name, slot=slot
            )
        maps[slot], own = _slot_tiles(master, slot, path.parent / one["file"])
        tiles |= {slot: own} if own else {}
    return FilledCast(document["name"], changes, maps, tiles)


def _import(args: argparse.Namespace) -> int:
    """Masters and casts from a document in another format, one file each; what was lost is told."""
    source = Path(args.files[0])
    if not args.output:
        raise Usage("say where to write with -o DIR")
    materials = read_material(source)
    out = Path(args.output)
    written: list[dict[str, Any]] = []
    names: dict[str, int] = {}
    documents: dict[Path, Any] = {}
    pictures: dict[Path, bytes] = {}
    for one in materials:
        count = names[one.document["name"]] = names.get(one.document["name"], 0) + 1
        base = one.document["name"] + (f"_{count}" if count > 1 else "")
        documents[out / f"{base}.json"] = one.document
        master = parse_master(one.document, source.name)
        casts = []
        for at, cast in enumerate(one.casts, 1):
            path = out / f"{base}_cast_{at}.json"
            documents[path] = cast_document(master, cast)
            casts.append(str(path))
        pictures |= {out / name: body for name, body in one.pictures.items()}
        written.append({"master": str(out / f"{base}.json"), "casts": casts, "lost": list(one.lost)})
    ensure_not_source([*documents, *pictures], [source])
    out.mkdir(parents=True, exist_ok=True)
    for path, document in documents.items():
        write_bytes((json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode(), path)
    for path, body in pictures.items():
        write_bytes(body, path)
    lines = []
    for one_written in written:
        lines += [one_written["master"], *one_written["casts"], *(f"  lost: {line}" for line in one_written["lost"])]
    show(args, {"materials": written}, "\n".join(lines))
    return FINE


def _bake(args: argparse.Namespace) -> int:
    master, out = _master(args.master), Path(args.output)
    cast = _filled(master, Path(args.cast)) if args.cast else FilledCast(master.title, {}, {})
    changes, maps = cast.changes, {**cast.maps, **_maps(master, args.map or [])[0]}
    width, height = args.size
    baked = bake(master, maps, changes, width, height, args.bits, Green.UP if args.gltf else Green(args.green))
    if args.gltf and args.layout:
        raise Usage("--gltf packs as glTF wants it; leave --layout out")
    layouts = [layout_named(name) for name in args.layout or []]
    made = gltf_maps(master, baked) if args.gltf else packed_maps(baked, layouts)
    paths = {name: out / f"{master.name}_{name}.png" for name in made}
    ensure_not_source(paths.values(), [Path(one.split("=", 1)[1]) for one in args.map or []])
    out.mkdir(parents=True, exist_ok=True)
    for name, texels in made.items():
        write(texels, paths[name])
    written = {name: str(path) for name, path in paths.items()}
    if args.gltf:
        path = out / f"{master.name}.gltf"
        uses = [(name, file.name) for name, file in paths.items()]
        alpha = {"cut_out": "MASK", "blend": "BLEND"}.get(master.opacity_mode)
        write_bytes(gltf_of_maps(path.name, uses, master.title, alpha, master.cut_off, baked.emissive_strength), path)
        written["material"] = str(path)
    document = {"written": written, "width": width, "height": height, "emissive_strength": baked.emissive_strength}
    show(args, document, "\n".join(written.values()))
    return FINE


def _maps(master: Master, given: list[str]) -> tuple[dict[str, Texels], dict[str, dict[int, Texels]]]:
    """Maps by slot, and the tiles of those that have some."""
    maps: dict[str, Texels] = {}
    tiles: dict[str, dict[int, Texels]] = {}
    for one in given:
        slot, _, file = one.partition("=")
        if slot not in master.slots or not file:
            raise Usage(
                "--map {one}: give SLOT=FILE; slots are {what}", one=one, what=", ".join(master.slots) or "none"
            )
        maps[slot], own = _slot_tiles(master, slot, Path(file))
        tiles |= {slot: own} if own else {}
    return maps, tiles


def _slot_tiles(master: Master, slot: str, path: Path) -> tuple[Texels, dict[int, Texels]]:
    """A slot's map, the first of several where the name holds <UDIM>, and all of these by their number."""
    tiles = {number: _slot_map(master, slot, one) for number, one in files_of(path).items()}
    if ANY in path.name and not tiles:
        raise Usage("{path}: there is no tile of this name", path=path.name)
    return (next(iter(tiles.values())) if tiles else _slot_map(master, slot, path)), tiles


def _slot_map(master: Master, slot: str, path: Path) -> Texels:
    role, texels = master.slots[slot].role, read(path)
    return texels.as_role(role) if isinstance(role, Role) else texels


def _size(word: str) -> tuple[int, int]:
    width, _, height = word.lower().partition("x")
    if not (width.isdigit() and (height or width).isdigit()):
        raise argparse.ArgumentTypeError(f"{word} is no size; give texels as 1024 or 1024x512")
    return int(width), int(height or width)


def register(command: Command) -> None:
    sub = command(
        "material",
        _material,
        "Masters: check a sheet, compare two, export or import one, list ready-made ones.",
    )
    sub.add_argument("action", choices=_ACTIONS, help="what to do")
    sub.add_argument(
        "files", nargs="*", metavar="FILE",
        help="master document (JSON); of import: .mtlx, .gltf or .glb; of ready: the name of a ready-made master",
    )  # fmt: skip
    sub.add_argument(
        "-o",
        "--output",
        metavar="OUT",
        help=f"of export or ready: a file, {', '.join(ENDINGS)}; of import: a folder",
    )
    sub.add_argument("--openpbr", action="store_true", help="of export to .mtlx: give the sheet to OpenPBR's surface")
    sub.add_argument("--cast", action="append", metavar="FILE", help="of export: cast document that goes with it")
    sub.add_argument("--map", action="append", metavar="SLOT=FILE", help="of export: what fills a slot of the master")
    sub.add_argument("--formats", metavar="TABLE", help="of check: table of formats whose limits for sheets count")
    sub.add_argument("--size", type=int, default=1024, help="of export: texels of a side of baked maps")
    sub.add_argument("--vertex", default="0,0,0,1", metavar="R,G,B,A", help="of export: vertex colour in baked maps")
    sub = command("bake", _bake, "Bake a master, or a cast of it, into maps.", ("master", "master document (JSON)"))
    sub.add_argument("--cast", metavar="FILE", help="cast document (JSON): its changes and files")
    sub.add_argument("--map", action="append", metavar="SLOT=FILE", help="what fills a slot")
    sub.add_argument("--size", type=_size, default=(1024, 1024), help="texels: 1024 or 1024x512")
    sub.add_argument("--bits", type=int, choices=(8, 16), default=8, help="of a channel; heights get 16")
    sub.add_argument("--green", choices=("up", "down"), default="up", help="direction of the normal map's green")
    sub.add_argument("--layout", action="append", metavar="NAME", help="pack by this layout, in place of single maps")
    sub.add_argument("--gltf", action="store_true", help="maps as glTF 2.0 takes them, and a material file")
    sub.add_argument("-o", "--output", required=True, metavar="DIR", help="folder for the maps")
