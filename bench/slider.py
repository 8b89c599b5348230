"""From a moved slider to the changed frame, in the real page: against the same frame drawn anew without any change."""

from __future__ import annotations

import os
import statistics
import tempfile
from pathlib import Path
from typing import Any

from demo.materials import MASTERS

__all__ = ["run"]

_MOVES = 40
# A changed parameter is a number sent to the shader; were it compiled anew, a frame would take many times as long.
_MOST = 2.0

_TIMES = """async ([kind, moves]) => {
  const drawn = document.querySelector("[data-drawn]");
  const slider = document.querySelector("[data-parameter=relief] input[type=range]");
  const canvas = document.querySelector("[data-drawn] canvas");
  const times = [];
  for (let at = 0; at < moves; at++) {
    await new Promise((done) => setTimeout(done, 60));
    const before = drawn.dataset.drawn;
    const start = performance.now();
    if (kind === "slider") {
      slider.value = String(0.5 + (at % 7) * 0.3);
      slider.dispatchEvent(new Event("input", { bubbles: true }));
    } else {
      canvas.dispatchEvent(new WheelEvent("wheel", { deltaY: at % 2 ? 5 : -5, bubbles: true, cancelable: true }));
    }
    while (drawn.dataset.drawn === before) await new Promise((done) => requestAnimationFrame(done));
    await new Promise((done) => requestAnimationFrame(done));
    times.push(performance.now() - start);
  }
  return times;
}"""


def run() -> bool:
    """Print how long a frame takes after a slider moved, in milliseconds and as a ratio to one that only turned."""
    from ground.postgres import ensure_server

    os.environ.setdefault("FAIR_TEXEL_DATABASE", ensure_server())
    from playwright.sync_api import sync_playwright

    from tests.live import BROWSER_ARGS, running

    with tempfile.TemporaryDirectory() as home, running(Path(home)) as live, sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER_ARGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        times = _measure(page, live)
        browser.close()
    ratio = times["slider"][0] / times["wheel"][0]
    for kind, words in (("wheel", "nearer or farther, no parameter changed"), ("slider", "a parameter moved")):
        median, slowest = times[kind]
        print(f"{words}: a frame in {median:.0f} ms, the slowest of {_MOVES} in {slowest:.0f} ms", flush=True)
    verdict = "" if ratio <= _MOST else f"; more than {_MOST}: does it compile anew?"
    print(f"slider to frame against the same frame: {ratio:.2f}{verdict}")
    return ratio <= _MOST


def _measure(page: Any, live: Any) -> dict[str, tuple[float, float]]:
    """Median and slowest of each kind, milliseconds."""
    from tests.live import PASSWORD

    page.goto(live.address)
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_placeholder("Name of a new project").fill("Slider")
    page.get_by_role("button", name="Start project").click()
    page.get_by_role("heading", name="Drop a folder").wait_for()
    base = f"{live.address}/api"
    token = next(one["value"] for one in page.context.cookies() if one["name"] == "csrftoken")
    asked = {"headers": {"X-CSRFToken": token, "Referer": live.address}}

    def post(path: str, body: Any) -> Any:
        answer = page.request.post(f"{base}{path}", data=body, **asked)
        assert answer.ok, answer.text()
        return answer.json()

    post("/masters", MASTERS[0])
    post("/masters/plain-solid/publish", {"note": "First"})
    cast = post("/projects/slider/materials", {"name": "Moved", "master": "plain-solid"})["id"]
    page.goto(f"{live.address}/p/slider/masters/cast/{cast}")
    page.locator("[data-ready=true]").wait_for(timeout=120_000)
    page.wait_for_timeout(3000)
    seconds = {}
    for kind in ("slider", "wheel"):
        page.evaluate(_TIMES, [kind, 5])
        times = page.evaluate(_TIMES, [kind, _MOVES])
        seconds[kind] = (statistics.median(times), max(times))
    return seconds
