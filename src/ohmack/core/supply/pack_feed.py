"""What a voltage converter draws from its pack, and the fuse and the wire of both its poles."""

from __future__ import annotations

from ohmack.core.document.parts import VoltageConverter
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.physics.conductors import ampacity_a, sizes
from ohmack.core.physics.geometry import run_length_m
from ohmack.core.physics.protection import best_fuse
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE

DRAWS = Formula(
    "Draws from the pack", "a", "V_out × I_out / (efficiency × lowest input)",
    lambda out_v, out_a, share, low_v: out_v * out_a / (share * low_v), PHYSICS,
)  # fmt: skip
FUSE = Formula(
    "Fuse at the pack", "a", "next standard size at or above I / head-room",
    lambda amps, headroom: best_fuse("maxi" if amps > BLADE_A else "blade", amps, AMPLE_A, headroom).rating_a,
    PRACTICE,
)  # fmt: skip
BLADE_A = 24.0  # what a blade of 30 A carries with head-room
AMPLE_A = 1000.0  # the wire is chosen for the fuse, not the fuse for the wire


def thinnest_for(fuse_a: float, system: str) -> str:
    """The thinnest size that carries what a fuse lets through.

    Parameters:
        fuse_a: rating of the fuse [a].
        system: AWG or mm2.

    Returns:
        the size.

    Raises:
        OutOfRange: none on file does.
    """
    for wire in sizes(system):
        if ampacity_a(wire, engine_space=False) >= fuse_a:
            return wire.label
    raise OutOfRange("fuse_a", fuse_a, "A", "what some size on file carries")


WIRE = Formula("Wire to the pack, both poles", "", "thinnest that carries its fuse", thinnest_for, PRACTICE)


@record
class PackFeed:
    """The feed of one voltage converter; no length while it has no place."""

    part: VoltageConverter
    battery: str
    current: Figure
    fuse: Figure
    wire: Figure
    length_m: float | None


def compute_pack_feeds(book: Book) -> list[PackFeed]:
    """The feed of every voltage converter, at full output and the lowest input it works from.

    Parameters:
        book: the book of the design.

    Returns:
        current and fuse [a], wire, length by the plan [m]. Source: power in is power out over efficiency.
    """
    design = book.design
    battery = design.vehicle.supply.batteries[0]
    found = []
    for part in design.parts_of(VoltageConverter):
        current = book.figure(
            f"{part.id}/pack_current_a",
            DRAWS,
            book.part(part, lambda it: it.out_v, "gives", "v"),
            book.part(part, lambda it: it.current_a, "gives, all the time", "a"),
            book.part(part, lambda it: it.efficiency, "efficiency"),
            book.part(part, lambda it: it.in_low_v, "works from", "v"),
            name=f"{part.name}: draws from the pack",
        )
        headroom = book.policy(lambda it: it.fuse_headroom, "head-room")
        fuse = book.figure(f"{part.id}/pack_fuse_a", FUSE, current, headroom, name=f"{part.name}: fuse at the pack")
        system = book.policy(lambda it: it.wire_system, "sizes in")
        wire = book.figure(f"{part.id}/pack_wire", WIRE, fuse, system, name=f"{part.name}: wire to the pack")
        length_m = None
        if part.position is not None:
            ends = (battery.position.point, part.position.point)
            length_m = run_length_m(ends, design.policy.rise_m, design.policy.slack_fraction)
        found.append(PackFeed(part, battery.name, current, fuse, wire, length_m))
    return found
