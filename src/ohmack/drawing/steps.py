"""The level at the tap over the volume steps: one line a tone, the last clean step marked."""

from __future__ import annotations

from math import log10

from markupsafe import Markup

from ohmack.core.survey.readings import Baseline
from ohmack.drawing.svg import el, group, label, path

WIDTH, HEIGHT = 380.0, 214.0
LEFT, RIGHT, TOP, BOTTOM = 40.0, 318.0, 16.0, 176.0
LEAST_PX = 17.0  # between two steps that are written
TONES = ("trace-ink", "trace-red", "trace-note")


def draw_steps(baseline: Baseline) -> Markup:
    """Level in dBV over step; empty where nothing was read."""
    rows = [(step, volts) for sweep in baseline.sweeps for step, volts in sweep.rows if volts > 0]
    if len(rows) < 2:
        return Markup("")
    levels = [20 * log10(volts) for _, volts in rows]
    low, high = 5 * (min(levels) // 5), 5 * (max(levels) // 5 + 1)
    first, last = min(step for step, _ in rows), max(step for step, _ in rows)
    if first == last:
        return Markup("")

    def at(step: float, volts: float) -> tuple[float, float]:
        x = LEFT + (RIGHT - LEFT) * (step - first) / (last - first)
        return x, BOTTOM - (BOTTOM - TOP) * (20 * log10(volts) - low) / (high - low)

    pieces: list[Markup] = []
    level = low
    while level <= high:
        y = BOTTOM - (BOTTOM - TOP) * (level - low) / (high - low)
        pieces.append(el("path", d=f"M{LEFT:.1f} {y:.1f}H{RIGHT:.1f}", class_="grid"))
        pieces.append(label(LEFT - 6, y + 4, f"{level:.0f}".replace("-", "−"), "dim", "end"))
        level += 5
    written = LEFT - LEAST_PX
    for step in sorted({step for step, _ in rows}):
        x, _ = at(step, 1.0)
        if x - written >= LEAST_PX:
            pieces.append(label(x, BOTTOM + 16, f"{step:g}", "dim", "middle"))
            written = x
    pieces += [
        label(LEFT - 36, TOP - 6, "dBV", "dim"),
        label((LEFT + RIGHT) / 2, BOTTOM + 32, "volume step", "dim", "middle"),
    ]
    taken: list[float] = []
    for number, sweep in enumerate(baseline.sweeps):
        points = [at(step, volts) for step, volts in sweep.rows if volts > 0]
        if not points:
            continue
        tone = TONES[number % len(TONES)]
        out = [at(step, volts) for step, volts in sweep.rows if step in sweep.outliers and volts > 0]
        kept = [point for point in points if point not in out]
        pieces.append(el("path", d=path(kept), class_=tone, fill="none"))
        pieces += [el("circle", cx=x, cy=y, r=3, class_=f"dot {tone}") for x, y in kept]
        pieces += [el("circle", cx=x, cy=y, r=4.5, class_="left-out") for x, y in out]
        pieces += [label(x, y + 17, "left out", "dim", "middle", "paper-halo") for x, y in out]
        y = points[-1][1]
        while any(abs(y - other) < 15 for other in taken):
            y += 15
        taken.append(y)
        pieces.append(label(RIGHT + 8, y + 4, f"{sweep.tone_hz:g} Hz", "lab"))
        if sweep.last_clean is not None:
            volts = dict(sweep.rows)[sweep.last_clean]
            x, y = at(sweep.last_clean, volts)
            pieces.append(el("path", d=f"M{x:.1f} {y - 10:.1f}V{y + 10:.1f}", class_="clip"))
    title = "Level at the tap over the volume steps"
    return el(
        "svg",
        el("title", title),
        group(pieces),
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        class_="drawing steps-chart",
        role="img",
        aria_label=title,
    )
