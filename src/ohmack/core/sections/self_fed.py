"""Parts that come with their own amplifier: the fuse and wire of a run of their own, beside what a factory feed could give."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.conductors import ampacity_a, sizes
from ohmack.core.document import Basis
from ohmack.core.document.parts import Accessory
from ohmack.core.protection import best_rating_a, family
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.sections.figures import Book, Figure, Term, reference

AMPLE_A = 1000.0  # the wire follows the fuse here, so no wire limits it
MIDDLE = 0.5  # of the car's length, where a part has no place on the plan yet
HALF = 0.5  # of the drop allowed goes into the positive lead, the rest is for joints and return


@dataclass(frozen=True, slots=True)
class SelfFed:
    """One part with its own amplifier and the run it would take."""

    part: Accessory
    fuse: Figure
    wire: Figure
    length: Figure
    feed_name: str
    feed_limit_a: float | None


def _fuse_a(current_a: float, headroom: float) -> float:
    name = "blade" if current_a / headroom <= max(family("blade").ratings_a) else "maxi"
    return best_rating_a(name, current_a, AMPLE_A, headroom)


def _wire_for(fuse_a: float, current_a: float, length_m: float, drop_v: float, system: str) -> str:
    fits = (
        w.label for w in sizes(system)
        if ampacity_a(w, True) >= fuse_a and current_a * length_m * w.resistance_ohm_per_m <= HALF * drop_v
    )  # fmt: skip
    return next(fits, "no single wire")


def _length_m(x_m: float, y_m: float, rise_m: float, slack: float) -> float:
    return (x_m + y_m + 2 * rise_m) * (1 + slack)


def compute_self_fed(book: Book) -> list[SelfFed]:
    """Every part with its own amplifier: fuse, and the wire by ampacity in the engine space and by drop."""
    policy = book.design.policy
    system = policy.wire_system
    feed = max(
        (f for f in book.design.vehicle.feeds if f.limit_a.value), key=lambda f: f.limit_a.value or 0.0, default=None
    )
    battery = book.design.vehicle.supply.batteries[0].position
    body_m = book.design.vehicle.length_m
    results = []
    for part in book.design.parts_of(Accessory):
        if part.current_a is None:
            continue
        at = part.position.point if part.position else (MIDDLE * (body_m.value or 4.3), 0.0)
        along, across = abs(at[0] - battery.x_m), abs(at[1] - battery.y_m)
        current = book.part(part, "current_a", f"{part.name} draws", "a")
        drop = book.policy("drop_limit_v", "drop allowed", "v")
        length = book.derive(
            f"{part.id}/own_length_m", f"Run of its own, {part.name}", "m", "(along + across + 2 rises) · (1 + slack), from the plan", _length_m,
            Term("along the car", along, "m", Basis.ASSUMED, None, "plan", f"parts/{part.id}"), Term("across the car", across, "m", Basis.ASSUMED, None, "plan", f"parts/{part.id}"),
            book.policy("rise_m", "rise", "m"), book.policy("slack_fraction", "slack"), source=PRACTICE,
        )  # fmt: skip
        fuse = book.derive(
            f"{part.id}/own_fuse_a", f"Fuse of its own run, {part.name}", "a", "next standard size at or above I / head-room",
            _fuse_a, current, book.policy("fuse_headroom", "head-room"), source=PRACTICE,
        )  # fmt: skip
        wire = book.derive(
            f"{part.id}/own_wire", f"Wire of its own run, {part.name}", "", "smallest with ampacity at or above the fuse and half the drop allowed",
            _wire_for, fuse, current, length, drop, reference("wire system", system, "", PRACTICE), source=PHYSICS,
        )  # fmt: skip
        name, limit_a = (feed.name, feed.limit_a.value) if feed else ("", None)
        results.append(SelfFed(part, fuse, wire, length, name, limit_a))
    return results
