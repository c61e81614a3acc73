"""Fit: every speaker in its hole, a radio in its opening, every box in its space; in millimetres, with a basis."""

from __future__ import annotations

from math import hypot

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import Space
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Driver, HeadUnit, PoweredSubwoofer, Subwoofer
from ohmack.core.document.small_parts import MountingRing
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.physics.fitting import block_spare_m, leaning, restraint_n, ring_range_mm, way_in_spare_m
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE, Grade, Source, source, table

GEOMETRY = Source("plain geometry", Grade.HANDBOOK)
DEPTH_SPARE = Formula(
    "Spare behind", "mm", "least clear depth + adapter ring − mounting depth", lambda n, t, *d: min(d) + t - n, GEOMETRY
)
FRONT_SPARE = Formula(
    "Spare in front", "mm", "face to trim − adapter ring − what stands proud", lambda f, t, a: a - t - f, GEOMETRY
)
HOLE_SPARE = Formula("Cut-out over need", "mm", "cut-out in the car − cut-out it needs", lambda c, h: h - c, GEOMETRY)
RING_OPENING = Formula(
    "Opening over need", "mm", "opening of the ring − cut-out it needs", lambda c, o: o - c, GEOMETRY
)
RING_COVERS = Formula(
    "Over the hole", "mm", "outer diameter − hole in the car − for its screws", lambda h, s, o: o - h - s, GEOMETRY
)
HOLE_PLAY_MM = 20.0  # how much wider than its cut-out an opening may be, common practice
SCREWS_MM = 12.0  # how much wider than its hole a ring of screws is, common practice
NAME_SPARE = Formula("Spare in the dash", "mm", "opening − radio", lambda n, o: o - n, GEOMETRY)
SPACE_SPARE = Formula(
    "Tightest spare in",
    "m",
    "least of space − box, as it stands or turned",
    lambda *v: block_spare_m(v[:3], v[3:]),
    GEOMETRY,
)
LEANING_SPARE = Formula(
    "Tightest spare leaning in",
    "m",
    "best angle of the box in the space",
    lambda *v: leaning(v[:3], v[3:])[0],
    GEOMETRY,
)
LEANS_BY = Formula("It leans by", "deg", "the angle with most to spare", lambda *v: leaning(v[:3], v[3:])[1], GEOMETRY)
WAY_IN_SPARE = Formula(
    "Tightest spare through the way into",
    "m",
    "best face first, not tilted",
    lambda *v: way_in_spare_m(v[:3], v[3:]),
    GEOMETRY,
)
RESTRAINT = Formula("Its fixing must hold", "n", "mass × g × multiple", restraint_n, PRACTICE)


@record
class FitCheck:
    """One dimension: what is needed, what is there, what is spare."""

    name: str
    need: str
    have: str
    spare: Figure
    margin: float  # what the shop wants spare, in the spare's unit

    @property
    def state(self) -> str:
        """unknown, over, tight or good."""
        if self.spare.value is None:
            return "unknown"
        if self.spare.value < -1e-9:
            return "over"
        return "tight" if self.spare.value < self.margin - 1e-9 else "good"


STATES = ("over", "unknown", "loose", "tight", "eye", "good")  # the worst first; "eye": only looked at, not measured


@record
class FitResult:
    """One part in one place."""

    part_id: str
    place_id: str
    title: str
    checks: tuple[FitCheck, ...]
    ring: tuple[float, float] | None = None  # thicknesses that would work, mm
    restraint: Figure | None = None
    loose: bool = False  # whether a speaker's screws come out over the hole
    through: bool = False  # whether its whole frame goes through the hole
    in_cup: bool = False  # whether it sits on the surface, where there is nothing to measure

    @property
    def state(self) -> str:
        """The worst of its checks; loose where it goes in and nothing holds its screws, eye where none is made."""
        if self.in_cup:
            return "eye"
        if self.through:
            return "over"
        worst = min((check.state for check in self.checks), key=STATES.index, default="unknown")
        return min(worst, "loose", key=STATES.index) if self.loose else worst


