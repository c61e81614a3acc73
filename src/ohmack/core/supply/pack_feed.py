"""What a voltage converter draws from its pack, and the fuse and the wire of both its poles."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.document.parts import VoltageConverter
from ohmack.core.document.vehicle import Battery, Body
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.fit.runs import straight
from ohmack.core.physics.conductors import ampacity_a, conductor, sizes
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


def thinnest_for(fuse_a: float, system: str, engine_space: bool) -> str:
    """The thinnest size that carries what a fuse lets through.

    Parameters:
        fuse_a: rating of the fuse [a].
        system: AWG or mm2.
        engine_space: True where any of it lies in the engine space.

    Returns:
        the size.

    Raises:
        OutOfRange: none on file does.
    """
    for wire in sizes(system):
        if ampacity_a(wire, engine_space) >= fuse_a:
            return wire.label
    raise OutOfRange("fuse_a", fuse_a, "A", "what some size on file carries")


WIRE = Formula(
    "Wire to the pack, both poles", "", "thinnest that carries its fuse", lambda a, s: thinnest_for(a, s, False),
    PRACTICE,
)  # fmt: skip
WIRE_BY_THE_ENGINE = Formula(
    "Wire to the pack, both poles", "", "thinnest that carries its fuse in the engine space",
    lambda a, s: thinnest_for(a, s, True), PRACTICE,
)  # fmt: skip
LOST = Formula(
    "Lost in both leads to the pack", "v", "2 × I × R × L", lambda amps, size, metres: lost_v(amps, size, metres),
    PHYSICS,
)  # fmt: skip


def lost_v(current_a: float, size: str, length_m: float) -> float:
    """What both leads of a converter lose.

    Parameters:
        current_a: what it draws [a].
        size: of either lead.
        length_m: of either lead [m].

    Returns:
        drop [v].

    Formula: 2 I R L. Source: Ohm's law.
    """
    return 2 * current_a * conductor(size).resistance_ohm_per_m * length_m


@record
class PackFeed:
    """The feed of one voltage converter; its length is missing while it has no place."""

    part: VoltageConverter
    battery: Battery
    current: Figure
    fuse: Figure
    wire: Figure
    length: Figure
    lost: Figure  # in both its leads


def compute_pack_feeds(book: Book) -> list[PackFeed]:
    """The feed of every voltage converter, at full output and the lowest input it works from.

    Parameters:
        book: the book of the design.

    Returns:
        current and fuse [a], wire, length by the plan [m], what is lost in it [v]. Source: power in is power out over
        efficiency.
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
        formula = WIRE if design.vehicle.body is Body.CART else WIRE_BY_THE_ENGINE
        wire = book.figure(f"{part.id}/pack_wire", formula, fuse, system, name=f"{part.name}: wire to the pack")
        words = f"{part.name}, its leads"
        length = straight(book, f"{part.id}/pack_m", part.position, battery.position, at(part), words)
        name = f"{part.name}: lost in both leads to the pack"
        lost = book.figure(f"{part.id}/pack_lost_v", LOST, current, wire, length, name=name)
        found.append(PackFeed(part, battery, current, fuse, wire, length, lost))
    return found
