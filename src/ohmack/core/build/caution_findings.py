"""Cautions: each shown where its trigger applies. They defer to codes, makers and licensed technicians."""

from __future__ import annotations

from collections.abc import Iterator
from math import log10
from typing import TYPE_CHECKING

from ohmack.core.build.laid_ways import passed_before
from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.design import Wish
from ohmack.core.document.grounding import bored_now
from ohmack.core.document.handles import at_the
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import Accessory, Driver, HeadUnit, PoweredSubwoofer, Subwoofer
from ohmack.core.document.vehicle import Powertrain, SpeakerPlace, SystemVoltage, Vehicle
from ohmack.core.figures.finding import Draft, note, rule, watch
from ohmack.core.fit.zones import near_the_roof
from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.supply.second_battery import in_the_car, negatives
from ohmack.core.wording import amount, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

LAW = Source("local codes and the maker's guide", Grade.PRACTICE)
NIOSH = Source("NIOSH 98-126 recommended exposure limit: 85 dBA for 8 h, halving per 3 dB", Grade.MEMORY)


@rule("caution-licensed", "build", LAW, caution=True)
def licensed(results: Results) -> Iterator[Draft]:
    """Always: codes, makers and licensed people come first."""
    yield note(
        "caution",
        "Local codes, the maker's guide and licensed technicians come first",
        "Ohmack calculates; the person doing the work decides and is responsible.",
    )


def _at_the_battery(design: Design) -> bool:
    """Whether something is laid from a battery, or something that begins at one comes out."""
    return any(design.links_of(PowerLink)) or any(one.live for one in design.coming_out)


@rule("caution-negative-first", "build", PRACTICE, caution=True)
def negative_first(results: Results) -> Iterator[Draft]:
    """Any work on the battery."""
    if _at_the_battery(results.design):
        yield note(
            "caution",
            f"{negatives(in_the_car(results.design))} off first, on last",
            "The main fuse goes in last, after every connection is made and polarity is checked.",
        )


@rule("caution-airbags", "build", LAW, caution=True)
def airbags(results: Results) -> Iterator[Draft]:
    """Seat airbags present or not known, with cable under trim and seats."""
    touched = results.design.links or results.design.coming_out
    if touched and results.design.vehicle.seat_airbags.value is not False:
        yield note(
            at_the(Vehicle, lambda it: it.seat_airbags),
            "Airbags: battery off, then wait the maker's time",
            "Never probe yellow connectors; unplug seat connectors only with the battery off and waited for.",
        )


@rule("caution-seat-cable", "build", LAW, caution=True)
def seat_cable(results: Results) -> Iterator[Draft]:
    """A cable goes into a seat."""
    seats = [s for s in results.design.vehicle.speakers if s.place is SpeakerPlace.HEADREST]
    if seats:
        yield note(
            seats[0].id,
            "Cable through a seat: keep clear of airbag and belt tensioner",
            "Never through the side bolster or beside a yellow connector. Battery off, wait the maker's time; leave"
            " slack for the seat's whole travel, and try it from end to end before the trim goes on.",
        )


@rule("caution-ceiling", "build", LAW, caution=True)
def ceiling(results: Results) -> Iterator[Draft]:
    """A speaker goes into the ceiling, where curtain airbags may be."""
    planned = {name for driver in results.design.parts_of(Driver) for name in driver.at_ids}
    places = (s for s in results.design.vehicle.speakers if s.place is SpeakerPlace.CEILING)
    above = [s for s in places if s.id in planned]
    if above:
        yield note(
            above[0].id,
            "Ceiling: curtain airbags run along its edges",
            "Speakers and cables stay out of their way, and no cable goes over one: look for their marks on the"
            " pillars. Battery off, wait the maker's time before the headlining or a pillar's trim comes off.",
        )


@rule("caution-door-water", "build", PRACTICE, caution=True)
def door_water(results: Results) -> Iterator[Draft]:
    """A new speaker goes into a door, behind whose panel the rain runs down."""
    planned = {name for driver in results.design.new_parts_of(Driver) for name in driver.at_ids}
    doors = [s for s in results.design.vehicle.speakers if s.in_door and s.id in planned]
    if doors:
        yield note(
            doors[0].id,
            "Doors: rain runs down behind the panel",
            "The membrane comes off whole and goes back tight, drain holes at the bottom stay open, a hood above"
            " the speaker. Window all the way down before the panel goes on; wet carpets show only weeks later.",
        )


@rule("caution-high-voltage", "survey", LAW, caution=True)
def high_voltage(results: Results) -> Iterator[Draft]:
    """Hybrid and electric cars."""
    low = results.design.vehicle.supply.system.value is SystemVoltage.PACK  # below 60 V there are no orange cables
    if results.design.vehicle.powertrain is not Powertrain.COMBUSTION and not low:
        yield watch(
            at_the(Vehicle, lambda it: it.powertrain),
            "Orange cables are for qualified people only",
            "Work on the 12 V side alone, after the maker's shut-down procedure. The 12 V converter's limit is hard.",
        )


