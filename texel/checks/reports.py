"""Findings as build pipelines read them: JUnit XML and SARIF.

JUnit: the form that build servers agree on (there is no standard; a ``testsuite`` for each set, a ``testcase`` for each
map). SARIF: OASIS, Static Analysis Results Interchange Format 2.1.0.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Any
from urllib.parse import quote
from xml.etree import ElementTree

from texel.checks.finding import Finding, Severity
from texel.checks.titles import title_of
from texel.sets import TextureSet

__all__ = ["junit", "sarif"]

_LEVELS = {Severity.ERROR: "error", Severity.WARNING: "warning", Severity.NOTE: "note"}
# What XML 1.0 cannot hold (section 2.2, Char).
_NO_XML = re.compile("[^\t\n\r -\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"


def _xml(text: object) -> str:
    return _NO_XML.sub("�", str(text))


def junit(sets: Sequence[TextureSet], findings: Iterable[Finding]) -> str:
    """An XML document: each map of a set is a case, which fails with its errors; warnings stand in its output. What is
    about a set as a whole is a case of its own.

    >>> from texel.roles import Role
    >>> one = TextureSet("deck", ())
    >>> text = junit([one], [Finding("size", Severity.ERROR, "deck", "too large", Role.NORMAL, "n.png")])
    >>> ElementTree.fromstring(text).attrib
    {'tests': '2', 'failures': '1'}
    """
    cases: dict[str, dict[str, list[Finding]]] = {
        one.name: {"set": [], **{f"{ref.role.value}: {ref.file}": [] for ref in one.maps}} for one in sets
    }
    for found in findings:
        name = f"{found.role.value}: {found.file}" if found.role and found.file else found.file or "set"
        cases.setdefault(found.set or "undecided files", {}).setdefault(name, []).append(found)
    root = ElementTree.Element("testsuites")
    counts = [0, 0]
    for suite_name, of_suite in cases.items():
        failing = sum(any(one.severity is Severity.ERROR for one in told) for told in of_suite.values())
        counts = [counts[0] + len(of_suite), counts[1] + failing]
        facts = {"name": _xml(suite_name), "tests": str(len(of_suite)), "failures": str(failing)}
        suite = ElementTree.SubElement(root, "testsuite", facts)
        for case_name, told in of_suite.items():
            case = ElementTree.SubElement(suite, "testcase", {"classname": _xml(suite_name), "name": _xml(case_name)})
            errors = [one for one in told if one.severity is Severity.ERROR]
            if errors:
                facts = {"type": errors[0].check, "message": _xml(errors[0].message)}
                failure = ElementTree.SubElement(case, "failure", facts)
                failure.text = _xml("\n".join(str(one.message) for one in errors))
            others = [one for one in told if one.severity is not Severity.ERROR]
            if others:
                lines = (f"{one.severity.value}: {one.message}" for one in others)
                ElementTree.SubElement(case, "system-out").text = _xml("\n".join(lines))
    root.attrib |= {"tests": str(counts[0]), "failures": str(counts[1])}
    text: str = ElementTree.tostring(root, "unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{text}\n'


def sarif(findings: Iterable[Finding], version: str = "1") -> dict[str, Any]:
    """A SARIF log with one run; places are files, relative to the folder that was checked (``%SRCROOT%``).

    >>> log = sarif([Finding("size", Severity.WARNING, "deck", "too large", file="a b/n.png")])
    >>> log["runs"][0]["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]
    {'uri': 'a%20b/n.png', 'uriBaseId': '%SRCROOT%'}
    """
    told = list(findings)
    rules: dict[str, int] = {}
    for one in told:
        rules.setdefault(one.check, len(rules))
    driver = {
        "name": "Fair Texel", "version": version,
        "rules": [{"id": check, "shortDescription": {"text": title_of(check)}} for check in rules],
    }  # fmt: skip
    run = {"tool": {"driver": driver}, "results": [_result(one, rules[one.check]) for one in told]}
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [run]}


def _result(one: Finding, rule: int) -> dict[str, Any]:
    properties: dict[str, Any] = {}
    for key, value in (("set", one.set), ("role", one.role and one.role.value), ("measure", one.measure)):
        if value is not None and value != "":
            properties[key] = value
    result: dict[str, Any] = {
        "ruleId": one.check, "ruleIndex": rule, "level": _LEVELS[one.severity],
        "message": {"text": str(one.message)}, "properties": properties,
    }  # fmt: skip
    if one.file:
        place = {"artifactLocation": {"uri": quote(one.file), "uriBaseId": "%SRCROOT%"}}
        result["locations"] = [{"physicalLocation": place}]
    return result
