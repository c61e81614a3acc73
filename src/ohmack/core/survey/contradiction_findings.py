"""Facts that cannot both be true, named together."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ohmack.core.document import Basis, Fact
from ohmack.core.document.factory import FactoryLinkKind, Tier
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import KeyState, Powertrain, SystemVoltage
from ohmack.core.figures.finding import Draft, Remedy, rule, watch
from ohmack.core.physics.signal_chain import rms_from
from ohmack.core.reference import PHYSICS
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

SYSTEM_V = {
    SystemVoltage.V6: (4.5, 8.0),
    SystemVoltage.V12: (9.0, 16.5),
    SystemVoltage.V24: (18.0, 32.0),
    SystemVoltage.PACK: (30.0, 60.0),
}
SINGLE_ENDED_V = 14.4 / 2 / 2**0.5  # what one leg can swing from 14.4 V, rms
BRIDGED_V = 14.4 / 2**0.5  # both legs, rms
WIDEST_SHARE = 0.85


def _pair(one: str, other: str, title: str, text: str) -> Draft:
    return watch(
        f"{one}|{other}", title, f"{text} One of the two is wrong: look at both.", Remedy("Look at them", path=one)
    )


@rule("facts-contradict", "survey", PHYSICS)
def facts_contradict(results: Results) -> Iterator[Draft]:
    """Two facts that cannot both be true."""
    yield from _supply(results)
    yield from _signal(results)
    yield from _system(results)
    yield from _body(results)


def _both(one: Fact[Any], other: Fact[Any]) -> tuple[Any, Any] | None:
    """Both values, where both are there and somebody looked at one of them: two guesses contradict nothing."""
    if one.basis is Basis.ASSUMED and other.basis is Basis.ASSUMED:
        return None
    return None if one.value is None or other.value is None else (one.value, other.value)


def _supply(results: Results) -> Iterator[Draft]:
    supply = results.design.vehicle.supply
    rest = supply.post_resting_v
    if (pair := _both(supply.post_running_v, rest)) and pair[0] <= pair[1]:
        yield _pair(
            at(supply, lambda it: it.post_running_v),
            at(supply, lambda it: it.post_resting_v),
            f"{amount(pair[0], 'v')} running, {amount(pair[1], 'v')} resting",
            "A running engine charges: its voltage lies above the resting one.",
        )
    if (pair := _both(supply.post_cranking_v, rest)) and pair[0] >= pair[1]:
        yield _pair(
            at(supply, lambda it: it.post_cranking_v),
            at(supply, lambda it: it.post_resting_v),
            f"{amount(pair[0], 'v')} cranking, {amount(pair[1], 'v')} resting",
            "The starter pulls the post down; it cannot read as much as at rest.",
        )
    if (pair := _both(supply.system, rest)) and not SYSTEM_V[pair[0]][0] <= pair[1] <= SYSTEM_V[pair[0]][1]:
        yield _pair(
            at(supply, lambda it: it.system),
            at(supply, lambda it: it.post_resting_v),
            f"{pair[0].value} system, {amount(pair[1], 'v')} at rest",
            "That voltage does not belong to that system.",
        )
    electric = results.design.vehicle.powertrain is Powertrain.ELECTRIC
    if electric and supply.alternator_rating_a.value is not None:
        yield _pair(
            at(results.design.vehicle, lambda it: it.powertrain),
            at(supply, lambda it: it.alternator_rating_a),
            "An electric car with an alternator",
            "Electric cars charge the 12 V battery by a DC-DC converter.",
        )


def _signal(results: Results) -> Iterator[Draft]:
    radio = results.design.vehicle.radio
    pair = _both(radio.tier, radio.source_voltage_v)
    if pair is None or pair[0] not in (Tier.PLAIN, Tier.SUB_AMPLIFIER):
        return
    rms_v = rms_from(pair[1], radio.source_stated_as)
    legs = _both(radio.bridged, radio.source_voltage_v)
    if legs is not None and not legs[0] and rms_v > SINGLE_ENDED_V * 1.05:
        yield _pair(
            at(radio, lambda it: it.bridged),
            at(radio, lambda it: it.source_voltage_v),
            f"{amount(rms_v, 'v')} rms from an output that is not bridged",
            f"One leg on 14.4 V reaches {amount(SINGLE_ENDED_V, 'v')} rms at most; more means both legs swing.",
        )
    elif rms_v > BRIDGED_V * 1.08:
        yield _pair(
            at(radio, lambda it: it.tier),
            at(radio, lambda it: it.source_voltage_v),
            f"{amount(rms_v, 'v')} rms from a plain radio",
            f"A bridged output on 14.4 V reaches {amount(BRIDGED_V, 'v')} rms; more means a factory amplifier, or peak"
            " for rms.",
        )


def _system(results: Results) -> Iterator[Draft]:
    vehicle = results.design.vehicle
    tier = vehicle.radio.tier
    for module in vehicle.modules:
        ours = module.amplifies and not module.by_owner
        if ours and (pair := _both(tier, module.fitted)) and pair == (Tier.PLAIN, True):
            yield _pair(
                at(vehicle.radio, lambda it: it.tier),
                at(module, lambda it: it.fitted),
                f"Plain radio, and {module.name} is fitted",
                "A plain radio drives its speakers itself.",
            )
    for link in vehicle.factory_links:
        ring = link.kind is FactoryLinkKind.RING
        if ring and (pair := _both(tier, link.carries)) and pair == (Tier.PLAIN, True):
            yield _pair(
                at(vehicle.radio, lambda it: it.tier),
                at(link, lambda it: it.carries),
                "Plain radio, and a ring that carries audio",
                "With a live ring the audio does not leave the radio as a signal one can tap.",
            )
            break
    for speaker in vehicle.speakers:
        if (pair := _both(speaker.own_capacitor, speaker.dc_resistance_ohm)) and pair[0]:
            yield _pair(
                at(speaker, lambda it: it.own_capacitor),
                at(speaker, lambda it: it.dc_resistance_ohm),
                f"{speaker.name}: a reading through a capacitor",
                "A capacitor blocks direct current, so an ohmmeter reads open.",
            )
    for feed in vehicle.feeds:
        live = feed.live.value if feed.live.basis is not Basis.ASSUMED else None
        if live and KeyState.ASLEEP in live and not {KeyState.ON, KeyState.ACCESSORY} <= set(live):
            path = at(feed, lambda it: it.live)
            yield watch(
                path,
                f"{feed.name}: live asleep, dead with the key on",
                "Few feeds do that: read it again in every key state.",
                Remedy("Look at the table", path=path),
            )


def _body(results: Results) -> Iterator[Draft]:
    vehicle = results.design.vehicle
    apart = "The wheels do not stand that far apart on a body that short."
    for path, fact, words, text in (
        (at(vehicle, lambda it: it.wheelbase_m), vehicle.wheelbase_m, "Wheelbase", apart),
        (at(vehicle, lambda it: it.width_m), vehicle.width_m, "Width", "A body is longer than it is wide."),
    ):
        pair = _both(fact, vehicle.length_m)
        if pair is not None and pair[0] > WIDEST_SHARE * pair[1]:
            title = f"{words} {results.say(pair[0], 'm')}, length {results.say(pair[1], 'm')}"
            yield _pair(path, at(vehicle, lambda it: it.length_m), title, text)
