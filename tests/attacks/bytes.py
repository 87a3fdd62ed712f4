"""Files with wrong bytes: pictures, KTX2 textures, the journals of a project, and folders that
were shipped, read or shipped into again."""

from __future__ import annotations

import contextlib
import io
import random
import shutil
import struct
import tempfile
import zlib
from functools import cache
from pathlib import Path

import numpy as np
from PIL import Image

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import add_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.read import read_picture
from rushweed.core.ship.bring_back import bring_back
from rushweed.core.ship.build import ship
from rushweed.core.ship.read_back import Problem, check_shipment
from rushweed.core.store.folder import Folder
from rushweed.core.store.recovery import recover
from rushweed.core.store.saves import remember, saves_of
from rushweed.core.tune.codec.compress import decoded
from rushweed.core.tune.ktx2 import Container, level_bytes, read_ktx2, write_ktx2
from tests.attacks.disk import Disk, Killed, faulty
from tests.attacks.projects import spoil

ENDINGS = {"PNG": ".png", "BMP": ".bmp", "GIF": ".gif", "WEBP": ".webp", "JPEG": ".jpg", "TGA": ".tga"}


def spoilt(data: bytes, rng: random.Random) -> bytes:
    """The same with bytes changed, taken out, doubled, or cut short."""
    made = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 8))):
        at = rng.randrange(len(made)) if rng.random() < 0.7 else rng.randrange(min(len(made), 64))
        kind = rng.randrange(6)
        if kind == 0:
            made[at] ^= 1 << rng.randrange(8)
        elif kind == 1:
            made[at] = rng.choice((0, 1, 127, 128, 255))
        elif kind == 2:
            made[at : at + 4] = struct.pack(
                rng.choice("<>") + "I", rng.choice((0, 1, 2**16, 2**31, 2**32 - 1))
            )
        elif kind == 3:
            del made[at : at + rng.randint(1, 40)]
        elif kind == 4:
            made[at:at] = made[at : at + rng.randint(1, 40)]
        else:
            del made[max(at, 1) :]
        if not made:
            made = bytearray(b"\0")
    return bytes(made)


def with_sums(data: bytes) -> bytes:
    """A PNG whose check sums are right again, so that what is wrong inside is looked at."""
    made, at = bytearray(data[:8]), 8
    while at + 12 <= len(data):
        (length,) = struct.unpack_from(">I", data, at)
        if at + 12 + length > len(data):
            break
        body = data[at + 4 : at + 8 + length]
        made += data[at : at + 8 + length] + struct.pack(">I", zlib.crc32(body))
        at += 12 + length
    return bytes(made + data[at:])


@cache
def picture_files() -> list[tuple[str, bytes]]:
    """Small pictures in every form that is read, some of them moving."""
    rng = np.random.default_rng(4)
    rgba = np.zeros((24, 40, 4), np.uint8)
    rgba[4:20, 6:30] = rng.integers(0, 255, (16, 24, 4))
    frames = [Image.fromarray(np.roll(rgba, n, axis=1)) for n in range(3)]
    made = []
    for form in ENDINGS:
        for mode in ("RGBA", "P", "L", "RGB", "LA"):
            rest = [frame.convert(mode) for frame in frames[1:]]
            moving: dict[str, object] = {"save_all": True, "append_images": rest}
            for extra in ({}, moving if form in ("GIF", "WEBP", "PNG") else {}):
                file = io.BytesIO()
                try:
                    frames[0].convert(mode).save(file, form, **extra)
                except (OSError, ValueError):
                    continue
                made.append((form, file.getvalue()))
    return made


def attack_picture(home: Path, rng: random.Random) -> None:
    """A spoilt picture is read or refused in a sentence."""
    form, data = rng.choice(picture_files())
    data = spoilt(data, rng)
    if form == "PNG" and rng.random() < 0.5:
        data = with_sums(data)
    path = home / f"art{ENDINGS[form]}"
    path.write_bytes(data)
    try:
        picture = read_picture(path)
    except RushweedError as error:
        is_a_sentence(error, path.name)
    else:
        assert picture.rgba.dtype == np.uint8 and picture.rgba.ndim == 3 and picture.rgba.shape[2] == 4


def attack_ktx2(rng: random.Random) -> None:
    """A spoilt texture is read whole, or refused in a sentence."""
    codec = rng.choice(("none", "bc1", "bc3", "bc7", "etc2"))
    size = (rng.choice((4, 8, 12, 16)), rng.choice((4, 8, 16)))
    level = rng.randbytes(level_bytes(codec, size))
    data = spoilt(write_ktx2(Container(codec, size, (level,), False)), rng)
    try:
        found = read_ktx2(data, "page.ktx2")
        for number, stored in enumerate(found.levels):
            width, height = (max(side >> number, 1) for side in found.size)
            if found.codec != "none":
                decoded(stored, found.codec, (width, height))
    except RushweedError as error:
        is_a_sentence(error, "page.ktx2")


