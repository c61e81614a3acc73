"""Which symptoms a car shows, in the installer's words."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document.proof import FaultKind, Symptom
from ohmack.core.document.vehicle import KeyState
from ohmack.core.prove.car import Car, Setting
from ohmack.core.prove.ohms import pair_ohm
from ohmack.core.prove.points import is_itself
from ohmack.core.prove.probes import whining

DIMS_V = 0.6  # the car's own lamps are seen to dim from here; common practice
DRAINS_A = 0.1  # over a night, what a good battery still starts after; common practice
FLAT_V = 0.3  # what a battery that starts no more rests lower, at the least; common practice
QUIET = 0.6  # of the volts there should be, about 4 dB: heard as too quiet; common practice
TOO_LOW = 0.6  # of the planned load: an amplifier protects itself when it is loud; common practice
DISTORTS_PERCENT = 5.0  # on a tone; common practice


def symptoms_of(car: Car, planned: Car, tweeters: Iterable[str] = (), bass: Iterable[str] = ()) -> frozenset[Symptom]:
    """The symptoms a car shows that is not as planned.

    Parameters:
        car: the car as it stands.
        planned: the car as the plan has it.
        tweeters: places that play treble only.
        bass: places that play bass only.

    Returns:
        what somebody would say is wrong with it.

    Source: what follows from the solved car; from where on it is noticed: common practice.
    """
    found = set()
    fed = [f.id for f in planned.fed if planned.powered(f.id)]
    dead = {name for name in fed if not car.powered(name)}
    unfed = {s.part_id for s in car.small if not car.powered(s.part_id)}
    radios = {car.stands_for.get(o.owner_id, o.owner_id) for o in car.outputs} & unfed
    radios |= {small.part_id for small in car.small if small.at_plug} & unfed
    if dead or radios:
        found.add(Symptom.NO_POWER)
    if any(_only_in_on(car, planned, name) for name in fed if name not in dead) or _radio_only_in_on(car, planned):
        found.add(Symptom.NOT_IN_ACCESSORY)
    silent = {p for o in planned.outputs for p in o.coils if planned.heard(p) and not car.heard(p)}
    heard = any(car.heard(p) for o in car.outputs for p in o.coils)
    if silent and heard and not dead:
        found.add(Symptom.ONE_SILENT)
    if silent and not heard and not dead and not radios:
        found.add(Symptom.SILENT)
    if any(not o.treble for o in car.outputs) or silent & set(tweeters):
        found.add(Symptom.NO_TREBLE)
    if _thin(car) or silent & set(bass):
        found.add(Symptom.THIN_BASS)
    if whining(car):
        found.add(Symptom.WHINE)
    if any(f.early for f in car.fed):
        found.add(Symptom.POPS)
    return frozenset(found | _when_loud(car, planned) | _asleep(car, planned))


def _only_in_on(car: Car, planned: Car, name: str) -> bool:
    fed, meant = car.feeding(name), planned.feeding(name)
    assert fed is not None
    assert meant is not None
    on, accessory = car.switched(fed, KeyState.ON), car.switched(fed, KeyState.ACCESSORY)
    return on and not accessory and planned.switched(meant, KeyState.ACCESSORY)


def _radio_only_in_on(car: Car, planned: Car) -> bool:
    """Whether a radio on the car's plug has its feeds with the ignition only."""
    on, accessory, meant = (
        {s.part_id for s in one.small if s.at_plug} - {s.part_id for s in one.small if not s.brings(key)}
        for one, key in ((car, KeyState.ON), (car, KeyState.ACCESSORY), (planned, KeyState.ACCESSORY))
    )
    return bool((on - accessory) & meant)


def _thin(car: Car) -> bool:
    return any(o.reversed or not o.bass for o in car.outputs)


def _when_loud(car: Car, planned: Car) -> set[Symptom]:
    found = set()
    if planned.charges and not car.charges:
        found.add(Symptom.LIGHTS_DIM)
    if car.uncharged - planned.uncharged:
        found.add(Symptom.CUTS_OUT)
    live, meant = car.live(Setting.LEVEL), planned.live(Setting.LEVEL)
    if live is not None and meant is not None:
        if live.cut_out - meant.cut_out:
            found.add(Symptom.CUTS_OUT)
        _, plus, minus = car.posts[0]
        lower_v = (meant.volts[plus] - meant.volts[minus]) - (live.volts[plus] - live.volts[minus])
        over_strap_v = max((abs(live.volts.get("body", 0.0)) - abs(meant.volts.get("body", 0.0)), 0.0))
        if lower_v > DIMS_V or over_strap_v > DIMS_V / 2:
            found.add(Symptom.LIGHTS_DIM)
    loads = {o.scope: pair_ohm(o.parts) for o in planned.outputs}
    for output in car.outputs:
        if pair_ohm(output.parts) < TOO_LOW * loads.get(output.scope, 0.0):
            found.add(Symptom.CUTS_OUT)
        meant_v = next((o.out_v for o in planned.outputs if o.scope == output.scope), None)
        if meant_v and output.out_v is not None and 0 < output.out_v < QUIET * meant_v:
            found.add(Symptom.QUIET)
        if pair_ohm(output.parts) > loads.get(output.scope, 0.0) / QUIET**2 and any(map(car.heard, output.coils)):
            found.add(Symptom.QUIET)
        if output.thd_percent > DISTORTS_PERCENT:
            found.add(Symptom.DISTORTED)
    return found


def _never_off(car: Car) -> set[str]:
    """The radios on the car's plug that have all their feeds with the key off."""
    at_plug = {s.part_id for s in car.small if s.at_plug}
    return at_plug - {s.part_id for s in car.small if s.at_plug and not s.brings(KeyState.ASLEEP)}


def _flat(car: Car, planned: Car) -> bool:
    """Whether the first battery is flat in the morning and nothing drew it: it holds no charge, or gets none."""
    if planned.charges and not car.charges:
        return True
    names = [name for name, _, _ in planned.posts]
    first = next((name for name in names if is_itself(name)), next(iter(names), ""))
    held_v, meant_v = (one.emf_v.get(Setting.ASLEEP, {}).get(first) for one in (car, planned))
    return held_v is not None and meant_v is not None and meant_v - held_v > FLAT_V


def _asleep(car: Car, planned: Car) -> set[Symptom]:
    """Whether it draws over a night what it should not: what was fitted, what the car has, or one battery another."""
    if FaultKind.RELAY_STUCK.name in car.wrong - planned.wrong or _never_off(car) - _never_off(planned):
        return {Symptom.DRAINS}
    if _flat(car, planned):
        return {Symptom.DRAINS}
    live, meant = car.live(Setting.ASLEEP), planned.live(Setting.ASLEEP)
    solved = live is not None and meant is not None
    on, off = ({f.id for f in one.fed if one.is_on(f, KeyState.ASLEEP)} for one in (car, planned))
    if any(not solved or not car.solves(name) for name in on - off):
        return {Symptom.DRAINS}
    more_a = car.standby_a - planned.standby_a
    if live is not None and meant is not None:
        more_a += sum(live.current_a.values()) - sum(meant.current_a.values())
    return {Symptom.DRAINS} if more_a > DRAINS_A else set()
