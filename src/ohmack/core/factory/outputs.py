"""What each output of the factory system, or of a new radio, drives now and drove before."""

from __future__ import annotations

from collections.abc import Sequence
from math import log, log10

from ohmack.core.document import Basis, Design
from ohmack.core.document.factory import Module, Radio, RadioChannel
from ohmack.core.document.handles import at, within
from ohmack.core.document.interventions import new_radio
from ohmack.core.document.parts import Driver, HeadUnit, Subwoofer
from ohmack.core.document.small_parts import CrossoverNet, LoadResistor, SpeakerPad
from ohmack.core.document.vehicle import Speaker
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.loads.driven import sub_coils, tweeter_at
from ohmack.core.loads.drivers import amplified_places
from ohmack.core.loads.line_parts import held_back
from ohmack.core.loads.nominals import nominal_of, sub_pair_of
from ohmack.core.loads.pads import pad_before, through_pad
from ohmack.core.physics.baseline import joined_ohm, relative_change
from ohmack.core.physics.signal_chain import rms_from
from ohmack.core.physics.speaker_loads import RATED_INTO_OHM, Wiring, power_voltage_v, wirings
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import listed

IN_SERIES = Formula("Load", "ohm", "sum, in series", lambda *z: joined_ohm(z, len(z) > 1), PHYSICS)
HEAT = Formula("Heat in a load resistor", "w", "V² / R", lambda v, r: v * v / r, PHYSICS)
IN_PARALLEL = Formula("Load", "ohm", "reciprocal sum, in parallel", lambda *z: joined_ohm(z, False), PHYSICS)
CHANGE = Formula(
    "Power into the load",
    "db",
    "10 log₁₀(Z_before / Z_now) at equal voltage",
    lambda new, before: relative_change(new, before)[2],
    PHYSICS,
)
CHANNEL_POWER = Formula("Clean power", "w", "V² / Z", lambda v, z: v * v / z, PHYSICS)
AS_READ = Formula("Output, rms", "v", "as read; peak / √2 where stated as peak", rms_from, PHYSICS)
BY_RATING = Formula("Output, rms", "v", "√(P × Z)", power_voltage_v, PHYSICS)
AS_STATED = Formula("Limit", "ohm", "as its maker states", lambda z: z)
ON_FILE = Formula("Limit", "ohm", "as on file", lambda z: z)
ASSUMED_OR_LESS = Formula("Limit", "ohm", "as assumed, or less where the works gave it less", min, PRACTICE)
FOUR_OHM = Formula("Limit", "ohm", "4 Ω until the papers say otherwise", lambda z: z, PRACTICE)
FOUR_OHM_OR_LESS = Formula("Limit", "ohm", "4 Ω, or less where the works gave it less", min, PRACTICE)


def each_against_db(door_ohm: float, pad_db: float, own_ohm: float, *pieces_ohm: float) -> float:
    """The level of the first of some speakers in series against one alone on another output at the same volume [db]:
    its piece of the voltage, what its pad does to that, and what its own impedance makes of it.
    """
    return 20 * log10(pieces_ohm[0] / sum(pieces_ohm)) + pad_db + 10 * log10(door_ohm / own_ohm)


EACH = Formula(
    "Each against a door speaker, same volume", "db",
    "20 log₁₀(its piece of the voltage) + pad + 10 log₁₀(Z door / Z own), sensitivity not counted",
    each_against_db, PHYSICS,
)  # fmt: skip
RADIO_LOWEST_OHM = 4.0  # what nearly every radio's channels want, common practice


@record
class ChannelLoad:
    """What one output drives now and drove before; a new radio joins what the works kept apart by bands."""

    group: tuple[RadioChannel, ...]
    source: Radio | Module
    speakers: tuple[Speaker, ...]
    was: Figure | None  # None where the works hung nothing there
    load: Figure
    lowest: Figure
    change: Figure | None
    given: Figure  # volts rms at the last clean step
    power: Figure
    new: bool
    in_series_ohm: float | None  # what two in parallel would come to in series; None where they cannot be wired so
    each: Figure | None = None  # how loud each of them is against a door speaker of the same radio

    @property
    def overloads(self) -> bool:
        """Whether it drives less than its source wants, beyond what rounding makes of equal loads."""
        load_ohm, lowest_ohm = self.load.value, self.lowest.value
        return load_ohm is not None and lowest_ohm is not None and bool(load_ohm < lowest_ohm * (1 - 1e-9))

    @property
    def channel(self) -> RadioChannel:
        """The first of its pairs."""
        return self.group[0]

    @property
    def name(self) -> str:
        """Its pairs by name."""
        return listed([channel.name for channel in self.group])


