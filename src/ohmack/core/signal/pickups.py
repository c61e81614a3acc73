"""What arrives at a place the signal could be taken from: band, level and what it means in watts, what to sum, when
it distorts.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import combinations

from ohmack.core.document import Design
from ohmack.core.document.factory import Band, ChannelPlace, Module, Radio, RadioChannel, StatedAs, Tier
from ohmack.core.document.interventions import radio_there
from ohmack.core.document.links import TapLink
from ohmack.core.factory.pickup_places import Pickup, pickups
from ohmack.core.physics.signal_chain import rms_from
from ohmack.core.record import record
from ohmack.core.wording import amount, listed, trimmed

SPEAKER_OHM = 4.0  # what level classes are stated for
PLAIN_CLASS_V, AMPLIFIED_CLASS_V = (
    9.0,
    40.0,
)  # input classes of converters for plain radios and amplified systems, common practice
CLASS_LIMIT_V = 12.0  # above it a converter for plain radios is overdriven


@record
class TapDetails:
    """One place in figures and words."""

    band: str
    level: str
    input_class_v: float | None
    power_w: float | None
    summing: str
    distorts: str
    check: str


def input_class_v(voltage_v: float) -> float:
    """The converter input class a level belongs to.

    Parameters:
        voltage_v: rms at the last clean step [v].

    Returns:
        9 or 40 [v].

    Source: common practice.
    """
    return PLAIN_CLASS_V if voltage_v <= CLASS_LIMIT_V else AMPLIFIED_CLASS_V


def meant_power_w(voltage_v: float, impedance_ohm: float = SPEAKER_OHM) -> float:
    """The power a voltage means into a load: 9 V rms is 20 W into 4 ohm, 9 V peak 10 W.

    Parameters:
        voltage_v: rms [v].
        impedance_ohm: load [ohm].

    Returns:
        power [w].

    Formula: V² / Z.

    >>> round(meant_power_w(9.0), 1), round(meant_power_w(9.0 / 2**0.5), 1)
    (20.2, 10.1)
    """
    return voltage_v * voltage_v / impedance_ohm


def _bands(source: Radio | Module) -> tuple[str, str]:
    """(what arrives, what has to be summed)."""
    known = [c for c in source.channels if c.band.value is not None]
    if not known:
        return "not known yet", "trace the bands first: sum only what is complementary, and check the phase"
    bands = {c.band.value for c in known}
    if bands == {Band.FULL}:
        return "full range", "left and right for a subwoofer; nothing else"
    names = listed(sorted({c.band.value.value for c in known if c.band.value}))
    full = [c.name for c in known if c.band.value is Band.FULL and c.place is not ChannelPlace.CENTRE]
    if full:
        return names, f"{listed(full)} alone carry everything: nothing to sum"
    sided = [c for c in known if c.place is not ChannelPlace.CENTRE]  # a centre in a stereo pair combs
    low = [c for c in sided if c.band.value and c.band.value.has_bass]
    high = [c for c in sided if c.band.value and not c.band.value.has_bass]
    beside = [c for c in high if c.place in {one.place for one in low}] or high
    if low and beside:
        bass, rest = listed([c.name for c in low]), listed([c.name for c in beside])
        return names, f"for bass alone {bass}; for the full range add {rest}, side by side, phase checked"
    return names, (
        (f"{low[0].name} alone, nothing to sum" if len(low) == 1 else listed([c.name for c in low]))
        if low
        else "there is no bass in it, nothing to sum"
    )


def whole_range(source: Radio | Module, inputs: int) -> tuple[RadioChannel, ...]:
    """The pairs that carry the whole range left and right, as few as will do.

    Parameters:
        source: the radio or the factory amplifier.
        inputs: pairs that may be picked up.

    Returns:
        full-range pairs, the front's first; else bands of one axle side by side that add up and do not overlap; none
        where they do not, or are more than the inputs take.

    Source: common practice: sum only what is complementary.
    """
    for ends in ((ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT),
                 (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT)):  # fmt: skip
        found = complete_pairs(source, ends)
        if found and len(found) <= inputs:
            return found
    return ()


def complete_pairs(source: Radio | Module, places: Iterable[ChannelPlace | None]) -> tuple[RadioChannel, ...]:
    """The fewest pairs of an output that carry the whole range at each of some places; none where one place lacks
    some of it.
    """
    found = [_complementary([c for c in source.channels if c.place is place]) for place in dict.fromkeys(places)]
    return tuple(c for pairs in found for c in pairs) if all(found) else ()


def _complementary(channels: list[RadioChannel]) -> tuple[RadioChannel, ...]:
    """The fewest of some pairs of one place that carry everything once; none where no such are there."""
    known = [(c, c.band.value.carries) for c in channels if c.band.value is not None]
    for many in range(1, len(known) + 1):
        for some in combinations(known, many):
            if sum(len(carried) for _, carried in some) == len(frozenset().union(*(b for _, b in some))) == 3:
                return tuple(c for c, _ in some)
    return ()


def tap_details(design: Design, pickup: Pickup) -> TapDetails:
    """What arrives at a place.

    Parameters:
        design: the design.
        pickup: one of the places.

    Returns:
        band, level with its class and watts, summing, the step it distorts from, and how to check it.

    Source: common practice; the power by V² / Z.
    """
    line, vehicle = "line" in pickup.name, design.vehicle
    source = next((s for s in vehicle.sources if s.id == pickup.source_id), vehicle.radio)
    band, summing = _bands(source)
    clean = source.clip_step.value
    distorts = f"after step {clean}" if clean else "not found yet: raise the step until it distorts"
    check = "Tone sweep at three volume steps into an analyser; 1 kHz and 50 Hz at 0 dBFS for the level."
    if radio_there(design).tier.value is Tier.NONE or not pickup.usable:
        return TapDetails("–", "–", None, None, pickup.words, "–", "")
    stated_v = source.source_voltage_v.value
    if line:
        return TapDetails(band, pickup.level or "line level", None, None, "left and right line pairs", distorts, check)
    if stated_v is None:
        return TapDetails(band, f"{pickup.level}, not measured", None, None, summing, distorts, check)
    rms_v = rms_from(stated_v, source.source_stated_as.value)
    stated = "" if source.source_stated_as is StatedAs.RMS else f" (stated as {trimmed(stated_v)} V peak)"
    return TapDetails(
        band,
        f"{amount(rms_v, 'v')} rms{stated}, {source.source_voltage_v.basis.word.lower()}",
        input_class_v(rms_v),
        meant_power_w(rms_v),
        summing,
        distorts,
        check,
    )


def same_places_elsewhere(
    design: Design, tap: TapLink, low_v: float, high_v: float, inputs: int
) -> tuple[Radio | Module, list[str]] | None:
    """Where else the signal of a pickup can be had at a level an input takes.

    Parameters:
        design: the design.
        tap: the pickup.
        low_v, high_v: what the input wants and takes, rms [v].
        inputs: pairs it has room for.

    Returns:
        the next best output that gives as much, and its pairs for the same places, all bands of them where there is
        room; None where there is none.
    """
    vehicle = design.vehicle
    here = vehicle.source_of(tap.from_ids[0])
    places = [c.place for c in here.channels if c.id in tap.from_ids]
    for pickup in pickups(design):
        output = next((s for s in vehicle.sources if s.id == pickup.source_id and s is not here), None)
        if output is None or not pickup.usable or output.source_voltage_v.value is None:
            continue
        level_v = rms_from(output.source_voltage_v.value, output.source_stated_as.value)
        bass = [c for c in output.channels if c.band.value is None or c.band.value.has_bass]
        pairs = [next((c.id for c in bass if c.place is place), None) for place in places]
        if low_v <= level_v <= high_v and None not in pairs:
            whole = [c.id for c in complete_pairs(output, places)]
            return output, whole if 0 < len(whole) <= inputs else [name for name in pairs if name is not None]
    return None
