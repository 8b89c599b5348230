"""House rules in the real browser: layouts and targets, names, formats, advice, budgets, waivers."""

import pytest
from playwright.sync_api import expect

from demo.patterns import noise
from tests.journeys.conftest import serious_axe_findings, taken_in
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
    page.get_by_role("navigation", name="House rules").wait_for()


def test_a_layout_is_edited_and_its_picture_follows(live, ada, ground):
    page = ada
    slug = taken_in(page, "Layouts", ground, 2)
    open_rules(page, slug, live, "targets")
    expect(page.locator("[data-test=live]")).to_be_visible()
    expect(page.locator("[data-test=lane-result]")).to_have_count(3)
    before = page.locator("[data-test=live]").get_attribute("src")
    page.get_by_label("Source of Red").select_option("roughness")
    expect(page.locator("[data-test=live]")).not_to_have_attribute("src", before)
    page.get_by_label("Invert Red").check()
    page.get_by_role("button", name="Keep as version 1").click()
    expect(page.get_by_text("version 1", exact=True)).to_be_visible()
    page.get_by_label("longest side").first.fill("300")
    page.get_by_label("longest side").first.press("Tab")
    page.get_by_role("button", name="Keep as version 2").click()
    page.get_by_role("button", name="Versions").click()
    versions = page.get_by_role("dialog", name="Versions")
    versions.get_by_role("button", name="version 2").click()
    expect(versions).to_contain_text("largest")
    expect(versions).to_contain_text("300")
    assert serious_axe_findings(page) == []


def test_a_naming_rule_is_made_a_folder_is_fixed_by_it_and_that_is_undone(live, ada, ground):
    page = ada
    slug = taken_in(page, "Names", ground, 2)
    open_rules(page, slug, live, "names")
    files = page.get_by_label("Files of the project")
    expect(files).to_contain_text("names are right")
    page.get_by_label("Add a part").select_option("text")
    page.get_by_label("The text").fill("sf")
    page.get_by_label("The text").press("Tab")
    expect(page.locator("[data-test=shape]")).to_have_text("sf_asset_suffix_[resolution]_[version]")
    page.get_by_label("Try names, one a line").fill("sf_quay_stone_n.png\nQuay-Stone_Normal.png")
    tried = page.get_by_label("Names tried")
    expect(tried.locator("li").nth(0)).to_contain_text("quay_stone")
    expect(tried.locator("li").nth(1)).to_contain_text("sf_quay_stone_n.png")
    page.get_by_role("button", name="Keep as version 1").click()
    mud = files.locator('[data-file$="tidal-mud_normal.png"]')
    expect(mud).to_contain_text("sf_tidal_mud_n.png", timeout=30_000)
    assert serious_axe_findings(page) == []
    files.get_by_role("button", name="Rename").click()
    expect(files).to_contain_text("Every name follows the rules", timeout=30_000)
    page.get_by_role("button", name="Undo").click()
    expect(files.locator('[data-file$="tidal-mud_normal.png"]')).to_be_visible(timeout=30_000)


