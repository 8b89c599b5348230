"""Sources that come by themselves, through the real page: a folder that somebody exports into, and a scan library."""

import os
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import give, judged, serious_axe_findings, start_project, wait_for
from tests.journeys.test_delivering_again import put_rule
from tests.pictures import random_texels, save, simple_set

pytestmark = pytest.mark.filterwarnings("ignore")
LICENCES = {
    "format": "fair-texel/licences", "version": 1,
    "terms": [
        {"licence": "CC0-1.0", "use": "free"},
        {"licence": "LicenseRef-print-only", "use": "refused", "why": "Bought for a poster."},
    ],
}  # fmt: skip


@pytest.fixture
def exports(live):
    """The folder that a painting program exports into, and the process that watches it."""
    folder = live.home / "watched" / "paint"
    folder.mkdir(parents=True, exist_ok=True)
    live.start_watcher()
    return folder


def half_then_whole(path: Path, whole: bytes) -> None:
    """Written in two pieces, as programs do."""
    with path.open("wb") as stream:
        stream.write(whole[: len(whole) // 2])
        stream.flush()
        os.fsync(stream.fileno())
        stream.write(whole[len(whole) // 2 :])


def test_an_export_updates_its_set_and_the_delivery_after_it(live, ada, exports, tmp_path):
    page = ada
    slug = start_project(page, "Painted")
    page.get_by_role("button", name="Watch a folder").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Paint")
    dialog.get_by_label("Folder", exact=True).fill("paint")
    dialog.get_by_role("button", name="Watch", exact=True).click()
    standing = page.locator("[data-watched=Paint] [data-test=watched-standing]")
    expect(standing).to_have_text("No textures there yet")
    assert serious_axe_findings(page) == []

    # What is exported becomes a set.
    simple_set(exports, "hull", seed=3)
    expect(standing).to_have_text("6 files taken in")
    page.get_by_role("link", name="Sets", exact=True).click()
    judged(page, 1)

    # It is delivered for the first time.
    page.get_by_role("link", name="Deliveries").click()
    page.locator("[data-test=deliver]").click()
    page.locator("[data-delivery='1']").wait_for()

    # It is exported again: before and after are seen, and that the delivery is old now.
    save(tmp_path / "hull_r.png", random_texels("y", width=64, height=64, seed=8))
    half_then_whole(exports / "hull_r.png", (tmp_path / "hull_r.png").read_bytes())
    page.goto(f"{live.address}/p/{slug}/intake")
    page.get_by_role("button", name="Exported again").click()
    again = page.locator("[data-file='hull_r.png']")
    expect(again).to_contain_text("exported again in Paint")
    for image in again.locator("img").all():
        assert image.evaluate("async (one) => { await one.decode(); return one.naturalWidth }") > 0
    expect(page.locator("[data-test=outdated]")).to_contain_text("Delivery 1 for")
    assert serious_axe_findings(page) == []

    # The next delivery writes what another source went into.
    page.get_by_role("link", name="Deliver again").click()
    hull = page.locator("[data-plan=hull]")
    expect(hull).to_have_attribute("data-status", "changed")
    hull.get_by_role("button", name="hull").click()
    expect(hull.locator("[data-test=why]").first).to_have_text("another source")


def test_a_scan_is_taken_in_by_distance_and_refused_by_its_terms(live, ada, library):
    page = ada
    slug = start_project(page, "Scanned")
    put_rule(page, live, slug, "licences", LICENCES, "house")
    page.get_by_role("link", name="Search a scan library").click()
    page.get_by_label("Key", exact=True).fill(library.shelf.key)
    page.get_by_role("button", name="Use this key").click()
    cobble = page.locator("[data-surface=slipway-cobble]")
    expect(cobble).to_be_visible()
    assert serious_axe_findings(page) == []

    # Near, the larger one is wanted; from afar the smaller one is enough, and the larger would waste memory.
    give(page, "Screen height", 100)
    give(page, "Vertical field of view", 90)
    give(page, "Nearest camera", 1)
    expect(cobble).to_contain_text("128 px is enough")
    give(page, "Nearest camera", 2)
    expect(cobble).to_contain_text("64 px is enough")
    cobble.click()
    expect(page.get_by_role("row", name="128 px")).to_contain_text("wastes 75 %")

    # Terms that the project's rules forbid are told, and the surface cannot be taken.
    page.locator("[data-surface=customs-house-plaster]").click()
    expect(page.get_by_text("Bought for a poster.")).to_be_visible()
    expect(page.get_by_role("button", name="Take in")).to_be_disabled()

    cobble.click()
    page.get_by_role("button", name="Take in 64 px").click()
    expect(cobble).to_contain_text("Taken in")
    page.get_by_role("link", name="Intake").last.click()
    page.get_by_role("link", name="slipway_cobble").click()

    # A newer revision in the library shows at the set, and takes the place of the former.
    library.shelf.publish("slipway-cobble")
    page.get_by_role("link", name="Intake", exact=True).click()
    page.get_by_role("button", name="Look for newer").click()
    state = page.locator("[data-scan=slipway-cobble]")
    expect(state).to_contain_text("revision 2 is there")
    page.get_by_role("link", name="slipway_cobble").click()
    page.get_by_role("button", name="Versions").click()
    newer = page.locator("[data-test=newer-scan]")
    expect(newer).to_contain_text("Tin Library has revision 2 of Slipway cobble; this is revision 1.")
    newer.get_by_role("button", name="Update").click()
    expect(newer).to_have_count(0)
    wait_for(lambda: page.locator(".pair").count() >= 3, what="the former and the new maps")
