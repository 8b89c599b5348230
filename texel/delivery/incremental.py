"""Deliver again into a folder that is kept in step: only what changed is built, and the rest is not even read."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

from texel import digest
from texel.delivery.drift import Choice, drift_of
from texel.delivery.files_there import OURS, FilesThere
from texel.delivery.folder import Keep, build_files, read_manifest, take_back, write_below
from texel.delivery.ledger import Ledger
from texel.delivery.manifest import RESERVED
from texel.delivery.place import Brought, Drifted, FolderPlace
from texel.delivery.plan import Plan
from texel.delivery.remembered import recall_digests, remember_digests
from texel.errors import DeliveryRefused
from texel.library import Library

__all__ = ["deliver_incrementally", "kept_in_place", "wanted_files"]


def deliver_incrementally(
    plan_against: Callable[[dict[str, Any] | None], Plan],
    library: Library,
    out: Path,
    every: Choice | None = None,
    wait: float = 0.0,
    notes: Mapping[str, Any] | None = None,
    make: Mapping[str, Callable[[], bytes]] | None = None,
) -> tuple[Plan, dict[str, Any], Brought]:
    """Bring ``out`` to what a plan says; returns the plan without what could not be built, the manifest, what moved.

    plan_against: the plan, compared with the manifest that it is given. every: what to do with files that others
    changed; without it they are told, and nothing is written. notes, make: as of build_files. The folder then holds
    byte for byte what a full delivery into an empty one would, except for files that were kept. Raises Drifted,
    PlaceBusy, DeliveryRefused, TexelError.
    """
    place = FolderPlace(out)
    new = not out.exists()
    try:
        with place.held(wait):
            ledger = place.ledger()
            previous = read_manifest(out)
            recall_digests(library, out)
            plan = plan_against(previous)
            if not plan.files:
                more = "".join(f"; {one}" for one in plan.problems)
                raise DeliveryRefused("there is nothing to deliver{more}", more=more)
            if every is None:
                _refuse_drift(place.there, ledger, plan)
            incoming = place.incoming()
            plan, document = build_files(
                plan, library, write_below(incoming), lambda path: take_back(incoming, path),
                keep=kept_in_place(place.there, ledger, previous), notes=notes, make=make,
            )  # fmt: skip
            brought = place.bring(wanted_files(document, incoming), incoming.joinpath, every=every)
            with suppress(OSError):  # the delivery is whole without it
                remember_digests(library, out)
            return plan, document, brought
    except BaseException:
        if new:
            _leave_nothing(place)
        raise


def _refuse_drift(there: FilesThere, ledger: Ledger, plan: Plan) -> None:
    """Before time is spent on building."""
    drift = drift_of(there, ledger, {planned.path: "" for planned in plan.files} | dict.fromkeys(RESERVED, ""))
    asked = [one for one in drift if one.asks and ledger.kept.get(one.path) != one.digest]
    if asked:
        raise Drifted(there.name, asked)


def kept_in_place(there: FilesThere, ledger: Ledger, previous: Mapping[str, Any] | None) -> Keep:
    """What of a plan lies there from before, by its ledger and manifest."""
    known = {entry["path"]: entry for entry in (previous or {}).get("files", ())}

    def keep(planned: Any) -> tuple[str, int] | None:
        before = known.get(planned.path)
        if before is None or planned.status != "unchanged" or not ledger.is_untouched(there, planned.path):
            return None
        return before["digest"], before["bytes"]

    return keep


def wanted_files(document: Mapping[str, Any], built: Path) -> dict[str, str]:
    """Path to digest of all that a delivery consists of. built: where the files that every delivery has were written
    to."""
    files = {entry["path"]: entry["digest"] for entry in document["files"]}
    return files | {name: digest.of_file(built / name) for name in RESERVED}


def _leave_nothing(place: FolderPlace) -> None:
    """A folder that was not there before is not there after a delivery that came to nothing."""
    if place.root.is_dir() and os.listdir(place.root) == [OURS] and not place.ledger().files:
        shutil.rmtree(place.root / OURS)
        place.root.rmdir()
