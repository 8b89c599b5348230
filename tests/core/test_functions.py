"""Functions of sheets: what they give, how they are drawn out of a sheet, and what versions of them change."""

import json

import MaterialX as mx
import numpy as np
import pytest

from demo.functions import CALLERS, FUNCTIONS
from tests.sheets import SHIFTED, STAINED, WET, function, function_master
from texel.cli import main
from texel.errors import BadDocument, BadExpression
from texel.materials import Kinds, chain_of, cost_of, evaluate, parse_master, read_sheet, remarks_on, shader_of
from texel.materials.evaluate import placed
from texel.materials.exchange import materialx_of, materialx_of_function, read_materialx
from texel.materials.exchange.mtlx_document import library, problems_of
from texel.materials.function_edits import (
    drawn_out,
    function_changes,
    function_name,
    problem_of,
    sheet_of_function,
    with_function,
)
from texel.materials.functions import parse_function, steps_of
from texel.materials.layers import origins, stacked_sheets
from texel.materials.ready import ready_masters
from texel.materials.versions import changes_between, next_number, same_picture

SLOTS = [
    {"name": "colour", "role": "base_color"}, {"name": "dirt", "role": "detail_mask"},
    {"name": "pack", "layout": "occlusion-roughness-metallic"},
]  # fmt: skip
AMOUNT = {"name": "amount", "kind": "number", "default": 0.3}


def document(inputs, rows=(), **more):
    listed = [{"name": name, "expression": text} for name, text in dict(rows).items()]
    made = {"format": "fair-texel/master", "version": 1, "name": "probe", "slots": SLOTS, "parameters": [AMOUNT]}
    return made | {"inputs": inputs, "rows": listed} | more


def value(text, functions, slots=()):
    made = {"format": "fair-texel/master", "version": 1, "name": "probe", "slots": list(slots), "functions": functions}
    return evaluate(parse_master(made | {"inputs": {"emissive": text}}), {}, {}, 1, 1)["emissive"][0, 0]


# Three rows that do the same to something else each.
REPEATED = document(
    {"base_color": "colour * worn", "metallic": "clamp(levels(pack.r, 0.2, 0.8) * dirt, 0, 1)",
     "roughness": "1 - clamp(levels(pack.b, 0.2, 0.8) * 0.5, 0, 1)"},
    {"worn": "clamp(levels(pack.g, 0.2, 0.8) * amount, 0, 1)"},
)  # fmt: skip


def test_a_function_does_what_its_rows_do():
    given = np.float32([0.5, 0.25, 1])
    want = (given * (1 - np.float32(0.5) / 2)) ** 1.5
    assert np.allclose(value("wet(rgb(0.5, 0.25, 1), 0.5)", [WET]), want, atol=1e-6)


def test_a_function_calls_another_one_of_a_name_that_the_sheet_has_too():
    """At a mask of 0 the inner ``wet`` alone is seen, which turns the channels round."""
    lie = {"name": "lie", "role": "height", "default": "black"}
    made = value("stained(rgb(0, 0.5, 1), uv, lie, lie)", [WET, STAINED], [lie])
    assert np.allclose(made, [0.75, 0.5, 0.25])


def test_a_function_is_as_wide_as_the_map_that_it_reads():
    kinds = Kinds(function_master())
    assert [kinds.of(function_master().inputs[name]).size for name in ("roughness", "normal", "height")] == [1, 3, 1]


def test_costs_count_what_a_function_does_and_reads():
    master = parse_master(document({"base_color": "stained(colour, uv, dirt, colour)"}, functions=[STAINED]))
    inner = steps_of(parse_function(STAINED).operation)
    assert (cost_of(master).arithmetic, cost_of(master).reads) == (1 + inner, 3)


def test_every_function_stands_once_in_the_shader():
    code = shader_of(function_master()).code
    assert sum(line.startswith("vec3 ft_op_wet_f") for line in code.splitlines()) == 2


