"""Every operation that the API's document names, with a request that its schema takes."""

from __future__ import annotations

import json
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

DOCUMENT = json.loads(Path("studio/api/openapi.json").read_text())
ROUTES = [(method.upper(), path) for path, methods in DOCUMENT["paths"].items() for method in methods]
NAMED = {"slug": "ferry", "person": "zoe"}


def _resolved(schema):
    return DOCUMENT["components"]["schemas"][schema["$ref"].rsplit("/", 1)[-1]] if "$ref" in schema else schema


def least(schema):
    """The least value that a schema takes."""
    schema = _resolved(schema)
    for word in ("anyOf", "oneOf", "allOf"):
        if word in schema:
            return least(schema[word][0])
    if "enum" in schema or "const" in schema:
        return schema.get("const", schema.get("enum", [None])[0])
    kind = schema.get("type", "object")
    if kind == "object":
        wanted = schema.get("required", ())
        parts = {name: part for name, part in schema.get("properties", {}).items() if name in wanted}
        return {name: NAMED["slug"] if name == "project" else least(part) for name, part in parts.items()}
    if kind == "array":
        return [least(schema["items"])] * schema.get("minItems", 0)
    plain = {"string": "x", "integer": 1, "number": 1, "boolean": True, "null": None}
    return schema.get("minimum", plain[kind]) if kind in ("integer", "number") else plain[kind]


def filled(method, path, names):
    """The path with a project that there is, and things in it that there are not, but for those that are named."""
    asked = []
    for one in DOCUMENT["paths"][path][method.lower()].get("parameters", ()):
        if one["in"] == "path":
            missing = 999999 if _resolved(one["schema"]).get("type") == "integer" else "nothing"
            path = path.replace(f"{{{one['name']}}}", str(names.get(one["name"], missing)))
        elif one["in"] == "query" and one.get("required"):
            asked.append(f"{one['name']}={least(one['schema'])}")
    return "?".join([path, *(["&".join(asked)] if asked else [])])


def call(client, method, path, headers=None, **names):
    """The answer; whatever the call changed is taken back, signing out too."""
    body = DOCUMENT["paths"][path][method.lower()].get("requestBody", {}).get("content", {})
    point, cookies = transaction.savepoint(), client.cookies.copy()
    try:
        where = filled(method, path, {**NAMED, **names})
        if "multipart/form-data" in body:
            fields = least(body["multipart/form-data"]["schema"])
            files = {"file": SimpleUploadedFile("a.png", b"x"), "files": [SimpleUploadedFile("a.png", b"x")]}
            return getattr(client, method.lower())(where, {**fields, **files}, headers=headers)
        data = json.dumps(least(body["application/json"]["schema"])) if body else ""
        return client.generic(method, where, data, "application/json", headers=headers)
    finally:
        transaction.savepoint_rollback(point)
        client.cookies = cookies
