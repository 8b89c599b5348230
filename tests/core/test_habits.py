"""Habits of whole folders: what an author does with all files alike. Common practice; the names are invented."""

from pathlib import PurePosixPath

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.pictures import random_texels, save
from tests.surfaces_small import SIXTEEN, SURFACE_NAMES, map_of, pack_of
from texel.errors import BadDocument
from texel.image import Texels
from texel.library import Library
from texel.naming.meanings import readings
from texel.naming.tokens import before_role, spell_signs, split_words
from texel.roles import Role
from texel.sorting import habit_document, parse_habit, sort_files
from texel.sorting.learning import learn_rules
from texel.sorting.splitting import split_names

B, N, R, M, AO, H, E, S, G = (
    Role.BASE_COLOR, Role.NORMAL, Role.ROUGHNESS, Role.METALLIC, Role.OCCLUSION, Role.HEIGHT, Role.EMISSIVE,
    Role.SPECULAR, Role.GLOSSINESS,
)  # fmt: skip
TREES = ("oak", "elm", "ash")
ORM, MR = (AO, R, M), (None, R, M)


def write(folder, files):
    """files: name to a role, to a tuple of roles for a pack, or to a role with the number of a surface."""
    for name, what in files.items():
        role, surface = what if isinstance(what, tuple) and isinstance(what[1], int) else (what, 0)
        one = SURFACE_NAMES[surface]
        save(folder / f"{name}.png", pack_of(role, one) if isinstance(role, tuple) else map_of(role, one))


def sets_of(folder, habit=None):
    found = sort_files(Library.of_folder(folder), "folder", habit=habit)
    sets = {
        one.name: {ref.role.value + (f"#{ref.channel}" if ref.channel else ""): ref.file[:-4] for ref in one.maps}
        for one in found.sets
    }
    return sets, {left.file[:-4]: left for left in found.undecided}, found


def taught_line(**line):
    return parse_habit({"format": "fair-texel/habit", "version": 1, "lines": [line]})


def grey(role):
    """The map's brightness only, as an author paints a grey wall."""
    coloured = map_of(role)
    return Texels(coloured.pixels[:, :, 1:2].copy(), "y", coloured.transfer)


