"""What hangs on an output: subwoofers, new drivers, factory speakers, and those a crossover net makes one of."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Band, RadioChannel
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.document.small_parts import CrossoverNet
from ohmack.core.document.vehicle import Speaker
from ohmack.core.figures.figure import Book, Formula, Term, fixed, reference
from ohmack.core.physics.speaker_loads import Coil
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.wording import listed

DC_LOW, DC_TYPICAL, DC_HIGH = 0.75, 0.85, 1.05  # DC resistance over nominal, common practice


@record
class Driven:
    """What hangs on a channel: a subwoofer, a new driver at a position, or the factory speaker there."""

    id: str
    path: str
    name: str
    coils: tuple[Coil, ...]
    power_rms_w: float | None
    sensitivity_db: float | None
    terms: tuple[Term, ...]
    takes: Term
    is_subwoofer: bool = False
    through_net: tuple[str, ...] = ()  # the places behind one crossover net, of which the first names it
    place: str = ""  # of a new speaker: where it sits, in words
    part: str = ""  # of a new speaker: what it is called without its place

    def plays_at(self, place_id: str) -> bool:
        """Whether it is, or sits in, a place."""
        return place_id == self.id or place_id in self.through_net


def names_of(driven: Sequence[Driven]) -> list[str]:
    """What several things are called: equal new speakers once, with all their places."""
    by_part: dict[str, list[Driven]] = {}
    for one in driven:
        by_part.setdefault(one.part or one.id, []).append(one)
    return [
        f"{alike[0].part} in {listed([one.place for one in alike])}" if len(alike) > 1 else alike[0].name
        for alike in by_part.values()
    ]


def new_driver(design: Design, place_id: str) -> Driver | None:
    """The new driver that goes into a place of the car."""
    return next((d for d in design.parts_of(Driver) if place_id in d.at_ids), None)


def own_tweeter(speaker: Speaker, pair: RadioChannel | None) -> bool:
    """Whether the car's own speaker in a place is a tweeter: by what it was found to be, or by the band of its pair."""
    return speaker.tweeter or (pair is not None and pair.band.value is Band.HIGH)


def tweeter_at(design: Design, place_id: str) -> bool:
    """Whether a tweeter plays in a place: the new driver is one, or the car's own stays and is one."""
    new = new_driver(design, place_id)
    if new is not None:
        return new.role == "tweeter"
    speaker = next((s for s in design.vehicle.speakers if s.id == place_id), None)
    if speaker is None or any(place_id in sub.at_ids for sub in design.parts_of(Subwoofer)):
        return False
    pair = next((c for c in design.vehicle.channels if c.id == speaker.channel_id), None)
    return own_tweeter(speaker, pair)


def any_tweeter(design: Design, links: Iterable[SpeakerLink]) -> bool:
    """Whether some speaker cables end at a tweeter."""
    return any(tweeter_at(design, link.to_id) for link in links)


def sub_coils(driver: Subwoofer, letter: str = "") -> tuple[Coil, ...]:
    """The voice coils of a subwoofer, its rating shared among them; a letter tells several drivers' apart."""
    each_w = driver.power_rms_w / len(driver.coils)
    return tuple(
        Coil(f"{letter}{number}", coil.impedance_ohm, coil.dc_resistance_ohm or DC_TYPICAL * coil.impedance_ohm, each_w)
        for number, coil in enumerate(driver.coils, start=1)
    )


def driver_coil(driver: Driver, name: str = "1") -> Coil:
    """The voice coil of a new speaker."""
    reads_ohm = driver.dc_resistance_ohm or DC_TYPICAL * driver.impedance_ohm
    return Coil(name, driver.impedance_ohm, reads_ohm, driver.power_rms_w)


def driven_by(book: Book, link: SpeakerLink, letter: str = "") -> Driven | None:
    """What a speaker link leads to; None for an unknown one."""
    design, name = book.design, link.to_id
    sub = next((s for s in design.parts_of(Subwoofer) if s.id == name), None)
    if sub is not None and link.coils:
        return _some_coils(book, sub, link, letter)
    if sub is not None:
        terms = (book.part(sub, lambda it: it.coils, "voice coils"),)
        return Driven(
            sub.id,
            at(sub),
            sub.name,
            sub_coils(sub, letter),
            sub.power_rms_w,
            sub.sensitivity_db,
            terms,
            _takes(book, sub),
            True,
        )
    speaker = next((s for s in design.vehicle.speakers if s.id == name), None)
    if speaker is None:
        return None
    new = new_driver(design, name)
    if new is not None:
        terms = (book.part(new, lambda it: it.impedance_ohm, f"{speaker.name}, new driver", "ohm"),)
        return Driven(
            name,
            at(new),
            f"{new.name}, {speaker.name.lower()}",
            (driver_coil(new, letter or "1"),),
            new.power_rms_w,
            new.sensitivity_db,
            terms,
            _takes(book, new),
            place=speaker.name.lower(),
            part=new.name,
        )
    return _factory_speaker(book, speaker, letter)


