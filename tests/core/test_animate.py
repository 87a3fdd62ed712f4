"""Animations: order, time, registering to the px, files that read back as they were."""

import io
import tracemalloc

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image

from rushweed.core.animate import export, register, timeline
from rushweed.core.animate.play import eased, frame_at, order_of, place_on, round_ms, start_of
from rushweed.core.animate.trim import trim_alike
from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Animation, Frame, Path
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.pixels.cache import PixelCache
from rushweed.demo.keeper import DRIFT
from tests.conftest import named, project_with, sheet_of_size

FULL = np.full((64, 64, 4), 255, np.uint8)


def cut() -> Project:
    return cut_sheet(project_with(sheet_of_size(64, 64)), "sheet1", GridCut((16, 16)), FULL)


def walk(demo: tuple[Project, PixelCache]) -> tuple[Project, list[Cell], list[tuple[Cell, np.ndarray]]]:
    project, stock = demo
    wren = named(project, "wren.png")
    cells = [c for c in wren.cells if c.name.startswith("walk")]
    pixels = stock.pixels(wren)
    return project, cells, [(c, register.pixels_of_cell(pixels, c)) for c in cells]


# -- timeline ------------------------------------------------------------------------------------------


def test_an_animation_of_cells_is_called_by_what_their_names_share(demo: tuple[Project, PixelCache]) -> None:
    project, cells, _frames = walk(demo)
    made, one = timeline.animate(project, [c.id for c in cells])
    animation = timeline.animation_of(made, one)
    assert animation.name == "walk_2" if any(a.name == "walk" for a in project.animations) else "walk"
    assert [f.cell for f in animation.frames] == [c.id for c in cells]
    with pytest.raises(EditError, match="needs frames"):
        timeline.animate(project, [])


def test_rows_and_stems_become_animations(demo: tuple[Project, PixelCache]) -> None:
    project = replace(demo[0], animations=())
    wren = named(project, "wren.png")
    rows, ids = timeline.animate_rows(project, wren.id)
    assert [timeline.animation_of(rows, i).name for i in ids] == ["idle", "walk", "climb", "light"]
    stems, ids = timeline.animate_stems(project, wren.id)
    assert sorted(timeline.animation_of(stems, i).name for i in ids) == ["climb", "idle", "light", "walk"]
    assert [len(a.frames) for a in rows.animations] == [4, 8, 4, 6]


def test_a_sheet_in_one_column_is_one_animation() -> None:
    project = cut()
    sheet = project.sheets[0]
    column = tuple(replace(c, rect=(0, n * 16, 16, 16)) for n, c in enumerate(sheet.cells[:5]))
    project = replace(project, sheets=(replace(sheet, cells=column),))
    made, (one,) = timeline.animate_rows(project, "sheet1")
    assert [f.cell for f in timeline.animation_of(made, one).frames] == [c.id for c in column]
    with pytest.raises(EditError):
        timeline.animate_rows(replace(project, sheets=(replace(sheet, cells=column[:1]),)), "sheet1")


def test_stems_are_put_in_natural_order() -> None:
    project = cut()
    names = ["run_10", "run_2", "run_1", "lamp", *(f"x{n}y" for n in range(12))]
    sheet = project.sheets[0]
    cells = tuple(replace(c, name=n) for c, n in zip(sheet.cells, names, strict=True))
    project = replace(project, sheets=(replace(sheet, cells=cells),))
    made, ids = timeline.animate_stems(project, "sheet1")
    order = [
        next(c.name for c in cells if c.id == f.cell) for f in timeline.animation_of(made, ids[0]).frames
    ]
    assert order == ["run_1", "run_2", "run_10"]


