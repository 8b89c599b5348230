"""Every operation called with data generated from the API's own document (schemathesis), on a project that has all that
can be asked for: no faults, and answers that are what the document says."""

import json
from collections import Counter
from urllib.parse import quote, urlencode

import jsonschema
import pytest
import schemathesis
from django.contrib.auth import get_user_model
from django.db import transaction
from hypothesis import HealthCheck, Phase, given, settings

from studio.jobs.models import Job
from studio.materials.models import Cast
from studio.sets.models import Finding, Placement, TextureSet, Waiver
from tests.pictures import normal_texels, save, simple_set
from tests.sheets import WET, a_master
from tests.studio.test_odd_inputs import OPENAPI
from texel.roles import Green

pytestmark = pytest.mark.django_db
# They end the session of the test itself, or wait for a person's next event.
_LEFT_OUT = {("DELETE", "/api/session"), ("POST", "/api/session"), ("PUT", "/api/password")}
_EXAMPLES = 6


@pytest.fixture
def everything(call, other, take_in, library, run_jobs, tmp_path, settings):
    """What to put for each name in a path, by the part of the API that it is in."""
    folder = tmp_path / "in"
    simple_set(folder, "deck", n=16)
    simple_set(folder, "hull", normal_word="nor_gl", green=Green.DOWN, seed=9)
    save(folder / "deck_nrm.png", normal_texels(16))
    take_in(folder)
    library("POST", "/masters", a_master())
    library("POST", "/masters/stone/publish", {})
    call("POST", "/materials", {"name": "Quay", "master": "stone"})
    library("POST", "/functions", WET)
    library("POST", "/functions/wet/publish", {})
    for kept in ("/masters/stone", "/functions/wet"):
        library("PUT", f"{kept}/keepers/ada")
    (house,) = call("GET", "/rules/names")
    call("PUT", "/rules/names/house", house["document"])
    finding = Finding.objects.first()
    call("POST", "/waivers", {"finding": finding.pk, "reason": "meant so"})
    call("POST", "/deliveries", {"target": "orm-y-minus"})
    run_jobs()
    library("POST", "/tokens", {"name": "pipeline"})
    mud = {"key": "l2", "name": "Mud", "tile": 1}
    marsh = call("POST", "/grounds", {"name": "Marsh", "side": 128, "layers": [{"name": "Reeds", "tile": 1}, mud]})
    base = Placement.objects.filter(role="base_color").first()
    get_user_model().objects.filter(username="ada").update(is_superuser=True)
    comment = call("POST", "/comments", {"text": "Seam @bram", "set": base.set_id})
    call("POST", "/invitations", {"right": "look"})
    settings.WEBHOOK_HOSTS = ["127.0.0.1"]
    told = {"name": "Build", "address": "http://127.0.0.1/", "events": ["update"]}
    hook = call("POST", "/webhooks", told)
    return {
        "pk": {
            "maps": base.pk, "sets": TextureSet.objects.first().pk, "materials": Cast.objects.get().pk,
            "jobs": Job.objects.first().pk, "waivers": Waiver.objects.get().pk, "intakes": base.intake_id,
            "grounds": marsh["id"], "comments": comment["id"], "webhooks": hook["id"], "reviews": base.set_id,
            "history": call("GET", "/history?kind=waivers")["lines"][0]["id"],
            "invitations": call("GET", "/invitations")[0]["id"],
        },
        "name": {
            "rules": "house", "masters": "stone", "functions": "wet", "targets": "orm-y-minus", "members": "bram",
            "people": "bram",
        },
        "slug": "ferry", "kind": "names", "number": 1, "key": "colour_as_linear", "level": 0, "column": 0, "row": 0,
        "format": "bc7", "what": "decoded", "person": "bram", "index": 0,
    }  # fmt: skip


def place(path, everything, generated):
    """The path with what is there; what nobody prepared is as it was generated."""
    part = next((word for word in reversed(path.split("/{pk}")[0].split("/")) if not word.startswith("{")), "")
    for name, value in {**generated, **everything}.items():
        if isinstance(value, dict):
            nouns = [word for word in path.split("{" + name + "}")[0].split("/") if word and not word.startswith("{")]
            value = value.get(part if name == "pk" else nouns[-1], 1)
        path = path.replace("{" + name + "}", quote(str(value), safe=""))
    return path


