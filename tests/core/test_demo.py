"""The demo's own generators: seeded, tileable, within range."""

import numpy as np
import pytest

from demo.intake import PROJECTS
from demo.patterns import cells, noise, smoothstep
from demo.surfaces import SURFACES
from texel import digest
from texel.library import Library, list_files

NOT_TILEABLE = {"pear_leaf_card"}


@pytest.mark.parametrize("name", SURFACES)
def test_surfaces_are_seeded_and_in_range(name):
    first, second = SURFACES[name](64), SURFACES[name](64)
    for field in ("height", "colour", "roughness", "occlusion"):
        values = getattr(first, field)
        np.testing.assert_array_equal(values, getattr(second, field))
        assert values.shape[:2] == (64, 64)
        assert values.min() >= -0.02
        assert values.max() <= 1.05


@pytest.mark.parametrize("name", [name for name in SURFACES if name not in NOT_TILEABLE])
def test_surfaces_tile(name):
    """Across the border heights differ no more than between neighbours inside."""
    height = SURFACES[name](256).height
    inside = np.abs(np.diff(height, axis=1)).mean(axis=0)
    across = np.abs(height[:, 0] - height[:, -1]).mean()
    assert across <= np.percentile(inside, 99) * 2 + 0.01


def test_patterns_wrap_around():
    for field in (noise(128, 1), cells(128, 8, 2)[0]):
        steps = np.abs(np.diff(field, axis=1)).mean()
        assert np.abs(field[:, 0] - field[:, -1]).mean() < steps * 3
    assert smoothstep(0, 1, np.float32([-1, 0.5, 2])).tolist() == [0, 0.5, 1]


def test_the_untidy_folder_is_the_same_every_time(demo_folders, tmp_path):
    from demo.intake import _Folder, _orchard

    (tmp_path / "again").mkdir()
    _orchard(_Folder(tmp_path / "again"), lambda name, n: SURFACES[name](n))
    first = {name: digest.of_file(path) for name, path in list_files(demo_folders / PROJECTS[1]).items()}
    again = {name: digest.of_file(path) for name, path in list_files(tmp_path / "again").items()}
    assert first == again
    assert len(first) > 30


def test_every_file_of_the_demo_can_be_read(demo_folders):
    for project in PROJECTS:
        library = Library.of_folder(demo_folders / project)
        for file in library.files:
            assert library.texels(file).width >= 512
