"""From an untidy folder to a delivered set, through the real page; and the same bytes from the command line."""

import io
import json
import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import (
    box_of,
    choose,
    drop_folder,
    give,
    judged,
    serious_axe_findings,
    start_project,
    taken_in,
    wait_for,
)
from texel.cli import main

pytestmark = pytest.mark.filterwarnings("ignore")


@pytest.fixture(scope="session")
def untidy(demo_folders):
    return demo_folders / "saltmarsh_ferry"


LIT_AND_SUM_OF_HALVES = """(canvas) => {
  const copy = document.createElement("canvas");
  [copy.width, copy.height] = [canvas.width, canvas.height];
  const context = copy.getContext("2d");
  context.drawImage(canvas, 0, 0);
  const half = Math.floor(canvas.width / 2);
  return [0, half].map((left) => {
    const { data } = context.getImageData(left, 0, half, canvas.height);
    let lit = 0, sum = 0;
    for (let at = 0; at < data.length; at += 4) {
      if (data[at + 3]) { lit++; sum += data[at] + data[at + 1] + data[at + 2]; }
    }
    return [lit, sum];
  });
}"""


def row(page, name):
    return page.locator(f'[data-set="{name}"]')


def test_from_an_untidy_folder_to_a_delivered_set(live, ada, untidy, tmp_path):
    page = ada
    slug = start_project(page, "First light")
    drop_folder(page, untidy)
    expect(page.get_by_text("files taken.")).to_be_visible()
    page.get_by_role("link", name="See the sets").click()
    judged(page, 10)

    # What is wrong is seen at a glance.
    expect(row(page, "reed_bed").locator('[data-role="normal"]')).to_contain_text("missing")
    expect(row(page, "mooring_rope")).to_contain_text("1 error")
    expect(page.get_by_label("Undecided files")).to_contain_text("IMG_2041.jpg")
    assert serious_axe_findings(page) == []

    # The page of one set: the finding, its remedy tried and applied, undone and done again.
    page.get_by_role("button", name="mooring_rope", exact=True).click()
    finding = page.locator('[data-check="direction_against_name"]')
    expect(finding).to_contain_text("The name says Y+, the pixels say Y-")
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    assert serious_axe_findings(page) == []
    finding.get_by_role("button", name="Flip green").click()
    expect(page.locator("[data-test=tried]")).to_be_visible()
    page.keyboard.press("Enter")
    expect(finding).to_have_count(0)
    expect(page.get_by_text("No findings.")).to_be_visible()
    expect(page.get_by_label("Steps", exact=True)).to_contain_text("Flip green")
    page.keyboard.press("z")
    expect(finding).to_be_visible(timeout=30_000)
    page.keyboard.press("Shift+Z")
    expect(finding).to_have_count(0)

    # What is packed, channel by channel beside its sources.
    board = page.get_by_label("Channel board")
    expect(board.locator("[data-channel=g]")).to_contain_text("Roughness")
    expect(board.locator("[data-channel=b]")).to_contain_text("constant 0")
    for image in board.locator("img").all():
        assert image.evaluate("async (one) => { await one.decode(); return one.naturalWidth }") > 0

    # Delivered, followed, and downloaded.
    page.keyboard.press("Shift+D")
    rope = page.locator("[data-plan=mooring_rope]")
    expect(rope).to_have_attribute("data-status", "new")
    rope.get_by_role("button", name="mooring_rope").click()
    expect(rope).to_contain_text("mooring_rope/mooring_rope_orm.png")
    page.get_by_role("button", name="Deliver 9 sets").click()
    done = page.locator("[data-delivery='1'][data-state=done]")
    expect(done).to_be_visible(timeout=90_000)
    expect(page.locator("[data-plan][data-status=unchanged]")).to_have_count(9)
    with page.expect_download() as download:
        done.get_by_role("link", name="Download zip").click()
    archive = zipfile.ZipFile(io.BytesIO(Path(download.value.path()).read_bytes()))
    from_page = {name: archive.read(name) for name in archive.namelist()}

    # The same from the command line, for the same input: the sets document says what a person changed.
    sets = page.request.get(f"{live.address}/api/projects/{slug}/sets.json").json()
    sets["sets"] = [one for one in sets["sets"] if one["name"] != "BrassBell"]  # left out for its error
    (tmp_path / "sets.json").write_text(json.dumps(sets))
    out = tmp_path / "out"
    main(["deliver", str(untidy), "--target", "orm-y-minus", "--sets", str(tmp_path / "sets.json"), "-o", str(out)])
    by_cli = {p.relative_to(out).as_posix(): p.read_bytes() for p in out.rglob("*") if p.is_file()}
    # The studio's report tells of its findings as well.
    reports = {"report.json", "report.html"}
    folder = Path(done.locator(".folder").inner_text())
    kept = {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}
    assert from_page == kept
    assert {path: data for path, data in kept.items() if path not in reports} == {
        path: data for path, data in by_cli.items() if path not in reports
    }


