"""Which pairs a converter, a processor or an amplifier is tapped from, and how."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, Module, Radio, RadioChannel
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, Pickup, SpeakerLink, TapLink
from ohmack.core.document.parts import Converter, Driver
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.factory.pickup_places import pickups
from ohmack.core.loads.corners import corner_of
from ohmack.core.signal.pickups import whole_range

ENDS = ("front", "rear")


def is_tapped(design: Design, part_id: str) -> bool:
    """Whether a pair of the radio goes straight into a part."""
    return any(tap.to_id == part_id for tap in design.links_of(TapLink))


def best_channels(design: Design) -> tuple[Radio | Module, tuple[RadioChannel, ...]]:
    """Where a signal is best picked up under the chosen way, and the pairs there that carry bass as far as known."""
    vehicle = design.vehicle
    behind = design.strategy is StrategyKey.AFTER_AMPLIFIER
    usable = [p.source_id for p in pickups(design) if p.usable]
    wanted = [name for name in usable if name != vehicle.radio.id] if behind else usable
    best = next(iter(wanted or usable), vehicle.radio.id)
    output = next((s for s in vehicle.sources if s.id == best and s.channels), vehicle.radio)
    low = tuple(c for c in output.channels if c.band.value is None or c.band.value.has_bass)
    return output, low or output.channels


def _all_full(output: Radio | Module) -> bool:
    """Whether no pair is known to carry a part of the range only."""
    return all(c.band.value in (None, Band.FULL) for c in output.channels)


def _axles(design: Design, converter: Converter) -> tuple[str, ...]:
    """Whose pairs a converter takes: those of the ends of the car where new speakers go, the front ones first; before
    any are picked a processor takes all; the rear ones, which most radios leave fuller in the bass, where there is a
    subwoofer alone. Source: common practice.
    """
    spots = [corner_of(design, spot).axle for driver in design.parts_of(Driver) for spot in driver.at_ids]
    ends = tuple(axle for axle in ENDS if axle in spots)
    return ends or (ENDS if converter.kind == "processor" else ("rear",))


def _of(channels: tuple[RadioChannel, ...], axles: tuple[str, ...]) -> list[str]:
    """The pairs of some ends of the car; all of them where none is."""
    wanted = [c.id for axle in axles for c in channels if c.place is not None and c.place.axle == axle]
    return wanted or [c.id for c in channels]


def tap_from(design: Design, output: Radio | Module, names: list[str], to_id: str) -> dict[str, Any]:
    """The link without an id that takes pairs of an output into a part, on a plug where an adapter for it is made."""
    at_radio = output is design.vehicle.radio  # no adapter is sold for an amplifier's plug, nor one nobody knows
    whole = design.vehicle.has_known_plug if at_radio else design.intake.reversible
    method = Pickup.PLUG_ADAPTER if whole else Pickup.SPLICE
    return {"kind": "tap", "from_ids": names, "to_id": to_id, "method": method.value}


def converters_tap(design: Design, converter: Converter) -> dict[str, Any] | None:
    """The pickup of a converter or a processor.

    Parameters:
        design: the design.
        converter: it.

    Returns:
        the link without an id; None where there is no pair.
    """
    output, channels = best_channels(design)
    if not channels:
        return None
    axles = _axles(design, converter)
    names = _of(channels, axles)[: min(2 * len(axles), converter.input_pairs)]
    if (converter.kind == "processor" or any(design.parts_of(Driver))) and not _all_full(output):
        names = [c.id for c in whole_range(output, converter.input_pairs)] or names
    return tap_from(design, output, names, converter.id)


def amplifiers_tap(design: Design, amplifier: Amplifier, speakers: list[dict[str, Any]]) -> dict[str, Any] | None:
    """The pickup of an amplifier that takes speaker level, where no converter and no line output is there.

    Parameters:
        design: the design.
        amplifier: it.
        speakers: its speaker links that are being laid, as trees.

    Returns:
        the link without an id, from the pairs of the ends its speakers are at, of both before any are
        picked for more than two channels; those of the rear for a subwoofer alone, as most radios leave them fuller in
        the bass; None where it takes no speaker level, a converter is in
        the plan, or nothing can be picked up.

    Source: common practice.
    """
    usable = any(p.usable for p in pickups(design))
    if not amplifier.takes_speaker_level or not usable or any(design.parts_of(Converter)):
        return None
    output, channels = best_channels(design)
    if not channels:
        return None
    laid = {link.to_id for link in design.links_of(SpeakerLink) if link.from_id == amplifier.id}
    driven = laid | {tree["to_id"] for tree in speakers}
    at = {corner_of(design, speaker.id).axle for speaker in design.vehicle.speakers if speaker.id in driven}
    axles = tuple(axle for axle in ENDS if axle in at) or (ENDS if amplifier.channels > 2 else ("rear",))
    most = max(2, amplifier.channels)
    names = _of(channels, axles)[:most]
    if amplifier.processor and not _all_full(output):  # it sums what the works parted
        names = [c.id for c in whole_range(output, most)] or names
    return tap_from(design, output, names, amplifier.id)


def tapped_anew(design: Design, amplifier: Amplifier, speakers: list[dict[str, Any]]) -> tuple[Edit, ...]:
    """Edits that take an amplifier's pickup from the pairs of all ends it plays at, once it plays at more of them.

    Parameters:
        design: the design, before the new speaker links.
        amplifier: it.
        speakers: the speaker links that are being laid, as trees.

    Returns:
        the edit; none where its pickup lies in the car, or is none of its own.
    """
    tap = next((k for k in design.links_of(TapLink) if k.to_id == amplifier.id and not k.in_car), None)
    wanted = amplifiers_tap(design, amplifier, speakers) if tap is not None else None
    if tap is None or wanted is None or set(wanted["from_ids"]) == set(tap.from_ids):
        return ()
    return (Edit(path=at(tap, lambda it: it.from_ids), value=wanted["from_ids"]),)


def taps_anew(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that take pickups from the pairs that suit what plays now, where they were what suited what played before.

    Parameters:
        before: the design before some parts were added.
        after: the design with them, wired.

    Returns:
        the edits; none for a pickup somebody chose, one that lies in the car, or one whose pairs a processor sets lines
        to.
    """
    edits = []
    chosen = {line.from_id for line in after.links_of(LineLink) if line.input_ids}
    for tap in after.links_of(TapLink):
        was, now = _suits(before, tap.to_id), _suits(after, tap.to_id)
        new = before.part(tap.to_id) is None
        ours = new or (was is not None and set(was) == set(tap.from_ids))
        ours = ours and not tap.in_car and tap.to_id not in chosen
        if ours and now is not None and set(now) != set(tap.from_ids):
            edits.append(Edit(path=at(tap, lambda it: it.from_ids), value=now))
    return tuple(edits)


def _suits(design: Design, part_id: str) -> list[str] | None:
    """The pairs a part of the plan would be picked up from; None where it would not be."""
    part = design.part(part_id)
    if isinstance(part, Converter):
        found = converters_tap(design, part)
    else:
        found = amplifiers_tap(design, part, []) if isinstance(part, Amplifier) else None
    return None if found is None else found["from_ids"]
