"""Every check has a title that people read above its message."""

import ast

from ground.places import CHECKOUT
from texel.checks.titles import CHECK_TITLES, title_of

MODULES = [
    *(CHECKOUT / "texel/checks").glob("*.py"),
    CHECKOUT / "texel/delivery/checks.py",
    CHECKOUT / "texel/licences.py",
]
MAKERS = {"finding", "Finding", "LicenceFinding"}


def _checks(path) -> set[str]:
    """The first argument of every call that makes a finding, where it is written out."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        name = getattr(getattr(node, "func", None), "attr", getattr(getattr(node, "func", None), "id", ""))
        if isinstance(node, ast.Call) and name in MAKERS and node.args:
            words = [one.value for one in ast.walk(node.args[0]) if isinstance(one, ast.Constant)]
            found |= {one for one in words if isinstance(one, str)}
    return found


def test_every_check_that_the_code_makes_has_a_title():
    made = {check for path in MODULES for check in _checks(path)}
    assert len(made) > 30
    assert made - set(CHECK_TITLES) == set()


def test_titles_differ_from_each_other():
    assert len(set(CHECK_TITLES.values())) == len(CHECK_TITLES)


def test_a_check_without_a_title_is_told_in_words():
    assert title_of("some_new_check") == "Some new check"
