"""What each affix of a folder means, decided once for all its files by all evidence together.

Evidence is what the trade says of the word, how all files look that carry it, and which roles the other affixes beside
it have taken. Scores are natural logarithms of shares (see texel.sorting.likelihood), summed as for independent
evidence; many files say more than one, but not as many times more, since one author painted them.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from texel.messages import message_of
from texel.naming.meanings import ANY_PACK, CHANCE, Meaning, readings
from texel.naming.tokens import Pack
from texel.roles import Role, facts
from texel.sorting.habit import Habit, HabitLine, Meant
from texel.sorting.likelihood import BASE_SHARE, PACK_SHARE, mean_log, of_look, pack_of_look, shares_of
from texel.sorting.looks import Kind, Look
from texel.sorting.packs import PackGuess, channels_in_words, chosen_layout, fits, likeliest_layouts
from texel.sorting.splitting import Affix, SplitName
from texel.wording import because

__all__ = ["FLOOR", "Answer", "LineFiles", "believed", "decide_lines", "needs_look", "pack_roles", "rank"]

# Below this a guess is not placed: its files wait for a person.
FLOOR = 0.6
# A word this sure needs no look at pixels.
_WORD_IS_ENOUGH = 0.95
# With another known word beside it, a word this sure is believed whatever its pixels show: a wrong picture under a
# right name is a finding for the checks, not a reason to sort it elsewhere.
_SUPPORTED_WORD = 0.9
# What support leaves of the doubt about a weaker word.
_DOUBT_LEFT = 0.4
_BARE = {Role.BASE_COLOR: 0.93, Role.NORMAL: 0.03, Role.EMISSIVE: 0.01}
# Factors for a role that a line beside this one has.
_TAKEN, _TAKEN_IN_PACK, _OPPOSITE = 0.03, 0.1, 0.4
# Share of a line's sets that must hold another line for the two to exclude each other.
_TOGETHER = 0.3
_HEAVIEST = 1.5


class Answer(NamedTuple):
    """One possible meaning with its share, 0 to 1."""

    meant: Meant
    share: float


@dataclass
class LineFiles:
    """The files behind one affix (within ``folder``, "" for everywhere), with the looks of those that were looked at.

    answers: what it may mean, once that is decided. is_name: it is no affix but a part of the names: pictures in colour
    beside a base colour, under a word that nobody uses for a map.
    """

    affix: Affix
    folder: str
    names: list[SplitName]
    looks: list[Look]
    answers: list[Answer] = field(default_factory=list)
    is_name: bool = False

    @cached_property
    def groups(self) -> set[tuple[str, str]]:
        return {one.group for one in self.names}

    @cached_property
    def seen(self) -> _Seen:
        return _seen(self.looks)

    @cached_property
    def layout(self) -> PackGuess:
        return _layout(_prior(self.affix, False)[1], self.seen.full)


def needs_look(affix: Affix, channels: str) -> bool:
    """Whether a file's pixels must be looked at: not where the word is sure, unless it is a colour file said to hold
    one value a texel."""
    known = readings(affix.word)
    if not known or known[0].share < _WORD_IS_ENOUGH or not isinstance(known[0].meaning, Role):
        return True
    return facts(known[0].meaning).channels == 1 and channels[0] != "y"


def _prior(affix: Affix, supported: bool) -> tuple[dict[Role, float], list[Meaning]]:
    """Shares of the roles by the word alone, and its readings as a pack."""
    if not affix.word:
        roles = dict(_BARE)
        packs: list[Meaning] = []
    else:
        known = list(readings(affix.word))
        if known and supported:
            together = sum(one.share for one in known)
            raised = (1.0 - (1.0 - together) * _DOUBT_LEFT) / together
            known = [Meaning(one.meaning, one.share * raised) for one in known]
        roles = {one.meaning: one.share for one in known if isinstance(one.meaning, Role)}
        packs = [one for one in known if not isinstance(one.meaning, Role)]
    rest = max(0.02, 1.0 - sum(roles.values()) - sum(one.share for one in packs))
    prior = {role: roles.get(role, 0.0) + rest * share for role, share in BASE_SHARE.items()}
    if not packs:
        packs = [Meaning(ANY_PACK, rest * PACK_SHARE)]
    return prior, packs


class _Seen(NamedTuple):
    """What the looks of a line's files say: mean logarithms by role, of being packed, and the likeliest layouts."""

    files: int
    roles: dict[Role, float]
    packed: float
    full: list[Look]


def _seen(looks: Sequence[Look]) -> _Seen:
    each = [of_look(look) for look in looks]
    roles = {role: mean_log(one[role] for one in each) for role in BASE_SHARE}
    full = [look for look in looks if len(look.channels) >= 3]
    return _Seen(len(looks), roles, mean_log(pack_of_look(look) for look in looks), full)


