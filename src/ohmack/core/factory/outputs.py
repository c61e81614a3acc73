"""The factory system judged: where a signal can be picked up, what each channel drives, what earlier work costs."""

from __future__ import annotations

from dataclasses import replace
from math import log, log10

from ohmack.core.document import Basis, Design
from ohmack.core.document.factory import Level, Module, Radio, RadioChannel, Tier
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, HeadUnit, Subwoofer
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term
from ohmack.core.loads.wirings import DC_HIGH, DC_LOW, DC_TYPICAL, sub_coils
from ohmack.core.physics.baseline import joined_ohm, relative_change
from ohmack.core.physics.speaker_loads import Wiring, wirings
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import listed

IN_SERIES = Formula("Load", "ohm", "sum, in series", lambda *z: joined_ohm(z, len(z) > 1), PHYSICS)
IN_PARALLEL = Formula("Load", "ohm", "reciprocal sum, in parallel", lambda *z: joined_ohm(z, False), PHYSICS)
PICKUP = Reading(
    "Best signal pickup", "", "cleanest full-range place first, then level, then what must be summed",
    lambda places: next((p.name for p in places if p.usable), "nowhere, add a source"), PRACTICE,
)  # fmt: skip

CHANGE = Formula(
    "Power into the load",
    "db",
    "10 log₁₀(Z_before / Z_now) at equal voltage",
    lambda new, before: relative_change(new, before)[2],
    PHYSICS,
)
CHANNEL_POWER = Formula("Clean power", "w", "V² / Z", lambda v, z: v * v / z, PHYSICS)
AS_STATED = Formula("Limit", "ohm", "as its maker states", lambda z: z)
ON_FILE = Formula("Limit", "ohm", "as on file", lambda z: z)
ASSUMED_OR_LESS = Formula("Limit", "ohm", "as assumed, or less where the works gave it less", min, PRACTICE)
FOUR_OHM = Formula("Limit", "ohm", "4 Ω until the papers say otherwise", lambda z: z, PRACTICE)
FOUR_OHM_OR_LESS = Formula("Limit", "ohm", "4 Ω, or less where the works gave it less", min, PRACTICE)
EARLIER_WORK = Formula("Extra work for what was done before", "min", "sum of the findings", lambda *m: sum(m), PRACTICE)


def each_against_db(door_ohm: float, *pieces_ohm: float) -> float:
    """The level of the first of some speakers in series against one alone on another output at the same volume [db]."""
    return 20 * log10(pieces_ohm[0] / sum(pieces_ohm)) + 10 * log10(door_ohm / pieces_ohm[0])


EACH = Formula(
    "Each against a door speaker, same volume", "db", "10 log₁₀(P each / P door), sensitivity not counted",
    each_against_db, PHYSICS,
)  # fmt: skip
RADIO_LOWEST_OHM = 4.0  # what nearly every radio's channels want, common practice


@record
class Pickup:
    """One place the signal could be taken from, with what speaks for and against it; the lower the better."""

    source_id: str
    name: str
    usable: bool
    badness: int
    level: str
    words: str


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


def _module_pickup(module: Module) -> Pickup:
    bad, words = 10, ["after the factory amplifier, up to 40 V"]
    bands = {channel.band.value for channel in module.channels} - {None}
    if module.fitted.value is False:
        return Pickup(module.id, module.name, False, 99, "", "it is not fitted")
    if module.band_split.value:
        low = any(c.band.value and c.band.value.has_bass and not c.band.value.has_treble for c in module.channels)
        bad += 4 if low else 10
        words.append(
            "band-split: the low pairs carry the bass"
            if low
            else "band-split: sum woofer and tweeter pairs for the full range"
        )
    if bands and not any(b.has_bass for b in bands if b):
        return Pickup(module.id, module.name, False, 60, "up to 40 V", "none of its channels carries bass")
    if module.equalised.value:
        bad += 6
        words.append("equalised: measure the bass at several steps")
    if module.load_sensing.value:
        bad += 4
        words.append("senses its load: keep the speakers or put load resistors in")
    return Pickup(module.id, module.name, True, bad, "up to 40 V", "; ".join(words))


