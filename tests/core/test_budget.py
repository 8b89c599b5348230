"""Budgets: memory and density of a plan, and what to shrink first; differences between versions of documents."""

import pytest

from tests.pictures import simple_set
from texel.blocks import FORMATS, memory
from texel.compression import table_named
from texel.delivery import builtin_targets, parse_target, plan_delivery
from texel.delivery.advice import advise_files, subject_of
from texel.delivery.budget import budget_document, halved_memory, halving_error, memory_by_role, shrink_until
from texel.delivery.checks import check_encodings
from texel.documents import differences
from texel.library import Library
from texel.measures import weight_of
from texel.sorting import sort_files


@pytest.fixture(scope="module")
def planned(tmp_path_factory):
    folder = tmp_path_factory.mktemp("in")
    simple_set(folder, "deck")
    simple_set(folder, "hull", n=128, seed=9)
    library = Library.of_folder(folder)
    target = parse_target(builtin_targets()["orm-y-minus"] | {"budget": {"memory_mib": 0.2, "density": 64}})
    return plan_delivery(sort_files(library, "in").sets, library, target), library


def test_memory_is_counted_with_mips_and_density_from_metres(planned):
    plan, _ = planned
    document = budget_document(plan, {"deck": 0.5})
    # Three channels take the room of four, heights 16 bits of one; glTF's own copies are not counted.
    eight, sixteen = FORMATS["rgba8"], FORMATS["r16"]
    wanted = sum(3 * memory(eight, n, n) + memory(sixteen, n, n) for n in (64, 128))
    assert document["memory"] == wanted == sum(one["memory"] for one in document["sets"])
    assert [one["name"] for one in document["sets"]] == ["hull", "deck"]
    deck = document["sets"][1]
    assert (deck["density"], document["sets"][0]["density"]) == (128, None)
    assert [file["halved"] for file in deck["files"]][:1] == [memory(eight, 32, 32)]


def test_a_packed_file_is_shared_evenly_between_its_roles(planned):
    plan, _ = planned
    orm = next(f for f in plan.files if f.output == "orm")
    shares = memory_by_role(orm)
    assert set(shares) == {"occlusion", "roughness", "metallic"}
    assert sum(shares.values()) == orm.memory
    assert max(shares.values()) - min(shares.values()) <= 1
    colour = next(f for f in plan.files if f.output == "color")
    assert memory_by_role(colour) == {"base_color": colour.memory}, "no map fills its alpha"


def test_advice_is_the_same_on_any_number_of_threads_and_can_be_left_half_way(planned):
    plan, library = planned
    maps = [f for f in plan.files if f.kind == "map"]
    table = table_named("desktop")
    alone = list(advise_files(maps, library, table))
    assert [f for f, _ in alone] == maps
    assert list(advise_files(maps, library, table, threads=3)) == alone
    begun = advise_files(maps, library, table, threads=2)
    next(begun)
    begun.close()


def _with_output(**changes):
    document = builtin_targets()["orm-y-minus"]
    outputs = [one | changes if one["output"] == "orm" else one for one in document["outputs"]]
    return parse_target(document | {"outputs": outputs})


@pytest.mark.parametrize(
    ("changes", "wanted"),
    [
        ({}, []),
        ({"colour_space": "srgb"}, ["srgb_data"]),
        ({"container": "ktx2", "bits": 8, "format": "etc2", "mips": True}, ["format_not_allowed"]),
        ({"container": "dds", "bits": 8, "format": "bc7", "mips": True}, []),
    ],
)
def test_encodings_are_judged_before_anything_is_delivered(tmp_path, changes, wanted):
    simple_set(tmp_path, "deck")
    library = Library.of_folder(tmp_path)
    plan = plan_delivery(sort_files(library, "in").sets, library, _with_output(**changes))
    found = check_encodings(plan, library, table_named("desktop"))
    assert [one.check for one in found] == wanted
    assert all(one.measure > 0 and one.output in {f.digest() for f in plan.files} for one in found)


def test_the_cheapest_loss_is_shrunk_first_and_no_more_than_is_needed(planned):
    plan, library = planned
    document = budget_document(plan, {})
    files = [file for one in document["sets"] for file in one["files"]]
    errors = {f.path: halving_error(subject_of(f, library)) for f in plan.files if f.kind == "map"}
    assert all(halved_memory(f) < f.memory for f in plan.files if f.kind == "map")
    assert all(weight_of(error) > 0 for error in errors.values())
    limit = int(document["memory"] * 0.7)
    steps, left = shrink_until(files, errors, limit)
    assert left <= limit
    assert left == document["memory"] - sum(step.spared for step in steps)
    assert steps[-1].left + steps[-1].spared > limit
    price = [weight_of(s.error) / {"colour": 1, "normal": 1, "mask": 0.01}[s.error["kind"]] / s.spared for s in steps]
    assert price == sorted(price)
    assert shrink_until(files, errors, document["memory"]) == ([], document["memory"])
    everything, least = shrink_until(files, errors, 0)
    assert len(everything) == len(files)
    assert least == sum(file["halved"] for file in files)


def test_entries_that_name_themselves_are_matched_by_name():
    before = {"outputs": [{"output": "a", "bits": 8}, {"output": "b", "bits": 8}], "green": "up"}
    after = {"outputs": [{"output": "b", "bits": 16}, {"output": "a", "bits": 8}], "largest": 64}
    assert [tuple(one) for one in differences(before, after)] == [
        ("outputs/b/bits", 8, 16), ("largest", None, 64), ("green", "up", None),
    ]  # fmt: skip
    assert differences(before, before) == []
