"""Functions in the real browser: a repeated chain becomes one, a second master uses it and follows its next version."""

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, serious_axe_findings, taken_in
from tests.journeys.test_masters import surface_ready
from tests.journeys.test_ready_masters import begin_as
from tests.pictures import simple_set


@pytest.fixture
def rock(tmp_path):
    simple_set(tmp_path / "rock", "slate-cliff")
    return tmp_path / "rock"


def write(page, label, text):
    """Write a row as an expression; the editor stays open."""
    row = page.get_by_role("group", name=label, exact=True)
    row.get_by_role("button", name=f"Edit {label}").click()
    field = row.get_by_label(f"Expression of {label}")
    field.fill(text)
    field.press("Enter")
    return row


def test_a_repeated_chain_becomes_a_function_of_two_masters(live, ada, rock):
    page = ada
    taken_in(page, "Cliffs", rock, 1)
    begin_as(page, "solid-packed", "Solid, packed maps")
    metallic = write(page, "Metallic", "clamp(levels(pack.b, 0.2, 0.8), 0, 1)")
    expect(metallic.locator(".chain")).to_contain_text("clamp")
    roughness = write(page, "Roughness", "clamp(levels(pack.g, 0.2, 0.8), 0, 1)")
    expect(roughness.locator(".chain")).to_contain_text("clamp")
    roughness.get_by_role("button", name="Make a function").click()
    page.get_by_label("Title of the function").fill("Spread")
    drawn = page.locator("[data-test=drawn]")
    expect(drawn).to_contain_text("clamp(levels(pack_g, 0.2, 0.8), 0, 1)")
    expect(drawn).to_contain_text("2 rows will call it: metallic, roughness")
    assert serious_axe_findings(page) == []
    page.get_by_role("button", name="Make", exact=True).click()
    expect(page.locator('[data-function="spread"]')).to_contain_text("1.0.0")
    expect(roughness.locator(".chain")).to_contain_text("spread")
    expect(metallic.locator(".chain")).to_contain_text("spread")
    surface_ready(page)

    begin_as(page, "solid-separate", "Solid, separate maps")
    row = page.get_by_role("group", name="Roughness", exact=True)
    row.get_by_role("button", name="Edit Roughness").click()
    choose(row, "Add a step", "Spread")
    expect(page.locator('[data-function="spread"]')).to_contain_text("1.0.0")
    expect(row.locator(".chain")).to_contain_text("spread")
    surface_ready(page)

    page.locator('[data-function="spread"]').get_by_role("link", name="Spread").click()
    uses = page.locator("[data-test=uses]")
    expect(uses).to_contain_text("Solid, packed maps")
    expect(uses).to_contain_text("Solid, separate maps")
    surface_ready(page)
    write(page, "Result", "clamp(levels(pack_g, 0.1, 0.9), 0, 1)")
    assert serious_axe_findings(page) == []
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.1.0", exact=True)).to_be_visible()

    uses.get_by_role("link", name="Solid, separate maps").click()
    carried = page.locator('[data-function="spread"]')
    expect(carried).to_contain_text("1.0.0, where the library has 1.1.0")
    carried.get_by_role("button", name="Update to 1.1.0").click()
    expect(carried.get_by_role("button")).to_have_count(0)
    expect(carried).to_contain_text("1.1.0")
