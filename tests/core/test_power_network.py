"""The power network: generated networks and whole cars against ngspice, the laws of Kirchhoff, blocks, body points
and two batteries.
"""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest
from scipy.optimize import fsolve

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.figure import Reading, Term
from ohmack.core.figures.finding import Severity
from ohmack.core.network.model import Branch, Cell, Consumer, Place, PowerNetwork
from ohmack.core.network.solve import Solution, nodal_ports, node_voltages_v, ports, solve
from ohmack.core.network.states import State
from ohmack.core.physics.supply import Load, held_voltage_v, network_voltages_v
from ohmack.core.supply.results import At, SupplyResult
from ohmack.core.supply.study import Condition, Study
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.spice_netlist import netlist
from references import ngspice_text

S = "vehicle/supply"


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def add(path: str, value: Any) -> Edit:
    return Edit(op="add", path=path, value=value)


def generated(seed: int) -> tuple[PowerNetwork, Condition]:
    """A tree of one to three blocks from one or two batteries, one to twelve consumers at the body, at a post or at a
    ground block.
    """
    dice = random.Random(seed)
    batteries = dice.choice((1, 1, 2))
    cells = tuple(Cell(f"b{i}", f"b{i} plus", f"b{i} minus") for i in range(batteries))
    branches: list[Branch] = []

    def wire(start: str, end: str, low: float, high: float, warms: bool = False) -> str:
        ohm = 0.0 if dice.random() < 0.05 else dice.uniform(low, high)
        branches.append(Branch(f"r{len(branches)}", Place.RUN, start, end, Term("piece", ohm, "ohm"), warms))
        return branches[-1].id

    for cell in cells:
        wire("body", cell.minus, 2e-4, 2e-3)
    sources = [cell.plus for cell in cells]
    for n in range(dice.randint(0, 3)):
        wire(dice.choice(sources), f"block{n}", 1e-3, 6e-3, True)
        sources.append(f"block{n}")
    grounds = ["body", "point", "ground block", cells[0].minus]
    wire("point", "body", 5e-4, 5e-3)
    wire("ground block", "point", 5e-4, 3e-3, True)
    consumers, loads = [], {}
    most_w = dice.choice((300, 600))
    for k in range(dice.randint(1, 6 if most_w == 600 else 12)):
        wire(dice.choice(sources), f"c{k} plus", 1e-3, 9e-3, True)
        wire(f"c{k} minus", dice.choice(grounds), 5e-4, 3e-3, True)
        consumers.append(Consumer(f"c{k}", "b0", f"c{k} plus", f"c{k} minus", ()))
        loads[f"c{k}"] = dice.choice(
            (
                Load(power_w=dice.uniform(40, most_w), current_a=dice.uniform(0.2, 2)),
                Load(conductance_s=dice.uniform(0.5, 3), current_a=0.8),
                Load(current_a=dice.uniform(1, most_w / 20)),
                Load(power_w=dice.uniform(40, most_w / 2), at_least_a=dice.uniform(most_w / 30, most_w / 12)),
            )
        )
    emf = {c.id: dice.uniform(11.8, 14.4) for c in cells}
    inner = {c.id: dice.choice((0.0, 0.004)) for c in cells}
    return PowerNetwork(tuple(branches), cells, tuple(consumers)), Condition(emf, inner, dice.choice((1.0, 1.2)), loads)


