"""Vertex colours of a model painted through the API: kept, drawn, delivered, undone stroke by stroke."""

import numpy as np
import pytest

from studio.deliveries.models import Delivery
from studio.meshes.measuring import worn_mesh
from studio.meshes.models import Mesh, MeshStroke
from tests.core.test_vertex_painting import layers_of
from tests.meshes import glb, quad
from tests.studio.test_models import boat, send, sets

__all__ = ["boat", "sets"]

pytestmark = pytest.mark.django_db
STROKE = {
    "channel": "red",
    "slot": "M_hull",
    "points": [[0.5, 0, 0.5, 0, 1, 0, 1]],
    "radius": 1,
    "strength": 1,
    "falloff": 0,
}


def paint(call, boat, status=200, **more):
    return call("POST", f"/models/{boat['id']}/strokes", {"stroke": {**STROKE, **more}}, status=status)


def reds():
    return {
        one.part: one.colours[:, 0].max() if one.colours is not None else 0
        for one in worn_mesh(Mesh.objects.get()).pieces
    }


def test_a_stroke_is_kept_and_drawn_on_its_slot_alone(call, boat):
    told = paint(call, boat)["model"]
    assert (told["strokes"], told["painted"]) == (1, {"red": 1})
    assert reds() == {"hull": 1, "rail": 0, "deck": 0}
    assert told["picture"] != boat["picture"]


def test_a_coarse_mesh_is_told_with_what_the_border_wants(call, boat):
    told = paint(call, boat, falloff=0.5)
    assert told["spacing"] == pytest.approx((2 + np.sqrt(2)) / 3)
    assert told["wanted"] == pytest.approx(0.25)
    assert paint(call, boat, radius=20, falloff=0.5)["spacing"] is None


def test_strokes_are_undone_one_by_one_and_cleared_by_channel(call, boat):
    paint(call, boat)
    paint(call, boat, channel="green")
    call("POST", "/undo")
    assert call("GET", f"/models/{boat['id']}")["painted"] == {"red": 1}
    call("POST", "/redo")
    assert call("DELETE", f"/models/{boat['id']}/strokes?channel=red")["painted"] == {"green": 1}
    call("POST", "/undo")
    assert call("GET", f"/models/{boat['id']}")["strokes"] == 2
    assert call("DELETE", f"/models/{boat['id']}/strokes")["strokes"] == 0


def test_painting_stays_when_the_model_is_exported_again_and_goes_with_it(call, boat, run_jobs):
    paint(call, boat)
    again = {"boat.glb": glb(quad(part="hull", slot="M_hull"), quad(part="mast", slot="rope", at=9))}
    send(call, again, f"/models/{boat['id']}/models")
    run_jobs()
    assert reds() == {"hull": 1, "mast": 0}
    call("DELETE", f"/models/{boat['id']}", status=204)
    assert not MeshStroke.objects.exists()
    call("POST", "/undo")
    assert MeshStroke.objects.count() == 1


@pytest.mark.parametrize(
    ("bad", "status", "words"),
    [
        ({"slot": "mast"}, 409, "no slot 'mast'"), ({"channel": "first"}, 422, "channel"),
        ({"points": []}, 422, "points"), ({"points": [[0, 0, 0, 0, 0, 0, 1]]}, 422, "no normal"),
    ],
)  # fmt: skip
def test_strokes_that_cannot_be_laid_are_refused_and_leave_nothing(call, boat, bad, status, words):
    assert words in str(paint(call, boat, status=status, **bad))
    assert not MeshStroke.objects.exists()


def test_painting_is_delivered_with_the_model(call, boat, sets, run_jobs):
    paint(call, boat)
    wears = {"M_hull": {"kind": "set", "id": sets["hull"]}, "deck": {"kind": "set", "id": sets["rope"]}}
    wears["rope"] = wears.pop("deck")
    call("PATCH", f"/models/{boat['id']}", {"wears": wears})
    call("POST", "/deliveries", {"target": "orm-y-minus", "sets": [], "models": None})
    run_jobs()
    data = (Delivery.objects.get().folder / "models/boat.glb").read_bytes()
    assert layers_of(data)["hull"][:, 0].all()
    assert not layers_of(data)["rail"][:, 0].any()


def test_who_may_look_only_may_not_paint(boat, sign_in):
    looker = sign_in("look", "cleo")
    paint(looker, boat, status=403)
