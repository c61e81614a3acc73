"""Runs: where each link goes on the plan, and how much cable it takes."""

from __future__ import annotations

from math import copysign, dist

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.boxes import Box
from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import factory_amplifier, new_radio
from ohmack.core.document.links import (
    CapacitorLink,
    ChargeLink,
    FeedLink,
    GroundLink,
    LineLink,
    Link,
    Pickup,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
    TapPlace,
)
from ohmack.core.document.parts import Accessory
from ohmack.core.document.vehicle import Battery, Feed, GroundPoint, Speaker, SpeakerPlace, Vehicle
from ohmack.core.errors import NotLaid, UnknownName
from ohmack.core.figures.figure import Book, Figure, Formula, Missing, Reading, Term, reference
from ohmack.core.fit.places import PROPORTIONS, ceiling_m
from ohmack.core.physics.geometry import Point, run_length_m
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import LETTERS

FACTORY_WIRE = Reading("Factory wire", "m", "length laid by the plan", lambda run: run.length_m)

L89 = Formula("Cable length", "m", "as measured", lambda length: length)
L95 = Formula("Cable length", "m", "(plan length + 2 × rise) × (1 + slack)", run_length_m, PRACTICE)
UPWARDS = Formula(
    "Cable length",
    "m",
    "(plan length + 2 × rise + up to the ceiling) × (1 + slack)",
    lambda points, rise, up, slack: run_length_m(points, rise + up / 2, slack),
    PRACTICE,
)
STRAIGHT = Formula(
    "Cable length",
    "m",
    "straight on the plan × (1 + slack)",
    lambda ends, slack: run_length_m(ends, 0.0, slack),
    PRACTICE,
)


@record
class Run:
    """A link laid out: its points on the plan (None where an end is not placed yet) and its length."""

    link: Link
    points: tuple[Point, ...] | None
    length: Figure
    start_name: str
    end_name: str


def place_of(design: Design, part_id: str) -> Position | None:
    """Where a part sits: its own place, or where such a part always goes; None where nobody said."""
    return _part_place(design, part_id)[1]


def _part_place(design: Design, part_id: str) -> tuple[str, Position | None]:
    part = design.part(part_id)
    if part is None:
        raise UnknownName("part", part_id)
    position = part.position
    if position is None and part.kind == "subwoofer":  # a driver sits in its box
        position = next((box.position for box in design.parts_of(Box) if box.position), None)
    behind = part.kind == "radio" or (isinstance(part, Accessory) and part.category in BEHIND_THE_RADIO)
    if position is None and behind:  # a new radio goes where the old one was, and its boxes behind it
        position = design.vehicle.radio.position
    if position is None and isinstance(part, Accessory) and part.is_amplifier_adapter:  # on the factory one's plug
        position = (factory_amplifier(design) or design.vehicle.radio).position
    return part.name, position


BEHIND_THE_RADIO = ("interface", "adapter", "line adapter", "aerial adapter", "digital aerial", "camera adapter")


def _vehicle_place(design: Design, thing_id: str) -> tuple[str, Position | None]:
    vehicle = design.vehicle
    things: tuple[Radio | Battery | Feed | GroundPoint | Speaker, ...] = (
        vehicle.radio,
        *vehicle.supply.batteries,
        *vehicle.feeds,
        *vehicle.ground_points,
        *vehicle.speakers,
    )
    for thing in things:
        if thing.id == thing_id:
            return thing.name, thing.position
    return _part_place(design, thing_id)


def over_loom_from(design: Design, link: SpeakerLink) -> Radio | Module | None:
    """The radio or factory amplifier at whose plug a cable meets the factory wire it plays over; None where fresh wire
    goes all the way, or an amplifier plugs into the loom itself.
    """
    part = design.part(link.from_id)
    if not link.factory_wire or (isinstance(part, Amplifier) and part.plugs_in):
        return None
    speaker = next((s for s in design.vehicle.speakers if s.id == link.to_id), None)
    return design.vehicle.source_of(speaker.channel_id or "") if speaker is not None else None


def modules_met(design: Design) -> list[Module]:
    """The factory amplifiers at whose plug a pair is picked up or a lead begins to play over the loom."""
    taps = (k for k in design.new_links_of(TapLink) if k.place is TapPlace.PLUG)
    met = [design.vehicle.source_of(tap.from_ids[0]) for tap in taps]
    met += [source for k in design.new_links_of(SpeakerLink) if (source := over_loom_from(design, k)) is not None]
    return list({source.id: source for source in met if isinstance(source, Module)}.values())