def pickups(vehicle: Vehicle) -> tuple[Pickup, ...]:
    """Every place a signal could be picked up in a car, the best first.

    Parameters:
        vehicle: the car.

    Returns:
        the ranked list; unusable places last, each with its reason.

    Source: common practice.
    """
    tier = vehicle.radio.tier.value
    amplifiers = [m for m in vehicle.modules if m.amplifies and m.fitted.value is not False]
    found = [_module_pickup(m) for m in vehicle.modules if m.amplifies and m.channels]
    if tier is Tier.NONE:
        found.append(Pickup("radio", "Radio", False, 90, "", "there is no radio: a source has to be added"))
    elif tier is Tier.RING:
        found.append(Pickup("radio", "Radio", False, 80, "", "the audio leaves over a digital or optical ring"))
    elif tier is Tier.AFTERMARKET:
        found.append(
            Pickup("radio", "Radio, line outputs", True, 0, "2 to 5 V", "made for it: full range, flat, clean")
        )
        found.append(
            Pickup("radio", "Radio, speaker outputs", True, 4, "about 9 V", "full range; settings of the radio apply")
        )
    elif tier is Tier.AMPLIFIED:
        fixed = any(m.level.value is Level.FIXED for m in amplifiers)
        found.append(
            Pickup("radio", "Radio, lines to the amplifier", not fixed, 70 if fixed else 12, "line level",
                   "fixed level: the volume is made in the amplifier" if fixed else "line level, follows the volume")
        )  # fmt: skip
    elif tier is not None:
        found.append(
            Pickup("radio", "Radio, speaker outputs", True, 2, "about 9 V", "full range, before anything splits it")
        )
    return tuple(sorted(found, key=lambda p: (not p.usable, p.badness, p.name)))


def compute_pickup(book: Book) -> Figure:
    """The best place to pick the signal up."""
    vehicle = book.design.vehicle
    tier = book.fact(vehicle.radio, lambda it: it.tier, "factory system")
    traits: list[Term] = []
    for module in vehicle.modules:
        if module.amplifies:
            said = (
                book.fact(module, lambda it: it.fitted, f"{module.name}: fitted"),
                book.fact(module, lambda it: it.level, f"{module.name}: level"),
                book.fact(module, lambda it: it.band_split, f"{module.name}: splits bands"),
                book.fact(module, lambda it: it.equalised, f"{module.name}: equalised"),
                book.fact(module, lambda it: it.load_sensing, f"{module.name}: senses its load"),
            )
            traits += [term for term in said if term.value is not None]
    return book.reading("pickup", PICKUP, pickups(vehicle), tier, *traits)


New = dict[str, Driver | Subwoofer]  # by the position it goes into


def new_at(design: Design) -> New:
    """The new drivers by the position of the car they go into."""
    parts: tuple[Driver | Subwoofer, ...] = (*design.parts_of(Driver), *design.parts_of(Subwoofer))
    return {name: part for part in parts for name in part.at_ids}


