"""The joint table: which factory cavity meets which aftermarket lead, joined how, under what sleeve, labelled with
what.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import field
from functools import cache

from ohmack.core.document import Design
from ohmack.core.document.design import ends_of
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.harness import Cavity, CavityUse, Colour, Condition, Connector, JointMethod, Polarity
from ohmack.core.document.links import FeedLink, Pickup, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.fit.runs import over_loom_from, plays_over_the_loom
from ohmack.core.harness.joint_methods import Judged, ferrule_for_mm2, rank_methods, shrink_for_mm
from ohmack.core.harness.lead_ends import OF_THE_CAMERA, WOKEN_BY, ended_at
from ohmack.core.harness.pin_map import use_words
from ohmack.core.harness.wire_colours import colour_words
from ohmack.core.record import record
from ohmack.core.reference import table

UNUSED_CAVITY = "leave it in the plug, untouched"
UNUSED_LEAD = "fold back, insulate its end by itself, tie to the loom"
CUT_END = "cut back, insulate each end by itself"


@record
class Lead:
    """One lead of the new unit: what it is for, its trade colour, its area."""

    use: CavityUse
    words: str
    base: Colour | None  # None where it is marked by words, not by a colour of the trade
    tracer: Colour | None
    area_mm2: float
    channel_id: str | None = None
    polarity: Polarity | None = None
    at: tuple[Connector, Cavity] | None = None  # the one cavity it meets, where it is known beforehand

    @property
    def colour(self) -> str:
        """Base and tracer in words."""
        return colour_words(self.base, self.tracer)


@record
class Joint:
    """One joint: cavity, lead, how, and what it takes.

    `later` is the part of a later phase that needs the same cavity.
    """

    connector: Connector
    cavity: Cavity
    lead: Lead
    unit_id: str
    unit: str
    phase: Phase
    method: JointMethod
    why: str
    ranked: tuple[Judged, ...]  # every method with why or why not
    shrink_mm: float | None
    ferrule_mm2: float | None
    gender: str
    car_label: str
    lead_label: str
    minutes: float
    price: float
    later: str = ""
    in_car: bool = False  # made before this job

    @property
    def cuts(self) -> bool:
        """Whether the factory wire is cut."""
        return bool(table("harness", "joints")[self.method.value]["cut"])


@record
class LooseEnd:
    """A lead or a cavity nothing is joined to, and how it ends."""

    what: str
    colour: str
    ending: str
    missing: bool = False  # a lead the unit needs and the car's map does not have
    unit_id: str = ""  # whose lead it is
    use: CavityUse | None = None


@record
class JointTable:
    """Every joint of the plan, what is left over, and what an adapter plug would save."""

    joints: tuple[Joint, ...] = ()
    loose: tuple[LooseEnd, ...] = ()
    minutes: float = 0.0
    price: float = 0.0
    adapter_saves_min: float = 0.0
    adapter_costs: float = 0.0
    cuts_saved: int = 0
    no_map: tuple[str, ...] = field(default=())  # what is joined at a plug nobody has mapped
    unmapped: int = 0  # leads of it that meet a wire of the car's own, no adapter between

    @property
    def to_make(self) -> tuple[Joint, ...]:
        """The joints of this job; the others were made before."""
        return tuple(joint for joint in self.joints if not joint.in_car)


def unit_leads(design: Design) -> tuple[Lead, ...]:
    """The leads of a new radio, in the trade's colours: feeds first, then the pairs the car has.

    Source: trade convention, common practice.
    """
    usual = table("harness", "usual_area")
    leads = []
    for use, base, tracer, words in table("harness", "leads")["rows"]:
        area = usual["lead_feed"] if use in ("constant", "switched", "ground") else usual["lead_small"]
        leads.append(Lead(CavityUse(use), words, Colour(base), Colour(tracer) if tracer else None, float(area)))
    for channel in design.vehicle.channels:
        leads += pair_leads(design, channel.id)
    return tuple(leads)


@cache
def _speaker_colours() -> dict[ChannelPlace, Colour]:
    return {ChannelPlace(place): Colour(base) for place, base in table("harness", "speaker_leads")["rows"]}


def pair_leads(design: Design, channel_id: str) -> tuple[Lead, ...]:
    """The two leads of one speaker pair in the trade's colours; grey/black is the front right minus."""
    channel = next((c for c in design.vehicle.channels if c.id == channel_id), None)
    if channel is None or channel.place is None:
        return ()
    base, area = _speaker_colours()[channel.place], float(table("harness", "usual_area")["lead_speaker"])
    plus = Lead(CavityUse.SPEAKER, f"{channel.name} +", base, None, area, channel_id, Polarity.PLUS)
    return plus, Lead(CavityUse.SPEAKER, f"{channel.name} −", base, Colour.BLACK, area, channel_id, Polarity.MINUS)


Found = tuple[Connector, Cavity]
Wire = tuple[CavityUse, str | None, Polarity | None]  # what a lead looks for: a use, and of a pair its sign


