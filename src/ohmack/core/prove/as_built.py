"""From an evaluated plan to the car as it stands wired by it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import replace
from math import isclose
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.facts import Basis, Fact
from ohmack.core.document.links import FeedLink, LineLink, PowerLink, RemoteLink
from ohmack.core.document.parts import Accessory, HeadUnit, PoweredSubwoofer
from ohmack.core.document.paths import get
from ohmack.core.document.proof import FaultKind
from ohmack.core.document.vehicle import KeyState, Speaker, SupplyKind, SystemVoltage
from ohmack.core.errors import NotPossible
from ohmack.core.loads.driven import DC_HIGH, DC_LOW, DC_TYPICAL
from ohmack.core.loads.drivers import Drive
from ohmack.core.loads.line_parts import held_back
from ohmack.core.loads.meter import parts_of
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.network.faulted import RESISTIVE, of_branch, with_fault_id, with_faults_ohm
from ohmack.core.network.model import Place
from ohmack.core.network.states import emf_v, held_v, inner_ohm, inner_terms
from ohmack.core.physics.nodal import Part
from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.physics.supply import Load
from ohmack.core.prove.car import LIVE, Car, Fed, Lead, Output, Setting, SmallFeed
from ohmack.core.prove.faults import stricken
from ohmack.core.prove.points import MINUS, PLUS, itself
from ohmack.core.reference import table
from ohmack.core.signal.knobs import knob_of, played_down
from ohmack.core.signal.levels import OutputSignal, SignalResult
from ohmack.core.signal.switch_on import PLAYING, switch_sources
from ohmack.core.signal.ways import pair_words

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ADAPTERS = ("amplifier adapter", "line adapter", "interface")  # those music comes through


def as_built(results: Results) -> Car:
    """The car as the plan wires it, with whatever is known to be wrong in it.

    Parameters:
        results: the evaluated plan.

    Returns:
        the car; what is not known yet has no entry in it.
    """
    network = results.power.network
    emf, inner = _held(results)
    car = Car(
        network, emf, inner, tuple(_fed(results)), tuple(_small(results)), tuple(_outputs(results)),
        tuple(_leads(results)), _in_its_place(results), _standby_a(results), spans=_spans(results),
    )  # fmt: skip
    small = {name for s in car.small for name in (s.id, s.part_id)}
    faults = results.design.proof.faults
    touching = frozenset(f.at for f in faults if f.kind is FaultKind.RUN_TO_BODY)
    car = replace(car, to_body=touching)
    for fault in faults:
        if fault.kind in RESISTIVE and fault.at not in small:
            continue  # it is in the solved network already
        with suppress(NotPossible):  # its place went with a change of the plan; a Stop still names it
            car = stricken(car, (fault,))
    return car


def _held(results: Results) -> tuple[dict[Setting, dict[str, float]], dict[Setting, dict[str, float]]]:
    """By setting, what every battery holds and its own resistance; settings of which a value is not known left out."""
    network, book = results.power.network, results.book
    emf: dict[Setting, dict[str, float]] = {}
    inner: dict[Setting, dict[str, float]] = {}
    batteries = {b.id: b for b in results.design.vehicle.supply.batteries}
    first = results.design.vehicle.supply.batteries[0].id
    cells = (first,) if network is None else tuple(c.id for c in network.cells if c.id in batteries)
    feeding = {link.from_id for link in results.design.links_of(PowerLink)} | {first}  # the car's own lamps hang on it
    read = [name for name in batteries if name in feeding or name in cells]  # in what is solved, or beside it
    for setting in (one for one in LIVE if results.design.vehicle.starts or one is not Setting.CRANKING):
        held = {n: emf_v(held_v(book, batteries[n], setting.holds)) for n in read}
        terms = {name: inner_terms(book, batteries[name], setting.holds) for name in cells}
        ohms = {n: None if any(t.value is None for t in own) else inner_ohm(own) for n, own in terms.items()}
        if setting in RESTING:  # what nobody read yet is taken as any healthy battery's
            usual = table("proof", "battery")
            held = {n: float(usual["resting_v"]) if v is None else v for n, v in held.items()}
            ohms = {n: float(usual["inner_ohm"]) if ohm is None else ohm for n, ohm in ohms.items()}
        held |= _above_12_v(results, setting)
        if all(held[name] is not None for name in cells) and None not in ohms.values():
            emf[setting] = {name: float(v) for name, v in held.items() if v is not None}
            inner[setting] = {name: ohm for name, ohm in ohms.items() if ohm is not None}
    return emf, inner


def _above_12_v(results: Results, setting: Setting) -> dict[str, float | None]:
    """What a battery above 12 V itself holds, where a converter hangs on it; what charges a pack is not in the car."""
    supply, system = results.design.vehicle.supply, results.design.vehicle.supply.system.value
    pack = next(iter(results.pack_feeds), None)
    if pack is None or not results.design.vehicle.above_12_v or setting is Setting.CRANKING:
        return {}
    if not setting.holds.charging:
        return {itself(pack.battery.id): supply.post_resting_v.value}
    charged = system is SystemVoltage.V24 and supply.kind is not SupplyKind.DC_DC
    return {itself(pack.battery.id): supply.post_running_v.value if charged else None}


def _standby_a(results: Results) -> float:
    """What the car itself draws asleep [a]; what nobody read is taken as any car's."""
    read_a = results.design.vehicle.supply.standby_current_a.value
    return float(table("proof", "battery")["standby_a"]) if read_a is None else read_a


