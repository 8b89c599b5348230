"""What several kinds of tests share."""

import pytest

from demo.intake import write_demo_intake


@pytest.fixture(scope="session")
def demo_folders(tmp_path_factory):
    """The untidy folders of the demo, drawn once."""
    root = tmp_path_factory.mktemp("demo")
    write_demo_intake(root)
    return root
