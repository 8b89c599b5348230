"""A model through the real page: taken in, slots filled, the forgotten one found, exported again, delivered.

The mesh is two flat squares and a third that somebody forgot; what is delivered is read back by pygltflib.
"""

import re

import pygltflib
from playwright.sync_api import expect

from tests.journeys.conftest import box_of, choose, serious_axe_findings, taken_in, wait_for
from tests.meshes import glb, quad
from tests.pictures import simple_set

BOAT = (
    quad(part="hull", slot="M_planks", metres=4), quad(part="coil", slot="M_rope", at=4),
    quad(part="bench", slot="lambert2", at=5),
)  # fmt: skip


def drawn(page) -> None:
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()


def slot(page, key: str):
    return page.locator(f"[data-test='slot {key}']")


def test_a_model_gets_its_materials_and_is_delivered(live, ada, tmp_path):
    page = ada
    for number, name in enumerate(("planks", "rope")):
        simple_set(tmp_path / "in", name, seed=number)
    taken_in(page, "Boats", tmp_path / "in", 2)
    page.get_by_role("link", name="Models").click()
    expect(page.get_by_text("No model yet")).to_be_visible()

    # What cannot be read says what to export instead.
    (tmp_path / "boat.fbx").write_bytes(b"Kaydara")
    page.locator("[data-test=model]").set_input_files(tmp_path / "boat.fbx")
    expect(page.get_by_text(re.compile("export glTF"))).to_be_visible()

    (tmp_path / "boat.glb").write_bytes(glb(*BOAT))
    page.locator("[data-test=model]").set_input_files(tmp_path / "boat.glb")
    drawn(page)
    expect(page.get_by_text("3 slots wear nothing")).to_be_visible()
    assert serious_axe_findings(page) == []

    # Names fill what they can; the forgotten slot stays, and says so.
    page.get_by_role("button", name="Take 2 proposals").click()
    expect(page.get_by_text("1 slot wears nothing")).to_be_visible()
    expect(slot(page, "M_planks").get_by_role("combobox")).to_have_text("planks")

    # A click on the mesh chooses what lies there.
    drawn(page)
    box = box_of(page.locator(".frame canvas"))
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(page.locator("[data-chosen=true]")).to_have_count(1)

    # The plan leaves it out, with the reason, until the slot is filled.
    page.get_by_role("link", name="Deliveries").click()
    page.get_by_role("region", name="Models to deliver").get_by_label("boat").check()
    expect(page.get_by_text("the slot lambert2 wears nothing")).to_be_visible()
    page.go_back()
    drawn(page)
    choose(slot(page, "lambert2"), "What lambert2 wears", "planks")
    expect(page.get_by_text("every slot is filled")).to_be_visible()
    expect(slot(page, "lambert2").get_by_text("The same as on M_planks")).to_be_visible()

    # Density is told, and mended by a new export at another scale.
    expect(page.get_by_text(re.compile("the house wants 512")).first).to_be_visible()
    small = [quad(part=one.part, slot=one.slot, metres=0.125, at=at) for at, one in enumerate(BOAT)]
    (tmp_path / "boat.glb").write_bytes(glb(*small))
    page.locator("[data-test=again]").set_input_files(tmp_path / "boat.glb")
    expect(page.get_by_text("Version 2, ada")).to_be_visible()
    expect(page.get_by_text(re.compile("the house wants 512"))).to_have_count(0)
    expect(page.get_by_text("every slot is filled")).to_be_visible()

    page.get_by_role("link", name="Deliveries").click()
    expect(page.get_by_text("glTF 2.0, its maps inside")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Deliver 2 sets, 1 model")).click()
    place = live.home / "deliveries"
    written = wait_for(lambda: next(iter(place.glob("boats/**/models/boat.glb")), None), what="the model")
    read = pygltflib.GLTF2.load_from_bytes(written.read_bytes())
    assert [one.name for one in read.materials] == ["M_planks", "M_rope", "lambert2"]
    assert all(one.pbrMetallicRoughness.baseColorTexture for one in read.materials)


def test_a_shared_slot_is_split_and_that_is_undone(live, ada, tmp_path):
    page = ada
    simple_set(tmp_path / "in", "cloth")
    taken_in(page, "Clothes", tmp_path / "in", 1)
    page.get_by_role("link", name="Models").click()
    (tmp_path / "doll.glb").write_bytes(glb(quad(part="shirt", slot="cloth"), quad(part="boot", slot="cloth", at=1.5)))
    page.locator("[data-test=model]").set_input_files(tmp_path / "doll.glb")
    drawn(page)
    page.keyboard.press("a")
    expect(page.get_by_text("every slot is filled")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.get_by_role("button", name="Give boot a slot of its own").click()
    expect(slot(page, "cloth (boot)")).to_be_visible()
    expect(slot(page, "cloth (boot)").get_by_role("combobox")).to_have_text("cloth")
    page.keyboard.press("z")
    expect(slot(page, "cloth (boot)")).to_have_count(0)
    expect(page.get_by_text("every slot is filled")).to_be_visible()
