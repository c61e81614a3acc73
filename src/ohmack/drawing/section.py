"""A speaker in its door, cut through: trim, ring, flange, magnet, glass; every gap in millimetres."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker
from ohmack.core.fit.clearances import FitResult
from ohmack.drawing.svg import el, group, label, path, text_width

WIDTH = 420.0
SCALE, MIDDLE, EDGE = 1.5, 112.0, 214.0
NARROW = 0.72  # across is drawn narrower than depth, so that millimetres of depth read well
TOP, BELOW = 16.0, 20.0  # space kept above what is behind and below the trim


def _gap(x: float, low: float, high: float, words: str, tone: str) -> Markup:
    """A dimension between two heights, its words beside it."""
    return group(
        [
            el(
                "path",
                d=f"M{x - 4:.1f} {low:.1f}h8M{x - 4:.1f} {high:.1f}h8M{x:.1f} {low:.1f}V{high:.1f}",
                class_="dimension",
            ),
            label(x + 9, (low + high) / 2 + 4, words, "dim", "start", tone),
        ]
    )


def _driver(part: Driver, x: float, flange_y: float) -> Markup:
    half = part.frame_mm / 2 * SCALE * NARROW
    depth, magnet, front = part.mounting_depth_mm * SCALE, half * 0.55, part.front_height_mm * SCALE
    cone = [
        (x - half, flange_y),
        (x - half * 0.86, flange_y),
        (x - magnet, flange_y - depth * 0.55),
        (x - magnet, flange_y - depth),
        (x + magnet, flange_y - depth),
        (x + magnet, flange_y - depth * 0.55),
        (x + half * 0.86, flange_y),
        (x + half, flange_y),
    ]
    surround = f"M{x - half * 0.8:.1f} {flange_y:.1f}q{half * 0.8:.1f} {2 * front:.1f} {half * 1.6:.1f} 0"
    return group([el("path", d=path(cone, close=True), class_="steel"), el("path", d=surround, class_="surround")])


def draw_section(fit: FitResult, part: Driver, speaker: Speaker) -> Markup:
    """One speaker in its hole; the depth goes up, the cabin is below."""
    ring_mm = speaker.adapter_ring_mm.value or 0.0
    ring = ring_mm * SCALE
    depth = speaker.depth_mm.value
    glass = speaker.window_depth_mm.value if speaker.in_door else None
    behind, front = fit.checks[0], next((check for check in fit.checks if check.name == "Room in front"), None)
    ahead = speaker.trim_clearance_mm.value if front is not None else None
    face_y = TOP + max(part.mounting_depth_mm - ring_mm, depth or 0.0, glass or 0.0) * SCALE
    height = face_y + max(ahead or 0.0, ring_mm + part.front_height_mm) * SCALE + BELOW
    flange_y = face_y + ring
    hole = (speaker.cut_out_mm.value or part.cut_out_mm) / 2 * SCALE * NARROW
    pieces = [
        el(
            "path",
            d=f"M10 {face_y:.1f}H{MIDDLE - hole:.1f}M{MIDDLE + hole:.1f} {face_y:.1f}H{EDGE:.1f}",
            class_="panel",
        ),
        label(EDGE + 6, face_y + 4, "mounting face", "dim"),
    ]
    if ring:
        width = part.frame_mm / 2 * SCALE * NARROW - hole
        for x in (MIDDLE - hole - width, MIDDLE + hole):
            pieces.append(el("rect", x=x, y=face_y, width=max(4.0, width), height=ring, class_="ring"))
    pieces.append(_driver(part, MIDDLE, flange_y))
    tones = {"over": "bad", "tight": "close"}
    limits = [v for v in (depth, glass) if v is not None]
    if limits:
        y = face_y - min(limits) * SCALE
        words = "window down" if glass is not None and glass == min(limits) else "what is behind"
        pieces.append(el("path", d=f"M10 {y:.1f}H{EDGE:.1f}", class_="glass-line"))
        pieces.append(label(EDGE + 6, y + 4, words, "dim"))
        if behind.spare.value is not None:
            top = flange_y - part.mounting_depth_mm * SCALE
            pieces.append(
                _gap(
                    EDGE + 18 + text_width(words),
                    min(y, top),
                    max(y, top),
                    f"{behind.spare.value:z.0f} mm spare".replace("-", "−"),
                    tones.get(behind.state, ""),
                )
            )
    if ahead is not None:
        y = face_y + ahead * SCALE
        pieces.append(el("path", d=f"M10 {y:.1f}H{EDGE:.1f}", class_="trim-line"))
        pieces.append(label(EDGE + 6, y + 4, "trim", "dim"))
        if front is not None and front.spare.value is not None:
            low = flange_y + part.front_height_mm * SCALE
            pieces.append(
                _gap(
                    EDGE + 18 + text_width("mounting face"),
                    min(low, y),
                    max(low, y),
                    f"{front.spare.value:z.0f} mm spare".replace("-", "−"),
                    tones.get(front.state, ""),
                )
            )
    title = f"{fit.title}, cut through"
    return el(
        "svg",
        el("title", title),
        *pieces,
        viewBox=f"0 0 {WIDTH:g} {height:.0f}",
        class_="drawing section",
        role="img",
        aria_label=title,
    )
