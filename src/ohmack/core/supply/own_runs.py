"""Parts with their own amplifier: a fused run of their own, and whether a factory feed could carry them instead."""

from __future__ import annotations

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import FactoryLinkKind
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import factory_amplifier, factory_amplifier_gone
from ohmack.core.document.links import FeedLink, PowerLink, Wire
from ohmack.core.document.parts import Accessory, Converter, PoweredSubwoofer
from ohmack.core.document.vehicle import Feed, FeedRole
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term
from ohmack.core.loads.wirings import AmplifierLoad
from ohmack.core.network.states import emf_v
from ohmack.core.physics.geometry import run_length_m
from ohmack.core.physics.protection import family
from ohmack.core.physics.supply import Load, amplifier_load
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.draws import efficiency_of, running_post
from ohmack.core.supply.feed_taps import FeedTap, tap_of
from ohmack.core.supply.small_circuits import fed_current
from ohmack.core.supply.wire_choice import Leg, Limits, Situation, WireCandidate, choose_wire

DRAWS = Formula("Draws", "a", "as its maker states", lambda a: a)
DRAWS_2 = Formula(
    "Draws",
    "a",
    "I = P / (η × V) + I_idle at the post",
    lambda p, e, i, v: amplifier_load(p, e, i, True).current_at(v),
    PRACTICE,
)


MIDDLE = 0.5  # of the car's length, where a part has no place on the plan yet

SelfFedPart = Accessory | Amplifier | PoweredSubwoofer


@record
class SelfFed:
    """One part with its own amplifier: the run it would take, and the factory feeds that could carry it."""

    part: SelfFedPart
    current: Figure
    fuse: Figure
    wire: Figure
    length: Figure
    taps: tuple[FeedTap, ...]
    on_feed: bool


def _draws(book: Book, part: SelfFedPart, loads: dict[str, AmplifierLoad]) -> Figure | None:
    if isinstance(part, Amplifier):
        return _amplifier_draws(book, part, loads.get(part.id))
    if isinstance(part, Accessory) and not part.current_a:
        return None
    return book.figure(f"{part.id}/draws_a", DRAWS, fed_current(book, part), name=f"{part.name} draws")


def _amplifier_draws(book: Book, part: Amplifier, load: AmplifierLoad | None) -> Figure | None:
    """A plug-in amplifier's current at the post voltage; its factory wire is what it hangs on, so no loop is solved."""
    if not part.plugs_in or load is None:
        return None
    first = book.design.vehicle.supply.batteries[0]
    return book.figure(
        f"{part.id}/draws_a",
        DRAWS_2,
        load.power,
        efficiency_of(book, part),
        book.part(part, lambda it: it.idle_current_a, "idle current", "a"),
        *running_post(book, first),
        name=f"{part.name} draws",
    )


OWN_FUSE = Reading(
    "Fuse of its own run",
    "a",
    "next standard size at or above I / head-room, at most the wire's ampacity",
    lambda c: c.fuse_a,
    PRACTICE,
)
OWN_FUSE_NAMED = Reading("Fuse of its own run", "a", "as its maker names", lambda c: c.fuse_a)
OWN_WIRE = Reading(
    "Wire of its own run",
    "",
    "smallest that meets drop, cool and hot, ampacity ≥ fuse and terminal, were the run laid",
    lambda c: c.wire.label,
    PHYSICS,
)
OWN_LENGTH = Formula("Run of its own", "m", "(plan length + 2 × rise) × (1 + slack)", run_length_m, PRACTICE)


