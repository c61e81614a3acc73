"""Networks by nodal analysis against a circuit simulator; what a meter shows at a wired output, and what is wrong."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads.meter import meaning_of, parts_of, points, wrong_readings
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.nodal import OPEN_OHM, Part, resistance_ohm, solve
from ohmack.core.physics.speaker_loads import Coil, wirings
from references import ngspice_text

HZ = 120.0
VALUES = {"R": st.floats(0.5, 20), "L": st.floats(1e-4, 2e-2), "C": st.floats(1e-6, 4e-4)}


def impedance(kind: str, value: float, hz: float) -> complex:
    s = 2j * pi * hz
    return {"R": value, "L": s * value, "C": 1 / (s * value)}[kind]


@settings(deadline=None, max_examples=30)
@given(data=st.data(), nodes=st.integers(2, 6))
def test_random_networks_are_what_a_circuit_simulator_makes_of_them(data: st.DataObject, nodes: int) -> None:
    """Resistors, coils and capacitors between random nodes, by ngspice's AC analysis within 0.1 %."""
    ring = [(n, (n + 1) % nodes) for n in range(nodes)]  # connected, whatever else is drawn
    pairs = st.tuples(st.integers(0, nodes - 1), st.integers(0, nodes - 1)).filter(lambda ends: ends[0] != ends[1])
    ends = ring + data.draw(st.lists(pairs, max_size=6))
    kinds = [data.draw(st.sampled_from("RLC")) for _ in ends]
    values = [data.draw(VALUES[kind]) for kind in kinds]
    lines = ["* network", "v1 n1 0 ac 20"]
    parts = []
    for n, ((a, b), kind, value) in enumerate(zip(ends, kinds, values, strict=True)):
        names = ["0" if node == 0 else f"n{node}" for node in (a, b)]
        lines += [f"{kind}{n} {names[0]} x{n} {value!r}", f"vx{n} x{n} {names[1]} 0"]
        parts.append(Part(f"p{n}", names[0], names[1], impedance(kind, value, HZ)))
    shown = [f"let i{n} = abs(i(vx{n}))\nprint i{n}" for n in range(len(ends))]
    lines += [*(f"rl{k} n{k} 0 1e9" for k in range(1, nodes)), f".ac lin 1 {HZ} {HZ}", ".control", "set numdgt=12",
              "run", *shown, ".endc", ".end"]  # fmt: skip
    found = solve(parts, "n1", "0", 20.0)
    measured = ngspice_text("\n".join(lines))
    most = max(measured)
    for n, amps in enumerate(measured):
        assert abs(found.current_a[f"p{n}"][0]) == pytest.approx(amps, rel=1e-3, abs=1e-4 * most)


def test_a_network_over_frequency_is_solved_at_each_of_them() -> None:
    """A capacitor before 4 Ω: half the power at 1 / (2 π R C) (textbook); power taken is power given."""
    hz = np.array([100.0, 1 / (2 * pi * 4 * 100e-6), 10_000.0])
    found = solve([Part("c", "in", "x", 1 / (2j * pi * hz * 100e-6)), Part("r", "x", "0", 4.0)], "in", "0", 2.0)
    assert found.power_w("r")[1] == pytest.approx(0.5)
    assert found.power_w("r")[2] == pytest.approx(1.0, rel=0.01)
    assert abs(found.power_w("c")).max() < 1e-12
    for wrong in (("in", "in"), ("in", "nowhere")):
        with pytest.raises(OutOfRange):
            solve([Part("r", "in", "0", 4.0)], *wrong)


@given(st.lists(st.floats(0.5, 16), min_size=1, max_size=4), st.integers(0, 100))
def test_a_wiring_as_a_network_reads_as_its_series_and_parallel_say(ohms: list[float], which: int) -> None:
    """Series adds, parallel is the reciprocal sum; the lead lies in series with all of it."""
    found = wirings([Coil(f"{n}", ohm, 0.85 * ohm) for n, ohm in enumerate(ohms)])
    one = found[which % len(found)]
    assert resistance_ohm(parts_of(one), "amplifier +", "amplifier −") == pytest.approx(one.resistance_ohm(dc=True))
    with_lead = resistance_ohm(parts_of(one, None, 0.3), "amplifier +", "amplifier −")
    assert with_lead == pytest.approx(one.resistance_ohm(dc=True) + 0.3)