RESTING = (Setting.ASLEEP, Setting.ACCESSORY, Setting.ON)


def _spans(results: Results) -> dict[str, tuple[float, float]]:
    """Between what and what a value lies where that is known better than by practice: branches in ohms, coils by a
    factor.
    """
    network = results.power.network
    found: dict[str, tuple[float, float]] = {}
    for branch in network.branches if network is not None else ():
        faults = of_branch(network, branch, results.design.proof.faults) if network is not None else []
        planned = results.book.figures[with_fault_id(branch, faults[0])].inputs[0] if faults else branch.term
        if branch.place not in (Place.BODY, Place.STRAP) or not planned.path:
            continue
        fact = get(results.design, planned.path)
        if isinstance(fact, Fact) and None not in (fact.low, fact.high) and fact.basis is Basis.ASSUMED:
            low, high = (with_faults_ohm(float(end or 0.0), faults) for end in (fact.low, fact.high))
            found[branch.id] = (low, high)
    for battery in results.design.vehicle.supply.batteries:
        if any(held_v(results.book, battery, setting.holds)[0].value is None for setting in RESTING):
            found[f"post {battery.id}"] = (1 - _GUESSED, 1 + _GUESSED)
    found |= _of_the_pack(results)
    if results.design.vehicle.supply.standby_current_a.value is None:
        found["asleep"] = (0.0, float(table("proof", "limits")["asleep_ma"]) / (1000 * _standby_a(results)))
    for load in results.loads:  # a coil nobody read lies anywhere a coil of its nominal may
        for coil in (c for d in load.driven for c in d.coils):
            if coil.impedance_ohm and isclose(coil.dc_resistance_ohm, DC_TYPICAL * coil.impedance_ohm):
                found[f"{load.scope} {coil.name}"] = _UNREAD
    for speaker in results.design.vehicle.speakers:
        if speaker.dc_resistance_ohm.value is None:
            found[speaker.id] = _UNREAD
    return found


def _of_the_pack(results: Results) -> dict[str, tuple[float, float]]:
    """A battery above 12 V that nobody read lies anywhere in its range."""
    supply = results.design.vehicle.supply
    shares = [
        (fact.low / fact.value, fact.high / fact.value)
        for fact in (supply.post_resting_v, supply.post_running_v)
        if fact.basis is Basis.ASSUMED and fact.value and fact.low is not None and fact.high is not None
    ]
    if not shares:
        return {}
    widest = min(low for low, _ in shares), max(high for _, high in shares)
    return {f"post {itself(pack.battery.id)}": widest for pack in results.pack_feeds}


_GUESSED = float(table("proof", "battery")["share"])
_UNREAD = (DC_LOW / DC_TYPICAL, DC_HIGH / DC_TYPICAL)