def plays_over_the_loom(design: Design, link: Link) -> bool:
    """Whether a link is no cable of its own: an amplifier on the loom's own plugs, to its speakers or from what fed
    the factory amplifier whose place it takes, so that nothing is laid or cut.
    """
    if isinstance(link, TapLink):
        part = design.part(link.to_id)
        plugged = isinstance(part, Amplifier) and part.plugs_in and factory_amplifier(design) is not None
        own = {channel.id for channel in design.vehicle.radio.channels}
        by_plug = link.place is TapPlace.PLUG and link.method is Pickup.PLUG_ADAPTER
        return plugged and by_plug and own.issuperset(link.from_ids)
    return isinstance(link, SpeakerLink) and link.factory_wire and over_loom_from(design, link) is None


def _at_the_plug(design: Design, link: SpeakerLink, source: Radio | Module) -> tuple[str, Position | None]:
    speaker = next(s for s in design.vehicle.speakers if s.id == link.to_id)
    pair = next((c.name for c in source.channels if c.id == speaker.channel_id), speaker.name)
    return f"{source.name}'s plug, {pair.lower()} pair", source.position


def tapped_at(design: Design, tap: TapLink) -> tuple[tuple[Speaker, ...], ...]:
    """The speakers at whose leads a signal is picked up, by place: those of the link's own run, then every other one
    by itself; empty for a pickup at a plug, or where no speaker is known on its pairs.
    """
    if tap.place is not TapPlace.LEADS:
        return ()
    found = [next((s for s in design.vehicle.speakers if s.channel_id == own), None) for own in tap.from_ids]
    places: dict[Point, list[Speaker]] = {}
    for speaker in (s for s in found if s is not None):
        places.setdefault(speaker.position.point, []).append(speaker)
    return tuple(tuple(here) for here in places.values())


def leads_of(speaker: Speaker) -> str:
    """What the leads at a speaker are called."""
    return f"{speaker.name}, its leads"


def pairs_in_run(design: Design, tap: TapLink) -> int:
    """How many pairs lie in a pickup's own run: all, but those picked up at speakers elsewhere."""
    return len(tap.from_ids) - sum(len(here) for here in tapped_at(design, tap)[1:])


def ends(design: Design, link: Link) -> tuple[tuple[str, Position | None], tuple[str, Position | None]]:
    """Name and place of both ends of a link."""
    match link:
        case PowerLink():
            return _vehicle_place(design, link.from_id), _part_place(design, link.to_id)
        case GroundLink():
            return _part_place(design, link.from_id), _vehicle_place(design, link.to_id)
        case SpeakerLink():
            over = over_loom_from(design, link)
            end = _vehicle_place(design, link.to_id) if over is None else _at_the_plug(design, link, over)
            return _part_place(design, link.from_id), end
        case TapLink() if link.place is TapPlace.LEADS:
            heard = next((s for s in design.vehicle.speakers if s.channel_id in link.from_ids), None)
            start = (leads_of(heard), heard.position) if heard is not None else ("the speakers' leads", None)
            return start, _part_place(design, link.to_id)
        case TapLink():
            output = design.vehicle.source_of(link.from_ids[0])
            unit = new_radio(design) if output is design.vehicle.radio else None
            return ((unit or output).name, output.position), _part_place(design, link.to_id)
        case CapacitorLink():
            return _part_place(design, link.from_id), _part_place(design, link.to_id)
        case LineLink() | RemoteLink():
            return _vehicle_place(design, link.from_id), _part_place(design, link.to_id)
        case ChargeLink():
            return _vehicle_place(design, link.from_id), _vehicle_place(design, link.to_id)
        case FeedLink():
            return _vehicle_place(design, link.from_id), _part_place(design, link.to_id)


def _length(book: Book, link: Link, points: tuple[Point, ...] | None, gap: Missing | None) -> Figure:
    figure_id = f"{link.id}/length_m"
    tape = link.tape_length_m
    if tape.value is not None:
        term = book.fact(link, lambda it: it.tape_length_m, "tape measure", "m")
        return book.figure(figure_id, L89, term)
    plan = Term("way points on the plan", points, "", Basis.ASSUMED, None, "plan", at(link, lambda it: it.way_points))
    if gap:
        plan = Term("way points on the plan", None, path=gap.path, missing=(gap,))
    rise = book.policy(lambda it: it.rise_m, "rise at each end", "m")
    slack = book.policy(lambda it: it.slack_fraction, "slack")
    up = up_to(book.design, link.to_id) if isinstance(link, SpeakerLink) else None
    return (
        book.figure(figure_id, UPWARDS, plan, rise, up, slack) if up else book.figure(figure_id, L95, plan, rise, slack)
    )


