"""What a voltage converter draws from its pack, and the fuse and the wire of both its poles."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.document.parts import VoltageConverter
from ohmack.core.document.vehicle import Battery, Body
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.fit.runs import straight
from ohmack.core.physics.conductors import ampacity_a, conductor, sizes
from ohmack.core.physics.protection import FAMILIES, best_fuse, family
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE

BLADE_A = 24.0  # what a blade of 30 A carries with head-room
AMPLE_A = 1000.0  # the wire is chosen for the fuse, not the fuse for the wire
CELL_V, CHARGING_V, MOST_CELLS = 2.1, 2.4, 24  # of a pack of 48 V

DRAWS = Formula(
    "Draws from the pack", "a", "V_out × I_out / (efficiency × lowest input)",
    lambda out_v, out_a, share, low_v: out_v * out_a / (share * low_v), PHYSICS,
)  # fmt: skip
HIGHEST = Formula(
    "The pack under charge", "v", "at rest × 2.4 / 2.1, a lead-acid cell charging and resting",
    lambda rests_v: rests_v * CHARGING_V / CELL_V, PRACTICE,
)  # fmt: skip
FUSE = Formula(
    "Fuse at the pack", "a", "next standard size at or above I / head-room, of a family that breaks the pack's voltage",
    lambda amps, headroom, volts: best_fuse(pack_family(amps, volts), amps, AMPLE_A, headroom).rating_a, PRACTICE,
)  # fmt: skip


def pack_family(current_a: float, highest_v: float) -> str:
    """The smallest family of fuses for a pack.

    Parameters:
        current_a: what is drawn [a].
        highest_v: the pack under charge [v].

    Returns:
        blade, maxi or strip.

    Raises:
        OutOfRange: no family on file breaks that voltage.

    Source: rated voltages of ISO 8820-3 and -5, from memory: above it a fuse blows and its arc goes on.
    """
    for name in FAMILIES:
        if family(name).voltage_v >= highest_v and not (name == "blade" and current_a > BLADE_A):
            return name
    raise OutOfRange("highest_v", highest_v, "V", "what a fuse on file breaks; ask for one rated above it")


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
    family: str  # of its fuse; empty where none on file will do
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
        highest = _highest(book, part)
        words = f"{part.name}: fuse at the pack"
        fuse = book.figure(f"{part.id}/pack_fuse_a", FUSE, current, headroom, highest, name=words)
        known = fuse.value is not None and current.value is not None and highest.value is not None
        kind = pack_family(current.value, highest.value) if known else ""
        system = book.policy(lambda it: it.wire_system, "sizes in")
        formula = WIRE if design.vehicle.body is Body.CART else WIRE_BY_THE_ENGINE
        wire = book.figure(f"{part.id}/pack_wire", formula, fuse, system, name=f"{part.name}: wire to the pack")
        words = f"{part.name}, its leads"
        length = straight(book, f"{part.id}/pack_m", part.position, battery.position, at(part), words)
        name = f"{part.name}: lost in both leads to the pack"
        lost = book.figure(f"{part.id}/pack_lost_v", LOST, current, wire, length, name=name)
        found.append(PackFeed(part, battery, current, kind, fuse, wire, length, lost))
    return found


def _highest(book: Book, part: VoltageConverter) -> Term | Figure:
    """The most the pack reaches: as read while it charges, else by what it rests at, else by the most cells."""
    supply = book.design.vehicle.supply
    if supply.post_running_v.value is not None:
        return book.fact(supply, lambda it: it.post_running_v, "battery post, running", "v")
    if supply.post_resting_v.value is None:
        return reference("24 cells under charge, a 48 V pack", MOST_CELLS * CHARGING_V, "v", PRACTICE)
    rests = book.fact(supply, lambda it: it.post_resting_v, "battery post, resting", "v")
    return book.figure(f"{part.id}/pack_high_v", HIGHEST, rests, name=f"{part.name}: the pack under charge")