def test_a_step_of_a_function_reads_as_a_step_of_a_chain():
    sheet = read_sheet(parse_master(document({"base_color": "wet(colour * 2, amount)"}, functions=[WET])))
    assert sheet["rows"][0]["chain"]["steps"][-1] == {"step": "wet", "with": ["amount"]}
    assert sheet["functions"][0]["operation"]["arguments"] == ["colour", "amount"]
    master = parse_master(document({"base_color": "wet(colour, 1)"}, functions=[WET]))
    assert chain_of(master.inputs["base_color"]).links[0].function is master.functions["wet"].operation


def test_a_sheet_may_carry_a_function_that_it_does_not_call():
    master = parse_master(document({"base_color": "colour"}, functions=[WET]))
    assert [one.about for one in remarks_on(master) if one.check == "unused_function"] == ["wet"]


@pytest.mark.parametrize(
    ("made", "reason"),
    [
        (function("odd", {"a": "map"}, "1"), "the first input is what flows"),
        (function("odd", {"a": "number", "m": "map"}, "a + m"), "m is a map: read"),
        (function("odd", {"a": "vector2"}, "read(a, a)"), "name of a map among the inputs"),
        (function("odd", {"a": "number"}, "a + amount"), "there is no amount above this row"),
        (function("odd", {"a": "number"}, "later", rows=[{"name": "first", "expression": "later"},
                                                        {"name": "later", "expression": "a"}]), "there is no later"),
        (function("odd", {"a": "number"}, "odd(a)"), "there is no operation odd"),
        (function("odd", {"vertex": "number"}, "1"), "is a word of the sheet"),
        (function("odd", {"a": "number", "dirt_default": "number"}, "1"), "cannot be called dirt_default"),
        (function("odd", {"out": "number"}, "1"), "cannot be called out"),
        (function("odd", {"a": "number"}, "a", rows=[{"name": "a", "expression": "1"}]), "stands there twice"),
        (function("odd", {"a": "number"}, "a", functions=[WET, WET]), "stands there twice"),
    ],
)  # fmt: skip
def test_what_is_wrong_in_a_function_is_told(made, reason):
    with pytest.raises((BadDocument, BadExpression), match=reason):
        parse_function(made)


@pytest.mark.parametrize(("default", "reason"), [("uv", "with numbers"), ("rgb(1, 2, 3)", "not 3"), ("(", "missing")])
def test_what_an_input_begins_with_is_checked(default, reason):
    made = function("odd", {"a": "number", "b": "vector2"}, "b")
    made["inputs"][1]["default"] = default
    with pytest.raises(BadDocument, match=reason):
        parse_function(made)


def test_functions_that_do_too_much_or_stand_too_deep_are_refused():
    inner = function("f", {"a": "number"}, "a + 1")
    for _ in range(3):
        inner = function("f", {"a": "number"}, " + ".join(["f(a)"] * 20), functions=[inner])
    with pytest.raises(BadDocument, match="steps with those of the functions in it, at most 5000"):
        parse_function(inner)
    deep = function("f", {"a": "number"}, "a")
    for _ in range(4):
        deep = function("f", {"a": "number"}, "f(a)", functions=[deep])
    with pytest.raises(BadDocument, match="more than 4 deep"):
        parse_master(document({"roughness": "1"}, functions=[deep]))


def test_coordinates_call_what_is_the_same_everywhere():
    slow = function("slow", {"a": "number"}, "a + time / 4")
    there = function("there", {"a": "number"}, "a * world_position.r")
    master = parse_master(
        document({"base_color": "colour"}, functions=[slow], coordinates=[{"name": "main", "offset": "slow(amount)"}])
    )
    assert placed(master.coordinates["main"], {"amount": (0.25,), "time": (1.0,)})[1] == (0.5, 0.5)
    assert "ft_op_slow" in shader_of(master).code
    with pytest.raises(BadExpression, match="there reads world_position, which may differ"):
        parse_master(
            document({"base_color": "colour"}, functions=[there], coordinates=[{"name": "main", "tiling": "there(2)"}])
        )


def test_a_sheet_that_does_too_much_is_refused():
    """Twenty rows of sixteen cells took the server more than a minute to read."""
    cells = "cells(uv)"
    for _ in range(4):
        cells = f"maximum({cells}, {cells})"
    with pytest.raises(BadDocument, match="at most 50000 are read"):
        parse_master(document({"roughness": "r0"}, {f"r{at}": cells for at in range(20)}))


