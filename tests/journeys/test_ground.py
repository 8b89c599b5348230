"""Ground through the real page: a marsh is laid out by rules, mud painted along the water, its repetition measured and
cured, and the weights delivered, read back by Pillow."""

import io
import json
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.journeys.conftest import box_of, choose, give, serious_axe_findings, taken_in, wait_for
from tests.pictures import EIGHT, save
from texel.image import Texels, narrow
from texel.roles import Transfer


def spotted(folder, name: str, colour: tuple[float, float, float], seed: int) -> None:
    """A set whose tile the eye finds again: large spots."""
    spots = np.kron(np.random.default_rng(seed).random((8, 8, 1)), np.ones((16, 16, 1)))
    picture = np.float32(colour) * (0.55 + 0.45 * spots)
    save(folder / f"{name}_bc.png", Texels(narrow(picture.astype(np.float32), EIGHT), "rgb", Transfer.SRGB))
    flat = np.full((128, 128, 1), 0.8, np.float32)
    save(folder / f"{name}_r.png", Texels(narrow(flat, EIGHT), "y", Transfer.LINEAR))


def drawn(page) -> None:
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()


def layer(page, name: str):
    return page.locator(f"[data-test='layer {name}']")


def drag(page, *places) -> None:
    """A stroke over places of the picture, as shares of its width and height."""
    box = box_of(page.locator(".frame canvas"))
    spots = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in places]
    page.mouse.move(*spots[0])
    page.mouse.down()
    for spot in spots[1:]:
        page.mouse.move(*spot, steps=4)
    page.mouse.up()


def middle_of(page) -> np.ndarray:
    """The mean colour in the middle of the picture."""
    picture = np.asarray(Image.open(io.BytesIO(page.locator(".frame canvas").screenshot())).convert("RGB"), float)
    height, width = picture.shape[:2]
    return picture[height // 2 - 8 : height // 2 + 8, width // 2 - 8 : width // 2 + 8].mean(axis=(0, 1))


@pytest.fixture
def marsh(live, ada, tmp_path):
    """A project with two sets, and its first patch, opened."""
    (tmp_path / "in").mkdir()
    spotted(tmp_path / "in", "reeds", (0.8, 0.75, 0.3), 1)
    spotted(tmp_path / "in", "mud", (0.45, 0.15, 0.1), 2)
    slug = taken_in(ada, "Marshes", tmp_path / "in", 2)
    ada.get_by_role("link", name="Ground").click()
    expect(ada.get_by_text("No ground yet")).to_be_visible()
    ada.get_by_role("button", name="New ground").click()
    drawn(ada)
    return slug


def test_a_marsh_is_laid_out_painted_measured_and_delivered(live, ada, marsh):
    page = ada
    expect(page.get_by_text("1 layer wears nothing")).to_be_visible()
    choose(layer(page, "Ground"), "What Ground wears", "reeds")
    expect(page.get_by_text("every layer wears something")).to_be_visible()
    assert serious_axe_findings(page) == []

    # A second layer lies low, by its rule; the rest is painted.
    page.get_by_role("button", name="Add a layer").click()
    choose(layer(page, "Layer 2"), "What Layer 2 wears", "mud")
    give(page, "Name of Layer 2", "Mud")
    choose(layer(page, "Mud"), "Measure", "Altitude")
    give(page, "Altitude, to", -0.9)
    expect(layer(page, "Mud").get_by_text(re.compile(r"^[0-9] %$"))).to_be_visible()
    choose(page, "Camera", "From above")
    page.get_by_role("button", name="Paint", exact=True).click()
    give(page, "Radius of the brush in metres, number", 6)
    before = middle_of(page)
    drag(page, (0.4, 0.5), (0.6, 0.5))
    wait_for(lambda: middle_of(page)[1] < before[1] * 0.75, what="mud in the middle")
    expect(page.get_by_role("button", name="Clear painting")).to_be_visible()

    # A stroke goes with one undo, and comes back.
    page.mouse.move(5, 5)
    page.keyboard.press("z")
    wait_for(lambda: middle_of(page)[1] > before[1] * 0.9, what="reeds in the middle")
    page.get_by_role("banner").get_by_role("button", name="Redo").click()
    wait_for(lambda: middle_of(page)[1] < before[1] * 0.75, what="mud again")

    # What it was before painting is one key away.
    page.keyboard.press("p")
    expect(page.get_by_label("Before painting")).to_be_checked()
    wait_for(lambda: middle_of(page)[1] > before[1] * 0.9, what="the ground before painting")
    page.keyboard.press("p")
    wait_for(lambda: middle_of(page)[1] < before[1] * 0.75, what="the ground with its painting")

    # The tile of the reeds is found by the eye; hexagons hide it.
    page.get_by_role("tab", name="Repetition").click()
    reeds = page.locator("[data-test='repetition Ground']")
    expect(reeds.get_by_text("tile is seen")).to_be_visible()
    reeds.get_by_role("button", name="What helps Ground").click()
    reeds.get_by_role("button", name="Use Hexagons").click()
    expect(reeds.get_by_text("not seen")).to_be_visible()

    page.get_by_role("link", name="Deliveries").click()
    page.get_by_role("region", name="Ground to deliver").get_by_label("Ground").check()
    expect(page.locator("[data-plan='ground Ground'], [data-plan='Ground']")).to_be_visible()
    page.get_by_role("button", name=re.compile("1 patch of ground")).click()
    place = live.home / "deliveries"
    written = wait_for(lambda: next(iter(place.glob("marshes/**/manifest.json")), None), what="the delivery")
    told = json.loads(written.read_text())["grounds"][0]
    weights = np.asarray(Image.open(written.parent / told["layers"][1]["weights"])).astype(int)
    assert (weights.sum(axis=2) == 255).all()
    # Where it was painted: the middle is mud.
    assert weights[weights.shape[0] // 2, weights.shape[1] // 2, "rgba".index(told["layers"][1]["channel"])] > 200


def test_a_height_map_shapes_the_land_and_a_section_tells_its_heights(live, ada, marsh, tmp_path):
    page = ada
    ramp = np.tile(np.linspace(0, 65535, 128).astype(np.uint16)[None, :, None], (128, 1, 1))
    save(tmp_path / "land.png", Texels(ramp, "y", Transfer.LINEAR))
    page.get_by_role("tab", name="Land").click()
    page.locator("[data-test=height]").set_input_files(tmp_path / "land.png")
    expect(page.get_by_text("land.png", exact=True)).to_be_visible()
    give(page, "Lowest place in metres", 0)
    give(page, "Highest place in metres", 10)
    choose(page, "Camera", "From above")
    page.get_by_role("button", name="Section").click()

    def tells_a_rise() -> bool:
        drag(page, (0.3, 0.5), (0.7, 0.5))
        said = page.locator("[data-test=section]").inner_text()
        found = re.search(r"from (-?[\d.]+) m to ([\d.]+) m high", said)
        return bool(found) and float(found[2]) - float(found[1]) > 3 and float(found[2]) <= 10

    wait_for(tells_a_rise, what="a section over a rise")
