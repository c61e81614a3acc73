"""Speakers behind a pad, and tweeters against their woofers behind a crossover net: loads and levels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import log10

from ohmack.core.document import Design
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.small_parts import CrossoverNet, SpeakerPad
from ohmack.core.document.vehicle import Speaker
from ohmack.core.figures.figure import Book, Figure, Formula, Term
from ohmack.core.loads.driven import Driven
from ohmack.core.physics.pads import l_pad_ohm, padded_level_db, padded_load_ohm, shares_through_pad
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS


def _takes_w(takes_w: float, rated_w: float, *ohms: float) -> float:
    """The power into a pad and its speaker at which the speaker, or the pad's hotter resistor, has what it takes."""
    speaker, resistor = shares_through_pad(*ohms)
    return min(takes_w / speaker, rated_w / resistor)


IN_LINE = Formula(
    "Its resistor in line", "ohm", "Z (1 − k), k = 10^(−A/20)", lambda off_db, made_ohm: l_pad_ohm(off_db, made_ohm)[0],
    PHYSICS,
)  # fmt: skip
ACROSS = Formula(
    "Its resistor across the speaker", "ohm", "Z k / (1 − k), k = 10^(−A/20)",
    lambda off_db, made_ohm: l_pad_ohm(off_db, made_ohm)[1], PHYSICS,
)  # fmt: skip
LOAD = Formula("Load through its pad", "ohm", "R_s + R_p ∥ Z", padded_load_ohm, PHYSICS)
LEVEL = Formula("Level through its pad", "db", "20 log₁₀(R_p ∥ Z / (R_s + R_p ∥ Z))", padded_level_db, PHYSICS)
TAKES = Formula(
    "RMS power its pad and it take", "w", "least of speaker ÷ its share, resistor ÷ its share", _takes_w, PHYSICS
)


def louder_by_db(
    small_db: float, woofer_db: float, small_ohm: float, woofer_ohm: float, net_db: float, *pad_db: float
) -> float:
    """How much louder a tweeter, or another small speaker, plays than a woofer at one voltage [db]: sensitivities at
    1 W, loads [ohm], what a net takes off [db], and what a pad does [db, below zero].
    """
    return small_db - woofer_db + 10 * log10(woofer_ohm / small_ohm) - net_db + sum(pad_db)


AGAINST = Formula(
    "Tweeter against its woofer", "db", "S_t − S_w + 10 log₁₀(Z_w / Z_t) − net − pad", louder_by_db, PHYSICS
)


@record
class Padded:
    """A speaker behind a pad."""

    pad: SpeakerPad
    resistors: tuple[Figure, Figure]  # in line, across
    load: Figure
    level: Figure


@record
class Crossed:
    """A tweeter and the woofer on its channel, behind one net; no level where a sensitivity is not on file."""

    net: CrossoverNet
    woofer: Speaker
    tweeter: Speaker
    level: Figure | None
    pad: SpeakerPad | None


def pad_before(design: Design, place_id: str) -> SpeakerPad | None:
    """The pad before the speaker in a place."""
    return next((pad for pad in design.parts_of(SpeakerPad) if place_id in pad.at_ids), None)


def through_pad(book: Book, place_id: str, name: str, ohm: Term) -> Padded | None:
    """What the pad before a speaker makes of its load and level; None without one.

    Parameters:
        book: the book of the design.
        place_id: the speaker's place.
        name: whose it is, in words.
        ohm: the speaker's nominal impedance [ohm].

    Returns:
        load [ohm] and level [db] through the pad. Source: circuit theory.
    """
    pad = pad_before(book.design, place_id)
    if pad is None:
        return None
    scope = f"{pad.id}/{place_id}"
    papers = (
        book.part(pad, lambda it: it.takes_off_db, f"{pad.name}: takes off", "db"),
        book.part(pad, lambda it: it.made_for_ohm, f"{pad.name}: made for", "ohm"),
    )
    in_line = book.figure(f"{pad.id}/in_line_ohm", IN_LINE, *papers, name=f"{pad.name}: resistor in line")
    across = book.figure(f"{pad.id}/across_ohm", ACROSS, *papers, name=f"{pad.name}: resistor across the speaker")
    load = book.figure(f"{scope}/load_ohm", LOAD, in_line, across, ohm, name=f"Load through {pad.name}, {name}")
    level = book.figure(f"{scope}/level_db", LEVEL, in_line, across, ohm, name=f"Level through {pad.name}, {name}")
    return Padded(pad, (in_line, across), load, level)