@rule("caution-video", "plan", LAW, caution=True)
def video(results: Results) -> Iterator[Draft]:
    """A screen is wished for or planned."""
    design = results.design
    screen = any(a.category == "display" for a in design.parts_of(Accessory))
    screen = screen or any(unit.screen for unit in design.parts_of(HeadUnit))
    if screen or Wish.SCREEN in design.intake.wishes:
        yield note("caution", "The video lock stays", "No tapping it to let a driver watch moving pictures.")


@rule("caution-drilling", "build", PRACTICE, caution=True)
def drilling(results: Results) -> Iterator[Draft]:
    """A hole is drilled, or may be."""
    design = results.design
    runs = any(design.new_links_of(PowerLink))  # only these come through the bulkhead
    ways = [p for p in design.vehicle.passages if runs and p.id not in passed_before(results)]
    holes = [p.name for p in ways if p.needs_drilling.value is not False]
    holes += [point.name for point in bored_now(design)]
    if holes:
        yield note(
            "caution",
            "Look behind before drilling",
            f"Fuel, brake lines, wiring. At: {', '.join(holes)}. Drilling cannot be undone: test first.",
        )


@rule("caution-battery-gas", "build", PRACTICE, caution=True)
def battery_gas(results: Results) -> Iterator[Draft]:
    """Work at a lead-acid battery."""
    if _at_the_battery(results.design):
        yield note(
            "caution", "Batteries give off hydrogen", "No sparks at the battery; air the space before connecting."
        )


@rule("caution-capacitor", "build", PRACTICE, caution=True)
def capacitor(results: Results) -> Iterator[Draft]:
    """A large capacitor is planned."""
    for entry in results.stiffening:
        ohm, heat_w = entry.resistor.value, entry.resistor_peak.value
        through = f" {trimmed(ohm)} Ω, {heat_w:.0f} W or more" if ohm and heat_w else ""
        yield note(
            entry.part.id,
            f"Charge {entry.part.name} through a resistor{through}",
            "Straight across the battery it welds and burns; the same when it is emptied. Plus to plus: turned round it"
            " bursts.",
        )


@rule("caution-hearing", "build", NIOSH, caution=True)
def hearing(results: Results) -> Iterator[Draft]:
    """The system can be louder than a day's safe level."""
    levels = [
        (load.driver.sensitivity_db + 10 * log10(min(load.power.value, load.allowed_w or load.power.value)), load)
        for load in results.loads
        if load.driver.sensitivity_db is not None and load.power.value
    ]
    _, load = max(levels, key=lambda pair: pair[0], default=(0.0, None))
    level_db = 10 * log10(sum(10 ** (level / 10) for level, _ in levels)) if levels else 0.0
    if load is not None and level_db > SAFE_DB:
        whose = load.driven_name
        whose = f"{whose} alone" if len(levels) == 1 else f"All of it at full level, {whose} the loudest"
        hours = 8 / 2 ** ((level_db - SAFE_DB) / 3)
        span = f"{hours * 60:.0f} min" if hours * 60 >= 1 else f"{hours * 3600:.0f} s"
        yield note(
            load.driver.id,
            f"Loud: about {level_db:.0f} dB at 1 m in the open",
            f"{whose}. NIOSH allows 85 dBA for 8 h, halving per 3 dB: {span} at that level,"
            " A-weighting aside. Protect your ears while testing.",
        )


SAFE_DB = 85.0  # dBA over 8 h, NIOSH 98-126


@rule("caution-heavy-box", "build", PRACTICE, caution=True)
def heavy_box(results: Results) -> Iterator[Draft]:
    """A box that would fly in a crash."""
    boxes: list[Box | PoweredSubwoofer] = [
        *results.design.parts_of(Box), *results.design.parts_of(PoweredSubwoofer)
    ]  # fmt: skip
    for box in boxes:
        if box.mass_kg is None or box.mass_kg >= 3:
            what = "the box" if isinstance(box, Box) else box.name
            yield note(
                box.id,
                f"Fix {what}: {amount(box.mass_kg, 'kg') if box.mass_kg else 'its weight is not on file'}",
                "Bolt or strap it to the body against a crash, never to seat-belt points.",
            )


@rule("caution-roof", "build", PRACTICE, caution=True)
def folding_roof(results: Results) -> Iterator[Draft]:
    """Something goes where a roof folds."""
    if any(near_the_roof(results.design)):
        yield note(
            "caution",
            "The roof folds into the boot: its room stays free",
            "Mark how far it comes before anything is fixed, and fold it once before the trim goes on.",
        )


@rule("caution-anchors", "build", LAW, caution=True)
def anchors(results: Results) -> Iterator[Draft]:
    """Anything in the back of the car."""
    if any(True for _ in results.design.parts_of(Box)) or any(True for _ in results.design.parts_of(Subwoofer)):
        yield note(
            "caution",
            "Child-seat anchors and airbag zones stay free",
            "Nothing under seat brackets, folding hinges or in the way of a curtain airbag.",
        )
