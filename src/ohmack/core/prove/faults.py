"""What a fault does to the car: the same car, with it in."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.document.vehicle import FEED_PATTERNS, KeyState
from ohmack.core.errors import NotPossible
from ohmack.core.network.faulted import RESISTIVE, faulted
from ohmack.core.physics.clipping import clipped_rms_v, clipped_thd_percent
from ohmack.core.physics.nodal import OPEN_OHM, SHORT_OHM, Part
from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.prove.car import LEAD, Car, Output, Setting, SmallFeed, with_output
from ohmack.core.prove.ohms import pair_ohm
from ohmack.core.prove.points import MINUS, PLUS, itself

Strikes = Callable[[Car, Fault], Car]
STRIKES: dict[FaultKind, Strikes] = {}
RAN_DOWN_V = 0.8  # what a battery nothing charges has lost of its rest; common practice
WEAK_V, WEAK_CRANKING_V, WEAK_TIMES = 0.5, 2.0, 4.0  # a battery near its end; common practice
BESIDE = "beside"  # what else hangs on the leads of an output
BASS_LOST = 0.35  # of the level at the bass tone, about 9 dB; common practice
OVERLOAD_DB, OVERLOADED_PERCENT = 8.0, 12.0  # how far past what an input bears; common practice


def stricken(car: Car, faults: Iterable[Fault]) -> Car:
    """The car with faults in it, one after the other.

    Parameters:
        car: the car as it is.
        faults: what is wrong besides.

    Returns:
        the car as it then is.

    Raises:
        NotPossible: a fault names a place the car does not have.
    """
    for fault in faults:
        car = (_in_the_network if fault.kind in RESISTIVE else STRIKES[fault.kind])(car, fault)
    return car


def _in_the_network(car: Car, fault: Fault) -> Car:
    if any(fault.at in (s.id, s.part_id) for s in car.small):
        return replace(car, small=tuple(_small(s, fault) for s in car.small))
    if car.network is None or all(b.id != fault.at for b in car.network.branches):
        raise NotPossible("at", f"There is no such place in this car for {fault.kind.value}.")
    car = replace(car, network=faulted(car.network, (fault,)))
    if fault.kind is FaultKind.RUN_TO_BODY:
        car = replace(car, to_body=car.to_body | {fault.at})
    return car


def _small(small: SmallFeed, fault: Fault) -> SmallFeed:
    """A small feed whose fuse is blown, by its link, or whose ground is off, by its part."""
    if fault.kind is FaultKind.BLOWN_FUSE and fault.at == small.id:
        return replace(small, whole=False)
    if fault.kind is FaultKind.OPEN_GROUND and fault.at == small.part_id:
        return replace(small, grounded=False)
    return small


def strikes(*kinds: FaultKind) -> Callable[[Strikes], Strikes]:
    """Register what a kind of fault does."""

    def register(act: Strikes) -> Strikes:
        STRIKES.update(dict.fromkeys(kinds, act))
        return act

    return register


def _output(car: Car, scope: str) -> Output:
    found = car.output(scope)
    if found is None:
        raise NotPossible("at", "There is no such output in this car.")
    return found


@strikes(FaultKind.WEAK_BATTERY)
def _weak(car: Car, fault: Fault) -> Car:
    """One above 12 V shows at its converter's input alone: what the converter gives it goes on giving."""
    less = dict.fromkeys(Setting, WEAK_V) | {Setting.CRANKING: WEAK_CRANKING_V}
    own = itself(fault.at)
    if any(own in held for held in car.emf_v.values()):
        return replace(
            car, emf_v={s: held if s in CHARGED else _lower(held, own, WEAK_V) for s, held in car.emf_v.items()}
        )
    emf = {s: held if s in CHARGED else _lower(held, fault.at, less[s]) for s, held in car.emf_v.items()}
    inner = {s: {c: ohm * (WEAK_TIMES if c == fault.at else 1.0) for c, ohm in held.items()}
             for s, held in car.inner_ohm.items()}  # fmt: skip
    return replace(car, emf_v=emf, inner_ohm=inner)


CHARGED = (Setting.RUNNING, Setting.LEVEL)


def _lower(held: Mapping[str, float], cell: str, by_v: float) -> dict[str, float]:
    return {name: volts - (by_v if name == cell else 0.0) for name, volts in held.items()}


def _rests(car: Car) -> tuple[tuple[Setting, Setting], ...]:
    """(a setting with the engine running, the one whose volts stand there without a charge), as far as known."""
    level = Setting.BATTERY if Setting.BATTERY in car.emf_v else Setting.ON
    return tuple((a, b) for a, b in ((Setting.RUNNING, Setting.ON), (Setting.LEVEL, level)) if b in car.emf_v)


@strikes(FaultKind.NOT_CHARGING)
def _not_charging(car: Car, fault: Fault) -> Car:
    emf, inner = dict(car.emf_v), dict(car.inner_ohm)
    for running, rests in _rests(car):
        emf[running] = emf[rests]
        inner[running] = inner.get(rests, {})
    return replace(car, emf_v=emf, inner_ohm=inner, charges=False)


