"""House rules in the real browser: layouts and targets, names, formats, advice, budgets, waivers."""

import pytest
from playwright.sync_api import expect

from demo.patterns import noise
from tests.journeys.conftest import choose, give, serious_axe_findings, taken_in
from tests.pictures import EIGHT, save, simple_set
from texel.image import Texels, narrow
from texel.roles import Transfer


@pytest.fixture
def ground(tmp_path):
    """Two small sets: what is tested here does not depend on their pictures."""
    simple_set(tmp_path / "ground", "tidal-mud", normal_word="normal", n=256)
    # A height of 8 bits, which the checks object to.
    height = Texels(narrow(noise(256, 6)[:, :, None], EIGHT), "y", Transfer.LINEAR)
    save(tmp_path / "ground" / "tidal-mud_h.png", height)
    simple_set(tmp_path / "ground", "slate-pier", normal_word="normal", n=256, seed=40)
    return tmp_path / "ground"


def open_rules(page, slug: str, live, part: str) -> None:
    page.goto(f"{live.address}/p/{slug}/rules/{part}")
    page.get_by_role("tablist").wait_for()


def test_a_layout_is_edited_and_its_picture_follows(live, ada, ground):
    page = ada
    slug = taken_in(page, "Layouts", ground, 2)
    open_rules(page, slug, live, "targets")
    expect(page.locator("[data-test=live]")).to_be_visible()
    expect(page.locator("[data-test=lane-result]")).to_have_count(3)
    before = page.locator("[data-test=live]").get_attribute("src")
    choose(page, "Source of Red", "Roughness")
    expect(page.locator("[data-test=live]")).not_to_have_attribute("src", before)
    page.locator('[data-lane="r"]').get_by_label("Invert").check()
    page.get_by_role("button", name="Save as version 1").click()
    expect(page.get_by_text("Version 1", exact=True)).to_be_visible()
    give(page, "Longest side", 300)
    page.get_by_role("button", name="Save as version 2").click()
    page.get_by_role("button", name="Versions").click()
    versions = page.get_by_role("dialog", name="Versions")
    versions.get_by_role("button", name="Version 2").click()
    expect(versions).to_contain_text("largest")
    expect(versions).to_contain_text("300")
    assert serious_axe_findings(page) == []


def test_a_naming_rule_is_made_a_folder_is_fixed_by_it_and_that_is_undone(live, ada, ground):
    page = ada
    slug = taken_in(page, "Names", ground, 2)
    open_rules(page, slug, live, "names")
    files = page.get_by_label("Files of the project")
    expect(files).to_contain_text("file names follow the rules")
    choose(page, "Add a part", "text")
    give(page, "The text", "sf")
    expect(page.locator("[data-test=shape]")).to_have_text("sf_asset_suffix_[resolution]_[version]")
    page.get_by_label("Test names, one per line").fill("sf_quay_stone_n.png\nQuay-Stone_Normal.png")
    tried = page.get_by_label("Tested names")
    expect(tried.locator("li").nth(0)).to_contain_text("quay_stone")
    expect(tried.locator("li").nth(1)).to_contain_text("sf_quay_stone_n.png")
    page.get_by_role("button", name="Save as version 1").click()
    mud = files.locator('[data-file$="tidal-mud_normal.png"]')
    expect(mud).to_contain_text("sf_tidal_mud_n.png")
    assert serious_axe_findings(page) == []
    files.get_by_role("button", name="Rename").first.click()
    expect(files).to_contain_text("Every file name follows the rules")
    page.get_by_role("banner").get_by_role("button", name="Undo").click()
    expect(files.locator('[data-file$="tidal-mud_normal.png"]')).to_be_visible()


def test_formats_of_one_map_are_compared_and_a_misreading_shown(live, ada, ground):
    page = ada
    taken_in(page, "Formats", ground, 2)
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    page.keyboard.press("e")
    panel = page.get_by_label("Formats", exact=True)
    panel.get_by_role("button", name="All formats").click()
    panel.get_by_label("ASTC 6 x 6").check()
    panel.get_by_label("8 bits, four channels").uncheck()
    panel.get_by_role("button", name="Encode 3").click()
    for key in ("bc1", "bc7", "astc_6x6"):
        expect(panel.locator(f'[data-format="{key}"]')).to_contain_text("dB")
    panel.locator('[data-format="bc1"]').get_by_role("button").click()
    expect(page.get_by_text("as BC1")).to_be_visible()
    expect(panel.locator("[data-test=error-picture]")).to_be_visible()
    page.keyboard.press("c")
    page.get_by_role("button", name="4 Occlusion").or_(page.get_by_role("button", name="Occlusion")).first.click()
    panel.get_by_role("button", name="Everything is too glossy").click()
    expect(page.get_by_text("misread", exact=True)).to_be_visible()
    expect(panel).to_contain_text("Mark the texture as linear")
    assert serious_axe_findings(page) == []


