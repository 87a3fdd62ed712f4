"""Reading pictures, and what is refused."""

import struct
import subprocess
import sys
import time
import zlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.document.errors import PictureError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.steps import Mirror, Step
from rushweed.core.pixels import cache, prepare
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.gather import Gathering, add_gathered, files_in
from rushweed.core.pixels.read import read_picture
from rushweed.core.pixels.series import Batch
from tests.conftest import named, project_with

Maker = Callable[..., Path]


def header_png(width: int, height: int) -> bytes:
    """A PNG that claims a size and holds almost nothing."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    body = chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + body


@pytest.mark.parametrize("mode", ["RGBA", "RGB", "L", "P", "1", "LA", "I;16"])
def test_png_of_any_kind_becomes_rgba(tmp_path: Path, mode: str) -> None:
    path = tmp_path / "a.png"
    if mode == "I;16":
        Image.fromarray(np.full((5, 7), 0x80FF, np.uint16)).save(path)
    else:
        Image.new("RGBA", (7, 5), (128, 128, 128, 255)).convert(mode).save(path)
    picture = read_picture(path)
    assert picture.rgba.shape == (5, 7, 4) and picture.rgba.dtype == np.uint8
    assert not picture.rgba.flags.writeable
    if mode != "1":
        assert abs(int(picture.rgba[0, 0, 0]) - 128) <= 1


def test_bmp_is_read_as_it_is(demo_folder: Path) -> None:
    picture = read_picture(demo_folder / "art" / "eel.bmp")
    assert picture.format == "BMP" and picture.rgba[0, 0].tolist() == [255, 0, 255, 255]


def test_each_bad_file_gets_one_sentence_with_its_name(tmp_path: Path, picture: Maker) -> None:
    good = picture("good.png", 64, 64).read_bytes()
    bad = {
        "words.png": b"This is not a picture.",
        "empty.png": b"",
        "cut.png": good[: len(good) // 2],
        "huge.png": header_png(40_000, 40_000),
        "zip.png": b"PK\x03\x04" + b"\0" * 200,
        "flat.png": header_png(10, 0),
    }
    for name, data in bad.items():
        (tmp_path / name).write_bytes(data)
    (tmp_path / "folder.png").mkdir()
    for name in [*bad, "folder.png", "gone.png"]:
        with pytest.raises(PictureError) as error:
            read_picture(tmp_path / name)
        assert name in error.value.problem, name
        assert error.value.cure and "\n" not in str(error.value)


def test_a_png_cut_short_anywhere_is_refused_or_whole(picture: Maker, tmp_path: Path) -> None:
    rng = np.random.default_rng(4)
    data = picture("noise.png", rgba=rng.integers(0, 255, (40, 40, 4)).astype(np.uint8)).read_bytes()
    for tenth in range(10):
        path = tmp_path / "part.png"
        path.write_bytes(data[: len(data) * tenth // 10])
        with pytest.raises(PictureError):
            read_picture(path)


def test_gathering_copies_the_picture_and_names_twins(picture: Maker, tmp_path: Path) -> None:
    folder = tmp_path / "project"
    one, two = picture("in/a.png"), picture("other/a.png", 16, 16)
    gathering = Gathering(folder, project_with())
    first, second, again = (gathering.take(Batch((p,), p.name))[0] for p in (one, two, one))
    assert first.sheet and first.sheet.source.path == "art/a.png"
    assert second.sheet and second.sheet.source.path == "art/a_2.png"
    assert again.same == "a.png" and again.sheet is None
    assert (folder / "art/a.png").read_bytes() == one.read_bytes()
    project = add_gathered(project_with(), [first, second])
    assert [s.name for s in project.sheets] == ["a.png", "a_2.png"]


def test_gathering_a_bad_file_reports_and_goes_on(picture: Maker, tmp_path: Path) -> None:
    (tmp_path / "bad.png").write_bytes(b"no")
    gathering = Gathering(tmp_path / "p", project_with())
    got = [gathering.take(Batch((p,), p.name))[0] for p in (tmp_path / "bad.png", picture("ok.png"))]
    assert got[0].fault and "bad.png" in got[0].fault.problem
    assert got[1].sheet is not None


def test_a_folder_is_opened_in_natural_order(picture: Maker, tmp_path: Path) -> None:
    for i in (10, 2, 1):
        picture(f"run/run_{i}.png")
    (tmp_path / "run" / "licence.txt").write_text("free")
    assert [p.name for p in files_in([tmp_path / "run"])] == ["run_1.png", "run_2.png", "run_10.png"]


def test_the_stock_shares_arrays_and_tells_what_is_missing(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    assert stock.pixels(sheet) is stock.pixels(sheet)
    (stock.folder / sheet.source.path).unlink()
    fresh = PixelCache(stock.folder)
    fault = fresh.fault(sheet)
    assert fault is not None and "wren.png" in fault.problem
    assert fresh.pixels_or_blank(sheet).shape == (128, 192, 4)


def test_a_picture_that_several_threads_want_is_prepared_once(
    demo: tuple[Project, PixelCache], monkeypatch: pytest.MonkeyPatch
) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    sheet = replace(sheet, source=replace(sheet.source, steps=(Mirror("across"),)))
    made: list[str] = []

    def prepared(rgba: np.ndarray, steps: tuple[Step, ...], name: str) -> np.ndarray:
        made.append(name)
        time.sleep(0.05)
        return prepare.prepared(rgba, steps, name)

    monkeypatch.setattr(cache, "prepared", prepared)
    fresh = PixelCache(stock.folder)
    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(lambda _n: fresh.pixels(sheet), range(4)))
    assert made == [sheet.name] and all(one is found[0] for one in found)
    broken = replace(sheet, source=replace(sheet.source, size=(5, 5)))
    with ThreadPoolExecutor(3) as pool:
        faults = list(pool.map(lambda _n: fresh.pixels_or_blank(broken).shape, range(3)))
    assert faults == [(5, 5, 4)] * 3, "a fault of one holds none of the others up"


def test_a_picture_of_another_size_is_not_taken_for_the_old_one(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    Image.new("RGBA", (10, 10)).save(stock.folder / sheet.source.path)
    with pytest.raises(PictureError, match="10 x 10"):
        PixelCache(stock.folder).pixels(sheet)


@pytest.mark.parametrize("mode", ["P", "RGB", "RGBA", "L", "1", "I;16"])
def test_large_pictures_turned_strip_by_strip_are_the_same(
    mode: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rng = np.random.default_rng(3)
    rgba = rng.integers(0, 256, (37, 29, 4)).astype(np.uint8)
    image = Image.fromarray(rgba).convert(mode if mode != "I;16" else "L")
    if mode == "I;16":
        image = Image.fromarray(rng.integers(0, 65_536, (37, 29)).astype(np.uint16))
    path = tmp_path / "a.png"
    image.save(path, **({"transparency": 3} if mode == "P" else {}))
    whole = read_picture(path).rgba
    monkeypatch.setattr("rushweed.core.pixels.read.STRIP_PX", 100)
    assert (read_picture(path).rgba == whole).all()


READS = """
import sys
from pathlib import Path
from rushweed.core.pixels.read import read_bytes, decode
import PIL.Image, PIL.PngImagePlugin, PIL.JpegImagePlugin
def high() -> int:
    return int(next(x for x in open("/proc/self/status") if x.startswith("VmHWM")).split()[1]) * 1024