def padded(book: Book, driven: Driven) -> Driven:
    """What hangs on an output, seen through the pad before it; as it is without one, or where a coil is not known."""
    if len(driven.coils) != 1 or len(driven.terms) != 1:
        return driven
    behind = through_pad(book, driven.id, driven.name, driven.terms[0])
    if behind is None or behind.load.value is None:
        return driven
    pad, coil = behind.pad, driven.coils[0]
    resistors = behind.resistors[0].value, behind.resistors[1].value
    rated = book.part(pad, lambda it: it.rated_w, f"{pad.name}: its resistors take", "w")
    takes = book.figure(
        f"{pad.id}/{driven.id}/takes_w", TAKES, driven.takes, rated, *behind.resistors, driven.terms[0],
        name=f"RMS power {pad.name} and {driven.name} take",
    )  # fmt: skip
    share, _ = shares_through_pad(*resistors, coil.impedance_ohm)
    sensitivity_db = None if driven.sensitivity_db is None else driven.sensitivity_db + 10 * log10(share)
    reads_ohm = padded_load_ohm(*resistors, coil.dc_resistance_ohm)
    seen = replace(coil, impedance_ohm=behind.load.value, dc_resistance_ohm=reads_ohm, power_w=takes.value)
    return replace(
        driven, coils=(seen,), power_rms_w=takes.value, sensitivity_db=sensitivity_db, terms=(behind.load.term,),
        takes=takes.term,
    )  # fmt: skip


def compute_crossed(book: Book) -> list[Crossed]:
    """Every tweeter behind a crossover net with the woofer on the same channel, and how loud it plays against it.

    Parameters:
        book: the book of the design.

    Returns:
        one entry a tweeter that shares a channel with a woofer of the same net. Source: circuit theory, sensitivities
        by their makers at 1 W.
    """
    design = book.design
    new = {name: part for part in design.parts_of(Driver) for name in part.at_ids}
    channels = {link.to_id: (link.from_id, link.channel) for link in design.links_of(SpeakerLink)}
    found = []
    for net in design.parts_of(CrossoverNet):
        placed = [s for s in design.vehicle.speakers if s.id in net.at_ids and s.id in new]
        tweeters = [s for s in placed if new[s.id].role == "tweeter"]
        for tweeter in tweeters:
            woofer = _beside(tweeter, [s for s in placed if s not in tweeters], channels)
            if woofer is not None:
                found.append(_crossed(book, net, woofer, tweeter, new[woofer.id], new[tweeter.id]))
    return found


def _beside(tweeter: Speaker, woofers: Sequence[Speaker], channels: dict[str, tuple[str, int]]) -> Speaker | None:
    """The woofer on a tweeter's channel, of an amplifier or of the car."""

    def on(speaker: Speaker) -> object:
        return channels.get(speaker.id, speaker.channel_id)

    return next((w for w in woofers if on(w) is not None and on(w) == on(tweeter)), None)


def _crossed(
    book: Book, net: CrossoverNet, woofer: Speaker, tweeter: Speaker, low: Driver, high: Driver
) -> Crossed:  # fmt: skip
    pad = pad_before(book.design, tweeter.id)
    level = None
    if low.sensitivity_db is not None and high.sensitivity_db is not None:
        ohm = book.part(high, lambda it: it.impedance_ohm, f"{high.name}: nominal impedance", "ohm")
        terms = [
            book.part(high, lambda it: it.sensitivity_db, f"{high.name}: sensitivity", "db"),
            book.part(low, lambda it: it.sensitivity_db, f"{low.name}: sensitivity", "db"),
            ohm,
            book.part(low, lambda it: it.impedance_ohm, f"{low.name}: nominal impedance", "ohm"),
            book.part(net, lambda it: it.tweeter_pad_db, f"{net.name}: takes off the tweeter", "db"),
        ]
        behind = through_pad(book, tweeter.id, tweeter.name.lower(), ohm)
        terms += [behind.level.term] if behind is not None else []
        level = book.figure(
            f"{net.id}/{tweeter.id}/level_db", AGAINST, *terms, name=f"{tweeter.name} against {woofer.name.lower()}"
        )
    return Crossed(net, woofer, tweeter, level, pad)
