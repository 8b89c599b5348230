"""Materials of ours, moved elsewhere, in all languages that MaterialX generates, with its colour management on."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from demo.materials import MASTERS
from tests.sheets import random_master
from tests.standards.test_open_pbr import OF_ALL
from texel.image import Texels
from texel.materials import INPUTS, parse_master
from texel.materials.exchange import FilledCast, export
from texel.materials.ready import ready_masters
from texel.materials.versions import sample_maps

LANGUAGES = ("glsl", "essl", "osl", "mdl")


def _sheet(name: str, inputs: dict[str, str], colours: int = 0) -> dict:
    slots = [{"name": f"dye_{at}", "role": "base_color"} for at in range(colours)]
    return {"format": "fair-texel/master", "version": 1, "name": name, "slots": slots, "inputs": inputs}


# Of each input alone, since a definition with one output is another thing than one with several.
_ALONE = [
    _sheet(f"alone_{name}", {name: "0.25" if one.size == 1 else "rgb(0, 0.5, 1)"}) for name, one in INPUTS.items()
]
_DYED = [_sheet(f"dyed_{count}", {"base_color": "dye_0 * dye_1", "metallic": "dye_1.g"}, count) for count in (2, 3, 4)]


@pytest.fixture(scope="module")
def elsewhere(tmp_path_factory):
    """The documents in a folder, written to another one and moved."""
    written, moved = tmp_path_factory.mktemp("written"), tmp_path_factory.mktemp("else") / "where"
    masters = [parse_master(one) for one in [*MASTERS, *_ALONE, *_DYED]] + [random_master(seed) for seed in range(40)]
    kinds = [(master, "mtlx") for master in masters]
    kinds += [(parse_master(one), "openpbr") for one in [*MASTERS, *ready_masters().values(), OF_ALL]]
    for at, (master, kind) in enumerate(kinds):
        maps = sample_maps(master, 4)
        made = export(master, kind, f"look_{at}", [FilledCast("Plain", {}, maps), FilledCast("Bare", {}, {})])
        assert all(isinstance(one, Texels) for one in maps.values())
        for path, body in made.files.items():
            (written / path).parent.mkdir(exist_ok=True)
            (written / path).write_bytes(body)
    written.rename(moved)
    return sorted(moved.glob("*.mtlx"))


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_material_is_generated(elsewhere, language):
    """MaterialX 1.39: GlslShaderGenerator and its like, DefaultColorManagementSystem; an instance with two maps in sRGB
    used to end the process, a sheet of one input to be refused."""
    program = Path(__file__).with_name("materialx_generators.py")
    done = subprocess.run(
        [sys.executable, program, language, *elsewhere], capture_output=True, text=True, timeout=900
    )  # fmt: skip
    told = {(file, material): wrong for file, material, wrong in map(json.loads, done.stdout.splitlines())}
    assert {place: wrong for place, wrong in told.items() if wrong} == {}
    assert (done.returncode, len(told)) == (0, 2 * len(elsewhere)), done.stderr[-500:]
