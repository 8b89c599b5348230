"""The demo's ground: a patch of tidal marsh with five layers, and a path that somebody painted."""

from __future__ import annotations

from typing import Any

__all__ = ["MARSH", "PATH", "marsh_layers"]

MARSH: dict[str, Any] = {
    "metres": 48.0, "side": 512,
    "shape": {
        "kind": "made", "low": -1.4, "high": 2.6, "seed": 3, "feature": 30.0, "rough": 0.45, "creeks": 0.6,
    },
}  # fmt: skip
# Sets by name, as the demo's intake finds them; their tiles in metres. The reeds lie in small tiles, which the eye
# finds from afar.
_LAYERS: list[dict[str, Any]] = [
    {"name": "Reeds", "set": "reed_bed", "tile": 2.0, "edge": 0.3},
    {
        "name": "Shells", "set": "oyster_shell_gravel", "tile": 1.5, "edge": 0.4,
        "rule": [{"measure": "noise", "from": 0.56, "fade": 0.08, "size": 9, "seed": 4}],
    },
    {
        "name": "Rock", "set": "slate-pier", "tile": 3.0, "edge": 0.3,
        "rule": [{"measure": "slope", "from": 24, "fade": 8}],
    },
    {
        "name": "Mud", "set": "tidal-mud", "tile": 2.5, "edge": 0.6, "repeat": "hexagons",
        "rule": [{"measure": "altitude", "to": -0.1, "fade": 0.5}],
    },
    {
        "name": "Tide line", "set": "mooring_rope", "tile": 1.0, "edge": 0.2,
        "rule": [
            {"measure": "edge", "of": "l4", "from": 0.2, "to": 0.7, "fade": 0.3},
            {"measure": "noise", "from": 0.5, "fade": 0.1, "size": 5, "seed": 9},
        ],
    },
]  # fmt: skip
# A path of shells over the reeds.
PATH: dict[str, Any] = {
    "layer": "l2", "radius": 0.9, "strength": 1.0, "falloff": 0.4,
    "points": [[4 + 2.2 * at, 30 + 3.0 * ((at % 5) - 2) * 0.4 - 0.7 * at, 1] for at in range(13)],
}  # fmt: skip


def marsh_layers(sets: dict[str, int]) -> list[dict[str, Any]]:
    """The layers as a patch takes them. sets: ids by name; what is not among them is not worn."""
    return [
        {key: value for key, value in one.items() if key != "set"}
        | {"key": f"l{at + 1}", "wears": {"kind": "set", "id": sets[one["set"]]} if one["set"] in sets else None}
        for at, one in enumerate(_LAYERS)
    ]
