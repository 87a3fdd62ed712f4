"""What an edit takes can be saved and opened again; what could not is refused in a sentence."""

from __future__ import annotations

from pathlib import Path

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.document.errors import RushweedError
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