def test_a_set_on_a_surface_and_its_misreadings(live, ada, untidy):
    page = ada
    taken_in(page, "Surface", untidy / "deck", 1)
    page.get_by_role("button", name="deck_tread_plate", exact=True).click()
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    page.keyboard.press("v")
    expect(page.locator(".surface .frame[data-ready=true]")).to_be_visible(timeout=60_000)
    canvas = page.locator(".surface canvas")

    def drawn(shows, what):
        """Wait for a picture whose halves, (lit pixels, sum of their values) each, are as ``shows`` wants them."""
        wait_for(lambda: shows(*canvas.evaluate(LIT_AND_SUM_OF_HALVES)), 60, what, pause=0.3)

    drawn(lambda left, right: left[0] + right[0] > 3_000, "the sphere")
    for label in ("Data was decoded as sRGB colour", "Green points the other way"):
        choose(page, "Compare with", label)
        drawn(
            lambda left, right: left[0] > 1_000 and abs(left[0] - right[0]) < left[0] * 0.05 and left[1] != right[1],
            label,
        )
    # Before any step, beside what the steps made of it.
    page.get_by_role("combobox", name="Compare with").click()
    expect(page.get_by_role("option", name="Before the steps")).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("Base colour")).first.click()
    choose(page, "Add a step", "Levels")
    give(page, "White, number", 0.4)
    page.get_by_role("button", name="Apply").click()
    page.keyboard.press("v")
    choose(page, "Compare with", "Before the steps")
    expect(page.get_by_text("before the steps", exact=True)).to_be_visible(timeout=60_000)
    drawn(lambda before, now: now[1] > before[1] * 1.1, "brighter than before")
    for word in ("Cube", "Plane"):
        choose(page, "Shape", word)
        drawn(lambda left, right: left[0] + right[0] > 1_500, word)


