"""Files into texture sets: names are split by what a folder shares, each affix is decided once for all its files, and
pixels and the other maps speak where words are silent. Nothing is dropped: what finds no place is told, with why."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, MutableMapping
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Any

from texel.errors import TexelError
from texel.files import READABLE
from texel.library import Library
from texel.messages import message_of
from texel.naming.meanings import readings
from texel.naming.tokens import NameParts, parse_name
from texel.roles import Role, facts
from texel.sets import TextureSet
from texel.sorting.alone import nameless_sets, single_role
from texel.sorting.assemble import Placed, assemble
from texel.sorting.deciding import Answer, LineFiles, believed, decide_lines, needs_look, pack_roles, rank
from texel.sorting.families import parent_stems
from texel.sorting.glance import Glances
from texel.sorting.habit import SURE, Habit, HabitLine, meaning_value
from texel.sorting.likelihood import of_look
from texel.sorting.looks import Kind, Look
from texel.sorting.packs import channels_in_words
from texel.sorting.splitting import BARE, Affix, SplitName, generic_name, split_names
from texel.tiles import tiled
from texel.wording import Message, because, reason_fields

__all__ = ["Sorted", "Undecided", "sort_files"]

# A file whose look is this much rarer in its line's role than in its own likeliest one is asked about singly.
_CONTRADICTS = 40.0
# One word in two folders is two lines when each folder's pixels say this clearly that it means something else there.
_CLEAR = 0.7


@dataclass(frozen=True)
class Undecided:
    """A file that found no place. candidates: likeliest places, best first; why: the reason it was left. suffix: the
    affix that it shares with others, as written, so that they can be decided together."""

    file: str
    why: str
    candidates: tuple[dict[str, Any], ...] = ()
    suffix: str = ""

    def document(self) -> dict[str, Any]:
        return {
            "file": self.file,
            **reason_fields(self.why),
            "candidates": list(self.candidates),
            "suffix": self.suffix,
        }


@dataclass
class Sorted:
    """What sorting found. habit: what each affix means, in order of how many files have it."""

    sets: list[TextureSet] = field(default_factory=list)
    undecided: list[Undecided] = field(default_factory=list)
    habit: Habit = field(default_factory=Habit)

    def document(self) -> dict[str, Any]:
        return {
            "sets": [s.document() for s in self.sets],
            "undecided": [u.document() for u in self.undecided],
            "habit": [line.document() for line in self.habit.lines],
            "tiled": [
                {"name": one.name, "tiles": [{"number": at, "set": name} for at, name in one.tiles.items()]}
                for one in tiled(each.name for each in self.sets)
            ],
        }  # fmt: skip


def sort_files(
    library: Library,
    root_name: str = "set",
    on_file: Callable[[str], None] | None = None,
    habit: Habit | None = None,
    looks: MutableMapping[str, Look | None] | None = None,
) -> Sorted:
    """Sort all files of ``library``.

    root_name: names the set of files that have nothing but a role as their name and no folder.
    on_file: called with each file's name as it is looked at, for progress; it may raise to stop.
    habit: lines that hold whatever names and pixels say (see texel.sorting.habit).
    looks: what is known of files' looks already, by name; what is looked at is added to it.
    Files that cannot be read, or that found no place, are listed in ``undecided`` with the reason.
    """
    return _Sorter(library, root_name, on_file or (lambda _: None), habit or Habit(), looks).run()


class _Sorter:
    def __init__(
        self,
        library: Library,
        root_name: str,
        on_file: Callable[[str], None],
        taught: Habit,
        looks: MutableMapping[str, Look | None] | None,
    ):
        self.library = library
        self.root_name = root_name
        self.on_file = on_file
        self.taught = taught
        self.glances = Glances(library, looks)
        self.result = Sorted()

    def run(self) -> Sorted:
        files = self._readable()
        alone = self._alone(files)
        apart = {f.file for f in alone}
        lines = self._lines([f for f in files if f.file not in apart and not f.layers])
        self._look(lines, files, alone)
        lines = self._apart(lines)
        decided = decide_lines(lines, self.taught)
        decided = self._place(files, lines, decided, alone)
        self._place_alone(files, alone)
        built = assemble([f for f in files if f.placed], self.library, self.glances.get, self.root_name)
        self.result.sets = built.sets
        for left in built.left:
            self._leave(left.file.file, left.why, left.candidates, left.file.name.written)
        self._finish(decided)
        return self.result

    # Reading names -----------------------------------------------------------------------------------------------

    def _readable(self) -> list[Placed]:
        """The files whose header can be read, their names split by folder."""
        channels: dict[str, str] = {}
        layers: dict[str, tuple[tuple[str, NameParts], ...]] = {}
        for file in self.library.files:
            suffix = PurePosixPath(file).suffix.lower()
            if suffix not in READABLE:
                problem = message_of("why_unreadable_suffix", suffix=suffix)
                self._leave(file, problem if suffix else message_of("why_unreadable_no_suffix"))
                continue
            try:
                probe = self.library.probe(file)
            except TexelError as error:
                self._leave(file, error.message)
                continue
            except OSError as error:
                self._leave(file, message_of("why_system", problem=str(error)))
                continue
            channels[file] = probe.channels
            # A layered picture is a set in one file: its layers' names say what they are.
            parsed = [(layer.name, parse_name(layer.name.rpartition(".")[2])) for layer in probe.layers]
            layers[file] = tuple((name, parts) for name, parts in parsed if parts.role is not None)
        names = split_names(channels, {line.affix for line in self.taught.lines if line.affix.word})
        readable = []
        for file, name in names.items():
            if name.preview and self.taught.line_for(name.affix, file) is None:
                self.on_file(file)
                self._leave(file, message_of("why_preview"))
                continue
            claims = name.affix != BARE and not needs_look(name.affix, "y")
            readable.append(Placed(name, channels[file], () if claims else layers[file]))
        return readable

    def _alone(self, files: list[Placed]) -> list[Placed]:
        """Files whose name has no affix and that stand beside no other map of their stem.

        What is taught of names without an affix is meant of those beside others, not of every stray picture.
        """
        affixed = {f.name.group for f in files if f.name.affix != BARE}
        bare = [f for f in files if f.name.affix == BARE and not f.layers]
        return [f for f in bare if not _has_relatives(f.name, affixed)]

    def _lines(self, files: list[Placed]) -> list[LineFiles]:
        grouped: dict[tuple[Affix, str], list[SplitName]] = defaultdict(list)
        for one in files:
            known = self.taught.line_for(one.name.affix, one.file)
            grouped[one.name.affix, known.folder if known else ""].append(one.name)
        ordered = sorted(grouped.items(), key=lambda item: (-len(item[1]), item[0]))
        return [LineFiles(affix, folder, names, []) for (affix, folder), names in ordered]

    def _look(self, lines: list[LineFiles], files: list[Placed], alone: list[Placed]) -> None:
        """Look at all files whose words are not enough, spread over the cores."""
        channels = {f.file: f.channels for f in files}
        wanted = [f.file for f in alone]
        for line in lines:
            if self.taught.line_for(line.affix, line.names[0].file) is None:
                wanted += [n.file for n in line.names if needs_look(line.affix, channels[n.file])]
        seen = set(wanted)
        for f in files:
            if f.file not in seen:
                self.on_file(f.file)
        self.glances.prepare(wanted, self.on_file)
        for line in lines:
            line.looks = self._looks(line.names)

    def _looks(self, names: Iterable[SplitName]) -> list[Look]:
        return [look for name in names if (look := self.glances.known(name.file)) is not None]

    def _apart(self, lines: list[LineFiles]) -> list[LineFiles]:
        """One line for each top folder where the same word clearly means one thing here and another there."""
        separate = []
        for line in lines:
            folders: dict[str, list[SplitName]] = defaultdict(list)
            for name in line.names:
                folders[name.file.partition("/")[0] if "/" in name.file else ""].append(name)
            parts = [LineFiles(line.affix, top, names, self._looks(names)) for top, names in folders.items()]
            best = [rank(part.affix, part.looks)[0] for part in parts if part.looks and part.folder]
            unlike = len({answer.meant for answer in best}) > 1 and all(answer.share > _CLEAR for answer in best)
            separate += parts if len(best) == len(parts) > 1 and unlike and not line.folder else [line]
        return separate

    # Deciding file by file ---------------------------------------------------------------------------------------

    def _place(
        self, files: list[Placed], lines: list[LineFiles], decided: list[HabitLine], alone: list[Placed]
    ) -> list[HabitLine]:
        by_file = {n.file: (line, known) for line, known in zip(lines, decided, strict=True) for n in line.names}
        based = {
            f.name.group
            for f in files
            if f.file in by_file and by_file[f.file][1].meant is Role.BASE_COLOR and by_file[f.file][1].decided
        }
        lost: Counter[int] = Counter()
        apart = {f.file for f in alone}
        for one in files:
            if one.file in apart:
                continue
            if one.layers:
                one.placed, one.confidence = True, max(parts.sure for _, parts in one.layers)
                continue
            line, known = by_file[one.file]
            problem = _IN_THE_NAME if line.is_name else self._contradiction(one, known, one.name.group in based)
            if problem is None and known.decided and known.meant is not None:
                one.meant, one.placed, one.confidence = known.meant, True, known.confidence
                one.why = _said(one, known)
                self._settle_bare(one, known)
                continue
            if problem == _IN_THE_NAME:
                lost[id(line)] += 1
                one.name = _whole_name(one.name)
                alone.append(one)
                continue
            self._leave_undecided(one, line, known, problem)
        return [known for line, known in zip(lines, decided, strict=True) if lost[id(line)] < len(line.names)]

    def _contradiction(self, one: Placed, known: HabitLine, based: bool) -> str | None:
        """Why a file cannot be what its line is; _IN_THE_NAME where the affix is no affix. None if it can be.

        based: whether the base colour of its set is another file.
        """
        if known.taught:
            return None
        look = self.glances.known(one.file)
        layout = pack_roles(known.meant)
        if len(one.channels) < 3 and any(letter in ("g", "b") for letter, _ in layout):
            return _too_few_channels(one)
        if look is None:
            return None
        if look.kind is Kind.COLOUR and not based and _says_one_value(one.name.affix):
            # A lone colour picture called "..._metal" shows metal; it does not say where metal is.
            return _IN_THE_NAME
        if not known.decided or (one.name.affix == BARE and look.kind in (Kind.NORMAL, Kind.PACK)):
            return None
        if isinstance(known.meant, Role):
            return _against_its_line(look, known, known.meant, based)
        return _IN_THE_NAME if layout and look.kind is Kind.COLOUR and known.confidence < SURE else None

    def _settle_bare(self, one: Placed, known: HabitLine) -> None:
        """A bare name is the base colour, unless its own pixels say otherwise."""
        look = self.glances.known(one.file)
        if one.name.affix != BARE or known.taught or look is None:
            return
        if look.kind is Kind.NORMAL:
            one.meant, one.confidence, one.why = Role.NORMAL, 0.75, message_of("why_set_and_vectors")
        elif look.kind is Kind.PACK:
            one.placed = False
            self._leave(
                one.file, because(message_of("why_looks_packed"), channels_in_words(look), between=": "),
                self._candidates(one, rank(BARE, [look])),
            )  # fmt: skip

    def _place_alone(self, files: list[Placed], alone: list[Placed]) -> None:
        """Files that stand beside no other map of their stem: folders of names that say nothing, then single maps."""
        done: set[str] = set()
        for nameless in nameless_sets([(f.name, self.glances.get(f.file)) for f in alone], self._placed_in(files)):
            for one in alone:
                if one.file in nameless.meant:
                    one.meant, one.confidence, one.why = nameless.meant[one.file]
                    one.name = _in_group(one.name, nameless.group)
                    one.text, one.placed = nameless.text, True
                    done.add(one.file)
        sizes = {(look.width, look.height) for f in files if f.placed and (look := self.glances.known(f.file))}
        taken = {f.name.group for f in files if f.placed}
        for one in alone:
            if one.file in done:
                continue
            look = self.glances.get(one.file)
            guess = single_role(one.name, look, sizes) if one.name.group not in taken else None
            if guess is not None:
                one.meant, one.confidence, one.why = guess
                one.placed = True
                continue
            answers = rank(
                BARE if one.name.stem and not generic_name(one.name.stem) else _NO_WORD, [look] if look else []
            )
            self._leave(one.file, message_of("why_no_role"), self._candidates(one, answers))

    def _placed_in(self, files: list[Placed]) -> dict[str, list[tuple[SplitName, tuple[Role, ...]]]]:
        placed: dict[str, list[tuple[SplitName, tuple[Role, ...]]]] = defaultdict(list)
        for one in files:
            if one.placed:
                placed[one.name.folder].append((one.name, one.roles))
        return placed

    # What is left ------------------------------------------------------------------------------------------------

    def _leave(self, file: str, why: str, candidates: tuple[dict[str, Any], ...] = (), suffix: str = "") -> None:
        self.result.undecided.append(Undecided(file, why, candidates, suffix))

    def _leave_undecided(self, one: Placed, line: LineFiles, known: HabitLine, problem: str | None) -> None:
        look = self.glances.known(one.file)
        if known.taught:
            self._leave(one.file, message_of("why_said_no_map", suffix=one.name.written), (), one.name.written)
            return
        own = rank(one.name.affix, [look]) if look else []
        answers = own if problem else (line.answers or own)
        if problem is None:
            problem = _unclear(one, line, known, answers[0] if answers else None)
            if look is not None and len(look.channels) >= 3 and isinstance(known.meant, tuple):
                problem = because(problem, channels_in_words(look), between=": ")
        self._leave(one.file, problem, self._candidates(one, answers), one.name.written)

    def _candidates(self, one: Placed, answers: Iterable[Answer]) -> tuple[dict[str, Any], ...]:
        """The likeliest places of a file, at most three; a pack's roles one by one with their channels."""
        name = one.name.text or PurePosixPath(one.name.folder).name or self.root_name
        candidates: list[dict[str, Any]] = []
        for answer in answers:
            if answer.share < 0.03:
                continue
            places: Iterable[tuple[str, Role]] = ()
            if isinstance(answer.meant, Role):
                places = (("", answer.meant),)
            elif answer.meant:
                places = answer.meant
            for letter, role in places:
                if any(c["role"] == role.value for c in candidates):
                    continue
                why = message_of("why_looks")
                if isinstance(answer.meant, tuple):
                    why = message_of("why_packed_channels", count=len(answer.meant))
                place = {"role": role.value, "set": name, "confidence": round(answer.share, 3), **reason_fields(why)}
                candidates.append(place | ({"channel": letter} if letter else {}))
        return tuple(candidates[:3])

    def _finish(self, lines: list[HabitLine]) -> None:
        self.result.habit = Habit(tuple(sorted(lines, key=lambda line: (-line.files, line.affix))))
        self.result.sets.sort(key=lambda s: s.name.lower())
        self.result.undecided.sort(key=lambda u: u.file)


