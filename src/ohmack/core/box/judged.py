"""Every box of the plan worked out: air, tuning, reach, the cone's travel, speed in the vent, the most it gives."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.box.circuit import (
    JUDGED_FROM_HZ,
    STUFFED,
    Solved,
    drive_of,
    enclosure_of,
    full_level_v,
    length_wanted_mm,
    opened_m3,
    opens,
    papers_of,
    round_area_cm2,
    slot_area_cm2,
    small_signal,
    solved,
    vent_area_m2,
)
from ohmack.core.box.shapes import Baffle, made_from, shape_of
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Board, Box, VentShape
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.fit.clearances import GEOMETRY
from ohmack.core.loads.driven import sub_coils
from ohmack.core.loads.wiring_judge import EVEN
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.box_panels import Made
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source
from ohmack.core.signal.crossovers import Crossover

CIRCUIT = Source("driver, air and vent as one lumped circuit", Grade.HANDBOOK)
FULL_LEVEL = Formula(
    "Volts at full level", "v", "√(least of power and what is taken × nominal load)", full_level_v, PHYSICS
)
REACH = Reading("Reaches down to", "hz", "where its own response has fallen by 3 dB", lambda s: s.reach_hz, CIRCUIT)
HUMP = Reading("Hump", "db", "its highest level over that far above", lambda s: s.hump_db, CIRCUIT)
TRAVEL = Reading(
    "The cone goes, one way", "mm", f"furthest at full level from {JUDGED_FROM_HZ:.0f} to 120 Hz, subsonic filter"
    " counted", lambda s: s.travel_mm, CIRCUIT,
)  # fmt: skip
TRAVEL_AT = Reading("It goes furthest at", "hz", "where that is", lambda s: s.travel_at_hz, CIRCUIT)
SPEED = Reading("Air in the vent", "m_s", "fastest at full level, peak", lambda s: s.air_speed_m_s, CIRCUIT)
CLEAN = Reading(
    "Takes at every frequency", "w", f"least of what heat, travel and vent allow, {JUDGED_FROM_HZ:.0f} to 120 Hz",
    lambda s: s.clean_w, CIRCUIT,
)  # fmt: skip
LOUDEST = Reading(
    "Most at 40 Hz", "db", "what the least of its limits leaves, 1 m over a floor, no cabin",
    lambda s: s.loudest_db, CIRCUIT,
)  # fmt: skip
CLOSED_Q = Reading("Q", "", "Qts √(1 + Vas/V)", lambda s: s.closed_q, CIRCUIT)
TUNED = Reading("Tuned to", "hz", "what its vents or radiators make with its air", lambda e: e.tuning_hz, CIRCUIT)
ROUND_AREA = Formula("Area of a vent", "cm2", "π d² / 4", round_area_cm2, GEOMETRY)
SLOT_AREA = Formula("Area of a vent", "cm2", "width × height", slot_area_cm2, GEOMETRY)
VENT_LENGTH = Formula(
    "Each vent is long", "mm", "n S c² / ((2 π f)² V) − end correction of each", length_wanted_mm, CIRCUIT
)
VENTS_TAKE = Formula(
    "Air the vents take", "l", "area × length × how many, walls not counted",
    lambda area, length, many: area * max(0.0, length) * many / 10_000, GEOMETRY,
)  # fmt: skip
IN_PARALLEL = Formula(
    "Its coils in parallel", "ohm", "reciprocal sum", lambda coils: 1 / sum(1 / c.impedance_ohm for c in coils), PHYSICS
)
AIR_INSIDE = Reading(
    "Air between the boards", "l", "by its outside and its boards", lambda m: 1000 * m.gross_m3, GEOMETRY
)
BRACES_TAKE = Reading("Air the braces take", "l", "frames, half of them air", lambda m: 1000 * m.braces_m3, GEOMETRY)
WOOD = Reading("Wood", "l", "all its boards", lambda m: 1000 * m.wood_m3, GEOMETRY)


def _net_l(gross_l: float, drivers_l: float, vents_l: float, braces_l: float) -> float:
    return gross_l - drivers_l - vents_l - braces_l


NET = Formula("Net volume by its size", "l", "air between the boards − drivers − vents − braces", _net_l, GEOMETRY)
DRIVERS_TAKE = Formula("Air the drivers take", "l", "each × how many", lambda each, many: each * many, GEOMETRY)
DENSITY_KG_M3 = {Board.MDF: 750.0, Board.BIRCH: 680.0}
OWN_WEIGHT = Formula("Boards weigh", "kg", "wood × density", lambda wood_l, density: wood_l / 1000 * density, PRACTICE)


@record
class BoxResult:
    """One box with what is in it; figures that cannot be worked out say why."""

    box: Box
    subs: tuple[Subwoofer, ...]
    reach: Figure | None  # None where nothing is in it, or the papers of what is in it lack something
    solved: Solved | None
    made: Made | None
    net: Figure | None  # by its size, where it is built of boards
    refused: OutOfRange | None = None  # why its boards make no box
    lacks: tuple[tuple[str, str], ...] = ()  # (path, name) of what the papers do not give, so that nothing is judged
    unlike: str = ""  # why its drivers are no one circuit, so that nothing is judged

    @property
    def name(self) -> str:
        """The box by name."""
        return self.box.name


def _driver_terms(book: Book, sub: Subwoofer) -> tuple[Term, ...]:
    return (
        book.part(sub, lambda it: it.fs_hz, "resonance in free air (fs)", "hz"),
        book.part(sub, lambda it: it.qms, "mechanical Q (Qms)"),
        book.part(sub, lambda it: it.qes, "electrical Q (Qes)"),
        book.part(sub, lambda it: it.vas_l, "equivalent volume (Vas)", "l"),
        book.part(sub, lambda it: it.sd_cm2, "cone area (Sd)", "cm2"),
    )


def _box_terms(book: Book, box: Box) -> tuple[Term, ...]:
    terms = [book.part(box, lambda it: it.net_volume_l, "net volume", "l")]
    if box.box_type == "bandpass":
        terms.append(book.part(box, lambda it: it.front_volume_l, "front chamber", "l"))
    if opens(box) and (box.vents.length_mm is None or vent_area_m2(box.vents) is None):
        terms.append(book.part(box, lambda it: it.tuning_hz, "tuned to", "hz"))
    elif opens(box):
        terms.append(book.part(box, lambda it: it.vents.length_mm, "vent length", "mm"))
    if box.box_type == "passive radiator":
        terms += [
            book.part(box, lambda it: it.radiators.area_cm2, "radiator, cone area", "cm2"),
            book.part(box, lambda it: it.radiators.mass_g, "radiator, moving mass", "g"),
            book.part(box, lambda it: it.radiators.air_l, "radiator, equivalent volume", "l"),
        ]
    if STUFFED[box.stuffing] > 1:
        terms.append(reference("stuffing acts as air, times", STUFFED[box.stuffing], "", PRACTICE))
    return tuple(terms)


def _outputs_of(subs: tuple[Subwoofer, ...], loads: Sequence[LoadResult]) -> list[LoadResult]:
    """The outputs that drive the subwoofers of a box."""
    names = {sub.id for sub in subs}
    return [load for load in loads if names & {driven.id for driven in load.driven}]


def _unlike(book: Book, subs: tuple[Subwoofer, ...], own: Sequence[LoadResult]) -> str:
    """Why the drivers of a box cannot be taken as one; empty where they can."""
    parts = {part.id: part for part in book.design.parts_of(Subwoofer)}
    if any(papers_of(sub) != papers_of(subs[0]) for sub in subs):
        return "the drivers in it are not alike"
    beside = [parts.get(driven.id) for load in own for driven in load.driven]
    if any(part is None or papers_of(part) != papers_of(subs[0]) for part in beside):
        return "its output drives something else besides"
    if any(load.chosen.uneven > EVEN for load in own):
        return "its drivers do not share their output's power alike"
    if any(not load.chosen.stays for load in own):
        return "an output that drives it has no load"
    if any(isinstance(w := load.chosen.wiring, BenchWiring) and len(set(w.polarity.values())) > 1 for load in own):
        return "a coil in it is reversed, shorted or hangs open"
    volts = [load.full_scale.value for load in own]
    if None in volts:
        return "what its output gives is not known yet"
    if own and max(volts) > 1.01 * min(volts):
        return "the outputs that drive it are not alike"
    return ""


def _level(
    book: Book, box: Box, subs: tuple[Subwoofer, ...], own: Sequence[LoadResult]
) -> tuple[Figure, float, float, float, float]:
    """(volts at full level, nominal load, DC load, what one output's drivers take, how many such outputs this box is).

    An output that drives further boxes counts by its share of drivers: they are alike.
    """
    names = {sub.id for sub in subs}
    if own:
        load = own[0]
        volts = book.figure(f"{box.id}/full_level_v", FULL_LEVEL, load.power, load.allowed, load.load)
        shares = sum(len(names & {d.id for d in one.driven}) / len(one.driven) for one in own)
        return volts, load.chosen.load_ohm, load.chosen.meter_ohm, load.allowed_w or 0.0, shares
    sub = subs[0]  # nothing drives it yet: as its papers rate it, its coils in parallel
    takes = book.part(sub, lambda it: it.power_rms_w, "RMS power", "w")
    coils = book.part(sub, lambda it: it.coils, "voice coils")
    nominal = book.figure(f"{box.id}/nominal_ohm", IN_PARALLEL, coils, name=f"{sub.name}, its coils in parallel")
    reads = 1 / sum(1 / coil.dc_resistance_ohm for coil in sub_coils(sub))
    volts = book.figure(f"{box.id}/full_level_v", FULL_LEVEL, takes, takes, nominal)
    return volts, nominal.value, reads, sub.power_rms_w, len(subs)


def _subsonic(subs: tuple[Subwoofer, ...], crossovers: Sequence[Crossover]) -> Figure | None:
    names = {sub.id for sub in subs}
    found = (c for c in crossovers if c.link is not None and c.link.to_id in names)
    return next((c.high_pass for c in found if c.high_pass is not None), None)


def _circuit(
    book: Book,
    box: Box,
    subs: tuple[Subwoofer, ...],
    own: Sequence[LoadResult],
    crossovers: Sequence[Crossover],
) -> tuple[Solved | OutOfRange | None, tuple[Term | Figure, ...]]:
    """(the solved circuit, why there is none, or None where a value is missing; what it rests on)."""
    volts, nominal, reads, takes_w, outputs = _level(book, box, subs, own)
    subsonic = _subsonic(subs, crossovers)
    terms: tuple[Term | Figure, ...] = (*_driver_terms(book, subs[0]), *_box_terms(book, box), volts)
    if own:
        terms = (*terms, own[0].meter)
    if subs[0].xmax_mm is not None:
        terms = (*terms, book.part(subs[0], lambda it: it.xmax_mm, "travel one way (Xmax)", "mm"))
    if subs[0].le_mh is not None:
        terms = (*terms, book.part(subs[0], lambda it: it.le_mh, "coil inductance (Le)", "mh"))
    if subsonic is not None and subsonic.value is not None:
        terms = (*terms, subsonic)
    if volts.value is None or not takes_w:
        return None, terms
    drive = drive_of(volts.value, nominal, reads, takes_w, outputs)
    try:
        driver, enclosure = small_signal(subs, box.chambers, drive), enclosure_of(box)
        if driver is None or enclosure is None:
            return None, terms
        known = vent_area_m2(box.vents) is not None
        filtered_hz = subsonic.value if subsonic is not None else None
        return solved(driver, enclosure, drive, filtered_hz, box.radiators.travel_mm, known), terms
    except OutOfRange as error:
        return error, terms


def _built(
    book: Book, box: Box, subs: tuple[Subwoofer, ...], vents: Figure | None
) -> tuple[Made | OutOfRange | None, Figure | None]:
    shape = shape_of(box)
    if shape is None or isinstance(shape, Baffle):  # a board encloses nothing
        return None, None
    made: Made | OutOfRange
    try:
        made = made_from(shape)
    except OutOfRange as error:
        made = error
    terms = (
        book.part(box, lambda it: it.length_m, "length", "m"),
        book.part(box, lambda it: it.width_m, "width", "m"),
        book.part(box, lambda it: it.height_m, "height", "m"),
        book.part(box, lambda it: it.boards.thickness_mm, "board thickness", "mm"),
    )
    gross = book.reading(f"{box.id}/gross_l", AIR_INSIDE, made, *terms, name=f"Air between the boards, {box.name}")
    if isinstance(made, OutOfRange):
        return made, None
    drivers = [book.part(sub, lambda it: it.displaced_l, f"{sub.name}, air it takes", "l") for sub in subs[:1]]
    if not drivers or drivers[0].missing:
        return made, None  # a rule says so
    many = fixed("of them", len(subs))
    taken = book.figure(f"{box.id}/drivers_l", DRIVERS_TAKE, drivers[0], many, name="Air the drivers take")
    braces = book.reading(f"{box.id}/braces_l", BRACES_TAKE, made, *terms)
    net = book.figure(
        f"{box.id}/net_l", NET, gross, taken, vents if vents is not None else fixed("vents", 0.0, "l"), braces,
        name=f"Net volume by its size, {box.name}",
    )  # fmt: skip
    density = reference(
        f"density of {box.boards.material.value}, kg/m³", DENSITY_KG_M3[box.boards.material], "", PRACTICE
    )
    wood = book.reading(f"{box.id}/wood_l", WOOD, made, *terms)
    book.figure(f"{box.id}/boards_kg", OWN_WEIGHT, wood, density)
    return made, net


def compute_boxes(book: Book, loads: Sequence[LoadResult], crossovers: Sequence[Crossover]) -> list[BoxResult]:
    """Every box with its figures.

    Parameters:
        book: the book of the design.
        loads: every output with what it drives.
        crossovers: its filters.

    Returns:
        one result a box, in their order; what is not known makes a figure missing and is named in it.

    Source: the lumped circuit of driver and box: textbook.
    """
    found = []
    for box, subs in boxed(book.design):
        built, net = _built(book, box, subs, _openings(book, box))
        made, refused = (None, built) if isinstance(built, OutOfRange) else (built, None)
        lacks = tuple((term.path, term.name) for sub in subs[:1] for term in _driver_terms(book, sub) if term.missing)
        own = _outputs_of(subs, loads)
        unlike = _unlike(book, subs, own) if subs and not lacks else ""
        if not subs or lacks or unlike:
            found.append(BoxResult(box, subs, None, None, made, net, refused, lacks, unlike))
            continue
        circuit, terms = _circuit(book, box, subs, own, crossovers)
        figures = {
            key: book.reading(f"{box.id}/{key}", reading, circuit, *terms, name=f"{reading.name}, {box.name}")
            for key, reading in _readings(box).items()
        }
        known = circuit if isinstance(circuit, Solved) else None
        found.append(BoxResult(box, subs, figures["reach_hz"], known, made, net, refused))
    return found


def _readings(box: Box) -> dict[str, Reading]:
    readings = {
        "reach_hz": REACH, "hump_db": HUMP, "travel_mm": TRAVEL, "travel_at_hz": TRAVEL_AT, "clean_w": CLEAN,
        "loudest_db": LOUDEST,
    }  # fmt: skip
    if opens(box) and vent_area_m2(box.vents) is not None:
        readings["air_speed_m_s"] = SPEED
    if box.box_type in ("closed", "free air"):
        readings["q"] = CLOSED_Q
    return readings


def _openings(book: Book, box: Box) -> Figure | None:
    """How long the vents are, or what they tune to where their length is given; what they take of the air inside."""
    if not opens(box) or vent_area_m2(box.vents) is None or not opened_m3(box):
        return None
    if box.vents.shape is VentShape.ROUND:
        area = book.figure(
            f"{box.id}/vent_cm2", ROUND_AREA, book.part(box, lambda it: it.vents.diameter_mm, "inner diameter", "mm")
        )
    else:
        width = book.part(box, lambda it: it.vents.width_mm, "width", "mm")
        height = book.part(box, lambda it: it.vents.height_mm, "height", "mm")
        area = book.figure(f"{box.id}/vent_cm2", SLOT_AREA, width, height)
    many = book.part(box, lambda it: it.vents.count, "vents")
    if box.box_type == "bandpass":
        air = book.part(box, lambda it: it.front_volume_l, "front chamber", "l")
    else:
        air = book.part(box, lambda it: it.net_volume_l, "net volume", "l")
    length: Figure | Term
    if box.vents.length_mm is None:
        tuning = book.part(box, lambda it: it.tuning_hz, "tuned to", "hz")
        length = book.figure(f"{box.id}/vent_mm", VENT_LENGTH, tuning, area, many, air)
    else:
        length = book.part(box, lambda it: it.vents.length_mm, "length", "mm")
        enclosure = enclosure_of(box)
        chamber = None if enclosure is None else enclosure.front or enclosure.rear
        book.reading(f"{box.id}/tuned_hz", TUNED, chamber, length, area, many, air)
    return book.figure(f"{box.id}/vents_l", VENTS_TAKE, area, length, many)
