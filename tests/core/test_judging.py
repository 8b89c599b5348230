"""Every check on a labelled set: surfaces with one known fault, and the same without; what a finding must say."""

import json
from dataclasses import replace

import numpy as np
import pytest

from bench.labelled import FAULTS, Labelled, MemoryLibrary, clean_sets, faulty_sets
from demo.patterns import noise
from tests.pictures import EIGHT, random_texels, save, simple_set
from texel.checks import CHECKS, Severity, check_sets
from texel.checks.remedy import labelled
from texel.files import write
from texel.image import Texels, narrow
from texel.library import Library
from texel.roles import Role, Transfer
from texel.sets import MapRef, TextureSet
from texel.sorting import sort_files

SURFACES_HERE = ("slate_pier/0", "deck_tread_plate/0")


def judged(one: Labelled):
    found, library = one.parts()
    return check_sets([found], library)


@pytest.fixture(scope="module")
def faulty():
    chosen = [one for one in faulty_sets(256) if one.name in SURFACES_HERE]
    return {(one.name, one.fault): one for one in chosen}


def test_clean_surfaces_raise_no_alarm():
    alarms = {
        one.name: [f.check for f in judged(one) if f.severity is not Severity.NOTE]
        for one in clean_sets(256)
        if one.name.endswith("/0")
    }
    assert len(alarms) == 15
    assert {name: checks for name, checks in alarms.items() if checks} == {}


@pytest.mark.parametrize("fault", FAULTS)
def test_every_fault_is_found_and_explained(faulty, fault):
    tried = [one for (_, name), one in faulty.items() if name == fault]
    assert tried
    for one in tried:
        found = [f for f in judged(one) if f.check == fault.split(" ")[0]]
        assert found, one.name
        for finding in found:
            document = finding.document()
            assert json.loads(json.dumps(document)) == document
            assert document["message"].endswith(".")
            if document["measure"] is not None:
                assert document["threshold"] is not None
            if document["remedy"]:
                assert document["remedy"]["label"][0].isupper()


@pytest.mark.parametrize(
    "fault",
    [
        "direction_against_name", "not_unit_length", "normal_strength", "metallic_mid_grey", "seam",
        "unused_height_range", "tag_against_role", "gloss_as_roughness (by name)", "sizes_differ", "baked_light",
    ],
)  # fmt: skip
def test_the_remedy_mends_what_was_found(faulty, fault):
    one = next(one for (_, name), one in faulty.items() if name == fault)
    found, library = one.parts()
    finding = next(f for f in check_sets([found], library) if f.check == fault.split(" ")[0])
    maps = tuple(
        MapRef(ref.role, ref.file, recipe=(finding.remedy,)) if ref.role is finding.role else ref for ref in found.maps
    )
    again = check_sets([TextureSet("mended", maps)], library)
    assert finding.check not in {f.check for f in again if f.role is finding.role}


@pytest.mark.parametrize(("roughness", "mends"), [(4.0, True), (0.5, False)], ids=["smooth", "rough"])
def test_steps_of_a_smooth_height_are_mended_and_of_a_rough_one_nothing_is_offered(roughness, mends, tmp_path):
    field = noise(128, 3, roughness)
    stepped = np.round((field - field.min()) / np.ptp(field) * 63) / 63
    save(tmp_path / "deck_height.png", Texels(narrow(stepped[:, :, None], EIGHT), "y", Transfer.LINEAR))
    library = Library.of_folder(tmp_path)
    (found,) = sort_files(library, "in").sets
    finding = next(f for f in check_sets([found], library) if f.check == "height_steps")
    assert (finding.remedy is not None) is mends
    if mends:
        (ref,) = found.maps
        mended = TextureSet("mended", (replace(ref, recipe=(finding.remedy,)),))
        assert "height_steps" not in {f.check for f in check_sets([mended], library)}


def test_an_action_mends_what_a_step_cannot(faulty):
    exchanged, library = faulty["deck_tread_plate/0", "roughness_metallic_exchanged"].parts()
    (finding,) = [f for f in check_sets([exchanged], library) if f.severity is Severity.ERROR]
    assert finding.remedy == {"action": "assign", "role": "metallic"}
    assert labelled(finding.remedy)["label"] == "Exchange with metallic"
    missing, library = faulty["slate_pier/0", "missing_map"].parts()
    (finding,) = [f for f in check_sets([missing], library) if f.check == "missing_map"]
    assert (finding.remedy["source"], finding.remedy["role"]) == ("height", "normal")
    source = next(ref for ref in missing.maps if ref.role is Role.HEIGHT)
    made = MapRef(Role.NORMAL, source.file, recipe=tuple(finding.remedy["recipe"]))
    again = check_sets([missing.with_map(made)], library)
    assert [f.check for f in again if f.severity is not Severity.NOTE] == []


def test_opacity_is_named_cut_out_or_blend(tmp_path):
    for soft, word in ((False, "cut-out"), (True, "blend")):
        folder = tmp_path / word
        simple_set(folder, "leaf")
        values = np.random.default_rng(1).random((64, 64), np.float32)
        values = values if soft else (values > 0.5).astype(np.float32)
        write(Texels(narrow(values[:, :, None], EIGHT), "y", Transfer.LINEAR), folder / "leaf_opacity.png")
        library = Library.of_folder(folder)
        refs = [MapRef(Role.OPACITY, "leaf_opacity.png"), MapRef(Role.BASE_COLOR, "leaf_bc.png")]
        (finding,) = [f for f in check_sets([TextureSet("leaf", tuple(refs))], library) if f.check == "opacity_kind"]
        assert word in finding.message


def test_floats_where_bytes_serve_are_noted(tmp_path):
    save(tmp_path / "a_r.exr", random_texels("y", np.float32, 32, 32))
    found = check_sets([TextureSet("a", (MapRef(Role.ROUGHNESS, "a_r.exr"),))], Library.of_folder(tmp_path))
    assert [f.measure for f in found if f.check == "more_depth_than_needed"] == [32]


def test_a_circle_of_recipes_is_a_finding_not_a_crash():
    colour = {"step": "remove_occlusion", "occlusion": "occlusion"}
    occlusion = {"step": "combine_normal", "detail": "base_color"}
    maps = {"a": random_texels("rgb")}
    one = TextureSet(
        "a", (MapRef(Role.BASE_COLOR, "a", recipe=(colour,)), MapRef(Role.OCCLUSION, "a", recipe=(occlusion,)))
    )
    (finding,) = check_sets([one], MemoryLibrary(maps))
    assert (finding.check, finding.severity) == ("unreadable", Severity.ERROR)
    assert "circle" in finding.message


def test_every_check_is_a_function_with_its_measure_said():
    for check in CHECKS:
        assert check.__doc__, check.__name__