def _fed(results: Results) -> Iterator[Fed]:
    """What hangs on a battery; of what is not solved yet at least what switches it on, and what it draws by itself."""
    design = results.design
    sources = {s.id: s for s in switch_sources(design)}
    switched = {link.to_id: link.from_id for link in reversed(tuple(design.links_of(RemoteLink)))}
    loads = {demand.way.part.id: replace(demand.load, at_least_a=0.0) for demand in results.power.demands}
    parts = {demand.way.part.id: demand.way.part for demand in results.power.demands}
    fed = (design.part(link.to_id) for link in design.links_of(PowerLink))
    parts |= {part.id: part for part in fed if isinstance(part, Amplifier | PoweredSubwoofer) and part.id not in parts}
    for part in parts.values():
        source_id = switched.get(part.id, "")
        source, senses = sources.get(source_id), isinstance(part, PoweredSubwoofer) and part.senses_audio
        senses |= isinstance(part, Amplifier) and part.plugs_in  # switched on over the plug of the old one
        states: frozenset[KeyState] | None = None
        if source is not None and source.states is not None:
            states = frozenset(source.states)
        elif senses or isinstance(design.part(source_id), HeadUnit | Accessory):
            states = frozenset(PLAYING)
        wired = bool(source_id) or senses
        idle = Load(current_a=part.idle_current_a)
        load = loads.get(part.id, idle)
        yield Fed(part.id, part.name, load, idle, part.standby_a or 0.0, states, source_id, wired)


def _small(results: Results) -> Iterator[SmallFeed]:
    for feed in results.feeds:
        live = feed.feed.live.value
        states = None if live is None else frozenset(live)
        yield SmallFeed(feed.link.id, feed.part.id, feed.part.name, feed.feed.id, states)
    unit = _at_the_plug(results)
    for brought in (results.design.vehicle.constant_feed, results.design.vehicle.switched_feed):
        if unit is not None and brought is not None:
            live = brought.live.value
            states = None if live is None else frozenset(live)
            yield SmallFeed(f"{unit.id}/{brought.id}", unit.id, unit.name, brought.id, states, at_plug=True)


def _at_the_plug(results: Results) -> HeadUnit | None:
    """The new radio that hangs on the old one's plug: fed by no lead of its own, the old one gone."""
    design = results.design
    fed = {link.to_id for link in design.links_of(FeedLink)}
    units = (unit for unit in design.parts_of(HeadUnit) if unit.id not in fed)
    return None if design.radio_hidden else next(units, None)


def _in_its_place(results: Results) -> dict[str, str]:
    unit = _at_the_plug(results)
    return {} if unit is None else {results.design.vehicle.radio.id: unit.id}


THIN = {"line": "RCA lead", "tap": "Signal lead", "remote": "Switch-on lead", "feed": "Feed"}


def _leads(results: Results) -> Iterator[Lead]:
    for link in results.design.links:
        if link.kind in THIN:
            run = results.runs.get(link.id)
            ends = f", {run.start_name} to {run.end_name}" if run is not None else ""
            pair = f", {pair_words(results.design, link)}" if isinstance(link, LineLink) else ""
            yield Lead(link.id, f"{THIN[link.kind]}{pair}{ends}", link.kind, link.to_id)


def _outputs(results: Results) -> Iterator[Output]:
    signals = {o.load.scope: (s, o) for s in results.signals for o in s.outputs}
    music = any(a.category in ADAPTERS for a in results.design.parts_of(Accessory))
    tone_ratio = voltage_ratio_from_db(results.design.policy.tone_dbfs)
    for load in results.loads:
        yield _of_amplifier(results, load, signals.get(load.scope), tone_ratio, music)
    taken = {name for load in results.loads for d in load.driven for name in (d.id, *d.through_net)}
    for channel in results.channel_loads:
        if not any(s.id in taken for s in channel.speakers) and channel.speakers:
            taken |= {s.id for s in channel.speakers}
            yield _of_radio(results, channel.channel.id, channel.name, channel.source.id, channel.speakers, music)
    by_pair: dict[str, list[Drive]] = {}
    for drive in results.drives:
        if drive.driven and drive.speaker.id not in taken and drive.channel is not None:
            by_pair.setdefault(drive.channel.id, []).append(drive)
    for name, drives in by_pair.items():
        channel_of, source = drives[0].channel, drives[0].source
        if channel_of is None or source is None:
            continue
        yield _of_radio(results, name, channel_of.name, source.id, tuple(d.speaker for d in drives), music)