def assert_kirchhoff(network: PowerNetwork, condition: Condition, solution: Solution) -> None:
    """Every node's currents sum to nothing, every branch obeys Ohm's law, every consumer draws what its load says."""
    folded = ports(network, condition.emf_v, condition.inner_ohm, condition.warm)
    node_v = node_voltages_v(network, folded, solution, condition.emf_v, condition.inner_ohm)
    sums = dict.fromkeys(node_v, 0.0)
    for branch in network.branches:
        amps = solution.branch_a[branch.id]
        ohm = branch.resistance_ohm * (condition.warm if branch.warms else 1.0)
        assert node_v[branch.start] - node_v[branch.end] == pytest.approx(ohm * amps, abs=1e-9)
        sums[branch.start] += amps
        sums[branch.end] -= amps
    for consumer in network.consumers:
        amps = solution.current_a[consumer.id]
        sums[consumer.plus] += amps
        sums[consumer.minus] -= amps
        if consumer.id in solution.voltage_v:
            volts = solution.voltage_v[consumer.id]
            assert amps == pytest.approx(condition.loads[consumer.id].current_at(volts), rel=1e-9)
            assert volts == pytest.approx(node_v[consumer.plus] - node_v[consumer.minus], abs=1e-9)
    posts = {node for cell in network.cells for node in (cell.plus, cell.minus)}
    assert all(abs(total) < 1e-8 for node, total in sums.items() if node not in posts)
    for cell in network.cells:
        given = sums.get(cell.plus, 0.0)
        assert sums.get(cell.minus, 0.0) == pytest.approx(-given, abs=1e-8)
        held = condition.emf_v[cell.id] - given * condition.inner_ohm.get(cell.id, 0.0)
        assert node_v[cell.plus] - node_v[cell.minus] == pytest.approx(held, abs=1e-9)


def assert_as_ngspice(study: Study, state: State) -> int:
    """The consumers' voltages against ngspice within 0.1 %, where ngspice finds an operating point of its own."""
    solution = study.solutions[state]
    if solution.collapsed or study.network is None:
        return 0
    theirs = ngspice_text(netlist(study, state))
    ours = [solution.voltage_v[c.id] for c in study.network.consumers]
    assert theirs == pytest.approx(ours, rel=1e-3)
    return len(ours)


@pytest.mark.parametrize("seed", [3, 7, 11, 21, 34])
def test_the_load_at_which_a_network_collapses_is_the_fold_of_its_equations(seed: int) -> None:
    """All loads raised together: where no solution is found any more is, within 0.5 %, where the determinant of the
    equations' derivative is nothing, as scipy finds it.
    """
    dice = random.Random(seed)
    n = dice.randint(2, 6)
    shared = dice.uniform(2e-3, 6e-3)
    ohm = np.full((n, n), shared) + np.diag([dice.uniform(2e-3, 1.5e-2) for _ in range(n)])
    watts = np.array([dice.uniform(50, 400) for _ in range(n)])
    emf = 13.8

    def holds(times: float) -> bool:
        try:
            network_voltages_v([emf] * n, ohm, [Load(power_w=float(w) * times) for w in watts])
        except NoOperatingPoint:
            return False
        return True

    low, high = 0.0, 1.0
    while holds(high):
        high *= 2
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)

    def fold(x: np.ndarray) -> np.ndarray:
        volts, times = x[:n], x[n]
        jacobian = np.eye(n) - ohm @ np.diag(times * watts / volts**2)
        return np.append(emf - ohm @ (times * watts / volts) - volts, np.linalg.det(jacobian))

    # begun at the voltages of nearly that load: the fold of the upper solution is the nearest one
    near = network_voltages_v([emf] * n, ohm, [Load(power_w=float(w) * low * 0.999) for w in watts])
    found = fsolve(fold, np.append(near, low), xtol=1e-12)
    assert low == pytest.approx(found[n], rel=0.005)
    assert fold(found) == pytest.approx(np.zeros(n + 1), abs=1e-6)


def test_generated_networks_against_ngspice() -> None:
    """Forty generated networks of one to twelve consumers: Kirchhoff's laws to 1e-8, ngspice to 0.1 %."""
    compared, collapsed = 0, 0
    for seed in range(40):
        network, condition = generated(seed)
        solution = solve(network, ports(network, condition.emf_v, condition.inner_ohm, condition.warm), condition.loads)
        assert_kirchhoff(network, condition, solution)
        study = Study(network=network, solutions={State.RUNNING: solution}, conditions={State.RUNNING: condition})
        compared += assert_as_ngspice(study, State.RUNNING)
        collapsed += bool(solution.collapsed)
    assert compared > 90
    assert collapsed < 10