def test_formats_of_one_map_are_compared_and_a_misreading_shown(live, ada, ground):
    page = ada
    taken_in(page, "Formats", ground, 2)
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    page.keyboard.press("e")
    panel = page.get_by_label("Formats", exact=True)
    panel.get_by_role("button", name="all formats").click()
    panel.get_by_label("ASTC 6 x 6").check()
    panel.get_by_label("8 bits, four channels").uncheck()
    panel.get_by_role("button", name="Encode 3").click()
    for key in ("bc1", "bc7", "astc_6x6"):
        expect(panel.locator(f'[data-format="{key}"]')).to_contain_text("dB", timeout=60_000)
    panel.locator('[data-format="bc1"]').click()
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
    page.get_by_label("Memory of all sets, MiB").fill("2")
    page.get_by_label("Memory of all sets, MiB").press("Tab")
    page.get_by_role("button", name="Keep as version 1").click()
    page.keyboard.press("5")
    total = page.locator("[data-test=total]")
    expect(total).to_contain_text("over", timeout=30_000)
    page.get_by_role("button", name="Measure").click()
    todo = page.get_by_label("What to do")
    expect(todo).to_contain_text("less; costs", timeout=90_000)
    by = page.get_by_role("navigation", name="Memory by")
    by.get_by_role("button", name="Roles").click()
    page.get_by_role("button", name="roughness", exact=True).click()
    expect(page.get_by_label("Advice")).to_contain_text("tidal_mud_orm.png")
    by.get_by_role("button", name="Targets").click()
    targets = page.get_by_role("list", name="Memory by target")
    expect(targets.get_by_role("listitem")).to_have_count(9)
    assert serious_axe_findings(page) == []
    by.get_by_role("button", name="Sets").click()
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    expect(page.get_by_label("Advice")).to_contain_text("Advised:", timeout=60_000)
    page.get_by_label("Metres that tidal-mud covers").fill("1")
    page.get_by_label("Metres that tidal-mud covers").press("Tab")
    expect(page.get_by_text("256 texels/m")).to_be_visible(timeout=30_000)
    assert serious_axe_findings(page) == []
    # Half the size for everything gets it under.
    page.get_by_role("navigation", name="House rules").get_by_role("button", name="Targets").click()
    page.get_by_label("longest side").first.fill("128")
    page.get_by_label("longest side").first.press("Tab")
    page.get_by_role("button", name="Keep as version 2").click()
    expect(page.get_by_text("version 2", exact=True)).to_be_visible()
    page.keyboard.press("5")
    expect(total).to_contain_text("left", timeout=30_000)


def test_a_finding_is_shown_in_the_map_and_lived_with(live, ada, ground):
    page = ada
    taken_in(page, "Waivers", ground, 2)
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    steps = page.locator('[data-check="height_steps"]')
    steps.click()
    expect(page.locator("[data-test=marks]")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=marks]")).to_have_count(0)
    steps.locator("[data-test=waive]").click()
    steps.get_by_label("Why live with it?").fill("It is never displaced.")
    steps.get_by_role("button", name="Live with it", exact=True).click()
    expect(steps).to_contain_text("Lived with: It is never displaced.", timeout=30_000)
    steps.get_by_role("button", name="Let it count again").click()
    expect(steps.locator("[data-test=waive]")).to_be_visible(timeout=30_000)


def test_a_licence_that_the_project_does_not_take_is_found_and_put_right(live, ada, ground):
    page = ada
    slug = taken_in(page, "Licences", ground, 2)
    page.locator('[data-set="tidal-mud"]').get_by_role("checkbox").check()
    page.get_by_role("button", name="Licence", exact=True).click()
    page.get_by_role("combobox", name="Licence").fill("LicenseRef-loan")
    page.get_by_role("button", name="Say so").click()
    open_rules(page, slug, live, "licences")
    groups = page.get_by_label("Sets by licence")
    expect(groups.locator("[data-group=LicenseRef-loan]")).to_contain_text("not named in the rules, so refused")
    page.get_by_role("button", name="Keep as version 1").click()
    expect(page.get_by_text("version 1", exact=True)).to_be_visible()
    assert serious_axe_findings(page) == []
    page.get_by_role("link", name="Roll").click()
    mud = page.locator('[data-set="tidal-mud"]')
    expect(mud).to_contain_text("1 error", timeout=30_000)
    mud.get_by_role("button", name="tidal-mud", exact=True).click()
    expect(page.locator("[data-check=licence_refused]")).to_contain_text("LicenseRef-loan, is not among those")
    page.get_by_role("button", name="Licence LicenseRef-loan").click()
    page.get_by_role("combobox", name="Licence").fill("CC-BY-4.0")
    page.get_by_label("To be named").fill("Imke of the marsh")
    page.get_by_role("button", name="Say so").click()
    expect(page.locator("[data-check=licence_refused]")).to_have_count(0, timeout=30_000)
    expect(page.get_by_role("button", name="Licence CC-BY-4.0 Imke of the marsh")).to_be_visible()
