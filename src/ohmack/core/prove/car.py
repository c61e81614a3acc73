"""The car as it stands wired: what a meter, a scope and an ear find at any of its points, right or wrong."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from ohmack.core.document.vehicle import KeyState
from ohmack.core.network.faulted import OPEN_OHM
from ohmack.core.network.model import Place, PowerNetwork
from ohmack.core.network.solve import Solution, node_voltages_v, ports, solve
from ohmack.core.network.states import State
from ohmack.core.physics.nodal import Part
from ohmack.core.physics.supply import Load
from ohmack.core.prove.ohms import components, powers_of
from ohmack.core.prove.points import BODY, alone_of, far_of, near_of, plus_of, remote_of
from ohmack.core.record import record
from ohmack.core.reference import table

BLEEDS_S = 1e-4  # what an amplifier that is off still conducts between its terminals; common practice


class Setting(StrEnum):
    """What the car is doing while a reading is taken."""

    DEAD = "no fuse in, battery off"
    ASLEEP = "key off, asleep"
    ACCESSORY = "key in accessory"
    ON = "key on, engine off"
    CRANKING = "cranking"
    RUNNING = "engine running, no music"
    LEVEL = "engine running, tone at full level"
    BATTERY = "engine off, tone at full level"

    @property
    def key(self) -> KeyState:
        """Where the key is."""
        return _KEYS.get(self, KeyState.ON)

    @property
    def holds(self) -> State:
        """What the batteries do."""
        return _HOLDS.get(self, State.RESTING)

    @property
    def playing(self) -> bool:
        """Whether a tone plays at full level."""
        return self in (Setting.LEVEL, Setting.BATTERY)


_KEYS = {Setting.ASLEEP: KeyState.ASLEEP, Setting.ACCESSORY: KeyState.ACCESSORY, Setting.CRANKING: KeyState.CRANKING,
         Setting.DEAD: KeyState.ASLEEP}  # fmt: skip
_HOLDS = {Setting.RUNNING: State.RUNNING, Setting.LEVEL: State.RUNNING, Setting.BATTERY: State.ENGINE_OFF,
          Setting.CRANKING: State.CRANKING}  # fmt: skip
LIVE = tuple(setting for setting in Setting if setting is not Setting.DEAD)


@record
class Fed:
    """Something that draws from the power network, and what switches it on."""

    id: str
    name: str
    load: Load
    idle: Load
    asleep_a: float
    states: frozenset[KeyState] | None  # in which its switch-on is live; None where nobody knows
    source_id: str = ""  # what switches it on
    wired: bool = True
    early: bool = False  # whether it is on before what feeds it with music
    stays: bool = False  # whether its switch-on is live whatever the key does
    keeps_on: bool = False  # whether it is on whatever its switch-on does

    def on(self, key: KeyState) -> bool:
        """Whether its switch-on is live at its terminal."""
        return self.wired and self.states is not None and key in self.states


@record
class SmallFeed:
    """A part on a factory feed, by the link that feeds it."""

    id: str
    part_id: str
    name: str
    feed_id: str
    states: frozenset[KeyState] | None
    whole: bool = True  # its fuse and lead
    grounded: bool = True
    at_plug: bool = False  # whether the radio's plug brings it, not a lead of the plan

    def brings(self, key: KeyState) -> bool:
        """Whether the part it feeds has it with the key there; taken so where nobody knows when it is live."""
        return self.whole and self.grounded and (self.states is None or key in self.states)


@record
class Lead:
    """A thin lead of the plan: line, tap, switch-on or feed."""

    id: str
    name: str
    kind: str
    to_id: str
    whole: bool = True
    more_ohm: float = 0.0  # of a joint in it that is none


@record
class Output:
    """One output with what hangs on it, as a meter sees it dead and as it plays a tone."""

    scope: str
    name: str
    owner_id: str  # the amplifier, or the radio or module
    parts: tuple[Part, ...]
    coils: Mapping[str, tuple[str, ...]]  # by place, the coils that play there
    held: frozenset[str] = frozenset()  # coils behind a capacitor, which an ohmmeter does not see
    others: Mapping[str, tuple[Part, ...]] = field(default_factory=dict)  # other wirings of the coils, in words
    from_factory: bool = False  # whether its signal comes from the car's own radio or amplifier
    radio_id: str = ""  # the new radio its signal comes from
    line_id: str = ""  # the line or tap it gets its signal through
    converter_id: str = ""
    adapter: bool = False
    tone_hz: float = 1000.0
    source_v: float | None = None  # at the source's terminals, with the tone
    in_v: float | None = None
    out_v: float | None = None
    limit_v: float | None = None
    takes_v: float | None = None  # what its input bears without clipping
    wanted_v: float | None = None  # what its knob asks for; past the limit it is clipped
    knob: tuple[str, tuple[int, ...]] | None = None  # which knob sets its gain: the amplifier, and the channels
    thd_percent: float = 0.0
    signal: bool = True
    bass: bool = True
    treble: bool = True
    reversed: frozenset[str] = frozenset()  # places
    crossed: bool = False
    to_body: bool = False


@dataclass(frozen=True)
class Car:
    """All of it. What is not known has no entry."""

    network: PowerNetwork | None
    emf_v: Mapping[Setting, Mapping[str, float]]
    inner_ohm: Mapping[Setting, Mapping[str, float]]
    fed: tuple[Fed, ...]
    small: tuple[SmallFeed, ...]
    outputs: tuple[Output, ...]
    leads: tuple[Lead, ...] = ()  # thin ones, each by itself
    stands_for: Mapping[str, str] = field(default_factory=dict)  # by the car's radio, the new one in its place
    standby_a: float = 0.0  # of the car itself, asleep
    plays: bool = True  # whether the source gives any signal
    whines: bool = False
    charges: bool = True
    uncharged: frozenset[str] = frozenset()  # batteries no charge reaches
    wrong: frozenset[str] = frozenset()  # what a look at it, or a try, finds wrong
    to_body: frozenset[str] = frozenset()  # power runs that touch the body, by branch
    spans: Mapping[str, tuple[float, float]] = field(default_factory=dict)  # of branches and coils, where it is known
    _kept: dict[Setting, Live | None] = field(default_factory=dict, init=False, compare=False, repr=False)
    _dead: dict[str, tuple[Part, ...]] = field(default_factory=dict, init=False, compare=False, repr=False)

    def live(self, setting: Setting) -> Live | None:
        """The car solved in a setting; None where a value for it is not known."""
        if setting not in self._kept:
            self._kept[setting] = self._solved(setting)
        return self._kept[setting]

    def sharing(self, other: Car) -> Car:
        """The same, taking over what the other has solved where nothing that rests on differs."""
        same = (self.network is other.network, self.emf_v is other.emf_v, self.inner_ohm is other.inner_ohm,
                self.fed is other.fed, self.small is other.small)  # fmt: skip
        if all(same):
            self._kept.update(other._kept)
        if self.network is other.network and self.outputs is other.outputs and self.leads is other.leads:
            self._dead.update(other._dead)
        return self

    def dead(self, point: str) -> tuple[Part, ...]:
        """What a meter can reach from a point while no fuse is in and every plug is off the amplifiers."""
        if not self._dead:
            self._dead.update(components(dead_parts(self)))
        return self._dead.get(point, ())

    def output(self, scope: str) -> Output | None:
        """An output by what its figures are filed under."""
        return next((o for o in self.outputs if o.scope == scope), None)

    @property
    def posts(self) -> tuple[tuple[str, str, str], ...]:
        """(battery, its plus, its minus) of the first battery, and of every other something of the plan hangs on; above
        12 V of what the converter gives, and of the battery itself.
        """
        solved = {c.id: (c.id, c.plus, c.minus) for c in self.network.cells} if self.network is not None else {}
        names = dict.fromkeys((*(name for held in self.emf_v.values() for name in held), *solved))
        return tuple(solved.get(name, (name, f"{name} plus", f"{name} minus")) for name in names)

    def feeding(self, part_id: str) -> Fed | None:
        """What draws from the power network, by id."""
        return next((f for f in self.fed if f.id == part_id), None)

    def solves(self, part_id: str) -> bool:
        """Whether everything is known that says what flows to a part."""
        return self.network is not None and any(c.id == part_id for c in self.network.consumers)

    def _solved(self, setting: Setting) -> Live | None:
        emf_v = self.emf_v.get(setting)
        if not emf_v:
            return None
        if self.network is None:  # nothing of this plan hangs on the battery itself: its post, and the car's own feeds
            volts = _unloaded_v(emf_v) | self._switched_v(next(iter(emf_v.values())), setting.key)
            return Live(volts, {}, frozenset(), frozenset(), Solution({}, {}, {}))
        if any(c.id not in emf_v for c in self.network.cells):
            return None
        inner = self.inner_ohm.get(setting, {})
        folded = ports(self.network, emf_v, inner)
        ohm = {b.id: b.resistance_ohm for b in self.network.branches}
        whole = {c.id: all(ohm[name] < OPEN_OHM / 2 for name in c.way) for c in self.network.consumers}
        on = {f.id: whole[f.id] and self.is_on(f, setting.key) for f in self.fed if f.id in whole}
        loads = {f.id: self._load(f, on[f.id], whole[f.id], setting) for f in self.fed if f.id in whole}
        solution = solve(self.network, folded, loads)
        least_v = float(table("proof", "amplifier")["switches_off_v"])
        out = {name for name, is_on in on.items() if is_on and solution.voltage_v.get(name, 0.0) < least_v}
        if out:  # what has too few volts switches off, and rests
            loads |= {f.id: f.idle if setting.playing else _ASLEEP for f in self.fed if f.id in out}
            solution = solve(self.network, folded, loads)
        volts = node_voltages_v(self.network, folded, solution, emf_v, inner)
        volts = _unloaded_v(emf_v) | volts
        volts |= self._switched_v(next((volts[plus] for _, plus, _ in self.posts if plus in volts)), setting.key)
        awake = frozenset(name for name, is_on in on.items() if is_on and name not in out)
        return Live(volts, dict(solution.current_a), awake, frozenset(out), solution)

    def _switched_v(self, post_v: float, key: KeyState) -> dict[str, float]:
        """Volts at switch-on terminals and at the ends of factory feeds; of those nobody knows none."""
        found = {remote_of(f.id): post_v if self.switched(f, key) else 0.0 for f in self.fed if f.states is not None}
        for small in self.small:
            if small.states is not None:
                found[f"{small.id} feed"] = post_v if small.whole and key in small.states else 0.0
                found[f"{small.id} ground"] = 0.0 if small.grounded else found[f"{small.id} feed"]
        return found

    @staticmethod
    def _load(fed: Fed, on: bool, whole: bool, setting: Setting) -> Load:
        if not whole:
            return _BLEEDING
        if not on:
            return Load(current_a=fed.asleep_a) if fed.asleep_a else _ASLEEP
        return fed.load if setting.playing else fed.idle

    def heard(self, place_id: str) -> bool | None:
        """Whether a place plays at all; None where nothing is said to play there."""
        found = next((o for o in self.outputs if place_id in o.coils), None)
        return None if found is None else self._plays(found, place_id)

    def _plays(self, output: Output, place_id: str) -> bool:
        if not self.plays or not output.signal or output.to_body:
            return False
        if not all(map(self.powered, (output.owner_id, output.converter_id, output.radio_id))):
            return False
        return share_of(output, place_id) > AUDIBLE

    def powered(self, owner_id: str) -> bool:
        """Whether what drives an output is on with the key; a radio's own supply is taken as there."""
        owner_id = self.stands_for.get(owner_id, owner_id)
        if not all(small.brings(KeyState.ON) for small in self.small if small.part_id == owner_id):
            return False
        fed = self.feeding(owner_id)
        if fed is None:
            return True
        live = self.live(Setting.ON)
        awake = live.awake if live is not None and self.solves(owner_id) else None
        return self.is_on(fed, KeyState.ON) if awake is None else owner_id in awake

    def is_on(self, fed: Fed, key: KeyState) -> bool:
        """Whether something is switched on, or stays on by itself."""
        return fed.keeps_on or self.switched(fed, key)

    def switched(self, fed: Fed, key: KeyState) -> bool:
        """Whether a switch-on is live at its terminal; that of a new radio goes with what the radio's plug brings."""
        if fed.stays:
            return fed.wired
        plug = [small for small in self.small if small.at_plug and small.part_id == fed.source_id]
        if not all(small.whole and small.grounded for small in plug):
            return False
        known = bool(plug) and all(small.states is not None for small in plug)
        return fed.wired and all(small.brings(key) for small in plug) if known else fed.on(key)


