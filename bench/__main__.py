"""``./ft bench [PART ...]``: speed as ratios to a reference in the same run, and how sure the checks are."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from bench import (
    analysis,
    delivery,
    encoders,
    intake,
    judging,
    library,
    materials,
    models,
    operations,
    page,
    people,
    previews,
    scale,
    sizing,
    slider,
    steps,
)
from bench import real as real_maps
from bench.inputs import SIDE, make_inputs

_ON_FILES: dict[str, Callable[[Path], bool]] = {"operations": operations.run, "analysis": analysis.run}
_BY_THEMSELVES: dict[str, Callable[[], bool]] = {
    "judging": judging.run, "steps": steps.run, "previews": previews.run, "encoders": encoders.run,
    "intake": intake.run, "materials": materials.run, "library": library.run, "slider": slider.run,
    "people": people.run, "page": page.run, "delivery": delivery.run, "models": models.run,
    "scale": scale.run, "sizing": sizing.run,
}  # fmt: skip


def _real_folder(words: list[str]) -> tuple[list[str], Path | None]:
    """The words without --real DIR, and DIR."""
    if "--real" not in words:
        return words, None
    at = words.index("--real")
    return words[:at] + words[at + 2 :], Path(words[at + 1]) if at + 1 < len(words) else Path(".")


def main(words: list[str]) -> int:
    """Run the named parts, or all; 1 when one of them is not as wanted, 2 for a part that there is not."""
    words, real = _real_folder(words)
    parts = words or [*_BY_THEMSELVES, *_ON_FILES]
    unknown = set(parts) - set(_BY_THEMSELVES) - set(_ON_FILES)
    if unknown:
        print(f"bench: there is no part {', '.join(unknown)}; parts are {', '.join([*_BY_THEMSELVES, *_ON_FILES])}")
        return 2
    if real is not None:
        return 0 if real_maps.run(real) and judging.run() else 1
    good = [_BY_THEMSELVES[part]() for part in parts if part in _BY_THEMSELVES]
    on_files = [part for part in parts if part in _ON_FILES]
    if on_files:
        with tempfile.TemporaryDirectory() as name:
            print(f"making maps of {SIDE} x {SIDE} ...", flush=True)
            make_inputs(Path(name))
            good += [_ON_FILES[part](Path(name)) for part in on_files]
    return 0 if all(good) else 1


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
