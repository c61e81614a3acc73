"""What each way does to the radio and the amplifier of a car, why it cannot be gone, and the parts it needs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.factory import Module, Tier
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import factory_amplifier, radio_there, silenced_before, speakers_of, unit_there
from ohmack.core.document.links import TapLink
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import SystemVoltage
from ohmack.core.factory.evidence import digital_link, room_for_amplifier, splits_bands
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate, Verdict, fitting_measures, judge_functions
from ohmack.core.factory.graph import about
from ohmack.core.factory.pickup_places import TAKEN_OVER, Pickup, plays_from_lines
from ohmack.core.factory.roles import ON_ONE, in_the_car, takes_the_pair
from ohmack.core.factory.usual_modules import unsaid_amplifier
from ohmack.core.reference import read_toml


def way_of(key: StrategyKey) -> dict[str, Any]:
    """What is on file of a way."""
    found: dict[str, Any] = read_toml("strategies")["ways"][key.value]
    return found


# Ways that take their music from the radio that stays.
AT_THE_RADIO = (
    StrategyKey.RADIO_PICKUP,
    StrategyKey.POWERED_SUB,
    StrategyKey.DOORS_AMPLIFIED,
    StrategyKey.ALL_AMPLIFIED,
)


def obstacle(design: Design, key: StrategyKey, taps: tuple[Pickup, ...]) -> str:
    """Why a strategy cannot be done on this car; empty where it can."""
    vehicle = design.vehicle
    tier, amplifier = radio_there(design).tier.value, factory_amplifier(design)
    if amplifier is not None and amplifier.id in silenced_before(design):
        amplifier = None
    if vehicle.supply.system.value is SystemVoltage.V6:
        return "a 6 V car: no part of today runs on it; convert it first, or leave it original"
    if vehicle.supply.positive_ground.value:
        return "its positive pole is on the body: every case and shield of today's parts is negative"
    if tier is None:
        return "the factory system is not known yet"
    radio_tap = next((t for t in taps if t.source_id == vehicle.radio.id), None)
    if tier is Tier.NONE and key in (
        StrategyKey.RADIO_KEEP_AMPLIFIER,
        StrategyKey.RADIO_BYPASS,
        StrategyKey.DRIVER_SWAP,
        StrategyKey.SCREEN_ON_TOP,
    ):
        return "there is no radio and nothing that drives speakers"
    match key:
        case StrategyKey.DOORS_AMPLIFIED | StrategyKey.ALL_AMPLIFIED | StrategyKey.ALL_NEW if in_the_car(
            design, "plug-in amplifier"
        ):
            return "an amplifier of an earlier job drives them"
        case StrategyKey.REPLACE_AMPLIFIER | StrategyKey.RADIO_BYPASS if _heard_after(design, amplifier):
            return "what an earlier job fitted plays after the factory amplifier: move its pickup first"
        case StrategyKey.DOORS_AMPLIFIED | StrategyKey.ALL_AMPLIFIED if amplifier is not None:
            return "the factory amplifier drives them: play after it, or put one in its place"
        case StrategyKey.ALL_NEW if amplifier is not None:
            return "the factory amplifier drives them: bypass it, or put one in its place"
        case _ if key in ON_ONE and in_the_car(design, "subwoofer"):
            return "its bass is in the car already: new speakers on an amplifier of their own do the rest"
        case StrategyKey.ALL_NEW if in_the_car(design, "radio"):
            return "a new radio is in the car already: the other way on one amplifier does the rest"
        case _ if key in AT_THE_RADIO and (radio_tap is None or not radio_tap.usable):
            if key is StrategyKey.POWERED_SUB and amplifier is not None and tier is not Tier.NONE:
                return ""
            return radio_tap.words if radio_tap else "nothing to pick up at the radio"
        case StrategyKey.AFTER_AMPLIFIER:
            found = next((t for t in taps if t.source_id != vehicle.radio.id), None)
            if found is None:
                return _no_amplifier(design)
            return "" if found.usable else found.words
        case StrategyKey.RADIO_KEEP_AMPLIFIER | StrategyKey.RADIO_BYPASS | StrategyKey.REPLACE_AMPLIFIER if (
            amplifier is None
        ):
            return _no_amplifier(design)
        case StrategyKey.NEW_RADIO if amplifier is not None:
            return "the factory amplifier stays silent without an adapter"
        case StrategyKey.NEW_RADIO | StrategyKey.ALL_NEW if tier is Tier.RING:
            return "the audio leaves over the ring"
        case StrategyKey.SCREEN_ON_TOP if tier is not Tier.RING:
            return "the radio may go: no ring needs it as its master"
        case StrategyKey.SCREEN_ON_TOP if vehicle.radio.spare_input.value is False:
            return "the factory radio has no input a screen could play into"
    return ""


def _heard_after(design: Design, amplifier: Module | None) -> bool:
    """Whether something that is in the car takes its signal behind the factory amplifier."""
    behind = {channel.id for channel in amplifier.channels} if amplifier is not None else set()
    return any(tap.in_car and not behind.isdisjoint(tap.from_ids) for tap in design.links_of(TapLink))


def _no_amplifier(design: Design) -> str:
    if unsaid_amplifier(design.vehicle):
        return "its factory amplifier is not on file yet"
    return TAKEN_OVER if silenced_before(design) else "no factory amplifier"


def acts_of(design: Design, key: StrategyKey) -> tuple[Intervention, ...]:
    """What a way does by itself to the radio and the factory amplifier, and what earlier jobs did to the others."""
    own = _own_acts(design, key)
    return *own, *(act for act in settled(design) if act.id not in {one.id for one in own})


def settled(design: Design) -> tuple[Intervention, ...]:
    """What earlier jobs did to the radio and the modules: what plays in their place is in the car."""
    if not any(part.in_car for part in design.parts):
        return ()
    heard = {m.id: speakers_of(design, m) for m in design.vehicle.modules}
    gone = {name for name, speakers in heard.items() if speakers and all(s.left_silent for s in speakers)}
    gone |= silenced_before(design)
    if unit_there(design) is not None:
        gone.add(design.vehicle.radio.id)
    return tuple(act for act in design.interventions if act.id in gone)


def _own_acts(design: Design, key: StrategyKey) -> tuple[Intervention, ...]:
    radio, amplifier = design.vehicle.radio.id, factory_amplifier(design)
    ring = design.vehicle.radio.tier.value is Tier.RING
    new_radio = Intervention(id=radio, act=Act.REPLACED, keep_alive=(KeepAlive.INTERFACE,) if ring else ())
    match key:
        case StrategyKey.NEW_RADIO if design.vehicle.radio.tier.value is not Tier.NONE:
            return (new_radio,)
        case StrategyKey.ALL_NEW:
            silent = (m for m in design.vehicle.modules if m.amplifies and m.fitted.value is not False)
            old = () if design.vehicle.radio.tier.value is Tier.NONE else (new_radio,)
            return *old, *(Intervention(id=m.id, act=Act.BYPASSED) for m in silent)
        case StrategyKey.RADIO_KEEP_AMPLIFIER:
            return (new_radio,)
        case StrategyKey.RADIO_BYPASS if amplifier:
            return new_radio, Intervention(id=amplifier.id, act=Act.BYPASSED)
        case StrategyKey.SCREEN_ON_TOP:
            return (Intervention(id=radio, act=Act.REMOVED, keep_alive=(KeepAlive.STAYS,)),)
        case StrategyKey.REPLACE_AMPLIFIER if amplifier:
            adapter = (KeepAlive.INTERFACE,) if ring else ()
            return (Intervention(id=amplifier.id, act=Act.REPLACED, keep_alive=adapter),)
    return ()


def rescued(design: Design, interventions: tuple[Intervention, ...]) -> tuple[Intervention, ...]:
    """The interventions with the simplest measures for every function that is asked for or vital."""
    wanted = set(design.intake.must_keep)
    for _ in range(6):
        lost = [
            v
            for v in judge_functions(design, interventions)
            if v.fate is Fate.LOST
            and v.measures
            and (KEPT.get(v.function.kind) in wanted or about(v.function.kind)["vital"])
        ]
        if not lost:
            break
        thing_id, measure = lost[0].measures[0]
        interventions = tuple(
            i.model_copy(update={"keep_alive": (*i.keep_alive, measure)}) if i.id == thing_id else i
            for i in interventions
        )
    return interventions


Kept = Mapping[str, tuple[KeepAlive, ...]]


def kept_by_choice(design: Design) -> Kept:
    """The measures a person chose for a module, against what the chosen way proposes by itself."""
    proposed = {}
    if design.strategy is not None:
        proposed = {i.id: set(i.keep_alive) for i in rescued(design, acts_of(design, design.strategy))}
    return {i.id: tuple(m for m in i.keep_alive if m not in proposed.get(i.id, ())) for i in design.interventions}


def with_kept(design: Design, acts: tuple[Intervention, ...], kept: Kept) -> tuple[Intervention, ...]:
    """The acts of a way with what a person chose before it, where that still makes sense for what happens to the
    module.
    """
    result = []
    for act in acts:
        mine = tuple(m for m in kept.get(act.id, ()) if m in fitting_measures(design, act) and m not in act.keep_alive)
        result.append(act.model_copy(update={"keep_alive": (*mine, *act.keep_alive)[:4]}))
    return tuple(result)


def needs_of(design: Design, key: StrategyKey, ledger: tuple[Verdict, ...]) -> Iterator[str]:
    """The parts a strategy needs: its own, and what the functions it touches live on by."""
    roles = way_of(key)["needs"]
    digital, from_lines = digital_link(design), key in AT_THE_RADIO and plays_from_lines(design)
    for role in roles:
        if role in ("converter", "plug adapter") and from_lines:
            continue  # its line outputs go straight in, and none of its plugs is opened
        if role == "converter" and takes_the_pair(design, key):
            continue
        if role == "plug adapter" and not design.vehicle.has_known_plug:
            continue  # nobody makes one: its few wires are joined one by one
        if role == "plug-in amplifier" and key is StrategyKey.RADIO_BYPASS and room_for_amplifier(design) is not None:
            role = "amplifier"  # with wires of its own, where there is room for it
        if role == "amplifier adapter" and not digital:
            if "plug-in amplifier" in roles:
                continue  # a plug-in amplifier on analogue lines needs none
            role = "line adapter"  # line leads to its plug are enough
        yield role
    if key is StrategyKey.RADIO_BYPASS and splits_bands(design):
        yield "processor"
    if key is StrategyKey.AFTER_AMPLIFIER and design.intake.reversible:
        yield "plug adapter"  # a splice would cost the way back
    if key is StrategyKey.NEW_RADIO and any(
        m.amplifies and m.fitted.value is not False for m in design.vehicle.modules
    ):
        yield "line adapter"  # the factory subwoofer amplifier heard the old radio
    yield from dict.fromkeys(part for verdict in ledger for part in verdict.rests_on)
