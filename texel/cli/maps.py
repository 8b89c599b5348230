"""Commands on single maps: look at one, flip, apply a recipe, mip chains, pack and unpack."""

from __future__ import annotations

import argparse
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from texel.channels import layout_named, pack, unpack
from texel.cli.shared import FINE, LAYER_HELP, Command, Usage, ensure_not_source, folder_named, share, show
from texel.files import read, write
from texel.image import Texels
from texel.inspection import inspect
from texel.library import named_green
from texel.mips import CUT_OFF, compare_chains, naive_chain, right_chain
from texel.normals.direction import find_direction
from texel.normals.flip import flip_green
from texel.recipes import apply_recipe, step_label
from texel.recipes.step import Context
from texel.roles import Role
from texel.schemas import check_document, read_json

__all__ = ["register"]


def _direction(args: argparse.Namespace) -> int:
    direction = find_direction(read(Path(args.file)).as_role(Role.NORMAL))
    document = {"green": direction.green.value, "confidence": round(direction.confidence, 4)}
    show(args, document, f"{direction.green.value} (confidence {direction.confidence:.0%})")
    return FINE


def _flip(args: argparse.Namespace) -> int:
    ensure_not_source([Path(args.output)], [Path(args.input)])
    write(flip_green(read(Path(args.input)).as_role(Role.NORMAL)), Path(args.output))
    show(args, {"written": args.output}, "")
    return FINE


def _mips(args: argparse.Namespace) -> int:
    source = Path(args.input)
    texels = read(source).as_role(Role(args.role))
    normals = read(Path(args.normals)).as_role(Role.NORMAL) if args.normals else None
    right, naive = right_chain(texels, normals, args.cut_off), naive_chain(texels)
    compared = compare_chains(right, naive, args.cut_off)
    written = []
    if args.output:
        folder = folder_named(args.output)
        paths = [folder / f"{source.stem}_mip{number}{source.suffix}" for number in range(len(right))]
        ensure_not_source(paths, [source])
        for level, path in zip(naive if args.naive else right, paths, strict=True):
            write(level, path)
            written.append(path.name)
    lines = [f"{compared['measure']}: right chain, plain averaging"]
    lines += [
        f"{o['level']:>3}  {o['width']} x {o['height']}  {o['right']:.4f}  {o['naive']:.4f}" for o in compared["levels"]
    ]
    show(args, {"file": args.input, "role": args.role, **compared, "written": written}, "\n".join(lines))
    return FINE


def _pack(args: argparse.Namespace) -> int:
    layout = layout_named(args.layout)
    sources = {}
    for pair in args.set:
        word, _, file = pair.partition("=")
        if word not in {role.value for role in Role} or not file:
            raise Usage(
                "--set takes role=FILE with a role of {listed}; not {pair!r}",
                listed=", ".join(r.value for r in Role),
                pair=pair,
            )
        sources[Role(word)] = Path(file)
    unknown = [role.value for role in sources if role not in layout.roles]
    if unknown:
        raise Usage("the layout {layout} has no channel for {listed}", layout=layout.name, listed=", ".join(unknown))
    if not sources:
        raise Usage("give at least one map with --set role=FILE")
    ensure_not_source([Path(args.output)], sources.values())
    with ThreadPoolExecutor() as pool:  # the decoders free the interpreter
        decoded = list(pool.map(read, sources.values()))
    maps = {role: texels.as_role(role) for role, texels in zip(sources, decoded, strict=True)}
    write(pack(layout, maps), Path(args.output))
    constants = [
        f"{c.upper()}={s.missing:g}" for c, s in layout.channels.items() if s.role not in maps and s.missing is not None
    ]
    note = f"{args.output}: constants {', '.join(constants)}" if constants else ""
    show(args, {"written": args.output, "layout": layout.document()}, note)
    return FINE


def _unpack(args: argparse.Namespace) -> int:
    layout = layout_named(args.layout)
    source = read(Path(args.file))
    packed = source.as_role(Role.ROUGHNESS)
    out = Path(args.output)
    maps = unpack(layout, packed)
    suffix = ".exr" if source.bits == 32 else ".png"
    paths = {role: out / f"{role.value}{suffix}" for role in maps}
    ensure_not_source(paths.values(), [Path(args.file)])
    out.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor() as pool:
        list(pool.map(write, maps.values(), paths.values()))
    written = {role.value: str(path) for role, path in paths.items()}
    show(args, {"written": written}, "\n".join(written.values()))
    return FINE