def up_to(design: Design, speaker_id: str) -> Term | None:
    """How far a lead climbs to a speaker in the ceiling, by its id; None for one that sits lower."""
    speaker = next((s for s in design.vehicle.speakers if s.id == speaker_id), None)
    if speaker is None or speaker.place is not SpeakerPlace.CEILING:
        return None
    return reference("up to the ceiling", ceiling_m(design.vehicle.body), "m", PRACTICE)


SILL_LANE_M = 0.09  # from the side of the car to where a lead lies on the sill
NEAR_M = 1.2  # so near to each other two places are joined straight; both common practice


def down_the_sill(vehicle: Vehicle, start: Point, end: Point) -> tuple[Point, ...]:
    """The way of a lead through a car: out to the sill of the side it ends at, along it, and in to its end.

    Parameters:
        vehicle: the car; a typical width stands in where its own is not known.
        start, end: from the nose and to the right of the centre line [m].

    Returns:
        the points of its way; both ends alone where they are near each other.

    Source: common practice.
    """
    if dist(start, end) < NEAR_M:
        return start, end
    half_m = (vehicle.width_m.value or PROPORTIONS[vehicle.body].width_m) / 2
    y_m = copysign(half_m - SILL_LANE_M, end[1] or start[1])
    return start, (start[0], y_m), (end[0], y_m), end


def straight(
    book: Book,
    figure_id: str,
    start: Position | None,
    end: Position,
    path: str,
    name: str,
    rises: bool = True,
    up: Term | None = None,
    along_sill: bool = False,
) -> Figure:
    """The length of a lead no link stands for: straight from place to place, or along the sill; missing where its start
    has no place yet.

    Parameters:
        book: the book of the design.
        figure_id: the figure's own id.
        start, end: where it begins and ends.
        path: of what it belongs to.
        name: what it is called.
        rises: whether it comes up from the floor at its ends.
        up: how far it climbs besides, of a speaker in the ceiling.
        along_sill: whether it goes the way of a cable through the car.
    """
    gap = (Missing(path, f"where {name} begins"),) if start is None else ()
    points: tuple[Point, ...] | None = (start.point, end.point) if start is not None else None
    if start is not None and along_sill:
        points = down_the_sill(book.design.vehicle, start.point, end.point)
    plan = Term(
        "its way on the plan" if points and len(points) > 2 else "both ends on the plan",
        points,
        "",
        Basis.ASSUMED,
        None,
        "plan",
        path,
        gap,
    )
    slack = book.policy(lambda it: it.slack_fraction, "slack")
    if not rises:
        return book.figure(figure_id, STRAIGHT, plan, slack, name=name)
    rise = book.policy(lambda it: it.rise_m, "rise at each end", "m")
    if up is not None:
        return book.figure(figure_id, UPWARDS, plan, rise, up, slack, name=name)
    return book.figure(figure_id, L95, plan, rise, slack, name=name)


def _letters(design: Design) -> dict[str, str]:
    """By cable, which of several equal drivers on one output it leads to, by the letters they have there."""
    outputs: dict[tuple[str, int], list[SpeakerLink]] = {}
    for link in design.links_of(SpeakerLink):
        outputs.setdefault((link.from_id, link.channel), []).append(link)
    names = {part.id: part.name for part in design.parts}
    found = {}
    for links in outputs.values():
        called = [names.get(link.to_id) for link in links]
        lettered = zip(links, called, LETTERS, strict=False)
        found.update({link.id: letter for link, name, letter in lettered if name and called.count(name) > 1})
    return found


def lay_out(book: Book) -> dict[str, Run]:
    """Every link of the design as a run, by link id."""
    runs, letters = {}, _letters(book.design)
    for link in book.design.links:
        (start_name, start), (end_name, end) = ends(book.design, link)
        end_name = f"{end_name} {letters[link.id]}" if link.id in letters else end_name
        gap, points = None, None
        if plays_over_the_loom(book.design, link):
            # The loom's way is the works', nothing is cut; a figure nobody needs stays out of the book.
            unasked = Book(book.design)
            length = unasked.reading(f"{link.id}/length_m", FACTORY_WIRE, NotLaid("length_m"))
            runs[link.id] = Run(link, None, length, start_name, end_name)
            continue
        if start and end:
            points = (start.point, *(p.point for p in link.way_points), end.point)
        else:
            unplaced = start_name if start is None else end_name
            gap = Missing(at(link), f"where {unplaced} sits")
        runs[link.id] = Run(link, points, _length(book, link, points, gap), start_name, end_name)
    return runs