def _said(value: float | None, unit: str) -> str:
    return "not known" if value is None else f"{value * 1000:.0f} mm" if unit == "m" else f"{value:.0f} mm"


def ring_under(design: Design, speaker: Speaker) -> MountingRing | None:
    """The ring among the parts that goes under what sits in a place."""
    return next((ring for ring in design.parts_of(MountingRing) if speaker.id in ring.at_ids), None)


def _ring(book: Book, speaker: Speaker, bought: MountingRing | None) -> Term:
    if bought is not None:
        return book.part(bought, lambda it: it.thickness_mm, f"{bought.name}, thickness", "mm")
    fact: Fact[float] = speaker.adapter_ring_mm
    path = at(speaker, lambda it: it.adapter_ring_mm)
    if fact.value is None:
        return Term("adapter ring, none yet", 0.0, "mm", Basis.ASSUMED, None, "assumed", path)
    return book.fact(speaker, lambda it: it.adapter_ring_mm, "adapter ring", "mm")


def _speaker_fit(book: Book, part: Driver, speaker: Speaker) -> FitResult:
    if part.in_cup:
        return FitResult(part.id, speaker.id, f"{part.name} on {speaker.name}", (), in_cup=True)
    margin = book.design.policy.fit_margin_mm
    scope = f"{part.id}/{speaker.id}"
    depth = book.fact(speaker, lambda it: it.depth_mm, f"{speaker.name}: clear depth", "mm")
    ahead = None  # nothing stands before what sits in the ceiling
    if speaker.place is not SpeakerPlace.CEILING:
        ahead = book.fact(speaker, lambda it: it.trim_clearance_mm, f"{speaker.name}: face to trim", "mm")
    hole = book.fact(speaker, lambda it: it.cut_out_mm, f"{speaker.name}: cut-out", "mm")
    bought = ring_under(book.design, speaker)
    ring = _ring(book, speaker, bought)
    behind = [depth]
    if speaker.in_door:
        behind.append(book.fact(speaker, lambda it: it.window_depth_mm, f"{speaker.name}: depth, window down", "mm"))
    needs = book.part(part, lambda it: it.mounting_depth_mm, "mounting depth", "mm")
    front = book.part(part, lambda it: it.front_height_mm, "stands proud", "mm")
    cut = book.part(part, lambda it: it.cut_out_mm, "cut-out it needs", "mm")
    spare_behind = book.figure(
        f"{scope}/depth_spare_mm", DEPTH_SPARE, needs, ring, *behind, name=f"Spare behind, {speaker.name}"
    )
    spare_hole = None
    if hole.value is not None or not speaker.new_place:  # a new place has no hole yet: it is cut to suit
        name = f"Cut-out over need, {speaker.name}"
        spare_hole = book.figure(f"{scope}/hole_spare_mm", HOLE_SPARE, cut, hole, name=name)
    least = min((t.value for t in behind if t.value is not None), default=None)
    deep = all(t.value is not None for t in behind)
    thickness = (
        ring_range_mm(part.mounting_depth_mm, part.front_height_mm, least, ahead.value, margin)
        if ahead is not None and ahead.value is not None and least is not None and deep
        else None
    )
    with_ring = f" + {ring.value:.0f} mm ring" if ring.value else ""
    checks: tuple[FitCheck, ...] = (
        FitCheck(
            "Depth behind",
            _said(needs.value, "mm"),
            _said(least if deep else None, "mm") + with_ring,
            spare_behind,
            margin,
        ),
    )
    if ahead is not None:
        name = f"Spare in front, {speaker.name}"
        spare = book.figure(f"{scope}/front_spare_mm", FRONT_SPARE, front, ring, ahead, name=name)
        room = _said(ahead.value, "mm")
        checks += (FitCheck("Room in front", _said(front.value, "mm") + with_ring, room, spare, margin),)
    if spare_hole is not None:
        checks += (FitCheck("Cut-out", _said(cut.value, "mm"), _said(hole.value, "mm"), spare_hole, 0.0),)
    if bought is not None:
        checks += _ring_fits(book, bought, speaker, cut, hole)
    return FitResult(
        part.id,
        speaker.id,
        f"{part.name} in {speaker.name}",
        checks,
        thickness,
        loose=_hole_over(book.design, part, speaker, part.cut_out_mm + SCREWS_MM),
        through=_hole_over(book.design, part, speaker, part.frame_mm),
    )