def test_rows_that_do_not_fit_are_told_with_their_place():
    made = function("odd", {"a": "vector2", "b": "vector3"}, "half + b", rows=[{"name": "half", "expression": "a / 2"}])
    problem = problem_of(parse_function(made))
    assert problem is not None
    assert (problem.row, problem.problem.key) == ("result", "values of {size} and {widest} components do not meet")
    assert problem_of(parse_function(STAINED)) is None


def test_steps_of_a_row_become_a_function_that_all_rows_alike_call():
    made = drawn_out(REPEATED, "worn", "worn_by", "Worn by")
    assert made.function["result"] == "clamp(levels(pack_g, 0.2, 0.8) * amount, 0, 1)"
    assert [one["name"] for one in made.function["inputs"]] == ["pack_g", "amount"]
    assert made.rows == ("worn", "metallic", "roughness")
    assert made.document["inputs"]["metallic"] == "worn_by(pack.r, dirt)"
    assert made.document["inputs"]["roughness"] == "1 - worn_by(pack.b, 0.5)"
    assert same_picture(parse_master(REPEATED), parse_master(made.document))


def test_numbers_become_inputs_where_they_may_differ():
    made = drawn_out(REPEATED, "worn", "spread", "Spread", 0, 0, open_numbers=True)
    assert made.function["result"] == "levels(pack_g, number, number_2)"
    assert [one.get("default") for one in made.function["inputs"]] == [None, "0.2", "0.8"]
    assert same_picture(parse_master(REPEATED), parse_master(made.document))


def test_steps_that_read_maps_take_them_as_maps():
    text = "mix(colour, triplanar(world_position, colour, 4), dirt) * 2"
    made = drawn_out(document({"base_color": text}), "base_color", "laid", "Laid", 0, 0)
    assert [one["takes"] for one in made.function["inputs"]] == ["vector3", "map", "number"]
    assert made.document["inputs"]["base_color"] == "laid(colour, colour, dirt) * 2"


def test_inputs_are_called_what_inputs_may_be_called():
    long = "a" * 38
    parameters = [{"name": one, "kind": "number", "default": 0.3} for one in ("out", "dirt_default", long)]
    sheet = document({"roughness": f"levels(dirt, out, dirt_default) * {long}"}, parameters=parameters)
    made = drawn_out(sheet, "roughness", "odd", "Odd")
    assert [one["name"] for one in made.function["inputs"]] == ["dirt", "out_in", "dirt_default_in", "a" * 34]


def test_a_function_of_a_function_takes_it_along():
    inner = document({"base_color": "wet(colour, 0.5) * dirt"}, functions=[WET])
    made = drawn_out(inner, "base_color", "soaked", "Soaked")
    assert [one["name"] for one in made.function["functions"]] == ["wet"]
    assert same_picture(parse_master(inner), parse_master(made.document))


def test_a_layer_draws_out_of_its_own_sheet():
    alike = {"slots": SLOTS, "inputs": {"base_color": "levels(colour, 0.1, 0.9) * dirt"}}
    layered = {
        "format": "fair-texel/master", "version": 1, "name": "two",
        "layers": [{"name": name, "sheet": alike} for name in ("stone", "mud")],
    }  # fmt: skip
    made = drawn_out(layered, "mud_base_color", "spread", "Spread")
    assert made.function["inputs"][0]["name"] == "colour"
    assert [one["sheet"]["inputs"]["base_color"] for one in made.document["layers"]] == ["spread(colour, dirt)"] * 2
    assert same_picture(parse_master(layered), parse_master(made.document))


def test_channels_at_the_end_of_a_chain_are_drawn_out_as_well():
    made = drawn_out(document({"roughness": "read(uv * 2, pack).g"}), "roughness", "tight", "Tight")
    assert made.document["inputs"]["roughness"] == "tight(uv, pack)"
    assert same_picture(parse_master(document({"roughness": "read(uv * 2, pack).g"})), parse_master(made.document))


