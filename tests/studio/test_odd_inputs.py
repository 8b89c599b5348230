"""Every operation of the API with odd input, on a project that has sets: a clear refusal each time, never a fault."""

import itertools
import json
from pathlib import Path
from urllib.parse import quote

import pytest
from django.contrib.auth import get_user_model
from django.db import OperationalError, transaction
from django.test import Client

from studio.materials.models import Master
from studio.sets.models import TextureSet
from tests.pictures import simple_set

OPENAPI = json.loads((Path(__file__).parents[2] / "studio/api/openapi.json").read_text("utf-8"))
# What nobody means, as JSON text: json.dumps would not write all of it.
DEEP = "[" * 3000 + "]" * 3000
ODD = {
    "nothing": "null", "list": "[]", "empty": "{}", "text": '""', "nul": '"a\\u0000b"', "half a character": '"\\ud800"',
    "long": json.dumps("x" * 5000), "huge": "1" + "0" * 400, "beyond 64 bits": "9223372036854775808", "negative": "-1",
    "infinite": "1e999", "Infinity": "Infinity", "NaN": "NaN", "deep": DEEP, "very deep": "[" * 200000,
    "list of lists": '{"step": []}', "true": "true",
}  # fmt: skip
PLACES = ["a%00b", "%ED%A0%80", "x" * 300, "-1", "99999999999999999999", "..%2F..%2Fetc", "%F0%9F%92%A9"]


def operations():
    return [
        (method.upper(), path, operation)
        for path, methods in OPENAPI["paths"].items()
        for method, operation in methods.items()
        # Signing out would end the test's own session.
        if not path.endswith("/session/end")
    ]


def resolved(schema):
    while "$ref" in schema:
        schema = OPENAPI["components"]["schemas"][schema["$ref"].rsplit("/", 1)[-1]]
    return schema


def sound(schema, depth=0):
    """A value that the schema takes, as far as it tells."""
    schema = resolved(schema)
    for choice in ("anyOf", "oneOf", "allOf"):
        if choice in schema:
            return sound(schema[choice][0], depth + 1)
    if "enum" in schema or "const" in schema:
        return schema.get("const", schema.get("enum", [None])[0])
    kind = schema.get("type", "object")
    if kind == "object":
        needed = schema.get("required", ())
        return {name: sound(one, depth + 1) for name, one in schema.get("properties", {}).items() if name in needed}
    return {"string": "word", "integer": 1, "number": 0.5, "boolean": True, "array": [], "null": None}.get(kind)


def bodies(operation):
    """JSON texts: a sound one, odd ones in its place, and sound ones of which one field is odd."""
    content = operation.get("requestBody", {}).get("content", {}).get("application/json")
    if content is None:
        return [""]
    schema = resolved(content["schema"])
    good = sound(schema)
    found = [json.dumps(good), "", "{", *ODD.values()]
    for name in schema.get("properties", {}):
        for odd in ODD.values():
            rest = json.dumps({key: value for key, value in (good or {}).items() if key != name})
            found.append(rest[:-1] + (", " if len(rest) > 2 else "") + f"{json.dumps(name)}: {odd}}}")
    return found


@pytest.fixture
def prepared(call, take_in, library, tmp_path):
    """A signed-in client, and what to put for each name in a path."""
    simple_set(tmp_path / "in", "deck", n=16)
    take_in(tmp_path / "in")
    one = TextureSet.objects.get()
    values = {
        "slug": "ferry", "pk": one.pk, "name": "gltf", "number": 1, "kind": "target", "key": "base_color", "level": 0,
        "column": 0, "row": 0, "format": "bc7", "what": "map",
    }  # fmt: skip
    return call.client, values


def faults(client, method, path, texts):
    """Answers of 500 and more, and answers that are not JSON where the API refuses."""
    for text in texts:
        try:
            with transaction.atomic():
                answer = client.generic(method, path, text, "application/json")
                transaction.set_rollback(True)
        except Exception as error:
            yield f"{method} {path[:80]} {text[:60]!r}: {type(error).__name__}: {error}"[:300]
            continue
        if answer.status_code >= 500 and path != "/api/health":
            yield f"{method} {path[:80]} {text[:60]!r}: {answer.status_code}"
        elif answer.status_code >= 400 and "json" not in answer.headers.get("Content-Type", ""):
            yield f"{method} {path[:80]} {text[:60]!r}: {answer.status_code}, no JSON"


def filled(path, values, **odd):
    for name, value in {**values, **odd}.items():
        path = path.replace("{" + name + "}", quote(str(value), safe="%"))
    for part in path.split("/"):
        if part.startswith("{"):
            path = path.replace(part, "1")
    return path


def test_odd_bodies_are_refused(prepared):
    client, values = prepared
    found = [
        fault
        for method, path, operation in operations()
        for fault in faults(client, method, filled(path, values), bodies(operation))
    ]
    assert not found, f"{len(found)} faults:\n" + "\n".join(found[:40])


def test_odd_places_are_refused(prepared):
    client, values = prepared
    found = []
    for method, path, operation in operations():
        names = [part[1:-1] for part in path.split("/") if part.startswith("{")]
        text = bodies(operation)[0]
        for name, odd in itertools.product(names, PLACES):
            found += faults(client, method, filled(path, {**values, name: odd}), [text])
    assert not found, f"{len(found)} faults:\n" + "\n".join(found[:40])


def test_odd_questions_are_refused(prepared):
    client, values = prepared
    found = []
    for method, path, operation in operations():
        for asked in (one for one in operation.get("parameters", ()) if one["in"] == "query"):
            for odd in PLACES:
                where = f"{filled(path, values)}?{asked['name']}={odd}"
                found += faults(client, method, where, [bodies(operation)[0]])
    assert not found, f"{len(found)} faults:\n" + "\n".join(found[:40])


def test_a_stranger_gets_json_too(db):
    get_user_model().objects.create_user("mallory", password="tide-table-9")
    found = []
    for method, path, _ in operations():
        found += faults(Client(), method, filled(path, {"slug": "ferry"}), [""])
    assert not found, "\n".join(found[:20])
    assert Master.objects.count() == 0


def test_a_search_of_many_words_is_one_question(library, django_assert_max_num_queries):
    """The fault: every word doubled the query; thirteen took a minute."""
    library("GET", "/masters")  # the first request of a session notes it
    with django_assert_max_num_queries(12):
        assert library("GET", "/masters?search=" + "+".join(f"word{at}" for at in range(60))) == []


@pytest.mark.parametrize(
    ("error", "status", "word"),
    [
        (OSError(28, "No space left on device", "/var/lib/place"), 507, "no room"),
        (OperationalError("server closed the connection to 10.0.0.7"), 503, "database does not answer"),
        (KeyError("/var/lib/place"), 500, "fault of the studio's own"),
        (FileNotFoundError(2, "gone", "/var/lib/place"), 500, "fault of the studio's own"),
    ],
)
def test_what_nobody_thought_of_is_json_without_a_word_about_the_machine(call, monkeypatch, error, status, word):
    def fails(*_):
        raise error

    monkeypatch.setattr("studio.api.sets.last_undo", fails)
    told = call("GET", "/sets", status=status)["detail"]
    assert word in told
    assert "/var" not in told
    assert "10.0" not in told
