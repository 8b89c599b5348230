"""The real thing: its own database, the real server, real workers, a real browser."""

from __future__ import annotations

import contextlib
import os
import shutil
import threading
import time
from pathlib import Path

import pytest
from playwright.sync_api import expect

from ground.places import CHECKOUT
from scanlibrary.service import Service
from scanlibrary.shelf import Shelf
from tests.live import BROWSER_ARGS, PASSWORD, running
from tests.provider import CLIENT, SECRET, Provider

AXE = CHECKOUT / "web/node_modules/axe-core/axe.min.js"
# Surfaces are drawn in software here, on the same cores as everything else, and a machine may be five times slower
# and busy: what does not come at all is told late, what comes late is no failure.
PATIENCE = int(os.environ.get("FAIR_TEXEL_PATIENCE_MS", "120000"))
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def library(tmp_path_factory):
    """The stand-in scan library, served over HTTP, with small maps."""
    service = Service(Shelf(tmp_path_factory.mktemp("library"), (64, 128)))
    threading.Thread(target=service.serve_forever, daemon=True).start()
    yield service
    service.shutdown()


@pytest.fixture(scope="session")
def provider():
    """Where people may sign in beside the studio itself."""
    made = Provider()
    yield made
    made.stop()


@pytest.fixture(scope="session")
def live(tmp_path_factory, library, provider):
    elsewhere = {
        "FAIR_TEXEL_OIDC_ISSUER": provider.issuer, "FAIR_TEXEL_OIDC_CLIENT": CLIENT, "FAIR_TEXEL_OIDC_SECRET": SECRET,
        "FAIR_TEXEL_OIDC_NAME": "the harbour's account", "FAIR_TEXEL_OIDC_MAKES_ACCOUNTS": "1",
    }  # fmt: skip
    with running(tmp_path_factory.mktemp("live"), library.address, **elsewhere) as found:
        yield found


@pytest.fixture(scope="session")
def browser_type_launch_args():
    chromium = shutil.which("chromium")
    if chromium is None:
        pytest.fail("Chromium is missing: apt-get install chromium, or run ./ft test")
    return {"executable_path": chromium, "args": BROWSER_ARGS, "headless": True}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


@pytest.fixture
def context(context):
    """Surfaces are drawn with a quarter of the pixels a side, as a person on a slow machine would choose."""
    context.add_init_script("localStorage.setItem('surface-detail', '0.25')")
    return context


@pytest.fixture(scope="session")
def signed_in():
    """The cookies of the first who signed in through the page; the others go on with them."""
    return []


@pytest.fixture
def ada(live, page, signed_in):
    """A page signed in as ada. Requests that leave the machine, and errors on the page, fail the test."""
    problems: list[str] = []
    page.on("request", lambda r: None if r.url.startswith((live.address, "blob:", "data:")) else problems.append(r.url))
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.set_default_timeout(PATIENCE)
    page.context.add_cookies(signed_in)
    page.goto(live.address)
    if not signed_in:
        page.get_by_label("Name").fill("ada")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Projects").wait_for()
    signed_in[:] = page.context.cookies()
    yield page
    assert problems == []


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):
    """Beside a failed journey: what its page showed, and what server and workers said last."""
    report = (yield).get_result()
    if report.when != "call" or not report.failed:
        return
    shown = getattr(item, "funcargs", {})
    for name in ("page", "ada"):
        with contextlib.suppress(Exception):
            report.sections.append(
                (f"{name} at {shown[name].url}", shown[name].inner_text("body", timeout=5000)[:4000])
            )
    with contextlib.suppress(KeyError):
        for log in sorted(shown["live"].home.glob("*.log")):
            report.sections.append((log.name, log.read_text(errors="replace")[-6000:]))


# Nothing fades or moves, other than what turns for ever.
STILL = """() => document.getAnimations().every(
  (one) => one.playState !== "running" || one.effect.getComputedTiming().iterations === Infinity
)"""


def start_project(page, name: str) -> str:
    """Make a project through the page; gives its slug. The intake is then open."""
    page.get_by_role("button", name="New project").click()
    dialog = page.get_by_role("dialog", name="New project")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_role("button", name="Make project").click()
    page.get_by_role("heading", name="Drop a folder").wait_for()
    return page.url.split("/p/")[1].split("/")[0]


def drop_folder(page, folder: Path) -> None:
    page.locator("[data-test=folder]").set_input_files(folder)


def judged(page, count: int) -> None:
    expect(page.locator("[data-set]").first).to_be_visible()
    expect(page.get_by_text("being checked", exact=True)).to_have_count(0)
    expect(page.get_by_role("button", name=f"All {count}", exact=True)).to_be_visible()


def taken_in(page, project: str, folder: Path, sets: int) -> str:
    """A project with a folder's sets, judged; the list of sets is shown. Gives the project's slug."""
    slug = start_project(page, project)
    drop_folder(page, folder)
    page.get_by_role("link", name="See the sets").click()
    judged(page, sets)
    return slug


def choose(scope, label: str, option: str, exact: bool = True) -> None:
    """Choose an option in the list with a label; scope: a page, or a part of it."""
    page = getattr(scope, "page", scope)
    scope.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=exact).first.click()
    expect(page.get_by_role("listbox")).to_have_count(0)


def give(scope, label: str, value: object) -> None:
    """Type a number or a text into the field with a label, and leave it."""
    field = scope.get_by_label(label, exact=True)
    field.fill(str(value))
    field.press("Tab")


def box_of(locator) -> dict:
    """Where it lies, in CSS pixels, once nothing moves any more: a dialog that opens grows for a moment."""
    locator.page.wait_for_function(STILL)
    locator.hover(trial=True)  # waits until its box is the same in two frames
    return locator.bounding_box()


def serious_axe_findings(page) -> list[str]:
    # A message that is fading away has no contrast any more.
    expect(page.locator(".p-toast-message")).to_have_count(0)
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run({resultTypes: ['violations']})")
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:160]}"
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
    ]


def wait_for(condition, seconds: float = 120, what: str = "it", pause: float = 0.1):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found = condition()
        if found:
            return found
        time.sleep(pause)
    raise AssertionError(f"{what} did not happen within {seconds} s")
