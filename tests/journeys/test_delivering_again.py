"""Delivering again and again through the real page: into a folder, what changed alone, drift, the mirror, and back."""

import json
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, serious_axe_findings, taken_in, wait_for
from tests.pictures import random_texels, save, simple_set
from texel.delivery import builtin_targets
from texel.mirror import builtin_mirrors

pytestmark = pytest.mark.filterwarnings("ignore")


def lying(root: Path) -> dict[str, bytes]:
    files = [one for one in root.rglob("*") if one.is_file() and ".fair-texel" not in one.parts]
    return {one.relative_to(root).as_posix(): one.read_bytes() for one in files}


def invert_roughness(page, live, slug, name):
    """What somebody does on another page meanwhile."""
    base = f"{live.address}/api/projects/{slug}"
    rows = page.request.get(f"{base}/sets").json()["sets"]
    maps = next(one for one in rows if one["name"] == name)["maps"]
    pk = next(one["id"] for one in maps if one["role"] == "roughness")
    cookies = {one["name"]: one["value"] for one in page.context.cookies()}
    answer = page.request.put(
        f"{base}/maps/{pk}/recipe", data={"recipe": [{"step": "invert"}]},
        headers={"X-CSRFToken": cookies["csrftoken"], "Referer": live.address},
    )  # fmt: skip
    assert answer.ok, answer.text()


def put_rule(page, live, slug, kind, document, name=None):
    cookies = {one["name"]: one["value"] for one in page.context.cookies()}
    answer = page.request.put(
        f"{live.address}/api/projects/{slug}/rules/{kind}/{name or document['name']}", data=document,
        headers={"X-CSRFToken": cookies["csrftoken"], "Referer": live.address},
    )  # fmt: skip
    assert answer.ok, answer.text()


def holds(page, number):
    return page.locator(f"[data-destination='Art folder'][data-holds='{number}']")


def test_a_folder_is_kept_in_step_and_what_others_do_there_is_seen(live, ada, tmp_path):
    page = ada
    for seed, name in enumerate(("deck", "hull"), 3):
        simple_set(tmp_path / "in", name, seed=seed)
    slug = taken_in(page, "Again", tmp_path / "in", 2)

    # A place is named, and the first delivery brought to it.
    page.get_by_role("link", name="Deliveries").click()
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_label("Name", exact=True).fill("Art folder")
    page.get_by_label("Place", exact=True).fill("again/art")
    page.get_by_role("dialog").get_by_role("button", name="Add", exact=True).click()
    place = page.locator("[data-destination='Art folder']")
    expect(place).to_contain_text("Nothing lies there yet")
    root = Path(place.locator(".path").inner_text())
    place.get_by_role("checkbox").check()
    page.locator("[data-test=deliver]").click()
    expect(holds(page, 1)).to_be_visible()
    first = lying(root)
    assert "deck/deck_orm.png" in first
    assert serious_axe_findings(page) == []

    # One map changes: the plan says which file and why, and nothing else is written.
    written = (root / "hull/hull_orm.png").stat().st_mtime_ns
    invert_roughness(page, live, slug, "deck")
    deck = page.locator("[data-plan=deck]")
    expect(deck).to_have_attribute("data-status", "changed")
    deck.get_by_role("button", name="deck").click()
    expect(deck.locator("[data-test=why]")).to_have_text("other steps")
    page.locator("[data-test=deliver]").click()
    expect(holds(page, 2)).to_be_visible()
    second = lying(root)
    assert {path for path in first if first[path] != second[path] and "/" in path} == {"deck/deck_orm.png"}
    assert (root / "hull/hull_orm.png").stat().st_mtime_ns == written

    # Somebody edits the destination: seen beside what we delivered, and chosen about.
    save(root / "deck/deck_orm.png", random_texels("rgb", width=64, height=64, seed=9))
    place.get_by_role("button", name="Drift").click()
    changed = page.locator("[data-file='deck/deck_orm.png']")
    expect(changed).to_contain_text("Changed by others")
    for image in changed.locator("img").all():
        assert image.evaluate("async (one) => { await one.decode(); return one.naturalWidth }") > 0
    bring = page.get_by_role("button", name="Bring delivery #2")
    expect(bring).to_be_disabled()
    assert serious_axe_findings(page) == []
    changed.get_by_role("button", name="Overwrite").click()
    bring.click()
    expect(page.get_by_role("heading", name="What will be written")).to_be_visible()
    wait_for(lambda: lying(root) == second, what="the delivered file written over theirs")
    expect(holds(page, 2)).to_contain_text("Holds #2, the newest")

    # The former delivery is brought back, in place.
    choose(page.locator("[data-delivery='1']"), "Bring to", "Art folder")
    expect(holds(page, 1)).to_contain_text("Holds #1, the newest is #2")
    assert lying(root) == first
    choose(page.locator("[data-delivery='2']"), "Compare with", "#1")
    expect(page.locator("[data-file='deck/deck_orm.png']")).to_contain_text("Changed: other steps")


def test_the_mirror_finds_what_the_engine_would_read_wrongly(live, ada, tmp_path):
    page = ada
    simple_set(tmp_path / "in", "deck", seed=3)
    slug = taken_in(page, "Mirror", tmp_path / "in", 1)
    put_rule(page, live, slug, "mirror", builtin_mirrors()["all-colour"] | {"name": "ours", "title": "Our engine"})
    target = json.loads(json.dumps(builtin_targets()["orm-y-plus"])) | {"name": "for-ours", "mirror": "ours"}
    put_rule(page, live, slug, "target", target | {"title": "For our engine"})
    page.get_by_role("link", name="Deliveries").click()
    choose(page, "Target", "For our engine")
    page.locator("[data-test=deliver]").click()
    page.locator("[data-delivery='1'] [data-test=mirror]").click()
    expect(page.locator("[data-test=mirror-summary]")).to_contain_text(
        "2 files are read otherwise than meant by: Our engine"
    )
    packed = page.locator("[data-file='deck/deck_orm.png']")
    expect(packed).to_contain_text("Data is decoded as sRGB colour")
    expect(packed.locator("img")).to_have_count(2)
    assert serious_axe_findings(page) == []
    packed.get_by_role("button", name="See on a surface").click()
    expect(page.locator(".surface .frame[data-ready=true]")).to_be_visible()
    expect(page.get_by_role("dialog")).to_contain_text("Everything is too glossy, as if wet")