New = dict[str, Driver | Subwoofer]  # by the position it goes into


def new_at(design: Design) -> New:
    """The new drivers by the position of the car they go into."""
    parts: tuple[Driver | Subwoofer, ...] = (*design.parts_of(Driver), *design.parts_of(Subwoofer))
    return {name: part for part in parts for name in part.at_ids}


COILS = Reading(
    "Its coils together", "ohm", "series adds, parallel is the reciprocal sum", lambda wiring: wiring.resistance_ohm(),
    PHYSICS, tells=lambda wiring: wiring.words(),
)  # fmt: skip


def coil_wirings(sub: Subwoofer) -> tuple[Wiring, ...]:
    """Every wiring of a driver's own coils, lowest load first."""
    return wirings(sub_coils(sub))


def _coils_term(book: Book, speaker: Speaker, sub: Subwoofer, was: Figure | None, lowest: Figure) -> Term:
    """The load of a driver with several coils in a place of the car: wired as chosen, else as near to what was there
    as its amplifier permits.
    """
    options = coil_wirings(sub)
    wanted = next((w for w in options if w.key() == sub.wiring), None)
    least_ohm = (lowest.value or 0.0) * (1 - 1e-9)
    permitted = [w for w in options if w.resistance_ohm() >= least_ohm] or list(options[-1:])
    near_ohm = was.value if was is not None and was.value else lowest.value or options[0].resistance_ohm()
    chosen = wanted or min(permitted, key=lambda w: abs(log(w.resistance_ohm() / near_ohm)))
    coils = book.part(sub, lambda it: it.coils, f"{sub.name}: voice coils")
    name = f"{sub.name} in {speaker.name.lower()}, {chosen.words()}"
    return book.reading(f"{sub.id}/{speaker.id}/coils_ohm", COILS, chosen, coils, name=name).term


NET_LOAD = Formula(
    "Load through a crossover net",
    "ohm",
    "the lower of woofer and tweeter, each alone in its band",
    lambda *ohms: min(ohms),
    PHYSICS,
)
BY_READING = Formula(
    "Nominal by its reading", "ohm", "the nominal it is 75 to 105 % of, the commonest first", nominal_of, PRACTICE
)


def _nominal(book: Book, speaker: Speaker) -> Term:
    """The nominal impedance of a speaker of the car; what the meter read goes before what nobody checked."""
    fact, read = speaker.impedance_ohm, speaker.dc_resistance_ohm
    if fact.basis is not Basis.ASSUMED:
        return book.fact(speaker, lambda it: it.impedance_ohm, f"{speaker.name}, nominal impedance", "ohm")
    pair = sub_pair_of(book.design.vehicle, speaker)
    if read.value is not None:
        term = book.fact(speaker, lambda it: it.dc_resistance_ohm, f"{speaker.name}, DC resistance read", "ohm")
    elif pair is not None and pair.pair_resistance_ohm.value is not None:
        held = next(at(o, lambda it: it.channels) for o in book.design.vehicle.sources if pair in o.channels)
        there = pair.pair_resistance_ohm
        path = within(held, pair, lambda it: it.pair_resistance_ohm)
        term = Term(f"{pair.name}, read at the plug", there.value, "ohm", there.basis, None, there.basis.word, path)
    else:
        return book.fact(speaker, lambda it: it.impedance_ohm, f"{speaker.name}, nominal impedance", "ohm")
    name = f"{speaker.name}, nominal by its reading"
    return book.figure(f"{speaker.id}/nominal_ohm", BY_READING, term, name=name).term


def _now(book: Book, speaker: Speaker, drivers: New, was: Figure | None, lowest: Figure) -> Term:
    part = drivers.get(speaker.id)
    if isinstance(part, Subwoofer):
        return _coils_term(book, speaker, part, was, lowest)
    own = own_ohm(book, speaker, drivers)
    behind = through_pad(book, speaker.id, speaker.name.lower(), own)
    return own if behind is None else behind.load.term


def own_ohm(book: Book, speaker: Speaker, drivers: New) -> Term:
    """The impedance of the speaker itself, before any pad."""
    part = drivers.get(speaker.id)
    if isinstance(part, Driver):
        return book.part(part, lambda it: it.impedance_ohm, f"{speaker.name}, new", "ohm")
    return _nominal(book, speaker)


