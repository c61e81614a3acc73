"""The proof as a whole: verdicts, what a reading says beside the others by Kirchhoff, what a fault may touch."""

from __future__ import annotations

from dataclasses import fields

import networkx as nx
import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink
from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.evaluation.door import evaluate
from ohmack.core.network.faulted import changed_by
from ohmack.core.network.model import Place
from ohmack.core.planning.proving import accept, jump
from ohmack.core.prove.beside import volts_read
from ohmack.core.prove.candidates import candidates, with_fault
from ohmack.core.prove.car import Car, Output, Setting
from ohmack.core.prove.closing import closing_gate
from ohmack.core.prove.extra_checks import extra_checks
from ohmack.core.prove.faults import BASS_LOST, BASS_TONE_HZ, stricken
from ohmack.core.prove.judged import State
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.prove.points import minus_of, plus_of
from ohmack.core.prove.probes import Probe, Quantity, Taken, take
from ohmack.core.prove.windows import METER
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved

TITLES = [job.title for job in demo_jobs()]
FIVE, TWO = "Five channels, four doors and a box", "Two amplifiers, and lamps that dim"


def job(title: str) -> Design:
    return demo_design(TITLES.index(title))


def read(design: Design, check: str, **said: object) -> Design:
    tree = {"id": f"x-{len(design.proof.readings)}", "check": check, **said}
    return apply_edits(design, [Edit(op="add", path="proof/readings", value=tree)])


def volts(car: Car, plus: str, minus: str, setting: Setting) -> float:
    found = take(car, Probe(Quantity.DC_V, plus, minus, setting))
    assert found is not None
    assert found.value is not None
    return found.value


# -- verdicts -------------------------------------------------------------------------------------------------------


def jumped(design: Design, gate: int) -> Design:
    proof = evaluate(design).results.proof
    return apply_edits(design, jump(design, proof, gate, "Wen", "the meter is away", "d"))


def test_an_electric_car_is_proved_without_an_engine() -> None:
    """It has no starter to crank and no engine to whine; what its posts hold is read with the car ready."""
    electric = next(d for d in map(demo_design, range(len(demo_jobs()))) if d.title.startswith("Bass at the converter"))
    checks = [one.check for one in evaluate(electric).results.proof.checks]
    assert not [c.id for c in checks if "ngine" in c.title + c.how or "crank" in c.title]
    assert [c.title for c in checks if c.id == "live/whine"] == ["No whine as it drives"]
    fuel = apply_edits(electric, [Edit(path="vehicle/powertrain", value="combustion")])
    assert any("engine running" in one.check.title for one in evaluate(fuel).results.proof.checks)


def test_the_verdict_says_how_it_came_about(estate: Design) -> None:
    """Green is only what was read as predicted; what a name stands for is counted beside it, and what was passed over
    by name may be closed and is not proved.
    """
    all_read = proved(estate)
    checks = len(evaluate(all_read).results.proof.checks)

    def said(design: Design) -> tuple[str, str, str]:
        found = evaluate(design)
        assert found.verdict is not None
        return found.verdict.state, found.verdict.headline, found.results.proof.verdict

    assert said(all_read) == ("ready", "Done", f"Done: all {checks} checks are proved")
    assert said(proved(estate, (1, 2)))[:2] == ("open", "Being proved")
    late = [j.check.id for j in evaluate(all_read).results.proof.checks if not j.check.closing]
    assert late, "what is only known after a drive does not hold the trim"
    early = proved(estate, but=late[0])
    assert said(early)[:2] == ("ready", "Ready to close the trim")
    off = read(all_read, "live/amp/amp/running", value=11.2)
    assert said(off) == ("stopped", "Not proved", "Not proved: 1 reading is not as predicted")
    named = apply_edits(off, accept(off, evaluate(off).results.proof, "live/amp/amp/running", "Odile", "ordered", "d"))
    assert said(named) == ("ready", "Done", f"Done: {checks - 1} of {checks} checks proved, 1 accepted by name")
    over = proved(jumped(estate, 1), (2, 3))
    assert said(over) == (
        "open",
        "May be closed, not proved",
        "May be closed, not proved: 14 checks passed over by name",
    )
    nothing = read(jumped(jumped(jumped(estate, 1), 2), 3), "dead/battery", passed=True)
    assert said(nothing)[0] == "open", "one answer and three names are no proof"
    assert closing_gate(evaluate(over).results) == closing_gate(evaluate(all_read).results)