@pytest.mark.parametrize("name", ready_masters())
def test_any_row_of_a_ready_made_master_becomes_a_function(name):
    """The whole chain, and its last step alone; the first rows of each, so that it does not take long."""
    master = ready_masters()[name]
    written = [row for row, tree in parse_master(master).trees() if chain_of(tree).links]
    rows = [row for row in written if "layers" not in master or row in origins(master)][:2]
    for row in rows:
        for first in {0, len(chain_of(dict(parse_master(master).trees())[row]).links) - 1}:
            made = drawn_out(master, row, "drawn_function", "Drawn", first, None, first > 0)
            assert row in made.rows
            assert problem_of(parse_function(made.function)) is None
            assert same_picture(parse_master(master), parse_master(made.document)), (row, first)


def test_rows_that_follow_from_layers_are_not_drawn_out():
    with pytest.raises(BadDocument, match="follows from the layers"):
        drawn_out(ready_masters()["layered-ground"], "upper_over_normal", "f", "F")


@pytest.mark.parametrize(
    ("row", "name", "first", "reason"),
    [
        ("nowhere", "f", 0, "no row nowhere"),
        ("worn", "noise", 0, "another name"),
        ("worn", "f", 7, "at least one step"),
    ],
)
def test_what_cannot_be_drawn_out_is_told(row, name, first, reason):
    with pytest.raises(BadDocument, match=reason):
        drawn_out(REPEATED, row, name, "F", first)


def test_a_newer_version_brings_its_calls_along():
    """Arguments follow the names of inputs; a new one begins as it says, and what flows in stays first."""
    old = document({"base_color": "wet(colour, amount)"}, {"low": "wet(dirt, 0.1).r"}, functions=[WET])
    new = function("wet", {"light": "vector3", "edge": "number", "amount": "number", "dust": "map"}, "light * amount")
    new["inputs"][1]["default"] = "0.75"
    made = with_function(old, new)
    assert made["inputs"]["base_color"] == "wet(colour, 0.75, amount, colour)"
    assert made["rows"][0]["expression"] == "wet(dirt, 0.75, 0.1, colour).r"
    parse_master(made)


def test_a_function_that_reads_a_map_needs_a_slot():
    bare = {"format": "fair-texel/master", "version": 1, "name": "bare", "functions": [WET],
            "inputs": {"base_color": "wet(1, 0.5)"}}  # fmt: skip
    with pytest.raises(BadDocument, match="give the sheet a slot first"):
        with_function(bare, function("wet", {"colour": "vector3", "dust": "map"}, "colour"))


@pytest.mark.parametrize(
    ("new", "number"),
    [
        (WET | {"inputs": WET["inputs"][:1], "result": "darker", "rows": [{"name": "darker", "expression": "colour"}]},
         (2, 0, 0)),
        (WET | {"result": "darker.r"}, (2, 0, 0)),
        (WET | {"result": "power(darker, 2 + amount)"}, (1, 1, 0)),
        (WET | {"result": "power(darker, amount + 1)"}, (1, 0, 1)),
        (WET | {"title": "Wetter"}, (1, 0, 1)),
    ],
)  # fmt: skip
def test_versions_are_numbered_by_what_sheets_lose(new, number):
    changes = function_changes(parse_function(WET), parse_function(new))
    assert changes
    assert next_number((1, 0, 0), changes) == number


def test_a_master_says_which_function_is_another_version():
    before = document({"base_color": "wet(colour, 0.5)"}, functions=[WET | {"number": "1.0.0"}])
    after = document(before["inputs"], functions=[WET | {"number": "1.1.0", "result": "darker"}])
    changes = changes_between(parse_master(before), parse_master(after))
    assert changes[0].what == "picture"
    assert ("function", "1.0.0", "1.1.0") in [(one.what, one.before, one.after) for one in changes]


@pytest.mark.parametrize("made", [WET, STAINED, SHIFTED], ids=lambda one: one["name"])
def test_a_function_is_shown_by_a_sheet_of_its_own(made):
    sheet = parse_master(sheet_of_function(parse_function(made)))
    assert not [one for one in remarks_on(sheet) if one.severity.value == "error"]
    assert {*sheet.slots, *sheet.parameters} == {one["name"] for one in made["inputs"]}


