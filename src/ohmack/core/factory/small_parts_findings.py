"""Rules on crossover nets, load resistors and line isolators: whether they are somewhere, and whether they stand it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink
from ohmack.core.document.small_parts import CrossoverNet, LineIsolator, LoadResistor
from ohmack.core.document.vehicle import Speaker
from ohmack.core.figures.finding import Draft, Remedy, rule, stop, watch
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import amount, listed, lowered, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FAR_OHM = 1.25  # a net made for a load this many times another one crosses over elsewhere, common practice
LOWEST_HZ = 25.0  # an isolator that gives out above this takes bass from a subwoofer, common practice


@rule("crossover-net", "loads", PRACTICE)
def crossover_net(results: Results) -> Iterator[Draft]:
    """A net parts nothing, is made for another load, or takes less than the channel gives."""
    vehicle, drives = results.design.vehicle, {drive.speaker.id: drive for drive in results.drives}
    for net in results.design.parts_of(CrossoverNet):
        placed = [s for s in vehicle.speakers if s.id in net.at_ids]
        tweeters = [s for s in placed if drives[s.id].tweeter]
        if len(placed) < 2 or not tweeters or len(tweeters) == len(placed):
            yield stop(
                net.id,
                f"{net.name} parts nothing",
                "It goes between one channel and a woofer with its tweeter: say which speakers those are.",
                Remedy("Say where", path=at(net)),
            )
            continue
        other: dict[float, list[Speaker]] = {}  # woofers it is not made for, by what they have
        for speaker in (s for s in placed if s not in tweeters):
            driver = drives[speaker.id].driver
            ohm = getattr(driver, "impedance_ohm", None) or speaker.impedance_ohm.value
            if ohm is not None and not 1 / FAR_OHM <= ohm / net.made_for_ohm <= FAR_OHM:
                other.setdefault(ohm, []).append(speaker)
        for ohm, speakers in other.items():
            have = f"{'have' if len(speakers) > 1 else 'has'} {trimmed(ohm)} Ω"
            yield watch(
                f"{net.id}/{speakers[0].id}",
                f"{net.name} is made for {trimmed(net.made_for_ohm)} Ω, {listed([lowered(s.name) for s in speakers])}"
                f" {have}",
                "Its crossover moves by as much, and woofer and tweeter overlap or leave a gap.",
                Remedy("Look at the part", path=at(net)),
            )
        for load in results.loads:
            given_w = load.power.value
            through = at(net) in {driven.path for driven in load.driven}
            if through and given_w is not None and given_w > net.rated_w * results.design.policy.match_high:
                yield watch(
                    f"{net.id}/{load.scope}",
                    f"{load.channel_name} gives {amount(given_w, 'w')}, {net.name} takes {amount(net.rated_w, 'w')}",
                    "Its coils and resistors overheat. Take a larger one, or set the gain for what it takes.",
                    Remedy("Look at the part", path=at(net)),
                )


@rule("load-resistor", "loads", PHYSICS)
def load_resistor(results: Results) -> Iterator[Draft]:
    """A load resistor is across nothing, or gets more than it takes."""
    for part in results.design.parts_of(LoadResistor):
        if not part.at_ids:
            yield stop(
                part.id,
                f"{part.name} is across nothing",
                "It stands in for a speaker that was taken off a pair: say which pair.",
                Remedy("Say where", path=at(part)),
            )
        heats = [
            (heat.value, channel)
            for channel in results.design.vehicle.channels
            if (heat := results.book.figures.get(f"{part.id}/{channel.id}/heat_w")) is not None and heat.value
        ]
        worst_w, channel = max(heats, key=lambda pair: pair[0], default=(0.0, None))
        if channel is not None and worst_w > part.rated_w:
            yield stop(
                part.id,
                f"{part.name} would turn {amount(worst_w, 'w')} into heat, it takes {amount(part.rated_w, 'w')}",
                f"Across {channel.name.lower()} at the last clean step. Take one that takes more, on bare metal and"
                " clear of carpet: it gets hot enough to burn.",
                Remedy("Look at the part", path=at(part)),
            )


@rule("line-isolator", "signal", PRACTICE)
def line_isolator(results: Results) -> Iterator[Draft]:
    """An isolator is in no line, gets more than it takes, or cuts the bass off."""
    lines = {line.id: line for line in results.design.links_of(LineLink)}
    for part in results.design.parts_of(LineIsolator):
        if part.in_line_id not in lines:
            yield stop(
                part.id,
                f"{part.name} is in no line",
                "It sits in an RCA pair: say in which.",
                Remedy("Say where", path=at(part)),
            )
            continue
        signal = next((s for s in results.signals if s.way.line and s.way.line.id == part.in_line_id), None)
        level_v = signal.figures["output"].value if signal is not None else None
        if level_v is not None and level_v > part.limit_v:
            yield stop(
                part.id,
                f"{amount(level_v, 'v')} into {part.name}, which takes {amount(part.limit_v, 'v')}",
                "Its core saturates: the bass distorts first. Turn the line down or leave it out.",
                Remedy("Look at the part", path=at(part)),
            )
        bass = [o for o in (signal.outputs if signal else ()) if any(d.is_subwoofer for d in o.load.driven)]
        if bass and part.low_hz > LOWEST_HZ:
            names = listed([o.load.driven_name for o in bass])
            yield watch(
                part.id,
                f"{part.name} gives out below {amount(part.low_hz, 'hz')}",
                f"{names} plays below that. Find the ground that hums, or take one that goes lower.",
                Remedy("Look at the part", path=at(part)),
            )