def _own_run(book: Book, part: SelfFedPart, current: Figure) -> tuple[Figure, Figure, Figure]:
    """(length, fuse, wire) of the run it would take from the first battery, chosen as any other run is."""
    design, policy = book.design, book.design.policy
    battery = design.vehicle.supply.batteries[0]
    end = part.position.point if part.position else (MIDDLE * (design.vehicle.length_m.value or 4.3), 0.0)
    points = (battery.position.point, (end[0], battery.position.y_m), end)
    length = book.figure(
        f"{part.id}/own_length_m",
        OWN_LENGTH,
        Term("from the plan, along and across", points, "", Basis.ASSUMED, None, "plan", at(part)),
        book.policy(lambda it: it.rise_m, "rise", "m"),
        book.policy(lambda it: it.slack_fraction, "slack"),
        name=f"Run of its own, {part.name}",
    )
    source = running_post(book, battery)
    back = (
        book.fact(design.vehicle.supply, lambda it: it.body_return_ohm, "body return", "ohm"),
        book.fact(design.vehicle.supply, lambda it: it.battery_strap_ohm, "battery strap", "ohm"),
    )
    lead = book.policy(lambda it: it.ground_lead_max_m, "ground lead", "m")
    named = (
        [book.part(part, lambda it: it.fuse_a, "fuse its maker names", "a")]
        if isinstance(part, PoweredSubwoofer)
        else []
    )
    terms = (current.term, length.term, *source, *back, lead, *named)
    chosen: WireCandidate | None = None
    source_v = emf_v(source)
    if source_v is not None and all(term.value is not None for term in terms):
        joints_ohm = sum(2 * float(table("joints", kind)["resistance_ohm"]) for kind in ("ring", "set_screw"))
        rest_ohm = joints_ohm + sum(term.value for term in back)
        leg = Leg(
            source_v, source_v, rest_ohm, rest_ohm, 0.0, lead.value, None, float("inf"), Load(current_a=current.value)
        )
        limits = Limits(
            policy.fuse_headroom,
            policy.hot_conductor_c,
            policy.drop_limit_v,
            _family_for(current.value, policy.fuse_headroom),
            float(getattr(part, "terminal_area_max_mm2", 120.0)),
            "its terminal",
            120.0,
            True,
            named[0].value if named else None,
            True,
            None,
            policy.length_unit,
        )
        rows, _ = choose_wire(
            Situation(source_v, length.value, 0.0, None, (leg,), (), (), limits), Wire(), policy.wire_system
        )
        chosen = next(c for c in rows if c.chosen)
    fuse = book.reading(
        f"{part.id}/own_fuse_a",
        OWN_FUSE_NAMED if named else OWN_FUSE,
        chosen,
        *terms,
        name=f"Fuse of its own run, {part.name}",
    )
    wire = book.reading(f"{part.id}/own_wire", OWN_WIRE, chosen, *terms, fuse, name=f"Wire of its own run, {part.name}")
    return length, fuse, wire


def _family_for(current_a: float, headroom: float) -> str:
    """Blades, or maxi beyond them; common practice."""
    return "blade" if current_a / headroom <= max(family("blade").ratings_a) else "maxi"


def feeds_of_the_old(design: Design) -> list[Feed]:
    """What is known to feed the factory amplifier: what stands in its place draws from it."""
    amplifier = factory_amplifier(design)
    if amplifier is None:
        return []
    tied = [link for link in design.vehicle.factory_links if link.kind is FactoryLinkKind.FEED]
    joined = {end for link in tied if amplifier.id in (link.from_id, link.to_id) for end in (link.from_id, link.to_id)}
    return [feed for feed in design.vehicle.feeds if feed.id in joined]


def compute_self_fed(book: Book, loads: list[AmplifierLoad]) -> list[SelfFed]:
    """Every part with its own amplifier and no power run yet: fuse, wire, and what each factory feed says to it."""
    design = book.design
    by_amplifier = {load.amplifier.id: load for load in loads}
    powered = {link.to_id for link in design.links_of(PowerLink)}
    tied = {link.to_id: link.from_id for link in design.links_of(FeedLink)}
    drawn: dict[str, tuple[SelfFedPart, Figure]] = {}
    for part in design.parts:
        if isinstance(part, SelfFedPart) and part.id not in powered:
            current = _draws(book, part, by_amplifier)
            if current is not None:
                drawn[part.id] = part, current

    def beside(feed: Feed, own: str) -> list[Term]:
        """What else the plan hangs on a feed."""
        others = [name for name, feed_id in tied.items() if feed_id == feed.id and name != own]
        converters = [c for c in design.parts_of(Converter) if c.id in others]
        return [
            *(drawn[name][1].term for name in others if name in drawn),
            *(fed_current(book, c) for c in converters),
        ]

    results = []
    constant = [f for f in design.vehicle.feeds if f.role is FeedRole.CONSTANT]
    for part, current in drawn.values():
        length, fuse, wire = _own_run(book, part, current)
        on = tied.get(part.id)
        old = feeds_of_the_old(design) if isinstance(part, Amplifier) and part.plugs_in else []
        feeds = [f for f in design.vehicle.feeds if f.id == on] if on is not None else old or constant
        instead = bool(old) and factory_amplifier_gone(design)
        taps = tuple(
            tap_of(book, part, feed, current, beside(feed, part.id), feed.id == on, instead and feed in old)
            for feed in feeds
        )
        results.append(SelfFed(part, current, fuse, wire, length, taps, on is not None))
    return results
