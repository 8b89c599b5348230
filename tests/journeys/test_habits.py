"""A folder whose habit nobody knows: seen, taught in two lines, undone, delivered to two targets."""

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, judged, serious_axe_findings, taken_in
from tests.surfaces_small import SURFACE_NAMES, map_of
from texel.files import write
from texel.roles import Role

pytestmark = pytest.mark.filterwarnings("ignore")
SUFFIXES = {"_qa": Role.BASE_COLOR, "_qb": Role.NORMAL, "_qc": Role.ROUGHNESS, "_qd": Role.HEIGHT}
STEMS = ("quay_wall", "net_floats", "oar_rack")


@pytest.fixture
def folder(tmp_path):
    root = tmp_path / "harbour"
    root.mkdir()
    for at, stem in enumerate(STEMS):
        for word, role in SUFFIXES.items():
            write(map_of(role, SURFACE_NAMES[at]), root / f"{stem}{word}.png")
    return root


def teach(page, suffix, meaning):
    page.locator(f'tr[data-suffix="{suffix}"]').get_by_role("combobox").click()
    page.get_by_role("option", name=meaning, exact=True).click()
    expect(page.locator(f'tr[data-suffix="{suffix}"]').get_by_text("taught", exact=True)).to_be_visible()


def delivered(page, number, target):
    choose(page, "Target", target)
    page.get_by_role("button", name="Deliver 3 sets").click()
    expect(page.locator(f"[data-delivery='{number}'][data-state=done]")).to_be_visible()


def test_a_habit_nobody_knows_is_taught_in_two_lines(ada, folder):
    page = ada
    slug = taken_in(page, "Harbour", folder, 3)
    expect(page.get_by_label("Undecided files")).to_contain_text("_qc")

    page.get_by_role("link", name="File names").click()
    normal = page.locator('tr[data-suffix="qb"]')
    expect(normal).to_contain_text("hold vectors")
    expect(normal.locator("img")).to_have_count(3)
    assert serious_axe_findings(page) == []
    teach(page, "qc", "Roughness")
    teach(page, "qd", "Height")
    expect(page.get_by_text("Every suffix is sure or taught")).to_be_visible()

    page.get_by_role("link", name="Sets", exact=True).click()
    judged(page, 3)
    expect(page.get_by_label("Undecided files")).to_contain_text("Undecided (0)")
    for stem in STEMS:
        expect(page.locator(f'[data-set="{stem}"] [data-role="height"] img')).to_be_visible()

    # One step back takes the second lesson from all its files, one forward gives it again.
    page.keyboard.press("z")
    expect(page.get_by_label("Undecided files")).to_contain_text("Undecided (3)")
    page.keyboard.press("Shift+Z")
    expect(page.get_by_label("Undecided files")).to_contain_text("Undecided (0)")

    page.goto(page.url.split("/p/")[0] + f"/p/{slug}/deliveries")
    delivered(page, 1, "Occlusion-roughness-metallic, normals Y-")
    delivered(page, 2, "Metallic, roughness, occlusion and gloss in one, normals Y+")


def test_undecided_files_are_decided_together_where_they_lie(ada, folder):
    page = ada
    taken_in(page, "Harbour tray", folder, 3)
    group = page.locator('li[data-suffix="_qc"]')
    expect(group).to_contain_text("3 files")
    group.get_by_role("combobox").click()
    page.get_by_role("option", name="Roughness", exact=True).click()
    expect(group).to_have_count(0)
    for stem in STEMS:
        expect(page.locator(f'[data-set="{stem}"] [data-role="roughness"] img')).to_be_visible()
