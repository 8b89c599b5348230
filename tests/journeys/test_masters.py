"""Masters in the real browser: a sheet from nothing, casts, a new version, its impact, undo; a slot filled wrongly."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import choose, give, serious_axe_findings, taken_in
from tests.pictures import simple_set
from texel.materials.exchange import read_gltf, read_material


@pytest.fixture
def ground(tmp_path):
    """Two small sets: what is tested here does not depend on their pictures."""
    simple_set(tmp_path / "ground", "tidal-mud")
    simple_set(tmp_path / "ground", "slate-pier", seed=40)
    return tmp_path / "ground"


def surface_ready(page) -> None:
    expect(page.locator("[data-ready=true]")).to_be_visible()


def begin(page, title: str) -> None:
    page.keyboard.press("Shift+M")
    page.get_by_role("button", name="New master").click()
    page.get_by_label("Title of the master").fill(title)
    page.get_by_role("button", name="Make", exact=True).click()


def published(page, title: str) -> None:
    """A new master as it begins, published."""
    begin(page, title)
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()


def materials(page):
    return page.get_by_label("Materials of the project")


def open_material(page, name: str) -> None:
    materials(page).locator(".node").get_by_text(name, exact=True).click()


def derive(page, name: str) -> None:
    page.get_by_role("button", name="New cast", exact=True).first.click()
    page.get_by_label("Name of the cast").fill(name)
    page.get_by_role("button", name="Make", exact=True).click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def test_a_master_from_nothing_three_casts_a_new_version_and_back(live, ada, ground):
    page = ada
    taken_in(page, "Masters", ground, 2)
    begin(page, "Marsh Floor")
    expect(page.locator("[data-test=cost]")).to_contain_text("3 texture reads")
    surface_ready(page)
    # A row is written as an expression; what is wrong is said at its place, then put right.
    page.get_by_role("button", name="Edit Roughness").click()
    text = page.get_by_label("Expression of Roughness")
    text.fill("pack.g * (")
    text.press("Enter")
    expect(page.locator('[data-row="roughness"] [role=alert]')).to_contain_text("missing or too much")
    text.fill("pack.g * 1.5")
    text.press("Enter")
    row = page.locator('[data-row="roughness"]')
    expect(row.locator("[data-remark=leaves_range]")).to_be_visible()
    row.get_by_role("button", name="Change to clamp(pack.g * 1.5, 0, 1)").click()
    expect(row.locator("[data-remark]")).to_have_count(0)
    # The same row step by step.
    choose(page, "Add a step", "Power")
    expect(text).to_have_value("power(clamp(pack.g * 1.5, 0, 1), 1)")
    assert serious_axe_findings(page) == []
    page.get_by_label("What is new").fill("First")
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()

    derive(page, "Mud")
    choose(page, "Fill slots from a set", "tidal-mud")
    expect(page.get_by_role("img", name="Map in Colour")).to_be_visible()
    surface_ready(page)
    drawn = page.locator("[data-drawn]")
    before = int(drawn.get_attribute("data-drawn"))
    page.get_by_role("slider", name="Relief").press("ArrowRight")
    page.wait_for_function("n => Number(document.querySelector('[data-drawn]').dataset.drawn) > n", arg=before)
    give(page, "Relief, number", 2.5)
    expect(page.get_by_role("button", name="Reset Relief")).to_be_visible()
    derive(page, "Mud, dark")
    expect(page.locator('[data-parameter="bump"]')).to_contain_text("inherited")
    open_material(page, "Marsh Floor")
    derive(page, "Reeds")
    assert serious_axe_findings(page) == []

    open_material(page, "Marsh Floor")
    page.locator(".p-panel", has_text="3 slots, 3 parameters").get_by_role("button").first.click()
    give(page, "Name of parameter 3", "lift")
    expect(page.get_by_role("alert").first).to_contain_text("there is no bump")
    page.get_by_role("button", name="Edit Normal").click()
    page.get_by_label("Expression of Normal").fill("strengthen(bumps, lift)")
    with page.expect_response(lambda one: "/draft" in one.url and one.request.method == "PUT"):
        page.get_by_label("Expression of Normal").press("Enter")
    page.get_by_role("button", name="Publish").click()
    expect(materials(page)).to_contain_text("Update available: 2.0.0")
    materials(page).get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Update to 2.0.0").click()
    update = page.get_by_label("Update", exact=True)
    expect(update).to_contain_text("Marsh Floor has no parameter bump")
    expect(page.locator(".pictures[data-ready=true]")).to_be_visible()
    expect(page.locator(".pictures article")).to_have_count(3)
    expect(page.locator("[data-cast=Mud]").get_by_text("differs by")).to_be_visible()
    page.get_by_role("button", name="Show Mud large, before and after").click()
    surface_ready(page.locator(".large"))
    expect(page.get_by_text("Mud after", exact=True)).to_be_visible()
    page.get_by_role("button", name="Close the large picture").click()
    give(page, "New name of bump", "lift")
    expect(update).not_to_contain_text("no parameter")
    page.get_by_role("button", name="Update 3 casts").click()
    expect(materials(page)).to_contain_text("2.0.0")
    open_material(page, "Mud")
    expect(page.get_by_label("Relief, number")).to_have_value("2.5")
    page.locator("h1").click()
    page.keyboard.press("z")
    expect(materials(page)).to_contain_text("1.0.0")


def test_a_slot_filled_wrongly_is_found_and_the_remedy_mends_it(live, ada, ground):
    page = ada
    taken_in(page, "Filled wrongly", ground, 2)
    published(page, "Dull")
    derive(page, "Slate")
    choose(page, "Fill slots from a set", "slate-pier")
    choose(page, "Map for Colour", "Its roughness map")
    slot = page.locator('[data-slot="colour"]')
    expect(slot.locator("[data-remark=wrong_role]")).to_contain_text("is fed with roughness")
    expect(slot.locator("[data-remark=wrong_colour_space]")).to_contain_text("0.5 is read as 0.21")
    expect(materials(page).get_by_title("error")).to_be_visible()
    slot.get_by_role("button", name="Use the set's base colour").click()
    expect(slot.locator("[data-remark]")).to_have_count(0)
    # The wet look is recognised among small pictures of this surface, and its cure is told.
    surface_ready(page)
    page.get_by_role("button", name="Compare", exact=True).click()
    page.get_by_role("button", name="Identify a problem").click()
    guide = page.get_by_role("group", name="Identify a problem")
    expect(guide.get_by_role("button")).to_have_count(7)
    guide.locator("[data-symptom=data_as_srgb]").click()
    expect(page.locator("[data-test=symptom]")).to_contain_text("Mark the texture as linear")
    expect(page.get_by_text("read correctly", exact=True).first).to_be_visible()
    choose(page, "Misread", "Read correctly")
    # Two casts become a stack: a layered master, as a draft.
    derive(page, "Slate, again")
    materials(page).get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Compare casts").click()
    table = page.get_by_label("Compare casts")
    expect(table).to_contain_text("Casts of Dull")
    page.get_by_label("Select Slate", exact=True).check()
    page.get_by_label("Select Slate, again").check()
    choose(table, "Parameter to set", "Relief")
    give(page, "Relief, number", 3)
    page.get_by_label("Show identical values").check()
    expect(table.get_by_role("row", name="Relief 3 3")).to_be_visible()
    assert serious_axe_findings(page) == []
    table.get_by_role("link", name="Slate, again").click()
    choose(page, "Stack under another cast", "Slate")
    expect(page.get_by_role("heading", name="Slate over Slate, again")).to_be_visible()
    choose(page, "Where Slate lies", "where the vertex colour has green")
    page.get_by_role("button", name="Show all").click()
    expect(page.locator('[data-row="second_painted"]')).to_contain_text("vertex.g")
    surface_ready(page)
    assert serious_axe_findings(page) == []


_CRATE = """
v -1 0 -1\nv 1 0 -1\nv 1 0 1\nv -1 0 1\nv 0 1 0
vt 0 0\nvt 1 0\nvt 0 1
usemtl planks\nf 1/1 2/2 5/3\nf 2/1 3/2 5/3
usemtl lid\nf 3/1 4/2 5/3\nf 4/1 1/2 5/3
"""


def test_casts_are_written_and_read_again_and_an_own_mesh_shows_them(live, ada, tmp_path):
    page = ada
    simple_set(tmp_path / "in", "crate")
    taken_in(page, "Written", tmp_path / "in", 1)
    published(page, "Planks")
    derive(page, "Crate")
    choose(page, "Fill slots from a set", "crate")
    expect(page.get_by_role("img", name="Map in Colour")).to_be_visible()
    surface_ready(page)
    # A slot of the mesh without a cast is told beside it, until it gets one.
    mesh = tmp_path / "crate.obj"
    mesh.write_text(_CRATE)
    page.locator("[data-test=mesh]").set_input_files(mesh)
    slots = page.get_by_role("group", name="Material slots of crate.obj")
    expect(slots.locator(".warning")).to_have_text(re.compile("lid"))
    choose(page, "Cast of slot lid", "This material")
    expect(slots.locator(".warning")).to_have_count(0)
    (tmp_path / "bad.obj").write_text("nothing")
    page.locator("[data-test=mesh]").set_input_files(tmp_path / "bad.obj")
    expect(page.get_by_text("bad.obj: there is no mesh in it")).to_be_visible()
    page.get_by_role("button", name="Back to shapes").click()
    assert serious_axe_findings(page) == []

    page.locator("h1").click()
    page.keyboard.press("w")
    page.get_by_role("radio", name="glTF 2.0").check()
    choose(page, "Size in texels", "256")
    page.get_by_role("button", name="Export 1 cast").click()
    with page.expect_download() as waited:
        page.get_by_role("link", name=re.compile(r"planks\.glb")).click()
    file = tmp_path / "planks.glb"
    file.write_bytes(Path(waited.value.path()).read_bytes())
    assert [one.document["title"] for one in read_gltf(file.read_bytes())] == ["Crate"]
    assert serious_axe_findings(page) == []
    page.locator("[data-test=import]").set_input_files(file)
    expect(page.get_by_text("Everything in it was read.")).to_be_visible()
    page.get_by_role("button", name="Add with its cast").click()
    taken = page.get_by_role("status").filter(has_text="Added, with these casts")
    expect(taken).to_contain_text("no set here holds")
    page.get_by_label("Import from a file").get_by_role("link", name="Crate 2").click()
    expect(page.get_by_role("heading", name="Crate 2")).to_be_visible()
    page.locator("[data-test=import]").set_input_files(file)
    page.get_by_role("button", name="Add to the library").click()
    expect(page.get_by_role("heading", name="Crate")).to_be_visible()
    expect(page.locator('[data-row="roughness"]')).to_contain_text("metallic_roughness.g")


def _library_of(count: int) -> str:
    """Materials of other people, of ten builds, of which two at a time differ by a factor alone; some say what no sheet
    can."""
    body = []
    for at in range(count):
        build, turn = at % 10, at // 10
        name = f"shed_{build}_{turn}"
        file = f'<input name="file" type="filename" value="maps\\{name}.png" />'
        nodes = f'<image name="{name}_map" type="color3">{file}</image>'
        for step in range(build):
            source = f"{name}_map" if step == 0 else f"{name}_{step - 1}"
            nodes += (
                f'<multiply name="{name}_{step}" type="color3"><input name="in1" type="color3" nodename="{source}" />'
                f'<input name="in2" type="color3" value="0.{turn + 1}, 0.5, 0.25" /></multiply>'
            )
        last = f"{name}_{build - 1}" if build else f"{name}_map"
        odd = '<input name="thin_film_thickness" type="float" value="500" />' if turn == 0 else ""
        body.append(
            f'{nodes}<standard_surface name="{name}_s" type="surfaceshader">'
            f'<input name="base_color" type="color3" nodename="{last}" />'
            f'<input name="specular_roughness" type="float" value="0.{turn + 1}" />{odd}</standard_surface>'
            f'<surfacematerial name="{name}" type="material">'
            f'<input name="surfaceshader" type="surfaceshader" nodename="{name}_s" /></surfacematerial>'
        )
    return f'<?xml version="1.0"?><materialx version="1.39" colorspace="lin_rec709">{"".join(body)}</materialx>'


def test_a_library_of_a_hundred_materials_is_read_cast_and_written_again(live, ada, ground, tmp_path):
    page = ada
    taken_in(page, "A library", ground, 2)
    page.keyboard.press("Shift+M")
    file = tmp_path / "sheds.mtlx"
    file.write_text(_library_of(100))
    page.locator("[data-test=import]").set_input_files(file)
    found = page.get_by_label("Import from a file")
    articles = found.locator("article")
    expect(articles).to_have_count(5)
    expect(found).to_contain_text("thin_film_thickness: the sheet's surface has no such input")
    first = articles.nth(0)
    title = first.locator("h3").inner_text()
    first.get_by_role("button", name="Add with its 20 casts").click()
    expect(first.get_by_role("status")).to_contain_text("Added, with these casts:")
    expect(first.get_by_label("Slots left empty").locator("li")).to_have_count(20)
    first.get_by_role("status").get_by_role("link").first.click()
    page.get_by_role("link", name="Export", exact=True).click()
    page.get_by_role("button", name="Export 20 casts").click()
    link = page.locator("[data-export] a").first
    expect(link).to_be_visible()
    with page.expect_download() as download:
        link.click()
    (again,) = read_material(Path(download.value.path()).rename(tmp_path / download.value.suggested_filename))
    assert (again.document["title"], len(again.casts), again.lost) == (title, 20, ())
