"""The only door: coupling, provenance, the sweep against brute force, the verdict."""

from __future__ import annotations

from dataclasses import asdict

import pytest

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import design_facts, replace
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue, catalogue_part, measured
from ohmack.demo.jobs import demo_design, demo_jobs


def values(design: Design) -> dict[str, object]:
    return {k: f.value for k, f in evaluate(design).figures.items()}


def test_rewiring_moves_everything_behind_it(estate: Design) -> None:
    before = values(estate)
    after = values(apply_edits(estate, [Edit(path="links/speaker-sub/wiring", value="series(1,2)")]))
    for key in (
        "load_ohm",
        "power_w",
        "current_a",
        "wire",
        "fuse_a",
        "drop_v",
        "at_amplifier_v",
        "target_v",
        "meter_ohm",
    ):
        assert before[f"amp/{key}"] != after[f"amp/{key}"], key
    # common practice, no source: half the power per doubling at constant voltage, two doublings from 2 to 8 ohm
    assert after["amp/power_w"] == pytest.approx(155)
    moved = evaluate(
        apply_edits(estate, [Edit(path="links/speaker-sub/wiring", value="series(1,2)")]), before=estate
    ).moved
    assert {"Power wire", "Main fuse", "A meter at the output must show"} <= {m.name for m in moved}
    assert all(m.before != m.after for m in moved)


def test_the_loop_adds_up(estate: Design) -> None:
    supply = evaluate(estate).results.supplies[0]
    assert sum(s.drop_v for s in supply.segments) == pytest.approx(supply.figures["drop"].value)
    assert supply.figures["voltage"].value + supply.figures["drop"].value == pytest.approx(14.2)
    current, volts = supply.figures["current"].value, supply.figures["voltage"].value
    assert current == pytest.approx(500 / (0.8 * volts) + 0.8)
    best = next(c for c in supply.candidates if c.best)
    thinner = [c for c in supply.candidates if c.wire.area_mm2 < best.wire.area_mm2]
    assert thinner
    assert all(not c.fits and c.reason for c in thinner)
    assert supply.figures["hot"].value > supply.figures["drop"].value


def test_every_figure_shows_its_working() -> None:
    for number in range(len(demo_jobs())):
        for figure in evaluate(demo_design(number)).figures.values():
            assert figure.formula
            assert figure.inputs
            assert figure.basis is not None or figure.grade is not None, figure.id
            if figure.value is None:
                assert figure.missing or figure.refused, figure.id


def test_basis_and_grade_are_the_weakest(estate: Design) -> None:
    drop = evaluate(estate).figures["amp/drop_v"]
    assert drop.basis is Basis.DOCUMENTED  # the amplifier's papers
    guessed = replace(estate, "vehicle/supply/body_return_ohm/basis", Basis.ASSUMED)
    assert evaluate(guessed).figures["amp/drop_v"].basis is Basis.ASSUMED
    assert evaluate(guessed).figures["amp/load_ohm"].basis is Basis.DOCUMENTED
    assert evaluate(estate).figures["amp/drop_v"].grade.value == "common practice"


def test_missing_facts_are_named_not_guessed(estate: Design) -> None:
    blind = apply_edits(estate, [Edit(path="vehicle/supply/post_running_v", value={"value": None})])
    evaluation = evaluate(blind)
    for key in ("current_a", "drop_v", "wire", "fuse_a"):
        figure = evaluation.figures[f"amp/{key}"]
        assert figure.value is None
        assert [g.path for g in figure.missing] == ["vehicle/supply/post_running_v"]
    assert evaluation.figures["amp/target_v"].value == pytest.approx(30)  # does not rest on it
    assert evaluation.verdict.headline == "Not ready to order"


def test_evaluation_is_deterministic_and_touches_nothing(estate: Design) -> None:
    dumped = estate.model_dump_json()
    first, second = evaluate(estate, sweep_facts=True), evaluate(estate, sweep_facts=True)
    assert [asdict(f) for f in first.findings] == [asdict(f) for f in second.findings]
    assert first.figures == second.figures
    assert estate.model_dump_json() == dumped


@pytest.mark.parametrize("number", [0, 1])
def test_sweep_against_brute_force(number: int) -> None:
    """Every assumed fact at every end and alternative, compared by plain JSON of the decisions."""
    design = demo_design(number)

    def decisions(d: Design) -> tuple[object, ...]:
        e = evaluate(d)
        findings = sorted(
            (f.rule, f.about, f.severity.value) for f in e.findings if f.severity is not Severity.NOTE and not f.caution
        )
        parts = [
            e.figures[k].value
            for k in sorted(e.figures)
            if k.endswith(("/wire", "/ground_wire", "/fuse_a", "/feed_fuse_a", "/feed_wire"))
        ]
        return (findings, parts)

    base = decisions(design)
    expected = set()
    for path, fact, _, _ in design_facts(design):
        if fact.basis is Basis.ASSUMED and fact.value is not None:
            probes = [*fact.alternatives] + ([fact.low, fact.high] if fact.low is not None else [])
            if any(decisions(replace(design, f"{path}/value", probe)) != base for probe in probes):
                expected.add(path)
    swept = evaluate(design, sweep_facts=True).measure_first
    assert swept is not None
    found = {m.path for m in swept if not m.path.endswith("tape_length_m") or m.value is not None}
    assert found == expected
    ranks = [m.consequence for m in swept]
    assert ranks == sorted(ranks)
    assert all(m.how and m.minutes > 0 for m in swept)


