"""Names and sorting. The suffix words are common practice of the trade, with no published source."""

import shutil

import imagecodecs
import pytest

from tests.pictures import huge_png_header, normal_texels, random_texels, save, simple_set
from texel.library import Library
from texel.naming.compose import safe_name
from texel.naming.tokens import parse_name, spell_channels
from texel.roles import Green, Role
from texel.sorting import sort_files


@pytest.mark.parametrize(
    ("name", "stem", "role"),
    [
        ("hull_BC", "hull", "base_color"),
        ("hull-albedo", "hull", "base_color"),
        ("HullBaseColor", "hull", "base_color"),
        ("hull_col_2k", "hull", "base_color"),
        ("hull_2048x2048_diffuse", "hull", "base_color"),
        ("hull_N", "hull", "normal"),
        ("hull_nor_gl_4k", "hull", "normal"),
        ("hullNormalDX", "hull", "normal"),
        ("hull_AmbientOcclusion", "hull", "occlusion"),
        ("hull ambient occlusion", "hull", "occlusion"),
        ("hull_metalness_v02", "hull", "metallic"),
        ("hull_disp", "hull", "height"),
        ("hull_smoothness", "hull", "glossiness"),
        ("roughness_hull", "hull", "roughness"),
        ("red_metal_roughness", "red metal", "roughness"),
        ("Albedo", "", "base_color"),
        ("船_emissive", "船", "emissive"),
        ("hull", "hull", None),
    ],
)
def test_roles_from_names(name, stem, role):
    parts = parse_name(name)
    assert (parts.stem, parts.role.value if parts.role else None) == (stem, role)


@pytest.mark.parametrize(
    ("word", "roles"),
    [
        ("orm", "occlusion roughness metallic"),
        ("mrao", "metallic roughness occlusion"),
        ("ard", "occlusion roughness height"),
        ("arm", "occlusion roughness metallic"),
        ("rma", "roughness metallic occlusion"),
        ("mra", "metallic roughness occlusion"),
    ],
)
def test_packed_suffixes_spell_their_channels(word, roles):
    """Common practice; the first three are the worked examples of the trade."""
    assert [role.value for role in spell_channels(word)] == roles.split()


@pytest.mark.parametrize("word", ["hull", "aaa", "om", "normal", "color", "bc", "moss", "gram"])
def test_other_words_spell_nothing(word):
    assert spell_channels(word) is None


@pytest.mark.parametrize(
    ("name", "green"),
    [
        ("a_nor_gl", Green.UP),
        ("a_nor_dx", Green.DOWN),
        ("a_NormalGL", Green.UP),
        ("a_n_opengl", Green.UP),
        ("a_n_y-", Green.DOWN),
        ("a_n", None),
    ],
)
def test_directions_from_names(name, green):
    assert parse_name(name).green is green


def sorted_dir(folder):
    return sort_files(Library.of_folder(folder), folder.name)


def roles_of(one):
    return {ref.role.value for ref in one.maps}


def test_three_habits_make_three_sets(tmp_path):
    for name in (
        "deck_BC.png",
        "deck_R.png",
        "slate-pier-albedo.png",
        "slate-pier-roughness.png",
        "BrassBellBaseColor.png",
        "BrassBellRoughness.png",
    ):
        save(tmp_path / name, random_texels("rgb" if "BC" in name or "albedo" in name or "Base" in name else "y"))
    found = sorted_dir(tmp_path)
    assert {one.name: roles_of(one) for one in found.sets} == {
        name: {"base_color", "roughness"} for name in ("deck", "slate-pier", "BrassBell")
    }
    assert found.undecided == []
    assert all(0 < ref.confidence <= 1 and ref.why for one in found.sets for ref in one.maps)


def test_a_folder_can_be_the_name_and_role_folders_do_not_count(tmp_path):
    save(tmp_path / "lichen bark" / "Albedo.png", random_texels("rgb"))
    save(tmp_path / "lichen bark" / "Roughness.png", random_texels("y"))
    save(tmp_path / "rope" / "normals" / "rope_n.png", normal_texels())
    save(tmp_path / "rope" / "colors" / "rope_col.png", random_texels("rgb"))
    found = sorted_dir(tmp_path)
    assert {one.name: roles_of(one) for one in found.sets} == {
        "lichen bark": {"base_color", "roughness"},
        "rope": {"base_color", "normal"},
    }


def test_a_packed_file_appears_once_a_role(tmp_path):
    save(tmp_path / "slate_mrao.png", random_texels("rgb"))
    save(tmp_path / "slate_albedo.png", random_texels("rgb"))
    (one,) = sorted_dir(tmp_path).sets
    packed = {ref.role.value: ref.channel for ref in one.maps if ref.file == "slate_mrao.png"}
    assert packed == {"metallic": "r", "roughness": "g", "occlusion": "b"}


