"""Shared fixtures: the demo project in a scratch folder, small pictures, a window without a screen."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from PIL import Image

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
settings.register_profile("rushweed", max_examples=50, deadline=None)
settings.register_profile(
    "thorough", max_examples=1000, deadline=None
)  # pytest --hypothesis-profile thorough
settings.load_profile("rushweed")

from rushweed.core.document.model.project import Project  # noqa: E402
from rushweed.core.document.model.sheet import Sheet, Source  # noqa: E402
from rushweed.core.pixels.cache import PixelCache  # noqa: E402
from rushweed.core.store.folder import Folder  # noqa: E402
from rushweed.demo.project import build  # noqa: E402


@pytest.fixture(scope="session")
def demo_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as a window leaves it that was open once: with a copy of each picture kept."""
    path = tmp_path_factory.mktemp("master") / "tidelamp"
    build(path)[0].unlock()
    stock = PixelCache(path)
    stock.seen.keep([sheet.source for sheet in Folder(path).open().sheets], stock.to_keep)
    return path


@pytest.fixture(scope="session")
def master(demo_master: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[Project, PixelCache]:
    """The demo for tests that change none of its files."""
    path = tmp_path_factory.mktemp("unchanged") / "tidelamp"
    shutil.copytree(demo_master, path)
    return Folder(path).open(), PixelCache(path)


@pytest.fixture
def demo_folder(demo_master: Path, tmp_path: Path) -> Path:
    """A fresh copy of the built demo project."""
    path = tmp_path / "tidelamp"
    shutil.copytree(demo_master, path)
    return path


@pytest.fixture
def demo(demo_folder: Path) -> tuple[Project, PixelCache]:
    return Folder(demo_folder).open(), PixelCache(demo_folder)


@pytest.fixture
def picture(tmp_path: Path) -> Callable[..., Path]:
    """Writes a PNG: `picture("a.png", width, height)` with some art, or of a given array."""

    def make(name: str, width: int = 32, height: int = 32, rgba: np.ndarray | None = None) -> Path:
        path = tmp_path / name
        path.parent.mkdir(parents=True, exist_ok=True)
        if rgba is None:
            rgba = np.zeros((height, width, 4), np.uint8)
            rgba[2 : height - 2, 2 : width - 2] = (60, 110, 83, 255)
        Image.fromarray(rgba).save(path)
        return path

    return make


def sheet_of_size(width: int, height: int, name: str = "sheet.png", **fields: object) -> Sheet:
    return Sheet("sheet1", name, Source(f"art/{name}", "0" * 64, (width, height)), **fields)  # type: ignore[arg-type]


def project_with(*sheets: Sheet) -> Project:
    return Project("project1", "Test", tuple(sheets))


def named(project: Project, name: str) -> Sheet:
    return next(s for s in project.sheets if s.name == name)
