"""Models: a mesh of a million triangles read and measured, against a bare program that reads it and takes its areas."""

from __future__ import annotations

import json
import statistics
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from ground.places import CHECKOUT
from tests.samples import SAMPLES, read_or_refused
from texel.gltf_file import joined_glb
from texel.meshes.facts import measure_mesh
from texel.meshes.judging import judge_mesh
from texel.meshes.reading import read_mesh
from texel.meshes.rules import DEFAULT_MODELS, parse_models

__all__ = ["run"]

# Points along each side of a curved sheet: a million triangles.
_POINTS = 708
# As the design asks for, seconds.
_MOST = 5.0
_TIMES = 3
# Frames a second at which a stroke follows the hand.
_FRAMES = 30
_WEB = CHECKOUT / "web"
_BRUSH = _WEB / "src/screens/ground/brush.ts"
_BUILD = """
import { readFileSync, writeFileSync } from "node:fs";
import { transformWithOxc } from "vite";
const [from, to] = process.argv.slice(1);
writeFileSync(to, (await transformWithOxc(readFileSync(from, "utf8"), from)).code);
"""


def _sheet() -> bytes:
    """A curved sheet as a binary glTF file, cut into 64 UV islands with gaps between them."""
    x, y = np.meshgrid(np.linspace(0, 1, _POINTS), np.linspace(0, 1, _POINTS))
    places = np.stack([x * 10, np.sin(x * 9) * np.cos(y * 7), y * 10], axis=2).reshape(-1, 3)
    uv = np.stack([x, y], axis=2).reshape(-1, 2)
    uv = (np.floor(uv * 7.999) + 0.05 + 0.9 * (uv * 7.999 % 1)) / 8
    at = (np.arange(_POINTS - 1)[:, None] * _POINTS + np.arange(_POINTS - 1)).ravel()
    corners = np.stack([at, at + _POINTS, at + 1, at + 1, at + _POINTS, at + _POINTS + 1], axis=1).ravel()
    chunks = [places.astype("<f4").tobytes(), uv.astype("<f4").tobytes(), corners.astype("<u4").tobytes()]
    starts = np.cumsum([0, *map(len, chunks)])
    count = _POINTS * _POINTS
    document = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0, "name": "ground"}],
        "materials": [{"name": "mud"}],
        "meshes": [
            {"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "indices": 2, "material": 0}]}
        ],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "type": "VEC3", "count": count},
            {"bufferView": 1, "componentType": 5126, "type": "VEC2", "count": count},
            {"bufferView": 2, "componentType": 5125, "type": "SCALAR", "count": corners.size},
        ],
        "bufferViews": [
            {"buffer": 0, "byteOffset": int(start), "byteLength": len(chunk)}
            for start, chunk in zip(starts, chunks, strict=False)
        ],
        "buffers": [{"byteLength": int(starts[-1])}],
    }  # fmt: skip
    return joined_glb(document, b"".join(chunks))


def _ours(data: bytes) -> int:
    facts = measure_mesh(read_mesh("ground.glb", {"ground.glb": data}))
    judge_mesh(facts, {}, parse_models(DEFAULT_MODELS))
    return facts.triangles


def _bare(data: bytes) -> int:
    """Areas on the mesh and in UV space, which triangles share points, and each laid onto a raster once by OpenCV."""
    import cv2

    mesh = read_mesh("ground.glb", {"ground.glb": data})
    piece = mesh.pieces[0]
    corners, uv = piece.positions[piece.triangles], piece.uvs[0][piece.triangles]
    np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
    edge_1, edge_2 = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    np.abs(edge_1[:, 0] * edge_2[:, 1] - edge_1[:, 1] * edge_2[:, 0]).sum()
    np.unique(np.rint(uv.reshape(-1, 2) * 40960).astype(np.int64), axis=0, return_inverse=True)
    raster = np.zeros((2048, 2048), np.uint8)
    for triangle in np.rint(uv * 2048).astype(np.int32):
        cv2.fillConvexPoly(raster, triangle, 255)
    return len(piece.triangles)


def _seconds(work: Callable[[bytes], int], data: bytes) -> float:
    started = time.perf_counter()
    work(data)
    return time.perf_counter() - started


def _strokes() -> bool:
    """Print how long one movement of the brush takes on a weight map of 1024, and whether all are in time."""
    with tempfile.TemporaryDirectory() as folder:
        built = Path(folder) / "brush.mjs"
        subprocess.run(["node", "--input-type=module", "-e", _BUILD, str(_BRUSH), str(built)], cwd=_WEB, check=True)
        command = ["node", str(Path(__file__).with_name("strokes.mjs")), str(built)]
        told = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    good = True
    for one in told:
        fine = one["milliseconds"] < 1000 / _FRAMES
        good = good and fine
        print(
            f"brush       radius of {one['texels']} texels: {one['milliseconds']:.1f} ms a movement "
            f"({1000 / _FRAMES:.0f} wanted){'' if fine else '  MISSED'}"
        )
    return good


def _samples() -> bool:
    """Print how many of the sample models that package registries carry are taken in, and how many are refused."""
    taken, refused, slowest = 0, 0, 0.0
    started = time.perf_counter()
    for path in SAMPLES:
        began = time.perf_counter()
        mesh, _ = read_or_refused(path)
        if mesh is None:
            refused += 1
        else:
            measure_mesh(mesh)
            taken += 1
        slowest = max(slowest, time.perf_counter() - began)
    whole = time.perf_counter() - started
    print(f"samples     {len(SAMPLES)} models in {whole:.1f} s: {taken} taken in, {refused} refused with a reason; "
          f"the slowest {slowest:.2f} s")  # fmt: skip
    return taken > 0


def run() -> bool:
    """Print medians of pairs; whether a million triangles are checked in time, and the brush keeps up with a hand."""
    data = _sheet()
    # Loops are compiled once for a machine.
    _ours(data)
    pairs = [(_seconds(_ours, data), _seconds(_bare, data)) for _ in range(_TIMES)]
    ours = statistics.median(one for one, _ in pairs)
    ratio = statistics.median(one / other for one, other in pairs)
    good = ours < _MOST
    print(
        f"models      {_ours(data):,} triangles checked in {ours:.2f} s ({_MOST:.0f} wanted), {ratio:.2f} of a bare "
        f"program{'' if good else '  MISSED'}"
    )
    return _strokes() & _samples() & good
