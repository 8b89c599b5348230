"""Surfaces in tiles in the studio: listed, filled together, exported and delivered with one word for their numbers."""

import io
import zipfile

import numpy as np
import pytest

from studio.deliveries.models import Delivery
from tests.pictures import save
from tests.studio.test_delivered_casts import TARGET, deliver, planned
from tests.studio.test_exports import written
from texel.delivery import builtin_targets
from texel.image import Texels
from texel.materials.exchange import read_materialx
from texel.roles import Transfer

pytestmark = pytest.mark.django_db
PLASTER = {
    "format": "fair-texel/master", "version": 1, "name": "plaster", "title": "Plaster",
    "slots": [{"name": "colour", "role": "base_color"}, {"name": "dull", "role": "roughness"}],
    "inputs": {"base_color": "colour", "roughness": "dull"},
}  # fmt: skip


def tile(folder, number, value):
    folder.mkdir(exist_ok=True)
    pixels = np.full((8, 8, 3), value, np.uint8)
    save(folder / f"wall_bc.{number}.png", Texels(pixels, "rgb", Transfer.SRGB))
    save(folder / f"wall_r.{number}.png", Texels(pixels[..., :1], "y", Transfer.LINEAR))


@pytest.fixture
def cast(take_in, tmp_path, library, call):
    """A cast that is filled from the first of two tiles."""
    for number, value in ((1001, 60), (1002, 200)):
        tile(tmp_path / "wall", number, value)
    take_in(tmp_path / "wall")
    library("POST", "/masters", PLASTER)
    library("POST", "/masters/plaster/publish", {})
    made = call("POST", "/materials", {"name": "Quay", "master": "plaster"})["id"]
    sets = {one["name"]: one["id"] for one in call("GET", "/sets")["sets"]}
    call("POST", f"/materials/{made}/fill", {"set": sets["wall.1001"]})
    return made


def test_the_list_of_sets_tells_surfaces_in_tiles(call, cast):
    tiles = [{"number": 1001, "set": "wall.1001"}, {"number": 1002, "set": "wall.1002"}]
    assert call("GET", "/sets")["tiled"] == [{"name": "wall", "tiles": tiles}]


def test_a_cast_tells_that_its_map_is_one_of_several(call, cast):
    remarks = call("GET", f"/materials/{cast}")["remarks"]
    told = [one["message"] for one in remarks if one["check"] == "in_tiles"]
    assert "colour: wall.1001 is one of 2 tiles. It is shown here; all of them are written." in told


def test_a_cast_of_one_tile_is_exported_with_all(call, run_jobs, cast):
    _, data = written(call, run_jobs, casts=[cast], format="mtlx")
    archive = zipfile.ZipFile(io.BytesIO(data))
    (found,) = read_materialx(archive.read("plaster.mtlx").decode())
    assert found.casts[0].files == {"colour": "maps/quay_colour.<UDIM>.png", "dull": "maps/quay_dull.<UDIM>.png"}
    names = {f"maps/quay_{slot}.{number}.png" for slot in ("colour", "dull") for number in (1001, 1002)}
    assert names <= set(archive.namelist())
    row, _ = written(call, run_jobs, casts=[cast], format="glb")
    assert "Tiles: glTF has none; of Quay only 1001 is written" in row["lost"]


def test_a_delivery_holds_every_tile(call, run_jobs, cast):
    call("PUT", f"/rules/target/{TARGET}", {**builtin_targets()[TARGET], "casts": ["mtlx", "usdz"]})
    made = deliver(call, run_jobs, casts=[cast])
    assert made["state"] == "done", made["message"]
    folder = Delivery.objects.get().folder / "materials"
    assert {one.name for one in (folder / "maps").iterdir()} == {
        f"quay_{slot}.{number}.png" for slot in ("colour", "dull") for number in (1001, 1002)
    }
    (found,) = read_materialx((folder / "quay.mtlx").read_text())
    assert found.casts[0].files["colour"] == "maps/quay_colour.<UDIM>.png"
    inside = zipfile.ZipFile(folder / "quay.usdz").namelist()
    assert {one.rsplit(".", 2)[1] for one in inside if "base_color" in one} == {"1001", "1002"}
    assert {status for status, _ in planned(call, casts=[cast]).values()} == {"unchanged"}


def test_a_name_that_ends_like_a_file_changes_nothing(call, run_jobs, cast):
    call("PATCH", f"/materials/{cast}", {"name": "Quay.png"})
    call("PUT", f"/rules/target/{TARGET}", {**builtin_targets()[TARGET], "casts": ["mtlx"]})
    made = deliver(call, run_jobs, casts=[cast])
    folder = Delivery.objects.get().folder / "materials"
    text = next(folder / entry["path"].removeprefix("materials/") for entry in made["manifest"]["files"]
                if entry["path"].endswith(".mtlx"))  # fmt: skip
    (found,) = read_materialx(text.read_text())
    for file in found.casts[0].files.values():
        assert (folder / file.replace("<UDIM>", "1001")).is_file()


def test_a_material_that_names_tiles_is_filled_from_any_of_them(call, library, cast):
    sheet = PLASTER | {"name": "read", "title": "Read"}
    files = {"colour": "maps/wall_bc.<UDIM>.png", "dull": "none_r.<UDIM>.png"}
    given = {"document": sheet, "casts": [{"name": "Read", "changes": {}, "files": files}], "note": ""}
    made = call("POST", "/materials/import", given)
    assert [one["slot"] for one in made["unfilled"]] == ["dull"]
