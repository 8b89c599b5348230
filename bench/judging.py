"""How sure the checks are: false alarms on clean sets and misses on faulty ones, by check; roles told from pixels."""

from __future__ import annotations

from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

import numpy as np

from bench.labelled import Labelled, MemoryLibrary, clean_sets, faulty_sets
from demo.surfaces import SURFACES
from texel.checks import Severity, Signed, check_sets, twins_across
from texel.checks.twins import signature_of
from texel.image import Texels, widen
from texel.roles import Role
from texel.sorting.content import guess_roles

__all__ = ["run"]

_LABELLED_SIDE = 256
_EIGHT = np.dtype(np.uint8)
_MAX_ALARMS, _MAX_MISSES = 0.02, 0.05


def _judged(one: Labelled) -> tuple[str, set[str]]:
    textures, library = one.parts()
    return one.fault, {f.check for f in check_sets([textures], library) if f.severity is not Severity.NOTE or one.fault}


def _checks() -> bool:
    """False alarms on clean sets and misses on faulty ones, by check; whether both stay within what is wanted."""
    print(
        f"judging a labelled set: {len(SURFACES)} surfaces in eight positions, {_LABELLED_SIDE} texels a side",
        flush=True,
    )
    alarms: Counter[str] = Counter()
    tried: Counter[str] = Counter()
    counts: Counter[str] = Counter()
    with ProcessPoolExecutor() as pool:
        clean = [checks for _, checks in pool.map(_judged, clean_sets(_LABELLED_SIDE), chunksize=4)]
        for checks in clean:
            alarms.update(checks)
        for fault, checks in pool.map(_judged, faulty_sets(_LABELLED_SIDE), chunksize=16):
            tried[fault] += 1
            counts[fault] += fault.split(" ")[0] in checks
    good = True
    for fault, count in tried.items():
        print(f"{fault:<32} recall {counts[fault] / count:6.1%} of {count:3}", flush=True)
    print("by check, all its faults together:")
    for check in dict.fromkeys(fault.split(" ")[0] for fault in tried):
        of_check = [fault for fault in tried if fault.split(" ")[0] == check]
        right, count, false = (sum(counts[f] for f in of_check), sum(tried[f] for f in of_check), alarms[check])
        recall, precision, alarm = right / count, right / max(right + false, 1), false / len(clean)
        fine = alarm <= _MAX_ALARMS and 1 - recall <= _MAX_MISSES
        good = good and fine
        print(
            f"{check:<32} recall {recall:6.1%} of {count:3}   precision {precision:6.1%}"
            f"   false alarms {alarm:5.1%} of {len(clean)} clean sets   {'' if fine else 'NOT AS WANTED'}",
            flush=True,
        )
    others = {check: n for check, n in alarms.items() if check not in {f.split(" ")[0] for f in tried}}
    print(f"alarms on clean sets by checks without a fault of their own: {others or 'none'}")
    return good


def _signed(one: Labelled) -> list[Signed]:
    textures, library = one.parts()
    maps = ((ref, signature_of(library.map(ref))) for ref in textures.maps)
    # Every set calls its files alike; only one file in two sets is no twin.
    return [Signed(one.name, ref.role, f"{one.name}/{ref.file}", signature) for ref, signature in maps if signature]


def _twins() -> bool:
    """Twins across sets: every map against all others, and against its like after rounding and inversion."""
    as_drawn = [one for one in clean_sets(_LABELLED_SIDE) if one.name.endswith("/0")]
    signed = [s for one in as_drawn for s in _signed(one)]
    alarms = len(twins_across(signed, signed)) / 2
    twins = tried = 0
    for one in as_drawn:
        rng = np.random.default_rng(1)
        spoilt = {n: _spoilt(t, rng) for n, t in one.maps.items()}
        before, after = _signed(one), _signed(replace(one, name="copy", maps=spoilt))
        tried += len(before)
        pairs = {(t.first.role, t.second.role) for t in twins_across(before, after)}
        twins += sum((s.role, s.role) in pairs for s in before)
    pairs_there = len(signed) * (len(signed) - 1) / 2
    fine = alarms / pairs_there <= _MAX_ALARMS and twins >= tried * (1 - _MAX_MISSES)
    print(
        f"{'twin_across_project':<32} recall {twins / tried:6.1%} of {tried:3}   false alarms"
        f" {alarms:.0f} of {pairs_there:.0f} pairs   {'' if fine else 'NOT AS WANTED'}",
        flush=True,
    )
    return fine


def _spoilt(texels: Texels, rng: np.random.Generator) -> Texels:
    """The same picture inverted, a step of 8 bits up or down here and there."""
    top = np.iinfo(texels.pixels.dtype).max
    noise = rng.integers(-1, 2, texels.pixels.shape) * (1 if top == 255 else 257)
    return texels.with_pixels(np.clip(top - texels.pixels.astype(int) + noise, 0, top).astype(texels.pixels.dtype))


_GUESSED = (
    Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS, Role.METALLIC, Role.OCCLUSION, Role.HEIGHT, Role.OPACITY,
)  # fmt: skip


def _guesses() -> None:
    """How often a role told from pixels alone is right, first and among the first two. Nothing is wanted of it: grey
    maps of many surfaces could be any of several roles, so the page shows two."""
    first: Counter[Role] = Counter()
    among: Counter[Role] = Counter()
    tried: Counter[Role] = Counter()
    said: Counter[Role] = Counter()
    for one in clean_sets(_LABELLED_SIDE):
        textures, library = one.parts()
        assert isinstance(library, MemoryLibrary)
        for ref in textures.maps:
            if ref.role not in _GUESSED:
                continue
            texels = library.texels(ref.file)
            # Heights at 8 bits, so that their depth does not give them away.
            guesses = [guess.role for guess in guess_roles(texels.with_pixels(widen(texels.pixels, _EIGHT)))[:2]]
            tried[ref.role] += 1
            said[guesses[0]] += 1
            first[ref.role] += guesses[0] is ref.role
            among[ref.role] += ref.role in guesses
    for role in tried:
        print(
            f"role from pixels: {role.value:<12} first {first[role] / tried[role]:6.1%}   among two"
            f" {among[role] / tried[role]:6.1%}   precision {first[role] / max(said[role], 1):6.1%}   of {tried[role]}"
        )
    count = sum(tried.values())
    print(f"role from pixels: first {sum(first.values()) / count:.1%}, among two {sum(among.values()) / count:.1%}")


def run() -> bool:
    """Print a line a check; whether all are as sure as wanted."""
    checks, twins = _checks(), _twins()
    _guesses()
    return checks and twins