def test_the_sets_by_keyboard_and_by_hand(live, ada, untidy):
    page = ada
    taken_in(page, "Keys", untidy / "props", 2)
    expect(row(page, "BrassBell")).to_contain_text("1 error")

    # Roughness and metallic are exchanged by dragging one onto the other; the error goes.
    bell = row(page, "BrassBell")
    bell.locator('[data-role="roughness"] .print').drag_to(bell.locator('[data-role="metallic"]'))
    expect(bell).to_contain_text("can be delivered")
    page.keyboard.press("z")
    expect(bell).to_contain_text("1 error")

    # The same without the pointer: to the roughness, and Shift+4 makes it metallic.
    page.keyboard.press("ArrowDown")
    page.keyboard.press("3")
    expect(bell.locator(".cell.focused")).to_have_attribute("data-role", "roughness")
    page.keyboard.press("Shift+Digit4")
    expect(bell).to_contain_text("can be delivered")

    # A closer look and back, finding, renaming, taking out, merging.
    page.keyboard.press("Space")
    expect(page.get_by_role("dialog", name=re.compile("BrassBell"))).to_be_visible()
    page.keyboard.press("Space")
    page.keyboard.press("n")
    page.get_by_label("New name").fill("Ship bell")
    page.keyboard.press("Enter")
    expect(row(page, "Ship bell")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("cork")
    expect(page.locator("[data-set]")).to_have_count(1)
    page.get_by_label("Find a set or file").fill("")
    page.locator("h1").first.click()
    page.keyboard.press("Home")
    for name in ("CorkFender", "Ship bell"):
        page.get_by_label(f"Select {name}", exact=True).check()
    page.get_by_role("button", name="Merge").click()
    expect(page.locator("[data-set]")).to_have_count(1)
    page.get_by_role("banner").get_by_role("button", name="Undo").click()
    expect(page.locator("[data-set]")).to_have_count(2)
    page.locator('[data-set="Ship bell"] [data-role="height"]').click()
    page.keyboard.press("x")
    expect(page.get_by_label("Undecided files")).to_contain_text("BrassBellHeight.png")

    # The list of keys is there for everyone.
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("Take the map out of its set")


def test_exact_values_under_the_pointer(live, ada, untidy):
    from texel.files import read

    page = ada
    taken_in(page, "Values", untidy / "deck", 1)
    page.get_by_role("button", name="deck_tread_plate", exact=True).click()
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    page.keyboard.press("6")  # height, 16 bits
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    expect(page.get_by_text("deck_tread_plate_H.png", exact=True)).to_be_visible()
    line = page.locator("[data-test=values]")
    box = box_of(page.locator(".frame canvas"))
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(line).to_contain_text(re.compile(r"Y \d+ "))
    said = re.match(r"(\d+), (\d+)\s+Y (\d+)", line.inner_text())
    x, y, value = (int(part) for part in said.groups())
    assert read(untidy / "deck/deck_tread_plate_H.png").pixels[y, x, 0] == value
    assert value > 255


def test_bad_uploads_are_said_on_the_page(live, ada, tmp_path):
    page = ada
    start_project(page, "Bad input")
    bad = tmp_path / "bad.zip"
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("../up.png", b"x")
    page.locator("[data-test=files]").set_input_files([bad])
    expect(page.get_by_text("points outside its folder")).to_be_visible()
    expect(page.get_by_text("No file was taken")).to_be_visible()
    (tmp_path / "text.png").write_text("hello")
    page.locator("[data-test=files]").set_input_files([tmp_path / "text.png"])
    expect(page.get_by_text("not a picture that can be read")).to_be_visible()


def test_a_set_is_repaired_on_its_page(live, ada, untidy):
    page = ada
    taken_in(page, "Repair", untidy / "ground", 4)

    # A missing map is made from another one, and tuned: the picture follows, nothing is applied until asked.
    page.get_by_role("button", name="reed_bed", exact=True).click()
    missing = page.locator('[data-check="missing_map"]')
    missing.get_by_role("button", name="Make it from height").click()
    expect(missing).to_have_count(0)
    panel = page.get_by_label("Steps", exact=True)
    expect(panel).to_contain_text("Normal from height")
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    before = page.locator(".frame canvas").screenshot()
    page.get_by_role("slider", name="Strength").press("ArrowRight")
    expect(page.locator("[data-test=tried]")).to_be_visible()
    wait_for(lambda: page.locator(".frame canvas").screenshot() != before, what="another picture")
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=tried]")).to_have_count(0)
    give(page, "Strength, number", 24)
    page.get_by_role("button", name="Apply").click()
    expect(page.locator("[data-test=tried]")).to_have_count(0)
    expect(page.get_by_label("Strength, number")).to_have_value("24")
    page.keyboard.press("z")
    expect(page.get_by_label("Strength, number")).to_have_value("8")
    assert serious_axe_findings(page) == []

    # Steps in a height are smoothed by the remedy, compared with the source, and copied to another set.
    page.keyboard.press("Escape")
    page.get_by_role("button", name="tidal-mud", exact=True).click()
    steps = page.locator('[data-check="height_steps"]')
    steps.get_by_role("button", name="Remove banding").click()
    expect(page.locator("[data-test=tried]")).to_be_visible()
    page.keyboard.press("Enter")
    expect(steps).to_have_count(0)
    page.keyboard.press("c")
    expect(page.get_by_text("after: with steps")).to_be_visible()
    page.get_by_role("button", name="Copy steps to other sets").click()
    page.get_by_role("dialog").get_by_role("option", name="reed_bed").click()
    page.get_by_role("button", name="Copy to 1 set").click()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="reed_bed", exact=True).click()
    page.get_by_role("button", name="Height", exact=False).first.click()
    expect(panel).to_contain_text("Remove banding")

    # Looking closely, by keys.
    line = page.locator(".viewer .line")
    for key, said in (("]", "exposure +1"), (".", "gamma 1.25"), ("PageDown", "mip 1")):
        page.keyboard.press(key)
        expect(line).to_contain_text(said)
    levels = page.get_by_label("Mip levels")
    expect(levels.locator("tbody tr").nth(1)).to_have_attribute("aria-current", "true")
    page.keyboard.press("c")
    expect(page.get_by_text("plain averaging")).to_be_visible()
    page.keyboard.press("0")
    expect(line).not_to_contain_text("gamma")
    expect(levels).to_have_count(0)
    page.keyboard.press("s")
    expect(page.get_by_label("Histogram", exact=True).first).to_contain_text("Grey")
    page.keyboard.press("u")
    page.keyboard.press("n")
    expect(page.get_by_role("combobox", name="Tiles along a side")).to_have_text("2")
