"""The wire hunt: the unknown wires on the left, the speakers on the right, every likely pairing as a line as strong
as its odds.
"""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.harness import Hunt
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.wire_finder import Found
from ohmack.drawing.svg import el, group, label
from ohmack.drawing.wires import wire_strokes

WIDTH, ROW = 500.0, 26.0
WIRE_X, WIRE_END, SPEAKER_X = 118.0, 172.0, 362.0


def draw_hunt(vehicle: Vehicle, hunt: Hunt, found: Found, testing: tuple[str, ...] = ()) -> Markup:
    """Wires, speakers, and what joins them.

    Parameters:
        vehicle: the car.
        hunt: the hunt.
        found: what its readings say.
        testing: ids of the wires of the next test, marked.

    Returns:
        an SVG.
    """
    rows = max(len(hunt.wires), 2 * len(hunt.speaker_ids))
    height = 22 + ROW * rows + 8
    wire_y = {w.id: 30 + ROW * n * (rows / max(1, len(hunt.wires))) for n, w in enumerate(hunt.wires)}
    step = ROW * rows / max(1, len(hunt.speaker_ids))
    speaker_y = {name: 30 + step * (n + 0.5) - ROW / 2 for n, name in enumerate(hunt.speaker_ids)}
    names = {s.id: s.name for s in vehicle.speakers}
    pieces: list[Markup] = [label(WIRE_X - 8, 14, "wire", "dim", "end"), label(SPEAKER_X + 30, 14, "leads to", "dim")]
    for guess, sure in [*((g, True) for g in found.certain), *((g, False) for g in found.guesses)]:
        y = speaker_y[guess.speaker_id]
        for name in guess.wires:
            d = (
                f"M{WIRE_END:.1f} {wire_y[name]:.1f}C{WIRE_END + 90:.1f} {wire_y[name]:.1f} {SPEAKER_X - 90:.1f}"
                f" {y:.1f} {SPEAKER_X - 14:.1f} {y:.1f}"
            )
            if sure:
                pieces.append(el("path", d=d, class_="hunt-sure"))
            elif guess.odds > 0.2:
                pieces.append(el("path", d=d, class_="hunt-maybe", stroke_width=1 + 3 * guess.odds))
    for wire in hunt.wires:
        y = wire_y[wire.id]
        chosen = wire.id in testing
        pieces += wire_strokes(f"M{WIRE_X:.1f} {y:.1f}H{WIRE_END:.1f}", wire.base, wire.tracer, 8.0)
        if chosen:
            pieces.append(el("circle", cx=WIRE_END + 9, cy=y, r=6, class_="probe"))
        pieces.append(label(WIRE_X - 8, y + 4.5, wire.name, "lab" if chosen else "dim", "end"))
        signs = [
            ("+" if g.plus == wire.id else "−") for g in found.certain if wire.id in g.wires and g.plus_odds > 1 - 1e-9
        ]
        if signs:
            pieces.append(label(WIRE_END + 8, y - 3, signs[0], "lab"))
        if wire.id in found.grounds:
            pieces.append(label(WIRE_END + 18, y + 4.5, "ground", "lab"))
    for name, y in speaker_y.items():
        sure = any(g.speaker_id == name for g in found.certain)
        pieces += [
            el("circle", cx=SPEAKER_X, cy=y, r=12, class_="hunt-speaker" + (" sure" if sure else "")),
            el("circle", cx=SPEAKER_X, cy=y, r=5, class_="thin"),
            label(SPEAKER_X + 20, y + 4.5, names.get(name, name), "lab" if sure else "dim"),
        ]
    return el(
        "svg",
        el("title", "Wires and speakers"),
        group(pieces),
        viewBox=f"0 0 {WIDTH:g} {height:.0f}",
        class_="drawing hunt",
        role="img",
        aria_label=f"{len(found.certain)} of {len(hunt.speaker_ids)} pairs are certain",
    )