def _ring_fits(book: Book, ring: MountingRing, speaker: Speaker, cut: Term, hole: Term) -> tuple[FitCheck, ...]:
    """Whether the speaker goes into a ring, and the ring has metal under its own screws all round the hole."""
    scope, whose = f"{ring.id}/{speaker.id}", f"{ring.name}, {speaker.name}"
    opening = book.part(ring, lambda it: it.opening_mm, "its opening", "mm")
    outer = book.part(ring, lambda it: it.outer_mm, "outer diameter", "mm")
    screws = reference("for its screws", SCREWS_MM, "mm", PRACTICE)
    into = book.figure(f"{scope}/opening_mm", RING_OPENING, cut, opening, name=f"Opening over need, {whose}")
    covers = book.figure(f"{scope}/covers_mm", RING_COVERS, hole, screws, outer, name=f"Over the hole, {whose}")
    wanted = None if hole.value is None else hole.value + SCREWS_MM
    return (
        FitCheck("Opening of the ring", _said(cut.value, "mm"), _said(opening.value, "mm"), into, 0.0),
        FitCheck("Ring over the hole", _said(wanted, "mm"), _said(outer.value, "mm"), covers, 0.0),
    )


def _radio_fit(book: Book, part: HeadUnit) -> FitResult:
    radio, margin = book.design.vehicle.radio, 0.0
    checks = []
    room = book.fact(radio, lambda it: it.opening_depth_mm, "dash opening, depth", "mm")
    for name, word, opening, need in (
        (
            "width",
            "Width",
            book.fact(radio, lambda it: it.opening_width_mm, "dash opening, width", "mm"),
            book.part(part, lambda it: it.width_mm, "width", "mm"),
        ),
        (
            "height",
            "Height",
            book.fact(radio, lambda it: it.opening_height_mm, "dash opening, height", "mm"),
            book.part(part, lambda it: it.height_mm, "height", "mm"),
        ),
        ("depth", "Depth with plugs", room, book.part(part, lambda it: it.depth_mm, "depth with plugs", "mm")),
    ):
        spare = book.figure(f"{part.id}/{name}_spare_mm", NAME_SPARE, need, opening, name=f"Spare {name} in the dash")
        wanted = book.design.policy.fit_margin_mm if name == "depth" else margin
        checks.append(FitCheck(word, _said(need.value, "mm"), _said(opening.value, "mm"), spare, wanted))
    return FitResult(part.id, "radio", f"{part.name} in the dash", tuple(checks))


def _hole_over(design: Design, part: Driver, speaker: Speaker, reach_mm: float) -> bool:
    """Whether the hole in the car is wider than a speaker's screws or its frame reach, with no ring to carry them."""
    hole_mm = speaker.cut_out_mm.value
    if hole_mm is None or speaker.adapter_ring_mm.value or ring_under(design, speaker) is not None:
        return False
    return hole_mm > reach_mm


NOT_MEASURED = (SpeakerPlace.HEADREST, SpeakerPlace.BOX)  # a cushion is cut to suit, a box stands anywhere
NEAR_M = 0.5  # a powered subwoofer farther from every space is not in one