def test_a_project_gets_under_its_budget_by_the_advice(live, ada, ground):
    page = ada
    slug = taken_in(page, "Budget", ground, 2)
    open_rules(page, slug, live, "targets")
    give(page, "Memory of all sets", 2)
    page.get_by_role("button", name="Save as version 1").click()
    page.keyboard.press("5")
    total = page.locator("[data-test=total]")
    expect(total).to_contain_text("over")
    page.get_by_role("button", name="Measure").click()
    todo = page.get_by_label("What to do")
    expect(todo).to_contain_text("less, error")
    by = page.get_by_label("Memory by", exact=True)
    by.get_by_role("button", name="Roles").click()
    page.locator("[data-group=roughness]").get_by_role("button").click()
    expect(page.get_by_label("Advice")).to_contain_text("tidal_mud_orm.png")
    by.get_by_role("button", name="Targets").click()
    targets = page.get_by_role("list", name="Memory by target")
    expect(targets.get_by_role("listitem")).to_have_count(9)
    assert serious_axe_findings(page) == []
    by.get_by_role("button", name="Sets").click()
    page.locator("[data-group=tidal-mud]").get_by_role("button").first.click()
    expect(page.get_by_label("Advice")).to_contain_text("Advised:")
    give(page, "Metres that tidal-mud covers", 1)
    expect(page.get_by_text("256 texels/m")).to_be_visible()
    assert serious_axe_findings(page) == []
    # Half the size for everything gets it under.
    page.get_by_role("tab", name="Targets").click()
    give(page, "Longest side", 128)
    page.get_by_role("button", name="Save as version 2").click()
    expect(page.get_by_text("Version 2", exact=True)).to_be_visible()
    page.keyboard.press("5")
    expect(total).to_contain_text("left")


def test_a_finding_is_shown_in_the_map_and_waived(live, ada, ground):
    page = ada
    taken_in(page, "Waivers", ground, 2)
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    steps = page.locator('[data-check="height_steps"]')
    steps.click()
    expect(page.locator("[data-test=marks]")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=marks]")).to_have_count(0)
    steps.locator("[data-test=waive]").click()
    steps.get_by_label("Reason").fill("It is never displaced.")
    steps.get_by_role("button", name="Waive", exact=True).click()
    expect(steps).to_contain_text("Waived: It is never displaced.")
    steps.get_by_role("button", name="Revoke waiver").click()
    expect(steps.locator("[data-test=waive]")).to_be_visible()


def test_a_licence_that_the_project_does_not_accept_is_found_and_put_right(live, ada, ground):
    page = ada
    slug = taken_in(page, "Licences", ground, 2)
    page.locator('[data-set="tidal-mud"]').get_by_role("checkbox").check()
    page.get_by_role("button", name="Set licence", exact=True).click()
    popover = page.get_by_role("dialog", name="Licence of the selected sets")
    popover.get_by_role("combobox", name="Licence").fill("LicenseRef-loan")
    page.keyboard.press("Tab")
    popover.get_by_role("button", name="Set licence").click()
    expect(popover).to_have_count(0)
    open_rules(page, slug, live, "licences")
    groups = page.get_by_label("Sets by licence")
    expect(groups.locator("[data-group=LicenseRef-loan]")).to_contain_text("refused: not listed in the rules")
    page.get_by_role("button", name="Save as version 1").click()
    expect(page.get_by_text("Version 1", exact=True)).to_be_visible()
    assert serious_axe_findings(page) == []
    page.get_by_role("link", name="Sets", exact=True).click()
    mud = page.locator('[data-set="tidal-mud"]')
    expect(mud).to_contain_text("1 error")
    mud.get_by_role("button", name="tidal-mud", exact=True).click()
    expect(page.locator("[data-check=licence_refused]")).to_contain_text("LicenseRef-loan, is not among those")
    page.get_by_role("button", name="Change the licence").click()
    page.get_by_role("combobox", name="Licence").fill("CC-BY-4.0")
    page.get_by_label("Attribution").fill("Imke of the marsh")
    page.get_by_role("button", name="Set licence").click()
    expect(page.locator("[data-check=licence_refused]")).to_have_count(0)
    expect(page.get_by_text("Imke of the marsh", exact=True)).to_be_visible()