def rank(
    affix: Affix, looks: Sequence[Look], taken: dict[Role, float] | None = None, supported: bool = False
) -> list[Answer]:
    """Meanings of an affix by its word, the looks of its files, and factors for roles that others have taken.

    supported: other words beside it mean what they usually do. Likeliest first; shares sum to at most 1.
    """
    seen = _seen(looks)
    return _rank(affix, seen, _layout(_prior(affix, supported)[1], seen.full), taken or {}, supported)


def _rank(affix: Affix, seen: _Seen, layout: PackGuess, taken: dict[Role, float], supported: bool) -> list[Answer]:
    roles, packs = _prior(affix, supported)
    weight = min(_HEAVIEST, math.sqrt(seen.files))
    scores: dict[object, float] = {
        role: math.log(share) + math.log(taken.get(role, 1.0)) + weight * seen.roles[role]
        for role, share in roles.items()
    }
    mass = sum(one.share for one in packs)
    spoilt = min((taken.get(role, 1.0) for _, role in layout.layout), default=1.0)
    scores[layout.layout] = math.log(mass) + weight * seen.packed + math.log(spoilt)
    shares = shares_of(scores)
    answers = [Answer(meant, share) for meant, share in shares.items()]  # type: ignore[arg-type]
    # That it is packed may be sure while the layout is not.
    answers = [Answer(one.meant, one.share * layout.share) if isinstance(one.meant, tuple) else one for one in answers]
    return sorted(answers, key=lambda one: -one.share)


def _layout(packs: Sequence[Meaning], looks: Sequence[Look]) -> PackGuess:
    """The layout of a pack: as the word spells it, by the pixels where it can be read in several ways or in none."""
    spelled = [one for one in packs if one.meaning]
    if len(spelled) == 1:
        return PackGuess(spelled[0].meaning, 1.0)  # type: ignore[arg-type]
    if spelled:
        weight = min(_HEAVIEST, math.sqrt(len(looks)))
        scores: dict[object, float] = {
            one.meaning: math.log(one.share) + weight * fits(one.meaning, looks)  # type: ignore[arg-type]
            for one in spelled
        }
        meaning, share = next(iter(shares_of(scores).items()))
        return PackGuess(meaning, share)  # type: ignore[arg-type]
    return chosen_layout(likeliest_layouts(looks), looks) if looks else PackGuess(ANY_PACK, 0.0)


def decide_lines(lines: Sequence[LineFiles], taught: Habit) -> list[HabitLine]:
    """Decide all lines together, the surest first, so that what they take is not taken again beside them."""
    decided: dict[int, HabitLine] = {}
    open_lines = dict(enumerate(lines))
    for at, line in list(open_lines.items()):
        known = taught.line_for(line.affix, line.names[0].file)
        if known is not None:
            decided[at] = _line(line, known.meant, 1.0, known.why or message_of("why_taught"), taught=True)
            del open_lines[at]
    beside = _beside(lines)
    while open_lines:
        ranked = {
            at: _ranked(line, _taken(at, beside, decided), _supported(at, beside, decided, lines))
            for at, line in open_lines.items()
        }
        at = max(ranked, key=lambda one: (ranked[one][0].share, -one))
        line = open_lines.pop(at)
        line.answers = ranked[at]
        best = line.answers[0]
        line.is_name = _is_name(line, best, _based(at, beside, decided, lines))
        decided[at] = _line(line, best.meant, best.share, _why(line, best))
    for at, line in enumerate(lines):
        # Of several pictures in colour one was taken for the colour; where nothing else stands beside them, none was.
        others = [lines[other] for other in beside[at]]
        if decided[at].meant is Role.BASE_COLOR and line.affix.word and not readings(line.affix.word):
            line.is_name = line.is_name or (bool(others) and all(other.is_name for other in others))
    return [decided[at] for at in sorted(decided)]


def _based(at: int, beside: dict[int, set[int]], decided: dict[int, HabitLine], lines: Sequence[LineFiles]) -> int:
    """How many sets the lines hold that are the base colour beside this one."""
    based = [o for o in beside[at] if (known := decided.get(o)) and known.decided and known.meant is Role.BASE_COLOR]
    return sum(len(lines[other].groups) for other in based)


def _is_name(line: LineFiles, best: Answer, based: int) -> bool:
    """Whether an affix is no affix but a part of the names: a word that spells a pack by chance and is none, or a word
    that nobody uses for a map, beside a base colour, where its pictures are in colour too: other sides, other seasons.
    """
    known = readings(line.affix.word)
    if known and all(isinstance(one.meaning, tuple) and one.share <= CHANCE for one in known):
        return not isinstance(best.meant, tuple)
    if known or not line.affix.word or not based:
        return False
    coloured = sum(look.kind is Kind.COLOUR for look in line.looks) > 0.5 * len(line.looks)
    few = len(line.groups) <= 0.5 * based
    return (few or coloured) and rank(line.affix, line.looks)[0].meant is Role.BASE_COLOR