_NO_WORD = Affix("?")
_IN_THE_NAME = "part of the name"


def _has_relatives(name: SplitName, affixed: set[tuple[str, str]]) -> bool:
    """Whether other maps have the stem of a bare name, or the stem of which it may be a variant."""
    if not name.stem:
        return False
    stems = [name.stem, *parent_stems(name.stem)]
    return any((name.folder, stem) in affixed for stem in stems)


def _says_one_value(affix: Affix) -> bool:
    """Whether an affix is a common word for a role that one channel holds."""
    known = readings(affix.word)
    if not known or not isinstance(known[0].meaning, Role):
        return False
    return known[0].share > 0.7 and facts(known[0].meaning).channels == 1


def _against_its_line(look: Look, known: HabitLine, role: Role, based: bool) -> str | None:
    likely = of_look(look)
    best = max(likely, key=lambda one: likely[one])
    if likely[best] < _CONTRADICTS * likely[role]:
        return None
    if facts(role).channels == 1 and best is Role.BASE_COLOR:
        return None if based else _IN_THE_NAME
    if believed(known):
        return None
    return message_of("why_against_habit", meaning=meaning_value(known.meant), role=best)


def _unclear(one: Placed, line: LineFiles, known: HabitLine, best: Answer | None) -> str:
    """Why nobody can say what a file is."""
    suffix = one.name.written
    if len(one.channels) < 3 and any(isinstance(reading.meaning, tuple) for reading in readings(line.affix.word)):
        return _too_few_channels(one)
    if known.meant == ():
        return message_of("why_unknown_layout", suffix=suffix) if suffix else message_of("why_unknown_layout_no_suffix")
    several = message_of("why_unclear", suffix=suffix) if suffix else message_of("why_unclear_no_suffix")
    if best is None:
        return several
    return because(several, message_of("why_likeliest", meaning=meaning_value(known.meant), share=best.share))