def _merged(design: Design) -> tuple[tuple[RadioChannel, ...], ...]:
    """The radio's pairs as they end on one output each: a new radio has one for a position, whatever bands the works
    had.
    """
    radio = design.vehicle.radio
    if next(design.parts_of(HeadUnit), None) is None:
        return tuple((channel,) for channel in radio.channels)
    groups: dict[str, list[RadioChannel]] = {}
    for channel in radio.channels:
        groups.setdefault(channel.place.value if channel.place else channel.id, []).append(channel)
    return tuple(tuple(group) for group in groups.values())


def compute_channel_loads(book: Book) -> list[ChannelLoad]:
    """Loads of every factory output, and of a new radio's, that gets a new driver or carries more than one speaker."""
    vehicle = book.design.vehicle
    drivers = new_at(book.design)
    moved = amplified_places(book.design)
    held = {name for part in book.design.parts_of(LoadResistor) for name in part.at_ids}
    damped = {name for pad in book.design.parts_of(SpeakerPad) for name in pad.at_ids}
    results = []
    for output in vehicle.sources:
        groups = _merged(book.design) if output is vehicle.radio else tuple((c,) for c in output.channels)
        for group in groups:
            ids = {channel.id for channel in group}
            speakers = tuple(s for s in vehicle.speakers if s.channel_id in ids and s.id not in moved)
            changed = any(s.id in drivers or s.id in damped or s.new_place for s in speakers) or bool(ids & held)
            if (speakers and (len(speakers) > 1 or changed)) or ids & held:
                results.append(_channel_load(book, output, group, speakers, drivers))
    return results


def parted_of(design: Design, speakers: Sequence[Speaker]) -> dict[str, CrossoverNet]:
    """By speaker, the crossover net that parts some speakers of one output; only where it parts two or more of them."""
    found: dict[str, CrossoverNet] = {}
    for net in design.parts_of(CrossoverNet):
        members = [s.id for s in speakers if s.id in net.at_ids]
        if len(members) > 1:
            found |= dict.fromkeys(members, net)
    return found


def _sides(book: Book, scope: str, behind: list[Speaker], drivers: New) -> list[Term]:
    """What a net's woofers come to, and its tweeters, each side in its own band."""
    tweeters = [s for s in behind if tweeter_at(book.design, s.id)]
    sides = []
    for name, those in (("woofers", [s for s in behind if s not in tweeters]), ("tweeters", tweeters)):
        ohms = [own_ohm(book, s, drivers) for s in those]
        if len(ohms) > 1:
            title = f"{listed([s.name.lower() for s in those])} behind the net"
            ohms = [book.figure(f"{scope}/{name}_ohm", IN_PARALLEL, *ohms, name=title).term]
        sides += ohms
    return sides


def _given(book: Book, output: Radio | Module, channel: RadioChannel) -> Figure:
    """What a pair gives at its last clean step; a new radio by its rating, what was read at the old one says nothing
    of it.
    """
    scope, name = f"{channel.id}/rms_v", f"Output of {channel.name}, rms"
    unit = new_radio(book.design) if isinstance(output, Radio) else None
    if unit is not None:
        rated = book.part(unit, lambda it: it.power_w, "RMS power a channel", "w")
        into = reference("it is rated into", RATED_INTO_OHM, "ohm", PRACTICE)
        return book.figure(scope, BY_RATING, rated, into, name=name)
    stated = fixed("stated as", output.source_stated_as.value, path=at(output, lambda it: it.source_stated_as))
    volts = book.fact(output, lambda it: it.source_voltage_v, "output at the last clean step", "v")
    return book.figure(scope, AS_READ, volts, stated, name=name)