def several(estate: Design, count: int, fed_from: str = "battery", **more: Any) -> Design:
    """The estate with more amplifiers like its own, every one with its driver, supply and ground."""
    amp, driver = (estate.part(n).model_dump(mode="json") for n in ("amp", "sub"))  # type: ignore[union-attr]
    edits = []
    for n in range(2, count + 1):
        edits += [
            add("parts", driver | {"id": f"sub-{n}", "name": f"Driver {n}"}),
            add("parts", amp | {"id": f"amp-{n}", "name": f"Amplifier {n}"} | more),
            add("links", {"id": f"power-{n}", "kind": "power", "from_id": fed_from, "to_id": f"amp-{n}"}),
            add("links", {"id": f"ground-{n}", "kind": "ground", "from_id": f"amp-{n}", "to_id": "ground-rear"}),
            add("links", {"id": f"speaker-{n}", "kind": "speaker", "from_id": f"amp-{n}", "to_id": f"sub-{n}"}),
        ]
    return apply_edits(estate, edits)


BLOCK = {
    "id": "block",
    "kind": "distribution block",
    "name": "Rear block",
    "in_area_max_mm2": 53.0,
    "out_area_max_mm2": 34.0,
    "ways": 4,
    "fused": True,
    "position": {"x_m": 3.3, "y_m": -0.5},
}
MAIN = {
    "id": "main",
    "kind": "power",
    "from_id": "battery",
    "to_id": "block",
    "fuse": {"from_source_m": {"value": 0.3, "basis": "measured"}},
    "tape_length_m": {"value": 4.6, "basis": "measured"},
}


def through_a_block(estate: Design, count: int) -> Design:
    """Several amplifiers on one main run and a block with a fuse on every way."""
    short = {"value": 0.6, "basis": "measured"}
    moved = [
        put("links/power-amp/from_id", "block"),
        put("links/power-amp/way_points", []),
        put("links/power-amp/tape_length_m", short),
    ]
    with_block = apply_edits(estate, [add("parts", BLOCK), add("links", MAIN), *moved])
    return apply_edits(
        several(with_block, count, "block"), [put(f"links/power-{n}/tape_length_m", short) for n in range(2, count + 1)]
    )


def camper(estate: Design) -> Design:
    """A second battery at the rear, both amplifiers' currents through one body."""
    camp = {
        "id": "camp",
        "name": "Camp battery",
        "role": "leisure",
        "position": {"x_m": 3.9, "y_m": 0.5},
        "own_running_v": {"value": 13.5, "basis": "measured"},
        "own_resting_v": {"value": 12.7, "basis": "measured"},
        "cca_a": {"value": 500, "basis": "documented"},
    }
    both = apply_edits(
        several(estate, 3),
        [add(f"{S}/batteries", camp), put("links/power-2/from_id", "camp"), put("links/power-3/from_id", "camp")],
    )
    front = {
        "id": "ground-front",
        "name": "Front stud",
        "position": {"x_m": 1.0, "y_m": 0.4},
        "kind": {"value": "bare-metal stud", "basis": "measured"},
        "body_return_ohm": {"value": 0.0006, "basis": "measured"},
    }
    return apply_edits(both, [add("vehicle/ground_points", front), put("links/ground-3/to_id", "ground-front")])


def smart(design: Design) -> Design:
    """The same car with a smart alternator, a relay between its batteries, and every post read."""
    return apply_edits(
        design,
        [
            put(f"{S}/kind", "smart alternator"),
            measured(f"{S}/post_traffic_v", 12.6),
            measured(f"{S}/post_loaded_v", 13.4),
            measured(f"{S}/split_charging", "relay"),
        ],
    )


