"""Trials, advice and cautions on surfaces whose right answer is known; misreadings by published values."""

import json

import numpy as np
import pytest

from demo.patterns import noise
from demo.surfaces import SURFACES
from tests.pictures import EIGHT, SIXTEEN, normal_texels, random_texels, simple_set
from texel.blocks import FORMATS, format_named, memory
from texel.cli import main
from texel.compression import (
    Subject,
    advise,
    builtin_tables,
    cautions,
    parse_table,
    sample_of,
    sort_of,
    table_named,
    whole_trial,
    within,
)  # fmt: skip
from texel.delivery import builtin_targets, parse_target, plan_delivery
from texel.delivery.advice import advise_files
from texel.errors import BadDocument, MismatchedMaps
from texel.image import Texels, narrow, to_unit
from texel.library import Library
from texel.measures import weight_of
from texel.misread import misread, misread_figures
from texel.roles import Role, Transfer
from texel.sorting import sort_files

DESKTOP = builtin_tables()["desktop"]


def subject(texels, **more):
    return Subject(texels, texels.width, texels.height, sort_of(texels), **more)


def smooth(n=128, channels=1):
    values = np.repeat(noise(n, 3, 3.0)[:, :, None], channels, axis=2)
    return narrow(values, EIGHT)


def colour(pixels=None, channels="rgb"):
    pixels = narrow(SURFACES["slate_pier"](128).colour, EIGHT) if pixels is None else pixels
    return Texels(pixels, channels, Transfer.SRGB, Role.BASE_COLOR)


def test_what_a_picture_is_decides_which_formats_it_may_have():
    rgba = random_texels("rgba")
    assert sort_of(colour(rgba.pixels, "rgba")) == "colour_alpha"
    opaque = rgba.pixels.copy()
    opaque[:, :, 3] = 255
    assert sort_of(colour(opaque, "rgba")) == "colour"
    assert sort_of(normal_texels()) == "normal"
    assert sort_of(random_texels("y").as_role(Role.ROUGHNESS)) == "mask"
    assert sort_of(random_texels("y", SIXTEEN).as_role(Role.HEIGHT)) == "height"
    assert sort_of(random_texels("rgb")) == "packed"
    assert sort_of(random_texels("rgb", np.float32).as_role(Role.EMISSIVE)) == "light"


def test_the_cheapest_format_within_the_limit_is_advised():
    easy = advise(subject(Texels(smooth(), "y", Transfer.LINEAR, Role.ROUGHNESS)), parse_table(DESKTOP))
    assert easy.format is FORMATS["bc4"]
    noisy = advise(subject(random_texels("rgb", width=64, height=64)), parse_table(DESKTOP))
    assert noisy.format is FORMATS["rgba8"]
    assert [t.format.key for t in noisy.trials] == ["bc1", "bc7", "rgba8"]
    assert "cheaper goes beyond it: BC1" in noisy.reason
    strict = parse_table(DESKTOP | {"allowed": DESKTOP["allowed"] | {"packed": ["bc1"]}})
    none = advise(subject(random_texels("rgb", width=64, height=64)), strict)
    assert none.format is None
    assert "none stays within" in none.reason


def test_every_advice_holds_what_it_promises():
    table = parse_table(DESKTOP)
    for texels in (colour(), normal_texels(n=128), Texels(smooth(), "y", Transfer.LINEAR, Role.OCCLUSION)):
        advice = advise(subject(texels), table)
        chosen = next(t for t in advice.trials if t.format is advice.format)
        assert within(chosen, table)
        assert all(not within(t, table) for t in advice.trials if t.bits_per_texel < chosen.bits_per_texel)
        again, decoded = whole_trial(subject(texels), chosen.format, "normal", 1)
        assert weight_of(again.error) == pytest.approx(weight_of(chosen.error))
        assert again.memory == memory(chosen.format, texels.width, texels.height)
        assert 0 < again.size <= again.memory * 1.02
        assert (decoded.width, decoded.height) == (texels.width, texels.height)


def test_a_sample_keeps_blocks_whole():
    big = Texels(np.arange(2048 * 1536, dtype=np.uint32).astype(np.uint8).reshape(1536, 2048, 1), "y", Transfer.LINEAR)
    small = sample_of(big)
    assert (small.width, small.height) == (1024, 1024)
    # Every tile is a piece of the map, from a column and a row that are multiples of twelve.
    assert any(
        np.array_equal(small.pixels[:512, :512], big.pixels[y : y + 512, x : x + 512])
        for y in range(0, 1024, 12) for x in range(0, 1536, 12)
    )  # fmt: skip
    assert sample_of(small) is small


def keys(*words):
    return [one.caution for one in cautions(*words)]


