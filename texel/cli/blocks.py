"""Commands on block formats and errors: encode, measure, advise, misread."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from texel.blocks import WRITABLE_FORMATS, format_named
from texel.blocks.encoding import QUALITIES, encode_texture
from texel.cli.shared import (
    FINE,
    FOUND_ERRORS,
    SETS_HELP,
    Command,
    Usage,
    chosen_sets,
    ensure_not_source,
    folder_named,
    share,
    show,
    sorted_folder,
)  # fmt: skip
from texel.compression import builtin_tables, table_named
from texel.delivery import plan_delivery, target_named
from texel.delivery.advice import advise_files
from texel.files import read, write
from texel.files.dds import build_dds
from texel.files.ktx2 import build_ktx2
from texel.files.writing import write_bytes
from texel.library import named_green
from texel.measures import Kind, compare, error_picture, kind_of
from texel.mips import CUT_OFF
from texel.misread import misread_figures
from texel.roles import Role
from texel.threads import may_use

__all__ = ["register"]

_ZSTD_LEVEL = 10


def _encode(args: argparse.Namespace) -> int:
    source, out = Path(args.input), Path(args.output)
    ensure_not_source([out], [source])
    suffix = out.suffix.lower()
    if suffix not in (".dds", ".ktx2"):
        raise Usage("{out}: write to a name that ends in .dds or .ktx2", out=out.name)
    if args.zstd and suffix != ".ktx2":
        raise Usage("only a .ktx2 can be packed with Zstandard")
    role = Role(args.role)
    texels = read(source).as_role(role)
    format_ = format_named(args.format)
    texture = encode_texture(texels, format_, args.quality, not args.no_mips, may_use())
    data = build_ktx2(texture, _ZSTD_LEVEL if args.zstd else None) if suffix == ".ktx2" else build_dds(texture)
    write_bytes(data, out)
    # Measuring takes longer than encoding: only who asks for it waits for it.
    error = compare(texels, texture.level(0, out.name).as_role(role), kind_of(role)) if args.measure else None
    document: dict[str, Any] = {
        "written": args.output, "format": format_.key, "width": texture.width, "height": texture.height,
        "levels": len(texture.levels), "colour_space": str(texture.transfer), "memory": texture.bytes,
        "bytes": len(data), "error": error,
    }  # fmt: skip
    measured = f"; {_words(error)}" if error else ""
    show(args, document, f"{args.output}: {format_.label}, {texture.bytes / 1024:.0f} KiB of memory{measured}")
    return FINE


def _words(error: dict[str, Any]) -> str:
    """The numbers of an error for people."""
    told = {
        "psnr": "PSNR {:.2f} dB", "ssim": "SSIM {:.4f}", "delta_e": "colour difference {:.2f} on average",
        "delta_e_99": "{:.2f} at the 99th percentile", "degrees": "{:.3f} degrees on average",
        "degrees_99": "{:.3f} at the 99th percentile", "degrees_max": "{:.2f} at most",
        "step": "step {:.5f} on average", "step_99": "{:.5f} at the 99th percentile", "step_max": "{:.5f} at most",
        "alpha_step": "alpha step {:.5f} on average", "alpha_step_max": "{:.5f} at most",
        "coverage": "coverage changed by {:+.4f}",
    }  # fmt: skip
    parts = [words.format(error[key]) for key, words in told.items() if error.get(key) is not None]
    if error.get("every"):
        parts.append(f"perceptual measures on every {error['every']}th texel, a smaller picture")
    none = all(not error.get(key) for key in ("step_max", "delta_e_99", "degrees_max", "alpha_step_max"))
    return "no difference at all" if none and error.get("psnr") is None else ", ".join(parts)


def _measure(args: argparse.Namespace) -> int:
    kind = Kind(args.kind)
    roles = {Kind.COLOUR: Role.BASE_COLOR, Kind.NORMAL: Role.NORMAL, Kind.MASK: Role.ROUGHNESS}
    first, second = (read(Path(name)).as_role(roles[kind]) for name in (args.first, args.second))
    error = compare(first, second, kind, args.cut_off)
    written = None
    if args.picture:
        ensure_not_source([Path(args.picture)], [Path(args.first), Path(args.second)])
        write(error_picture(first, second, kind), Path(args.picture))
        written = args.picture
    show(args, {"first": args.first, "second": args.second, **error, "picture": written}, _words(error))
    return FINE


def _advise(args: argparse.Namespace) -> int:
    target, table = target_named(args.target), table_named(args.formats)
    library, sorted_files = sorted_folder(folder_named(args.dir))
    plan = plan_delivery(chosen_sets(args, sorted_files), library, target)
    maps = [planned for planned in plan.files if planned.kind == "map"]
    files = [document for _, document in advise_files(maps, library, table, may_use())]
    lines = []
    for one in files:
        current, advised = one["current"], one["advised"] or "none"
        lines.append(f"{one['path']}: {current['label']}, {current['memory'] / 2**20:.2f} MiB; advised {advised}")
        lines.append(f"  {one['reason']}")
        lines += [f"  {c['message']} ({c['cost']:g} {c['unit']})" for c in one["cautions"]]
    memory = sum(one["current"]["memory"] for one in files)
    spared = sum(one["spared"] or 0 for one in files)
    lines.append(f"{memory / 2**20:.2f} MiB now, {(memory - spared) / 2**20:.2f} MiB as advised")
    totals = {"memory": memory, "spared": spared, "problems": list(plan.problems)}
    document = {"target": target.name, "files": files, **totals}
    show(args, document, "\n".join(lines))
    return FOUND_ERRORS if plan.problems or any(one["advised"] is None for one in files) else FINE


def _misread(args: argparse.Namespace) -> int:
    path = Path(args.file)
    texels = read(path).as_role(Role(args.role), named_green(path.name))
    figures = misread_figures(texels)
    lines = [
        f"{one['misreading']}: {one['symptom']}. {one['cause']}: mean {one['mean']['before']:.3f} becomes"
        f" {one['mean']['after']:.3f}; {_words(one['error'])}. {one['remedy']}."
        for one in figures
    ]
    show(args, {"file": args.file, "role": args.role, "misreadings": figures}, "\n".join(lines))
    return FINE


def register(command: Command) -> None:
    roles = [r.value for r in Role]
    sub = command(
        "encode", _encode, "Encode a picture in a block format, with its mip chain.",
        ("input", "picture"), ("output", "file to write (.dds, .ktx2)"),
    )  # fmt: skip
    sub.add_argument("--format", required=True, metavar="FORMAT", help=f"one of: {', '.join(WRITABLE_FORMATS)}")
    sub.add_argument("--role", choices=roles, default="base_color", help="what it is for (default %(default)s)")
    sub.add_argument("--quality", choices=QUALITIES, default="normal", help="default %(default)s")
    sub.add_argument("--no-mips", action="store_true", help="the first level alone")
    sub.add_argument("--zstd", action="store_true", help="pack the levels of a .ktx2 with Zstandard")
    sub.add_argument("--measure", action="store_true", help="also measure the error, which takes longer than encoding")
    sub = command("advise", _advise, "Advise a format for every file of a delivery, by measurement.", ("dir", "folder"))
    sub.add_argument("--target", required=True, metavar="NAME|FILE", help="what the files are for")
    tables = ", ".join(builtin_tables())
    sub.add_argument("--formats", default="desktop", metavar="NAME|FILE", help=f"allowed formats; a file, or: {tables}")
    sub.add_argument("--sets", metavar="FILE", help=SETS_HELP)
    sub = command("misread", _misread, "Say what happens when a target reads a map wrongly.", ("file", "picture"))
    sub.add_argument("--role", choices=roles, required=True, help="what it is for")
    sub = command(
        "measure", _measure, "Measure how much one map differs from another.",
        ("first", "the original"), ("second", "what became of it"),
    )  # fmt: skip
    sub.add_argument("--as", dest="kind", choices=[k.value for k in Kind], required=True, help="what they are")
    sub.add_argument("--cut-off", type=share, default=CUT_OFF, help="alpha that is shown (default %(default)s)")
    sub.add_argument("--picture", metavar="FILE", help="write where the error lies as a grey picture")
