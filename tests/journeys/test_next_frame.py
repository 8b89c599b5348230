"""Sliders of every ready-made master in the real browser: what is moved is seen in the next frame."""

import os

from playwright.sync_api import expect

from tests.journeys.conftest import taken_in
from tests.journeys.test_masters import surface_ready
from tests.journeys.test_ready_masters import settled
from tests.pictures import simple_set
from texel.materials.ready import ready_masters

# Frames from the key to the one in which the surface was drawn anew, and whether its picture is another one.
_MOVED = """async ([slider, key]) => {
  const frame = document.querySelector("[data-drawn]");
  const canvas = frame.querySelector("canvas");
  const look = () => {
    const small = new OffscreenCanvas(64, 64).getContext("2d");
    small.drawImage(canvas, 0, 0, 64, 64);
    return small.getImageData(0, 0, 64, 64).data.join();
  };
  const next = () => new Promise(requestAnimationFrame);
  const [drawn, before] = [frame.dataset.drawn, look()];
  const handle = document.querySelectorAll(".margin [role=slider]")[slider];
  handle.dispatchEvent(new KeyboardEvent("keydown", { code: key, key, bubbles: true, cancelable: true }));
  let frames = 0;
  while (frame.dataset.drawn === drawn && frames < 60) { await next(); frames += 1; }
  return { frames, changed: look() !== before };
}"""
# Elsewhere in the page, without loading it anew.
_GO = "path => { history.pushState({}, '', path); dispatchEvent(new PopStateEvent('popstate', { state: {} })); }"
# A master that begins as a ready-made one, published, with a cast that the project's set fills.
_BEGIN = """async ([title, ready]) => {
  const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
  const headers = { "Content-Type": "application/json", "X-CSRFToken": token };
  const post = async (path, body) => {
    const answer = await fetch(`/api${path}`, { method: "POST", headers, body: JSON.stringify(body) });
    if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`);
    return answer.json();
  };
  const { name } = await post("/masters/begin", { title, ready });
  await post(`/masters/${name}/publish`, { note: "" });
  const cast = await post("/projects/cliffs/materials", { name: title, master: name });
  const sets = await (await fetch("/api/projects/cliffs/sets")).json();
  await post(`/projects/cliffs/materials/${cast.id}/fill`, { set: sets.sets[0].id, layer: "" });
  return name;
}"""


def test_a_moved_slider_is_seen_in_the_next_frame(live, ada, tmp_path):
    page = ada
    simple_set(tmp_path / "rock", "slate-cliff")
    taken_in(page, "Cliffs", tmp_path / "rock", 1)
    seen = {}
    # Each takes several seconds without a graphics card; all of them with FAIR_TEXEL_THOROUGH.
    every = 1 if os.environ.get("FAIR_TEXEL_THOROUGH") else 4
    for ready, document in list(ready_masters().items())[::every]:
        name = page.evaluate(_BEGIN, [f"{document['title']} moved", ready])
        page.evaluate(_GO, f"/p/cliffs/materials/master/{name}")
        expect(page.locator(".editor h2")).to_have_text(f"{document['title']} moved")
        surface_ready(page)
        sliders = page.locator(".margin [role=slider]")
        expect(sliders.first).to_be_visible()
        settled(page)
        tried = ((at, key) for at in range(sliders.count()) for key in ("Home", "End"))
        seen[ready] = next((told for one in tried if (told := page.evaluate(_MOVED, list(one)))["changed"]), None)
    # The key comes within one frame; what is drawn in the next is counted then.
    late = {ready: told for ready, told in seen.items() if told is None or told["frames"] > 2}
    assert late == {}