def _cavities_by_wire(design: Design) -> dict[Wire, Found]:
    """The first cavity of every use, and of every sign of every pair."""
    found: dict[Wire, Found] = {}
    for connector in design.vehicle.connectors:
        for cavity in connector.cavities:
            taken = cavity.taken_for
            if taken is not None:
                found.setdefault((taken, None, None), (connector, cavity))
                found.setdefault((taken, cavity.channel_id, cavity.polarity), (connector, cavity))
    return found


def _place_of(lead: Lead, places: dict[Wire, Found]) -> Found | None:
    if lead.at is not None:
        return lead.at
    return places.get((lead.use, None, None) if lead.channel_id is None else (lead.use, lead.channel_id, lead.polarity))


@record
class Wanted:
    """A lead that meets the factory loom."""

    lead: Lead
    unit_id: str
    unit: str
    phase: Phase
    adapter: bool
    tap: bool  # whether the factory wire goes on
    in_car: bool


def _wanted(design: Design) -> Iterator[Wanted]:
    """Everything that meets the factory loom."""
    usual = table("harness", "usual_area")
    names = {p.id: p for p in design.parts}
    over_loom = {k.to_id for k in design.links_of(SpeakerLink) if over_loom_from(design, k) is not None}
    amplified = {s.channel_id for s in design.vehicle.speakers if s.id in over_loom}
    for unit in design.parts_of(HeadUnit):
        for lead in unit_leads(design):
            if lead.channel_id is not None and lead.channel_id in amplified:
                continue  # the amplifier is joined there; the radio's own lead stays unused
            yield Wanted(lead, unit.id, unit.name, unit.phase, False, False, unit.in_car)
    boxes: list[tuple[HeadUnit | Accessory, tuple[CavityUse, ...]]] = [
        (box, WOKEN_BY) for box in design.parts_of(Accessory) if box.category == "interface"
    ]
    boxes += [(unit, OF_THE_CAMERA) for unit in design.parts_of(HeadUnit) if unit.screen]
    for box, uses in boxes:
        for connector in design.vehicle.connectors:
            for heard in (c for c in connector.cavities if c.taken_for in uses):
                use = heard.taken_for or CavityUse.BUS
                lead = Lead(use, f"{use.value} input", None, None, float(usual["lead_small"]), at=(connector, heard))
                goes_on = use in (CavityUse.BUS, CavityUse.REVERSE)
                yield Wanted(lead, box.id, box.name, box.phase, True, goes_on, box.in_car)
    for link in design.links:
        part = names.get(ends_of(link)[0 if link.kind in ("ground", "speaker") else 1])
        if part is None:
            continue
        if plays_over_the_loom(design, link):
            continue  # on the plugs that are there
        if isinstance(link, TapLink):
            for channel_id in link.from_ids:
                for lead in pair_leads(design, channel_id):
                    adapter = link.method is Pickup.PLUG_ADAPTER
                    yield Wanted(lead, part.id, part.name, part.phase, adapter, True, link.in_car)
        elif isinstance(link, SpeakerLink) and over_loom_from(design, link) is not None:
            speaker = next(s for s in design.vehicle.speakers if s.id == link.to_id)
            for lead in pair_leads(design, speaker.channel_id or ""):
                yield Wanted(lead, part.id, part.name, part.phase, False, False, link.in_car)
        elif isinstance(link, (FeedLink, RemoteLink)):
            cavity = next((c for k in design.vehicle.connectors for c in k.cavities if c.feed_id == link.from_id), None)
            if cavity is None or cavity.taken_for is None:
                continue
            remote = isinstance(link, RemoteLink)
            base, tracer = (Colour.BLUE, Colour.WHITE) if remote else (Colour.YELLOW, None)
            area = usual["lead_small"] if remote else usual["lead_feed"]
            words = "amplifier remote" if remote else "feed, behind its fuse"
            lead = Lead(cavity.taken_for, words, base, tracer, float(area))
            yield Wanted(lead, part.id, part.name, part.phase, False, True, link.in_car)


def usual_area_mm2(cavity: Cavity) -> float:
    """A cavity's wire, or what is usual for its use where nobody measured it [mm2]."""
    usual = table("harness", "usual_area")
    if cavity.area_mm2 is not None:
        return cavity.area_mm2
    taken = cavity.taken_for
    key = (
        "feed"
        if taken in (CavityUse.CONSTANT, CavityUse.SWITCHED, CavityUse.GROUND)
        else "speaker"
        if taken is CavityUse.SPEAKER
        else "small"
    )
    return float(usual[key])


def _gender(connector: Connector, method: JointMethod, lead: Lead) -> str:
    other = "socket" if connector.gender == "plug" else "plug"
    if method is JointMethod.ADAPTER:
        return f"adapter with a {other} for the car's {connector.gender}"
    if lead.use in (CavityUse.CONSTANT, CavityUse.SWITCHED, CavityUse.ILLUMINATION):
        return "shrouded female on the live side" if method is JointMethod.SCREW_LOCK else ""
    return ""