def crossed(estate: Design) -> Design:
    """The camper with its first amplifier fed by the first battery and grounded at the other one's post."""
    car = camper(estate)
    camp = next(b for b in car.vehicle.supply.batteries if b.id == "camp")
    post = {
        "id": "camp-post",
        "name": "Post of the other battery",
        "position": camp.position.model_dump(),
        "kind": {"value": "battery negative", "basis": "measured"},
    }
    return apply_edits(car, [add("vehicle/ground_points", post), put("links/ground-amp/to_id", "camp-post")])


CARS = {
    "one": lambda d: d,
    "three": lambda d: several(d, 3),
    "six": lambda d: several(d, 6, ratings=[{"load_ohm": 2.0, "power_w": 150.0}]),
    "block": lambda d: through_a_block(d, 3),
    "camper": camper,
    "crossed": crossed,
    "unregulated": lambda d: several(d, 2, regulated=False),
    "by fuses": lambda d: apply_edits(several(d, 2), [put("policy/current_school", "amplifier fuses")]),
}


@pytest.mark.parametrize("name", CARS)
def test_whole_cars_against_ngspice_in_every_state(estate: Design, name: str) -> None:
    """What the sheets show is what another solver makes of the exported netlist, in every state the car has."""
    evaluation = evaluate(smart(CARS[name](estate)))
    study = evaluation.results.power
    assert set(study.solutions) == {State.RUNNING, State.HOT, State.ENGINE_OFF, State.TRAFFIC, State.IDLING}
    for state, solution in study.solutions.items():
        assert not solution.collapsed, state
        assert study.network is not None
        assert_kirchhoff(study.network, study.conditions[state], solution)
        assert assert_as_ngspice(study, state) == len(study.demands)
        condition = study.conditions[state]
        nodal = nodal_ports(study.network, condition.emf_v, condition.inner_ohm, condition.warm)
        along = ports(study.network, condition.emf_v, condition.inner_ohm, condition.warm)
        assert along.open_v == pytest.approx(nodal.open_v, abs=1e-9)
        for ours, theirs in zip(along.resistance_ohm, nodal.resistance_ohm, strict=True):
            assert ours == pytest.approx(theirs, abs=1e-12)
    for supply in evaluation.results.supplies:
        if not supply.is_main:
            assert_the_loop_adds_up(supply)
            read = {
                "voltage": State.RUNNING,
                "resting": State.ENGINE_OFF,
                "traffic": State.TRAFFIC,
                "idling": State.IDLING,
            }
            for key, state in read.items():
                assert supply.figures[key].value == study.solutions[state].voltage_v[supply.part.id]


def assert_the_loop_adds_up(supply: SupplyResult) -> None:
    """Kirchhoff: what the segments lose is what is missing at the terminals, and the wire chosen was judged with
    that very loss.
    """
    lost = sum(s.resistance_ohm * s.current_a for s in supply.segments)
    source_v = supply.source_v or 0.0
    assert source_v - lost == pytest.approx(supply.figures["voltage"].value, abs=1e-9)
    assert supply.figures["drop"].value == pytest.approx(lost, abs=1e-12)
    assert supply.figures["loop"].value == pytest.approx(sum(s.resistance_ohm for s in supply.segments))
    assert supply.chosen is not None
    assert supply.chosen.drop_v == pytest.approx(lost, abs=1e-9)
    assert supply.chosen.current_a == pytest.approx(supply.figures["current"].value, rel=1e-9)


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_every_figure_is_what_its_working_says(number: int) -> None:
    """Formulas from the terms shown, readings from what was solved; nothing is empty without a reason."""
    design = demo_design(number)
    for evaluation in (evaluate(design), evaluate(design).whole):
        for figure in evaluation.figures.values():
            if figure.value is None:
                assert figure.missing or figure.refused, figure.id
                continue
            again = figure.again()
            assert again == (pytest.approx(figure.value, rel=1e-12) if isinstance(again, float) else figure.value), (
                figure.id
            )
            assert figure.made_by is not None
            by = figure.made_by
            assert figure.formula == (by.said_of(figure.read_from) if isinstance(by, Reading) else by.text)
            if isinstance(figure.made_by, Reading) and isinstance(figure.read_from, At):
                assert figure.read_from.solution in evaluation.results.power.solutions.values()