def _inspect(args: argparse.Namespace) -> int:
    path = Path(args.file)
    document = inspect(path, layer=args.layer)
    head, guess = document["probe"], document["guessed"][:2]
    lines = [
        f"{args.file}: {head['container']} {head['width']} x {head['height']}, {head['bits']} bits "
        + head["channels"].upper()
        + (f", tagged {document['tags']['says']}" if document["tags"]["says"] else ""),
        *(
            f"  {letter.upper()} {c['min']:g} to {c['max']:g}, mean {c['mean']:.4g}, spread {c['spread']:.3g}"
            for letter, c in document["channels"].items()
        ),
        *(
            f"  layer {one['name']}: {one['width']} x {one['height']} {one['channels'].upper()}"
            for one in document["layers"]
        ),
        *(f"  looks like {g['role']} ({g['confidence']:.0%}): {g['why']}" for g in guess),
    ]
    show(args, document, "\n".join(lines))
    return FINE


def _apply(args: argparse.Namespace) -> int:
    recipe, role = _recipe_of(Path(args.recipe))
    role = Role(args.role) if args.role else role
    others = {}
    for pair in args.map:
        name, _, file = pair.partition("=")
        if not name or not file:
            raise Usage("--map takes name=FILE, as in occlusion=ao.png; not {pair!r}", pair=pair)
        others[name] = Path(file)
    source, out = Path(args.input), Path(args.output)
    ensure_not_source([out], [source, *others.values()])

    def other(name: str) -> Texels:
        if name not in others:
            raise Usage("this recipe needs another map; give it with --map {name}=FILE", name=name)
        return read(others[name]).as_role(Role(name.partition("/")[0]), named_green(others[name].name))

    texels = read(source, layer=args.layer).as_role(role, named_green(source.name, args.layer))
    made = apply_recipe(texels, recipe, Context(other=other))
    write(made, out)
    written = {"written": args.output, "width": made.width, "height": made.height, "channels": made.channels}
    show(args, {**written, "bits": made.bits, "steps": [step_label(step) for step in recipe]}, "")
    return FINE


def _recipe_of(path: Path) -> tuple[list[dict[str, Any]], Role]:
    """The steps of a recipe document, and the role that it is for. A bare list of steps is for base colour."""
    document = read_json(path)
    if isinstance(document, list):
        document = {"format": "fair-texel/recipe", "version": 1, "role": Role.BASE_COLOR.value, "recipe": document}
    check_document(document, "recipe", path.name)
    return document["recipe"], Role(document["role"])


def register(command: Command) -> None:
    layout_help = "a layout file, or a word that spells its channels (orm, mrao, ard)"
    command("direction", _direction, "Tell where a normal map's green points.", ("file", "normal map"))
    command("flip", _flip, "Flip green of a normal map.", ("input", "normal map"), ("output", "file to write"))
    sub = command("inspect", _inspect, "Say everything about one picture.", ("file", "picture"))
    sub.add_argument("--layer", metavar="NAME", help=LAYER_HELP)
    sub = command(
        "apply", _apply, "Apply a recipe to a picture.",
        ("recipe", "recipe document (JSON)"), ("input", "picture"), ("output", "file to write"),
    )  # fmt: skip
    sub.add_argument("--role", choices=[r.value for r in Role], help="what the picture is for, instead of the recipe's")
    sub.add_argument("--layer", metavar="NAME", help=LAYER_HELP)
    sub.add_argument(
        "--map", action="append", default=[], metavar="NAME=FILE", help="another map that the recipe reads"
    )
    sub = command("mips", _mips, "Make a mip chain and compare it with plain averaging.", ("input", "picture"))
    sub.add_argument("--role", choices=[r.value for r in Role], required=True, help="what the picture is for")
    sub.add_argument("--normals", metavar="FILE", help="the normal map whose lost length goes into roughness")
    sub.add_argument("--cut-off", type=share, default=CUT_OFF, help="alpha that is shown, 0 to 1 (default %(default)s)")
    sub.add_argument("--naive", action="store_true", help="write the plain averages in place of the right levels")
    sub.add_argument("-o", dest="output", metavar="DIR", help="folder to write the levels to")
    sub = command("pack", _pack, "Pack maps into the channels of one picture.")
    sub.add_argument("--layout", required=True, help=layout_help)
    sub.add_argument("--set", action="append", default=[], metavar="role=FILE", help="a map, once a role")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="file to write (.png, .tga, .exr)")
    sub = command("unpack", _unpack, "Split a packed picture into one file a role.", ("file", "packed picture"))
    sub.add_argument("--layout", required=True, help=layout_help)
    sub.add_argument("-o", dest="output", required=True, metavar="DIR", help="folder to write to")
