"""The readers that lie beside a shipment, each against pictures drawn by the core, px for px."""

import json
import shutil
import struct
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.animate.play import frame_at
from rushweed.core.animate.register import set_shifts
from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Pages
from rushweed.core.level.layers import change_layer
from rushweed.core.level.many_things import change_things
from rushweed.core.level.render import Seen, level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.ship.ways import DESKTOP
from tests.conftest import named

Demo = tuple[Project, PixelCache]
VIEW = (256, 144)


def changed(project: Project) -> Project:
    """The demo with all that a reader can get wrong: shifts, turned and tinted things, opacity, parallax."""
    marsh = [c.id for c in named(project, "marsh.png").cells[:20]]
    project = set_shifts(project, dict.fromkeys(marsh, (3, -2)))
    for level in project.levels:
        for n, layer in enumerate(level.layers):
            project = change_layer(project, level.id, layer.id, opacity_percent=(100, 60, 85)[n % 3])
            if n == 1:
                project = change_layer(project, level.id, layer.id, tint=(200, 255, 90), offset=(3.5, -2.0))
        things = [t.id for t in level.things]
        for n, thing in enumerate(things):
            project = change_things(
                project, level.id, [thing], mirrored=bool(n % 2), turn=(0, 30, 0, 115)[n % 4],
                scale=((1, 1), (1.5, 2), (1, 1), (1, 0.75))[n % 4], tint=(255, 180, 200) if n % 3 else None,
            )  # fmt: skip
    return project


