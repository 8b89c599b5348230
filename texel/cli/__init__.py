"""The command line of the core: ``texel COMMAND``; without one it lists them.

Exit codes: 0 fine, 1 findings of severity error, 2 bad usage or unreadable input (message on standard error).
With ``--json`` exactly one JSON document goes to standard output.
"""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Sequence

from texel.cli import (
    atlas,
    blocks,
    deliveries,
    functions,
    ground,
    maps,
    materials,
    models,
    names,
    projects,
    sets,
    tileable,
)
from texel.cli.shared import FINE
from texel.errors import TexelError

__all__ = ["main"]

BAD_INPUT = 2
_GROUPS = (sets, deliveries, maps, tileable, atlas, blocks, names, materials, functions, models, ground, projects)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="texel", description=(__doc__ or "").split("\n")[0])
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(
        name: str, run: Callable[[argparse.Namespace], int], text: str, *positional: tuple[str, str]
    ) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        for argument, meaning in positional:
            sub.add_argument(argument, help=meaning)
        sub.add_argument("--json", action="store_true", help="print one JSON document")
        sub.set_defaults(run=run)
        return sub

    for group in _GROUPS:
        group.register(command)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code."""
    try:
        args = _parser().parse_args(argv)
    except SystemExit as stop:
        return int(stop.code or 0)
    try:
        made: int = args.run(args)
        return made
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