def space_of(book: Book, box: Box | PoweredSubwoofer) -> Space | None:
    """The space a box stands in: the nearest on the plan; of a powered subwoofer, which may go under a seat, only one
    that is near.
    """
    if box.position is None:
        return None
    x, y = box.position.point

    def apart_m(space: Space) -> float:
        return hypot(space.position.x_m - x, space.position.y_m - y)

    nearest = min(book.design.vehicle.spaces, key=apart_m, default=None)
    if nearest is not None and isinstance(box, PoweredSubwoofer) and apart_m(nearest) > NEAR_M:
        return None
    return nearest


def _box_fit(book: Book, box: Box | PoweredSubwoofer, space: Space) -> FitResult:
    margin = book.design.policy.fit_margin_mm / 1000
    edges = [
        book.part(box, lambda it: it.length_m, "length", "m"),
        book.part(box, lambda it: it.width_m, "width", "m"),
        book.part(box, lambda it: it.height_m, "height", "m"),
    ]
    room = [
        book.fact(space, lambda it: it.length_m, f"{space.name}: along", "m"),
        book.fact(space, lambda it: it.width_m, f"{space.name}: across", "m"),
        book.fact(space, lambda it: it.height_m, f"{space.name}: height", "m"),
    ]
    way_in = [
        book.fact(space, lambda it: it.opening_width_m, f"{space.name}: way in, width", "m"),
        book.fact(space, lambda it: it.opening_height_m, f"{space.name}: way in, height", "m"),
    ]
    inside = book.figure(
        f"{box.id}/{space.id}/space_spare_m", SPACE_SPARE, *edges, *room, name=f"Tightest spare in {space.name}"
    )
    through = book.figure(
        f"{box.id}/{space.id}/way_in_spare_m",
        WAY_IN_SPARE,
        *edges,
        *way_in,
        name=f"Tightest spare through the way into {space.name}",
    )
    sizes = " × ".join("?" if t.value is None else f"{t.value * 1000:.0f}" for t in edges)
    rooms = " × ".join("?" if t.value is None else f"{t.value * 1000:.0f}" for t in room)
    ways = " × ".join("?" if t.value is None else f"{t.value * 1000:.0f}" for t in way_in)
    name = "In its space"
    if inside.value is not None and inside.value < 0:
        scope = f"{box.id}/{space.id}"
        leans = book.figure(
            f"{scope}/leaning_spare_m", LEANING_SPARE, *edges, *room, name=f"Tightest spare leaning in {space.name}"
        )
        if leans.value is not None and leans.value >= 0:
            angle = book.figure(f"{scope}/leans_deg", LEANS_BY, *edges, *room, name=f"{box.name} leans by")
            inside, name = leans, f"In its space, leaning {angle.value:.0f}°"
    checks = (
        FitCheck(name, f"{sizes} mm", f"{rooms} mm", inside, margin),
        FitCheck("Through the way in", f"{sizes} mm", f"{ways} mm", through, margin),
    )
    restraint = _restraint(book, box) if box.mass_kg is not None else None
    return FitResult(box.id, space.id, f"{box.name} in {space.name}", checks, None, restraint)


BOX_OPENING = Formula("Opening over need", "mm", "opening in the box − cut-out it needs", lambda c, h: h - c, GEOMETRY)
BOX_DEPTH = Formula("Spare behind the driver", "mm", "clear depth − mounting depth", lambda n, h: h - n, GEOMETRY)


def _in_own_place(book: Book, sub: Subwoofer, speaker: Speaker) -> FitResult:
    """A subwoofer in the place of the car's own: what nobody measured is asked for, as of any speaker."""
    scope, margin = f"{sub.id}/{speaker.id}", book.design.policy.fit_margin_mm
    deep = book.part(sub, lambda it: it.mounting_depth_mm, "mounting depth", "mm")
    depth = book.fact(speaker, lambda it: it.depth_mm, f"{speaker.name}: clear depth", "mm")
    cut = book.part(sub, lambda it: it.cut_out_mm, "cut-out it needs", "mm")
    hole = book.fact(speaker, lambda it: it.cut_out_mm, f"{speaker.name}: cut-out", "mm")
    behind = book.figure(f"{scope}/depth_spare_mm", BOX_DEPTH, deep, depth, name=f"Spare behind, {speaker.name}")
    spare = book.figure(f"{scope}/hole_spare_mm", HOLE_SPARE, cut, hole, name=f"Cut-out over need, {speaker.name}")
    checks = (
        FitCheck("Depth behind", _said(deep.value, "mm"), _said(depth.value, "mm"), behind, margin),
        FitCheck("Cut-out", _said(cut.value, "mm"), _said(hole.value, "mm"), spare, 0.0),
    )
    return FitResult(sub.id, speaker.id, f"{sub.name} in {speaker.name}", checks)