@strikes(FaultKind.NO_SWITCH_ON)
def _no_switch_on(car: Car, fault: Fault) -> Car:
    leads = tuple(replace(k, whole=False) if k.kind == "remote" and k.to_id == fault.at else k for k in car.leads)
    fed = tuple(replace(f, wired=False) if f.id == fault.at else f for f in car.fed)
    return replace(car, fed=fed, leads=leads)


@strikes(FaultKind.EARLY_ON)
def _early(car: Car, fault: Fault) -> Car:
    return replace(car, fed=tuple(replace(f, early=True) if f.id == fault.at else f for f in car.fed))


@strikes(FaultKind.STAYS_ON)
def _stays_on(car: Car, fault: Fault) -> Car:
    """By what switches it on, or by itself where it listens for music."""
    return replace(car, fed=tuple(replace(f, stays=True) if fault.at in (f.source_id, f.id) else f for f in car.fed))


@strikes(FaultKind.KEEPS_ON)
def _keeps_on(car: Car, fault: Fault) -> Car:
    return replace(car, fed=tuple(replace(f, keeps_on=True) if f.id == fault.at else f for f in car.fed))


@strikes(FaultKind.CAR_DRAINS)
def _car_drains(car: Car, fault: Fault) -> Car:
    return replace(car, standby_a=car.standby_a + fault.by)


@strikes(FaultKind.CHARGE_OFF)
def _charge_off(car: Car, fault: Fault) -> Car:
    """It holds what it rests at, charging or not, and less of it the longer it gave."""
    emf = {s: dict(held) for s, held in car.emf_v.items()}
    for running, rests in _rests(car):
        if fault.at in emf.get(running, {}) and fault.at in emf[rests]:
            emf[running][fault.at] = emf[rests][fault.at]
    ran_down = {s: _lower(held, fault.at, RAN_DOWN_V) for s, held in emf.items()}
    return replace(car, emf_v=ran_down, uncharged=car.uncharged | {fault.at})


@strikes(FaultKind.WRONG_FEED)
def _wrong_feed(car: Car, fault: Fault) -> Car:
    states = frozenset(FEED_PATTERNS.get(fault.other, tuple(KeyState)))
    fed = tuple(replace(f, states=states) if f.source_id == fault.at else f for f in car.fed)
    small = tuple(replace(f, states=states) if f.feed_id == fault.at else f for f in car.small)
    return replace(car, fed=fed, small=small)


@strikes(FaultKind.WRONG_COILS)
def _wrong_coils(car: Car, fault: Fault) -> Car:
    others = _output(car, fault.at).others
    if fault.other not in others:
        raise NotPossible("other", "The coils cannot be wired like that.")
    return with_output(car, fault.at, parts=others[fault.other])


def _coils_at(car: Car, fault: Fault, ohm: float) -> Car:
    parts = _output(car, fault.at).parts
    return with_output(car, fault.at, parts=tuple(_as(p, ohm) if p.name == fault.other else p for p in parts))


def _as(part: Part, ohm: float) -> Part:
    return replace(part, impedance_ohm=ohm)


@strikes(FaultKind.COIL_OPEN)
def _coil_open(car: Car, fault: Fault) -> Car:
    return _coils_at(car, fault, OPEN_OHM)


@strikes(FaultKind.COIL_SHORTED)
def _coil_shorted(car: Car, fault: Fault) -> Car:
    """All its turns bridged, or so many that a share of it is left, as in a burnt one."""
    coil = next((p for p in _output(car, fault.at).parts if p.name == fault.other), None)
    left_ohm = fault.by * float(coil.impedance_ohm.real) if coil is not None else 0.0
    return _coils_at(car, fault, max(SHORT_OHM, left_ohm))


@strikes(FaultKind.PAIR_OPEN)
def _pair_open(car: Car, fault: Fault) -> Car:
    parts = _output(car, fault.at).parts
    leads = [p for p in parts if p.name == LEAD] or list(parts)
    return with_output(car, fault.at, parts=tuple(_as(p, OPEN_OHM) if p in leads else p for p in parts))


@strikes(FaultKind.BAD_JOINT)
def _bad_joint(car: Car, fault: Fault) -> Car:
    """Ohms in a thin lead, or in the leads of an output."""
    if any(lead.id == fault.at for lead in car.leads):
        more = (replace(k, more_ohm=k.more_ohm + fault.by) if k.id == fault.at else k for k in car.leads)
        return replace(car, leads=tuple(more))
    parts = _output(car, fault.at).parts
    return with_output(
        car,
        fault.at,
        parts=tuple(_as(p, float(p.impedance_ohm.real) + fault.by) if p.name == LEAD else p for p in parts),
    )


@strikes(FaultKind.PAIR_TO_BODY)
def _pair_to_body(car: Car, fault: Fault) -> Car:
    return with_output(car, _output(car, fault.at).scope, to_body=True)


@strikes(FaultKind.PAIR_SHARED)
def _pair_shared(car: Car, fault: Fault) -> Car:
    """A second load across the output's leads, so many times what is planned there."""
    parts = _output(car, fault.at).parts
    other = Part(BESIDE, PLUS, MINUS, fault.by * pair_ohm(parts))
    return with_output(car, fault.at, parts=(*parts, other))