HABITS = {
    "a bare name beside suffixed siblings": (
        {"wall": B, "wall_n": N, "wall_s": S, "gate": (B, 1), "gate_n": (N, 1)},
        {"wall": "base_color normal specular", "gate": "base_color normal"},
    ),
    "letters glued to a number": (
        {f"tile0{i}{c}": (role, i) for i in (1, 2) for c, role in (("", B), ("n", N), ("s", S))},
        {"tile01": "base_color normal specular", "tile02": "base_color normal specular"},
    ),
    "letters glued to a name": (
        {"wallD": B, "wallN": N, "wallR": R, "gateD": (B, 1), "gateN": (N, 1), "gateR": (R, 1)},
        {"wall": "base_color normal roughness", "gate": "base_color normal roughness"},
    ),
    "words glued to a name": (
        {"wallnrm": N, "wall": B, "gatenrm": (N, 1), "gate": (B, 1)},
        {"wall": "base_color normal", "gate": "base_color normal"},
    ),
    "the role first": (
        {"n_wall": N, "d_wall": B, "s_wall": S, "n_gate": (N, 1), "d_gate": (B, 1), "s_gate": (S, 1)},
        {"wall": "base_color normal specular", "gate": "base_color normal specular"},
    ),
    "roles as folders": (
        {"normals/wall": N, "colors/wall": B, "normals/gate": (N, 1), "colors/gate": (B, 1)},
        {"wall": "base_color normal", "gate": "base_color normal"},
    ),
    "variants in colour that share their maps": (
        {"base1a": B, "base1b": (B, 1), "base1c": (B, 2), "base1_n": N, "base1_s": S},
        dict.fromkeys(("base1a", "base1b", "base1c"), "base_color normal specular"),
    ),
    "variants named in words": (
        {"ship_red": B, "ship_blue": (B, 1), "ship_n": N, "ship_rough": R},
        dict.fromkeys(("ship_red", "ship_blue"), "base_color normal roughness"),
    ),
    "variants before the suffix": (
        {"door01a_d": B, "door01b_d": (B, 1), "door01_n": N, "door01_s": S},
        dict.fromkeys(("door01a", "door01b"), "base_color normal specular"),
    ),
    "names that spell packs by chance": (
        {"old_shoe": B, "old_shoe_n": N, "hero": (B, 1), "hero_n": (N, 1), "mesh": (B, 2), "mesh_n": (N, 2)},
        dict.fromkeys(("old_shoe", "hero", "mesh"), "base_color normal"),
    ),
    "a metal that is not a metallic map": (
        {"rusty_metal": B, "rusty_metal_n": N, "red_metal_rough": (R, 1), "red_metal": (B, 1)},
        {"rusty_metal": "base_color normal", "red_metal": "base_color roughness"},
    ),
    "a number behind the role": (
        {f"rock_{w}_{i}": (role, i - 1) for i in (1, 2) for w, role in (("Albedo", B), ("Normal", N), ("Rough", R))},
        {"rock_1": "base_color normal roughness", "rock_2": "base_color normal roughness"},
    ),
    "a pack that nobody's word explains": (
        {f"{s}_{w}": (role, i) for i, s in enumerate(TREES) for w, role in (("c", B), ("n", N), ("qp", ORM))},
        dict.fromkeys(TREES, "base_color normal occlusion#r roughness#g metallic#b"),
    ),
    "g is a glow where it is dark": (
        {"lamp": B, "lamp_n": N, "lamp_g": E, "post": (B, 1), "post_n": (N, 1), "post_g": (E, 1)},
        dict.fromkeys(("lamp", "post"), "base_color normal emissive"),
    ),
    "g is gloss where it is grey": (
        {"lamp": B, "lamp_n": N, "lamp_s": S, "lamp_g": G, "post": (B, 1), "post_n": (N, 1), "post_g": (G, 1)},
        {"lamp": "base_color normal specular glossiness", "post": "base_color normal glossiness"},
    ),
    "names that say nothing": (
        {"crate/Image_0": B, "crate/Image_1": N, "crate/Image_2": MR, "post/Image_0": (B, 1), "post/Image_1": (N, 1)},
        {"crate": "base_color normal roughness#g metallic#b", "post": "base_color normal"},
    ),
    "sides and seasons in colour": (
        {f"sky_{side}": (B, at) for at, side in enumerate(("ft", "bk", "lf", "rt"))} | {"oak_n": (N, 1), "oak": (B, 1)},
        {f"sky_{side}": "base_color" for side in ("ft", "bk", "lf", "rt")} | {"oak": "base_color normal"},
    ),
    "a weak word that pixels support": (
        {f"{s}_nm": (N, i) for i, s in enumerate(TREES)} | {"oak": B, "elm": (B, 1), "ash": (B, 2)},
        dict.fromkeys(TREES, "base_color normal"),
    ),
}  # fmt: skip


@pytest.mark.parametrize("habit", HABITS)
def test_habit(tmp_path, habit):
    files, wanted = HABITS[habit]
    write(tmp_path, files)
    sets, left, _ = sets_of(tmp_path)
    assert {name: set(maps) for name, maps in sets.items()} == {name: set(w.split()) for name, w in wanted.items()}
    assert not left, {file: one.why for file, one in left.items()}


def test_a_grey_colour_map_beside_suffixed_siblings_is_the_base_colour(tmp_path):
    write(tmp_path, {"wall_n": N, "wall_s": S, "gate_n": (N, 1)})
    save(tmp_path / "wall.png", grey(B))
    save(tmp_path / "gate.png", grey(B))
    sets, left, _ = sets_of(tmp_path)
    assert {name: maps.get("base_color") for name, maps in sets.items()} == {"wall": "wall", "gate": "gate"}
    assert not left


def test_a_bare_name_that_holds_vectors_is_a_normal_map(tmp_path):
    write(tmp_path, {"wall": N, "wall_d": B})
    assert sets_of(tmp_path)[0] == {"wall": {"base_color": "wall_d", "normal": "wall"}}


def test_a_lone_colour_picture_called_metal_is_no_metallic_map(tmp_path):
    write(tmp_path, {"sheet_metal": B})
    sets, _, _ = sets_of(tmp_path)
    assert sets == {"sheet_metal": {"base_color": "sheet_metal"}}


def test_one_letter_may_mean_two_things_in_two_folders(tmp_path):
    for folder, role in (("lamps", E), ("stones", G)):
        for at, stem in enumerate(TREES):
            write(
                tmp_path / folder, {stem: (B, at), f"{stem}_n": (N, at), f"{stem}_s": (S, at), f"{stem}_g": (role, at)}
            )
    sets, _, found = sets_of(tmp_path)
    assert {"emissive" in maps for name, maps in sets.items() if name.endswith("lamps")} == {True}
    assert {"glossiness" in maps for name, maps in sets.items() if name.endswith("stones")} == {True}
    assert {line.folder for line in found.habit.lines if line.affix.word == "g"} == {"lamps", "stones"}