def test_what_holds_the_trim_is_counted(estate: Design) -> None:
    done = apply_edits(estate, [Edit(op="add", path="work/marks", value={"id": "m", "step": "first-power",
                                                                       "done": True})])  # fmt: skip
    almost = proved(done, but="level/volts/amp")
    assert closing_gate(evaluate(almost).results).endswith("at full level is open.")
    off = read(almost, "live/amp/amp/running", value=11.2)
    assert closing_gate(evaluate(off).results).endswith("is not as predicted and 1 more check.")
    assert "and 2 more checks" in closing_gate(evaluate(read(off, "live/lamps", passed=False)).results)


def test_a_drop_without_its_current_is_judged_by_nobody(estate: Design) -> None:
    """20 mV are well at 46 A, and mean nothing while nothing plays; too much is too much at any current."""
    name = "level/drop/amp"

    def stands(**said: object) -> State:
        found = evaluate(read(estate, name, **said)).results.proof.named(name)
        assert found is not None
        return found.state

    assert stands(value=20.0, current_a=46.0) is State.PASSED
    assert stands(value=20.0) is State.UNJUDGED
    assert stands(value=600.0) is State.OFF
    (asked,) = [f for f in evaluate(read(estate, name, value=20.0)).findings if f.rule == "reading-unjudged"]
    assert "clamp it, read again and enter both" in asked.text
    assert not evaluate(read(proved(estate), name, value=20.0)).results.proof.done


# -- the plan of proof ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("title", TITLES)
def test_no_check_waits_for_one_that_comes_later(title: str) -> None:
    """What a check needs is on the list, before it, and in no later gate: nothing is ever stuck."""
    checks = plan_of_proof(evaluate(job(title)).results)
    place = {check.id: n for n, check in enumerate(checks)}
    assert len(place) == len(checks), "no id twice"
    assert [c.gate for c in checks] == sorted(c.gate for c in checks)
    graph = nx.DiGraph((need, c.id) for c in checks for need in c.needs)
    assert nx.is_directed_acyclic_graph(graph)
    for check in checks:
        assert all(place[need] < place[check.id] for need in check.needs), check.id
        assert check.minutes > 0
    assert all(c.setting is Setting.DEAD for c in checks if c.gate == 1), "nothing of the first gate needs the fuse"


def test_every_line_is_read_once_and_every_output_by_itself() -> None:
    """Five channels on three RCA pairs: three readings going in, five coming out, five waves looked at."""
    design = job(FIVE)
    ids = [c.id for c in plan_of_proof(evaluate(design).results)]
    outputs = [f"amp/ch{n}" for n in range(1, 6)]
    assert [i for i in ids if i.startswith("level/in/")] == ["level/in/amp/ch1", "level/in/amp/ch3", "level/in/amp/ch5"]
    assert len(list(design.links_of(LineLink))) == 3
    for kind in ("out", "round"):
        assert [i for i in ids if i.startswith(f"level/{kind}/")] == [f"level/{kind}/{name}" for name in outputs]


# -- readings beside each other: Kirchhoff --------------------------------------------------------------------------


@pytest.mark.parametrize("title", [TITLES[0], FIVE, TWO, "Voices from the windscreen", "Sound for a lorry cab"])
def test_drops_round_every_loop_add_up(title: str) -> None:
    """Outside check: Kirchhoff's voltage law. From post to amplifier and back, the drop over every piece, read where a
    search reads it, is what the volts at the two ends differ by; the way is found by networkx.
    """
    found = [t for t in TITLES if t.startswith(title)]
    results = evaluate(job(found[0])).results
    car = results.car
    assert car.network is not None
    drops = {c.id.removeprefix("find/drop/"): c.probe for c in extra_checks(results) if c.id.startswith("find/drop/")}
    terminals = {b.id: Probe(Quantity.DROP_MV, b.start, b.end, Setting.LEVEL) for b in car.network.branches
                 if b.place in (Place.POSITIVE, Place.NEGATIVE)}  # fmt: skip
    assert drops.keys() | terminals.keys() == {b.id for b in car.network.branches}
    graph = nx.Graph()
    for branch in car.network.branches:
        graph.add_edge(branch.start, branch.end, branch=branch)
    for consumer in car.network.consumers:
        cell = next(c for c in car.network.cells if c.id == consumer.cell_id)
        way = [*nx.shortest_path(graph, cell.plus, consumer.plus), *nx.shortest_path(graph, consumer.minus, cell.minus)]
        lost_v = 0.0
        for start, end in zip(way, way[1:], strict=False):
            if (start, end) == (consumer.plus, consumer.minus):
                continue
            branch = graph.edges[start, end]["branch"]
            taken = take(car, (drops | terminals)[branch.id])
            assert taken is not None
            assert taken.value is not None
            lost_v += taken.value / 1000 * (1 if (branch.start, branch.end) == (start, end) else -1)
        post_v = volts(car, cell.plus, cell.minus, Setting.LEVEL)
        assert lost_v == pytest.approx(post_v - volts(car, consumer.plus, consumer.minus, Setting.LEVEL), abs=1e-6)
        assert 0 < lost_v < 3