# What fields and questions of these names hold, so that most calls ask for what is there.
_KNOWN = {
    "target": "orm-y-minus", "role": "roughness", "right": "look", "recipe": [], "master": "stone", "parent": None,
    "number": "1.0.0", "renames": {}, "formats": ["bc7"], "quality": "fast", "teach": [], "new_set": None,
    "before": "1.0.0", "after": "1.0.0", "expects": "roughness", "space": "linear", "taken": "", "licence": "CC0-1.0",
    "credit": "", "metres": 2.0, "changes": {}, "slots": {}, "seen": {}, "layouts": [], "side": 64, "channel": "",
    "document": a_master(), "functions": [WET],
    "box": "", "project": "ferry", "until": None, "days": 30, "layers": None, "shape": None, "distance": 20,
    "text": "Seen", "state": "ready", "reason": "why", "to": "bram", "keep": "look", "about": "", "cast": None,
    "map": None, "x": None, "y": None, "check": "", "tab": "t1", "address": "a@example.com", "closed": True,
    "stroke": {"layer": "l2", "points": [[1, 1, 1]], "radius": 1, "strength": 1},
}  # fmt: skip


def known(everything, fields):
    """Generated fields, with what is there in those that name something."""
    pks = everything["pk"]
    ids = {"set": pks["sets"], "sets": [pks["sets"]], "into": pks["sets"], "casts": [pks["materials"]], "maps": []}
    return {name: {**_KNOWN, **ids}.get(name, value) for name, value in fields.items() if name != "layer"}


def told(operation, status):
    """The schema of an answer, or None where the document says nothing of it."""
    answer = operation["responses"].get(str(status), {})
    schema = answer.get("content", {}).get("application/json", {}).get("schema")
    return {**schema, "components": OPENAPI["components"]} if schema else None


def wrong_with(call, everything, case, method, path) -> tuple[bool, str]:
    """Whether a call succeeded, and what is wrong with its answer, if anything is."""
    where = place(path, everything, case.path_parameters or {})
    asked = known(everything, case.query or {})
    query = urlencode({key: value for key, value in asked.items() if value is not None}, True)
    fields = known(everything, case.body) if isinstance(case.body, dict) else case.body
    body = json.dumps(fields) if case.media_type == "application/json" else ""
    with transaction.atomic():
        answer = call.client.generic(method, f"{where}?{query}", body, "application/json")
        transaction.set_rollback(True)
    said = b"" if answer.streaming else answer.content[:200]
    words = f"{method} {where}?{query} {body[:200]}: {answer.status_code} {said!r}"
    if answer.status_code >= 500 and path != "/api/health":
        return False, words
    schema = told(OPENAPI["paths"][path][method.lower()], answer.status_code)
    good = answer.status_code < 300
    if good and schema is not None and "json" in answer.headers["Content-Type"]:
        try:
            jsonschema.validate(answer.json(), schema)
        except jsonschema.ValidationError as error:
            return good, f"{words}: {error.message[:200]}"
    return good, ""


def test_every_operation_takes_and_gives_what_its_document_says(everything, call):
    counted: Counter[bool] = Counter()
    refused: Counter[str] = Counter()
    wrong = []

    def checked(operation):
        method = operation.method.upper()

        @settings(
            max_examples=_EXAMPLES, deadline=None, derandomize=True, database=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )  # fmt: skip
        @given(case=operation.as_strategy())
        def run(case):
            good, words = wrong_with(call, everything, case, method, operation.path)
            counted[good] += 1
            refused[f"{method} {operation.path}"] += not good
            if words:
                wrong.append(words)

        return run

    for found in schemathesis.openapi.from_dict(json.loads(json.dumps(OPENAPI))).get_all_operations():
        operation = found.ok()
        if (operation.method.upper(), operation.path) not in _LEFT_OUT:
            checked(operation)()
    assert not wrong, f"{len(wrong)} wrong:\n" + "\n".join(wrong[:30])
    assert sum(counted.values()) > 300
    assert counted[True] > counted[False], f"most calls should succeed: {counted}, {refused.most_common(40)}"
