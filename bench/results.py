"""What was measured, kept in results.json with the machine; docs/speed.md is made of it."""

from __future__ import annotations

import json
import os
import platform
from pathlib import Path
from typing import Any

from bench.row import Row

HERE = Path(__file__).parent
RESULTS = HERE / "results.json"
PAGE = HERE.parent / "docs" / "speed.md"
CHART = HERE.parent / "docs" / "speed.svg"
INKS = ("#26302a", "#34644a", "#9c4421", "#7a5b0c", "#3f5f8a", "#7a3f78", "#8c0000", "#565d54")


def machine() -> dict[str, Any]:
    name = platform.processor() or platform.machine()
    try:
        lines = Path("/proc/cpuinfo").read_text().splitlines()
        name = next(line.split(":", 1)[1].strip() for line in lines if line.startswith("model name"))
    except (OSError, StopIteration):
        pass
    return {"processor": name, "cores": os.cpu_count(), "python": platform.python_version()}


def read() -> dict[str, Any]:
    if RESULTS.exists():
        kept: dict[str, Any] = json.loads(RESULTS.read_text(encoding="utf-8"))
        return kept
    return {"machine": machine(), "rows": {}, "growth": {}}


def keep(rows: dict[str, list[Row]]) -> None:
    """Put rows, by their name, in place of what was measured of them before."""
    kept = read()
    kept["machine"] = machine()
    for name, found in rows.items():
        kept["rows"][name] = [
            {**row._asdict(), "ratio": round(row.ratio, 3) if row.ratio < 1e9 else None} for row in found
        ]
    write(kept)


def keep_growth(seconds: dict[str, dict[int, float]]) -> None:
    """Seconds of each step by the side of the picture, px."""
    kept = read()
    kept["machine"], kept["growth"] = machine(), seconds
    write(kept)


def write(kept: dict[str, Any]) -> None:
    RESULTS.write_text(json.dumps(kept, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    kept = read()  # as it is read back, keys are text
    CHART.write_text(chart(kept["growth"]), encoding="utf-8")
    PAGE.write_text(page(kept), encoding="utf-8")


# -- the page ----------------------------------------------------------------------------------------------


def page(kept: dict[str, Any]) -> str:
    """docs/speed.md."""
    on = kept["machine"]
    lines = [
        "# How fast it is", "",
        f"Measured by `./run bench` on {on['processor']}, {on['cores']} cores, Python {on['python']};",
        "every row beside a reference in the same run, so that the ratio says more than the time. One above",
        "what it is allowed is a defect, in bold. `./run bench growth` draws the picture.", "",
        "![Time by the size of the picture](speed.svg)", "",
    ]  # fmt: skip
    steep = growths(kept["growth"])
    if steep:
        worst = max(steep, key=lambda name: steep[name])
        lines += [
            "From where a step takes 20 ms to its largest picture, time grows with the px to the power of",
            f"at most {steep[worst]:.2f} ({worst}); 1 is as fast as the px.", "",
        ]  # fmt: skip
    lines += [
        "| row | work | ours | reference | ratio | at most | |",
        "| --- | --- | --- | --- | --- | --- | --- |",
    ]
    for name, rows in kept["rows"].items():
        for row in rows:
            ratio = "-" if row["ratio"] is None else f"{row['ratio']:.2f}"
            slow = row["ratio"] is None or row["ratio"] > row["at_most"]
            shown = f"**{ratio}**" if slow else ratio
            cells = (
                name,
                row["work"].strip(),
                row["ours"],
                row["reference"],
                shown,
                f"{row['at_most']:g}",
                row["note"],
            )
            lines.append("| " + " | ".join(cell.replace("|", "/") for cell in cells) + " |")
    return "\n".join([*lines, ""])


def growths(growth: dict[str, dict[str, float]]) -> dict[str, float]:
    """The power of the px with which each step grows, from where it takes 20 ms on to its largest picture."""
    from math import log

    found = {}
    for name, seconds in growth.items():
        known = sorted((int(side), taken) for side, taken in seconds.items() if taken >= 0.02)
        if len(known) > 1:
            (low, first), (high, last) = known[0], known[-1]
            found[name] = log(last / first) / log((high / low) ** 2)
    return found


def chart(growth: dict[str, dict[str, float]]) -> str:
    """Seconds by side on paper with logarithms both ways, as SVG; every line is named at its end."""
    from math import log10

    wide, high, left, top = 760, 420, 64, 24
    right, bottom = wide - 150, high - 48
    sides = sorted({int(side) for seconds in growth.values() for side in seconds}) or [256, 8192]

    def x(side: float) -> float:
        return left + (log10(side) - log10(sides[0])) / (log10(sides[-1]) - log10(sides[0])) * (right - left)

    def y(taken: float) -> float:
        return bottom - (log10(max(taken, 1e-3)) + 3) / 5 * (bottom - top)

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{high}" viewBox="0 0 {wide} {high}" '
        'font-family="Open Sans, sans-serif" font-size="12">',
        f'<rect width="{wide}" height="{high}" fill="#fbf8f0"/>',
    ]
    for power, words in ((-3, "1 ms"), (-2, "10 ms"), (-1, "0.1 s"), (0, "1 s"), (1, "10 s"), (2, "100 s")):
        at = y(10**power)
        out.append(f'<path d="M{left} {at:.1f}H{right}" stroke="#d8cfbc"/>')
        out.append(f'<text x="{left - 8}" y="{at + 4:.1f}" text-anchor="end" fill="#565d54">{words}</text>')
    for side in sides:
        out.append(f'<path d="M{x(side):.1f} {top}V{bottom}" stroke="#e6dfcf"/>')
        out.append(
            f'<text x="{x(side):.1f}" y="{bottom + 18}" text-anchor="middle" fill="#565d54">{side}</text>'
        )
    out.append(
        f'<text x="{(left + right) / 2}" y="{high - 8}" text-anchor="middle" fill="#565d54">px a side</text>'
    )
    ends: list[float] = []
    last = {name: max(seconds.items(), key=lambda item: int(item[0]))[1] for name, seconds in growth.items()}
    for number, name in enumerate(sorted(growth, key=lambda name: -last[name])):
        seconds = sorted((int(side), taken) for side, taken in growth[name].items())
        ink = INKS[number % len(INKS)]
        points = " ".join(f"{x(side):.1f},{y(taken):.1f}" for side, taken in seconds)
        out.append(f'<polyline points="{points}" fill="none" stroke="{ink}" stroke-width="2"/>')
        at = y(seconds[-1][1]) + 4
        at = max(at, ends[-1] + 15) if ends else at  # names keep their distance
        ends.append(at)
        place = x(seconds[-1][0]) + 8
        out.append(f'<text x="{place:.1f}" y="{at:.1f}" fill="{ink}">{name}</text>')
    return "\n".join([*out, "</svg>", ""])