def _of_amplifier(
    results: Results, load: LoadResult, signal: tuple[SignalResult, OutputSignal] | None, tone_ratio: float, music: bool
) -> Output:
    lead_ohm = results.lead_ohm(load)
    coils: dict[str, tuple[str, ...]] = {}
    for driven in load.driven:
        for place in driven.through_net or (driven.id,):
            coils[place] = tuple(coil.name for coil in driven.coils)
    others = {o.words: tuple(parts_of(o.wiring, None, lead_ohm)) for o in load.options if not o.chosen}
    output = Output(
        load.scope, load.channel_name, load.amplifier.id, tuple(parts_of(load.chosen.wiring, None, lead_ohm)), coils,
        _held_of(results, coils), others, adapter=music,
    )  # fmt: skip
    if signal is None:
        return output
    way, own = signal
    unit = next(results.design.parts_of(HeadUnit), None)
    figures = {name: own.figures[name].value for name in ("tone_in", "target", "clip") if name in own.figures}
    if (target := figures.get("target")) is not None:
        figures["target"] = target * played_down(results.signals, own)
    source = way.figures["source"].value
    tone_hz = own.tone_hz(results.design.policy.tone_hz)
    return replace(
        output,
        tone_hz=tone_hz,
        source_v=None if source is None else source * tone_ratio,
        in_v=figures.get("tone_in"),
        out_v=figures.get("target"),
        wanted_v=figures.get("target"),
        knob=knob_of(own),
        limit_v=figures.get("clip"),
        takes_v=way.way.span_of(load.link.channel)[1] or None,
        from_factory=way.way.tap is not None,
        radio_id=unit.id if unit is not None and way.way.tap is None else "",
        line_id=(way.way.line or way.way.tap or load.link).id,
        converter_id=way.way.converter.id if way.way.converter is not None else "",
    )


def _held_of(results: Results, coils: Mapping[str, tuple[str, ...]]) -> frozenset[str]:
    """The coils of an output that sit behind a capacitor."""
    speakers = {s.id: s for s in results.design.vehicle.speakers}
    held = [name for name in coils if name in speakers and held_back(results.design, speakers[name])]
    return frozenset(coil for name in held for coil in coils[name])


def _of_radio(
    results: Results, scope: str, name: str, source_id: str, speakers: tuple[Speaker, ...], music: bool
) -> Output:
    """An output of the car's own, or of a new radio: its speakers in parallel, or in series where they are wired so."""
    series = any(s.pairing == "series" and s.paired_with_id for s in speakers)
    new = {d.speaker.id for d in results.drives if d.by_new_radio}
    parts = []
    for n, speaker in enumerate(speakers):
        ohm = speaker.dc_resistance_ohm.value or DC_TYPICAL * _nominal_ohm(results, speaker)
        a = PLUS if n == 0 or not series else f"joint {n}"
        b = MINUS if n == len(speakers) - 1 or not series else f"joint {n + 1}"
        parts.append(Part(speaker.id, a, b, ohm))
    unit = next(results.design.parts_of(HeadUnit), None)
    owner = unit.id if unit is not None and any(s.id in new for s in speakers) else source_id
    factory = owner == source_id
    coils = {s.id: (s.id,) for s in speakers}
    behind = {d.speaker.id for d in results.drives if d.capacitor or (d.net and d.tweeter)}
    held = _held_of(results, coils) | (behind & coils.keys())
    return Output(scope, name, owner, tuple(parts), coils, held, from_factory=factory, adapter=music)


def _nominal_ohm(results: Results, speaker: Speaker) -> float:
    """The nominal impedance of what plays at a place: a new driver's, or the speaker's; 4 Ω where nobody knows."""
    drive = next((d for d in results.drives if d.speaker is speaker), None)
    own = getattr(drive.driver, "impedance_ohm", None) if drive is not None else None
    return float(own or speaker.impedance_ohm.value or USUAL_OHM)


USUAL_OHM = 4.0  # common practice
