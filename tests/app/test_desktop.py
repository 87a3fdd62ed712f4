"""Rushweed among a person's applications, and whether it has all it needs."""

import json
import shutil
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest
from PyQt6.QtGui import QImage

from rushweed.app import desktop, doctor
from rushweed.cli.desktop import described
from rushweed.core.document.errors import EditError
from rushweed.ui.app import project_and_pictures


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    return tmp_path


def test_it_is_put_in_and_taken_out_whole(home: Path) -> None:
    (home / "data" / "applications").mkdir(parents=True)
    other = home / "data" / "applications" / "other.desktop"
    other.write_text("mine")
    written = desktop.install(described())
    assert all(path.is_file() and home in path.parents for path in written)
    assert desktop.install(described()) == written  # again, over itself
    assert sorted(desktop.remove(described())) == sorted(written)
    left = [
        p for p in home.rglob("*") if p.is_file() and "mime" not in p.parts and p.name != "mimeinfo.cache"
    ]
    assert left == [other]
    assert desktop.remove(described()) == []


def test_what_is_put_in_is_well_formed(home: Path) -> None:
    desktop.install(described())
    data = home / "data"
    entry = (data / "applications" / "rushweed.desktop").read_text()
    rows = dict(line.split("=", 1) for line in entry.splitlines()[1:])
    assert entry.startswith("[Desktop Entry]\n") and rows["Exec"].endswith("open %F")
    assert "application/x-rushweed-project+json" in rows["MimeType"]
    kind = ElementTree.parse(data / "mime" / "packages" / "rushweed-project.xml").getroot()[0]
    assert kind.get("type") == "application/x-rushweed-project+json"
    ElementTree.parse(data / "metainfo" / "rushweed.metainfo.xml")
    for px in desktop.ICON_PX:
        icon = QImage(str(data / "icons" / "hicolor" / f"{px}x{px}" / "apps" / "rushweed.png"))
        assert icon.width() == icon.height() == px and icon.pixelColor(px // 2, px // 2).alpha() == 255
    bash = data / "bash-completion" / "completions" / "rushweed"
    for part in (bash, data / "man" / "man1" / "rushweed.1", data / "zsh" / "site-functions" / "_rushweed"):
        words = part.read_text()
        for name in ("check", "ship", "doctor"):
            assert name in words
    if shutil.which("bash"):
        script = f"source {bash}; COMP_WORDS=(rushweed ship --w); COMP_CWORD=2; _rushweed; "
        script += 'echo "${COMPREPLY[@]}"'
        done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=True)
        assert set(done.stdout.split()) == {"--way", "--watch"}


@pytest.mark.parametrize(
    ("word", "quoted"), [("/a b/c", '"/a b/c"'), ("a$b", '"a\\\\$b"'), ("50%", '"50%%"')]
)
def test_paths_are_quoted_as_entries_want_it(word: str, quoted: str) -> None:
    assert desktop.quoted(word) == quoted


def test_the_doctor_looks_at_all_it_needs(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    found = {answer.name: answer for answer in doctor.look()}
    assert {"Rushweed", "Python", "PyQt6", "numba", "Screen", "Fonts", "Cache", "Log", "Free"} <= set(found)
    assert found["Screen"].found.startswith("offscreen") and not found["Screen"].cure
    assert not found["Python"].cure and not found["numpy"].cure
    assert doctor.package("no-such-package").cure
    monkeypatch.setenv("QT_QPA_PLATFORM", "nothing")
    assert doctor.screen().cure
    (tmp_path / "file").write_text("")
    assert doctor.writable("Cache", tmp_path / "file" / "cache").cure
    assert not doctor.writable("Cache", tmp_path / "new" / "cache").cure


def test_the_doctor_prints_json() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "rushweed", "doctor", "--json"], capture_output=True, text=True, check=False
    )
    rows = json.loads(done.stdout)
    assert done.returncode == int(any(row["cure"] for row in rows))


# -- what it is opened with --------------------------------------------------------------------------------


def test_a_project_is_opened_by_its_folder_or_its_file(demo_folder: Path, tmp_path: Path) -> None:
    picture = demo_folder / "art" / "wren.png"
    assert project_and_pictures([demo_folder]) == (demo_folder, [])
    assert project_and_pictures([demo_folder / "rushweed.json", picture]) == (demo_folder, [picture])
    assert project_and_pictures([picture]) == (None, [picture])
    assert project_and_pictures([]) == (None, [])
    for wrong in ([tmp_path / "none.png"], [demo_folder, tmp_path]):
        with pytest.raises(EditError):
            project_and_pictures(wrong)