def test_a_fuse_before_a_block_protects_what_is_behind_it(estate: Design) -> None:
    """A way out of the block needs no fuse of its own behind a fused main run, and one where that has none."""
    block = {**BLOCK, "fused": False}
    moved = [put("links/power-amp/from_id", "block"), put("links/power-amp/fuse", None)]
    fused = apply_edits(estate, [add("parts", block), add("links", MAIN), *moved])

    def missing(design: Design) -> list[str]:
        return sorted(f.about for f in evaluate(design).findings if f.rule == "fuse-missing")

    assert missing(fused) == []
    assert missing(apply_edits(fused, [put("links/main/fuse", None)])) == ["main", "power-amp"]


def test_a_block_shares_its_main_run(estate: Design) -> None:
    """Two equal amplifiers behind one main run: by Kirchhoff it carries both, each branch its own, and the main fuse
    is sized for the sum.
    """
    evaluation = evaluate(apply_edits(through_a_block(estate, 2), [measured(f"{S}/body_return_ohm", 0.0006)]))
    main = next(s for s in evaluation.results.supplies if s.is_main)
    one, two = (s for s in evaluation.results.supplies if not s.is_main)
    total = one.figures["current"].value + two.figures["current"].value
    assert main.figures["current"].value == pytest.approx(total)
    run = next(s for s in one.segments if s.link_id == "main" and s.place is Place.RUN)
    own = next(s for s in one.segments if s.link_id == "power-amp" and s.place is Place.RUN)
    assert run.current_a == pytest.approx(total)
    assert own.current_a == pytest.approx(one.figures["current"].value)
    assert main.figures["fuse"].value >= total / 0.8
    assert main.chosen is not None
    assert main.chosen.ampacity_a >= main.figures["fuse"].value
    assert main.chosen.wire.area_mm2 > max(c.chosen.wire.area_mm2 for c in (one, two) if c.chosen)
    assert max(one.figures["drop"].value, two.figures["drop"].value) <= estate.policy.drop_limit_v
    assert not [f for f in evaluation.findings if f.severity is Severity.STOP and f.stage == "supply"]


def test_a_way_without_a_fuse_is_protected_by_the_fuse_before_it(estate: Design) -> None:
    """ABYC E-11 (from memory): a wire thinner than its fuse allows needs its own; without one its wire must carry
    the main fuse.
    """
    plain = apply_edits(
        through_a_block(estate, 2),
        [put("parts/block/fused", False), put("links/power-amp/fuse", None), put("links/power-2/fuse", None)],
    )
    evaluation = evaluate(plain)
    main = next(s for s in evaluation.results.supplies if s.is_main)
    for supply in (s for s in evaluation.results.supplies if not s.is_main):
        assert supply.chosen is not None
        assert supply.chosen.ampacity_a >= main.figures["fuse"].value
        assert supply.figures["fuse"].value == main.figures["fuse"].value
        assert not [s for s in supply.segments if s.link_id == supply.link.id and s.place is Place.FUSE]
    thin = evaluate(apply_edits(plain, [put("links/power-2/wire/size", "10 AWG")]))
    said = [f for f in thin.findings if f.rule == "fuse-above-ampacity" and f.about == "power-2"]
    assert len(said) == 1
    assert f"{main.figures['fuse'].value:g} A fuse" in said[0].title


