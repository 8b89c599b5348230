"""Ready-made masters in the real browser: rock with snow on top, and a prop that shows its cell of an atlas."""

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, give, serious_axe_findings, taken_in, wait_for
from tests.journeys.test_masters import derive, surface_ready
from tests.pictures import save, simple_set
from texel.image import Texels
from texel.roles import Transfer

# Mean brightness of what lies in the middle across, in bands from the top to the bottom.
_BANDS = """(canvas) => {
  const { width, height } = canvas;
  const drawn = new OffscreenCanvas(width, height).getContext("2d");
  drawn.drawImage(canvas, 0, 0);
  return [0.25, 0.5, 0.75].map((share) => {
    const part = drawn.getImageData(width * 0.4, height * (share - 0.04), width * 0.2, height * 0.08).data;
    let sum = 0;
    for (let at = 0; at < part.length; at += 4) sum += part[at] + part[at + 1] + part[at + 2];
    return sum / part.length;
  });
}"""


# Until nothing was drawn anew for a while: maps that come late draw the surface, too.
_SETTLED = """async () => {
  const frame = document.querySelector("[data-drawn]");
  for (let still = 0, last = ""; still < 20; still += 1) {
    if (frame.dataset.drawn !== last) [last, still] = [frame.dataset.drawn, 0];
    await new Promise(requestAnimationFrame);
  }
}"""


def settled(page) -> None:
    page.evaluate(_SETTLED)


def begin_as(page, ready: str, title: str) -> None:
    page.keyboard.press("Shift+M")
    page.get_by_role("button", name="New master").click()
    page.locator(f'[data-ready="{ready}"]').click()
    expect(page.get_by_label("Title of the master")).to_have_value(title)
    page.get_by_role("button", name="Make", exact=True).click()
    expect(page.get_by_role("heading", name=title, exact=True)).to_be_visible()
    surface_ready(page)


def bands(page) -> list[float]:
    return page.locator("canvas").last.evaluate(_BANDS)


def moved_since(page, drawn: int) -> None:
    page.wait_for_function("n => Number(document.querySelector('[data-drawn]').dataset.drawn) > n", arg=drawn)


def drawn_so_far(page) -> int:
    return int(page.locator("[data-drawn]").get_attribute("data-drawn"))


@pytest.fixture
def rock(tmp_path):
    simple_set(tmp_path / "rock", "slate-cliff")
    return tmp_path / "rock"


@pytest.fixture
def crates(tmp_path):
    """A set whose maps are four cells: dark, and three brighter ones."""
    folder = tmp_path / "crates"
    folder.mkdir()
    cells = np.array([[20, 100], [180, 250]], np.uint8).repeat(32, 0).repeat(32, 1)[..., None].repeat(3, 2)
    save(folder / "crates_bc.png", Texels(cells, "rgb", Transfer.SRGB))
    save(folder / "crates_r.png", Texels(np.full((64, 64, 1), 200, np.uint8), "y", Transfer.LINEAR))
    return folder


def test_rock_is_covered_by_snow_from_above_as_far_as_the_slider_says(live, ada, rock):
    page = ada
    taken_in(page, "Cliffs", rock, 1)
    begin_as(page, "triplanar-rock-snow", "Rock from three sides, with snow")
    expect(page.locator("[data-test=cost]")).to_contain_text("9 texture reads")
    # A step that reads a map lets one choose among the slots; where the surface is is a place to start.
    page.get_by_role("button", name="Edit packed").click()
    expect(page.get_by_label("Expression of packed")).to_have_value("triplanar(place, pack, sharp)")
    assert serious_axe_findings(page) == []
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()
    derive(page, "Cliff")
    choose(page, "Fill slots from a set", "slate-cliff")
    expect(page.get_by_role("img", name="Map in Rock's colour")).to_be_visible()
    surface_ready(page)
    give(page, "Begins at a slope of, number", 0.9)
    settled(page)
    drawn = drawn_so_far(page)
    bare = bands(page)
    give(page, "Begins at a slope of, number", 0.1)
    moved_since(page, drawn)
    wait_for(lambda: bands(page)[0] > bare[0] + 10, what="snow on top", pause=0.3)
    covered = bands(page)
    assert covered[0] - bare[0] > covered[2] - bare[2] + 10, "what looks down stays bare"


def test_a_prop_shows_the_cell_of_the_atlas_that_its_number_says(live, ada, crates):
    page = ada
    taken_in(page, "Crates", crates, 1)
    begin_as(page, "atlas-prop", "Prop on an atlas")
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()
    derive(page, "Crate")
    choose(page, "Fill slots from a set", "crates")
    expect(page.get_by_role("img", name="Map in Colour")).to_be_visible()
    surface_ready(page)
    give(page, "Columns, number", 2)
    give(page, "Lines, number", 2)
    choose(page, "Show", "Base colour")
    seen = []
    for cell in (0, 1, 3):
        drawn = drawn_so_far(page)
        give(page, "Cell, number", cell)
        if cell:
            moved_since(page, drawn)
        settled(page)
        wait_for(lambda: bands(page)[1] > (seen[-1] + 20 if seen else 0), what=f"cell {cell}", pause=0.3)
        seen.append(bands(page)[1])
    # As they are stored: each cell brighter than the one before.
    assert seen == sorted(seen)
