"""Findings for scripts and servers: rows for JSON, SARIF 2.1.0, and the XML that JUnit made common.

Sources: OASIS, Static Analysis Results Interchange Format 2.1.0; JUnit's results as most servers read them.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import quote
from xml.etree import ElementTree

from rushweed import __version__
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.findings.check import ABOUT, left_alone
from rushweed.core.findings.finding import Finding
from rushweed.core.store.reading import HEAD

SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
LEVELS = {"fault": "error", "hint": "note"}


def reasons(project: Project, findings: list[Finding]) -> dict[Finding, str]:
    """Why findings are left as they are, of those that are."""
    return {finding: left.why for finding, left in left_alone(project, findings)}


def rows(project: Project, findings: list[Finding], files: dict[str, str]) -> list[dict[str, Any]]:
    """One dict a finding: what it is, where it is by ids and file, what its fix would do, and why it is left
    as it is, if it is. files: of each sheet, level and animation in the project's folder, by id."""
    why = reasons(project, findings)
    return [
        {
            "rule": f.rule, "weight": f.weight, "text": f.text, "fix": f.fix.label if f.fix else None,
            "stage": f.place.stage, "sheet": f.place.sheet, "level": f.place.level,
            "animation": f.place.animation, "cells": list(f.place.cells),
            "spot": list(f.place.spot) if f.place.spot is not None else None, "file": file_of(f, files),
            "left_alone": why.get(f),
        }
        for f in findings
    ]  # fmt: skip


def file_of(finding: Finding, files: dict[str, str]) -> str:
    """The file in the project's folder that a finding is about, with forward slashes."""
    place = finding.place
    ids = (place.animation, place.level, place.sheet)
    return next((files[part] for part in ids if part is not None and part in files), HEAD)


def _logical(project: Project, finding: Finding) -> list[dict[str, str]]:
    """Names of what a finding is about, outermost first: sheet, level, animation, cells."""
    place = finding.place
    found = [("module", s.name) for s in project.sheets if s.id == place.sheet]
    found += [("module", v.name) for v in project.levels if v.id == place.level]
    found += [("member", a.name) for a in project.animations if a.id == place.animation]
    wanted = set(place.cells)
    found += [("member", c.name) for s in project.sheets for c in s.cells if c.id in wanted]
    return [{"kind": kind, "name": name} for kind, name in found]


def sarif(project: Project, findings: list[Finding], files: dict[str, str]) -> dict[str, Any]:
    """The findings as one run of SARIF 2.1.0."""
    names = sorted({f.rule for f in findings})
    why = reasons(project, findings)
    results = []
    for f in findings:
        logical = _logical(project, f)
        location: dict[str, Any] = {
            "physicalLocation": {"artifactLocation": {"uri": quote(file_of(f, files))}}
        }
        if logical:
            location["logicalLocations"] = logical
        result: dict[str, Any] = {
            "ruleId": f.rule,
            "ruleIndex": names.index(f.rule),
            "level": LEVELS[f.weight],
            "message": {"text": f.text},
            "locations": [location],
            "properties": {"stage": f.place.stage},
        }
        if f.fix is not None:
            result["properties"]["fix"] = f.fix.label
        if f in why:
            result["suppressions"] = [{"kind": "external", "justification": why[f]}]
        results.append(result)
    driver = {
        "name": "Rushweed",
        "version": __version__,
        "rules": [{"id": name, "shortDescription": {"text": ABOUT[name]}} for name in names],
    }
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}


def junit(project: Project, findings: list[Finding]) -> str:
    """The findings as test cases: one a sheet, level and animation, and one for the project; a fault is a
    failure, hints and what is left as it is stand in a case's own output."""
    why = reasons(project, findings)
    parts: tuple[Sheet | Level | Animation, ...] = (*project.sheets, *project.levels, *project.animations)
    names = {part.id: part.name for part in parts}
    cases: dict[str, list[Finding]] = {key: [] for key in ("", *names)}
    for f in findings:
        place = f.place
        key = next((k for k in (place.animation, place.level, place.sheet) if k in names), "")
        cases[key or ""].append(f)
    failed = sum(any(f.weight == "fault" and f not in why for f in found) for found in cases.values())
    suite = ElementTree.Element(
        "testsuite", name=f"rushweed check {_plain(project.name)}", tests=str(len(cases)),
        failures=str(failed), errors="0", skipped="0",
    )  # fmt: skip
    for key, found in cases.items():
        case = ElementTree.SubElement(
            suite, "testcase", classname=_plain(project.name), name=_plain(names.get(key, "project"))
        )
        faults = [f.text for f in found if f.weight == "fault" and f not in why]
        if faults:
            failure = ElementTree.SubElement(case, "failure", message=_plain(faults[0]), type="fault")
            failure.text = _plain("\n".join(faults))
        hints = [f.text for f in found if f.weight != "fault" and f not in why]
        hints += [f"left as it is ({why[f]}): {f.text}" for f in found if f in why]
        if hints:
            ElementTree.SubElement(case, "system-out").text = _plain("\n".join(hints))
    ElementTree.indent(suite)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(suite, encoding="unicode") + "\n"


def _plain(text: str) -> str:
    """Without the characters that XML does not hold."""
    return "".join(ch for ch in text if ch in "\t\n" or " " <= ch <= "\ud7ff" or "\ue000" <= ch <= "\ufffd"
                   or ch > "\uffff")  # fmt: skip