@record
class Live:
    """The car solved in one setting."""

    volts: Mapping[str, float]  # by node, against the first battery's negative post
    current_a: Mapping[str, float]
    awake: frozenset[str]
    cut_out: frozenset[str]  # what is switched on and has too few volts
    solution: Solution


def _unloaded_v(emf_v: Mapping[str, float]) -> dict[str, float]:
    """Volts at the posts of batteries nothing solved hangs on."""
    return {f"{name} plus": held_v for name, held_v in emf_v.items()} | {f"{name} minus": 0.0 for name in emf_v}


_ASLEEP, _BLEEDING = Load(current_a=1e-4), Load(conductance_s=BLEEDS_S)
LEAD = "lead"  # what the cable of an output is called among its parts
AUDIBLE = 0.05  # of the power its coils should have: 13 dB down a speaker counts as silent; common practice


def share_of(output: Output, place_id: str) -> float:
    """What the coils of a place get of one volt at the output, in watts, against what they would get alone on it."""
    names = [name for name in output.coils.get(place_id, ()) if any(p.name == name for p in output.parts)]
    powers = powers_of(output.parts)
    if not names or not powers:
        return 0.0
    return sum(powers[name] for name in names) * len([p for p in output.parts if p.name != LEAD]) / len(names)


LEAD_OHM = 0.08  # of a thin lead of usual length; common practice
TOUCHES_OHM = 0.05  # what a bare wire on painted metal makes once it touches; common practice


