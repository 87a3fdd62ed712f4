"""Findings for scripts and servers."""

import re
from pathlib import Path
from xml.etree import ElementTree

from msgspec.structs import replace

import rushweed.core.findings
from rushweed.core.document.model.project import Project
from rushweed.core.findings import reports
from rushweed.core.findings.check import check
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder


def test_every_rule_is_described() -> None:
    named = set()
    for path in Path(rushweed.core.findings.__file__).parent.glob("*.py"):
        if path.name != "reports.py":
            named |= set(re.findall(r'Finding\(\s*"([a-z-]+)"', path.read_text()))
    assert named == set(reports.ABOUT)


def found_in(demo: tuple[Project, PixelCache]) -> tuple[Project, list[Finding]]:
    project, stock = demo
    fault = Finding(
        "frame-gone", "fault", "walk: 1 frame shows <nothing> & is \x01 gone.",
        Place("animate", animation=project.animations[0].id), Fix("Take it out", lambda p: p),
    )  # fmt: skip
    return project, [fault, *check(project, stock)]


def test_rows_say_where(demo: tuple[Project, PixelCache], demo_folder: Path) -> None:
    project, found = found_in(demo)
    folder = Folder(demo_folder)
    files = folder.files_of(folder.open())
    made = reports.rows(project, found, files)
    assert made[0]["file"].startswith("animations/") and made[0]["fix"] == "Take it out"
    assert all((demo_folder / row["file"]).is_file() for row in made)
    assert {row["stage"] for row in made} >= {"animate", "cut"}


def test_sarif_holds_every_finding(demo: tuple[Project, PixelCache], demo_folder: Path) -> None:
    project, found = found_in(demo)
    folder = Folder(demo_folder)
    files = folder.files_of(folder.open())
    made = reports.sarif(project, found, files)
    (run,) = made["runs"]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    assert made["version"] == "2.1.0" and len(run["results"]) == len(found)
    for result, finding in zip(run["results"], found, strict=True):
        assert rules[result["ruleIndex"]] == result["ruleId"] == finding.rule
        assert result["message"]["text"] == finding.text
        assert result["level"] == {"fault": "error", "hint": "note"}[finding.weight]
        uri = result["locations"][0]["physicalLocation"]["artifactLocation"]["uri"]
        assert " " not in uri and not uri.startswith("/")
    names = [part["name"] for part in run["results"][0]["locations"][0]["logicalLocations"]]
    assert names == [project.animations[0].name]


def test_junit_has_a_case_for_every_part(demo: tuple[Project, PixelCache]) -> None:
    project, found = found_in(demo)
    project = replace(project, name="a <b> & \x02c")
    suite = ElementTree.fromstring(reports.junit(project, found))
    cases = suite.findall("testcase")
    parts = len(project.sheets) + len(project.levels) + len(project.animations)
    assert suite.get("tests") == str(len(cases)) == str(parts + 1)
    assert suite.get("failures") == "1" == str(len(suite.findall("testcase/failure")))
    failed = next(case for case in cases if case.find("failure") is not None)
    assert failed.get("name") == project.animations[0].name
    told = "\n".join(case.findtext("system-out", "") for case in cases)
    assert all(f.text in told for f in found if f.weight == "hint")
