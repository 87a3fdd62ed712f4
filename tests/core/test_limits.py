"""What an edit takes can be saved and opened again; what could not is refused in a sentence."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from rushweed.core.document import limits
from rushweed.core.document.edit import rename
from rushweed.core.document.errors import EditError, RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.store.folder import Folder
from rushweed.core.store.form import animation_text, level_text, sheet_text


def texts(project: Project) -> list[bytes]:
    parts = (*map(sheet_text, project.sheets), *map(level_text, project.levels))
    return [*parts, *map(animation_text, project.animations)]


def test_half_a_letter_is_refused_by_the_folder_too(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    bad = rename(project, project.levels[0].id, "a\ud800")
    for work in (lambda: folder.save(bad), lambda: folder.keep(bad, 1)):
        with pytest.raises(RushweedError, match="half a letter"):
            work()
    assert texts(Folder(demo_folder).open()) == texts(project)


def test_a_project_looked_at_beside_the_window_is_not_looked_at_again() -> None:
    old = Project("p", "one")
    bad, good = replace(old, name="\ud800"), replace(old, name="two")
    for _ in range(2):
        with pytest.raises(EditError):
            limits.check_project(old, bad)
    limits.check_project(old, good)
    limits.check_project(old, good)
    with pytest.raises(EditError):
        limits.check_project(good, bad)
