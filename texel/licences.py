"""Licences: the terms that a set came under, and what a project may take (schema "licences").

Names are identifiers of the SPDX License List (SPDX is ISO/IEC 5962), or LicenseRef-... for terms that are not on it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from texel import digest
from texel.errors import BadDocument
from texel.messages import message_of
from texel.schemas import check_document

__all__ = ["UNTOLD", "Licence", "LicenceRules", "Objection", "Terms", "licence_key", "objection", "parse_licences"]

Harm = Literal["error", "warning", "note"]


@dataclass(frozen=True)
class Licence:
    """name: "" while nobody said. credit: who is to be named, as the licence asks."""

    name: str = ""
    credit: str = ""

    def document(self) -> dict[str, str]:
        return {"name": self.name} | ({"credit": self.credit} if self.credit else {})


UNTOLD = Licence()


@dataclass(frozen=True)
class Terms:
    """use: free, credit (whoever made it is to be named) or refused. why: the reason, for people."""

    name: str
    use: Literal["free", "credit", "refused"]
    why: str = ""


@dataclass(frozen=True)
class LicenceRules:
    """terms: by name in small letters, as SPDX compares them. unknown: how bad a set is whose licence nobody told."""

    terms: Mapping[str, Terms]
    unknown: Harm = "warning"
    title: str = ""


class Objection(NamedTuple):
    """check: licence_unknown, licence_refused or credit_missing."""

    check: str
    harm: Harm
    message: str

    @property
    def refuses(self) -> bool:
        """Whether the project may not use the set at all."""
        return self.harm == "error"


def licence_key(name: str) -> str:
    """What a waiver about the licence of a set holds for: another licence needs another waiver."""
    return digest.of_document(["licence", name.lower()])


def parse_licences(document: Any, where: str = "the licences") -> LicenceRules:
    """Rules from their JSON document. Raises BadDocument, also when a licence stands twice."""
    check_document(document, "licences", where)
    terms: dict[str, Terms] = {}
    for entry in document["terms"]:
        one = Terms(entry["licence"], entry["use"], entry.get("why", ""))
        if terms.setdefault(one.name.lower(), one) is not one:
            raise BadDocument(
                "{where}: {one} stands twice, so nothing could tell which counts", where=where, one=one.name
            )
    return LicenceRules(terms, document.get("unknown", "warning"), document.get("title", ""))


def objection(licence: Licence, rules: LicenceRules | None) -> Objection | None:
    """What speaks against using a set of this licence; None where nothing does, or where there are no rules."""
    if rules is None:
        return None
    if not licence.name:
        return Objection("licence_unknown", rules.unknown, message_of("licence_unknown"))
    terms = rules.terms.get(licence.name.lower())
    if terms is None:
        message = message_of("licence_not_listed", licence=licence.name)
        return Objection("licence_refused", "error", message)
    if terms.use == "refused":
        message = message_of("licence_refused", licence=terms.name)
        if terms.why:
            message = message_of("licence_refused_why", licence=terms.name, why=terms.why)
        return Objection("licence_refused", "error", message)
    if terms.use == "credit" and not licence.credit:
        return Objection("credit_missing", "warning", message_of("credit_missing", licence=terms.name))
    return None
