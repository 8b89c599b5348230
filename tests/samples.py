"""Sample models that package registries carry: Debian assimp-testmodels and PyPI materialxgltf."""

from importlib.resources import files
from pathlib import Path

from texel.meshes.mesh import MeshFile, UnreadableMesh
from texel.meshes.reading import read_mesh

__all__ = ["DEBIAN", "SAMPLES", "read", "read_or_refused"]

DEBIAN = Path("/usr/share/assimp/models")
PLACES = (DEBIAN, Path(str(files("materialxgltf"))) / "data")
SAMPLES = sorted(
    path for place in PLACES for path in place.rglob("*") if path.suffix.lower() in (".gltf", ".glb", ".obj")
)


def read(path: Path) -> MeshFile:
    """The mesh of a sample, with what lies beside it. Raises UnreadableMesh."""
    beside = {one.relative_to(path.parent).as_posix(): one for one in path.parent.rglob("*") if one.is_file()}
    wanted = {name: one.read_bytes() for name, one in beside.items() if one.suffix.lower() in (".bin", ".mtl")}
    return read_mesh(path.name, wanted | {path.name: path.read_bytes()})


def read_or_refused(path: Path) -> tuple[MeshFile | None, str]:
    """The mesh, or why there is none."""
    try:
        return read(path), ""
    except UnreadableMesh as error:
        return None, str(error)