def test_a_pack_that_is_grey_is_no_pack(tmp_path):
    save(tmp_path / "slate_orm.png", random_texels("y"))
    save(tmp_path / "slate_albedo.png", random_texels("rgb"))
    found = sorted_dir(tmp_path)
    assert [left.file for left in found.undecided] == ["slate_orm.png"]
    assert "1 channel" in found.undecided[0].why


def test_both_directions_stand_side_by_side(tmp_path):
    save(tmp_path / "hull_nor_dx.png", normal_texels(Green.DOWN))
    save(tmp_path / "hull_nor_gl.png", normal_texels(Green.UP))
    (one,) = sorted_dir(tmp_path).sets
    assert [ref.file for ref in one.maps] == ["hull_nor_gl.png", "hull_nor_dx.png"]


def test_two_resolutions_are_two_sets(tmp_path):
    for size in ("1k", "2k"):
        for word in ("col", "rough"):
            save(tmp_path / f"clay_pot_{word}_{size}.png", random_texels("rgb" if word == "col" else "y"))
    assert [(one.name, len(one.maps)) for one in sorted_dir(tmp_path).sets] == [("clay_pot_1k", 2), ("clay_pot_2k", 2)]


def test_mixed_resolutions_of_different_roles_are_one_set(tmp_path):
    save(tmp_path / "pot_col_4k.png", random_texels("rgb"))
    save(tmp_path / "pot_rough_2k.png", random_texels("y"))
    assert [one.name for one in sorted_dir(tmp_path).sets] == ["pot"]


def test_one_stem_in_two_folders_is_two_sets(tmp_path):
    for folder in ("garden", "shed"):
        save(tmp_path / folder / "clay_pot_col.png", random_texels("rgb"))
        save(tmp_path / folder / "clay_pot_rough.png", random_texels("y"))
    assert [one.name for one in sorted_dir(tmp_path).sets] == ["clay_pot_garden", "clay_pot_shed"]


def test_duplicates_and_rivals_are_left_for_a_person(tmp_path):
    first = save(tmp_path / "pot_albedo.png", random_texels("rgb"))
    shutil.copy(first, tmp_path / "pot_basecolor.png")
    save(tmp_path / "pot_diffuse.png", random_texels("rgb", seed=5))
    found = sorted_dir(tmp_path)
    assert len(found.sets[0].maps) == 1
    assert {left.file: "same bytes" in left.why for left in found.undecided} == {
        "pot_basecolor.png": True,
        "pot_diffuse.png": False,
    }
    assert all(left.candidates[0]["role"] == "base_color" for left in found.undecided)


def test_a_bare_stem_is_placed_by_its_pixels(tmp_path):
    simple_set(tmp_path, "reed")
    (tmp_path / "reed_n.png").rename(tmp_path / "reed.png")
    (one,) = sorted_dir(tmp_path).sets
    placed = next(ref for ref in one.maps if ref.file == "reed.png")
    assert placed.role is Role.NORMAL
    assert placed.confidence < 0.8


def test_nothing_is_dropped(tmp_path):
    simple_set(tmp_path, "deck")
    (tmp_path / "IMG_2041.jpg").write_bytes(imagecodecs.jpeg8_encode(random_texels("rgb", width=64, height=64).pixels))
    (tmp_path / "notes.txt").write_text("hello")
    (tmp_path / "broken_bc.png").write_bytes(b"no picture")
    (tmp_path / "zero_bc.png").write_bytes(b"")
    (tmp_path / "huge_bc.png").write_bytes(huge_png_header())
    save(tmp_path / "deck_preview.png", random_texels("rgb"))
    (tmp_path / ".hidden.png").write_bytes(b"x")
    found = sorted_dir(tmp_path)
    placed = {ref.file for one in found.sets for ref in one.maps}
    left = {one.file: one for one in found.undecided}
    assert placed | set(left) == {p.name for p in tmp_path.iterdir() if not p.name.startswith(".")}
    assert left["IMG_2041.jpg"].candidates
    assert "empty" in left["zero_bc.png"].why
    assert "100000" in left["huge_bc.png"].why


def test_links_are_not_followed(tmp_path):
    outside = save(tmp_path / "outside" / "secret_bc.png", random_texels("rgb"))
    inside = tmp_path / "inside"
    inside.mkdir()
    (inside / "stolen_bc.png").symlink_to(outside)
    assert Library.of_folder(inside).files == ()


def test_names_in_other_scripts(tmp_path):
    for stem in ("桟橋の板", "кирпич", "brücke"):
        simple_set(tmp_path, stem, n=16)
    assert {one.name for one in sorted_dir(tmp_path).sets} == {"桟橋の板", "кирпич", "brücke"}
    assert safe_name("桟橋の板") == "桟橋の板"


@pytest.mark.parametrize(
    ("text", "safe"),
    [("../../etc", "etc"), ("con", "con_"), ("a:b*c", "a_b_c"), ("", "unnamed"), ("a" * 300, "a" * 120)],
)
def test_safe_names(text, safe):
    assert safe_name(text) == safe