def _ranked(line: LineFiles, taken: dict[Role, float], supported: bool) -> list[Answer]:
    known = readings(line.affix.word)
    if known and isinstance(known[0].meaning, Role):
        enough = _SUPPORTED_WORD if supported else _WORD_IS_ENOUGH
        if known[0].share >= enough and (supported or not line.looks):
            return [Answer(known[0].meaning, known[0].share)]
    return rank(line.affix, line.looks, taken, supported)


def believed(line: HabitLine) -> bool:
    """Whether a line means what its word is sure enough to say, so that an odd picture is a matter for the checks."""
    known = readings(line.affix.word)
    return bool(known) and known[0].share >= _SUPPORTED_WORD and known[0].meaning == line.meant


def _supported(at: int, beside: dict[int, set[int]], decided: dict[int, HabitLine], lines: Sequence[LineFiles]) -> bool:
    """Whether a line beside this one has a known word and means it."""
    for other in beside[at]:
        line = decided.get(other)
        known = readings(lines[other].affix.word)
        if line is not None and line.decided and known and known[0].share >= 0.7 and line.meant == known[0].meaning:
            return True
    return False


def _beside(lines: Sequence[LineFiles]) -> dict[int, set[int]]:
    """For each line the lines that stand beside it in a good part of its sets, or the other way round."""
    holders: dict[tuple[str, str], list[int]] = defaultdict(list)
    for at, line in enumerate(lines):
        for group in line.groups:
            holders[group].append(at)
    together: dict[int, Counter[int]] = defaultdict(Counter)
    for members in holders.values():
        for one in members:
            for other in members:
                if one != other:
                    together[one][other] += 1
    neighbours: dict[int, set[int]] = defaultdict(set)
    for one, counts in together.items():
        for other, count in counts.items():
            if count >= _TOGETHER * min(len(lines[one].groups), len(lines[other].groups)):
                neighbours[one].add(other)
    return neighbours


def _taken(at: int, beside: dict[int, set[int]], decided: dict[int, HabitLine]) -> dict[Role, float]:
    taken: dict[Role, float] = {}
    for other in beside[at]:
        line = decided.get(other)
        if line is None or line.confidence < FLOOR:
            continue
        for role in line.roles:
            factor = _TAKEN if isinstance(line.meant, Role) else _TAKEN_IN_PACK
            taken[role] = min(taken.get(role, 1.0), factor)
            opposite = {Role.ROUGHNESS: Role.GLOSSINESS, Role.GLOSSINESS: Role.ROUGHNESS}.get(role)
            if opposite is not None:
                taken[opposite] = min(taken.get(opposite, 1.0), _OPPOSITE)
    return taken


def _line(line: LineFiles, meant: Meant, confidence: float, why: str, taught: bool = False) -> HabitLine:
    written = Counter(one.written for one in line.names).most_common(1)[0][0]
    decided = taught or (confidence >= FLOOR and meant != ANY_PACK)
    examples = tuple(one.file for one in line.names[:: max(1, len(line.names) // 3)][:3])
    return HabitLine(
        line.affix, meant, line.folder, written, len(line.names), confidence, why, taught, decided, examples
    )


def _why(line: LineFiles, best: Answer) -> str:
    told: list[str] = []
    known = [one.meaning for one in readings(line.affix.word)]
    if not line.affix.word:
        told.append(message_of("why_no_suffix"))
    elif best.meant in known:
        told.append(message_of("why_usual_word" if len(known) == 1 else "why_possible_word"))
    elif known:
        told.append(message_of("why_other_word"))
    if line.looks:
        told.append(_looks_in_words(line.looks, best.meant))
    return because(*told)


def _looks_in_words(looks: Sequence[Look], meant: Meant) -> str:
    kind, some = Counter(look.kind for look in looks).most_common(1)[0]
    word = kind.name.lower()
    told = message_of("why_most_files", some=some, count=len(looks), kind=word)
    if some == len(looks):
        told = message_of("why_all_files", count=some, kind=word)
    if len(looks) == 1:
        told = message_of("why_one_file", kind=word)
    if isinstance(meant, tuple) and len(looks[0].channels) >= 3:
        return because(told, channels_in_words(looks[0], meant), between=": ")
    return told


def pack_roles(meant: Meant) -> Pack:
    """The channels of a pack; nothing for anything else."""
    return meant if isinstance(meant, tuple) else ()
