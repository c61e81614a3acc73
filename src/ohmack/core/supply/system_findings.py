"""Rules on the car's system voltage: what is refused, and the converter a pack or 24 V takes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import Converter, HeadUnit, PoweredSubwoofer, VoltageConverter
from ohmack.core.document.vehicle import Supply, SystemVoltage
from ohmack.core.figures.finding import Draft, Remedy, find_part, rule, set_to, stop, watch
from ohmack.core.figures.later import fit_now
from ohmack.core.reference import PHYSICS, PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("supply-system", "survey", PRACTICE)
def supply_system(results: Results) -> Iterator[Draft]:
    """The car is not a 12 V car with its negative on the body."""
    supply = results.design.vehicle.supply
    system, path = supply.system.value, at_the(Supply, lambda it: it.system)
    current_a = audio_a(results)
    peak = f"; it must give {current_a:.0f} A at 12 V" if current_a else ""
    if supply.positive_ground.value:
        yield stop(
            at_the(Supply, lambda it: it.positive_ground),
            "Positive pole on the body: refused",
            "Every case, shield and speaker return of today's parts is negative. Have the car converted by someone who "
            "does that, or leave it as it is; never guess.",
            Remedy("Check the fact", path=at_the(Supply, lambda it: it.positive_ground)),
        )
    elif supply.positive_ground.value is None and not _only_passive(results.design):
        yield watch(
            at_the(Supply, lambda it: it.positive_ground),
            "Not known: which pole of the battery is on the body",
            "Here everything is planned with its negative on the body; in some old cars it is the positive.",
            Remedy("Enter it", path=at_the(Supply, lambda it: it.positive_ground)),
        )
    if system is None and not _only_passive(results.design):
        yield stop(
            path,
            "Not known: whether it is a 12 V car",
            "Every part here is for 12 V, and is gone at once on more. Read the battery at rest, and what is printed"
            " on it.",
            Remedy("Enter it", path=path),
        )
    elif system is SystemVoltage.V6:
        yield stop(
            path,
            "A 6 V car: refused",
            "No part here runs on 6 V. Convert the car to 12 V first, or leave it original.",
            Remedy("Check the fact", path=path),
        )
    elif system in (SystemVoltage.V24, SystemVoltage.PACK) and (own := next(_converters(results), None)) is not None:
        yield from _converter_holds(results, own, current_a)
    elif system in (SystemVoltage.V24, SystemVoltage.PACK) and not _only_passive(results.design):
        yield stop(
            path,
            f"A {system.value} supply needs a converter to 12 V",
            "Never tap 12 V off part of a series pack for anything that draws steadily: the tapped cells discharge "
            f"unevenly. Use a converter sized for the peak{peak}; figures here hold for its 12 V side.",
            fit_now(results, "voltage converter") or find_part("Find a converter", "voltage converter"),
        )


@rule("run-on-the-pack", "supply", PHYSICS)
def run_on_the_pack(results: Results) -> Iterator[Draft]:
    """A 12 V part's run begins at batteries that hold more."""
    design = results.design
    if not design.vehicle.above_12_v:
        return
    converter = next(_converters(results), None)
    batteries = {b.id: b for b in design.vehicle.supply.batteries}
    for link in design.links_of(PowerLink):
        if link.from_id not in batteries or converter is None:
            continue  # without a converter the supply itself is a stop
        part = design.part(link.to_id)
        yield stop(
            link.id,
            f"{part.name if part else link.to_id} would hang on {design.vehicle.supply.system.value}",
            f"Its run begins at {batteries[link.from_id].name}, not at {converter.name}: a 12 V part is gone at once.",
            Remedy(f"Feed it from {converter.name}", (set_to(at(link, lambda it: it.from_id), converter.id),)),
        )


def _converters(results: Results) -> Iterator[VoltageConverter]:
    return results.design.parts_of(VoltageConverter)


def _converter_holds(results: Results, part: VoltageConverter, current_a: float) -> Iterator[Draft]:
    """Whether a planned converter gives what everything draws, and takes what the pack holds."""
    if current_a > part.current_a:
        yield stop(
            part.id,
            f"{part.name} gives {results.say(part.current_a, 'a')}, {results.say(current_a, 'a')} are drawn",
            "It shuts off or dies at the first loud passage. Take a larger one, or less of what hangs on it.",
            find_part("Find another", "voltage converter"),
        )
    supply = results.design.vehicle.supply
    rests_v = supply.post_resting_v.value
    if rests_v is None:
        yield watch(
            part.id,
            f"{part.name} takes {part.in_low_v:g} to {part.in_high_v:g} V: what the pack holds is not known",
            "Meter across the whole pack, charged and at the end of a day. Both poles of the whole pack go in, through"
            " a fuse of its own; never part of the pack.",
            Remedy("Enter it", path=at(supply, lambda it: it.post_resting_v)),
        )
    elif not part.in_low_v <= rests_v <= part.in_high_v:
        yield stop(
            part.id,
            f"{part.name} takes {part.in_low_v:g} to {part.in_high_v:g} V, the pack holds {rests_v:g} V",
            "Take one made for this pack.",
            find_part("Find another", "voltage converter"),
        )
    else:
        lost_v = next((f.lost.value or 0.0 for f in results.pack_feeds if f.part is part), 0.0)
        if rests_v - lost_v < part.in_low_v:
            yield watch(
                part.id,
                f"{part.name} gets {results.say(rests_v - lost_v, 'v')} at full output and works from"
                f" {part.in_low_v:g} V",
                f"{results.say(lost_v, 'v')} are lost in its leads: put it nearer the pack.",
                Remedy("Move it", path=at(part)),
            )


def audio_a(results: Results) -> float:
    """What everything added draws at full level: amplifiers on their runs, parts with their own amplifier, radios."""
    runs = sum(s.figures["current"].value or 0.0 for s in results.supplies if not s.is_main)
    radios = sum(unit.supply_current_a for unit in results.design.parts_of(HeadUnit))
    return float(runs + radios + sum(item.current.value or 0.0 for item in results.self_fed))


def _only_passive(design: Design) -> bool:
    """Whether every part chosen so far draws nothing from the supply, as drivers and boxes do."""
    return design.changes_something and not any(
        isinstance(p, Amplifier | Converter | HeadUnit | PoweredSubwoofer) for p in design.parts
    )
