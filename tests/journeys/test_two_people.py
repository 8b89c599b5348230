"""Two people at one set: what does not touch goes together, what does is shown to the later one."""

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, taken_in
from tests.journeys.test_workers import Script
from tests.pictures import simple_set


@pytest.fixture
def shared(ada, live, tmp_path):
    """A page that hears of nothing, and a script as the other person, each at the same set."""
    simple_set(tmp_path / "in", "deck")
    slug = taken_in(ada, "Two people", tmp_path / "in", 1)
    call = Script(live)
    (one,) = call("GET", f"/projects/{slug}/sets")["sets"]
    ada.route("**/events", lambda route: route.abort())
    ada.reload()
    expect(ada.locator("[data-set]")).to_have_count(1)
    return ada, lambda method, path, body: call(method, f"/projects/{slug}/sets/{one['id']}{path}", body)


def rename(page, before, name):
    page.get_by_label(f"Rename {before}", exact=True).click()
    page.keyboard.type(name)
    page.keyboard.press("Enter")


def test_changes_that_do_not_touch_go_together(shared):
    page, other = shared
    other("PUT", "/metres", {"metres": 2})
    rename(page, "deck", "pier")
    expect(page.get_by_text("pier", exact=True)).to_be_visible()
    expect(page.locator("[data-test=clash]")).to_have_count(0)
    assert other("GET", "", None)["metres"] == 2


@pytest.mark.parametrize(("button", "name"), [("Use my version", "pier"), ("Keep their version", "quay")])
def test_a_change_of_the_same_is_shown_and_decided(shared, button, name):
    page, other = shared
    other("PATCH", "", {"name": "quay"})
    rename(page, "deck", "pier")
    dialog = page.locator("[data-test=clash]")
    expect(dialog).to_contain_text("quay")
    expect(dialog).to_contain_text("pier")
    page.get_by_role("button", name=button).click()
    expect(dialog).to_have_count(0)
    expect(page.locator("[data-set]").get_by_text(name, exact=True)).to_be_visible()
    assert other("GET", "", None)["name"] == name


def test_steps_that_both_changed_are_seen_as_pictures_beside_each_other(shared, live):
    page, other = shared
    one = other("GET", "", None)
    found = next(row for row in one["maps"] if row["role"] == "base_color")
    page.get_by_role("button", name="deck", exact=True).click()
    page.get_by_role("navigation", name="Maps of this set").get_by_role("button", name="Base colour").click()
    choose(page, "Add a step", "Levels")
    maps = f"/projects/{page.url.split('/')[4]}/maps"
    Script(live)("PUT", f"{maps}/{found['id']}/recipe", {"recipe": [{"step": "invert"}], "label": "Invert"})
    page.keyboard.press("Enter")
    dialog = page.locator("[data-test=clash]")
    pictures = dialog.locator("img")
    expect(pictures).to_have_count(2)
    for at in range(2):
        expect(pictures.nth(at)).to_have_js_property("complete", True)
        expect(pictures.nth(at)).not_to_have_js_property("naturalWidth", 0)
    expect(dialog).to_contain_text("Invert")
    expect(dialog).to_contain_text("Levels")
    dialog.get_by_role("button", name="Keep their version").click()
    expect(dialog).to_have_count(0)
    now = next(row for row in other("GET", "", None)["maps"] if row["id"] == found["id"])
    assert [step["step"] for step in now["recipe"]] == ["invert"]