def test_frames_are_moved_removed_repeated_and_reversed() -> None:
    project = cut()
    ids = [c.id for c in project.sheets[0].cells[:5]]
    project, one = timeline.animate(project, ids)

    def order(p: Project) -> list[int]:
        return [ids.index(f.cell) for f in timeline.animation_of(p, one).frames]

    assert order(timeline.move_frames(project, one, [0, 1], 4)) == [2, 3, 0, 1, 4]
    assert order(timeline.move_frames(project, one, [4], 0)) == [4, 0, 1, 2, 3]
    assert timeline.move_frames(project, one, [2], 2) is project
    assert order(timeline.remove_frames(project, one, [1, 3])) == [0, 2, 4]
    assert order(timeline.insert_frames(project, one, 2, [ids[4], ids[4]])) == [0, 1, 4, 4, 2, 3, 4]
    assert order(timeline.reverse_frames(project, one)) == [4, 3, 2, 1, 0]
    copied, other = timeline.copy_animation(project, one)
    assert len(copied.animations) == 2 and timeline.animation_of(copied, other).frames


@given(st.floats(0.5, 240), st.integers(1, 40))
def test_a_frame_rate_becomes_ms_that_do_not_drift(rate: float, count: int) -> None:
    project = cut()
    ids = [project.sheets[0].cells[n % 16].id for n in range(count)]
    project, one = timeline.animate(project, ids)
    animation = timeline.animation_of(timeline.set_rate(project, one, rate), one)
    assert abs(sum(f.ms for f in animation.frames) - 1000 * count / rate) <= 1
    assert max(f.ms for f in animation.frames) - min(f.ms for f in animation.frames) <= 1
    assert timeline.rate_of(animation) is not None


def test_times_names_and_states_are_checked() -> None:
    project, one = _simple()
    with pytest.raises(EditError, match="cannot last"):
        timeline.set_ms(project, one, 0)
    with pytest.raises(EditError, match="needs a name"):
        timeline.rename_animation(project, one, " ")
    with pytest.raises(EditError, match="frames per second"):
        timeline.set_rate(project, one, 0)
    project = timeline.set_state(project, "sheet1", "idle")
    project = timeline.set_state(project, "sheet1", "moving", one)
    assert [(s.name, s.animation) for s in project.sheets[0].states] == [("idle", ""), ("moving", one)]
    project = timeline.make_default(project, "sheet1", "moving")
    assert [s.name for s in project.sheets[0].states] == ["moving", "idle"]
    project = timeline.remove_animation(project, one)
    assert [(s.name, s.animation) for s in project.sheets[0].states] == [("moving", ""), ("idle", "")]
    assert [s.name for s in timeline.remove_state(project, "sheet1", "idle").sheets[0].states] == ["moving"]


def _simple() -> tuple[Project, str]:
    project = cut()
    return timeline.animate(project, [c.id for c in project.sheets[0].cells[:3]])


# -- playing -------------------------------------------------------------------------------------------


def animation_of(times: list[int], play: str) -> Animation:
    return Animation("a", "a", tuple(Frame(str(n), ms) for n, ms in enumerate(times)), play)  # type: ignore[arg-type]


def test_frames_are_shown_for_their_time_in_every_way_of_playing() -> None:
    loop, once, back = (animation_of([100, 50, 200], p) for p in ("loop", "once", "there-and-back"))
    assert [frame_at(loop, t) for t in (0, 99, 100, 149, 150, 349, 350)] == [0, 0, 1, 1, 2, 2, 0]
    assert [frame_at(once, t) for t in (0, 349, 350, 9999)] == [0, 2, 2, 2]
    assert order_of(4, "there-and-back") == [0, 1, 2, 3, 2, 1] and order_of(1, "there-and-back") == [0]
    assert round_ms(back) == 400
    assert [frame_at(back, t) for t in (0, 120, 160, 360, 400)] == [0, 1, 2, 1, 0]
    assert start_of(loop, 2) == 150


@given(st.sampled_from(["linear", "in", "out", "both"]), st.floats(0, 1), st.floats(0, 1))
def test_easing_runs_from_start_to_end_without_going_back(easing: str, a: float, b: float) -> None:
    assert eased(0, easing) == 0 and eased(1, easing) == 1  # type: ignore[arg-type]
    low, high = sorted((a, b))
    assert eased(low, easing) <= eased(high, easing) + 1e-12  # type: ignore[arg-type]