def views(level: Level) -> list[tuple[int, int, int]]:
    """Left, top, ms of some pictures of a level."""
    x, y, columns, rows = level.bounds
    cw, ch = level.cell
    middle = (x + columns // 2) * cw - VIEW[0] // 2, (y + rows // 2) * ch - VIEW[1] // 2
    return [(x * cw, y * ch, 0), (*middle, 0), (middle[0] + 7, middle[1] - 5, 1730)]


def jobs_of(project: Project) -> list[dict]:  # type: ignore[type-arg]
    """What a reader is to draw, told as JSON."""
    made: list[dict] = []  # type: ignore[type-arg]
    for level in project.levels:
        made += [
            {"do": "level", "name": level.name, "left": x, "top": y, "ms": ms} for x, y, ms in views(level)
        ]
    made += [
        {"do": "animation", "name": a.id, "ms": ms, "x": 60, "y": 80}
        for a in project.animations for ms in (0, 130, 455, 5000)
    ]  # fmt: skip
    cells = [c.id for s in project.sheets for c in s.cells]
    made += [{"do": "frame", "name": cell, "x": 50, "y": 70} for cell in cells[::7]]
    return made


def expected(project: Project, stock: PixelCache, job: dict) -> np.ndarray:  # type: ignore[type-arg]
    """The picture by the core."""
    if job["do"] == "level":
        level = next(v for v in project.levels if v.name == job["name"])
        area = (job["left"], job["top"], *VIEW)
        return level_picture(project, level, stock.pixels, area, seen=Seen(ms=job["ms"], picture=VIEW))
    out = np.zeros((VIEW[1], VIEW[0], 4), np.uint8)
    cell_id = job["name"]
    if job["do"] == "animation":
        animation = next(a for a in project.animations if a.id == cell_id)
        cell_id = animation.frames[frame_at(animation, job["ms"])].cell
    sheet, cell = cell_homes(project)[cell_id]
    x, y, w, h = cell.rect
    art = stock.pixels(sheet)[y : y + h, x : x + w]
    left = int(np.floor(job["x"] - cell.pivot[0] + cell.shift[0] + 0.5))
    top = int(np.floor(job["y"] - cell.pivot[1] + cell.shift[1] + 0.5))
    x0, y0, x1, y1 = max(left, 0), max(top, 0), min(left + w, VIEW[0]), min(top + h, VIEW[1])
    part = art[y0 - top : y1 - top, x0 - left : x1 - left]
    out[y0:y1, x0:x1] = np.where(part[..., 3:] > 0, part, 0)
    return out


@pytest.fixture(scope="module")
def shipped(tmp_path_factory: pytest.TempPathFactory, master: Demo) -> tuple[Project, PixelCache, Path]:
    home = tmp_path_factory.mktemp("readers")
    project, stock = changed(master[0]), master[1]
    way = replace(DESKTOP, pages=Pages(turned=True, sides="any"))
    ship(project, stock, home / "out", way)
    return project, stock, home / "out"


def check(project: Project, stock: PixelCache, drawn: bytes) -> None:
    jobs = jobs_of(project)
    pictures = np.frombuffer(drawn, np.uint8).reshape(len(jobs), VIEW[1], VIEW[0], 4)
    for job, picture in zip(jobs, pictures, strict=True):
        wanted = expected(project, stock, job)
        assert wanted[..., 3].any(), job
        wrong = (picture != wanted).any(axis=2) & ((picture[..., 3] > 0) | (wanted[..., 3] > 0))
        assert not wrong.any(), (job, np.argwhere(wrong)[:3].tolist(), int(wrong.sum()))


def run(command: list[str], home: Path, project: Project, out: Path) -> bytes:
    (home / "jobs.json").write_text(json.dumps(jobs_of(project)))
    done = subprocess.run(
        [*command, str(out), str(home / "jobs.json"), str(home / "drawn.bin")], capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr[-2000:]
    return (home / "drawn.bin").read_bytes()


PYTHON = """
import json, sys
sys.path.insert(0, sys.argv[1] + "/reader")
from reader import Picture, Shipment
shipment, out = Shipment(sys.argv[1]), b""
for job in json.load(open(sys.argv[2])):
    screen = Picture(256, 144)
    if job["do"] == "level":
        shipment.draw_level(screen, job["name"], job["left"], job["top"], job["ms"])
    elif job["do"] == "animation":
        shipment.draw_animation(screen, job["name"], job["ms"], job["x"], job["y"])
    else:
        shipment.draw_frame(screen, job["name"], job["x"], job["y"])
    out += bytes(screen.px)
open(sys.argv[3], "wb").write(out)
"""

NODE = """
const fs = require("fs"), [, , home, jobs, out] = process.argv;
const { Picture, Shipment, readPng } = require(home + "/reader/reader.js");
(async () => {
  const read = (file) => JSON.parse(fs.readFileSync(`${home}/${file}`, "utf8"));
  const manifest = read("manifest.json"), levels = {}, pictures = {};
  for (const part of manifest.levels) levels[part.file] = read(part.file);
  const shown = Object.values(levels).flatMap((v) => v.layers.map((x) => x.picture)).filter(Boolean);
  for (const file of [...manifest.pages.map((p) => p.file), ...shown])
    pictures[file] = await readPng(new Uint8Array(fs.readFileSync(`${home}/${file}`)));
  const shipment = new Shipment(manifest, pictures, levels), drawn = [];
  for (const job of JSON.parse(fs.readFileSync(jobs, "utf8"))) {
    const screen = new Picture(256, 144);
    if (job.do === "level") shipment.drawLevel(screen, job.name, job.left, job.top, job.ms);
    else if (job.do === "animation") shipment.drawAnimation(screen, job.name, job.ms, job.x, job.y);
    else shipment.drawFrame(screen, job.name, job.x, job.y);
    drawn.push(Buffer.from(screen.data));
  }
  fs.writeFileSync(out, Buffer.concat(drawn));
})();
"""


def test_the_reader_in_python_draws_as_the_core(
    shipped: tuple[Project, PixelCache, Path], tmp_path: Path
) -> None:
    project, stock, out = shipped
    (tmp_path / "draw.py").write_text(PYTHON)
    check(project, stock, run([sys.executable, "-I", str(tmp_path / "draw.py")], tmp_path, project, out))


@pytest.mark.skipif(shutil.which("node") is None, reason="needs Node: apt-get install nodejs")
def test_the_reader_in_javascript_draws_as_the_core(
    shipped: tuple[Project, PixelCache, Path], tmp_path: Path
) -> None:
    project, stock, out = shipped
    (tmp_path / "draw.js").write_text(NODE)
    check(project, stock, run(["node", str(tmp_path / "draw.js")], tmp_path, project, out))


C = r"""
#define RUSHWEED_READER_IMPLEMENTATION
#include "reader.h"

/* Pages as the test has unpacked them: width, height, px. */
static rw_picture decode(const char *path, void *user) {
    rw_picture p = {0, 0, NULL};
    char name[4096];
    FILE *in;
    (void)user;
    snprintf(name, sizeof name, "%s.px", path);
    in = fopen(name, "rb");
    if (!in) return p;
    if (fread(&p.width, 4, 1, in) == 1 && fread(&p.height, 4, 1, in) == 1) {
        p.px = (unsigned char *)malloc((size_t)p.width * p.height * 4);
        if (fread(p.px, 4, (size_t)p.width * p.height, in) != (size_t)p.width * p.height) p.width = 0;
    }
    fclose(in);
    return p;
}

int main(int argc, char **argv) {
    rw_shipment *s = rw_open(argv[1], decode, NULL);
    char line[4096], what[16], name[1024];
    FILE *jobs = fopen(argv[2], "r"), *out = fopen(argv[3], "wb");
    double x, y, ms;
    if (argc < 4 || !s || !jobs || !out) return 1;
    while (fgets(line, sizeof line, jobs)) {
        rw_picture screen = rw_new_picture(256, 144);
        if (sscanf(line, "%15s %lf %lf %lf %1023[^\n]", what, &x, &y, &ms, name) != 5) return 2;
        if (what[0] == 'l') { if (!rw_draw_level(s, &screen, name, (int)x, (int)y, ms)) return 3; }
        else if (what[0] == 'a') rw_draw_animation(s, &screen, name, ms, x, y, 0);
        else rw_draw_frame(s, &screen, rw_frame(s, name), x, y, 0, 1.0);
        fwrite(screen.px, 4, 256 * 144, out);
        free(screen.px);
    }
    fclose(out);
    fclose(jobs);
    rw_close(s);
    return 0;
}
"""


@pytest.mark.skipif(shutil.which("cc") is None, reason="needs a C compiler: apt-get install gcc libc6-dev")
def test_the_reader_in_c_draws_as_the_core(shipped: tuple[Project, PixelCache, Path], tmp_path: Path) -> None:
    """In C99 with the sanitisers; C++ is only compiled."""
    project, stock, out = shipped
    (tmp_path / "draw.c").write_text(C)
    if shutil.which("c++") is not None:
        plus = ["c++", "-Wall", "-Wextra", "-Werror", "-fsyntax-only", "-x", "c++", f"-I{out / 'reader'}"]
        subprocess.run([*plus, str(tmp_path / "draw.c")], check=True)
    built = subprocess.run(
        ["cc", "-std=c99", "-pedantic", "-Wall", "-Wextra", "-Werror", "-O1", "-D_POSIX_C_SOURCE=200809L",
         "-fsanitize=address,undefined", "-fno-sanitize-recover=all", f"-I{out / 'reader'}",
         str(tmp_path / "draw.c"), "-o", str(tmp_path / "draw"), "-lm"], capture_output=True, text=True,
    )  # fmt: skip
    assert built.returncode == 0, built.stderr[-3000:]
    for page in [*out.glob("*.png"), *out.glob("pictures/*.png")]:
        with Image.open(page) as picture:
            px = np.array(picture.convert("RGBA"))
        page.with_name(page.name + ".px").write_bytes(struct.pack("<ii", *px.shape[1::-1]) + px.tobytes())
    lines = [
        f"{j['do']} {j.get('left', j.get('x'))} {j.get('top', j.get('y'))} {j.get('ms', 0)} {j['name']}"
        for j in jobs_of(project)
    ]
    (tmp_path / "jobs.txt").write_text("\n".join(lines) + "\n")
    done = subprocess.run(
        [str(tmp_path / "draw"), str(out), str(tmp_path / "jobs.txt"), str(tmp_path / "drawn.bin")],
        capture_output=True, text=True,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    check(project, stock, (tmp_path / "drawn.bin").read_bytes())
