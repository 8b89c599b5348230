"""Takes the pictures of the main views from the demo: ``.venv/bin/python -m tests.screenshots [VIEW ...]``.

The demo must be running (``./ft demo``), freshly made: what a view changes on the way it takes back.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable

from playwright.sync_api import Page, sync_playwright

from ground.places import CHECKOUT, data_home
from tests.journeys.conftest import choose, give
from tests.live import BROWSER_ARGS

FERRY = "/p/saltmarsh-ferry"
VIEWS: dict[str, Callable[[Page, str], None]] = {}
View = Callable[[Page, str], None]


def view(look: View) -> View:
    VIEWS[look.__name__] = look
    return look


def set_page(page: Page, base: str, project: str, name: str) -> None:
    page.goto(f"{base}{project}/sets")
    page.get_by_role("button", name=name, exact=True).click()
    page.locator(".frame[data-ready=true]").wait_for()


def drawn(page: Page) -> None:
    page.locator("[data-ready=true]").first.wait_for(timeout=120_000)
    page.wait_for_timeout(4000)


@view
def projects(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_role("heading", name="Projects").wait_for()


@view
def intake(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/intake")
    page.get_by_text("Taken in so far").wait_for()


@view
def scans(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/library")
    page.get_by_role("button", name="Slipway cobble").click()
    page.get_by_text("Sharp from").wait_for()
    page.wait_for_timeout(3000)


@view
def habit(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/habit")
    page.locator("tr[data-suffix] img").first.wait_for()


@view
def overview(page: Page, base: str) -> None:
    page.goto(base + FERRY)
    page.get_by_text("of the budget").wait_for()


@view
def sets(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/sets")
    page.locator("[data-set]").first.wait_for()


@view
def set_(page: Page, base: str) -> None:
    set_page(page, base, FERRY, "mooring_rope")
    page.locator('[data-check="direction_against_name"]').click()


@view
def repair(page: Page, base: str) -> None:
    set_page(page, base, FERRY, "slate-pier")
    page.keyboard.press("2")
    choose(page, "Add a step", "Strength")
    give(page, "Strength, number", 2)
    page.locator("h1").click()
    for key in ("u", "n", "s"):
        page.keyboard.press(key)


@view
def surface(page: Page, base: str) -> None:
    set_page(page, base, FERRY, "slate-pier")
    page.keyboard.press("v")
    drawn(page)
    choose(page, "Compare with", "Data was decoded as sRGB colour")


@view
def formats(page: Page, base: str) -> None:
    set_page(page, base, FERRY, "mooring_rope")
    page.keyboard.press("2")
    page.keyboard.press("e")
    panel = page.get_by_label("Formats", exact=True)
    panel.get_by_role("button", name="Encode").click()
    panel.locator('[data-format="bc5"]').get_by_text("°").first.wait_for(timeout=60_000)
    panel.locator('[data-format="bc5"]').get_by_role("button").click()
    panel.locator("[data-test=error-picture]").wait_for()


@view
def deliveries(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/deliveries")
    page.locator("[data-plan]").nth(2).wait_for(timeout=60_000)
    page.locator("[data-plan]").nth(1).get_by_role("button").click()


@view
def rules(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/rules/targets")
    page.locator("[data-test=live]").wait_for(timeout=30_000)


@view
def budget(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/rules/budget")
    measure = page.get_by_role("button", name="Measure")
    measured = page.get_by_text("With every advised format")
    measure.or_(measured).first.wait_for()
    if measure.is_visible():
        measure.click()
    measured.wait_for(timeout=120_000)
    page.get_by_text("No jobs").wait_for(timeout=240_000)


def cast(page: Page, base: str, name: str) -> None:
    page.goto(f"{base}{FERRY}/materials")
    tree = page.get_by_label("Materials of the project")
    tree.locator(".node").get_by_text(name, exact=True).click()
    drawn(page)


@view
def materials(page: Page, base: str) -> None:
    cast(page, base, "Deck plate")


@view
def models(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/models")
    drawn(page)
    page.get_by_role("button", name="Take 4 proposals").click()
    page.get_by_role("button", name="Take Deck plate for M_Deck_Tread").click()
    page.get_by_text("2 slots wear nothing").wait_for()
    drawn(page)
    page.get_by_role("button", name="M_Bell_Brass").first.click()
    page.wait_for_timeout(9000)


@view
def layers(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/materials/master/wet-ground")
    drawn(page)


@view
def function(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/materials/function/wetted")
    drawn(page)
    page.get_by_role("button", name="Edit fuller").click()


@view
def update(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/materials/update/plain-solid")
    page.locator(".pictures[data-ready=true]").wait_for(timeout=120_000)


@view
def ground(page: Page, base: str) -> None:
    page.goto(f"{base}{FERRY}/ground")
    page.locator("[data-ready=true]").first.wait_for(timeout=120_000)
    page.get_by_role("button", name="Mud").first.click()
    page.wait_for_timeout(4000)


def main(wanted: list[str]) -> None:
    home = data_home()
    word = json.loads((home / "demo-sign-in.json").read_text())["ada"]
    base = f"http://127.0.0.1:{json.loads((home / 'run' / 'studio.json').read_text())['port']}"
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER_ARGS)
        for name, look in VIEWS.items():
            stem = name.rstrip("_")
            if wanted and stem not in wanted:
                continue
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(base)
            page.get_by_label("Name").fill("ada")
            page.get_by_label("Password").fill(word)
            page.get_by_role("button", name="Sign in").click()
            page.get_by_role("heading", name="Projects").wait_for()
            look(page, base)
            page.wait_for_timeout(2500)
            page.screenshot(path=CHECKOUT / "docs" / "screenshots" / f"{stem}.png")
            page.close()
            print(stem, flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