def test_sheets_with_different_versions_are_not_stacked():
    sheets = [document({"base_color": "wet(colour, 1)"}, functions=[one]) for one in (WET, WET | {"result": "darker"})]
    with pytest.raises(BadDocument, match="bring both to one version first"):
        stacked_sheets("two", "Two", [("a", "A", sheets[0]), ("b", "B", sheets[1])])
    made = parse_master(stacked_sheets("two", "Two", [("a", "A", sheets[0]), ("b", "B", sheets[0])]))
    assert list(made.functions) == ["wet"]


def test_materialx_defines_each_function_as_a_node_and_is_read_back():
    text = materialx_of(function_master())
    made = mx.createDocument()
    mx.readFromXmlString(made, text)
    names = {one.getNodeString() for one in made.getNodeDefs()}
    assert {"ft_function_wet", "ft_function_wet_again1"} <= names
    (read,) = read_materialx(text)
    assert (parse_master(read.document), read.lost) == (function_master(), ())


def test_a_function_that_was_changed_in_materialx_is_told():
    text = materialx_of(parse_master(document({"base_color": "wet(colour, 0.5)"}, functions=[WET])))
    graph = text.index("NG_ft_function_wet")
    changed = text[:graph] + text[graph:].replace('value="2"', 'value="3"', 1)
    (read,) = read_materialx(changed)
    assert "its nodes were changed since" in read.lost[0]


@pytest.mark.parametrize("made", [WET, STAINED, SHIFTED], ids=lambda one: one["name"])
def test_a_function_alone_is_valid_materialx(made):
    written = mx.createDocument()
    mx.readFromXmlString(written, materialx_of_function(parse_function(made)))
    assert written.getNodeDefs()[-1].getDocString() is not None
    assert any(one.getNodeString().startswith(f"ft_function_{made['name']}") for one in written.getNodeDefs())
    written.importLibrary(library())
    assert problems_of(written) == []


def test_the_functions_of_the_demo_fit_and_their_callers_carry_them():
    assert [problem_of(parse_function(one)) for one in FUNCTIONS] == [None]
    for one in CALLERS:
        master = parse_master(one)
        assert not [remark for remark in remarks_on(master) if remark.severity.value == "error"]
        assert master.functions["wetted"].number == "1.0.0"


@pytest.mark.parametrize(("title", "name"), [("Worn by Edges", "worn_by_edges"), ("2nd", "f_2nd"), ("Ä!", "f")])
def test_names_are_made_of_titles(title, name):
    assert function_name(title) == name


def test_the_command_line_draws_out_brings_in_and_exports(tmp_path, capsys):
    master, made, after = tmp_path / "m.json", tmp_path / "f.json", tmp_path / "m2.json"
    master.write_text(json.dumps(REPEATED))
    drawn = ["draw-out", str(master), "--row", "worn", "--title", "Worn by", "-o", str(made), "--into", str(after)]
    assert main(["function", *drawn]) == 0
    assert "called in worn, metallic, roughness" in capsys.readouterr().out
    assert main(["function", "check", str(made), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"problem": None, "steps": 3, "reads": 0, "size": 1}
    other = tmp_path / "other.json"
    other.write_text(json.dumps(document({"base_color": "colour"})))
    assert main(["function", "use", str(made), str(other), "-o", str(tmp_path / "used.json")]) == 0
    assert json.loads((tmp_path / "used.json").read_text())["functions"][0]["name"] == "worn_by"
    assert main(["function", "export", str(made), "-o", str(tmp_path / "f.mtlx")]) == 0
    assert main(["function", "diff", str(made), str(made)]) == 0
    assert "nothing differs" in capsys.readouterr().out


@pytest.mark.parametrize(
    "given", [["draw-out", "M"], ["diff", "M"], ["export", "M", "-o", "x.json"], ["use", "M", "M"], ["check", "M"]]
)
def test_bad_use_of_the_command_is_told(given, tmp_path, capsys):
    master = tmp_path / "m.json"
    master.write_text(json.dumps(REPEATED))
    assert main(["function", *(str(master) if one == "M" else one for one in given)]) == 2
    assert capsys.readouterr().err.startswith("texel: ")
