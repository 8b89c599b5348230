"""Masters in the real browser: a sheet from nothing, casts, a new version, its impact, undo; a slot fed wrongly."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import serious_axe_findings, taken_in
from tests.pictures import simple_set
from texel.materials.exchange import read_gltf, read_material


@pytest.fixture
def ground(tmp_path):
    """Two small sets: what is tested here does not depend on their pictures."""
    simple_set(tmp_path / "ground", "tidal-mud")
    simple_set(tmp_path / "ground", "slate-pier", seed=40)
    return tmp_path / "ground"


def surface_ready(page) -> None:
    expect(page.locator("[data-ready=true]")).to_be_visible(timeout=90_000)


def published(page, title: str) -> None:
    """A new master as it begins, published."""
    page.keyboard.press("q")
    page.get_by_placeholder("its title").fill(title)
    page.get_by_role("button", name="Begin").click()
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()


def derive(page, name: str) -> None:
    page.get_by_placeholder("its name").fill(name)
    page.get_by_role("button", name="Derive").click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def test_a_master_from_nothing_three_casts_a_new_version_and_back(live, ada, ground):
    page = ada
    taken_in(page, "Masters", ground, 2)
    page.keyboard.press("q")
    page.get_by_placeholder("its title").fill("Marsh Floor")
    page.get_by_role("button", name="Begin").click()
    expect(page.locator("[data-test=cost]")).to_contain_text("3 texture reads")
    surface_ready(page)
    # A row is written as an expression; what is wrong is said at its place, then put right.
    page.locator('[data-row="roughness"] .line').click()
    text = page.get_by_label("Expression of Roughness")
    text.fill("pack.g * (")
    text.press("Enter")
    expect(page.locator('[data-row="roughness"] [role=alert]')).to_contain_text("missing or too much")
    text.fill("pack.g * 1.5")
    text.press("Enter")
    row = page.locator('[data-row="roughness"]')
    expect(row.locator("[data-remark=leaves_range]")).to_be_visible()
    row.get_by_role("button", name="Write clamp(pack.g * 1.5, 0, 1)").click()
    expect(row.locator("[data-remark]")).to_have_count(0)
    # The same row step by step.
    page.get_by_label("Add a step").select_option("power")
    expect(text).to_have_value("power(clamp(pack.g * 1.5, 0, 1), 1)")
    assert serious_axe_findings(page) == []
    page.get_by_label("What is new").fill("First")
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("button", name="1.0.0", exact=True)).to_be_visible()

    derive(page, "Mud")
    page.get_by_label("Fill").select_option("tidal-mud")
    expect(page.get_by_role("img", name="What fills Colour")).to_be_visible()
    surface_ready(page)
    drawn = page.locator("[data-drawn]")
    before = int(drawn.get_attribute("data-drawn"))
    page.get_by_label("Relief", exact=True).evaluate("e => { e.value = 3; e.dispatchEvent(new Event('input')); }")
    page.wait_for_function("n => Number(document.querySelector('[data-drawn]').dataset.drawn) > n", arg=before)
    page.get_by_label("Relief, number").fill("2.5")
    page.get_by_label("Relief, number").press("Tab")
    expect(page.get_by_role("button", name="Put Relief back")).to_be_visible()
    derive(page, "Mud, dark")
    expect(page.locator('[data-parameter="bump"]')).to_contain_text("from above")
    page.get_by_role("link", name="Marsh Floor 1.0.0").click()
    derive(page, "Reeds")
    assert serious_axe_findings(page) == []

    page.get_by_role("link", name="Marsh Floor 1.0.0").click()
    page.get_by_text("3 slots, 3 parameters").click()
    page.get_by_label("Name of parameter 3").fill("lift")
    page.get_by_label("Name of parameter 3").press("Tab")
    expect(page.get_by_role("alert").first).to_contain_text("there is no bump")
    page.locator('[data-row="normal"] .line').click()
    page.get_by_label("Expression of Normal").fill("strengthen(bumps, lift)")
    page.get_by_label("Expression of Normal").press("Enter")
    expect(page.get_by_role("button", name="Publish")).to_be_visible()
    page.wait_for_timeout(900)
    page.get_by_role("button", name="Publish").click()
    page.get_by_role("link", name="2.0.0 waits").click()
    expect(page.get_by_label("Casts touched")).to_contain_text("Marsh Floor has no parameter bump")
    expect(page.locator(".pictures[data-ready=true]")).to_be_visible(timeout=90_000)
    expect(page.locator(".pictures figure")).to_have_count(3)
    expect(page.locator(".pictures figure", has_text=re.compile("^Mud differs by"))).to_be_visible()
    page.get_by_role("button", name="Look at Mud large").click()
    surface_ready(page.locator(".large"))
    expect(page.get_by_text("Mud after", exact=True)).to_be_visible()
    page.get_by_role("button", name="Put the large picture away").click()
    page.get_by_label("bump is now").fill("lift")
    page.get_by_label("bump is now").press("Tab")
    expect(page.get_by_label("Casts touched")).not_to_contain_text("no parameter")
    page.get_by_role("button", name="Update 3 casts").click()
    expect(page.get_by_role("link", name="Marsh Floor 2.0.0")).to_be_visible()
    page.get_by_role("link", name=re.compile(r"^Mud( \w+)?$")).click()
    expect(page.get_by_label("Relief, number")).to_have_value("2.5")
    page.locator("h1").click()
    page.keyboard.press("z")
    expect(page.get_by_role("link", name="Marsh Floor 1.0.0")).to_be_visible()


def test_a_slot_fed_wrongly_is_found_and_the_remedy_cures_it(live, ada, ground):
    page = ada
    taken_in(page, "Fed wrongly", ground, 2)
    published(page, "Dull")
    derive(page, "Slate")
    page.get_by_label("Fill").select_option("slate-pier")
    page.get_by_label("Map for Colour").select_option("roughness")
    slot = page.locator('[data-slot="colour"]')
    expect(slot.locator("[data-remark=wrong_role]")).to_contain_text("is fed with roughness")
    expect(slot.locator("[data-remark=wrong_colour_space]")).to_contain_text("0.5 is read as 0.21")
    expect(page.locator("aside").get_by_title("error")).to_be_visible()
    slot.get_by_role("button", name="Take the set's base colour").click()
    expect(slot.locator("[data-remark]")).to_have_count(0)
    # The wet look is recognised among small pictures of this surface, and its cure is told.
    surface_ready(page)
    page.get_by_role("button", name="What does yours look like?").click()
    guide = page.get_by_role("group", name="What does yours look like?")
    expect(guide.get_by_role("button")).to_have_count(7)
    guide.locator("[data-symptom=data_as_srgb]").click()
    expect(page.locator("[data-test=symptom]")).to_contain_text("Mark the texture as linear")
    expect(page.get_by_text("read rightly", exact=True).first).to_be_visible()
    page.get_by_label("Misread").select_option("")
    # Two casts become a stack: a layered master, as a draft.
    derive(page, "Slate, again")
    page.get_by_role("link", name="compare").click()
    table = page.get_by_label("Compare casts")
    expect(table).to_contain_text("Casts of Dull")
    page.get_by_label("Tick Slate", exact=True).check()
    page.get_by_label("Tick Slate, again").check()
    table.get_by_role("combobox").first.select_option(label="Relief")
    page.get_by_label("Relief, number").fill("3")
    page.get_by_label("Relief, number").press("Tab")
    page.get_by_label("also what is alike").check()
    expect(table.get_by_role("row", name="Relief 3 3")).to_be_visible()
    assert serious_axe_findings(page) == []
    page.get_by_role("link", name="Slate, again").first.click()
    page.get_by_label("Stack under another cast").select_option("Slate")
    expect(page.get_by_role("heading", name="Slate over Slate, again")).to_be_visible()
    page.get_by_label("Where Slate lies").select_option("green")
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


def test_casts_are_written_and_read_again_and_an_own_mesh_wears_them(live, ada, tmp_path):
    page = ada
    simple_set(tmp_path / "in", "crate")
    taken_in(page, "Written", tmp_path / "in", 1)
    published(page, "Planks")
    derive(page, "Crate")
    page.get_by_label("Fill").select_option("crate")
    expect(page.get_by_role("img", name="What fills Colour")).to_be_visible()
    surface_ready(page)
    # A slot of the mesh without a cast is told beside it, until it gets one.
    mesh = tmp_path / "crate.obj"
    mesh.write_text(_CRATE)
    page.get_by_label("Own mesh, OBJ or glTF").set_input_files(mesh)
    slots = page.get_by_role("group", name="Material slots of crate.obj")
    expect(slots.locator(".bare")).to_have_text(re.compile("lid"))
    page.get_by_label("Cast of slot lid").select_option("what is in hand")
    expect(slots.locator(".bare")).to_have_count(0)
    (tmp_path / "bad.obj").write_text("nothing")
    page.get_by_label("Own mesh, OBJ or glTF").set_input_files(tmp_path / "bad.obj")
    expect(page.get_by_text("bad.obj: there is no mesh in it")).to_be_visible()
    page.get_by_role("button", name="Back to shapes").click()
    assert serious_axe_findings(page) == []

    page.locator("h1").click()
    page.keyboard.press("w")
    page.get_by_role("radio", name="glTF 2.0").check()
    page.get_by_label("Texels a side").select_option("256")
    page.get_by_role("button", name="Write 1 cast").click()
    with page.expect_download(timeout=60_000) as waited:
        page.get_by_role("link", name=re.compile(r"planks\.glb")).click()
    file = tmp_path / "planks.glb"
    file.write_bytes(Path(waited.value.path()).read_bytes())
    assert [one.document["title"] for one in read_gltf(file.read_bytes())] == ["Crate"]
    assert serious_axe_findings(page) == []
    page.get_by_label("Read a master from a file").set_input_files(file)
    expect(page.get_by_text("All of it can be said in a sheet.")).to_be_visible()
    page.get_by_role("button", name="… with its cast").click()
    taken = page.get_by_role("status").filter(has_text="In the library, and cast")
    expect(taken).to_contain_text("no set here holds")
    page.get_by_label("Read from a file").get_by_role("link", name="Crate 2").click()
    expect(page.get_by_role("heading", name="Crate 2")).to_be_visible()
    page.get_by_label("Read a master from a file").set_input_files(file)
    page.get_by_role("button", name="Put into the library").click()
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
        odd = '<input name="transmission" type="float" value="0.5" />' if turn == 0 else ""
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
    page.keyboard.press("q")
    file = tmp_path / "sheds.mtlx"
    file.write_text(_library_of(100))
    page.get_by_label("Read a master from a file").set_input_files(file)
    found = page.get_by_label("Read from a file")
    articles = found.locator("article")
    expect(articles).to_have_count(5, timeout=90_000)
    expect(found).to_contain_text("transmission: the sheet's surface has no such input")
    first = articles.nth(0)
    title = first.locator("h2").inner_text()
    first.get_by_role("button", name="… with its 20 casts").click()
    expect(first.get_by_role("status")).to_contain_text("In the library, and cast:", timeout=60_000)
    expect(first.get_by_label("Not filled").locator("li")).to_have_count(20)
    first.get_by_role("status").get_by_role("link").first.click()
    page.get_by_role("link", name="Write", exact=True).click()
    expect(page.get_by_role("button", name="Write 20 casts")).to_be_visible()
    page.get_by_role("button", name="Write 20 casts").click()
    link = page.locator("[data-export] a").first
    expect(link).to_be_visible(timeout=90_000)
    with page.expect_download() as download:
        link.click()
    (again,) = read_material(Path(download.value.path()).rename(tmp_path / download.value.suggested_filename))
    assert (again.document["title"], len(again.casts), again.lost) == (title, 20, ())
