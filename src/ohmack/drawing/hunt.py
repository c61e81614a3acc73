"""The wire hunt: the unknown wires on the left, the speakers on the right, every likely pairing as a line as strong
as its odds.
"""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.harness import Hunt
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.wire_finder import Found
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label
from ohmack.drawing.wires import wire_strokes

ROW = 26.0


@dataclass(frozen=True, slots=True)
class Columns:
    """Where wires and speakers stand, how far their lines bow, and how wide it all is [px]."""

    wire_x: float
    wire_end: float
    speaker_x: float
    bow: float
    width: float


WIDE, PHONE = Columns(118.0, 172.0, 362.0, 90.0, 500.0), Columns(98.0, 138.0, 232.0, 46.0, NARROW)


def draw_hunt(vehicle: Vehicle, hunt: Hunt, found: Found, testing: tuple[str, ...] = (), at: Columns = WIDE) -> Markup:
    """Wires, speakers, and what joins them.

    Parameters:
        vehicle: the car.
        hunt: the hunt.
        found: what its readings say.
        testing: ids of the wires of the next test, marked; those in one clip with a small mark.
        at: for the desk or for a phone.

    Returns:
        an SVG.
    """
    rows = max(len(hunt.wires), 2 * len(hunt.speaker_ids))
    height = 22 + ROW * rows + 8
    wire_y = {w.id: 30 + ROW * n * (rows / max(1, len(hunt.wires))) for n, w in enumerate(hunt.wires)}
    step = ROW * rows / max(1, len(hunt.speaker_ids))
    speaker_y = {name: 30 + step * (n + 0.5) - ROW / 2 for n, name in enumerate(hunt.speaker_ids)}
    names = {s.id: s.name for s in vehicle.speakers}
    pieces: list[Markup] = [
        label(at.wire_x - 8, 14, "wire", "dim", "end"),
        label(at.speaker_x + 30, 14, "leads to", "dim"),
    ]
    for guess, sure in [*((g, True) for g in found.certain), *((g, False) for g in found.guesses)]:
        y = speaker_y[guess.speaker_id]
        for name in guess.wires:
            start, end, from_y = at.wire_end, at.speaker_x, wire_y[name]
            bent = f"{start + at.bow:.1f} {from_y:.1f} {end - at.bow:.1f} {y:.1f}"
            d = f"M{start:.1f} {from_y:.1f}C{bent} {end - 14:.1f} {y:.1f}"
            if sure:
                pieces.append(el("path", d=d, class_="hunt-sure"))
            elif guess.odds > 0.2:
                pieces.append(el("path", d=d, class_="hunt-maybe", stroke_width=1 + 3 * guess.odds))
    for wire in hunt.wires:
        y = wire_y[wire.id]
        chosen = wire.id in testing
        pieces += wire_strokes(f"M{at.wire_x:.1f} {y:.1f}H{at.wire_end:.1f}", wire.base, wire.tracer, 8.0)
        if chosen:
            alone = len(testing) <= 2 or wire.id == testing[0]
            pieces.append(el("circle", cx=at.wire_end + 9, cy=y, r=6 if alone else 3, class_="probe"))
        pieces.append(label(at.wire_x - 8, y + 4.5, wire.name, "lab" if chosen else "dim", "end"))
        signs = [
            ("+" if g.plus == wire.id else "−") for g in found.certain if wire.id in g.wires and g.plus_odds > 1 - 1e-9
        ]
        if signs:
            pieces.append(label(at.wire_end + 8, y - 3, signs[0], "lab"))
        if wire.id in found.grounds:
            pieces.append(label(at.wire_end + 18, y + 4.5, "ground", "lab"))
    for name, y in speaker_y.items():
        sure = any(g.speaker_id == name for g in found.certain)
        pieces += [
            el("circle", cx=at.speaker_x, cy=y, r=12, class_="hunt-speaker" + (" sure" if sure else "")),
            el("circle", cx=at.speaker_x, cy=y, r=5, class_="thin"),
            label(at.speaker_x + 20, y + 4.5, names.get(name, name), "lab" if sure else "dim"),
        ]
    return el(
        "svg",
        el("title", "Wires and speakers"),
        group(pieces),
        viewBox=f"0 0 {at.width:g} {height:.0f}",
        class_="drawing hunt",
        role="img",
        aria_label=f"{len(found.certain)} of {len(hunt.speaker_ids)} pairs are certain",
    )
