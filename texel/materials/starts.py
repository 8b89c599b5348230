"""What a row of a sheet may begin with besides maps and parameters: where on the surface it is computed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["EVERYWHERE", "FLAT", "STARTS", "Start", "flat_parts", "on_flat"]

Array = NDArray[np.float32]
_INFINITE = float("inf")
# Said of everything that depends on where the surface lies, when maps are baked.
FLAT = "a flat square metre that lies face up in the world's origin, seen from above"


@dataclass(frozen=True)
class Start:
    """A name that any row may read. size: components; bounds: of each; help: for people.

    flat: its value on ``FLAT``, from coordinates of shape (..., 2); what baked maps and every comparison take.
    node: MaterialX's node and its inputs that are words ("" where it has none), negative: it points the other way.
    """

    name: str
    label: str
    size: int
    bounds: tuple[float, float]
    help: str
    flat: Callable[[Array], Array]
    node: str = ""
    inputs: tuple[tuple[str, str], ...] = ()
    negative: bool = False


# Starts that are the same everywhere on one object.
EVERYWHERE = ("time", "object_random")


def _plain(*parts: float) -> Callable[[Array], Array]:
    value = np.array(parts, np.float32)
    return lambda uv: value


def _position(uv: Array) -> Array:
    return np.stack([uv[..., 0], np.zeros_like(uv[..., 0]), uv[..., 1]], axis=-1)


_ANYWHERE, _UNIT = (-_INFINITE, _INFINITE), (-1.0, 1.0)
_WORLD = (("space", "world"),)

STARTS: dict[str, Start] = {
    one.name: one
    for one in (
        Start("uv", "Coordinates", 2, _ANYWHERE, "u to the right, v down; 0 to 1 on the first picture", lambda uv: uv),
        Start("uv1", "Second coordinates", 2, _ANYWHERE, "the mesh's second set", lambda uv: uv),
        Start("vertex", "Vertex colour", 4, (0.0, 1.0), "four components", _plain(0, 0, 0, 1)),
        Start("object_position", "Position on the object", 3, _ANYWHERE, "metres from the object's origin, y up",
              _position, "position", (("space", "object"),)),
        Start("world_position", "Position in the world", 3, _ANYWHERE, "metres from the world's origin, y up",
              _position, "position", _WORLD),
        Start("world_normal", "Normal in the world", 3, _UNIT, "of the mesh, without its normal map; y up",
              _plain(0, 1, 0), "normal", _WORLD),
        Start("world_tangent", "Tangent in the world", 3, _UNIT, "to the right in the picture", _plain(1, 0, 0),
              "tangent", _WORLD),
        Start("world_bitangent", "Bitangent in the world", 3, _UNIT, "up in the picture", _plain(0, 0, -1),
              "bitangent", _WORLD),
        Start("view_direction", "Direction to the viewer", 3, _UNIT, "in the world, from the surface",
              _plain(0, 1, 0), "viewdirection", _WORLD, negative=True),
        Start("camera_distance", "Distance to the viewer", 1, (0.0, _INFINITE), "metres", _plain(1)),
        Start("object_random", "Random number of the object", 1, (0.0, 1.0), "another for each object, 0 to 1",
              _plain(0.5)),
        Start("time", "Time", 1, (0.0, _INFINITE), "seconds", _plain(0), "time"),
    )
}  # fmt: skip


def flat_parts(name: str) -> list[str | float]:
    """The components of a start on ``FLAT``: "u" or "v" where they are a coordinate, else numbers.

    >>> flat_parts("world_position")
    ['u', 0.0, 'v']
    """
    ends = [on_flat(name, np.array([[u, v]], np.float32)).reshape(-1) for u, v in ((0, 0), (1, 0), (0, 1))]
    return [
        "u" if right != first else "v" if down != first else float(first)
        for first, right, down in zip(*ends, strict=True)
    ]


def on_flat(name: str, uv: Array) -> Array:
    """The value of a start on ``FLAT``.

    >>> on_flat("world_position", np.float32([[0.25, 0.5]])).tolist()
    [[0.25, 0.0, 0.5]]
    """
    return np.asarray(STARTS[name].flat(uv), np.float32)