def test_what_sleeps_adds_up() -> None:
    """Kirchhoff's current law at the negative post: the car's own 0.31 A; with the amplifier's feed live for ever, what
    it idles at comes on top.
    """
    car = evaluate(job("Camper sound from the leisure battery")).results.car
    probe = Probe(Quantity.ASLEEP_MA, setting=Setting.ASLEEP)
    (fed,) = car.fed
    always = stricken(car, (Fault(id="f", kind=FaultKind.WRONG_FEED, at=fed.source_id, other="constant"),))
    for there, wanted_a in ((car, car.standby_a), (always, (car.standby_a or 0.0) + fed.idle.current_a)):
        taken = take(there, probe)
        assert taken is not None
        assert taken.value == pytest.approx(1000 * (wanted_a or 0.0), rel=0.002)


def test_speakers_of_the_car_in_series_read_their_sum() -> None:
    """Outside check: resistances in series add, in parallel by reciprocals; a headrest pair is wired in series. A
    capacitor in line with the pair passes no direct current.
    """
    design = job("Voices beside the ears")
    held = [part for part in design.parts if part.kind == "series capacitor"]
    assert held
    bare = apply_edits(design, [Edit(op="remove", path=f"parts/{part.id}") for part in held])
    probe = Probe(Quantity.OHM, plus_of("ch-rear-left"), minus_of("ch-rear-left"))
    assert take(evaluate(design).results.car, probe) == Taken(over=True)
    car = evaluate(bare).results.car
    output = car.output("ch-rear-left")
    assert output is not None
    ohms = [p.impedance_ohm for p in output.parts]
    assert len(ohms) == 2
    taken = take(car, probe)
    assert taken is not None
    assert taken.value == pytest.approx(sum(ohms))
    one_off = Fault(id="f", kind=FaultKind.COIL_OPEN, at=output.scope, other=output.parts[0].name)
    silent = stricken(car, (one_off,))
    assert take(silent, probe) == Taken(over=True), "in series one open coil opens the pair"
    assert not any(silent.heard(place) for place in output.coils)


def test_what_was_read_is_shown_at_the_planned_current(estate: Design) -> None:
    """Ohm's law: 56 mV while half the current flows are 112 mV at all of it."""
    live = evaluate(estate).results.car.live(Setting.LEVEL)
    assert live is not None
    half_a = round(live.current_a["amp"] / 2, 1)
    shown = volts_read(evaluate(read(estate, "level/drop/amp", value=56.0, current_a=half_a)).results, "amp")
    assert shown is not None
    assert shown.rise_v == pytest.approx(0.112, rel=0.005)
    assert shown.across_v is None
    assert shown.good
    assert shown.words == f"read ground {1000 * shown.rise_v:.0f} mV"
    far = volts_read(evaluate(read(estate, "level/drop/amp", value=560.0, current_a=half_a)).results, "amp")
    assert far is not None
    assert not far.good


@pytest.mark.parametrize("title", [TITLES[0], TWO])
def test_a_window_says_what_makes_it_so_wide(title: str) -> None:
    """Outside check: variances of what does not know of each other add up (textbook). What is named makes nearly all of
    the width, and no more than it: an even stretch counts a third of its square, the meter's two deviations a quarter.
    """
    judged = [j for j in evaluate(job(title)).results.proof.checks if j.window is not None and j.window.moves]
    assert len(judged) > 15
    for one in judged:
        assert one.window is not None
        named = sum(m.by**2 / (4 if m.words == METER else 3) for m in one.window.moves)
        assert 0.75 * one.window.sigma**2 < named <= 1.000001 * one.window.sigma**2, one.check.id
        assert len({m.words for m in one.window.moves}) == len(one.window.moves)
        assert [m.by for m in one.window.moves] == sorted((m.by for m in one.window.moves), reverse=True)
    why = {j.check.id: j.why for j in judged}
    assert why["live/post/battery/on" if title == TITLES[0] else "live/post/battery-2/on"].startswith("Planned 12.")
    assert "battery holds" in why["level/volts/amp"]
    assert "draws without music" in why["live/idle/amp"]
    assert "coils read" in why["dead/pair/amp"]


