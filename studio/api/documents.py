"""Documents as the API takes and gives them: checked by their own schemas, told in the API's document.

The types are those of texel.document_types. A body only has to be an object here; what is wrong with it is told by
whoever parses it, with the place.
"""

from __future__ import annotations

from typing import Annotated, Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema
from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from studio.rules import models as rules
from texel import document_types as types
from texel.schemas import document_types

__all__ = [
    "Channels", "Errors", "Function", "GroundDocument", "GroundShape", "GroundStroke", "GroundTerm", "Habit",
    "Manifest", "Master", "Names", "ParameterValue", "ProjectPart", "Region", "Remedy", "RuleBody", "Sets", "Step",
    "StudioAPI", "Target", "VertexStroke", "document_parts",
]  # fmt: skip


_MARK = "x-documents"


class _Told:
    """Takes any object as it is, and tells of it by the titles of schemas; one of them, where there are several."""

    def __init__(self, *titles: str):
        self.titles = titles

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.dict_schema(keys_schema=core_schema.str_schema())

    def __get_pydantic_json_schema__(self, made: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        # References that pydantic does not know are put in when the whole is there.
        return {_MARK: list(self.titles)}


class _ToldValue(_Told):
    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.any_schema()


Channels = Annotated[types.LayoutChannels, _Told("LayoutChannels")]
Errors = Annotated[types.ErrorFigures, _Told("ErrorFigures")]
Function = Annotated[types.FunctionDocument, _Told("FunctionDocument")]
GroundDocument = Annotated[types.GroundDocument, _Told("GroundDocument")]
GroundShape = Annotated[types.GroundShape, _Told("GroundShape")]
GroundStroke = Annotated[types.GroundStroke, _Told("GroundStroke")]
GroundTerm = Annotated[types.GroundTerm, _Told("GroundTerm")]
Habit = Annotated[types.HabitDocument, _Told("HabitDocument")]
Manifest = Annotated[types.ManifestDocument, _Told("ManifestDocument")]
Master = Annotated[types.MasterDocument, _Told("MasterDocument")]
Names = Annotated[types.NamesDocument, _Told("NamesDocument")]
ParameterValue = Annotated[types.ParameterValue, _ToldValue("ParameterValue")]
Region = Annotated[types.RegionDocument, _Told("RegionDocument")]
Remedy = Annotated[types.RemedyDocument, _Told("RemedyDocument")]
Sets = Annotated[types.SetsDocument, _Told("SetsDocument")]
Step = Annotated[types.StepDocument, _Told("StepDocument")]
Target = Annotated[types.TargetDocument, _Told("TargetDocument")]
VertexStroke = Annotated[types.VertexStrokeDocument, _Told("VertexStrokeDocument")]
RuleBody = Annotated[
    rules.RuleBody,
    _Told(
        "TargetDocument",
        "LayoutDocument",
        "NamesDocument",
        "FormatsDocument",
        "LicencesDocument",
        "MirrorDocument",
        "ModelsDocument",
    ),
]
# What a project's text consists of.
ProjectPart = Annotated[
    dict[str, Any],
    _Told(
        "ProjectDocument", "ProjectSetDocument", "ProjectMasterDocument", "ProjectCastDocument", "ProjectModelDocument",
        "ProjectGroundDocument", "DestinationDocument", "TargetDocument", "LayoutDocument", "NamesDocument",
        "FormatsDocument", "LicencesDocument", "MirrorDocument", "ModelsDocument",
    ),
]  # fmt: skip


def document_parts() -> dict[str, Any]:
    """The schemas of all documents and their parts by title, as the API's document holds them."""

    parts: dict[str, Any] = _with_references(document_types())
    return parts


def _with_references(part: Any) -> Any:
    """A part of a schema that names documents where the API's document holds them."""
    if isinstance(part, list):
        return [_with_references(one) for one in part]
    if not isinstance(part, dict):
        return part
    if "$ref" in part and part["$ref"].startswith("#/$defs/"):
        return {"$ref": part["$ref"].replace("#/$defs/", "#/components/schemas/")}
    if _MARK in part:
        refs = [{"$ref": f"#/components/schemas/{title}"} for title in part[_MARK]]
        return refs[0] if len(refs) == 1 else {"anyOf": refs}
    return {key: _with_references(value) for key, value in part.items()}


class StudioAPI(NinjaAPI):
    """The API, whose document also tells of the documents that it takes and gives."""

    def get_openapi_schema(self, *args: Any, **kwargs: Any) -> OpenAPISchema:
        made = super().get_openapi_schema(*args, **kwargs)
        for key, value in made.items():
            made[key] = _with_references(value)
        made["components"]["schemas"].update(document_parts())
        return made