COILS = Reading(
    "Its coils together", "ohm", "series adds, parallel is the reciprocal sum", lambda wiring: wiring.resistance_ohm(),
    PHYSICS,
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
    reading = replace(COILS, text=f"{chosen.words()}: {COILS.text}")
    name = f"{sub.name} in {speaker.name.lower()}, {chosen.words()}"
    return book.reading(f"{sub.id}/{speaker.id}/coils_ohm", reading, chosen, coils, name=name).term


NOMINALS_OHM = (4.0, 2.0, 8.0, 3.0, 6.0, 1.0, 16.0)  # what speakers are sold as, the commonest first; common practice


def nominal_of(read_ohm: float) -> float:
    """The nominal impedance [ohm] a DC resistance [ohm] is 75 to 105 % of, the commonest first; else the nearest."""
    held = (z for z in NOMINALS_OHM if DC_LOW * z <= read_ohm <= DC_HIGH * z)
    return next(held, min(NOMINALS_OHM, key=lambda z: abs(log(z * DC_TYPICAL / read_ohm))))


BY_READING = Formula(
    "Nominal by its reading", "ohm", "the nominal it is 75 to 105 % of, the commonest first", nominal_of, PRACTICE
)


def _nominal(book: Book, speaker: Speaker) -> Term:
    """The nominal impedance of a speaker of the car; what the meter read goes before what nobody checked."""
    fact, read = speaker.impedance_ohm, speaker.dc_resistance_ohm
    if fact.basis is Basis.ASSUMED and read.value is not None:
        term = book.fact(speaker, lambda it: it.dc_resistance_ohm, f"{speaker.name}, DC resistance read", "ohm")
        name = f"{speaker.name}, nominal by its reading"
        return book.figure(f"{speaker.id}/nominal_ohm", BY_READING, term, name=name).term
    return book.fact(speaker, lambda it: it.impedance_ohm, f"{speaker.name}, nominal impedance", "ohm")


def _now(book: Book, speaker: Speaker, drivers: New, was: Figure | None, lowest: Figure) -> Term:
    part = drivers.get(speaker.id)
    if isinstance(part, Subwoofer):
        return _coils_term(book, speaker, part, was, lowest)
    if part is not None:
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
    moved = {link.to_id for link in book.design.links_of(SpeakerLink)}  # driven by a new amplifier now
    moved |= {name for sub in book.design.parts_of(Subwoofer) if sub.id in moved for name in sub.at_ids}
    results = []
    for output in vehicle.sources:
        groups = _merged(book.design) if output is vehicle.radio else tuple((c,) for c in output.channels)
        for group in groups:
            ids = {channel.id for channel in group}
            speakers = tuple(s for s in vehicle.speakers if s.channel_id in ids and s.id not in moved)
            if speakers and (len(speakers) > 1 or any(s.id in drivers or s.new_place for s in speakers)):
                results.append(_channel_load(book, output, group, speakers, drivers))
    return results


def _behind_capacitor(speaker: Speaker, drivers: New) -> bool:
    """Whether a speaker's own capacitor keeps it out of the load where the power is, below the treble."""
    part = drivers.get(speaker.id)
    if isinstance(part, Subwoofer):
        return False
    return part.own_high_pass if part is not None else speaker.own_capacitor.value is True


def _channel_load(
    book: Book, output: Radio | Module, group: tuple[RadioChannel, ...], speakers: tuple[Speaker, ...],
    drivers: New
) -> ChannelLoad:  # fmt: skip
    channel = group[0]
    in_series = any(s.pairing == "series" and s.paired_with_id for s in speakers)
    loading = [s for s in speakers if not _behind_capacitor(s, drivers)] or list(speakers)
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
    now = [_now(book, s, drivers, was, lowest) for s in loading]
    load = book.figure(
        f"{scope}/load_ohm", IN_SERIES if in_series else IN_PARALLEL, *now, name=f"Load now, {channel.name}"
    )
    change = None
    if was is not None:
        change = book.figure(f"{scope}/change_db", CHANGE, load, was, name=f"Power into the load, {channel.name}")
    volts = book.fact(output, lambda it: it.source_voltage_v, "speaker output at the last clean step", "v")
    power = book.figure(f"{scope}/channel_power_w", CHANNEL_POWER, volts, load, name=f"Clean power, {channel.name}")
    new = len(group) > 1 or any(s.id in drivers or s.new_place for s in speakers)
    pair = [term.value for term in now if term.value is not None]
    can = not in_series and len(group) == 1 and len(speakers) == len(pair) == 2
    series_ohm = joined_ohm(pair, True) if can else None
    each = None
    doors = [s for s in _doors(book.design) if s not in speakers]
    if was is None and doors:
        alone = book.fact(doors[0], lambda it: it.impedance_ohm, f"{doors[0].name}, nominal impedance", "ohm")
        pieces = now if in_series else now[:1]
        each = book.figure(f"{scope}/each_db", EACH, alone, *pieces, name=f"Each of {channel.name} against a door")
    return ChannelLoad(group, output, speakers, was, load, lowest, change, power, new, series_ohm, each)


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


def compute_earlier_work(book: Book) -> Figure | None:
    """The extra work an earlier owner left, in minutes; its range stands beside it."""
    found = book.design.vehicle.alterations
    if not found:
        return None
    terms = [book.fact(a, lambda it: it.work_min, a.name, "min") for a in found]
    return book.figure("earlier_work_min", EARLIER_WORK, *terms)  # fmt: skip


def work_range_min(vehicle: Vehicle) -> tuple[float, float] | None:
    """The range of the extra work, as far as it was estimated.

    Parameters:
        vehicle: the car.

    Returns:
        (low, high) [min]; None where nothing was found or an estimate is missing.
    """
    low_min = high_min = 0.0
    for alteration in vehicle.alterations:
        fact = alteration.work_min
        if fact.value is None:
            return None
        low_min += fact.low if fact.low is not None else fact.value
        high_min += fact.high if fact.high is not None else fact.value
    return (low_min, high_min) if vehicle.alterations else None
