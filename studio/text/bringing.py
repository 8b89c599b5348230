"""A project's text out of the studio, compared with one that people have, and brought together with it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from studio.changes.engine import Doing, change
from studio.changes.errors import Conflict
from studio.meshes.regions import follow_regions
from studio.projects.models import Project
from studio.text import about, casts, destinations, ground, masters, models, rules, sets
from studio.text.kinds import TextKind, in_order
from texel.atlas.regions import regions_of
from texel.project import Compared, State, Texts, compare, must_be_sound
from texel.project.kinds import PROJECT

__all__ = ["Brought", "bring", "compared", "texts_of"]

# Each registers its kind; those that others need come first.
_MODULES = (about, rules, masters, sets, casts, models, ground, destinations)
_HERE, _STUDIO = "here", "studio"


class Brought(NamedTuple):
    """applied: keys of what the studio took over. conflicts: what both sides changed; then nothing was applied."""

    applied: list[str]
    conflicts: list[Compared]


def _key(kind: TextKind, name: str) -> str:
    return f"{kind.folder}/{name}" if kind.folder else PROJECT


def texts_of(project: Project) -> Texts:
    """All that a project's text consists of, by key."""
    return {_key(kind, name): dict(one) for kind in in_order() for name, one in kind.read(project).items()}


def compared(project: Project, texts: Texts, exported: Mapping[str, str]) -> list[Compared]:
    """What differs between a text and the studio. Raises BadDocument for a text that is not sound."""
    for key, document in texts.items():
        must_be_sound(key, document)
    return compare(exported, texts, texts_of(project))


def bring(
    project: Project, texts: Texts, exported: Mapping[str, str], take: Mapping[str, str], by: Any,
    allow: Callable[[str], None],
) -> Brought:  # fmt: skip
    """Take over what changed in a text since it was exported; one change, which can be taken back. What changed in the
    studio alone stays.

    take: "here" or "studio" by key, for what both sides changed; without it nothing is applied, and the conflicts are
    told. allow: called with each right that is needed; raises for one that is not there. Raises BadDocument, Conflict
    with what cannot be, and nothing is changed.
    """
    for key, document in texts.items():
        must_be_sound(key, document)
    wrong = next((key for key, side in take.items() if side not in (_HERE, _STUDIO)), None)
    if wrong is not None:
        raise Conflict("say here or studio for {key}", key=wrong)
    with change(project, by, "") as doing:
        there = texts_of(project)
        found = compare(exported, texts, there)
        conflicts = [one for one in found if one.state is State.CONFLICT and one.key not in take]
        if conflicts:
            return Brought([], conflicts)
        wanted = {one.key for one in found if one.state is State.HERE or take.get(one.key) == _HERE}
        wanted -= {key for key, side in take.items() if side == _STUDIO}
        some = next(iter(wanted)) if len(wanted) == 1 else f"{len(wanted)} things"
        doing.label = f"Import {some} from text"
        chosen: list[tuple[TextKind, dict[str, Mapping[str, Any]], set[str]]] = []
        for kind in in_order():
            keys = sorted(key for key in wanted if _kind_of(key) is kind)
            for right in {kind.right(there.get(key), texts.get(key)) for key in keys}:
                allow(right)
            names = {key: key.removeprefix(f"{kind.folder}/") for key in keys}
            written: dict[str, Mapping[str, Any]] = {names[key]: texts[key] for key in keys if key in texts}
            chosen.append((kind, written, {names[key] for key in keys if key not in texts}))
        for kind, documents, gone in chosen:
            if documents:
                kind.write(doing, documents, gone)
        for kind, _, gone in reversed(chosen):
            if gone:
                kind.remove(doing, gone)
        _follow(doing, [key.removeprefix("sets/") for key in wanted if key.startswith("sets/") and key in texts])
    return Brought(sorted(wanted), [])


def _follow(doing: Doing, sets: list[str]) -> None:
    """Slots wear regions as the sets have them now, when all else is written."""
    for one in doing.project.sets.filter(name__in=sets):
        follow_regions(doing, one, regions_of(one.regions))


def _kind_of(key: str) -> TextKind:
    by_folder = {kind.folder: kind for kind in in_order()}
    return next((kind for folder, kind in by_folder.items() if folder and key.startswith(f"{folder}/")), by_folder[""])