def _later(design: Design) -> dict[tuple[str, str], str]:
    """Cavities a part of a later phase will want, by connector and cavity."""
    found: dict[tuple[str, str], str] = {}
    if all(part.phase is Phase.NOW for part in design.parts):
        return found
    places = _cavities_by_wire(design)
    for one in _wanted(design):
        if one.phase is Phase.LATER and (place := _place_of(one.lead, places)) is not None:
            found[place[0].id, place[1].id] = one.unit
    return found


def joint_table(design: Design, whole: Design | None = None) -> JointTable:
    """Every joint between the factory loom and what is planned.

    Parameters:
        design: the design, with what is fitted now.
        whole: the same with what comes later; the design itself where None.

    Returns:
        joints in the order of the units, loose ends with their endings, and what an adapter plug saves.
        Empty without a mapped connector or without anything that meets the loom.

    Source: trade-convention colours, times and prices common practice.
    """
    wanted = list(_wanted(design))
    if not design.vehicle.connectors:
        wanted = [one for one in wanted if not one.in_car]
        units = dict.fromkeys(one.unit for one in wanted)
        radios = {unit.id for unit in design.parts_of(HeadUnit)}
        spliced = sum(not one.adapter and one.unit_id not in radios for one in wanted)
        return JointTable(no_map=tuple(units), unmapped=spliced)
    later, places = _later(whole or design), _cavities_by_wire(design)
    joints: list[Joint] = []
    loose: list[LooseEnd] = []
    joined: set[tuple[str, str]] = set()
    for one in wanted:
        place = _place_of(one.lead, places)
        if place is None:
            loose.append(_without_a_wire(design, one.lead, one.unit_id, one.unit))
            continue
        connector, cavity = place
        joined.add((connector.id, cavity.id))
        soon = later.get((connector.id, cavity.id), "") if one.phase is Phase.NOW else ""
        joints.append(_joint(design, connector, cavity, one, soon if soon != one.unit else ""))
    loose += _unused(design, joined)
    return _totals(joints, loose)


def _without_a_wire(design: Design, lead: Lead, unit_id: str, unit: str) -> LooseEnd:
    """How a lead ends that has no cavity: by a wire of its own, still missing, or insulated by itself."""
    radio = next((u for u in design.parts_of(HeadUnit) if u.id == unit_id), None)
    end = ended_at(design, radio, lead.use) if radio is not None else ""
    needed = not end and lead.use in (CavityUse.CONSTANT, CavityUse.SWITCHED, CavityUse.GROUND)
    ending = f"to {end}" if end else "find its wire first" if needed else UNUSED_LEAD
    return LooseEnd(f"{unit}: {lead.words}", lead.colour, ending, needed, unit_id, lead.use)


def _unused(design: Design, joined: set[tuple[str, str]]) -> Iterator[LooseEnd]:
    for connector in design.vehicle.connectors:
        for cavity in connector.cavities:
            if cavity.taken_for in (None, CavityUse.EMPTY) or (connector.id, cavity.id) in joined:
                continue
            ending = CUT_END if cavity.condition is Condition.CUT else UNUSED_CAVITY
            what = f"{connector.name} {connector.called(cavity)}: {use_words(design.vehicle, cavity)}"
            yield LooseEnd(what, colour_words(cavity.base, cavity.tracer), ending)


def _joint(design: Design, connector: Connector, cavity: Cavity, one: Wanted, later: str) -> Joint:
    lead = one.lead
    car_mm2 = usual_area_mm2(cavity)
    reversible = design.intake.reversible or bool(later)
    ranked = rank_methods(design.policy.joint_school, car_mm2, lead.area_mm2, tap=one.tap, reversible=reversible)
    reasons = {way.method: way.reason for way in ranked}
    method = cavity.joint or (JointMethod.ADAPTER if one.adapter else ranked[0].method)
    row = table("harness", "joints")[method.value]
    soldered = method in (JointMethod.SOLDER, JointMethod.CRIMP)
    car_label = f"{connector.name} {connector.called(cavity)} · {use_words(design.vehicle, cavity)}"
    return Joint(
        connector, cavity, lead, one.unit_id, one.unit, one.phase, method, reasons[method], ranked,
        shrink_for_mm(car_mm2, lead.area_mm2) if soldered else None,
        ferrule_for_mm2(max(car_mm2, lead.area_mm2)) if method is JointMethod.SCREW_LOCK else None,
        _gender(connector, method, lead), car_label, f"{one.unit} · {lead.words}",
        float(row["minutes"]), float(row["price"]), later, one.in_car,
    )  # fmt: skip


def _totals(joints: list[Joint], loose: list[LooseEnd]) -> JointTable:
    adapter = table("harness", "joints")[JointMethod.ADAPTER.value]
    new = [j for j in joints if not j.in_car]
    wired = [j for j in new if j.method is not JointMethod.ADAPTER]
    saves = sum(j.minutes - adapter["minutes"] for j in wired)
    costs = sum(adapter["price"] - j.price for j in wired)
    return JointTable(
        tuple(joints),
        tuple(loose),
        sum(j.minutes for j in new),
        sum(j.price for j in new),
        saves,
        costs,
        sum(j.cuts for j in wired),
    )