def test_names_that_differ_in_capitals_alone_are_two_sets(tmp_path):
    write(tmp_path, {"Brick_color": B, "Brick_normal": N, "brick_color": (B, 1), "brick_normal": (N, 1)})
    sets, left, _ = sets_of(tmp_path)
    assert [len(maps) for maps in sets.values()] == [2, 2]
    assert not left


def test_a_folder_of_several_colour_pictures_is_not_one_set(tmp_path):
    write(tmp_path, {f"swatches/Image_{at}": (B, at) for at in range(4)})
    sets, left, _ = sets_of(tmp_path)
    assert sets == {}
    assert {one.candidates[0]["role"] for one in left.values()} == {"base_color"}


def test_a_packed_file_whose_layout_is_open_says_what_its_channels_look_like(tmp_path):
    grey_noise = random_texels("rgb", width=64, height=64)
    write(tmp_path, {"oak_c": B, "oak_n": N, "elm_c": (B, 1), "elm_n": (N, 1)})
    for stem in ("oak", "elm"):
        save(tmp_path / f"{stem}_masks.png", grey_noise)
    _, left, _ = sets_of(tmp_path)
    assert "R grey around" in left["oak_masks"].why
    assert left["oak_masks"].suffix == left["elm_masks"].suffix == "_masks"


# Taught ----------------------------------------------------------------------------------------------------


def test_a_taught_line_places_all_its_files(tmp_path):
    write(tmp_path, {f"{s}_{w}": (role, i) for i, s in enumerate(("oak", "elm")) for w, role in (("c", B), ("zub", R))})
    _, left, found = sets_of(tmp_path)
    assert {one.suffix for one in left.values()} == {"_zub"}
    document = habit_document(found.habit.lines)
    line = next(line for line in document["lines"] if line["suffix"] == "zub")
    line |= {"role": "roughness", "decided": True, "taught": True}
    sets, left, found = sets_of(tmp_path, parse_habit(document))
    assert not left
    assert {name: maps["roughness"] for name, maps in sets.items()} == {"oak": "oak_zub", "elm": "elm_zub"}
    assert all(ref.confidence == 1 for one in found.sets for ref in one.maps)


def test_a_taught_suffix_splits_names_that_nothing_else_would(tmp_path):
    write(tmp_path, {"oak_zub": R})
    taught = parse_habit(
        {"format": "fair-texel/habit", "version": 1, "lines": [{"suffix": "zub", "role": "roughness"}]}
    )
    assert sets_of(tmp_path, taught)[0] == {"oak": {"roughness": "oak_zub"}}


def test_what_is_taught_of_bare_names_does_not_take_stray_pictures_along(tmp_path):
    write(tmp_path, {"oak": B, "oak_n": N})
    save(tmp_path / "IMG_2041.png", map_of(B, SURFACE_NAMES[1]))
    _, left, _ = sets_of(tmp_path, taught_line(suffix="", role="base_color"))
    assert set(left) == {"IMG_2041"}


def test_a_folder_can_be_taught(tmp_path):
    write(tmp_path, {"plain/oak": B, "zub/oak": R, "plain/elm": (B, 1), "zub/elm": (R, 1)})
    lines = [{"suffix": w, "where": "folder", "role": r} for w, r in (("plain", "base_color"), ("zub", "roughness"))]
    taught = parse_habit({"format": "fair-texel/habit", "version": 1, "lines": lines})
    maps = {"base_color", "roughness"}
    assert {name: set(m) for name, m in sets_of(tmp_path, taught)[0].items()} == {"oak": maps, "elm": maps}


def test_a_suffix_can_be_taught_to_be_no_map(tmp_path):
    write(tmp_path, {"oak_c": B, "oak_n": N, "elm_c": (B, 1), "elm_n": (N, 1)})
    taught = taught_line(suffix="n", role="none")
    sets, left, _ = sets_of(tmp_path, taught)
    assert {name: set(maps) for name, maps in sets.items()} == {"oak": {"base_color"}, "elm": {"base_color"}}
    assert "no map" in left["oak_n"].why


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ({"suffix": "x", "role": "pack"}, "no channel"),
        ({"suffix": "x", "role": "normal", "channels": {"r": "roughness"}}, "is no pack"),
        ({"suffix": "x", "role": "pack", "channels": {"r": "roughness", "g": "roughness"}}, "same role"),
        ({"suffix": "x", "role": "wood"}, "not a habit document"),
        ({"role": "normal"}, "not a habit document"),
    ],
)
def test_habits_that_make_no_sense_are_refused(line, why):
    with pytest.raises(BadDocument, match=why):
        taught_line(**line)