def load_of(design: Design) -> tuple[Evaluation, LoadResult]:
    evaluation = evaluate(design)
    return evaluation, evaluation.results.loads[0]


def test_a_dual_coil_reads_half_and_each_fault_its_own(estate: Design) -> None:
    """Two coils of 3.4 Ω in parallel: 1.7 Ω; one of them off 3.4; in series 6.8 (common practice)."""
    _, load = load_of(estate)
    assert points(load)[0].ohm == pytest.approx(1.7)
    assert points(load)[0].low_ohm == pytest.approx(0.75 * 2)
    assert points(load)[0].high_ohm == pytest.approx(1.05 * 2)
    rows = {round(row.ohm, 2): row.causes for row in wrong_readings(load) if not row.opens}
    assert set(rows) == {0.0, 3.4, 6.8}
    assert rows[3.4] == ("a coil of Morrowick 10 D4 open, or its jumper off",)
    assert rows[6.8] == ("wired both coils in series",)
    assert wrong_readings(load)[-1].causes == ("the pair is open",)
    assert meaning_of(load, 1.8) == ""
    assert meaning_of(load, 3.6) == "a coil of Morrowick 10 D4 open, or its jumper off"
    assert "touches" in meaning_of(load, 0.1)
    assert meaning_of(load, OPEN_OHM) == "the pair is open"


def test_two_drivers_are_told_apart_by_what_is_missing(estate: Design) -> None:
    """4 Ω and 8 Ω in parallel: without the one the other is left (textbook)."""
    tree = {"kind": "subwoofer", "id": "sub2", "name": "Small", "coils": [{"impedance_ohm": 8.0}], "power_rms_w": 200.0}
    link = {"id": "speaker-sub2", "kind": "speaker", "from_id": "amp", "to_id": "sub2", "channel": 1}
    design = apply_edits(
        estate,
        [
            Edit(path="parts/sub/coils", value=[{"impedance_ohm": 4.0, "dc_resistance_ohm": 3.4}]),
            Edit(op="add", path="parts", value=tree),
            Edit(op="add", path="links", value=link),
            Edit(path="links/speaker-sub/wiring", value="parallel(A1,B1)"),
        ],
    )
    _, load = load_of(design)
    assert points(load)[0].ohm == pytest.approx(3.4 * 6.8 / 10.2)
    assert meaning_of(load, 6.8) == "Morrowick 10 D4 open, or off"
    assert meaning_of(load, 3.4) == "Small open, or off"
    assert {p.words for p in points(load)[1:]} == {"at Morrowick 10 D4, wired", "at Small, wired"}


def test_a_driver_of_two_coils_that_is_off_leaves_the_other(estate: Design) -> None:
    """Two of two 4 Ω coils, all in parallel, 3.4 Ω DC each: 0.85 Ω; one of them off 1.7 (textbook)."""
    coil = {"impedance_ohm": 4.0, "dc_resistance_ohm": 3.4}
    tree = {"kind": "subwoofer", "id": "sub2", "name": "Other", "coils": [coil, coil], "power_rms_w": 200.0}
    link = {"id": "speaker-sub2", "kind": "speaker", "from_id": "amp", "to_id": "sub2", "channel": 1}
    edits = [
        Edit(op="add", path="parts", value=tree),
        Edit(op="add", path="links", value=link),
        Edit(path="parts/sub/coils", value=[coil, coil]),
        Edit(path="links/speaker-sub/wiring", value="parallel(A1,A2,B1,B2)"),
    ]
    _, load = load_of(apply_edits(estate, edits))
    assert points(load)[0].ohm == pytest.approx(0.85)
    rows = {round(row.ohm, 2): row.causes for row in wrong_readings(load)}
    assert {"Morrowick 10 D4 off", "Other off"} <= set(rows[1.7])


def test_a_reading_is_judged_where_it_is_typed(estate: Design) -> None:
    """The right one is silent, the wrong one a Stop with its meaning."""

    def said(ohm: float) -> list[str]:
        edit = Edit(path="links/speaker-sub/reads_ohm", value={"value": ohm, "basis": "measured"})
        return [
            f"{f.title} {f.text}" for f in evaluate(apply_edits(estate, [edit])).findings if f.rule == "load-reading"
        ]

    assert said(1.8) == []
    (wrong,) = said(6.9)
    assert "reads 6.90 Ω" in wrong
    assert "wired both coils in series" in wrong
    assert "reads OL" in said(1000.0)[0]