# -- what a fault may touch -----------------------------------------------------------------------------------------

OF_ONE_OUTPUT = (
    FaultKind.WRONG_COILS, FaultKind.COIL_OPEN, FaultKind.COIL_SHORTED, FaultKind.PAIR_OPEN, FaultKind.PAIR_TO_BODY,
    FaultKind.PAIR_SHARED,
    FaultKind.REVERSED,
)  # fmt: skip


def differing(one: Car, other: Car) -> set[str]:
    """The outputs at which two cars are not alike."""
    pairs = zip(one.outputs, other.outputs, strict=True)
    return {a.scope for a, b in pairs if any(getattr(a, f.name) != getattr(b, f.name) for f in fields(Output))}


def beside(scope: str) -> str:
    """The other channel of a pair, which has one knob (common practice, no source)."""
    amplifier, _, channel = scope.partition("/ch")
    return f"{amplifier}/ch{(int(channel) - 1 ^ 1) + 1}" if channel else ""


@pytest.mark.parametrize("title", [FIVE, TWO, TITLES[0], "Voices from the windscreen", "Bass at the converter"])
def test_a_fault_touches_what_hangs_behind_it_and_nothing_else(title: str) -> None:
    """By the wiring of the plan: one output, the two that were exchanged or have one knob, those on one line, those of
    one amplifier, those behind one converter; a fault of the supply leaves every output as it is wired.
    """
    results = evaluate(job(next(t for t in TITLES if t.startswith(title)))).results
    car = results.car
    kinds = set()
    for candidate in candidates(results):
        fault = candidate.fault
        kinds.add(fault.kind)
        touched = differing(car, with_fault(car, candidate))
        behind = {
            FaultKind.CROSSED: {fault.at, fault.other},
            FaultKind.WRONG_GAIN: {fault.at, beside(fault.at)} & {o.scope for o in car.outputs},
            FaultKind.BAD_JOINT: {fault.at} & {o.scope for o in car.outputs},  # of an output, or of a thin lead
            FaultKind.NO_SIGNAL: {o.scope for o in car.outputs if o.line_id == fault.at},
            FaultKind.INPUT_OVERLOAD: {o.scope for o in car.outputs if o.owner_id == fault.at and o.in_v is not None},
            FaultKind.CONVERTER_RANGE: {o.scope for o in car.outputs if o.converter_id == fault.at},
            FaultKind.THIN_SOURCE: {o.scope for o in car.outputs if o.from_factory},
            FaultKind.BASS_LOST: {o.scope for o in car.outputs if o.from_factory},
        }
        if fault.kind in OF_ONE_OUTPUT:
            assert touched == {fault.at}, candidate.words
        elif fault.kind in behind:
            assert touched == behind[fault.kind], candidate.words
            assert touched or fault.kind is FaultKind.BAD_JOINT, candidate.words
        elif fault.kind is not FaultKind.DEAD_ADAPTER:
            assert not touched, candidate.words
    assert {FaultKind.BAD_GROUND, FaultKind.REVERSED, FaultKind.NO_SIGNAL} <= kinds


def test_a_source_that_takes_the_bass_away_takes_it_from_the_bass(estate: Design) -> None:
    """9 dB at the subwoofer's tone, at source, input and output alike; a tone of the middle reads as it did."""
    car = evaluate(estate).results.car
    fault = Fault(id="f", kind=FaultKind.BASS_LOST, at="source")
    (was,) = [o for o in car.outputs if o.out_v is not None]
    assert was.tone_hz <= BASS_TONE_HZ
    now = stricken(car, (fault,)).output(was.scope)
    assert now is not None
    for field in ("source_v", "in_v", "out_v"):
        assert getattr(now, field) == pytest.approx(BASS_LOST * getattr(was, field)), field
    middle = Car(car.network, car.emf_v, car.inner_ohm, car.fed, car.small,
                 tuple(_at_tone(o, 1000.0) for o in car.outputs))  # fmt: skip
    kept = stricken(middle, (fault,)).output(was.scope)
    assert kept is not None
    assert (kept.in_v, kept.out_v) == (was.in_v, was.out_v)
    assert not kept.bass


