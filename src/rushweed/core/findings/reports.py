"""Findings for scripts and servers: rows for JSON, SARIF 2.1.0, and the XML that JUnit made common.

Sources: OASIS, Static Analysis Results Interchange Format 2.1.0; JUnit's results as most servers read them.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import quote
from xml.etree import ElementTree

from rushweed import __version__
from rushweed.core.document.model import Animation, Level, Project, Sheet
from rushweed.core.findings.finding import Finding
from rushweed.core.store.folder import HEAD

SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
LEVELS = {"fault": "error", "hint": "note"}


ABOUT = {
    "auto-conflict": "Tiles that stand in more than one auto-tile set.",
    "auto-gap": "An auto-tile set that has no tile for a case.",
    "auto-gone": "An auto-tile set with tiles whose cells are gone.",
    "blocks-spoil": "Pixel art that a block codec would spoil.",
    "body-below-feet": "A body that reaches below the feet of every frame.",
    "changed-source": "A picture whose file holds another picture than the one that is shown.",
    "crossing-shape": "A shape whose edges cross.",
    "cut-art": "Cells whose border cuts through art.",
    "feet-drift": "Frames whose feet wander by a px or a few.",
    "fractional-shape": "A shape with corners between pixels.",
    "frame-gone": "An animation that shows cells that are gone.",
    "gone-cell": "Tiles of a level whose cells are gone.",
    "gone-thing": "Things of a level that show what is gone.",
    "grid-remainder": "Px that lie outside every cell because the grid does not come out even.",
    "kept-aside": "Cells that lie outside their picture since that shrank.",
    "linear-pixel-art": "Pixel art that is filtered.",
    "missing-attribution": "A licence that asks for its author where nobody is named.",
    "missing-licence": "A sheet that says nothing of its licence.",
    "missing-source": "A sheet whose picture is gone or broken.",
    "mixed-ppu": "A level whose sheets do not share their pixels per unit.",
    "neighbour-art": "Cells that hold art of a neighbour.",
    "no-gutter": "A filtered sheet whose tiles stand side by side without a gutter.",
    "normal-map": "A normal map that is missing or of another size.",
    "nothing-cut": "A cut that leaves no cell.",
    "over-limit": "A picture larger than its way to ship allows.",
    "shape-outside": "A shape that reaches outside its cell.",
    "state-without": "A state without an animation.",
    "texture-size": "A size that a codec or mipmaps cannot use as it is.",
    "unknown-licence": "A licence that is no SPDX expression.",
    "variant": "A larger variant that is missing or not as large as it says.",
}


def rows(findings: list[Finding], files: dict[str, str]) -> list[dict[str, Any]]:
    """One dict a finding: what it is, where it is by ids and file, and what its fix would do. files: of each
    sheet, level and animation in the project's folder, by id."""
    return [
        {
            "rule": f.rule, "weight": f.weight, "text": f.text, "fix": f.fix.label if f.fix else None,
            "stage": f.place.stage, "sheet": f.place.sheet, "level": f.place.level,
            "animation": f.place.animation, "cells": list(f.place.cells),
            "spot": list(f.place.spot) if f.place.spot is not None else None, "file": file_of(f, files),
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
        results.append(result)
    driver = {
        "name": "Rushweed",
        "version": __version__,
        "rules": [{"id": name, "shortDescription": {"text": ABOUT[name]}} for name in names],
    }
    return {"$schema": SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}


def junit(project: Project, findings: list[Finding]) -> str:
    """The findings as test cases: one a sheet, level and animation, and one for the project; a fault is a
    failure, hints stand in a case's own output."""
    parts: tuple[Sheet | Level | Animation, ...] = (*project.sheets, *project.levels, *project.animations)
    names = {part.id: part.name for part in parts}
    cases: dict[str, list[Finding]] = {key: [] for key in ("", *names)}
    for f in findings:
        place = f.place
        key = next((k for k in (place.animation, place.level, place.sheet) if k in names), "")
        cases[key or ""].append(f)
    failed = sum(any(f.weight == "fault" for f in found) for found in cases.values())
    suite = ElementTree.Element(
        "testsuite", name=f"rushweed check {_plain(project.name)}", tests=str(len(cases)),
        failures=str(failed), errors="0", skipped="0",
    )  # fmt: skip
    for key, found in cases.items():
        case = ElementTree.SubElement(
            suite, "testcase", classname=_plain(project.name), name=_plain(names.get(key, "project"))
        )
        faults = [f.text for f in found if f.weight == "fault"]
        if faults:
            failure = ElementTree.SubElement(case, "failure", message=_plain(faults[0]), type="fault")
            failure.text = _plain("\n".join(faults))
        hints = [f.text for f in found if f.weight != "fault"]
        if hints:
            ElementTree.SubElement(case, "system-out").text = _plain("\n".join(hints))
    ElementTree.indent(suite)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(suite, encoding="unicode") + "\n"


def _plain(text: str) -> str:
    """Without the characters that XML does not hold."""
    return "".join(ch for ch in text if ch in "\t\n" or " " <= ch <= "\ud7ff" or "\ue000" <= ch <= "\ufffd"
                   or ch > "\uffff")  # fmt: skip
