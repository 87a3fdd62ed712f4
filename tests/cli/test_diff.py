"""rushweed diff: two folders, and a project beside itself at a revision of real git."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest

from rushweed.core.document.errors import StoreError
from rushweed.core.level.edit import paint
from rushweed.core.level.stamp import single
from rushweed.core.pixels.read import read_picture
from rushweed.core.store.folder import Folder
from rushweed.core.store.revision import export_revision
from tests.cli.test_cli import run


def git(folder: Path, *words: str) -> None:
    name = ("-c", "user.name=A", "-c", "user.email=a@b.c")
    subprocess.run(["git", *name, *words], cwd=folder, check=True, capture_output=True)


def painted(folder: Path, x: int) -> str:
    """Paint one tile of the demo's first level and save; returns the level's name."""
    home = Folder(folder)
    project = home.open()
    level = project.levels[0]
    layer = next(v for v in level.layers if hasattr(v, "tiles"))
    spot = np.array([x]), np.array([1])
    home.save(paint(project, level.id, layer.id, single(level.table[0]), spot))
    return level.name


@pytest.fixture
def repository(demo_folder: Path) -> Path:
    """The demo one folder below the top of a repository, committed."""
    top = demo_folder.parent
    (top / ".gitignore").write_text(".rushweed/\n")
    git(top, "init", "-q", "-b", "main")
    git(top, "add", ".gitignore", demo_folder.name)
    git(top, "commit", "-qm", "start")
    return demo_folder


def test_what_changed_since_a_revision_is_told_and_pictured(repository: Path, tmp_path: Path) -> None:
    same = run("diff", repository, "--since", "HEAD")
    assert (same.returncode, same.stdout) == (0, "Nothing differs.\n")
    name = painted(repository, 30)
    out = tmp_path / "pictures"
    done = run("diff", repository, "--since", "main", "--pictures", out, "--json")
    assert done.returncode == 1, done.stderr
    (row,) = json.loads(done.stdout)
    assert row["kind"] == "level" and row["name"] == name and "1 tile painted" in row["facts"][0]
    left, _top, columns, _rows = row["area"]
    assert left <= 30 < left + columns
    assert read_picture(out / row["picture"]).rgba.shape[1] > columns * 16
    git(repository, "commit", "-qam", "painted")
    assert run("diff", repository, "--since", "HEAD").returncode == 0
    back = run("diff", repository, "--since", "HEAD~1", "--until", "HEAD")
    assert back.returncode == 1 and "1 tile painted" in back.stdout


def test_two_folders_are_compared(repository: Path, tmp_path: Path) -> None:
    older = export_revision(repository, "HEAD", _made(tmp_path / "older"))
    assert run("diff", older, repository).returncode == 0
    painted(repository, 31)
    assert "1 tile painted" in run("diff", older, repository).stdout


def _made(path: Path) -> Path:
    path.mkdir()
    return path


@pytest.mark.parametrize(
    ("words", "problem"),
    [
        ((), "needs two folders"),
        (("--since", "nowhere"), "no revision 'nowhere'"),
        (("--since", "--exec=x"), "no revision '--exec=x'"),
        (("--until", "HEAD"), "needs two folders"),
    ],
)
def test_what_cannot_be_compared_is_one_sentence(
    repository: Path, words: tuple[str, ...], problem: str
) -> None:
    done = run("diff", repository, *words)
    assert done.returncode == 2 and problem in done.stderr and done.stderr.count("\n") == 1


def test_a_folder_without_git_and_a_revision_without_the_project_are_told(
    demo_folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    done = run("diff", demo_folder, "--since", "HEAD")
    assert done.returncode == 2 and "not under version control" in done.stderr
    top = demo_folder.parent
    git(top, "init", "-q")
    git(top, "commit", "-qm", "nothing yet", "--allow-empty")
    assert "no project yet" in run("diff", demo_folder, "--since", "HEAD").stderr
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(StoreError, match="not installed"):
        export_revision(demo_folder, "HEAD", tmp_path)


def test_nothing_in_the_repository_starts_a_program(repository: Path, tmp_path: Path) -> None:
    """A smudge filter and a monitor named in the repository's own configuration are never run."""
    trap = tmp_path / "trap"
    for key in ("filter.bad.smudge", "core.fsmonitor", "filter.bad.process"):
        git(repository, "config", key, f"touch {trap}")
    (repository / ".gitattributes").write_text("*.json filter=bad\n")
    made = export_revision(repository, "HEAD", _made(tmp_path / "made"))
    assert Folder(made).open().levels and not trap.exists()


def test_a_link_in_a_revision_is_left_out(repository: Path, tmp_path: Path) -> None:
    (repository / "art" / "link.png").symlink_to("/etc/passwd")
    git(repository, "add", "-f", "art/link.png")
    git(repository, "commit", "-qm", "link")
    made = export_revision(repository, "HEAD", _made(tmp_path / "made"))
    assert not (made / "art" / "link.png").exists()
    assert not (made / "art" / "link.png").is_symlink() and (made / "rushweed.json").is_file()
