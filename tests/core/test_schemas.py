"""Two validators of JSON schemas, of other makers, agree on what our documents may be."""

import copy
import random

import jsonschema
import jsonschema_rs
import pytest

from texel.channels.layout import builtin_layouts
from texel.delivery import builtin_targets
from texel.errors import BadDocument
from texel.schemas import _TOGETHER, _quick, check_document, schema

_SAMPLES = [
    *(("target", one) for one in builtin_targets().values()),
    *(("layout", one) for one in builtin_layouts().values()),
]
_ODD = (None, True, -1, 0, 0.5, 1e300, "", "x", "\n", [], {}, {"x": 1}, [1, 2])


def damaged(document, rng):
    """The document with one thing at a random place replaced, taken out or added."""
    made = copy.deepcopy(document)
    here = made
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        if not keys:
            return made
        key = rng.choice(keys)
        if isinstance(here[key], (dict, list)) and here[key] and rng.random() < 0.7:
            here = here[key]
            continue
        if rng.random() < 0.3:
            del here[key]
        elif isinstance(here, dict) and rng.random() < 0.2:
            here["more"] = rng.choice(_ODD)
        else:
            here[key] = rng.choice(_ODD)
        return made


@pytest.mark.parametrize("number", range(10))
def test_the_quick_validator_says_what_the_other_one_says(number):
    rng = random.Random(number)
    for _ in range(40):
        name, sound = rng.choice(_SAMPLES)
        document = damaged(sound, rng)
        slow = jsonschema.Draft202012Validator(schema(name), registry=_TOGETHER).is_valid(document)
        assert _quick(name).is_valid(document) == slow, document


def test_what_no_json_can_hold_is_judged_too():
    with pytest.raises(ValueError, match="key must be str"):
        _quick("layout").is_valid({1: 2})
    with pytest.raises(BadDocument, match="layout document"):
        check_document({1: 2}, "layout", "it")


def test_schemas_follow_their_own_standard():
    assert jsonschema_rs.meta.is_valid(schema("manifest"))
