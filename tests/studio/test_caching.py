"""What a browser keeps under an address is what that address names."""

import pytest

from tests.pictures import simple_set


@pytest.fixture
def maps(call, take_in, tmp_path):
    """The maps of one set, by role, fresh from the API each time."""
    simple_set(tmp_path / "in", "deck", n=16)
    take_in(tmp_path / "in")
    return lambda: {one["role"]: one for one in call("GET", "/sets")["sets"][0]["maps"]}


def kept(answer):
    return "immutable" in answer.headers["Cache-Control"]


ADDRESSES = ["picture?side=8&", "tile/0/0/0?", "mips/1?", "values?x=0&y=0&width=2&height=2&"]


@pytest.mark.parametrize("address", ADDRESSES)
def test_an_address_that_names_what_it_shows_is_kept(call, maps, address):
    one = maps()["base_color"]
    where = f"/maps/{one['id']}/{address}r=base_color&v={one['digest'][:16]}"
    assert kept(call("GET", where))
    for other in ("", "0" * 16, one["digest"][:8]):
        assert not kept(call("GET", f"/maps/{one['id']}/{address}r=base_color&v={other}"))


@pytest.mark.parametrize("address", ADDRESSES)
def test_an_old_address_is_not_kept_with_new_pixels(call, maps, address):
    """The fault: asked once more after a change, the old address held the new pixels for a year; undo showed them."""
    one = maps()["base_color"]
    old = f"/maps/{one['id']}/{address}r=base_color&v={one['digest'][:16]}"
    call("PUT", f"/maps/{one['id']}/recipe", {"recipe": [{"step": "invert"}]})
    assert not kept(call("GET", old))
    assert kept(call("GET", old.replace(one["digest"][:16], maps()["base_color"]["digest"][:16])))


def test_the_source_is_named_by_its_file(call, maps):
    one = maps()["normal"]
    where = f"/maps/{one['id']}/picture?source=true&r=normal&v="
    assert kept(call("GET", where + one["source"][:16]))
    assert not kept(call("GET", where + one["digest"][:16]))


def test_a_chain_of_roughness_is_named_by_the_normal_map_too(call, maps):
    rough, normal = maps()["roughness"], maps()["normal"]
    where = f"/maps/{rough['id']}/mips/1?r=roughness&v={rough['digest'][:16]}"
    assert kept(call("GET", f"{where}-{normal['digest'][:16]}"))
    assert not kept(call("GET", where))
    call("PUT", f"/maps/{normal['id']}/recipe", {"recipe": [{"step": "flip_green"}]})
    assert not kept(call("GET", f"{where}-{normal['digest'][:16]}"))


def test_a_map_in_another_role_is_another_picture(call, maps):
    one = maps()["roughness"]
    assert not kept(call("GET", f"/maps/{one['id']}/picture?r=metallic&v={one['digest'][:16]}"))


def test_an_output_is_named_by_its_plan(call, maps):
    maps()
    pk = call("GET", "/sets")["sets"][0]["id"]
    output = call("GET", f"/sets/{pk}/outputs?target=gltf")[0]
    where = f"/sets/{pk}/packed?target=gltf&path={output['path']}&v="
    assert kept(call("GET", where + output["plan"][:16]))
    assert not kept(call("GET", where + "0" * 16))
