"""Any picture comes in: formats, moving and numbered ones, companions, broken and hostile files."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from rushweed.core.document.errors import PictureError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.gather import Gathered, Gathering, add_gathered, files_in
from rushweed.core.pixels.read import decode, read_picture
from rushweed.core.pixels.series import Batch, batches, common_crop, laid_out
from rushweed.core.ship.build import ship
from rushweed.core.store.folder import Folder
from tests.conftest import project_with


def art(width: int = 24, height: int = 16, seed: int = 0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    rgba = np.zeros((height, width, 4), np.uint8)
    rgba[2:-2, 3:-3] = (*rng.integers(40, 220, 3), 255)
    rgba[4:6, 4:9, :3] = rng.integers(0, 255, (2, 5, 3))
    return rgba


def encoded(form: str, rgba: np.ndarray | None = None, **options: object) -> bytes:
    buffer = io.BytesIO()
    image = Image.fromarray(art() if rgba is None else rgba)
    if form in ("JPEG", "BMP") or options.pop("flat", False):
        image = image.convert("RGB")
    image.save(buffer, form, **options)
    return buffer.getvalue()


def moving(form: str, count: int = 5) -> bytes:
    frames = []
    for n in range(count):
        rgba = art(24, 16, 7)
        rgba[:, n * 3 : n * 3 + 2] = (250, 200, 90, 255)
        frames.append(Image.fromarray(rgba))
    buffer = io.BytesIO()
    times = [40 + 20 * n for n in range(count)]
    options = {"lossless": True} if form == "WEBP" else {"disposal": 2} if form == "GIF" else {}
    frames[0].save(buffer, form, save_all=True, append_images=frames[1:], duration=times, loop=0, **options)
    return buffer.getvalue()


def gather(folder: Path, *paths: Path, as_one: bool = True) -> tuple[Project, list[Gathered]]:
    gathering = Gathering(folder, project_with())
    faults: list[Gathered] = []
    got = [
        g for batch in gathering.batches(files_in(list(paths), faults), as_one) for g in gathering.take(batch)
    ]
    return add_gathered(project_with(), got), [*faults, *got]


# -- reading -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("form", ["PNG", "BMP", "GIF", "WEBP", "TGA", "JPEG"])
def test_every_format_is_read(form: str) -> None:
    options = {"lossless": True} if form == "WEBP" else {"quality": 95} if form == "JPEG" else {}
    picture = decode(encoded(form, **options), f"reed.{form.lower()}")
    assert picture.rgba.shape == (16, 24, 4)
    if form in ("PNG", "TGA", "WEBP"):
        ink = art()[..., 3] > 0
        assert (picture.rgba[ink] == art()[ink]).all()
        assert (picture.rgba[..., 3] == art()[..., 3]).all()
    else:
        inner = picture.rgba[8:12, 12:18, :3].astype(int)
        assert np.abs(inner - art()[8:12, 12:18, :3]).max() <= (8 if form == "JPEG" else 3)


@pytest.mark.parametrize("mode", ["1", "L", "LA", "P", "PA", "RGB", "I;16"])
def test_png_modes_are_read(mode: str) -> None:
    if mode == "I;16":
        image = Image.fromarray(np.full((4, 5), 0xABCD, np.uint16))
    else:
        image = (
            Image.fromarray(art()).convert("RGB" if mode == "P" else "RGBA").convert(mode.replace("PA", "P"))
        )
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    picture = decode(buffer.getvalue(), "reed.png")
    assert picture.rgba.dtype == np.uint8 and picture.rgba.shape[2] == 4
    if mode == "I;16":
        assert (picture.rgba == (0xAB, 0xAB, 0xAB, 255)).all()


def test_interlaced_and_keyed_palette_pngs_are_read() -> None:
    image = Image.fromarray(art()).convert("RGB").quantize(8)
    buffer = io.BytesIO()
    image.save(buffer, "PNG", transparency=0)
    assert (decode(buffer.getvalue(), "p.png").rgba[..., 3] == 0).any()


@pytest.mark.parametrize("form", ["GIF", "PNG", "WEBP"])
def test_moving_pictures_become_frames_with_their_times(form: str) -> None:
    picture = decode(moving(form), f"heron.{form.lower()}")
    assert picture.times == (40, 60, 80, 100, 120)
    assert picture.columns == 5 and picture.rgba.shape == (16, 120, 4)
    for n in range(5):
        bar = picture.rgba[8, n * 24 + n * 3, :3].astype(int)
        assert np.abs(bar - (250, 200, 90)).max() <= 8


@pytest.mark.parametrize(
    "name", ["a.png", "a.bmp", "a.gif", "a.webp", "a.tga", "a.jpg", "moving.gif", "moving.png", "moving.webp"]
)
def test_files_cut_short_anywhere_are_refused_in_a_sentence(name: str) -> None:
    form = {"jpg": "JPEG"}.get(name[-3:], name.rsplit(".", 1)[1].upper())
    data = moving(form) if name.startswith("moving") else encoded(form)
    for tenth in range(10):
        with pytest.raises(PictureError) as error:
            decode(data[: len(data) * tenth // 10], name)
        assert name in error.value.problem and error.value.cure and "\n" not in error.value.problem


def test_a_gif_without_its_end_mark_is_whole_all_the_same() -> None:
    data = moving("GIF")
    assert data.endswith(b";")
    assert len(decode(data[:-1], "spark.gif").times) == 5
    assert len(decode(data + b"\0\0", "spark.gif").times) == 5
    with pytest.raises(PictureError, match="cut short"):
        decode(data[:-3], "spark.gif")


def test_a_wrong_ending_does_no_harm_and_foreign_files_are_named(tmp_path: Path) -> None:
    assert decode(encoded("PNG"), "wrong.bmp").format == "PNG"
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("a.txt", "tide" * 100)
    for name in ("zip.png", "zip.tga"):
        with pytest.raises(PictureError):
            decode(buffer.getvalue(), name)
    bomb = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(bomb, "PNG")
    with pytest.raises(PictureError, match="more than 16,384 a side|larger than"):
        decode(bomb.getvalue(), "bomb.png")


def test_a_gif_of_thousands_of_frames_is_laid_out_or_refused() -> None:
    frames = [Image.new("P", (4, 4), n % 200) for n in range(5000)]
    for n, frame in enumerate(frames):
        frame.putpalette([n % 256, 90, n // 256] * 256)
    buffer = io.BytesIO()
    frames[0].save(buffer, "GIF", save_all=True, append_images=frames[1:], duration=20)
    picture = decode(buffer.getvalue(), "sparks.gif")
    assert len(picture.times) > 4000 and max(picture.rgba.shape[:2]) < 1024


def test_strange_names_are_copied_under_plain_ones(tmp_path: Path) -> None:
    names = ["two\nlines.png", "lamp \N{FIRE}.png", "n" * 200 + ".png", "...png", "a b(c).png"]
    for n, name in enumerate(names):
        (tmp_path / name).write_bytes(encoded("PNG", art(seed=n)))
    project, got = gather(tmp_path / "p", *(tmp_path / n for n in names))
    assert [g.fault for g in got] == [None] * 5
    for sheet in project.sheets:
        name = Path(sheet.source.path).name
        assert len(name) <= 70 and "\n" not in name and "/" not in name
        assert (tmp_path / "p" / sheet.source.path).is_file()


def test_what_cannot_be_read_is_told_and_the_rest_goes_on(tmp_path: Path) -> None:
    (tmp_path / "ok.png").write_bytes(encoded("PNG"))
    (tmp_path / "no.png").write_bytes(b"no")
    (tmp_path / "dir.png").mkdir()
    project, got = gather(tmp_path / "p", tmp_path / "gone.png", tmp_path / "no.png", tmp_path / "ok.png")
    assert [s.name for s in project.sheets] == ["ok.png"]
    assert [g.path.name for g in got if g.fault] == ["gone.png", "no.png"]


# -- numbered pictures ---------------------------------------------------------------------------------


def write(folder: Path, **files: np.ndarray) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, rgba in files.items():
        (folder / f"{name}.png").write_bytes(encoded("PNG", rgba))


def test_numbered_pictures_are_one_sheet_in_natural_order_with_one_crop(tmp_path: Path) -> None:
    for n in (1, 2, 10, 3, 4, 5, 6, 7, 8, 9):
        rgba = np.zeros((32, 40, 4), np.uint8)
        rgba[10:20, n : n + 8] = (n * 20, 40, 60, 255)
        write(tmp_path / "heron", **{f"run_{n}": rgba})
    project, got = gather(tmp_path / "p", tmp_path / "heron")
    assert len(project.sheets) == 1 and got[0].note.startswith("10 numbered pictures")
    sheet, animation = project.sheets[0], project.animations[0]
    assert sheet.source.crop == (1, 10, 17, 10)
    assert [c.name for c in sheet.cells] == [f"run_{n}" for n in range(10)]
    assert [f.cell for f in animation.frames] == [c.id for c in sheet.cells]
    pixels = PixelCache(tmp_path / "p").pixels(sheet)
    for n, cell in enumerate(sheet.cells, 1):
        x, y, w, h = cell.rect
        assert (w, h) == (17, 10)
        assert tuple(pixels[y, x + n - 1]) == (n * 20, 40, 60, 255)


def test_numbered_pictures_of_different_sizes_stand_on_one_line_and_it_is_told(tmp_path: Path) -> None:
    small, large = np.full((8, 8, 4), 200, np.uint8), np.full((16, 12, 4), 90, np.uint8)
    write(tmp_path / "in", frog_1=small, frog_2=large)
    project, got = gather(tmp_path / "p", tmp_path / "in")
    assert "padded" in got[0].note and "8 x 8 to 12 x 16" in got[0].note
    pixels = PixelCache(tmp_path / "p").pixels(project.sheets[0])
    assert pixels.shape == (16, 24, 4)
    assert pixels[15, 5, 3] == 200 and pixels[7, 5, 3] == 0


def test_each_folder_is_a_thing_of_its_own_and_lone_numbers_are_not(tmp_path: Path) -> None:
    write(tmp_path / "in/idle", **{"1": art(seed=1), "2": art(seed=2)})
    write(tmp_path / "in/walk", **{"1": art(seed=3), "2": art(seed=4)})
    write(tmp_path / "in", tile_16=art(seed=5), tile_64=art(seed=6), stage2=art(seed=7))
    project, _got = gather(tmp_path / "p", tmp_path / "in")
    assert sorted(s.name for s in project.sheets) == [
        "idle",
        "stage2.png",
        "tile_16.png",
        "tile_64.png",
        "walk",
    ]
    apart, _got = gather(tmp_path / "q", tmp_path / "in/idle", as_one=False)
    assert len(apart.sheets) == 2


def test_large_numbered_sheets_stay_apart(tmp_path: Path) -> None:
    write(tmp_path, sheet_1=art(600, 600, 1), sheet_2=art(600, 600, 2))
    project, _got = gather(tmp_path / "p", tmp_path / "sheet_1.png", tmp_path / "sheet_2.png")
    assert len(project.sheets) == 2


def test_the_same_numbered_pictures_are_not_taken_twice(tmp_path: Path) -> None:
    write(tmp_path / "in", a_1=art(seed=1), a_2=art(seed=2))
    gathering = Gathering(tmp_path / "p", project_with())
    batch = gathering.batches(files_in([tmp_path / "in"]))[0]
    assert gathering.take(batch)[0].sheet is not None
    assert gathering.take(batch)[0].same == "a"


def test_crop_and_layout_of_clear_pictures_keep_their_size() -> None:
    clear = [np.zeros((6, 9, 4), np.uint8)] * 3
    assert common_crop(clear) == (0, 0, 9, 6)
    assert laid_out(clear, None, 2).shape == (12, 18, 4)


# -- what goes along -----------------------------------------------------------------------------------


def lit(tmp_path: Path) -> tuple[Project, Sheet]:
    base = art(16, 16)
    normal = np.full((16, 16, 4), 255, np.uint8)
    normal[..., :3] = (200, 128, 200)
    write(
        tmp_path / "in", crate=base, **{"crate@2x": base.repeat(2, 0).repeat(2, 1)},
        crate_3x=base.repeat(3, 0).repeat(3, 1), crate_n=normal,
    )  # fmt: skip
    project, got = gather(tmp_path / "p", tmp_path / "in")
    assert [g.along for g in got] == ["", "crate.png", "crate.png", "crate.png"]
    return project, project.sheets[0]


def test_larger_variants_and_normal_maps_join_their_sheet(tmp_path: Path) -> None:
    project, sheet = lit(tmp_path)
    assert len(project.sheets) == 1
    assert [v.scale for v in sheet.source.variants] == [2, 3]
    stock = PixelCache(tmp_path / "p")
    assert stock.variant(sheet, 2).shape == (32, 32, 4)  # type: ignore[union-attr]
    assert stock.normals(sheet)[0, 0].tolist() == [200, 128, 200, 255]  # type: ignore[index]


def test_companions_are_cut_and_shipped_at_the_same_places(tmp_path: Path) -> None:
    from rushweed.core.cut.edit import cut_sheet
    from rushweed.core.document.model.cut import GridCut

    project, sheet = lit(tmp_path)
    stock = PixelCache(tmp_path / "p")
    project = cut_sheet(project, sheet.id, GridCut((16, 16)), stock.pixels(sheet))
    done = ship(project, stock, tmp_path / "out")
    names = {p.name for p in done.files}
    assert {"atlas_0.png", "atlas_0@2x.png", "atlas_0@3x.png", "atlas_0_normals.png"} <= names
    one, two, normals = (
        np.array(Image.open(tmp_path / "out" / n).convert("RGBA"))
        for n in ("atlas_0.png", "atlas_0@2x.png", "atlas_0_normals.png")
    )
    assert (one.repeat(2, 0).repeat(2, 1) == two).all()
    inked = one[..., 3] > 0
    assert (normals[inked][:, :3] == (200, 128, 200)).all()


def test_a_companion_of_the_wrong_size_is_named(tmp_path: Path) -> None:
    write(tmp_path / "in", crate=art(16, 16), **{"crate@2x": art(30, 32)})
    _project, got = gather(tmp_path / "p", tmp_path / "in")
    fault = next(g.fault for g in got if g.fault)
    assert "32 x 32 px" in fault.problem and "crate@2x.png" in fault.problem


def test_folders_by_scale_join_too(tmp_path: Path) -> None:
    base = art(16, 16)
    write(tmp_path / "in/1x", crate=base)
    write(tmp_path / "in/2x", crate=base.repeat(2, 0).repeat(2, 1))
    made = batches(files_in([tmp_path / "in"]))
    assert len(made) == 1 and made[0].variants[0][0] == 2


def test_a_gathered_project_is_saved_and_opened_equal(tmp_path: Path) -> None:
    folder, empty = Folder.create(tmp_path / "p", "Test")
    for n in range(3):
        write(tmp_path / "in", **{f"heron_{n}": art(seed=n)})
    (tmp_path / "in" / "spark.gif").write_bytes(moving("GIF"))
    gathering = Gathering(folder.path, empty)
    got = [g for b in gathering.batches(files_in([tmp_path / "in"])) for g in gathering.take(b)]
    project = add_gathered(empty, got)
    folder.save(project)
    again = Folder(folder.path).open()
    assert again.sheets == project.sheets and again.animations == project.animations
    assert len(again.animations) == 2
    assert isinstance(read_picture(folder.path / again.sheets[0].source.files[0]).rgba, np.ndarray)
    assert Batch((tmp_path,), "x").variants == ()
