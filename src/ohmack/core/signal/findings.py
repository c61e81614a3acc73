"""Rules on the signal way and on switching on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import log10
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Module
from ohmack.core.document.grounding import NEVER_GROUND, ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import LineLink, Pickup, PowerLink, RemoteLink, TapLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit
from ohmack.core.document.vehicle import KeyState
from ohmack.core.figures.finding import Draft, Remedy, adding, find_part, note, rule, set_to, stop, watch
from ohmack.core.physics.baseline import standby_days
from ohmack.core.physics.geometry import Point, distance_to_run_m, length_beside_m, plan_length_m, point_at
from ohmack.core.physics.signal_chain import rms_from
from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.signal.pickups import same_places_elsewhere
from ohmack.core.signal.speaker_level import DirectInput
from ohmack.core.signal.ways import played_anew, tapped_source
from ohmack.core.supply.small_circuits import ConverterFeed
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

NEAR_ENDS_M = 0.6  # both cables must meet at the amplifier; that stretch does not count
SHEET = Source("the parts' data sheets", Grade.PRACTICE)
USUAL_AH = 60.0  # a car battery nobody read the label of, common practice
LEAST_DAYS = 21.0  # a parked car should start after three weeks, common practice


@rule("converter-overloaded", "signal", SHEET)
def converter_overloaded(results: Results) -> Iterator[Draft]:
    """The radio gives more than the converter's input takes."""
    for signal in results.signals:
        converter = signal.converter
        if converter is None:
            continue
        source_v = signal.figures["source"].value
        limit_v = rms_from(converter.input_limit_v, converter.input_stated_as)
        if source_v is not None and source_v > limit_v:
            yield stop(
                converter.id,
                f"{amount(source_v, 'v')} into a converter that takes {amount(limit_v, 'v')}",
                f"It clips before the volume's top. Top out at {amount(limit_v, 'v')} or use one made for higher"
                " levels.",
                find_part("Choose another converter", "converter"),
            )
        output_v = signal.figures["output"].value
        kept = converter.gain_kept_db is not None  # judged as such
        if output_v is not None and output_v > converter.output_limit_v * 1.0005 and not kept:
            yield stop(
                converter.id,
                "The converter's output clips even at its lowest gain",
                f"{amount(output_v, 'v')} against {amount(converter.output_limit_v, 'v')} clean.",
                find_part("Choose another converter", "converter"),
            )


@rule("speaker-level-input", "signal", SHEET)
def speaker_level_input(results: Results) -> Iterator[Draft]:
    """A pair goes straight into an input that takes less, or needs more, than it gives."""
    for entry in results.direct_inputs:
        source_v, limit_v = entry.source.value, entry.limit.value
        if source_v is None or limit_v is None:
            continue
        if source_v > limit_v:
            yield stop(
                entry.part.id,
                f"{amount(source_v, 'v')} into {entry.part.name}, which takes {amount(limit_v, 'v')}",
                "Its input clips before the volume's top, and may fail. Put a converter or a pad in, or take one made"
                " for higher levels.",
                _elsewhere(results.design, entry) or find_part("Choose another", entry.part.kind),
            )
        elif entry.lowest_v is not None and source_v < entry.lowest_v:
            yield watch(
                entry.part.id,
                f"{amount(source_v, 'v')} into {entry.part.name}, which wants {amount(entry.lowest_v, 'v')}",
                "Even at its most sensitive it does not reach full output.",
                _elsewhere(results.design, entry) or Remedy("See the ladder", sheet="signal"),
            )


def _elsewhere(design: Design, entry: DirectInput) -> Remedy | None:
    """The remedy that takes the same pairs from another output, at a level the input takes."""
    inputs = entry.part.channels if isinstance(entry.part, Amplifier) else len(entry.tap.from_ids)
    found = same_places_elsewhere(design, entry.tap, entry.lowest_v or 0.0, entry.limit.value or 0.0, inputs)
    if found is None:
        return None
    output, pairs = found
    by = at(entry.tap, lambda it: it.method)  # no adapter is sold for an amplifier's plug
    spliced = (set_to(by, Pickup.SPLICE.value),) if isinstance(output, Module) else ()
    where = "after" if isinstance(output, Module) else "at"
    return Remedy(f"Pick up {where} {output.name}", (set_to(at(entry.tap, lambda it: it.from_ids), pairs), *spliced))


STEP_DB = 1.0  # a step of a radio's volume near its top; common practice