COILS_TAKE = Formula("RMS power some coils take", "w", "P × coils / coils of the driver", lambda p, n, of: p * n / of)


def _some_coils(book: Book, sub: Subwoofer, link: SpeakerLink, letter: str) -> Driven:
    """A driver by those of its coils that hang on one output: its rating shared among its coils."""
    coils = tuple(coil for n, coil in enumerate(sub_coils(sub, letter), 1) if n in link.coils)
    rated = _takes(book, sub)
    chosen = fixed("coils on this output", float(len(coils)), path=at(link, lambda it: it.coils))
    all_coils = reference("coils of the driver", float(len(sub.coils)), "", PHYSICS)
    takes = book.figure(
        f"{link.id}/takes_w", COILS_TAKE, rated, chosen, all_coils, name=f"{sub.name}, RMS power these coils take"
    )
    terms = (book.part(sub, lambda it: it.coils, "voice coils"),)
    numbers = listed([str(n) for n in link.coils if n <= len(sub.coils)])
    name = f"{sub.name}, coil {numbers}"
    return Driven(sub.id, at(sub), name, coils, takes.value, sub.sensitivity_db, terms, takes.term, True)


def _takes(book: Book, part: Subwoofer | Driver) -> Term:
    return book.part(part, lambda it: it.power_rms_w, f"{part.name}, RMS power", "w")


def _factory_speaker(book: Book, speaker: Speaker, letter: str) -> Driven:
    nominal = speaker.impedance_ohm.value
    term = book.fact(speaker, lambda it: it.impedance_ohm, f"{speaker.name}, nominal impedance", "ohm")
    reads_ohm = speaker.dc_resistance_ohm.value or DC_TYPICAL * (nominal or 0.0)
    coils = (Coil(letter or "1", nominal, reads_ohm, speaker.takes_w.value),) if nominal else ()
    takes = book.fact(speaker, lambda it: it.takes_w, f"{speaker.name}, RMS power it takes", "w")
    return Driven(speaker.id, at(speaker), speaker.name, coils, speaker.takes_w.value, None, (term,), takes)


def channels_in_use(design: Design) -> Iterator[tuple[Amplifier, tuple[SpeakerLink, ...]]]:
    """Every output in use with the links on it, in the order of the links."""
    groups: dict[tuple[str, int], list[SpeakerLink]] = {}
    for link in design.links_of(SpeakerLink):
        groups.setdefault((link.from_id, link.channel), []).append(link)
    amplifiers = {a.id: a for a in design.parts_of(Amplifier)}
    for (amplifier_id, _), links in groups.items():
        yield amplifiers[amplifier_id], tuple(links)


def through_nets(book: Book, driven: tuple[Driven, ...]) -> tuple[Driven, ...]:
    """What hangs on an output, with woofer and tweeter behind one crossover net as the one load it makes of them."""
    for net in book.design.parts_of(CrossoverNet):
        members = [d for d in driven if d.id in net.at_ids]
        if len(members) < 2:
            continue
        woofers = [d for d in members if not tweeter_at(book.design, d.id)] or members
        reads = [c.dc_resistance_ohm for d in woofers for c in d.coils]
        reads_ohm = 1 / sum(1 / ohm for ohm in reads) if reads and all(reads) else DC_TYPICAL * net.made_for_ohm
        takes = [d.takes for d in woofers if d.takes.value is not None and d.takes.value < net.rated_w]
        rated = book.part(net, lambda it: it.rated_w, f"{net.name}, RMS power", "w")
        least = min(takes, key=lambda term: term.value, default=rated)
        made = book.part(net, lambda it: it.made_for_ohm, f"{net.name}, made for", "ohm")
        sides = [parallel for those in (woofers, [d for d in members if d not in woofers])
                 if (parallel := _in_parallel_ohm(those)) is not None]  # fmt: skip
        known = all(d.coils for d in members)
        coil_ohm = min(sides) if known and sides else net.made_for_ohm  # each side is alone in its band
        coil = Coil(woofers[0].coils[0].name if woofers[0].coils else "1", coil_ohm, reads_ohm, least.value)
        terms = tuple(term for d in members for term in d.terms) if known else (made,)
        names = listed([d.name for d in members])
        one = Driven(
            members[0].id, at(net), f"{names} through {net.name}", (coil,), least.value, woofers[0].sensitivity_db,
            terms, least, through_net=tuple(d.id for d in members),
        )  # fmt: skip
        driven = tuple(one if d is members[0] else d for d in driven if d is members[0] or d not in members)
    return driven


def _in_parallel_ohm(driven: Sequence[Driven]) -> float | None:
    """What some speakers come to in parallel [ohm]; None for none of them."""
    ohms = [coil.impedance_ohm for one in driven for coil in one.coils]
    return 1 / sum(1 / ohm for ohm in ohms) if ohms else None