def test_things_move_along_their_paths() -> None:
    path = Path((32, -16), 1000)
    assert place_on(path, 0) == (0, 0) and place_on(path, 1000) == (32, -16)
    assert place_on(path, 500) == (16, -8) == place_on(path, 1500)
    assert place_on(replace(path, play="loop"), 1250) == (8, -4)
    assert place_on(replace(path, play="once"), 9000) == (32, -16)
    assert place_on(replace(path, easing="in"), 500) == (8, -4)


# -- registering ---------------------------------------------------------------------------------------


def applied(
    frames: list[tuple[Cell, np.ndarray]], shifts: dict[str, tuple[int, int]]
) -> list[register.Drift]:
    return [register.drift_of(p, replace(c, shift=shifts.get(c.id, c.shift))) for c, p in frames]


def test_wrens_walk_is_put_right_by_one_command(demo: tuple[Project, PixelCache]) -> None:
    """The demo's walk is drawn off its place by a known drift; its outline takes it out to 0 px, and the best
    match too, but for the body that bobs by 1 px."""
    project, cells, frames = walk(demo)
    match = register.shifts_for(frames, "match", "both")
    assert [match[c.id][0] + dx for c, (dx, _dy) in zip(cells, DRIFT, strict=True)] == [0] * 8
    assert {match[c.id][1] + dy for c, (_dx, dy) in zip(cells, DRIFT, strict=True)} == {0, 1}
    shifts = register.shifts_for(frames, "match")
    assert {(shifts[c.id][0] + dx, shifts[c.id][1] + dy)
            for c, (dx, dy) in zip(cells, DRIFT, strict=True)} == {(0, 0)}  # fmt: skip
    shifts = register.shifts_for(frames, "outline", "both")
    off = [(shifts[c.id][0] + dx, shifts[c.id][1] + dy) for c, (dx, dy) in zip(cells, DRIFT, strict=True)]
    assert set(off) == {(0, 0)}
    after = applied(frames, shifts)
    assert register.spread([d.feet for d in after]) == 0 == register.spread([d.middle for d in after])
    made = register.set_shifts(project, shifts)
    assert named(made, "wren.png").cells[4].shift == shifts[cells[0].id]
    assert all(c.shift == (0, 0) for c in named(register.as_drawn(made, shifts), "wren.png").cells)


def test_feet_come_onto_one_line(demo: tuple[Project, PixelCache]) -> None:
    _project, _cells, frames = walk(demo)
    before = register.spread([d.feet for d in applied(frames, {})])
    after = register.spread([d.feet for d in applied(frames, register.shifts_for(frames, "feet"))])
    assert before >= 1 and after == 0


def test_centres_and_outlines_come_onto_one_another(demo: tuple[Project, PixelCache]) -> None:
    _project, _cells, frames = walk(demo)
    centres = [d.centre for d in applied(frames, register.shifts_for(frames, "centre"))]
    assert register.spread(centres) <= 1
    drawn = [d.feet for d in applied(frames, {})]
    for how in ("centre", "outline"):
        for moves in ("ground", "sideways"):
            moved = applied(frames, register.shifts_for(frames, how, moves))  # type: ignore[arg-type]
            assert [d.feet for d in moved] == drawn, "feet move only where it is asked"
    middles = [d.middle for d in applied(frames, register.shifts_for(frames, "outline"))]
    assert register.spread(middles) <= 1