@rule("sensitivity-out-of-range", "signal", SHEET)
def sensitivity_out_of_range(results: Results) -> Iterator[Draft]:
    """The sensitivity control cannot be set where it must be."""
    wanted = [
        (signal, figures, signal.way.span_of(channel))
        for signal in results.signals
        for channel, figures in ([(o.load.link.channel, o.figures) for o in signal.outputs] or [(1, signal.figures)])
        if "sensitivity" in figures
    ]
    for signal, figures, (low_v, high_v) in wanted:
        needed_v = figures["sensitivity"].value
        if needed_v is None or not high_v:
            continue
        full, clip = figures.get("full"), figures.get("clip")
        too_big = full is not None and clip is not None and full.value < clip.value * (1 - 1e-9)  # for what hangs on it
        span = f"{amount(low_v, 'v')} to {amount(high_v, 'v')}"
        past_db = 20 * log10(needed_v / high_v)
        if past_db > 0.1 and isinstance(signal.amplifier, Amplifier) and signal.amplifier.processor:
            yield note(
                signal.amplifier.id,
                f"Sensitivity would have to be {amount(needed_v, 'v')}; the control spans {span}",
                f"Fully down it is driven {past_db:.1f} dB past its target: set the channel's level that much lower in"
                f" the processor of {signal.amplifier.name}.",
                Remedy("See the ladder", sheet="signal"),
            )
        elif 0.1 < past_db <= STEP_DB:
            yield watch(
                signal.amplifier.id,
                f"Sensitivity would have to be {amount(needed_v, 'v')}; the control spans {span}",
                f"Fully down it is driven {past_db:.1f} dB past its target at the top of the volume: agree on one step"
                " less, or lower the level before it.",
                Remedy("See the ladder", sheet="signal"),
            )
        elif past_db > STEP_DB:
            yield stop(
                signal.amplifier.id,
                f"Sensitivity would have to be {amount(needed_v, 'v')}; the control spans {span}",
                "Even fully down the amplifier is driven past its target. Lower the level before it"
                + (", or take one nearer to what its speakers take." if too_big else "."),
                find_part("Find an amplifier that suits", "amplifier", signal.amplifier.id)
                if too_big
                else Remedy("See the ladder", sheet="signal"),
            )
        elif needed_v < low_v * 0.99:
            yield watch(
                signal.amplifier.id,
                f"Sensitivity would have to be {amount(needed_v, 'v')}; the control spans {span}",
                "Even fully up the amplifier does not reach its target. A converter with more gain does.",
                Remedy("See the ladder", sheet="signal"),
            )


@rule("bridged-output-grounded", "plan", PRACTICE)
def bridged_output_grounded(results: Results) -> Iterator[Draft]:
    """A bridged output's negative is tied to body."""
    for tap in results.design.links_of(TapLink):
        source = tapped_source(results.design, tap)
        unit = played_anew(results.design, source)
        bridged = source.bridged.value if unit is None else True  # as in every radio of today
        if tap.negative_to_body and bridged is not False:
            yield stop(
                tap.id,
                "Never ground a bridged output's negative",
                "Each leg carries about half the battery voltage; tied to body it kills the output stage of"
                f" {(unit or source).name}." + ("" if bridged else " Whether the outputs are bridged is not known."),
                Remedy(
                    f"Take the negatives from {(unit or source).name}",
                    (set_to(at(tap, lambda it: it.negative_to_body), False),),
                ),
            )


@rule("power-beside-signal", "plan", PRACTICE)
def power_beside_signal(results: Results) -> Iterator[Draft]:
    """A signal cable runs beside the power wire."""
    separation_m = results.design.policy.separation_m
    for power in results.design.links_of(PowerLink):
        power_points = results.runs[power.id].points
        for signal in results.design.links_of(LineLink):
            points = results.runs[signal.id].points
            if not power_points or not points or separation_m <= 0:
                continue
            beside_m = length_beside_m(points, power_points, separation_m)
            for end in (points[0], points[-1]):
                if distance_to_run_m(end, power_points) < separation_m:
                    beside_m -= NEAR_ENDS_M
            if beside_m > 0.3:
                yield watch(
                    signal.id,
                    f"{results.runs[signal.id].end_name}: its signal beside power for {results.say(beside_m, 'm')}",
                    f"Nearer than {results.say(separation_m, 'm')}: whine and clicks come in there."
                    f" {_kept_apart(points, power_points)}",
                    Remedy("Move the run", path=at(signal)),
                )


def _halfway(points: Sequence[Point]) -> Point:
    return point_at(points, plan_length_m(points) / 2)


def _kept_apart(signal: Sequence[Point], power: Sequence[Point]) -> str:
    """How a signal run gets away from a power run: to the other side, or where it lies there already, square over."""
    over = _halfway(power)[1] > 0
    if (_halfway(signal)[1] > 0) is not over:
        return "It comes down the other side already: cross the power at a right angle, and keep apart up to its plug."
    return f"Run it down the other side, the car's {'left' if over else 'right'}."