def _in_box(book: Book, sub: Subwoofer, box: Box) -> FitResult | None:
    """A subwoofer in its box: opening and depth, as far as the papers of both give them."""
    checks = []
    if sub.cut_out_mm is not None and box.cut_out_mm is not None:
        need = book.part(sub, lambda it: it.cut_out_mm, "cut-out it needs", "mm")
        have = book.part(box, lambda it: it.cut_out_mm, "opening for the driver", "mm")
        spare = book.figure(f"{sub.id}/{box.id}/opening_mm", BOX_OPENING, need, have, name=f"Opening of {box.name}")
        checks.append(FitCheck("Cut-out", _said(need.value, "mm"), _said(have.value, "mm"), spare, 0.0))
    if sub.mounting_depth_mm is not None and box.depth_mm is not None:
        need = book.part(sub, lambda it: it.mounting_depth_mm, "mounting depth", "mm")
        have = book.part(box, lambda it: it.depth_mm, "clear depth behind the opening", "mm")
        spare = book.figure(f"{sub.id}/{box.id}/depth_mm", BOX_DEPTH, need, have, name=f"Depth of {box.name}")
        margin = book.design.policy.fit_margin_mm
        checks.append(FitCheck("Depth behind", _said(need.value, "mm"), _said(have.value, "mm"), spare, margin))
    return FitResult(sub.id, box.id, f"{sub.name} in {box.name}", tuple(checks)) if checks else None


def _restraint(book: Book, box: Box | PoweredSubwoofer) -> Figure:
    crash = table("cabin", "crash")
    multiple = reference("times its weight in a crash", crash["multiple"], "", source("cabin", "crash"))
    return book.figure(
        f"{box.id}/restraint_n",
        RESTRAINT,
        book.part(box, lambda it: it.mass_kg, "mass with driver", "kg"),
        multiple,
        name=f"Its fixing must hold, {box.name}",
    )


def compute_fit(book: Book) -> list[FitResult]:
    """Every part that has to go into something, with its checks; what is in the car already went in."""
    design = book.design
    speakers = {speaker.id: speaker for speaker in design.vehicle.speakers}
    results = [
        _speaker_fit(book, part, speakers[name])
        for part in design.new_parts_of(Driver)
        for name in part.at_ids
        if speakers[name].place not in NOT_MEASURED
    ]
    results += [_radio_fit(book, part) for part in design.new_parts_of(HeadUnit)]
    for box in design.new_parts_of(Box):
        space = space_of(book, box)
        if space is not None:
            results.append(_box_fit(book, box, space))
        else:
            results.append(FitResult(box.id, "", box.name, (), None, _restraint(book, box)))
    results += [_in_own_place(book, d, speakers[name]) for d in design.new_parts_of(Subwoofer) for name in d.at_ids]
    for box, subs in boxed(design):
        fresh = [driver for driver in subs if not (driver.in_car and box.in_car)]
        results += [held for driver in fresh if (held := _in_box(book, driver, box)) is not None]
    for sub in design.new_parts_of(PoweredSubwoofer):
        space = space_of(book, sub)
        fixing = _restraint(book, sub) if space is None and sub.mass_kg is not None else None
        bare = FitResult(sub.id, "", sub.name, (), None, fixing)
        results.append(bare if space is None else _box_fit(book, sub, space))
    return results
