"""The command that writes the recipe by which the maps of a set repeat."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from texel.cli.shared import FINE, Command, ensure_not_source, share, show
from texel.files import read
from texel.recipes import step_label
from texel.recipes.tileable import BORDERS, Tileable, patches_for, tileable_steps
from texel.roles import Green, Role

__all__ = ["register"]

_ROLES = [role.value for role in Role]


def _tileable(args: argparse.Namespace) -> int:
    order = Tileable(
        tuple(args.corners), args.light, args.reach, args.by_channel, args.borders, args.width, args.axes
    ).checked()
    out = Path(args.output)
    ensure_not_source([out], [Path(args.guide)])
    guide = read(Path(args.guide)).as_role(Role(args.guide_role))
    role = Role(args.role or args.guide_role)
    steps = tileable_steps(order, role, patches_for(order, guide), Green(args.green))
    document = {"format": "fair-texel/recipe", "version": 1, "role": role.value, "recipe": steps}
    out.write_text(json.dumps(document, indent=2) + "\n", "utf-8")
    show(args, document, f"{out}: {', '.join(step_label(step) for step in steps) or 'no steps'}")
    return FINE


def register(command: Command) -> None:
    """Add the command."""
    sub = command(
        "tileable", _tileable, "Write the recipe by which a map repeats, its borders patched as a guide decides.",
        ("guide", "the map that decides where borders are cut"),
    )  # fmt: skip
    sub.add_argument("-o", dest="output", required=True, metavar="RECIPE", help="recipe document to write (JSON)")
    sub.add_argument("--guide-role", choices=_ROLES, default="base_color", help="what the guide is for")
    sub.add_argument(
        "--role", choices=_ROLES, help="what the map is for that the recipe is for; the guide's, if not given"
    )
    sub.add_argument(
        "--corners", type=float, nargs=8, default=Tileable.corners, metavar="N",
        help="x and y of four corners, shares of the sides, clockwise from the upper left",
    )  # fmt: skip
    sub.add_argument("--light", type=share, default=Tileable.light, help="how much slow change of light goes, 0 to 1")
    sub.add_argument("--reach", type=float, default=Tileable.reach, help="over which share of the width light changes")
    sub.add_argument("--by-channel", action="store_true", help="even out the colour of the light as well")
    sub.add_argument("--borders", choices=BORDERS, default=Tileable.borders, help="how borders come to meet")
    sub.add_argument(
        "--width", type=float, default=Tileable.width, help="share of the side that may change at a border"
    )
    sub.add_argument("--axes", choices=["both", "x", "y"], default=Tileable.axes, help="which borders")
    sub.add_argument("--green", choices=["up", "down"], default="up", help="where green points in a normal map")
