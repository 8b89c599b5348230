"""Sets put onto an atlas that a model wears, a trim sheet, and vertex colours painted, through the real page."""

import re

from playwright.sync_api import expect

from tests.journeys.conftest import box_of, choose, serious_axe_findings, taken_in
from tests.journeys.test_models import BOAT, drawn, slot
from tests.meshes import glb
from tests.pictures import simple_set


def dressed(page, tmp_path, name):
    """A boat whose first two slots wear a set each."""
    for number, one in enumerate(("planks", "rope")):
        simple_set(tmp_path / "in", one, seed=number)
    taken_in(page, name, tmp_path / "in", 2)
    page.get_by_role("link", name="Models").click()
    (tmp_path / "boat.glb").write_bytes(glb(*BOAT[:2]))
    page.locator("[data-test=model]").set_input_files(tmp_path / "boat.glb")
    page.get_by_role("button", name="Take 2 proposals").click()
    expect(page.get_by_text("every slot is filled")).to_be_visible()


def test_two_sets_become_an_atlas_that_the_model_wears_and_go_back(live, ada, tmp_path):
    page = ada
    dressed(page, tmp_path, "Atlases")
    page.get_by_role("link", name="Sets", exact=True).click()
    for name in ("planks", "rope"):
        page.get_by_role("checkbox", name=re.compile(name)).check()
    page.get_by_role("button", name="Make an atlas").click()
    dialog = page.get_by_role("dialog", name="Put 2 sets onto an atlas")
    expect(dialog.get_by_text("256 × 128, 25 % used. The first 3 mips stay clean.")).to_be_visible()
    assert serious_axe_findings(page) == []

    dialog.locator("[data-test=atlas-models]").click()
    page.get_by_role("option", name="boat").click()
    page.keyboard.press("Escape")
    expect(dialog.get_by_text("boat, M_planks:")).to_be_visible()
    choose(dialog, "Room around each", "4 texels")
    expect(dialog.get_by_text("The first 2 mips stay clean.")).to_be_visible()
    dialog.get_by_role("button", name="Make the atlas").click()
    expect(page.get_by_role("button", name="atlas", exact=True)).to_be_visible()

    page.get_by_role("link", name="Models").click()
    drawn(page)
    expect(slot(page, "M_rope").get_by_role("combobox").first).to_have_text("atlas")
    expect(slot(page, "M_rope").get_by_label("Region that M_rope uses")).to_have_text("rope")

    # The way back: each cell a set again.
    page.get_by_role("link", name="Sets", exact=True).click()
    page.get_by_role("button", name="atlas", exact=True).click()
    page.get_by_role("button", name=re.compile("^Regions")).click()
    page.get_by_role("button", name="Cut into sets").click()
    expect(page.get_by_text("2 sets were made.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Undo")).first.click()

    # One undo more takes the atlas back, and the slots wear what they wore.
    expect(page.get_by_text(re.compile("Undone: Cut"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Undo")).first.click()
    expect(page.get_by_text(re.compile("Undone: Make the atlas"))).to_be_visible()
    page.get_by_role("link", name="Models").click()
    expect(slot(page, "M_rope").get_by_role("combobox").first).to_have_text("rope")


def test_a_strip_is_drawn_and_worn_and_the_model_is_painted(live, ada, tmp_path):
    page = ada
    dressed(page, tmp_path, "Trims")
    page.get_by_role("link", name="Sets", exact=True).click()
    page.get_by_role("button", name="planks", exact=True).click()
    page.get_by_role("button", name=re.compile("^Regions")).click()
    page.get_by_role("button", name="Edit regions").click()
    dialog = page.get_by_role("dialog", name="Regions of planks")
    dialog.get_by_label("Draw strips over the whole width").check()
    box = box_of(dialog.locator("[data-test=regions-picture]"))
    page.mouse.move(box["x"] + 20, box["y"] + 0.1)
    page.mouse.down()
    page.mouse.move(box["x"] + 90, box["y"] + box["height"] / 2, steps=3)
    page.mouse.up()
    expect(dialog.get_by_label("Height of Strip 1")).to_have_value(re.compile("3[12]"))
    dialog.get_by_role("button", name="Keep regions").click()
    expect(dialog).to_have_count(0)

    page.get_by_role("link", name="Models").click()
    drawn(page)
    choose(slot(page, "M_planks"), "Region that M_planks uses", "Strip 1")
    expect(slot(page, "M_planks").get_by_label("Region that M_planks uses")).to_have_text("Strip 1")

    panel = page.locator("[data-test=vertex-colours]")
    panel.get_by_role("button").first.click()
    panel.get_by_role("button", name="Paint", exact=True).click()
    drawn(page)
    box = box_of(page.locator(".frame canvas"))
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 30, middle[1], steps=2)
    page.mouse.up()
    expect(panel.get_by_role("button", name="Clear 1 stroke")).to_be_visible()
    expect(panel.get_by_text("The mesh is too coarse for this border")).to_be_visible()
    assert serious_axe_findings(page) == []
    page.get_by_role("button", name=re.compile("^Undo")).first.click()
    expect(panel.get_by_role("button", name="Clear 1 stroke")).to_have_count(0)
