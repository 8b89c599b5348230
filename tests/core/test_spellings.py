"""Real-life spellings: how people name maps, with pixels of the right kind. All of it is common practice of the trade,
with no published source; the names themselves are invented."""

import pytest

from tests.pictures import save
from tests.surfaces_small import SURFACE_NAMES, map_of, pack_of
from texel.library import Library
from texel.roles import Role
from texel.sorting import sort_files

# A word for each letter of the table below.
LETTERS = {
    "o": Role.OCCLUSION, "r": Role.ROUGHNESS, "m": Role.METALLIC, "h": Role.HEIGHT, "g": Role.GLOSSINESS,
    "e": Role.EMISSIVE, "-": None,
}  # fmt: skip

# {} stands for the surface's name. Each spelling is tried in a folder of two surfaces.
SPELLED = {
    Role.BASE_COLOR: """{}_BaseColor {}_basecolor {}_Base_Color {}-base-color {}_BC {}_bc {}_Albedo {}-albedo {}_alb
        {}_diffuse {}_Diffuse {}_diff {}_dif {}_D {}_d {}_col {}_COL {}_color {}_Colour {}_c {}_cc {}BaseColor {}Albedo
        {}_albedo_2k {}_2k_albedo {}_4096_diffuse {}_Color_1024 {}_basecolor_v02 {}_tex_diffuse {}_diffuse_map
        {}_DiffuseMap {}_a {}.albedo {}_base {}_color_4k {}__Diffuse""",
    Role.NORMAL: """{}_Normal {}_normal {}_N {}_n {}_nrm {}_nor {}_norm {}_nm {}_nml {}_NormalMap {}-normal-map
        {}_normal_gl {}_nor_gl {}_nor_dx {}_NormalGL {}_NormalDX {}_Normal_OpenGL {}_Normal_DirectX {}-normal-ogl
        {}_normal_opengl {}-NORMAL-DIRECTX {}_n_y+ {}_normal_y- {}Normal {}_normals {}_2k_nor {}_nor_4k
        {}_normal_16bit {}_local {}_Normal_OpenGL_2k {}_nrml {}_n_gl {}_tangent""",
    Role.ROUGHNESS: """{}_Roughness {}_roughness {}_R {}_r {}_rough {}_rgh {}_rou {}-roughness {}Roughness
        {}_Roughness_1k {}_2k_rough {}_roughness_map""",
    Role.GLOSSINESS: "{}_gloss {}_Glossiness {}_gls {}_smoothness {}Smoothness {}-gloss {}_glossiness_2k {}_shininess",
    Role.METALLIC: "{}_Metallic {}_metalness {}_M {}_m {}_met {}_mtl {}_metal {}Metallic {}-metalness {}_Metallic_4k",
    Role.OCCLUSION: """{}_AO {}_ao {}_occlusion {}_AmbientOcclusion {}_Ambient_Occlusion {}-ambient-occlusion {}_occ
        {}AO {}_ao_2k""",
    Role.HEIGHT: """{}_Height {}_H {}_h {}_disp {}_displacement {}_hm {}_height_16bit {}_bump {}Height {}_z {}-disp-4k
        {}_dsp""",
    Role.EMISSIVE: """{}_Emissive {}_emission {}_E {}_e {}_emit {}_glow {}_em {}_g {}_add {}_illum {}_selfillum
        {}_luma {}_glowmap {}GlowMap""",
    Role.OPACITY: "{}_Opacity {}_opacity {}_alpha {}_mask {}_transparency {}_opac",
    Role.SPECULAR: "{}_Specular {}_spec {}_specmap {}_reflect {}_s {}_S {}_specular_2k {}_refl {}_sc {}_spc",
}
PACKED = """orm:{}_ORM orm:{}_orm orm:{}-orm mro:{}_mro mro:{}_mrao mro:{}_MRA orh:{}_ard rmo:{}_rma omr:{}-omr
    omr:{}_OMR
    -rm:{}_MetallicRoughness -rm:{}_metallicRoughness -rm:{}_Metallic-Roughness -rm:{}-mr
    orm:{}_OcclusionRoughnessMetallic
    omr:{}_ao_met_rough orm:{}_AO_Rough_Metal mro:{}_MetalRoughAO orm:{}_occlusion_roughness_metallic orm:{}_ORM_2k
    orm:{}_2k_orm rmo:{}_RoughMetalAO orm:{}ORM orm:{}_packed orm:{}_masks omr:{}_OcclusionMetallicRoughness
    orm:{}_PBR omh:{}_AoMetalHeight orm:{}_AO-R-M"""
# A first set of companions, each in another writing, so that the spelling stands in a folder with a habit.
COMPANIONS = {Role.BASE_COLOR: "_albedo", Role.NORMAL: "_normal"}
STEMS = ("reed_hull", "oakPier")


def rows():
    for role, words in SPELLED.items():
        for pattern in words.split():
            yield pattern, {role: None}
    for entry in PACKED.split():
        letters, pattern = entry.split(":")
        yield pattern, {LETTERS[c]: "rgb"[at] for at, c in enumerate(letters) if LETTERS[c]}


ROWS = list(rows())


def test_the_table_is_long_enough():
    assert len({pattern for pattern, _ in ROWS}) >= 150


@pytest.mark.parametrize(("pattern", "wanted"), ROWS, ids=[pattern for pattern, _ in ROWS])
def test_spelling(tmp_path, pattern, wanted):
    """The spelled map lands in its surface's set and role, beside companions in the trade's plainest words."""
    for stem, surface in zip(STEMS, SURFACE_NAMES, strict=False):
        file = tmp_path / (pattern.replace("{}", stem) + ".png")
        if None in wanted.values():
            (role,) = wanted
            save(file, map_of(role, surface))
        else:
            held = {letter: role for role, letter in wanted.items()}
            save(file, pack_of(tuple(held.get(letter) for letter in "rgb"), surface))
        for role, word in COMPANIONS.items():
            if role not in wanted:
                save(tmp_path / f"{stem}{word}.png", map_of(role, surface))
    found = sort_files(Library.of_folder(tmp_path), "folder")
    placed = {(one.name, ref.role): ref for one in found.sets for ref in one.maps}
    for stem in STEMS:
        for role, letter in wanted.items():
            ref = placed.get((stem, role))
            assert ref is not None, (pattern, [u.why for u in found.undecided], [s.document() for s in found.sets])
            assert (ref.file, ref.channel) == (pattern.replace("{}", stem) + ".png", letter)
