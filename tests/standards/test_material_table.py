"""What is said of formats in the docs is what happens when each is tried."""

import re

import pytest

from ground.material_table import OUTPUT, table_text


@pytest.fixture(scope="module")
def table():
    return table_text()


def test_the_table_says_what_happens(table):
    assert table == OUTPUT.read_text(), "run python -m ground.material_table"


def test_no_standard_node_is_refused(table):
    """Every definition of MaterialX's library that makes a value is read, or a parameter stands in for it."""
    nodes = re.findall(r"^\| `\w+` \| ([^|]*)\| ([^|]*)\| ([^|]*)\| ([^|]*)\|$", table, re.MULTILINE)
    assert len(nodes) > 150
    assert [one for one in nodes if one[3].strip()] == []
    assert sum(bool(one[0].strip()) for one in nodes) / len(nodes) > 0.7