def dead_parts(car: Car) -> tuple[Part, ...]:
    """Everything a meter can measure through while no fuse is in and every amplifier's plugs are off."""
    parts = []
    for branch in car.network.branches if car.network is not None else ():
        if branch.place is not Place.FUSE:
            parts.append(Part(branch.id, branch.start, branch.end, branch.resistance_ohm))
        if branch.id in car.to_body:
            parts.append(Part(f"{branch.id} to body", branch.start, BODY, TOUCHES_OHM))
    parts += [Part(f"lead {k.id}", near_of(k.id), far_of(k.id), LEAD_OHM + k.more_ohm) for k in car.leads if k.whole]
    for output in car.outputs:
        parts += [Part(f"{output.scope} {p.name}", f"{output.scope} {p.a}", f"{output.scope} {p.b}", p.impedance_ohm)
                  for p in output.parts if p.name not in output.held]  # fmt: skip
        parts += [Part(f"alone {output.scope} {p.name}", *alone_of(output.scope, p.name), p.impedance_ohm)
                  for p in output.parts if p.name != LEAD]  # fmt: skip
        if output.to_body:
            parts.append(Part(f"{output.scope} to body", plus_of(output.scope), BODY, TOUCHES_OHM))
    return tuple(parts)


def with_output(car: Car, scope: str, **changed: object) -> Car:
    """The car with something else at one output."""
    return replace(car, outputs=tuple(replace(o, **changed) if o.scope == scope else o for o in car.outputs))  # type: ignore[arg-type]