def _at_tone(output: Output, tone_hz: float) -> Output:
    return Output(**{f.name: getattr(output, f.name) for f in fields(Output)} | {"tone_hz": tone_hz})


@pytest.mark.parametrize(
    ("kind", "at", "shows"),
    [
        (FaultKind.BLOWN_FUSE, "power-amp/fuse", (True, True, False)),
        (FaultKind.NO_SWITCH_ON, "amp", (True, True, False)),
        (FaultKind.BLOWN_FUSE, "feed-converter", (True, False, False)),
        (FaultKind.NO_SIGNAL, "line-amp", (True, False, False)),
        (FaultKind.REVERSED, "amp", (True, True, True)),
    ],
)
def test_a_level_is_where_the_signal_still_is(
    kind: FaultKind, at: str, shows: tuple[bool, bool, bool], estate: Design
) -> None:
    """An amplifier without power gives nothing, and what comes before it plays on into it; a converter without power
    leaves its input silent; polarity no meter sees.
    """
    car = evaluate(estate).results.car
    assert car.network is not None
    if at.endswith("/fuse"):
        at = next(b.id for b in car.network.branches if b.place is Place.FUSE)
    broken = stricken(car, (Fault(id="f", kind=kind, at=at, other="sub" if kind is FaultKind.REVERSED else ""),))
    for where, there in zip(("source", "input", "output"), shows, strict=True):
        probe = Probe(Quantity.AC_V, where, setting=Setting.LEVEL, subject="amp")
        sound, found = take(car, probe), take(broken, probe)
        assert sound is not None
        assert found is not None
        assert found.value == (sound.value if there else 0.0), where


@pytest.mark.parametrize("title", [TITLES[0], "Two amplifiers, and lamps that dim"])
def test_a_run_on_the_body_reads_whole_and_not_clear_and_blows_its_fuse(title: str) -> None:
    """By the meter with the fuse out (common practice, no source): a run that touches the body is whole from end to
    end and not clear of the body; one that is off or cut is clear, and not whole. With the fuse in both leave the
    terminal without volts, the first by the fuse before it: its own, or that of the block it starts at.
    """
    results = evaluate(job(title)).results
    car = results.car
    network = car.network
    assert network is not None
    places = {branch.id: branch for branch in network.branches}
    kinds = (FaultKind.RUN_TO_BODY, FaultKind.OPEN_RUN)
    found = [c for c in candidates(results) if c.fault.kind in kinds]
    runs = [b.id for b in network.branches if b.place is Place.RUN]
    assert sorted(c.fault.at for c in found) == sorted([*runs, *runs])
    for candidate in found:
        touches = candidate.fault.kind is FaultKind.RUN_TO_BODY
        run, broken = places[candidate.fault.at], with_fault(car, candidate)
        whole = take(broken, Probe(Quantity.OHM, run.start, run.end, Setting.DEAD))
        clear = take(broken, Probe(Quantity.OHM, run.end, "body", Setting.DEAD))
        assert whole.over is not touches
        assert clear.over is not touches
        fuse = changed_by(network, candidate.fault)
        assert places[fuse].place is (Place.FUSE if touches else Place.RUN)
        live = broken.live(Setting.ON)
        assert live is not None
        behind = [
            f.id for f in car.fed if fuse.rpartition("/")[0] in {k.id for k in results.power.demand(f.id).way.power}
        ]
        assert behind
        assert all(abs(live.volts[f"{name} plus"] - live.volts[f"{name} minus"]) < 1.0 for name in behind)


def test_what_is_proved_in_the_car_has_come(estate: Design) -> None:
    begun = read(estate, "dead/ground/amp", value=0.04)
    (told,) = [f for f in evaluate(begun).findings if f.rule == "proved-not-here"]
    assert told.title == "Tessel M500 and 6 more: proved in the car, and not here by the list"
    assert told.remedy is not None
    here = apply_edits(begun, told.remedy.edits)
    assert all(part.at_hand for part in here.parts)
    assert "proved-not-here" not in {f.rule for f in evaluate(here).findings}
    assert "proved-not-here" not in {f.rule for f in evaluate(estate).findings}
