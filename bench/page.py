"""The page in the real browser: how long until the first picture of the list of sets stands, and how much script comes
before it; with the demo's folder and with 500 sets. Beside it, in the same run, the browser's own empty page."""

from __future__ import annotations

import shutil
import statistics
from collections.abc import Iterator
from typing import Any

import numpy as np

from bench.torture.studio import Studio, manage, running
from demo.intake import write_project_folder
from texel.files import encode
from texel.image import Texels
from texel.roles import Transfer

__all__ = ["run"]

_SETS, _SIDE, _ROUNDS = 500, 64, 5
# What is wanted: seconds until the first picture, and script as it is sent (gzip).
_SECONDS, _SCRIPT_BYTES = 1.5, 250_000
_ARGUMENTS = ("--no-sandbox", "--disable-dev-shm-usage", "--disable-background-networking", "--no-first-run")
_FIRST_PICTURE = """() => new Promise((done) => {
  const look = () => {
    const shown = [...document.querySelectorAll("[data-set] img")].some((one) => one.complete && one.naturalWidth);
    if (!shown) return requestAnimationFrame(look);
    const scripts = performance.getEntriesByType("resource").filter((one) => /\\.js($|\\?)/.test(one.name));
    done([performance.now(), scripts.reduce((sum, one) => sum + one.encodedBodySize, 0)]);
  };
  look();
})"""


def _pictures(count: int) -> Iterator[tuple[str, bytes]]:
    """Small maps of so many sets: colour, normal, roughness."""
    rng = np.random.default_rng(1)
    for at in range(count):
        values = rng.integers(0, 255, (_SIDE, _SIDE, 3), dtype=np.uint8)
        values[..., 2] |= 128
        for word, letters in (("bc", "rgb"), ("n", "rgb"), ("r", "y")):
            pixels = np.ascontiguousarray(values[..., : len(letters)])
            yield f"wall_{at:03}_{word}.png", encode(Texels(pixels, letters, Transfer.SRGB), "png")


def _project(studio: Studio, name: str, files: Iterator[tuple[str, bytes]], sets: int) -> str:
    slug = str(studio("POST", "/projects", {"name": name})["slug"])
    base = f"/projects/{slug}"
    intake = studio("POST", f"{base}/intakes", {"name": name})["id"]
    for path, content in files:
        studio.upload(f"{base}/intakes/{intake}/files", path, content)
    studio("POST", f"{base}/intakes/{intake}/sort")

    def judged() -> bool:
        set_rows = studio("GET", f"{base}/sets")["sets"]
        return len(set_rows) >= sets and all(one["judged"] for one in set_rows)

    studio.wait_for(judged, f"{sets} sets, judged", seconds=900)
    return slug


def _signed_in(browser: Any, studio: Studio) -> list[Any]:
    """The cookies of somebody who signed in through the page."""
    word = "tide-table-9"
    script = f"from django.contrib.auth.models import User; u = User.objects.get(); u.set_password('{word}'); u.save()"
    manage(studio.env, "shell", "-v", "0", "-c", script)
    page = browser.new_page()
    page.goto(studio.address)
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill(word)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Projects").wait_for()
    cookies = page.context.cookies()
    page.close()
    return list(cookies)


def _opened(browser: Any, address: str, cookies: list[Any], path: str) -> tuple[float, float]:
    """Seconds until the first picture, and bytes of script; nothing is kept from before."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.add_cookies(cookies)
    page = context.new_page()
    page.goto(address + path, wait_until="commit")
    milliseconds, script = page.evaluate(_FIRST_PICTURE)
    context.close()
    return milliseconds / 1e3, script


def _empty(browser: Any, address: str) -> float:
    """Seconds until a page without script or style is there: what the browser and the server need for themselves."""
    page = browser.new_page()
    page.goto(f"{address}/robots.txt")
    seconds = page.evaluate("performance.getEntriesByType('navigation')[0].duration") / 1e3
    page.close()
    return float(seconds)


def run() -> bool:
    """Print both figures for both projects; whether they are as wanted. Needs Chromium."""
    from playwright.sync_api import sync_playwright

    good = True
    with running() as studio, sync_playwright() as play:
        ferry = studio.home / "saltmarsh_ferry"
        write_project_folder("saltmarsh_ferry", ferry)
        of_demo = ((str(one.relative_to(ferry)), one.read_bytes()) for one in sorted(ferry.rglob("*")) if one.is_file())
        slugs = {
            "the demo's folder": _project(studio, "Demo", of_demo, 10),
            f"{_SETS} sets": _project(studio, "Many", _pictures(_SETS), _SETS),
        }
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=[*_ARGUMENTS])
        cookies = _signed_in(browser, studio)
        empty = statistics.median(_empty(browser, studio.address) for _ in range(_ROUNDS))
        for name, slug in slugs.items():
            rounds = [_opened(browser, studio.address, cookies, f"/p/{slug}/sets") for _ in range(_ROUNDS)]
            seconds, script = statistics.median(one[0] for one in rounds), rounds[0][1]
            quick = seconds <= _SECONDS and 0 < script <= _SCRIPT_BYTES
            good &= quick
            print(
                f"{name}: first picture after {seconds:.2f} s ({seconds / empty:.0f} times an empty page's), "
                f"{script / 1e3:.0f} kB of script before it{'' if quick else '; more than wanted'}",
                flush=True,
            )
        browser.close()
    return good
