"""The command line of the core: ``texel COMMAND``; without one it lists them.

Exit codes: 0 fine, 1 findings of severity error, 2 bad usage or unreadable input (message on standard error).
With ``--json`` exactly one JSON document goes to standard output.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from texel.channels import layout_named, pack, unpack
from texel.checks import Severity, check_sets, check_undecided
from texel.delivery import builtin_targets, deliver_folder, plan_delivery, target_named
from texel.delivery.folder import read_manifest
from texel.delivery.manifest import MANIFEST
from texel.errors import TexelError
from texel.files import read, write
from texel.image import Texels
from texel.inspection import inspect
from texel.library import Library, named_green
from texel.mips import CUT_OFF, compare_chains, naive_chain, right_chain
from texel.normals.direction import find_direction
from texel.normals.flip import flip_green
from texel.recipes import apply_recipe, step_label
from texel.recipes.step import Context
from texel.roles import Role
from texel.schemas import check_document, load_json
from texel.sets import TextureSet, parse_sets
from texel.sorting import Sorted, sort_files

__all__ = ["main"]

FINE, FOUND_ERRORS, BAD_INPUT = 0, 1, 2


class _Usage(TexelError):
    """Bad usage that argparse cannot see."""


def _show(args: argparse.Namespace, document: Any, text: str) -> None:
    if args.json:
        json.dump(document, sys.stdout, indent=2, ensure_ascii=False)
        sys.stdout.write("\n")
    elif text:
        print(text)


def _folder(name: str) -> Path:
    path = Path(name)
    if not path.is_dir():
        raise _Usage(f"{name} is not a folder" if path.exists() else f"{name}: there is no such folder")
    return path


def _sorted_folder(root: Path) -> tuple[Library, Sorted]:
    library = Library.of_folder(root)
    if not library.files:
        raise _Usage(f"{root}: the folder is empty; there is nothing to sort")
    return library, sort_files(library, root.resolve().name)


def _sort(args: argparse.Namespace) -> int:
    try:
        _, found = _sorted_folder(_folder(args.dir))
    except _Usage:
        if args.json and Path(args.dir).is_dir():
            _show(args, Sorted().document(), "")
        raise
    lines = []
    for one in found.sets:
        lines.append(one.name)
        for ref in one.maps:
            channel = f" [{ref.channel.upper()}]" if ref.channel else f" [{ref.layer}]" if ref.layer else ""
            lines.append(f"  {ref.role.value:<12} {ref.file}{channel}  {ref.confidence:.0%}  {ref.why}")
    for left in found.undecided:
        guesses = ", ".join(f"{c['role']} of {c['set']} ({c['confidence']:.0%})" for c in left.candidates)
        lines.append(f"undecided: {left.file}: {left.why}" + (f"; perhaps {guesses}" if guesses else ""))
    _show(args, found.document(), "\n".join(lines))
    return FINE


def _direction(args: argparse.Namespace) -> int:
    found = find_direction(read(Path(args.file)).as_role(Role.NORMAL))
    document = {"green": found.green.value, "confidence": round(found.confidence, 4)}
    _show(args, document, f"{found.green.value} (confidence {found.confidence:.0%})")
    return FINE


def _apart(outputs: Iterable[Path], sources: Iterable[Path]) -> None:
    """Refuse to write over what is read: sources are never changed."""
    read_from = {source.resolve() for source in sources}
    for output in outputs:
        if output.resolve() in read_from:
            raise _Usage(f"{output} is one of the sources, which are never changed; write to another name")


def _flip(args: argparse.Namespace) -> int:
    _apart([Path(args.output)], [Path(args.input)])
    write(flip_green(read(Path(args.input)).as_role(Role.NORMAL)), Path(args.output))
    _show(args, {"written": args.output}, "")
    return FINE


def _share(word: str) -> float:
    number = float(word)
    if not 0 < number <= 1:
        raise argparse.ArgumentTypeError(f"{word} does not lie above 0 and at most at 1")
    return number


def _mips(args: argparse.Namespace) -> int:
    source = Path(args.input)
    texels = read(source).as_role(Role(args.role))
    normals = read(Path(args.normals)).as_role(Role.NORMAL) if args.normals else None
    right, naive = right_chain(texels, normals, args.cut_off), naive_chain(texels)
    found = compare_chains(right, naive, args.cut_off)
    written = []
    if args.output:
        folder = _folder(args.output)
        paths = [folder / f"{source.stem}_mip{number}{source.suffix}" for number in range(len(right))]
        _apart(paths, [source])
        for level, path in zip(naive if args.naive else right, paths, strict=True):
            write(level, path)
            written.append(path.name)
    lines = [f"{found['measure']}: right chain, plain averaging"]
    lines += [
        f"{o['level']:>3}  {o['width']} x {o['height']}  {o['right']:.4f}  {o['naive']:.4f}" for o in found["levels"]
    ]
    _show(args, {"file": args.input, "role": args.role, **found, "written": written}, "\n".join(lines))
    return FINE


def _pack(args: argparse.Namespace) -> int:
    layout = layout_named(args.layout)
    sources = {}
    for pair in args.set:
        word, _, file = pair.partition("=")
        if word not in {role.value for role in Role} or not file:
            raise _Usage(f"--set takes role=FILE with a role of {', '.join(r.value for r in Role)}; not {pair!r}")
        sources[Role(word)] = Path(file)
    unknown = [role.value for role in sources if role not in layout.roles]
    if unknown:
        raise _Usage(f"the layout {layout.name} has no channel for {', '.join(unknown)}")
    if not sources:
        raise _Usage("give at least one map with --set role=FILE")
    _apart([Path(args.output)], sources.values())
    with ThreadPoolExecutor() as pool:  # the decoders free the interpreter
        decoded = list(pool.map(read, sources.values()))
    maps = {role: texels.as_role(role) for role, texels in zip(sources, decoded, strict=True)}
    write(pack(layout, maps), Path(args.output))
    constants = [
        f"{c.upper()}={s.missing:g}" for c, s in layout.channels.items() if s.role not in maps and s.missing is not None
    ]
    note = f"{args.output}: constants {', '.join(constants)}" if constants else ""
    _show(args, {"written": args.output, "layout": layout.document()}, note)
    return FINE


def _unpack(args: argparse.Namespace) -> int:
    layout = layout_named(args.layout)
    source = read(Path(args.file))
    packed = source.as_role(Role.ROUGHNESS)
    out = Path(args.output)
    maps = unpack(layout, packed)
    suffix = ".exr" if source.bits == 32 else ".png"
    paths = {role: out / f"{role.value}{suffix}" for role in maps}
    _apart(paths.values(), [Path(args.file)])
    out.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor() as pool:
        list(pool.map(write, maps.values(), paths.values()))
    written = {role.value: str(path) for role, path in paths.items()}
    _show(args, {"written": written}, "\n".join(written.values()))
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
    _show(args, document, "\n".join(lines))
    return FINE


def _apply(args: argparse.Namespace) -> int:
    recipe, role = _recipe_of(Path(args.recipe))
    role = Role(args.role) if args.role else role
    others = {}
    for pair in args.map:
        name, _, file = pair.partition("=")
        if not name or not file:
            raise _Usage(f"--map takes name=FILE, as in occlusion=ao.png; not {pair!r}")
        others[name] = Path(file)
    source, out = Path(args.input), Path(args.output)
    _apart([out], [source, *others.values()])

    def other(name: str) -> Texels:
        if name not in others:
            raise _Usage(f"this recipe needs another map; give it with --map {name}=FILE")
        return read(others[name]).as_role(Role(name.partition("/")[0]), named_green(others[name].name))

    texels = read(source, layer=args.layer).as_role(role, named_green(source.name, args.layer))
    made = apply_recipe(texels, recipe, Context(other=other))
    write(made, out)
    written = {"written": args.output, "width": made.width, "height": made.height, "channels": made.channels}
    _show(args, {**written, "bits": made.bits, "steps": [step_label(step) for step in recipe]}, "")
    return FINE


def _recipe_of(path: Path) -> tuple[list[dict[str, Any]], Role]:
    """The steps of a recipe document, and the role that it is for. A bare list of steps is for base colour."""
    document = load_json(path.read_text("utf-8"), path.name)
    if isinstance(document, list):
        document = {"format": "fair-texel/recipe", "version": 1, "role": Role.BASE_COLOR.value, "recipe": document}
    check_document(document, "recipe", path.name)
    return document["recipe"], Role(document["role"])


def _findings(args: argparse.Namespace, findings: list[Any], more: dict[str, Any], text: str) -> int:
    errors = sum(f.severity is Severity.ERROR for f in findings)
    lines = [
        f"{f.severity.value:<8} {f.set or '-'}: {f.role.value if f.role else f.file or ''}: {f.message}"
        for f in findings
        if f.severity is not Severity.NOTE
    ]
    document = {**more, "findings": [f.document() for f in findings]}
    _show(args, document, "\n".join([*lines, text]))
    return FOUND_ERRORS if errors else FINE


def _check(args: argparse.Namespace) -> int:
    library, found = _sorted_folder(_folder(args.dir))
    findings = check_sets(_chosen(args, found), library) + check_undecided(found.undecided)
    return _findings(args, findings, {}, f"{len(findings)} findings in {len(found.sets)} sets")


def _chosen(args: argparse.Namespace, found: Sorted) -> list[TextureSet]:
    if not args.sets:
        return found.sets
    path = Path(args.sets)
    return parse_sets(load_json(path.read_text("utf-8"), path.name), path.name)


def _deliver(args: argparse.Namespace) -> int:
    target = target_named(args.target)
    root, out = _folder(args.dir), Path(args.output)
    if out.resolve() == root.resolve() or root.resolve() in out.resolve().parents:
        raise _Usage("the delivery must not go into the folder of its sources")
    library, found = _sorted_folder(root)
    sets = _chosen(args, found)
    findings = check_sets(sets, library)
    plan = plan_delivery(sets, library, target, read_manifest(out))
    if not plan.files:
        raise _Usage(f"{args.dir}: there is nothing to deliver" + "".join(f"; {p}" for p in plan.problems))
    document = deliver_folder(plan, library, out, args.replace)
    more = {
        "manifest": str(out / MANIFEST),
        "files": [{"path": f.path, "status": f.status} for f in plan.files],
        "orphaned": list(plan.orphaned),
        "problems": list(plan.problems),
    }
    code = _findings(args, findings, more, f"{len(document['files'])} files in {out}")
    for problem in plan.problems:
        print(f"texel: not delivered: {problem}", file=sys.stderr)
    return FOUND_ERRORS if plan.problems else code


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="texel", description=__doc__.split("\n")[0])
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, run: Callable[[argparse.Namespace], int], text: str, *positional: tuple[str, str]):
        sub = commands.add_parser(name, help=text, description=text)
        for argument, meaning in positional:
            sub.add_argument(argument, help=meaning)
        sub.add_argument("--json", action="store_true", help="print one JSON document")
        sub.set_defaults(run=run)
        return sub

    layout_help = "a layout file, or a word that spells its channels (orm, mrao, ard)"
    layer_help = "which picture of a layered OpenEXR; the first without it"
    sets_help = "a sets document (as `texel sort --json` prints) to use in place of sorting"
    command("sort", _sort, "Sort a folder's files into texture sets.", ("dir", "folder"))
    command("direction", _direction, "Tell where a normal map's green points.", ("file", "normal map"))
    command("flip", _flip, "Flip green of a normal map.", ("input", "normal map"), ("output", "file to write"))
    sub = command("inspect", _inspect, "Say everything about one picture.", ("file", "picture"))
    sub.add_argument("--layer", metavar="NAME", help=layer_help)
    sub = command(
        "apply", _apply, "Apply a recipe to a picture.",
        ("recipe", "recipe document (JSON)"), ("input", "picture"), ("output", "file to write"),
    )  # fmt: skip
    sub.add_argument("--role", choices=[r.value for r in Role], help="what the picture is for, instead of the recipe's")
    sub.add_argument("--layer", metavar="NAME", help=layer_help)
    sub.add_argument(
        "--map", action="append", default=[], metavar="NAME=FILE", help="another map that the recipe reads"
    )
    sub = command("mips", _mips, "Make a mip chain and compare it with plain averaging.", ("input", "picture"))
    sub.add_argument("--role", choices=[r.value for r in Role], required=True, help="what the picture is for")
    sub.add_argument("--normals", metavar="FILE", help="the normal map whose lost length goes into roughness")
    sub.add_argument(
        "--cut-off", type=_share, default=CUT_OFF, help="alpha that is shown, 0 to 1 (default %(default)s)"
    )
    sub.add_argument("--naive", action="store_true", help="write the plain averages in place of the right levels")
    sub.add_argument("-o", dest="output", metavar="DIR", help="folder to write the levels to")
    sub = command("pack", _pack, "Pack maps into the channels of one picture.")
    sub.add_argument("--layout", required=True, help=layout_help)
    sub.add_argument("--set", action="append", default=[], metavar="role=FILE", help="a map, once a role")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="file to write (.png, .tga, .exr)")
    sub = command("unpack", _unpack, "Split a packed picture into one file a role.", ("file", "packed picture"))
    sub.add_argument("--layout", required=True, help=layout_help)
    sub.add_argument("-o", dest="output", required=True, metavar="DIR", help="folder to write to")
    sub = command("check", _check, "Judge the sets in a folder.", ("dir", "folder"))
    sub.add_argument("--sets", metavar="FILE", help=sets_help)
    sub = command("deliver", _deliver, "Deliver the sets in a folder for a target.", ("dir", "folder"))
    names = ", ".join(builtin_targets())
    sub.add_argument("--target", required=True, metavar="NAME|FILE", help=f"a target file, or one of: {names}")
    sub.add_argument("--sets", metavar="FILE", help=sets_help)
    sub.add_argument("--replace", action="store_true", help="overwrite files that were edited or not delivered before")
    sub.add_argument("-o", dest="output", required=True, metavar="OUT", help="folder to write to")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code."""
    try:
        args = _parser().parse_args(argv)
    except SystemExit as stop:
        return int(stop.code or 0)
    try:
        return args.run(args)
    except TexelError as error:
        print(f"texel: {error}", file=sys.stderr)
    except BrokenPipeError:  # whoever reads our output has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return FINE
    except FileNotFoundError as error:
        print(f"texel: {error.filename}: there is no such file", file=sys.stderr)
    except OSError as error:
        print(f"texel: {error.filename or ''}: {error.strerror}", file=sys.stderr)
    return BAD_INPUT