def test_cautions_tell_what_an_encoding_gets_wrong_and_what_it_costs():
    table = parse_table(DESKTOP)
    grey = subject(Texels(smooth(), "y", Transfer.LINEAR, Role.ROUGHNESS))
    assert keys(grey, FORMATS["bc4"], table, Transfer.LINEAR) == []
    (wet,) = cautions(grey, FORMATS["bc4"], table, Transfer.SRGB)
    unit = to_unit(grey.texels.pixels).astype(np.float64)
    # IEC 61966-2-1, written out here.
    read = np.where(unit <= 0.04045, unit / 12.92, ((unit + 0.055) / 1.055) ** 2.4)
    assert (wet.caution, wet.cost) == ("srgb_data", pytest.approx(np.abs(unit - read).mean(), abs=2e-3))
    many = cautions(grey, FORMATS["bc7"], table, Transfer.LINEAR)
    assert [one.caution for one in many] == ["one_channel_in_many", "format_not_allowed"]
    assert many[0].cost == memory(FORMATS["bc7"], 128, 128) - memory(FORMATS["bc4"], 128, 128)
    assert keys(subject(colour()), FORMATS["bc1"], table, Transfer.LINEAR) == ["linear_colour"]
    opaque = np.dstack([colour().pixels, np.full((128, 128), 255, np.uint8)])
    assert keys(subject(colour(opaque, "rgba")), FORMATS["bc7"], table, Transfer.SRGB) == ["alpha_forces_format"]
    odd = subject(colour(colour().pixels[:126, :126]))
    assert keys(odd, FORMATS["bc1"], table, Transfer.SRGB) == ["not_multiple_of_four"]
    assert keys(subject(colour(), mips=False), FORMATS["bc1"], table, Transfer.SRGB) == ["missing_mips"]
    tiny = subject(colour(colour().pixels[:4, :4]))
    assert keys(tiny, FORMATS["bc1"], table, Transfer.SRGB) == ["superfluous_mips"]


def test_a_targets_encodings_are_judged_with_everything_else(capsys, tmp_path):
    simple_set(tmp_path / "in", "deck")
    channels = {"r": {"role": "occlusion"}, "g": {"role": "roughness"}, "b": {"role": "metallic"}}
    target = {
        "format": "fair-texel/target", "version": 1, "name": "wet", "green": "down", "largest": 32,
        "names": {"pattern": "{set}_{output}"},
        "outputs": [{"output": "orm", "channels": channels, "colour_space": "srgb", "container": "dds",
                     "format": "bc7", "quality": "quick", "mips": False}],
    }  # fmt: skip
    (tmp_path / "wet.json").write_text(json.dumps(target))
    code = main(["check", str(tmp_path / "in"), "--target", str(tmp_path / "wet.json"), "--json"])
    found = {f["check"]: f for f in json.loads(capsys.readouterr().out)["findings"]}
    assert code == 1
    assert (found["srgb_data"]["severity"], found["srgb_data"]["file"]) == ("error", "deck_orm.dds")
    assert found["srgb_data"]["measure"] > 0.1
    assert found["larger_than_target"]["threshold"] == 32


def test_tables_that_make_no_sense_are_refused():
    for change, reason in (
        ({"normal": ["bc4"]}, "has 1 channels; normal needs 2"),
        ({"colour": ["bc2"]}, "read, but not written"),
        ({"mask": ["bc99"]}, "there is no format"),
    ):
        with pytest.raises(BadDocument, match=reason):
            parse_table(DESKTOP | {"allowed": DESKTOP["allowed"] | change})
    with pytest.raises(BadDocument, match="there is no table"):
        table_named("laptop")


def test_misreadings_are_those_of_the_trade():
    half = Texels(np.full((4, 4, 1), 128, np.uint8), "y", Transfer.LINEAR, Role.ROUGHNESS)
    # IEC 61966-2-1: 8-bit 128 decoded is 0.21586, the 55th step.
    assert misread(half, "data_as_srgb").pixels[0, 0, 0] == 55
    assert misread(half, "gloss_as_roughness").pixels[0, 0, 0] == 127
    found = {one["misreading"]: one for one in misread_figures(normal_texels())}
    assert set(found) == {"normal_as_srgb", "green_flipped"}
    assert found["green_flipped"]["error"]["degrees"] > 5
    assert "Dents look like bumps" in found["green_flipped"]["symptom"]
    packed = random_texels("rgb")
    assert np.array_equal(misread(packed, "channels_exchanged").pixels, packed.pixels[:, :, ::-1])
    assert [one["misreading"] for one in misread_figures(colour())] == ["colour_as_linear"]
    with pytest.raises(MismatchedMaps, match="cannot be misread as 'green_flipped'; it can as"):
        misread(half, "green_flipped")


def test_the_commands_advise_and_tell_misreadings(capsys, tmp_path):
    simple_set(tmp_path / "in", "deck")
    code = main(["advise", str(tmp_path / "in"), "--target", "orm-y-minus", "--formats", "desktop", "--json"])
    document = json.loads(capsys.readouterr().out)
    assert code in (0, 1)
    assert [one["output"] for one in document["files"]] == ["color", "normal", "orm", "height"]
    assert all(one["trials"][0]["error"] for one in document["files"])
    assert document["memory"] == sum(one["current"]["memory"] for one in document["files"])
    assert main(["misread", str(tmp_path / "in" / "deck_n.png"), "--role", "normal", "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)["misreadings"]) == 2
    assert main(["advise", str(tmp_path / "in"), "--target", "nothing"]) == 2


@pytest.mark.parametrize("name", list(builtin_targets()))
@pytest.mark.parametrize("table", ["desktop", "mobile"])
def test_advice_never_contradicts_the_target(name, table, tmp_path):
    """The faults: a format that the target itself asks for called not allowed; memory that grows by advice."""
    simple_set(tmp_path / "in", "deck", n=32)
    library = Library.of_folder(tmp_path / "in")
    plan = plan_delivery(sort_files(library, "in").sets, library, parse_target(builtin_targets()[name]))
    maps = [planned for planned in plan.files if planned.kind == "map"]
    for planned, one in advise_files(maps, library, parse_table(builtin_tables()[table])):
        own = planned.encoding.format
        assert "format_not_allowed" not in {caution["caution"] for caution in one["cautions"]}
        if own is not None:
            assert one["spared"] >= 0
            assert own.key in {trial["format"] for trial in one["trials"]} | {one["current"]["format"]}
            assert (format_named(one["advised"]).family in ("astc", "etc2")) is (own.family in ("astc", "etc2"))
