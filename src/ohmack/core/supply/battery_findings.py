"""Rules on a second battery: which one the amplifier hangs on, how it is charged, when it is cut off."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Basis, Design
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import PowerLink
from ohmack.core.document.vehicle import Battery, BatteryRole, SplitCharging, Supply
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.engine_off import fallen_v
from ohmack.core.supply.second_battery import charged_by
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

CHARGED_V = 13.2  # a lead battery below this at its posts, engine running, is hardly charged


@rule("second-battery", "supply", PRACTICE)
def second_battery(results: Results) -> Iterator[Draft]:
    """The car has a leisure battery: the audio belongs on it, if it is charged and cut off in time."""
    supply = results.design.vehicle.supply
    leisure = next((b for b in supply.batteries if b.role is BatteryRole.LEISURE), None)
    if leisure is None:
        return
    for link in results.design.links_of(PowerLink):
        battery = next((b for b in supply.batteries if b.id == link.from_id), None)
        if battery is None:
            continue  # behind a block, whose main run is judged
        if battery.role is BatteryRole.STARTER:
            yield watch(
                link.id, f"The amplifier is fed from {battery.name}, not from {leisure.name}",
                "Played with the engine off it takes the charge that has to start the engine.",
                Remedy(f"Feed it from {leisure.name}", (set_to(at(link, lambda it: it.from_id), leisure.id),)),
            )  # fmt: skip
        else:
            yield from _charged(results.design, battery)
            yield from _cut_off(results, battery)


def _charged(design: Design, battery: Battery) -> Iterator[Draft]:
    path = at_the(Supply, lambda it: it.split_charging)
    reads = battery.own_running_v
    split, volts = charged_by(design, battery), reads.value if reads.basis is not Basis.ASSUMED else None
    if split is None:
        yield stop(
            path,
            f"Not known: how {battery.name} is charged",
            "Without charging it plays once.",
            Remedy("Enter it", path=path),
        )
    elif split is SplitCharging.FOR_GOOD:
        yield watch(
            path,
            f"{battery.name} is joined for good with the starter battery",
            "With the engine off one empties the other, and both start nothing. A relay or a DC-DC charger parts them.",
            Remedy("Look at it", path=path),
        )
    elif split is SplitCharging.NONE:
        yield stop(
            path,
            f"{battery.name} is not charged on the road",
            "Put a split charger in first, or feed the amplifier from the starter battery.",
            Remedy("Look at it", path=path),
        )
    elif split is SplitCharging.DIODE and (volts is None or volts < CHARGED_V):
        yield watch(
            path,
            "A diode isolator costs about 0.7 V",
            f"{battery.name} never gets quite full behind it. A relay or a DC-DC charger does not lose that.",
            Remedy("Look at it", path=path),
        )


def _cut_off(results: Results, battery: Battery) -> Iterator[Draft]:
    path = at(battery, lambda it: it.cut_off_v)
    opens, rests = battery.cut_off_v.value, battery.own_resting_v.value
    if opens is None:
        yield note(
            path,
            f"No low-voltage cut-off known on {battery.name}",
            "Without one the amplifier can empty it for good.",
            Remedy("Enter it", path=path),
        )
        return
    falls_v = fallen_v(results.book, results.power, battery, results.supplies)
    if falls_v is not None and opens >= falls_v:
        yield watch(
            path,
            f"Cut-off at {amount(opens, 'v')}; engine off, a bass note pulls {battery.name} to {amount(falls_v, 'v')}",
            "It drops the amplifier out in the middle of a note, with the battery full. One that waits some seconds, a"
            " lower setting, or less power with the engine off.",
            Remedy("Look at it", path=path),
        )
    elif falls_v is None and rests is not None and opens >= rests - 0.2:
        yield watch(
            path,
            f"Cut-off at {amount(opens, 'v')}, battery rests at {amount(rests, 'v')}",
            "It drops the amplifier out as soon as the bass pulls the post down.",
            Remedy("Look at it", path=path),
        )
