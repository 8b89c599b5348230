"""Names and expressions that no way of reading may run away on."""

import importlib
import itertools
import pkgutil
import random
import re
import subprocess
import sys

import pytest

import texel
from texel.naming.judging import Named, judge_names, recognise
from texel.naming.matching import parts_of
from texel.naming.rules import parse_names
from texel.naming.tokens import parse_name

SUFFIXES = {"base_color": "BC", "normal": "N", "roughness": "R"}
ASSET, PART, VARIANT, SUFFIX = (
    {"part": "asset"}, {"part": "part", "optional": True}, {"part": "variant", "optional": True}, {"part": "suffix"},
)  # fmt: skip
HASH = "D41D8CD98F00B204E9800998ECF8427E"


def rules(case="pascal", parts=(ASSET, SUFFIX), **more):
    document = {"format": "fair-texel/names", "version": 1, "suffixes": SUFFIXES, "case": case, "parts": list(parts)}
    return parse_names({**document, **more})


def calls(work):
    """How many calls and resumptions a piece of work makes: its length, whatever the machine does beside."""
    count = 0

    def seen(frame, event, arg):
        nonlocal count
        count += event in ("call", "c_call")

    sys.setprofile(seen)
    try:
        work()
    finally:
        sys.setprofile(None)
    return count


@pytest.mark.parametrize("case", ["lower", "upper", "pascal", "camel", "keep"])
@pytest.mark.parametrize("parts", [(ASSET, SUFFIX), (ASSET, PART, VARIANT, SUFFIX)])
@pytest.mark.parametrize("piece", ["1", "A", "a", "A1", "a_", "A_1-", "_", HASH])
def test_a_long_name_takes_a_time_that_grows_with_its_length_squared_at_most(case, parts, piece):
    """The fault: a hash as a name took 3.7 s, and each digit more half as long again."""
    found = rules(case, parts)
    short, long = (
        calls(lambda n=n: recognise((piece * n)[:n] + "!", found)) for n in (100, 200)
    )  # fmt: skip
    assert long <= 4.5 * short + 200


def as_expression(found):
    """The same rules as a regular expression: how it was done before, of names that do not run away."""
    digit_k, words = r"\d{1,2}k", "|".join(sorted(SUFFIXES.values(), key=len, reverse=True))
    word = {
        "lower": "[a-z0-9]+", "upper": "[A-Z0-9]+", "pascal": "[A-Z0-9][A-Za-z0-9]*", "camel": "[a-z0-9][A-Za-z0-9]*",
        "keep": "[A-Za-z0-9]+",
    }[found.case]  # fmt: skip
    free = rf"{word}(?:{re.escape(found.joint)}{word})*" if found.joint else word
    texts = {"asset": free, "part": free, "variant": free, "suffix": words, "resolution": digit_k}
    separator, expression = re.escape(found.separator), ""
    for at, part in enumerate(found.parts):
        group = f"(?P<p{at}>{texts[part.kind]})"
        expression += group if not at else f"(?:{separator}{group})?" if part.optional else f"{separator}{group}"
    return re.compile(expression)


@pytest.mark.parametrize("case", ["lower", "upper", "pascal", "camel", "keep"])
@pytest.mark.parametrize("joint", ["_", "-", ""])
def test_names_are_taken_apart_as_a_regular_expression_would(case, joint):
    resolution = {"part": "resolution", "optional": True}
    random.seed(3)
    for parts in ((ASSET, SUFFIX), (ASSET, PART, VARIANT, SUFFIX), (ASSET, resolution, SUFFIX)):
        found = rules(case, parts, joint=joint)
        expression = as_expression(found)
        names = ["".join(random.choices("aA1_-kBCNR", k=random.randint(1, 9))) for _ in range(400)]
        names += [
            f"{a}_{b}_{c}" for a, b, c in itertools.product(("hull", "Hull", "HULL", "a1"), ("2k", "a_b"), ("BC", "N"))
        ]
        for name in names:
            match = expression.fullmatch(name)
            wanted = match and {at: text for at in range(len(parts)) if (text := match[f"p{at}"]) is not None}
            assert parts_of(name, found) == wanted, (name, parts)


def test_a_part_with_words_of_its_own_is_not_swallowed():
    found = rules("lower", (ASSET, {"part": "part", "optional": True, "words": ["hull", "deck"]}, SUFFIX))
    assert recognise("old_ferry_deck_BC", found) == {"asset": "old_ferry", "part": "deck", "suffix": "BC"}
    assert recognise("old_ferry_BC", found) == {"asset": "old_ferry", "suffix": "BC"}


def test_judging_hostile_names_ends():
    names = [Named(f"{piece * 40}"[:180] + ".png") for piece in (HASH, "1", "A1_", "normal", "2k_")]
    assert len(judge_names(names, rules("pascal", (ASSET, PART, VARIANT, SUFFIX)))) == 5
    assert all(parse_name(piece * 400) for piece in ("1k", "_", "aB", "v1_", HASH))


# Every expression of ours, on texts that make a careless one try again and again. A process of its own can be ended.
_PROBE = """
import importlib, re, sys
for name in sys.argv[1:]:
    for key, one in vars(importlib.import_module(name)).items():
        if isinstance(one, re.Pattern):
            text = (lambda t: t.encode()) if isinstance(one.pattern, bytes) else (lambda t: t)
            for piece in ("1", "a", "A", " ", "_", "a1", "A1", "aB", "1 ", "a b", "--", "v1_", "1001_", "ab12 "):
                for tail in ("", "!", "\\n"):
                    for use in (one.match, one.search, one.fullmatch):
                        use(text(piece * 3000 + tail))
            print(name, key)
"""


def test_no_expression_of_ours_runs_away():
    modules = [one.name for one in pkgutil.walk_packages(texel.__path__, "texel.") if "__main__" not in one.name]
    held = [
        name for name in modules if any(isinstance(v, re.Pattern) for v in vars(importlib.import_module(name)).values())
    ]
    done = subprocess.run(
        [sys.executable, "-c", _PROBE, *held], capture_output=True, text=True, timeout=300, check=True
    )
    assert len(done.stdout.splitlines()) >= 8