def _channel_load(
    book: Book, output: Radio | Module, group: tuple[RadioChannel, ...], speakers: tuple[Speaker, ...],
    drivers: New
) -> ChannelLoad:  # fmt: skip
    channel = group[0]
    in_series = any(s.pairing == "series" and s.paired_with_id for s in speakers)
    loading = [s for s in speakers if not held_back(book.design, s)] or list(speakers)
    first = [s for s in speakers if s.channel_id == channel.id and not s.new_place]  # what the works hung on this pair
    old = [_nominal(book, s) for s in first]
    scope = channel.id
    was: Figure | None = None
    if old:
        was_series = any(s.pairing == "series" and s.paired_with_id for s in first)
        was = book.figure(
            f"{scope}/was_ohm", IN_SERIES if was_series else IN_PARALLEL, *old, name=f"Load before, {channel.name}"
        )
    lowest = _lowest(book, output, channel, was)
    parted = parted_of(book.design, speakers)
    now = [_now(book, s, drivers, was, lowest) for s in loading if s.id not in parted]
    for net in dict.fromkeys(parted.values()):
        sides = _sides(book, scope, [s for s in speakers if parted.get(s.id) is net], drivers)
        now.append(book.figure(f"{scope}/{net.id}/net_ohm", NET_LOAD, *sides, name=f"Load through {net.name}").term)
    across = [r for r in book.design.parts_of(LoadResistor) if {c.id for c in group} & set(r.at_ids)]
    if not in_series:
        now += [book.part(r, lambda it: it.resistance_ohm, f"{r.name}, across it", "ohm") for r in across]
    load = book.figure(
        f"{scope}/load_ohm", IN_SERIES if in_series else IN_PARALLEL, *now, name=f"Load now, {channel.name}"
    )
    given = _given(book, output, channel)
    for part in across:
        ohm = book.part(part, lambda it: it.resistance_ohm, f"{part.name}, across it", "ohm")
        book.figure(f"{part.id}/{channel.id}/heat_w", HEAT, given, ohm, name=f"Heat in {part.name}")
    change = None
    if was is not None:
        change = book.figure(f"{scope}/change_db", CHANGE, load, was, name=f"Power into the load, {channel.name}")
    power = book.figure(f"{scope}/channel_power_w", CHANNEL_POWER, given, load, name=f"Clean power, {channel.name}")
    new = len(group) > 1 or any(s.id in drivers or s.new_place for s in speakers)
    pair = [term.value for term in now if term.value is not None]
    can = not in_series and len(group) == 1 and len(speakers) == len(pair) == 2
    series_ohm = joined_ohm(pair, True) if can else None
    each = None
    doors = [s for s in _doors(book.design) if s not in speakers]
    if was is None and speakers and doors:
        alone = book.fact(doors[0], lambda it: it.impedance_ohm, f"{doors[0].name}, nominal impedance", "ohm")
        pieces = now if in_series else now[:1]
        first_one, pad, own = loading[0], fixed("pad before it, none", 0.0, "db"), pieces[0]
        if first_one.id not in parted and pad_before(book.design, first_one.id) is not None:
            own = own_ohm(book, first_one, drivers)
            behind = through_pad(book, first_one.id, first_one.name.lower(), own)
            pad = pad if behind is None else behind.level.term
        each = book.figure(
            f"{scope}/each_db", EACH, alone, pad, own, *pieces, name=f"Each of {channel.name} against a door"
        )
    return ChannelLoad(group, output, speakers, was, load, lowest, change, given, power, new, series_ohm, each)


def _doors(design: Design) -> list[Speaker]:
    """The door speakers the car came with, each on a pair of its own."""
    speakers = design.vehicle.speakers
    return [
        s
        for s in speakers
        if s.in_door and not s.new_place and s.channel_id and sum(o.channel_id == s.channel_id for o in speakers) == 1
    ]


def _lowest(book: Book, output: Radio | Module, channel: RadioChannel, was: Figure | None) -> Figure:
    """The lowest load a factory output, or the new radio in its place, may drive."""
    figure_id, name = f"{channel.id}/lowest_ohm", f"Lowest load, {channel.name}"
    radio = output is book.design.vehicle.radio
    unit = next(book.design.parts_of(HeadUnit), None)
    if unit is not None and radio:
        permits = book.part(unit, lambda it: it.lowest_load_ohm, "lowest load of the new radio", "ohm")
        return book.figure(figure_id, AS_STATED, permits, name=name)
    if output.lowest_load_ohm.value is not None:
        fact = book.fact(output, lambda it: it.lowest_load_ohm, "lowest load its channels permit", "ohm")
        if radio or was is None or output.lowest_load_ohm.basis is not Basis.ASSUMED:
            return book.figure(figure_id, ON_FILE, fact, name=name)
        return book.figure(figure_id, ASSUMED_OR_LESS, fact, was, name=name)
    usual = Term(
        "what a channel usually wants",
        RADIO_LOWEST_OHM,
        "ohm",
        Basis.ASSUMED,
        PRACTICE.grade,
        PRACTICE.text,
        at(output, lambda it: it.lowest_load_ohm),
    )
    if radio or was is None:
        return book.figure(figure_id, FOUR_OHM, usual, name=name)
    return book.figure(figure_id, FOUR_OHM_OR_LESS, usual, was, name=name)
