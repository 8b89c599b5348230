"""Judge names by the house's rules: every part recognised, or what is wrong and the right name."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any

from texel.errors import BadDocument
from texel.naming.compose import DEVICES, FORBIDDEN
from texel.naming.matching import parts_of
from texel.naming.rules import Rules, compose, resolution_word
from texel.naming.tokens import NameParts, parse_name, split_words
from texel.roles import Role

__all__ = ["Named", "Verdict", "judge_names", "recognise"]


@dataclass(frozen=True)
class Named:
    """A file and what is known of it beside its name. path: with "/". roles: of the file, or of its channels in order;
    asset: the surface; side: texels of the longest side. What is None or () is taken from the name."""

    path: str
    roles: tuple[Role, ...] = ()
    asset: str | None = None
    side: int | None = None


@dataclass(frozen=True)
class Verdict:
    """parts: what was recognised, kind to text. problems: what is wrong, in words, nothing for a right name. right: the
    path it should have, None where that cannot be told."""

    path: str
    parts: dict[str, str]
    problems: tuple[str, ...] = ()
    right: str | None = None

    @property
    def fine(self) -> bool:
        return not self.problems

    def document(self) -> dict[str, Any]:
        return {
            "path": self.path, "fine": self.fine, "parts": self.parts, "problems": list(self.problems),
            "right": self.right,
        }  # fmt: skip


def recognise(stem: str, rules: Rules) -> dict[str, str] | None:
    """The parts of a name that follows the rules to the letter, kind to text; None for any other name."""
    parts = parts_of(stem, rules)
    if parts is None:
        return None
    values = {rules.parts[number].kind: text for number, text in parts.items()}
    # A word of another part within the asset stands in the wrong place.
    own = {word.lower() for part in rules.parts for word in part.words if part.kind != "asset"}
    return None if own & {word.lower() for word in split_words(values.get("asset", ""))} else values


def _roles(named: Named, said: NameParts) -> tuple[Role, ...]:
    if named.roles:
        return named.roles
    return (said.role,) if said.role else tuple(role for _, role in said.pack)


_VERSION = re.compile(r"(?:^|[_\-. ])(?:v|ver|rev)(\d{1,4})(?=$|[_\-. ])", re.IGNORECASE)
_TILE = re.compile(r"(?:^|[_\-. ])(1\d{3})(?=$|[_\-. ])")


def _values(named: Named, rules: Rules, stem: str) -> dict[str, str]:
    """A value for every part that something tells: the file itself, the name read leniently."""
    said = parse_name(stem)
    values: dict[str, str] = {}
    suffix = rules.suffix_of(_roles(named, said))
    if suffix is not None:
        values["suffix"] = suffix
    # An optional resolution is not added to a name that goes without; a wrong one is put right.
    needed = any(part.kind == "resolution" and not part.optional for part in rules.parts)
    side = (named.side or said.size) if said.size or needed else None
    if side:
        values["resolution"] = resolution_word(side, rules.resolution)
    if (version := _VERSION.search(stem)) is not None:
        values["version"] = f"v{int(version[1]):0{rules.version_digits}d}"
    if (tile := _TILE.search(stem)) is not None and any(part.kind == "tile" for part in rules.parts):
        values["tile"] = tile[1]
    asset = named.asset if named.asset is not None else said.text
    words = split_words(asset)
    for part in rules.parts:
        if part.kind in ("part", "variant") and part.words:
            known = {word.lower() for word in part.words}
            own = next((word for word in words if word.lower() in known), None)
            own = own or next((word for word in split_words(said.text) if word.lower() in known), None)
            if own is not None:
                values[part.kind] = own
                words = [word for word in words if word is not own]
    texts = {part.text.lower() for part in rules.parts if part.text}
    words = [word for word in words if word.lower() not in texts and not _TILE.fullmatch(word)]
    if not words and named.asset is None:
        # A file that is called by its role alone belongs to what its folder is called.
        words = split_words(PurePosixPath(named.path).parent.name)
    if words:
        values["asset"] = " ".join(words)
    return values


def _reasons(stem: str, right: str | None, rules: Rules, values: dict[str, str], said: NameParts) -> list[str]:
    if right == stem:
        return []
    if right is None:
        roles = (said.role,) if said.role else tuple(role for _, role in said.pack)
        if roles and rules.suffix_of(roles) is None:
            return [f"the rules name no suffix for {' + '.join(role.value for role in roles)} ({said.word})"]
        lacking = [p.kind for p in rules.parts if not p.optional and not p.text and p.kind not in values]
        what = "suffix that names its role" if lacking == ["suffix"] else " and ".join(lacking)
        return [f"it has no {what}; names go {rules.shape}"]
    if right.lower() == stem.lower():
        return [f"upper and lower case: {right}"]
    reasons = []
    wanted = values.get("suffix")
    if wanted and said.word and said.word.lower() != wanted.lower() and said.word != wanted:
        reasons.append(f"the suffix is {wanted}, not {said.word}")
    plain = [word.lower() for word in split_words(stem)]
    if sorted(plain) == sorted(word.lower() for word in split_words(right)):
        same_order = plain == [word.lower() for word in split_words(right)]
        reasons.append(f"separators: {right}" if same_order else f"the order of its parts: {rules.shape}")
    for part in rules.parts:
        if part.words and not part.optional and part.kind not in values:
            reasons.append(f"its {part.kind} must be one of {', '.join(part.words)}")
    return reasons or [f"names go {rules.shape}"]


def judge_names(files: Iterable[Named], rules: Rules) -> list[Verdict]:
    """A verdict a file, in order; names that differ in case alone, or would become one, are problems of both."""
    verdicts = [_judge(named, rules) for named in files]
    return _with_twins(verdicts)


def _judge(named: Named, rules: Rules) -> Verdict:
    path = PurePosixPath(named.path)
    stem, suffix = path.stem, path.suffix
    problems = []
    bad = sorted(set(FORBIDDEN.findall(stem)) | ({" "} if " " in stem else set()))
    if bad:
        shown = " ".join("space" if character == " " else character for character in bad)
        problems.append(f"characters that break file systems or engines: {shown}")
    if not stem.isascii():
        problems.append("letters beyond A to Z, which some engines cannot load")
    if stem.lower() in DEVICES:
        problems.append(f"{stem} is a device's name on some systems")
    if len(stem) > rules.longest:
        problems.append(f"{len(stem)} characters; at most {rules.longest} are allowed")
    said, values = parse_name(stem), _values(named, rules, stem)
    parts = recognise(stem, rules)
    try:
        right = compose(rules, values)
    except BadDocument:
        right = None
    if parts is not None and not problems:
        told = named.roles and rules.suffix_of(named.roles)
        if not told or parts.get("suffix") in (None, told):
            return replace(_in_folder(Verdict(named.path, parts), rules, parts, stem + suffix))
        problems.append(f"the map is {named.roles[0].value.replace('_', ' ')}: its suffix is {told}")
    else:
        problems += _reasons(stem, right, rules, values, said)
    if right is not None and len(right) > rules.longest:
        problems.append(f"even the right name would have {len(right)} characters")
        right = None
    verdict = Verdict(named.path, values, tuple(problems))
    return verdict if right is None else _in_folder(verdict, rules, values, right + suffix.lower())


def _in_folder(verdict: Verdict, rules: Rules, values: dict[str, str], name: str) -> Verdict:
    """The verdict with the right path, and a problem where the file lies elsewhere."""
    path = PurePosixPath(verdict.path)
    if rules.folder is None:
        return replace(verdict, right=(path.parent / name).as_posix())
    asset = compose(replace(rules, parts=tuple(p for p in rules.parts if p.kind == "asset")), values)
    folder = rules.folder.replace("{asset}", asset).replace("{suffix}", values.get("suffix", ""))
    problems = verdict.problems
    if path.parent.as_posix().strip(".") != folder.strip("/"):
        problems = (*problems, f"it belongs into the folder {folder or 'at the top'}")
    return replace(verdict, right=f"{folder.strip('/')}/{name}".lstrip("/"), problems=problems)


def _with_twins(verdicts: list[Verdict]) -> list[Verdict]:
    """Twins by case are problems of both; of several that would get one name the one that has it keeps it."""
    here: dict[str, list[str]] = defaultdict(list)
    wanted: dict[str, list[Verdict]] = defaultdict(list)
    for verdict in verdicts:
        here[verdict.path.lower()].append(verdict.path)
        if verdict.right is not None:
            wanted[verdict.right.lower()].append(verdict)
    checked = []
    for verdict in verdicts:
        problems = list(verdict.problems)
        if len(here[verdict.path.lower()]) > 1:
            problems.append("another name differs from it in upper and lower case alone")
        right = verdict.right
        rivals = [v.path for v in wanted[right.lower()] if v is not verdict] if right is not None else []
        if rivals and right != verdict.path:
            problems.append(f"{rivals[0]} would have the same name, {PurePosixPath(right or '').name}")
            right = None
        checked.append(replace(verdict, problems=tuple(problems), right=right))
    return checked
