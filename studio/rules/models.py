"""A project's own rules: targets, layouts, names, formats, licences. Ready-made ones come with the core.

Every change is a new version; versions are never changed, so that what was made by one can always be explained.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

from django.conf import settings
from django.db import models
from django.db.models import Max, QuerySet
from typing_extensions import TypedDict

from studio.changes.engine import change
from studio.changes.errors import Conflict, Stale
from studio.projects.models import Project
from texel.channels.layout import builtin_layouts, parse_layout
from texel.checks import Wanted
from texel.compression import FormatTable, builtin_tables, parse_table
from texel.delivery import Target, builtin_targets, parse_target
from texel.document_types import (
    FormatsDocument,
    LayoutDocument,
    LicencesDocument,
    MirrorDocument,
    ModelsDocument,
    NamesDocument,
    TargetDocument,
)  # fmt: skip
from texel.errors import BadDocument
from texel.licences import LicenceRules, parse_licences
from texel.meshes.rules import DEFAULT_MODELS, ModelRules, parse_models
from texel.mirror import EngineHabits, builtin_mirrors, parse_mirror
from texel.naming.rules import Rules, parse_names
from texel.roles import Green

__all__ = [
    "CopiedFrom", "RuleBody", "RuleDocument", "add_version", "builtin_documents", "choose_target", "documents_of",
    "habits_for", "licences_of", "models_of", "must_be_rule", "names_of", "own_rules", "table_of", "target_documents",
    "target_for", "wanted_of",
]  # fmt: skip


RuleBody = (
    TargetDocument
    | LayoutDocument
    | NamesDocument
    | FormatsDocument
    | LicencesDocument
    | MirrorDocument
    | ModelsDocument
)


class CopiedFrom(TypedDict):
    """The rule of another project that a rule was copied from. number: of its version, 0 for a ready-made one."""

    project: str
    name: str
    number: int


class RuleDocument(models.Model):
    """One version of a rule. origin: where it was copied from, see CopiedFrom. withdrawn: taken back;
    what was made by it keeps it all the same."""

    class Kind(models.TextChoices):
        TARGET = "target"
        LAYOUT = "layout"
        NAMES = "names"
        FORMATS = "formats"
        LICENCES = "licences"
        MIRROR = "mirror"
        MODELS = "models"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="rules")
    kind = models.CharField(max_length=10, choices=Kind.choices, default=Kind.TARGET)
    name = models.CharField(max_length=64)
    number = models.IntegerField()
    document = models.JSONField()
    origin = models.JSONField(null=True)
    withdrawn = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["kind", "name", "number"]
        constraints = [models.UniqueConstraint(fields=["project", "kind", "name", "number"], name="one_rule_version")]


# A project has one set of naming rules, one table of formats and one list of licences; they go by this name.
_ONLY = "house"
_PARSERS: dict[str, Callable[[Any, str], Any]] = {
    "target": parse_target, "layout": parse_layout, "names": parse_names, "formats": parse_table,
    "licences": parse_licences, "mirror": parse_mirror, "models": parse_models,
}  # fmt: skip
_SINGLE = ("names", "formats", "licences", "models")
_DEFAULT_NAMES: NamesDocument = {
    "format": "fair-texel/names", "version": 1, "title": "asset_suffix",
    "parts": [
        {"part": "asset"}, {"part": "suffix"}, {"part": "resolution", "optional": True},
        {"part": "version", "optional": True},
    ],
    "suffixes": {
        "base_color": "bc", "normal": "n", "roughness": "r", "metallic": "m", "occlusion": "ao", "height": "h",
        "emissive": "e", "opacity": "o", "glossiness": "gloss", "specular": "spec", "detail_mask": "dmask",
        "orm": "orm", "mrao": "mrao", "ord": "ord",
    },
}  # fmt: skip
_DEFAULT_LICENCES: LicencesDocument = {
    "format": "fair-texel/licences", "version": 1, "title": "Own work and public domain", "unknown": "warning",
    "terms": [
        {"licence": "LicenseRef-own-work", "use": "free", "why": "Made in the house."},
        {"licence": "CC0-1.0", "use": "free"},
        {"licence": "CC-BY-4.0", "use": "credit"},
        {"licence": "CC-BY-NC-4.0", "use": "refused", "why": "Not for what is sold."},
    ],
}  # fmt: skip


def builtin_documents(kind: str) -> dict[str, RuleBody]:
    """The ready-made documents of a kind, by name. Raises BadDocument for a kind that there is not."""
    if kind not in _PARSERS:
        raise BadDocument("{kind!r} is no kind of rule; there are {listed}", kind=kind, listed=", ".join(_PARSERS))
    if kind == "target":
        return {**builtin_targets()}
    if kind == "layout":
        return {**builtin_layouts()}
    if kind == "mirror":
        return {**builtin_mirrors()}
    if kind == "licences":
        return {_ONLY: _DEFAULT_LICENCES}
    if kind == "models":
        return {_ONLY: DEFAULT_MODELS}
    return {_ONLY: _DEFAULT_NAMES if kind == "names" else builtin_tables()["desktop"]}


def documents_of(project: Project, kind: str) -> dict[str, RuleBody]:
    """Every document of a kind that a project may use, the newest version of each, by name. Raises BadDocument."""
    documents = dict(builtin_documents(kind))
    for own in own_rules(project, kind):
        documents[own.name] = own.document
    return documents


def add_version(
    project: Project, kind: str, name: str, document: RuleBody, by: Any = None,
    origin: CopiedFrom | None = None, seen: int | None = None,
) -> RuleDocument:  # fmt: skip
    """A new version of a rule of the project's own; can be undone.

    seen: the number of the version that it follows, 0 for the ready-made document. Raises BadDocument when it does not
    follow its schema, Stale when there is a newer version than the one that was seen.
    """
    must_be_rule(kind, name, document)
    with change(project, by, f"New version of {document.get('title') or name}") as doing:
        newest = own_rules(project, kind).filter(name=name).last()
        if seen is not None and seen != (newest.number if newest else 0):
            if newest is None:
                raise Conflict("{name} was taken back meanwhile. Look at it again.", name=name)
            raise Stale(
                newest,
                "There is a newer version of {name}, number {number}. Look at it again.",
                name=name,
                number=newest.number,
            )
        last = project.rules.filter(kind=kind, name=name).aggregate(last=Max("number"))["last"] or 0
        return doing.create(
            RuleDocument, project=project, kind=kind, name=name, number=last + 1, document=document, by=by,
            origin=origin,
        )  # fmt: skip


def must_be_rule(kind: str, name: str, document: Any) -> None:
    """Raises BadDocument for a kind that there is not, and for a document that is none of it, or called otherwise."""
    builtin_documents(kind)
    parsed = _PARSERS[kind](document, name)
    if kind in _SINGLE and name != _ONLY:
        raise BadDocument("a project has one set of {kind}, called {only!r}", kind=kind, only=_ONLY)
    if kind in ("target", "layout", "mirror") and parsed.name != name:
        raise BadDocument("the document is called {parsed}, the address says {name}", parsed=parsed.name, name=name)


def own_rules(project: Project, kind: str) -> QuerySet[RuleDocument]:
    """A project's own versions of a kind of rule, the older first; without those that were taken back."""
    return project.rules.filter(kind=kind, withdrawn=False).order_by("number")


