"""Budgets: memory and density of a plan, and what to shrink first; differences between versions of documents."""

import pytest

from tests.pictures import simple_set
from texel.blocks import FORMATS, memory
from texel.delivery import builtin_targets, parse_target, plan_delivery
from texel.delivery.advice import subject_of
from texel.delivery.budget import budget_document, halved_memory, halving_error, shrink_until
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
