"""Loads: every wiring of the coils on each amplifier channel, judged; and the one that is chosen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import SpeakerLink
from ohmack.core.errors import NotWired
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, reference
from ohmack.core.loads.driven import (
    DC_HIGH,
    DC_LOW,
    Driven,
    channels_in_use,
    driven_by,
    names_of,
    through_nets,
    tweeter_at,
)
from ohmack.core.loads.line_parts import held_back
from ohmack.core.loads.pads import padded
from ohmack.core.loads.wiring_judge import (
    Judge,
    OnChannel,
    WiringOption,
    all_wirings,
    as_chosen,
    as_listed,
    bench_entry,
    laid_by_hand,
)
from ohmack.core.physics.grouped_wirings import MOST_COILS
from ohmack.core.physics.speaker_loads import Wiring, power_voltage_v, rated_power_w
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import LETTERS, counted

NET_LOAD = Reading(
    "Net load", "ohm", "series adds, parallel is the reciprocal sum", lambda chosen: chosen.load_ohm, PHYSICS,
    tells=lambda chosen: chosen.words,
)  # fmt: skip
METER = Reading(
    "An ohmmeter reads",
    "ohm",
    "the same network with DC resistances, leads zeroed",
    lambda chosen: chosen.meter_ohm,
    PRACTICE,
)
WIRED_POWER = Formula(
    "Amplifier power at the wired load",
    "w",
    "rating table, straight in log power over log load; half per doubling above it",
    lambda rows, load_ohm: rated_power_w([(r.load_ohm, r.power_w) for r in rows], load_ohm),
    PRACTICE,
)
COIL_POWER = Formula(
    "Power in the hardest worked coil", "w", "net power × the coil's share", lambda p, share: p * share, PHYSICS
)
TAKES = Formula("RMS power the driver takes", "w", "as its maker states", float)


def _together_w(*ratings_and_shares: float) -> float:
    """The power of the output at which the first driver has what it takes: ratings [w] first, then as many shares."""
    half = len(ratings_and_shares) // 2
    return min(w / share for w, share in zip(ratings_and_shares[:half], ratings_and_shares[half:], strict=True))


TAKE_TOGETHER = Formula(
    "RMS power the drivers take together",
    "w",
    "least of (rating / (coils × share of its hardest worked coil))",
    _together_w,
    PHYSICS,
)

POWER = Formula("Amplifier power, all channels", "w", "sum of the channels in use", lambda *each: sum(each), PHYSICS)
MATCH = Formula(
    "Amplifier power over driver power", "percent", "P_amplifier / P_driver × 100", lambda p, d: 100 * p / d, PRACTICE
)
FULL_SCALE = Formula("Voltage at full power", "v", "√(P × Z)", power_voltage_v, PHYSICS)


UNREAD = "it is in the car already and nobody said how its coils are wired: read the pair, then choose what is there"


def unread(links: Sequence[SpeakerLink], link: SpeakerLink, options: Sequence[WiringOption]) -> bool:
    """Whether all that hangs on an output was wired before, in one of several ways, and nobody said which."""
    return len(options) > 1 and not link.wiring and all(k.in_car for k in links)


@record
class LoadResult:
    """The load of one channel, or of two bridged."""

    link: SpeakerLink
    links: tuple[SpeakerLink, ...]
    amplifier: Amplifier
    driven: tuple[Driven, ...]
    options: tuple[WiringOption, ...]  # lowest load first
    chosen: WiringOption
    ranked: tuple[WiringOption, ...]  # the best first
    load: Figure
    power: Figure
    meter: Figure
    match: Figure
    full_scale: Figure
    coil_power: Figure
    allowed: Figure
    beside: tuple[Driven, ...] = ()  # in parallel behind capacitors: no load where the power is
    parted: bool = False  # whether a tweeter hangs beside what plays lower
    gone: bool = False  # whether the wiring that was chosen does not fit what hangs there any more

    @property
    def unread(self) -> bool:
        """Whether it was wired before, in one of several ways, and nobody said which."""
        return unread(self.links, self.link, self.options)

    @property
    def scope(self) -> str:
        """What its figures are filed under."""
        return scope_of(self.amplifier, self.link)

    @property
    def allowed_w(self) -> float | None:
        """What all on the channel take, the weakest coil deciding [w]; None where it is not known."""
        allowed: float | None = self.allowed.value
        return allowed

    @property
    def driver(self) -> Driven:
        """The first thing on the channel."""
        return self.driven[0]

    @property
    def driven_name(self) -> str:
        """Everything on the channel by name."""
        return counted(names_of((*self.driven, *self.beside)))

    @property
    def channel_name(self) -> str:
        """Which output of the amplifier it is."""
        return channel_name(self.amplifier, self.link)

    @property
    def lowest_ohm(self) -> float:
        """The lowest load this output may drive."""
        return output_of(self.amplifier, self.link)[1]


def what_plays_on(loads: Iterable[LoadResult]) -> str:
    """Everything on some channels by name, equal new speakers once with all their places."""
    return counted(names_of([one for load in loads for one in (*load.driven, *load.beside)]))


@record
class AmplifierLoad:
    """One amplifier with the power of all its outputs together."""

    amplifier: Amplifier
    power: Figure
    outputs: tuple[LoadResult, ...]


def scope_of(amplifier: Amplifier, link: SpeakerLink) -> str:
    """What the figures of an output are filed under: the amplifier, or its channel where it has several."""
    return amplifier.id if amplifier.channels == 1 else f"{amplifier.id}/ch{link.channel}"


def channel_name(amplifier: Amplifier, link: SpeakerLink) -> str:
    """An output in words."""
    if amplifier.channels == 1:
        return amplifier.name
    numbers = f"channels {link.channel} and {link.channel + 1}, bridged" if link.bridged else f"channel {link.channel}"
    return f"{amplifier.name}, {numbers}"


def output_of(amplifier: Amplifier, link: SpeakerLink) -> tuple[list[tuple[float, float]], float]:
    """(rating rows, lowest permitted load) of the channel of a link, or of two bridged; no rows where the papers give
    none.
    """
    return output_rows(amplifier, link.channel, link.bridged)


def output_rows(amplifier: Amplifier, channel: int, bridged: bool) -> tuple[list[tuple[float, float]], float]:
    """The same of a channel by its number."""
    group = amplifier.group_of(channel)
    ratings = group.bridged_ratings if bridged else group.ratings
    lowest = group.lowest_bridged_ohm if bridged else group.lowest_load_ohm
    if lowest is None:
        lowest = 2 * group.lowest_load_ohm  # each half of a bridged pair sees half the load
    return [(rating.load_ohm, rating.power_w) for rating in ratings], lowest


def compute_loads(book: Book) -> list[LoadResult]:
    """Every output in use whose load is known, in the order of the links; an unknown one leaves a gap in the book."""
    found = []
    for amplifier, links in channels_in_use(book.design):
        letters = LETTERS if len(links) > 1 else ("",)
        driven = [driven_by(book, link, letter) for link, letter in zip(links, letters, strict=False)]
        known = through_nets(book, tuple(padded(book, d) for d in driven if d is not None))
        coils = sum(len(d.coils) for d in known)
        if any(not d.coils for d in known):
            terms = tuple(t for d in known for t in d.terms)
            book.reading(f"{scope_of(amplifier, links[0])}/load_ohm", NET_LOAD, None, *terms)
        elif 1 <= coils <= MOST_COILS:
            main, beside = _parted(book.design, known)
            found.append(compute_load(book, amplifier, links, main, beside))
    return found


def _parted(design: Design, driven: tuple[Driven, ...]) -> tuple[tuple[Driven, ...], tuple[Driven, ...]]:
    """(what makes the load where the power is, what a capacitor of its own keeps out of it); all of it the first,
    where nothing would be left.
    """
    speakers = {speaker.id: speaker for speaker in design.vehicle.speakers}
    held = tuple(d for d in driven if not d.through_net and d.id in speakers and held_back(design, speakers[d.id]))
    main = tuple(d for d in driven if d not in held)
    return (main, held) if main else (driven, ())


def compute_amplifier_loads(book: Book, loads: Sequence[LoadResult]) -> list[AmplifierLoad]:
    """Every amplifier with a load, and the power all its outputs give together."""
    result = []
    for amplifier in book.design.parts_of(Amplifier):
        outputs = tuple(load for load in loads if load.amplifier.id == amplifier.id)
        if not outputs:
            continue
        power = outputs[0].power
        if amplifier.channels > 1:
            power = book.figure(f"{amplifier.id}/power_w", POWER, *(o.power for o in outputs))  # fmt: skip
        result.append(AmplifierLoad(amplifier, power, outputs))
    return result


def _coil_rms_w(driven: Sequence[Driven]) -> dict[str, float]:
    return {c.name: d.power_rms_w / len(d.coils) for d in driven if d.power_rms_w for c in d.coils}


def _trebles(design: Design, driven: Sequence[Driven]) -> frozenset[str]:
    """The coils of tweeters that hang beside something that plays lower."""
    high = [d for d in driven if tweeter_at(design, d.id)]
    return frozenset(c.name for d in high for c in d.coils) if len(high) < len(driven) else frozenset()


def compute_load(
    book: Book, amplifier: Amplifier, links: tuple[SpeakerLink, ...], driven: tuple[Driven, ...],
    beside: tuple[Driven, ...] = ()
) -> LoadResult:  # fmt: skip
    """Figures of one output with what hangs on it, every wiring ranked; `beside` plays behind capacitors."""
    policy = book.design.policy
    link = next(k for k in links if any(d.plays_at(k.to_id) for d in driven))
    low, high = policy.match_low, policy.match_high
    coil_rms = _coil_rms_w(driven)
    single_w = driven[0].power_rms_w if len(driven) == 1 else None
    names = [d.name for d in driven]
    equal = len({d.part for d in driven}) == 1  # then their places tell them apart
    drivers = tuple(
        OnChannel(f"{d.name} {letter}", d.coils, d.power_rms_w, letter)
        if names.count(d.name) > 1
        else OnChannel(d.name, d.coils, d.power_rms_w, f"{letter}, {d.place}" if d.place else "")
        if equal and len(driven) > 1
        else OnChannel(d.name, d.coils, d.power_rms_w)
        for d, letter in zip(driven, LETTERS, strict=False)
    )
    rows, lowest_ohm = output_of(amplifier, link)
    trebles = _trebles(book.design, driven)
    judge = Judge(rows, lowest_ohm, drivers, single_w, coil_rms, low, high, trebles)
    judged = [judge.option(entry) for entry in all_wirings(drivers)]
    order = sorted(range(len(judged)), key=lambda n: judge.rank(judged[n]))
    best = judged[order[0]]
    bench = laid_by_hand(link.wiring, drivers)
    wanted = as_chosen(as_listed(bench) if bench is not None else link.wiring, judged, drivers)
    if bench is not None and wanted is None:  # like none of the list: judged as it lies
        wanted = judge.option(bench_entry(bench, drivers))
        judged.append(wanted)
        order.append(len(judged) - 1)
    gone = bool(link.wiring) and wanted is None
    wanted = wanted or best
    options = tuple(replace(o, chosen=o is wanted, best=o is best) for o in judged)
    chosen = next(o for o in options if o.chosen)
    ranked = tuple(options[n] for n in order)

    scope = scope_of(amplifier, link)
    coils = tuple(t for d in driven for t in d.terms)
    stays: WiringOption | NotWired = chosen if chosen.stays else NotWired("load_ohm", chosen.reason)
    if unread(links, link, options):
        stays = NotWired("load_ohm", UNREAD)
    load = book.reading(f"{scope}/load_ohm", NET_LOAD, stays, *coils)
    ratings = _rating_table(book, amplifier, link)
    power = book.figure(f"{scope}/power_w", WIRED_POWER, ratings, load)
    spread = reference("coil reading over nominal", f"{DC_LOW:.0%} to {DC_HIGH:.0%}", "", PRACTICE)
    meter = book.reading(f"{scope}/meter_ohm", METER, stays, *coils, spread)
    allowed = _allowed(book, scope, driven, chosen, load)
    match = book.figure(f"{scope}/match_percent", MATCH, power, allowed)  # fmt: skip
    full_scale = book.figure(f"{scope}/full_scale_v", FULL_SCALE, power, load)  # fmt: skip
    share = reference("share of the hardest worked coil", max(chosen.wiring.shares().values()), "", PHYSICS)
    coil_power = book.figure(f"{scope}/coil_power_w", COIL_POWER, power, share)
    figures = (load, power, meter, match, full_scale, coil_power, allowed)
    return LoadResult(link, links, amplifier, driven, options, chosen, ranked, *figures, gone=gone, beside=beside,
                      parted=bool(trebles))  # fmt: skip


def _rating_table(book: Book, amplifier: Amplifier, link: SpeakerLink) -> Term:
    """The papers' ratings of the channels a link hangs on, as an input."""
    if amplifier.group_of(link.channel).second:
        if link.bridged:
            return book.part(amplifier, lambda it: it.further_bridged_ratings, "rating table, further channels bridged")
        return book.part(amplifier, lambda it: it.further_ratings, "rating table, further channels")
    if link.bridged:
        return book.part(amplifier, lambda it: it.bridged_ratings, "rating table, bridged")
    return book.part(amplifier, lambda it: it.ratings, "rating table")


def _allowed(
    book: Book, scope: str, driven: tuple[Driven, ...], chosen: WiringOption, load: Figure
) -> Figure:  # fmt: skip
    """What everything on the output takes: a single driver's rating, or the net power at which the first coil is
    full. Where nothing is wired it says so as the load does.
    """
    terms = [d.takes for d in driven]
    if not chosen.stays:
        return book.figure(f"{scope}/allowed_w", TAKE_TOGETHER, *terms, load)
    if len(driven) == 1 and isinstance(chosen.wiring, Wiring):
        return book.figure(f"{scope}/allowed_w", TAKES, *terms)
    shares = chosen.wiring.shares()
    driven = tuple(d for d in driven if any(shares[c.name] for c in d.coils))  # the others take nothing
    terms = [d.takes for d in driven]
    worked = (
        reference(
            f"{d.name}: coils × share of its hardest worked",
            len(d.coils) * max(shares[c.name] for c in d.coils),
            "",
            PHYSICS,
        )
        for d in driven
    )
    return book.figure(f"{scope}/allowed_w", TAKE_TOGETHER, *terms, *worked)
