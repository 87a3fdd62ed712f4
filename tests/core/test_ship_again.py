"""Shipping once more: what changed is made anew, and only that; nothing is taken for what it is not."""

from __future__ import annotations

import os
from hashlib import sha256
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Source
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship import png, standing, stretches
from rushweed.core.ship.build import ship

SIDE = 720


@pytest.fixture
def noisy(tmp_path: Path) -> tuple[Project, Path]:
    """A project whose one page is packed in several stretches."""
    home = tmp_path / "p"
    (home / "art").mkdir(parents=True)
    rng = np.random.default_rng(2)
    path = home / "art" / "shingle.png"
    Image.fromarray(rng.integers(0, 256, (SIDE, SIDE, 4)).astype(np.uint8)).save(path)
    source = Source("art/shingle.png", sha256(path.read_bytes()).hexdigest(), (SIDE, SIDE))
    cells = tuple(
        Cell(f"c{n}", f"shingle_{n}", (n % 9 * 80, n // 9 * 80, 80, 80), (40, 80)) for n in range(81)
    )
    return Project("p", "Shingle", (Sheet("s", "shingle.png", source, GridCut((80, 80)), cells=cells),)), home


def change(path: Path, at: int) -> None:
    """Turn some px of a picture."""
    rgba = np.array(Image.open(path))
    rgba[at : at + 3, 40:44, :3] = 255 - rgba[at : at + 3, 40:44, :3]
    Image.fromarray(rgba).save(path)


def count_packed(monkeypatch: pytest.MonkeyPatch) -> list[bool]:
    """A flag for each stretch of a page: whether it was packed."""
    packed: list[bool] = []
    plain = stretches.Stretches.packed

    def watched(self, held, pack):  # type: ignore[no-untyped-def]
        before = len(packed)

        def told() -> bytes:
            packed.append(True)
            return pack()

        found = plain(self, held, told)
        if len(packed) == before:
            packed.append(False)
        return found

    monkeypatch.setattr(stretches.Stretches, "packed", watched)
    monkeypatch.setattr("os.cpu_count", lambda: 1)  # one after the other
    return packed


def test_of_a_large_page_only_what_changed_is_packed_and_the_bytes_are_the_same(
    noisy: tuple[Project, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    project, home = noisy
    monkeypatch.setattr(png, "STRETCH", 1 << 18)
    out, page = tmp_path / "out", tmp_path / "out" / "atlas_0.png"
    packed = count_packed(monkeypatch)
    ship(project, PixelCache(home), out)
    assert all(packed) and len(packed) > 5
    change(home / "art" / "shingle.png", 100)
    packed.clear()
    done = ship(project, PixelCache(home), out)
    assert done.made == ("atlas_0.png",) and 0 < sum(packed) <= 3 < len(packed)
    ship(project, PixelCache(home), tmp_path / "fresh")
    assert page.read_bytes() == (tmp_path / "fresh" / "atlas_0.png").read_bytes()


def test_a_spoilt_page_lends_nothing_to_the_next(
    noisy: tuple[Project, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    project, home = noisy
    monkeypatch.setattr(png, "STRETCH", 1 << 18)
    out, page = tmp_path / "out", tmp_path / "out" / "atlas_0.png"
    ship(project, PixelCache(home), out)
    data = bytearray(page.read_bytes())
    data[len(data) // 2] ^= 1
    page.write_bytes(data)
    change(home / "art" / "shingle.png", 400)
    ship(project, PixelCache(home), out)
    with Image.open(page) as found:
        assert np.array(found)[..., 3].any()  # it can be read
    ship(project, PixelCache(home), tmp_path / "fresh")
    assert page.read_bytes() == (tmp_path / "fresh" / "atlas_0.png").read_bytes()


def test_a_file_changed_to_one_of_the_same_size_and_time_is_made_anew(
    noisy: tuple[Project, Path], tmp_path: Path
) -> None:
    project, home = noisy
    out, manifest = tmp_path / "out", tmp_path / "out" / "manifest.json"
    ship(project, PixelCache(home), out)
    assert ship(project, PixelCache(home), out).made == ()
    before, times = manifest.read_bytes(), manifest.stat()
    manifest.write_bytes(before.replace(b"Shingle", b"Shangle"))
    os.utime(manifest, ns=(times.st_atime_ns, times.st_mtime_ns))
    assert ship(project, PixelCache(home), out).made == ("manifest.json",)
    assert manifest.read_bytes() == before


def test_files_that_stand_as_they_were_are_not_read_again(
    noisy: tuple[Project, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    project, home = noisy
    out = tmp_path / "out"
    ship(project, PixelCache(home), out)
    read: list[str] = []
    plain = standing.stands
    monkeypatch.setattr(standing, "stands", lambda o, n, one: bool(read.append(n)) or plain(o, n, one))
    assert ship(project, PixelCache(home), out).made == () and not read
    (tmp_path / "copy").mkdir()
    for path in out.rglob("*"):  # the same files elsewhere are not known yet
        if path.is_file():
            target = tmp_path / "copy" / path.relative_to(out)
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(path.read_bytes())
    assert ship(project, PixelCache(home), tmp_path / "copy").made == () and read


def test_a_file_written_just_now_is_waited_for(tmp_path: Path) -> None:
    path = tmp_path / "a"
    path.write_bytes(b"1")
    states = standing.settled(tmp_path, ["a", "gone"])
    assert list(states) == [str(path)] and states[str(path)] == standing.state_of(path)
    path.write_bytes(b"2")
    assert standing.state_of(path) != states[str(path)]