path = Path(sys.argv[1])
data = read_bytes(path)
Path("/proc/self/clear_refs").write_text("5")
before = high()
picture = decode(data, path.name)
print((high() - before) / picture.rgba.nbytes)
"""


@pytest.mark.parametrize(("mode", "form"), [("RGBA", "png"), ("RGB", "png"), ("P", "png"), ("RGB", "jpg")])
def test_a_large_picture_takes_hardly_more_memory_than_its_px(tmp_path: Path, mode: str, form: str) -> None:
    path = tmp_path / f"large.{form}"
    Image.new(mode, (5120, 5120), 7 if mode == "P" else tuple(range(9, 9 + len(mode)))).save(path)
    ran = subprocess.run([sys.executable, "-c", READS, str(path)], capture_output=True, text=True, check=True)
    assert float(ran.stdout) < 1.2


def test_a_frame_that_says_it_is_larger_than_its_gif_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.gif"
    frames = [Image.new("RGB", (20, 12), (90 * n, 20, 200)) for n in range(3)]
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=100)
    data = bytearray(path.read_bytes())
    whole = b"\x2c" + struct.pack("<HHHH", 0, 0, 20, 12)
    second = data.index(whole, data.index(whole) + 1)
    struct.pack_into("<HH", data, second + 5, 65_535, 65_535)
    path.write_bytes(data)
    with pytest.raises(PictureError, match="a.gif is damaged"):
        read_picture(path)


def test_a_webp_that_would_take_too_much_memory_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "wide.webp"
    Image.new("RGBA", (64, 32), (9, 20, 30, 255)).save(path, lossless=True)
    assert read_picture(path).rgba.shape == (32, 64, 4)
    monkeypatch.setattr("rushweed.core.pixels.read.MOST_WEBP", 64 * 32 - 1)
    with pytest.raises(PictureError, match="wide.webp is a WebP of 64 x 32 px"):
        read_picture(path)