def attack_journals(small: Path, home: Path, rng: random.Random) -> None:
    """Whatever is wrong in what is kept beside a project, the project itself opens, works and saves."""
    path = home / "journals"
    shutil.rmtree(path, ignore_errors=True)
    shutil.copytree(small, path)
    folder = Folder(path)
    folder.lock()
    project = folder.open()
    changed, _made = add_level(project, "kept", (8, 8))
    folder.keep(changed, 1)
    remember(folder, folder.texts())
    with faulty(Disk(rng.randrange(4, 40), kills=True)), contextlib.suppress(Killed, RushweedError):
        folder.save(add_level(changed, "half", (8, 8))[0])
    folder.unlock()
    notes = [p for p in (path / ".rushweed").rglob("*") if p.is_file() and p.name != "lock"]
    for note in rng.sample(notes, min(len(notes), rng.randint(1, 3))):
        note.write_bytes(spoilt(note.read_bytes() or b"\0", rng))
    again, before = Folder(path), own_files(path)
    assert again.lock()
    try:
        opened = again.open()
    except RushweedError as error:
        is_a_sentence(error, "")
        again.unlock()
        assert own_files(path) == before, "an opening that was refused has changed the project"
        return
    for one in recover(again):
        try:
            one.project()
        except RushweedError as error:
            is_a_sentence(error, "")
    saves_of(again)
    again.save(add_level(opened, "after", (8, 8))[0])
    again.unlock()
    assert any(level.name == "after" for level in Folder(path).open().levels)


def own_files(path: Path) -> dict[str, bytes]:
    """The files of a project, without what is kept beside it."""
    found = (p for p in path.rglob("*") if p.is_file() and ".rushweed" not in p.parts)
    return {str(p.relative_to(path)): p.read_bytes() for p in found}


def attack_shipped(project: Project, stock: PixelCache, out: Path, rng: random.Random) -> None:
    """A folder shipped before, with wrong bytes in it, is shipped into again: every file is right."""
    files = [p for p in out.rglob("*") if p.is_file()]
    right = {p: p.read_bytes() for p in files if not p.name.startswith(".")}  # its own note holds times
    for path in rng.sample(files, min(len(files), 3)):
        if rng.random() < 0.3:
            path.unlink()
        else:
            path.write_bytes(spoilt(path.read_bytes() or b"\0", rng))
    try:
        ship(project, stock, out)
    except RushweedError as error:
        is_a_sentence(error, "")
        shutil.rmtree(out)
        ship(project, stock, out)
        return
    for path, data in right.items():
        assert path.read_bytes() == data, f"{path.name} was not shipped anew"


def attack_read(out: Path, home: Path, rng: random.Random) -> None:
    """A shipment with wrong bytes and wild values is read: what is wrong is told, and what is brought back
    opens as a project."""
    broken, back = home / "broken", home / "back"
    shutil.copytree(out, broken)
    if rng.random() < 0.3:
        path = rng.choice([p for p in broken.rglob("*") if p.is_file()])
        path.write_bytes(spoilt(path.read_bytes() or b"\0", rng))
    else:
        spoil(broken, rng)
    try:
        checked = check_shipment(broken)
        assert all(str(problem).isprintable() for problem in checked.problems)
        unlisted = checked._replace(problems=[p for p in checked.problems if not _is_of_the_list(p)])
        folder, project = bring_back(unlisted, back)
        folder.unlock()
        assert Folder(back).open().name == project.name
        ship(project, PixelCache(back), home / "again")
    except RushweedError as error:
        is_a_sentence(error, "")
    finally:
        for path in (broken, back, home / "again"):
            shutil.rmtree(path, ignore_errors=True)


def _is_of_the_list(problem: Problem) -> bool:
    """Whether only the list of files says that something is wrong."""
    return problem.file == "files.json" or problem.what == "it is not as it was shipped"


def is_a_sentence(error: RushweedError, name: str) -> None:
    text = str(error)
    assert text and text.isprintable() and len(text) < 1200 and name in text, text


def attack_bytes(master: Path, small: Path, seed: int) -> None:
    """One of each of the attacks of this file, pictures and textures several times."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        for _ in range(40):
            attack_picture(home, rng)
            attack_ktx2(rng)
        attack_journals(small, home, rng)
        game = Folder(master)
        project, stock = game.open(), PixelCache(master)
        ship(project, stock, home / "out")
        for _ in range(3):
            attack_read(home / "out", home, rng)
        attack_shipped(project, stock, home / "out", rng)
