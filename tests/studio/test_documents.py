"""Documents are typed once, by their JSON schemas: in Python, in the API's document, and so on the page."""

import ast
import json
from pathlib import Path

import jsonschema
import numpy as np
import pytest

from ground.document_types import OUTPUT, types_text
from studio.api import api
from texel.checks import check_sets
from texel.image import Texels
from texel.library import Library, list_files
from texel.measures import Kind, compare
from texel.roles import Role, Transfer
from texel.schemas import check_document, document_types
from texel.sorting import sort_files

STUDIO = Path(__file__).resolve().parents[2] / "studio"


def test_the_types_are_made_of_the_schemas():
    assert types_text() == OUTPUT.read_text(), "run python -m ground.document_types"


def test_every_part_is_a_sound_schema_with_references_that_lead_somewhere():
    whole = {"$defs": document_types()}
    jsonschema.Draft202012Validator.check_schema(whole)
    text = json.dumps(whole)
    assert all(f'"#/$defs/{title}"' in text or title.endswith(("Document", "Figures")) for title in whole["$defs"])


def test_the_api_tells_of_documents_by_name():
    told = api.get_openapi_schema()
    body = told["paths"]["/api/projects/{slug}/targets/{name}"]["put"]["requestBody"]["content"]["application/json"]
    assert body["schema"]["$ref"] == "#/components/schemas/TargetDocument"
    outputs = told["components"]["schemas"]["TargetDocument"]["properties"]["outputs"]
    assert outputs["items"] == {"$ref": "#/components/schemas/OutputDocument"}


def test_every_reference_of_the_api_leads_somewhere():
    told = json.loads(json.dumps(api.get_openapi_schema()))
    known = told["components"]["schemas"]

    def references(part):
        if isinstance(part, dict):
            yield from [part["$ref"]] if isinstance(part.get("$ref"), str) else []
            part = list(part.values())
        for one in part if isinstance(part, list) else ():
            yield from references(one)

    assert {one.rsplit("/", 1)[-1] for one in references(told)} <= set(known)
    assert "x-documents" not in json.dumps(told)


@pytest.mark.parametrize("kind", list(Kind))
def test_errors_are_what_their_schema_says(kind):
    pixels = np.random.default_rng(4).integers(0, 255, (16, 16, 4), np.uint8)
    role = {Kind.COLOUR: Role.BASE_COLOR, Kind.NORMAL: Role.NORMAL, Kind.MASK: Role.OPACITY}[kind]
    one = Texels(pixels, "rgba", Transfer.LINEAR, role=role)
    check_document(compare(one, one.with_pixels(pixels // 2), kind), "error", "the error")


def test_findings_are_what_their_schema_says(demo_folders):
    library = Library(list_files(demo_folders))
    found = check_sets(sort_files(library).sets, library)
    assert {"step", "action"} <= {key for one in found if one.remedy for key in one.remedy}
    for one in found:
        check_document(json.loads(json.dumps(one.document())), "finding", one.check)


def test_no_part_of_the_studio_hands_on_objects_of_any_shape():
    """Functions that other modules call, and what the API takes and answers, say what they hold."""
    loose = []
    for path in STUDIO.rglob("*.py"):
        if "migrations" in path.parts or path.name == "documents.py":
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                notes = [each.annotation for each in node.args.args] + [node.returns]
            elif isinstance(node, ast.AnnAssign):
                notes = [node.annotation]
            else:
                continue
            loose += [f"{path.name}:{node.lineno}" for one in notes if one and "dict[str, Any]" in ast.unparse(one)]
    assert loose == ["restoring.py:143"]  # a function's own


def test_no_two_schemas_of_the_api_have_one_name():
    """The API's document names them by their class alone: of two with one name, one would stand for both."""
    classes = [
        node.name
        for path in [*(STUDIO / "api").rglob("*.py"), *STUDIO.rglob("facts.py")]
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.ClassDef) and any(ast.unparse(base) in ("Schema", "TypedDict") for base in node.bases)
    ]
    assert len(classes) > 50  # so many that the walk has found them
    assert sorted(classes) == sorted(set(classes))
