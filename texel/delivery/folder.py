"""Write a delivery into a folder: whole or not at all when new, file by file when renewed, never over a stranger."""

from __future__ import annotations

import logging
import shutil
import tempfile
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from texel import digest
from texel.delivery.build import build_map
from texel.delivery.gltf import gltf_material
from texel.delivery.manifest import MANIFEST, RESERVED, file_entry, manifest_document
from texel.delivery.plan import Plan, PlannedFile
from texel.delivery.report import closing_files
from texel.delivery.texts import sidecar_text
from texel.errors import DeliveryRefused, TexelError
from texel.files.writing import write_bytes
from texel.image import to_unit
from texel.library import Library
from texel.roles import Role
from texel.schemas import check_document, read_json
from texel.threads import may_use

__all__ = ["Keep", "build_files", "deliver_folder", "read_manifest", "take_back", "write_below"]

_log = logging.getLogger(__name__)
# Alpha nearly all 0 or 1 is a cut-out; soft values blend.
_BINARY_SHARE = 0.98
# Files that are built before somebody asks for them, beyond those that are being built: what is done waits as bytes.
_AHEAD = 4
Reuse = Callable[[PlannedFile], bytes | None]
# Digest and count of the bytes of a file that lies where it belongs, or None.
Keep = Callable[[PlannedFile], tuple[str, int] | None]


def read_manifest(folder: Path) -> dict[str, Any] | None:
    """The manifest of a delivery made before, or None. Raises BadDocument when it is not one."""
    path = folder / MANIFEST
    if not path.is_file():
        return None
    document = read_json(path, f"{folder.name}/{MANIFEST}")
    check_document(document, "manifest", f"{folder.name}/{MANIFEST}")
    made: dict[str, Any] | None = document
    return made


def _alpha_mode(planned: PlannedFile, by_path: Mapping[str, PlannedFile], library: Library) -> str | None:
    colour = by_path.get(dict(planned.uses).get(Role.BASE_COLOR.value, ""))
    source = next((s for s in colour.sources if s.role is Role.OPACITY), None) if colour else None
    if source is None:
        return None
    values = to_unit(library.map(source.ref).channel("r"))
    binary = float(((values < 0.02) | (values > 0.98)).mean())
    return "MASK" if binary > _BINARY_SHARE else "BLEND"


def build_files(
    plan: Plan,
    library: Library,
    write: Callable[[str, bytes], None],
    discard: Callable[[str], None],
    reuse: Reuse = lambda planned: None,
    keep: Keep = lambda planned: None,
    notes: Mapping[str, Any] | None = None,
    on_file: Callable[[int, PlannedFile], None] = lambda index, planned: None,
    make: Mapping[str, Callable[[], bytes]] | None = None,
) -> tuple[Plan, dict[str, Any]]:
    """Build every file of a plan, hand each to ``write(path, bytes)``; checksums, report and the manifest come last.

    Returns the plan without the sets that could not be built, each with its reason, and the manifest of what was. What
    was written of such a set before is handed to ``discard(path)``. reuse: bytes of a file built before from the same
    plan, or None. keep: of a file that need not be written, since it lies there from before. notes: what the report
    says beyond the manifest, see texel.delivery.report. on_file: progress; may raise to stop. make: builds
    material files of casts, models and patches of ground, by path. Raises DeliveryRefused when no set could be built.
    """
    written: dict[str, dict[str, Any]] = {}
    failed: dict[str, str] = {}
    for index, (planned, outcome) in enumerate(_outcomes(plan, library, written, failed, reuse, keep, make or {})):
        on_file(index, planned)
        if planned.owner in failed or outcome is None:
            continue
        if isinstance(outcome, str):
            failed[planned.owner] = f"{planned.path} cannot be built: {outcome}"
        elif isinstance(outcome, bytes):
            write(planned.path, outcome)
            written[planned.path] = file_entry(planned, digest.of_bytes(outcome), len(outcome))
        else:
            written[planned.path] = file_entry(planned, *outcome)
    for planned in plan.files:
        if planned.owner in failed and planned.path in written and keep(planned) is None:
            discard(planned.path)
    plan = plan.without(failed)
    if not plan.files:
        raise DeliveryRefused("nothing could be built; {problems}", problems="; ".join(plan.problems))
    for planned in plan.files:
        if planned.kind == "sidecar" and not planned.owner:
            data = sidecar_text(planned, plan, written)
            write(planned.path, data)
            written[planned.path] = file_entry(planned, digest.of_bytes(data), len(data))
    document = manifest_document(plan, written)
    for path, data in closing_files(plan, document, notes or {}).items():
        write(path, data)
    return plan, document


# What came of a file: its bytes, where it lies from before, why it cannot be built, or None for what is built later.
_Outcome = bytes | tuple[str, int] | str | None