@rule("converter-feed-states", "plan", PRACTICE)
def converter_feed_states(results: Results) -> Iterator[Draft]:
    """A part's feed is not constant, a radio's second one is dead when it is to play, or there is no ground."""
    constant = {feed.part.id for feed in results.feeds if KeyState.ASLEEP in (feed.feed.live.value or ())}
    grounded = {feed.part.id for feed in results.feeds if feed.link.ground_point_id is not None}
    for feed in results.feeds:
        if (
            isinstance(feed.part, HeadUnit)
            and feed.part.id in constant
            and KeyState.ASLEEP not in (feed.feed.live.value or ())
        ):
            yield from _on_the_key(feed)  # its second feed; it is grounded by the first
            continue
        states = feed.feed.live.value
        if isinstance(feed.part, Accessory):
            pass  # whatever it is, it may well want to go off with the key
        elif states is None:
            yield stop(
                feed.feed.id,
                f"Not known: when {feed.feed.name} is live",
                "An active converter wants constant 12 V.",
                Remedy("Enter it", path=at(feed.feed, lambda it: it.live)),
            )
        elif KeyState.CRANKING not in states or KeyState.ASLEEP not in states:
            yield watch(
                feed.feed.id,
                f"{feed.part.name} is not on constant 12 V",
                "It pops or loses its settings when the feed drops out. Take a constant feed with its own fuse.",
                Remedy("Choose another feed", path=at(feed.link, lambda it: it.from_id)),
            )
        if feed.part.id not in grounded:
            yield stop(
                feed.part.id,
                f"{feed.part.name} has no ground",
                "Give it a ground point; the radio's own ground bolt is the usual one.",
                _grounding(results, feed),
            )


def _grounding(results: Results, feed: ConverterFeed) -> Remedy:
    """A press that grounds what hangs on a feed at the nearest point."""
    path, part = at(feed.link, lambda it: it.ground_point_id), feed.part
    near = ground_for(results.design, getattr(part, "position", None) or results.design.vehicle.radio.position)
    if near is None or near.kind.value in NEVER_GROUND:
        return Remedy("Choose a point", path=path)
    return Remedy(f"Ground it at {near.name}", (set_to(path, near.id),))


def _on_the_key(feed: ConverterFeed) -> Iterator[Draft]:
    """The feed that only wakes a new radio is live when it is to play."""
    states, path = feed.feed.live.value, at(feed.feed, lambda it: it.live)
    if states is None:
        yield stop(
            feed.feed.id,
            f"Not known: when {feed.feed.name} is live",
            f"It switches {feed.part.name} on. Read it in every position of the key.",
            Remedy("Enter it", path=path),
        )
    elif not {KeyState.ACCESSORY, KeyState.ON} <= set(states):
        dead = "with the key on" if KeyState.ON not in states else "in accessory"
        yield (stop if KeyState.ON not in states else watch)(
            feed.feed.id,
            f"{feed.feed.name} is dead {dead}: {feed.part.name} stays off",
            "It is switched on by that lead. Take one that is live when the radio is to play.",
            Remedy("Choose another feed", path=at(feed.link, lambda it: it.from_id)),
        )


@rule("stays-awake", "plan", PRACTICE)
def stays_awake(results: Results) -> Iterator[Draft]:
    """A converter on constant 12 V that neither hears the music nor is switched draws its current day and night."""
    design = results.design
    switched = {link.to_id for link in design.links_of(RemoteLink)}
    capacity_ah = design.vehicle.supply.batteries[0].capacity_ah.value
    for feed in results.feeds:
        part, states = feed.part, feed.feed.live.value
        if (
            not isinstance(part, Converter)
            or part.senses_audio
            or part.id in switched
            or not states
            or KeyState.ASLEEP not in states
        ):
            continue
        if not part.supply_current_a:
            continue
        days = standby_days(capacity_ah or USUAL_AH, part.supply_current_a)
        draft = stop if days < LEAST_DAYS else watch
        usual = "" if capacity_ah else f", taking {USUAL_AH:.0f} Ah"
        source = next(
            (
                f
                for f in design.vehicle.feeds
                if f.live.value and KeyState.ASLEEP not in f.live.value and KeyState.ON in f.live.value
            ),
            None,
        )
        link = {
            "id": f"remote-{part.id}",
            "kind": "remote",
            "from_id": source.id if source else "",
            "to_id": part.id,
        }
        yield draft(
            part.id,
            f"{part.name} never sleeps: {results.say(part.supply_current_a, 'a')} day and night,"
            f" {part.supply_current_a * 24:.1f} Ah a day",
            "It is fed from constant 12 V, does not hear the music and is switched by nothing. Standing, the battery"
            f" lasts about {days:.0f} days{usual}.",
            (
                Remedy(f"Switch it by {source.name}", (adding(at_the(Design, lambda it: it.links), link),))
                if source
                else find_part("Choose another converter", "converter")
            ),
        )
