"""Where a signal can be picked up in the factory system, the cleanest place first."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.factory import Level, Module, Radio, Tier
from ohmack.core.document.interventions import radio_there, silenced_before, unit_there
from ohmack.core.figures.figure import Book, Figure, Reading, Term
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import amount

PICKUP = Reading(
    "Best signal pickup", "", "cleanest full-range place first, then level, then what must be summed",
    lambda places: next((p.name for p in places if p.usable), "nowhere, add a source"), PRACTICE,
)  # fmt: skip
TAKEN_OVER = "an earlier job put another in its place"
# What the lines of a works radio to its amplifier reach; common practice, no source.
LINE_OUTPUT: dict[str, Any] = {"value": 2.0, "basis": "assumed", "low": 0.5, "high": 5.0}


@record
class Pickup:
    """One place the signal could be taken from, with what speaks for and against it; the lower the better."""

    source_id: str
    name: str
    usable: bool
    badness: int
    level: str
    words: str


def _module_pickup(module: Module, silent: bool) -> Pickup:
    bad, words = 10, ["after the factory amplifier, up to 40 V"]
    bands = {channel.band.value for channel in module.channels} - {None}
    if module.fitted.value is False:
        return Pickup(module.id, module.name, False, 99, "", "it is not fitted")
    if silent:
        return Pickup(module.id, module.name, False, 98, "", TAKEN_OVER)
    if module.band_split.value or module.pairs_split:
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
    elif module.equalised.value is None:
        bad += 7  # what nobody knows is no better than what is known
        words.append("nobody knows whether it equalises")
    if module.load_sensing.value:
        bad += 4
        words.append("senses its load: keep the speakers or put load resistors in")
    return Pickup(module.id, module.name, True, bad, "up to 40 V", "; ".join(words))


def plays_from_lines(design: Design) -> bool:
    """Whether line outputs of the radio that stays are on file, which an amplifier is best played from."""
    radio = radio_there(design)
    return radio.tier.value is Tier.AFTERMARKET and bool(radio.line_pairs.value)


def _lines_of(radio: Radio) -> list[Pickup]:
    """The line outputs of a radio that was fitted later: best where it has some, worth a look where nobody counted."""
    pairs, line_v = radio.line_pairs.value, radio.line_v.value
    level = amount(line_v, "v") if line_v else "2 to 5 V"
    if pairs:
        return [Pickup("radio", "Radio, line outputs", True, 0, level, "made for it: full range, flat, clean")]
    if pairs is None:
        return [Pickup("radio", "Radio, line outputs", True, 5, level, "the best of all, if it has any: count them")]
    return []


def pickups(design: Design) -> tuple[Pickup, ...]:
    """Every place a signal could be picked up in a car, the best first.

    Parameters:
        design: the design.

    Returns:
        the ranked list; unusable places last, each with its reason.

    Source: common practice.
    """
    vehicle, radio = design.vehicle, radio_there(design)
    tier = radio.tier.value
    amplifiers = [m for m in vehicle.modules if m.amplifies and m.fitted.value is not False]
    silent = silenced_before(design)
    found = [_module_pickup(m, m.id in silent) for m in vehicle.modules if m.amplifies and m.channels]
    if tier is Tier.NONE:
        found.append(Pickup("radio", "Radio", False, 90, "", "there is no radio: a source has to be added"))
    elif tier is Tier.RING:
        found.append(Pickup("radio", "Radio", False, 80, "", "the audio leaves over a digital or optical ring"))
    elif tier is Tier.AFTERMARKET:
        found += _lines_of(radio)
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
    unit = unit_there(book.design)
    if unit is not None and radio_there(book.design) is not vehicle.radio:
        traits.append(book.part(unit, lambda it: it.line_pairs, "line output pairs"))
    if tier.value is Tier.AFTERMARKET:
        pairs = book.fact(vehicle.radio, lambda it: it.line_pairs, "line output pairs")
        traits += [pairs] if pairs.value is not None else []
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
    return book.reading("pickup", PICKUP, pickups(book.design), tier, *traits)