def _too_few_channels(one: Placed) -> Message:
    count = len(one.channels)
    if count == 1:
        return message_of("why_one_channel", suffix=one.name.written)
    return message_of("why_too_few_channels", suffix=one.name.written, count=count)


def _whole_name(name: SplitName) -> SplitName:
    """The name with its affix taken for a part of it."""
    text = PurePosixPath(name.file).stem
    stem = f"{name.stem} {name.affix.word}".strip() if name.affix.where != "folder" else name.stem
    return SplitName(name.file, name.folder, stem, text, BARE, "", name.size, name.green, name.preview)


def _in_group(name: SplitName, group: tuple[str, str]) -> SplitName:
    return SplitName(name.file, group[0], group[1], name.text, BARE, "", name.size, name.green, name.preview)


def _said(one: Placed, known: HabitLine) -> str:
    suffix, meaning = one.name.written, meaning_value(known.meant)
    if known.taught:
        told = message_of("why_taught_no_suffix", meaning=meaning)
        return message_of("why_taught_suffix", suffix=suffix, meaning=meaning) if suffix else told
    named = message_of("why_named", word=suffix.lstrip("_-. ")) if suffix else message_of("why_named_like_set")
    direction = message_of("why_direction", green=one.name.green) if one.name.green else ""
    return because(because(named, direction, between=" "), known.why if known.confidence < SURE else "")