def test_two_lines_for_one_suffix_are_refused():
    line = {"suffix": "n", "role": "normal"}
    with pytest.raises(BadDocument, match="two lines"):
        parse_habit({"format": "fair-texel/habit", "version": 1, "lines": [line, line]})


# Any habit -------------------------------------------------------------------------------------------------

_words = st.text("bcdfghjklmnpqrstvwxz", min_size=1, max_size=2).flatmap(
    lambda a: st.text("aeiou", min_size=1, max_size=1).flatmap(
        lambda b: st.text("bdfgklmprstvz", min_size=1, max_size=2).map(lambda c: a + b + c)
    )
)


@settings(max_examples=25, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    stems=st.lists(st.tuples(_words, st.sampled_from(["", "1", "_big", "Old"])), min_size=2, max_size=4, unique=True),
    suffixes=st.lists(_words, min_size=3, max_size=3, unique=True),
    joint=st.sampled_from("_-. "),
)
def test_any_habit_is_found_from_content_alone(tmp_path_factory, stems, suffixes, joint):
    """Colour, normals and a pack in the usual order: whatever the words, they land in their sets; nothing is placed
    wrongly."""
    names = [a + b for a, b in stems]
    folder = tmp_path_factory.mktemp("habit")
    # A stem that is the beginning of another, or ends like a suffix, can be read in two ways; people trip over it too.
    lower = [name.lower() for name in names]
    assume(not any(a in b for a in lower for b in lower if a != b))
    assume(not any(word in name for word in suffixes for name in lower))
    assume(not any(a in b for a in suffixes for b in suffixes if a != b))
    assume(not any(readings(word) for word in suffixes))
    # "map" and "tex" say nothing as the name of a surface.
    assume(all(before_role(split_words(name))[0] == len(split_words(name)) for name in names))
    for at, stem in enumerate(names):
        roles = ((B, at % 3), (N, at % 3), ORM)
        write(folder, {f"{stem}{joint}{word}": role for word, role in zip(suffixes, roles, strict=True)})
    found = sort_files(Library.of_folder(folder), "folder")
    placed = {ref.file: (one.name, ref.role) for one in found.sets for ref in one.maps}
    for stem in names:
        for word, roles in zip(suffixes, ({B}, {N}, {AO, R, M}), strict=True):
            file = f"{stem}{joint}{word}.png"
            assert file in placed, (file, found.document())
            assert placed[file][0] == stem
            assert placed[file][1] in roles


@settings(max_examples=200, deadline=None, derandomize=True)
@given(st.lists(st.text("abnNR019_-. ()[]+éß船İ", min_size=1, max_size=20), min_size=1, max_size=8, unique=True))
def test_any_name_can_be_split_and_learnt_from(names):
    files = [f"{name}.png" for name in names]
    split = split_names(files)
    assert set(split) == set(files)
    assert all(one.text in spell_signs(PurePosixPath(one.file).stem) or one.affix.word for one in split.values())
    learn_rules(files)


def test_sixteen_bits_speak_for_height(tmp_path):
    for at, stem in enumerate(("oak", "elm")):
        write(tmp_path, {f"{stem}_c": (B, at), f"{stem}_n": (N, at)})
        save(tmp_path / f"{stem}_wub.png", map_of(H, SURFACE_NAMES[at], SIXTEEN))
    assert {maps.get("height") for maps in sets_of(tmp_path)[0].values()} == {"oak_wub", "elm_wub"}


def test_rules_are_learnt_from_the_habit_and_have_no_part_that_no_name_has(tmp_path):
    write(tmp_path, {f"{s}{w}": (role, i) for i, s in enumerate(TREES) for w, role in (("", B), ("_nm", N), ("_s", S))})
    _, _, found = sets_of(tmp_path)
    learnt = learn_rules(sorted(path.name for path in tmp_path.iterdir()), found.habit)
    assert learnt.document["suffixes"] == {"normal": "nm", "specular": "s"}
    assert learnt.document["parts"] == [{"part": "asset"}, {"part": "suffix", "optional": True}]
    assert learnt.share == 1