def target_documents(project: Project) -> dict[str, TargetDocument]:
    """Every target that a project may deliver to, by name."""
    return cast(dict[str, TargetDocument], documents_of(project, "target"))


def target_for(project: Project, name: str) -> Target:
    """Raises BadDocument when there is none of that name."""
    documents = target_documents(project)
    if name not in documents:
        raise BadDocument("there is no target {name!r}; there are {listed}", name=name, listed=", ".join(documents))
    return parse_target(documents[name], name)


def habits_for(project: Project, target: Target) -> EngineHabits:
    """The habits of the engine that a target is for: those that it names, else ready-made ones of its direction of
    green. Raises BadDocument where it names some that there are not."""
    documents = documents_of(project, "mirror")
    name = target.mirror or ("by-suffix-y-plus" if target.green is Green.UP else "by-suffix-y-minus")
    if name not in documents:
        raise BadDocument(
            "{title} names the habits {name!r}; there are {listed}",
            title=target.title,
            name=name,
            listed=", ".join(documents),
        )
    return parse_mirror(documents[name], name)


def choose_target(project: Project, name: str, by: Any, seen: int | None = None) -> None:
    """Deliver to a target by default; can be undone. Raises BadDocument when there is none of that name, Stale."""
    with change(project, by, f"Deliver to {name}") as doing:
        row = doing.row(Project, project.pk, seen)
        target_for(project, name)
        doing.update(row, target=name)


def wanted_of(project: Project) -> Wanted:
    """What the project's own target asks of maps, as the checks take it."""
    target = target_for(project, project.target)
    # The ready-made rules for names are an offer; only what a project made its own is enforced.
    own = own_rules(project, "names").exists()
    return Wanted(target.title, target.largest, names_of(project) if own else None, licences_of(project), target.green)


def names_of(project: Project) -> Rules:
    return parse_names(documents_of(project, "names")[_ONLY])


def licences_of(project: Project) -> LicenceRules | None:
    """None while the project has none of its own: the ready-made ones are an offer."""
    own = own_rules(project, "licences").last()
    return parse_licences(own.document) if own else None


def table_of(project: Project) -> FormatTable:
    return parse_table(documents_of(project, "formats")[_ONLY])


def models_of(project: Project) -> ModelRules:
    """What the project asks of models: its own rules, else the ready-made ones."""
    return parse_models(documents_of(project, "models")[_ONLY])