def test_threshold_is_where_it_flips() -> None:
    design = demo_design(1)
    swept = evaluate(design, sweep_facts=True).measure_first or ()
    body = next(m for m in swept if m.path.endswith("body_return_ohm"))
    side, number, unit = body.threshold.split(" ")
    assert side in ("above", "below")
    assert unit == "mΩ"
    flip = float(number) / 1000
    wire = {
        ohm: evaluate(replace(design, f"{body.path}/value", ohm)).figures["amp/wire"].value
        for ohm in (flip * 0.9, flip * 1.1)
    }
    assert len(set(wire.values())) == 2


def test_what_flips_on_one_side_alone_says_on_which() -> None:
    """What the words say of a side is what an evaluation with the fact at that end finds, and the other does not."""
    told = 0
    for n in (1, 4, 13, 22):
        design = demo_design(n)
        for measure in evaluate(design, sweep_facts=True).measure_first or ():
            if " and " not in measure.threshold:
                continue
            at = {
                side: {f.title for f in evaluate(replace(design, f"{measure.path}/value", value)).findings}
                for side, value in (("below", measure.low), ("above", measure.high))
            }
            for words in (*measure.stops, *measure.watches):
                title, _, side = words.removesuffix(")").rpartition(" (")
                if side not in at or title.startswith("no longer"):
                    continue
                other = "below" if side == "above" else "above"
                assert title in at[side], words
                assert title not in at[other], words
                told += 1
    assert told


def test_ready_to_order_needs_no_open_fact(estate: Design) -> None:
    assert evaluate(estate, sweep_facts=True).verdict.state == "ready"
    assert evaluate(estate).verdict.state == "unchecked"
    loose = apply_edits(
        estate,
        [
            Edit(
                path="vehicle/supply/body_return_ohm",
                value={"value": 0.0013, "basis": "assumed", "low": 0.0005, "high": 0.006},
            )
        ],
    )
    assert evaluate(loose, sweep_facts=True).verdict.state == "open"
    stopped = apply_edits(estate, [Edit(path="links/power-amp/fuse", value=None)])
    assert evaluate(stopped, sweep_facts=True).verdict.state == "stopped"
    assert evaluate(demo_design(2), sweep_facts=True).verdict.state == "nothing"


def test_amplifier_fuse_school_sizes_by_the_fuses(estate: Design) -> None:
    school = apply_edits(estate, [Edit(path="policy/current_school", value="amplifier fuses")])
    assert evaluate(school).figures["amp/current_a"].value == 60
    assert evaluate(estate).figures["amp/current_a"].value < 47


def test_two_amplifiers_share_the_body_return(estate: Design) -> None:
    alone = evaluate(estate).figures["amp/at_amplifier_v"].value
    extra = [
        catalogue_part("Tessel M300", "amp-2", 3.4, 0.3),
        catalogue_part("Pell & Fenn Slim 8 D4", "sub-2", 4.0, -0.4),
    ]
    both = apply_edits(estate, extra)
    both = apply_edits(both, connect_everything(both))
    figures = evaluate(both).figures
    assert figures["amp-2/power_w"].value == pytest.approx(300)
    shared = 0.0017 * figures["amp-2/current_a"].value
    assert alone - figures["amp/at_amplifier_v"].value == pytest.approx(shared, rel=0.1)


@pytest.mark.parametrize("body", list(Body))
@pytest.mark.parametrize("hand", list(Hand))
def test_a_new_car_and_five_catalogue_parts_make_a_whole_plan(body: Body, hand: Hand) -> None:
    design = new_design(
        "new", new_vehicle("Fallow", "Test", None, body, hand), demo_design(0).intake, demo_design(0).policy
    )
    for name in ("Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Sprig LC2 active", "Hob strip holder"):
        tree = next(p for p in catalogue() if p["name"] == name)
        design = apply_edits(design, place_part(design, tree))
        design = apply_edits(design, connect_everything(design))
    if body is Body.CART:  # the voltage behind a cart's converter is not guessed
        assert design.vehicle.supply.post_running_v.value is None
        design = apply_edits(design, [measured("vehicle/supply/post_running_v", 13.8)])
    evaluation = evaluate(design, sweep_facts=True)
    assert not [f.title for f in evaluation.findings if f.rule in ("link-missing", "signal-missing")]
    assert evaluation.figures["amp/wire"].value
    missing = {g.path for f in evaluation.figures.values() for g in f.missing}
    battery = "vehicle/supply/batteries/battery"
    asleep = {f"{battery}/capacity_ah", "vehicle/supply/standby_current_a"}  # how long it stands
    assert missing <= {f"{battery}/cca_a", "vehicle/supply/post_resting_v"} | asleep
    assert any(link.kind == "power" and link.fuse.holder_id == "holder" for link in design.links)


def test_ground_straight_to_the_battery_has_no_body_return(estate: Design) -> None:
    direct = apply_edits(estate, [measured("vehicle/ground_points/ground-rear/kind", "battery negative")])
    places = [s.place for s in evaluate(direct).results.supplies[0].segments]
    assert "body" not in places


def test_an_amplifier_without_a_ground_lead_is_sized_with_the_policy_and_says_so(estate: Design) -> None:
    bare = apply_edits(
        estate, [Edit(op="remove", path="links/ground-amp"), Edit(path="policy/ground_lead_max_m", value=0.7)]
    )
    evaluation = evaluate(bare)
    term = next(t for t in evaluation.figures["amp/at_amplifier_v"].inputs if t.path == "policy/ground_lead_max_m")
    assert term.value == 0.7
    assert [s for s in evaluation.results.supplies[0].segments if "0.70 m" in s.name]
    assert any(f.rule == "link-missing" and "ground lead" in f.title for f in evaluation.findings)