@pytest.mark.parametrize("painted", [False, True])
def test_large_frames_are_put_right_to_the_px_in_little_memory(
    painted: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is too large to be compared px by px at every shift is compared reduced, then nearer."""
    monkeypatch.setattr(register, "LARGEST", 48)
    rng, high, wide = np.random.default_rng(5), 331, 270
    y, x = np.mgrid[:high, :wide]
    base = np.zeros((high, wide, 4), np.uint8)
    for _lump in range(12):
        at, size = rng.uniform(80, 190, 2), rng.uniform(8, 30)
        base[np.hypot(x - at[0], y - at[1]) < size] = (*rng.integers(30, 230, 3), 255)
    if painted:
        noise = rng.normal(0, 14, (high, wide, 3)) * (base[..., 3:] > 0)
        base[..., :3] = np.clip(base[..., :3] + noise, 0, 255)
    frames, truth = [], []
    for n in range(5):
        dx, dy = (int(v) for v in rng.integers(-9, 10, 2)) if n else (0, 0)
        rgba = np.roll(base, (dy, dx), (0, 1))
        rgba[150 + 4 * n : 166 + 4 * n, 50:59] = (200, 60, 40, 255)  # a limb that moves
        frames.append((Cell(f"c{n}", f"c{n}", (0, 0, wide, high), (wide / 2, high)), rgba))
        truth.append((-dx, -dy))
    tracemalloc.start()
    shifts = register.shifts_for(frames, "match", "both")
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert [shifts[c.id] for c, _p in frames] == truth
    assert most < 48 * 2**20, "all planes of one frame at every shift would be 60 MiB"


@pytest.mark.parametrize("kind", ["pixel", "smooth"])
@pytest.mark.parametrize("seed", range(6))
def test_known_jitter_is_found_exactly(kind: str, seed: int) -> None:
    """A body whose parts move a little, drawn at known offsets."""
    rng = np.random.default_rng(seed)
    body = rng.integers(0, 6, (22, 14))
    palette = rng.integers(20, 235, (6, 3)) if kind == "pixel" else None
    smooth = rng.integers(20, 235, (22, 14, 3))
    frames, truth = [], []
    for n in range(10):
        rgba = np.zeros((40, 36, 4), np.uint8)
        dx, dy = (int(v) for v in rng.integers(-4, 5, 2)) if n else (0, 0)
        colour = palette[body] if palette is not None else smooth
        y, x = 8 + dy, 10 + dx
        rgba[y : y + 22, x : x + 14, :3], rgba[y : y + 22, x : x + 14, 3] = colour, 255
        swing = n % 4  # a limb that swings
        rgba[y + 10 : y + 16, x + 14 + swing : x + 17 + swing] = (200, 120, 60, 255)
        frames.append((Cell(f"c{n}", f"c{n}", (0, 0, 36, 40), (18, 40)), rgba))
        truth.append((-dx, -dy))
    shifts = register.shifts_for(frames, "match", "both")
    assert [shifts[c.id] for c, _p in frames] == truth
    sideways = register.shifts_for(frames, "match", "sideways")
    assert [sideways[c.id] for c, _p in frames] == [(dx, 0) for dx, _dy in truth]


def figure(height: int, lifted: int = 0) -> np.ndarray:
    """A figure that stands, `lifted` px above the ground line, its head lower where it crouches."""
    rgba = np.zeros((64, 32, 4), np.uint8)
    rgba[60 - height - lifted : 60 - lifted, 12:20] = (90, 60, 40, 255)
    rgba[60 - height - lifted : 66 - height - lifted, 10:22] = (220, 180, 140, 255)
    return rgba


def test_best_match_keeps_feet_on_the_ground_and_a_jump_in_the_air() -> None:
    """A body that bobs by its head would be matched by its head, and lifted off the ground."""
    pictures = [figure(30), figure(27), figure(30, 2), figure(30), figure(30, 20)]
    frames = [(Cell(f"c{n}", f"c{n}", (0, 0, 32, 64), (16, 60)), p) for n, p in enumerate(pictures)]
    lifted = register.spread([d.feet for d in applied(frames, register.shifts_for(frames, "match", "both"))])
    assert lifted > 0
    shifts = register.shifts_for(frames, "match")
    assert [d.feet for d in applied(frames, shifts)] == [0, 0, 0, 0, -20]
    assert [register.shifts_for(frames, "match", "sideways")[f"c{n}"][1] for n in range(5)] == [0] * 5


def test_how_frames_stood_before_does_not_change_how_they_are_matched() -> None:
    """Striped art agrees at many places; the jitter put on it comes off all the same."""
    rng = np.random.default_rng(5)
    stripes = np.zeros((24, 40, 4), np.uint8)
    stripes[4:20, 6:34:4] = (200, 80, 60, 255)
    cells = [Cell(f"c{n}", f"c{n}", (0, 0, 40, 24), (20, 24)) for n in range(6)]
    still = register.shifts_for([(c, stripes) for c in cells], "match", "both")
    jitter = rng.integers(-3, 4, (6, 2))
    jitter[0] = 0
    moved = [(c, np.roll(stripes, (dy, dx), (0, 1))) for c, (dx, dy) in zip(cells, jitter, strict=True)]
    found = register.shifts_for(moved, "match", "both")
    assert [np.add(found[c.id], j).tolist() for c, j in zip(cells, jitter, strict=True)] == [
        list(still[c.id]) for c in cells
    ]


def test_an_empty_frame_is_left_where_it_is() -> None:
    blank = np.zeros((8, 8, 4), np.uint8)
    dot = blank.copy()
    dot[4, 4] = 255
    frames = [(Cell(str(n), str(n), (0, 0, 8, 8), (4, 8)), p) for n, p in enumerate((dot, blank, dot))]
    for how in ("feet", "centre", "outline", "match"):
        shifts = register.shifts_for(frames, how)  # type: ignore[arg-type]
        assert shifts["0"] == (0, 0) == shifts["2"]
    assert register.drift_of(blank, frames[1][0]) == (None, None, None)
    assert register.shifts_for(frames[:1], "match") == {}


def test_nudges_add_up_and_impossible_shifts_are_refused(demo: tuple[Project, PixelCache]) -> None:
    project, cells, _frames = walk(demo)
    made = register.nudge_cells(register.nudge_cells(project, [cells[0].id], 1, 0), [cells[0].id], 1, -3)
    assert next(c for c in named(made, "wren.png").cells if c.id == cells[0].id).shift == (2, -3)
    with pytest.raises(EditError, match="4096"):
        register.nudge_cells(project, [cells[0].id], 9999, 0)


def test_frames_are_trimmed_alike_and_stay_where_they_were(demo: tuple[Project, PixelCache]) -> None:
    project, cells, frames = walk(demo)
    project = register.set_shifts(project, register.shifts_for(frames, "outline"))
    project, one = timeline.animate(project, [c.id for c in cells])
    animation = timeline.animation_of(project, one)
    before = export.stills(project, animation, demo[1])
    after = trim_alike(project, [c.id for c in cells], demo[1])
    trimmed = [c for c in named(after, "wren.png").cells if c.name.startswith("walk")]
    assert len({c.rect[2:] for c in trimmed}) == 1
    assert trimmed[0].rect[2] < 24
    for c, old in zip(trimmed, cells, strict=True):
        assert old.rect[0] <= c.rect[0] and c.rect[0] + c.rect[2] <= old.rect[0] + old.rect[2]
    again = export.stills(after, animation, demo[1])
    dx, dy = before.pivot[0] - again.pivot[0], before.pivot[1] - again.pivot[1]
    for a, b in zip(before.frames, again.frames, strict=True):
        h, w = b.shape[:2]
        assert (a[dy : dy + h, dx : dx + w] == b).all()
        assert np.count_nonzero(a[..., 3]) == np.count_nonzero(b[..., 3])
    with pytest.raises(EditError, match="trimmed alike already"):
        trim_alike(after, [c.id for c in cells], demo[1])


# -- files ---------------------------------------------------------------------------------------------


def shown(demo: tuple[Project, PixelCache], play: str = "loop") -> tuple[Project, Animation, PixelCache]:
    project, cells, frames = walk(demo)
    project = register.set_shifts(project, register.shifts_for(frames, "match"))
    project, one = timeline.animate(project, [c.id for c in cells])
    for n, ms in enumerate((80, 100, 120, 90, 80, 100, 120, 250)):
        project = timeline.set_ms(project, one, ms, [n])
    project = timeline.set_play(project, one, play)  # type: ignore[arg-type]
    return project, timeline.animation_of(project, one), demo[1]


@pytest.mark.parametrize("form", ["gif", "apng", "webp"])
@pytest.mark.parametrize(("play", "scale"), [("loop", 1), ("there-and-back", 3)])
def test_files_read_back_frame_for_frame(demo, form: str, play: str, scale: int) -> None:  # type: ignore[no-untyped-def]
    project, animation, stock = shown(demo, play)
    still = export.stills(project, animation, stock, scale)
    data = export.written(project, animation, stock, form, scale)  # type: ignore[arg-type]
    with Image.open(io.BytesIO(data)) as image:
        assert image.n_frames == len(still.frames) == (8 if play == "loop" else 14)  # type: ignore[attr-defined]
        for n, frame in enumerate(still.frames):
            image.seek(n)
            back = np.array(image.convert("RGBA"))
            ink = frame[..., 3] >= 128
            assert (back[ink] == frame[ink]).all()
            assert (back[~ink][:, 3] == 0).all()
            assert round(image.info["duration"]) == still.times[n]
        assert image.info.get("loop", 0) == 0


def test_a_row_holds_each_frame_once(demo) -> None:  # type: ignore[no-untyped-def]
    project, animation, stock = shown(demo, "there-and-back")
    row = np.array(Image.open(io.BytesIO(export.written(project, animation, stock, "row", 2))))
    still = export.stills(project, animation, stock, 2, whole_round=False)
    assert (row == np.concatenate(list(still.frames), axis=1)).all() and len(still.frames) == 8


def test_gif_times_keep_the_length_of_the_whole() -> None:
    times = [33, 33, 34, 16, 17, 17]
    assert sum(export.hundredths(times)) == 15
    assert min(export.hundredths([1, 1, 1])) == 1


def test_more_colours_than_a_gif_has_are_reduced() -> None:
    rng = np.random.default_rng(1)
    frames = rng.integers(0, 255, (2, 24, 24, 4)).astype(np.uint8)
    index, palette = export.indexed(frames)
    solid = frames[..., 3] >= 128
    assert (index[~solid] == 0).all() and (index[solid] > 0).all()
    away = np.abs(palette[index[solid]].astype(int) - frames[solid][:, :3])
    assert away.mean() < 24


def test_what_cannot_be_written_says_why(demo) -> None:  # type: ignore[no-untyped-def]
    project, animation, stock = shown(demo)
    with pytest.raises(EditError, match="times as large"):
        export.written(project, animation, stock, "gif", 0)
    with pytest.raises(EditError, match="no frames"):
        export.written(project, replace(animation, frames=()), stock, "gif")
    with pytest.raises(EditError, match="px wide|too large"):
        export.written(project, replace(animation, frames=animation.frames * 3), stock, "row", 64)


def test_matching_very_many_frames_takes_no_more_memory_than_a_few_of_them() -> None:
    """Thousands of frames may be chosen at once: an accident, or all tiles of a set."""
    rng = np.random.default_rng(2)
    frame = np.zeros((40, 60, 4), np.uint8)
    frame[8:32, 10:40] = rng.integers(0, 255, (24, 30, 4)) // 128 * 127
    frame[8:32, 10:40, 3] = 255
    peaks = []
    for count in (30, 120):
        cells = [Cell(f"c{n}", f"c{n}", (0, 0, 60, 40), (30.0, 40.0)) for n in range(count)]
        frames = [(cell, np.roll(frame, n % 3, axis=1)) for n, cell in enumerate(cells)]
        tracemalloc.start()
        made = register.shifts_for(frames, "match", "both")
        peaks.append(tracemalloc.get_traced_memory()[1])
        tracemalloc.stop()
        assert [made[c.id][0] - made["c0"][0] for c in cells[:3]] == [0, -1, -2]
    assert peaks[1] < 1.5 * peaks[0]
