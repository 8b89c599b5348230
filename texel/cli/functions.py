"""Commands on functions of sheets: check, compare, draw out of a master, bring into one, write as MaterialX."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from texel.cli.shared import FINE, FOUND_ERRORS, Command, Usage, ensure_not_source, show
from texel.files.writing import write_bytes
from texel.materials.exchange import materialx_of_function
from texel.materials.function_edits import drawn_out, function_changes, function_name, problem_of, with_function
from texel.materials.functions import Function, parse_function, steps_of
from texel.materials.master import parse_master
from texel.schemas import read_json

__all__ = ["register"]


def _function(name: str) -> Function:
    path = Path(name)
    return parse_function(read_json(path), path.name)


def _written(document: Any, output: str | None, sources: list[str]) -> str:
    if not output:
        raise Usage("say where to write with -o FILE")
    ensure_not_source([Path(output)], [Path(one) for one in sources])
    write_bytes((json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode(), Path(output))
    return output


def _check(args: argparse.Namespace) -> int:
    function = _function(args.files[0])
    problem, operation = problem_of(function), function.operation
    told = {"message": problem.problem, "row": problem.row} if problem else None
    document = {
        "problem": told, "steps": steps_of(operation), "reads": operation.reads,
        "size": int(operation.shape) if operation.shape.isdigit() else None,
    }  # fmt: skip
    lines = [f"error    {problem.row}: {problem.problem}"] if problem else []
    lines.append(f"{document['steps']} arithmetic steps, {document['reads']} texture reads")
    show(args, document, "\n".join(lines))
    return FOUND_ERRORS if problem else FINE


def _diff(args: argparse.Namespace) -> int:
    changes = function_changes(*(_function(name) for name in args.files))
    lines = [f"{one.breaks:<8} {one.message}: {one.before or '-'} -> {one.after or '-'}" for one in changes]
    document = {"changes": [one.document() for one in changes]}
    show(args, document, "\n".join(lines or ["nothing differs"]))
    return FINE


def _use(args: argparse.Namespace) -> int:
    function, master = (Path(name) for name in args.files)
    document = read_json(master)
    parse_master(document, master.name)
    made = with_function(document, read_json(function))
    parse_master(made, master.name)
    written = _written(made, args.output, [str(function)])
    show(args, {"written": [written]}, written)
    return FINE


def _draw_out(args: argparse.Namespace) -> int:
    if not (args.row and args.title and args.into):
        raise Usage("say which row (--row), the function's title (--title), and where the sheet goes (--into FILE)")
    document = read_json(Path(args.files[0]))
    name = function_name(args.title)
    made = drawn_out(document, args.row, name, args.title, args.first, args.last, args.numbers)
    written = [_written(made.function, args.output, args.files), _written(made.document, args.into, [])]
    show(
        args, {"written": written, "rows": list(made.rows)}, "\n".join([*written, f"called in {', '.join(made.rows)}"])
    )
    return FINE


def _export(args: argparse.Namespace) -> int:
    function = _function(args.files[0])
    if not args.output or Path(args.output).suffix.lower() != ".mtlx":
        raise Usage("say where to write with -o FILE.mtlx")
    ensure_not_source([Path(args.output)], [Path(args.files[0])])
    write_bytes(materialx_of_function(function).encode(), Path(args.output))
    show(args, {"written": [args.output]}, args.output)
    return FINE


# What is done, by its word, and how many documents it takes.
_ACTIONS = {
    "check": (_check, 1), "diff": (_diff, 2), "use": (_use, 2), "draw-out": (_draw_out, 1), "export": (_export, 1),
}  # fmt: skip


def _run(args: argparse.Namespace) -> int:
    run, wanted = _ACTIONS[args.action]
    if len(args.files) != wanted:
        raise Usage(
            "function {action} takes {wanted} document{s}", action=args.action, wanted=wanted,
            s="s" if wanted > 1 else "",
        )  # fmt: skip
    return run(args)


def register(command: Command) -> None:
    sub = command(
        "function", _run,
        "Functions of sheets: check one, compare two, make one of a master's row, bring one into a master, export it.",
    )  # fmt: skip
    sub.add_argument("action", choices=list(_ACTIONS), help="what to do")
    sub.add_argument(
        "files", nargs="+", metavar="FILE",
        help="function document (JSON); of use: the function, then the master; of draw-out: the master",
    )  # fmt: skip
    sub.add_argument(
        "-o", "--output", metavar="OUT", help="of use: a master; of draw-out: a function; of export: .mtlx"
    )
    sub.add_argument("--row", metavar="NAME", help="of draw-out: the row or input whose steps become a function")
    sub.add_argument("--title", help="of draw-out: of the function; its name is made of it")
    sub.add_argument("--first", type=int, default=0, metavar="N", help="of draw-out: first step of the row, from 0")
    sub.add_argument("--last", type=int, metavar="N", help="of draw-out: last step; the row's last when left out")
    sub.add_argument("--numbers", action="store_true", help="of draw-out: numbers in the steps become inputs, too")
    sub.add_argument("--into", metavar="FILE", help="of draw-out: where the master that calls the function goes")