def _outcomes(
    plan: Plan,
    library: Library,
    written: Mapping[str, dict[str, Any]],
    failed: Mapping[str, str],
    reuse: Reuse,
    keep: Keep,
    make: Mapping[str, Callable[[], bytes]],
) -> Iterator[tuple[PlannedFile, _Outcome]]:
    """Every file in the plan's order with what came of it; several are built at once, a few ahead of who asks."""
    by_path = {planned.path: planned for planned in plan.files}
    workers = may_use()
    ahead: deque[tuple[PlannedFile, Callable[[], _Outcome]]] = deque()
    pool = ThreadPoolExecutor(workers)

    def begin(planned: PlannedFile) -> Callable[[], _Outcome]:
        if planned.owner in failed:
            return lambda: None
        if planned.kind == "sidecar":
            # Of one thing it needs the entries of its files; of all sets it is known at the end which there are.
            return lambda: _tried(planned, lambda: sidecar_text(planned, plan, written)) if planned.owner else None
        kept = keep(planned)
        if kept is not None:
            return lambda: kept
        return pool.submit(_tried, planned, lambda: reuse(planned) or _bytes_of(planned, by_path, library, make)).result

    try:
        for planned in plan.files:
            ahead.append((planned, begin(planned)))
            if len(ahead) > workers + _AHEAD:
                first, outcome = ahead.popleft()
                yield first, outcome()
        while ahead:
            first, outcome = ahead.popleft()
            yield first, outcome()
    finally:
        pool.shutdown(cancel_futures=True)


def _tried(planned: PlannedFile, work: Callable[[], bytes]) -> bytes | str:
    try:
        return work()
    except (TexelError, OSError) as error:
        return str(error)
    except Exception as error:
        # A fault of ours must not take the other sets along.
        _log.exception("building %s", planned.path)
        return f"{type(error).__name__}: {error}"


def _bytes_of(
    planned: PlannedFile,
    by_path: Mapping[str, PlannedFile],
    library: Library,
    make: Mapping[str, Callable[[], bytes]],
) -> bytes:
    """The bytes of a file that is built anew. Raises TexelError."""
    if planned.kind in ("cast", "model", "ground"):
        return make[planned.path]()
    if planned.kind == "material":
        return gltf_material(planned, planned.set, _alpha_mode(planned, by_path, library))
    return build_map(planned, library)


def deliver_folder(
    plan: Plan, library: Library, out: Path, replace: bool = False,
    make: Mapping[str, Callable[[], bytes]] | None = None,
) -> tuple[Plan, dict[str, Any]]:  # fmt: skip
    """Write a planned delivery to ``out``; returns the plan without what could not be built, and the manifest.

    make: what builds files of casts, models and ground, by path.

    A new folder appears whole, or not at all. In a folder delivered to before, unchanged files are left alone, changed
    ones are replaced one by one with the manifest last, and orphaned ones stay.
    Raises DeliveryRefused, before anything is written, when a file there is not the one that the manifest describes
    (edited, or never delivered), unless ``replace``.
    """
    if out.is_file():
        raise DeliveryRefused("{out} is a file, not a folder", out=out.name)
    previous = read_manifest(out)
    known = {entry["path"]: entry for entry in (previous or {}).get("files", ())}
    if not replace:
        _refuse_strangers(plan, out, known)
    reuse = _reuse_from(out, known)
    out.parent.mkdir(parents=True, exist_ok=True)
    staging = Path(tempfile.mkdtemp(prefix=f".{out.name}.", suffix=".part", dir=out.parent))
    try:
        plan, document = build_files(
            plan, library, write_below(staging), lambda path: take_back(staging, path), reuse, make=make
        )
        staging.chmod(0o755)
        if not out.exists():
            staging.rename(out)
            return plan, document
        # The manifest last: until then what lies there is what the former one tells of, or more.
        for path in [*(planned.path for planned in plan.files), *reversed(RESERVED)]:
            (out / path).parent.mkdir(parents=True, exist_ok=True)
            (staging / path).replace(out / path)
        return plan, document
    finally:
        shutil.rmtree(staging, ignore_errors=True)


def write_below(root: Path) -> Callable[[str, bytes], None]:
    """A function that writes a file below ``root``, whole or not at all."""

    def write(path: str, data: bytes) -> None:
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        write_bytes(data, root / path)

    return write


def take_back(root: Path, path: str) -> None:
    """Remove a file that was written below ``root``, and the folders that hold nothing without it."""
    (root / path).unlink()
    for folder in (root / path).parents:
        if folder == root or any(folder.iterdir()):
            return
        folder.rmdir()


def _reuse_from(out: Path, known: Mapping[str, Any]) -> Reuse:
    def reuse(planned: PlannedFile) -> bytes | None:
        before = known.get(planned.path)
        if planned.status != "unchanged" or before is None or planned.kind in ("material", "cast", "model", "ground"):
            return None
        path = out / planned.path
        data = path.read_bytes() if path.is_file() else b""
        return data if digest.of_bytes(data) == before["digest"] else None

    return reuse


def _refuse_strangers(plan: Plan, out: Path, known: Mapping[str, Any]) -> None:
    strangers = []
    for planned in plan.files:
        path = out / planned.path
        if not path.exists():
            continue
        before = known.get(planned.path)
        if before is None or not path.is_file() or digest.of_file(path) != before["digest"]:
            strangers.append(planned.path)
    if strangers:
        more = f" and {len(strangers) - 5} more" if len(strangers) > 5 else ""
        raise DeliveryRefused(
            "{out} holds files that this delivery would overwrite and that it did not write, or that were "
            "edited since: {listed}{more}. Nothing was written. Choose another folder, or --replace.",
            out=out.name,
            listed=", ".join(strangers[:5]),
            more=more,
        )