@strikes(FaultKind.REVERSED)
def _reversed(car: Car, fault: Fault) -> Car:
    return with_output(car, fault.at, reversed=_output(car, fault.at).reversed ^ {fault.other})


@strikes(FaultKind.CROSSED)
def _crossed(car: Car, fault: Fault) -> Car:
    one, other = _output(car, fault.at), _output(car, fault.other)
    car = with_output(car, one.scope, crossed=True, coils=other.coils, parts=other.parts)
    return with_output(car, other.scope, crossed=True, coils=one.coils, parts=one.parts)


def _played(output: Output, ratio: float) -> Output:
    """An output whose knob asks for so many times what it should."""
    if output.wanted_v is None or output.limit_v is None:
        return output
    wanted = output.wanted_v * ratio
    out_v, thd = clipped_rms_v(wanted, output.limit_v), clipped_thd_percent(wanted, output.limit_v)
    return replace(output, wanted_v=wanted, out_v=out_v, thd_percent=max(thd, output.thd_percent))


@strikes(FaultKind.WRONG_GAIN)
def _wrong_gain(car: Car, fault: Fault) -> Car:
    ratio = voltage_ratio_from_db(fault.by)
    knob = _output(car, fault.at).knob  # it turns all that hangs on it

    def turned(output: Output) -> bool:
        return output.scope == fault.at or (knob is not None and output.knob == knob)

    return replace(car, outputs=tuple(_played(o, ratio) if turned(o) else o for o in car.outputs))


@strikes(FaultKind.CONVERTER_RANGE)
def _converter_range(car: Car, fault: Fault) -> Car:
    ratio = voltage_ratio_from_db(fault.by)

    def behind(output: Output) -> Output:
        if output.converter_id != fault.at:
            return output
        played = _played(output, ratio)
        return replace(played, in_v=None if output.in_v is None else output.in_v * ratio)

    return replace(car, outputs=tuple(behind(o) for o in car.outputs))


@strikes(FaultKind.INPUT_OVERLOAD)
def _overload(car: Car, fault: Fault) -> Car:
    ratio = voltage_ratio_from_db(OVERLOAD_DB)

    def driven(output: Output) -> Output:
        if output.owner_id != fault.at or output.in_v is None:
            return output
        in_v = output.in_v * ratio
        thd = OVERLOADED_PERCENT
        if output.takes_v is not None and in_v > output.takes_v:
            thd = max(thd, clipped_thd_percent(in_v, output.takes_v))
        return replace(output, in_v=in_v, thd_percent=max(thd, output.thd_percent))

    return replace(car, outputs=tuple(driven(o) for o in car.outputs))


@strikes(FaultKind.NO_SIGNAL)
def _no_signal(car: Car, fault: Fault) -> Car:
    def silent(output: Output) -> Output:
        if output.line_id != fault.at:
            return output
        return replace(output, signal=False, in_v=_none_of(output.in_v), out_v=_none_of(output.out_v))

    leads = tuple(replace(k, whole=False) if k.id == fault.at else k for k in car.leads)
    return replace(car, outputs=tuple(silent(o) for o in car.outputs), leads=leads)


def _none_of(volts: float | None) -> float | None:
    """Nothing, where something was known to be."""
    return None if volts is None else 0.0


@strikes(FaultKind.THIN_SOURCE)
def _thin(car: Car, fault: Fault) -> Car:
    return replace(car, outputs=tuple(replace(o, treble=False) if o.from_factory else o for o in car.outputs))


@strikes(FaultKind.BASS_LOST)
def _bass_lost(car: Car, fault: Fault) -> Car:
    def thin(output: Output) -> Output:
        if not output.from_factory:
            return output
        changed = replace(output, bass=False)
        if output.tone_hz > BASS_TONE_HZ:
            return changed
        less = {name: None if (v := getattr(output, name)) is None else v * BASS_LOST
                for name in ("source_v", "in_v", "out_v", "wanted_v")}  # fmt: skip
        return replace(changed, **less)  # type: ignore[arg-type]

    return replace(car, outputs=tuple(thin(o) for o in car.outputs))


BASS_TONE_HZ = 160.0  # up to here a tone is bass


@strikes(FaultKind.GROUND_LOOP)
def _loop(car: Car, fault: Fault) -> Car:
    return replace(car, whines=True)


@strikes(FaultKind.RELAY_STUCK)
def _stuck(car: Car, fault: Fault) -> Car:
    return replace(car, wrong=car.wrong | {fault.kind.name})


@strikes(FaultKind.BROKEN_RING, FaultKind.DEAD_ADAPTER, FaultKind.NO_PLUG)
def _no_music(car: Car, fault: Fault) -> Car:
    outputs = tuple(
        replace(o, source_v=_none_of(o.source_v), in_v=_none_of(o.in_v), out_v=_none_of(o.out_v)) for o in car.outputs
    )
    return replace(car, plays=False, wrong=car.wrong | {fault.kind.name}, outputs=outputs)