def test_a_ground_points_own_reading_replaces_the_common_body(estate: Design) -> None:
    """Ohm's law: two points with readings of their own share only the strap."""
    two = several(estate, 2)
    stud = {
        "id": "stud-2",
        "name": "Second stud",
        "position": {"x_m": 3.8, "y_m": 0.5},
        "kind": {"value": "bare-metal stud", "basis": "measured"},
        "body_return_ohm": {"value": 0.0031, "basis": "measured"},
    }
    apart = evaluate(apply_edits(two, [add("vehicle/ground_points", stud), put("links/ground-2/to_id", "stud-2")]))
    first, second = apart.results.supplies
    body = {s.part.id: next(g for g in s.segments if g.place is Place.BODY) for s in (first, second)}
    assert body["amp-2"].resistance_ohm == 0.0031
    assert body["amp-2"].current_a == pytest.approx(second.figures["current"].value)
    assert body["amp"].current_a == pytest.approx(first.figures["current"].value)
    strap = next(g for g in first.segments if g.place is Place.STRAP)
    assert strap.current_a == pytest.approx(first.figures["current"].value + second.figures["current"].value)
    together = evaluate(two).results.supplies[0]
    assert (together.figures["drop"].value or 0) > (first.figures["drop"].value or 0)


def test_a_second_batterys_post_follows_the_first_in_traffic_only_through_a_relay(estate: Design) -> None:
    """A relay or diode ties the posts, a charger holds its own (common practice, no source)."""
    car = smart(camper(estate))
    read = {}
    for split in ("relay", "DC-DC charger"):
        evaluation = evaluate(apply_edits(car, [measured(f"{S}/split_charging", split)]))
        read[split] = evaluation.results.power.conditions[State.TRAFFIC].emf_v
    fall = car.vehicle.supply.post_running_v.value - 12.6  # type: ignore[operator]
    assert read["relay"] == {"battery": 12.6, "camp": pytest.approx(13.5 - fall)}
    assert read["DC-DC charger"] == {"battery": 12.6, "camp": 13.5}


def test_a_least_current_is_held_or_refused() -> None:
    """A load designed for its fuses draws at least that: E - R I; where neither fits there is no operating point."""
    assert held_voltage_v(14.0, 0.01, Load(power_w=100, at_least_a=40)) == pytest.approx(13.6)
    natural = Load(power_w=600, at_least_a=10)
    assert held_voltage_v(14.0, 0.01, natural) == held_voltage_v(14.0, 0.01, Load(power_w=600))
    with pytest.raises(NoOperatingPoint):
        held_voltage_v(14.0, 0.1, Load(power_w=100, at_least_a=150))
    pair = network_voltages_v(14.0, 0.005 + 0.005 * _eye(2), [Load(power_w=100, at_least_a=40), Load(power_w=300)])
    assert 14.0 - pair[0] == pytest.approx(0.01 * 40 + 0.005 * 300 / pair[1])


def _eye(n: int) -> Any:
    import numpy as np

    return np.eye(n)


def test_only_what_collapses_is_refused(estate: Design) -> None:
    """A neighbour grounded straight at the battery shares nothing, so it keeps its figures when the other collapses."""
    post = {
        "id": "post-ground",
        "name": "Negative post",
        "position": {"x_m": 0.5, "y_m": -0.4},
        "kind": {"value": "battery negative", "basis": "measured"},
    }
    pair = apply_edits(
        several(estate, 2),
        [
            add("vehicle/ground_points", post),
            put("links/ground-2/to_id", "post-ground"),
            measured(f"{S}/body_return_ohm", 0.12),
        ],
    )
    evaluation = evaluate(pair)
    assert {f.about for f in evaluation.findings if f.rule == "supply-collapses"} == {"power-amp"}
    assert evaluation.figures["amp/at_amplifier_v"].value is None
    other = next(s for s in evaluation.results.supplies if s.part.id == "amp-2")
    assert_the_loop_adds_up(other)
    assert not [g for g in other.segments if g.place in (Place.BODY, Place.STRAP)]
