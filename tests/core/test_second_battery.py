"""A battery beside the first: who is pulled by a bass note, how long each plays, and that every post is off first.

The network is solved here by numpy's linear algebra; what a charger, an isolator and a relay do is common practice,
no source.
"""

from __future__ import annotations

import numpy as np
import pytest

from ohmack.core.build.step_making import generated
from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import PowerLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.network.states import battery_resistance_ohm
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import add_to_survey
from ohmack.core.supply.dip_study import DipStudy
from ohmack.core.supply.engine_off import Listening
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

SUPPLY = "vehicle/supply"


def job(title: str) -> Design:
    return demo_design(next(n for n, one in enumerate(demo_jobs()) if one.title.startswith(title)))


def relayed() -> Design:
    """Two amplifiers on a second battery in the boot, which this job puts in."""
    return job("Two amplifiers")


def camper() -> Design:
    """An amplifier on a leisure battery that was there before, both labels read."""
    first = f"{SUPPLY}/batteries/battery"
    return changed(job("Camper sound"), {f"{first}/cca_a/value": 640.0, f"{first}/capacity_ah/value": 80.0})


def changed(design: Design, values: dict[str, object]) -> Design:
    return apply_edits(design, [Edit(path=path, value=value) for path, value in values.items()])


def studied(results: Results) -> DipStudy:
    assert isinstance(results.dip, DipStudy), results.dip
    return results.dip


def value(results: Results, figure_id: str) -> float:
    found = results.book.figures[figure_id].value
    assert isinstance(found, float)
    return found


def test_the_circuit_has_both_batteries() -> None:
    """The second one stands behind the planned cable, its relay, fuses and ways back; amplifiers on the first pull
    there; with no label of a helper it is left out in words, of the one that feeds it is asked for.
    """
    results = evaluate(relayed()).results
    study, second = studied(results), studied(results).circuit.second
    assert second is not None
    assert second.feeds
    lost_v, charge_a = (results.charging[0].figures[key].value for key in ("drop", "current"))
    assert second.join_ohm == pytest.approx(lost_v / charge_a + 0.004)
    assert (second.rest_v, second.inner_ohm) == (12.6, battery_resistance_ohm(500.0))
    assert [one.near for one in study.playing.others] == [True]
    apart = changed(relayed(), {"links/power-amp-2/from_id": "battery"})
    assert [one.near for one in studied(evaluate(apart).results).playing.others] == [False]
    label = f"{SUPPLY}/batteries/battery-2/cca_a/value"
    unread = changed(relayed(), {label: None})
    assert evaluate(unread).results.dip == "Not known yet: Second battery, boot: cold cranking amps."
    beside = studied(evaluate(changed(unread, {"links/power-block/from_id": "battery"})).results)
    assert beside.circuit.second is None
    assert beside.without == (
        "Reckoned without Second battery, boot. Not known: Second battery, boot: cold cranking amps."
    )
    there = studied(evaluate(camper()).results).circuit.second
    assert there is not None
    assert there.join_ohm == 0.010, "nobody planned the cable that lies there"


@pytest.mark.parametrize(
    ("how", "words"), [("DC-DC charger", "no lamp sees it"), ("diode isolator", "diode isolator"), (None, "knows how")]
)
def test_what_parts_the_batteries_keeps_a_note_from_the_first(how: str | None, words: str) -> None:
    """Behind anything but a relay no dip is reckoned as if the amplifier hung on the first battery."""
    results = evaluate(changed(camper(), {f"{SUPPLY}/split_charging/value": how})).results
    assert isinstance(results.dip, str)
    assert words in results.dip
    average = value(results, "amp/average_music_a") if how == "DC-DC charger" else value(results, "charging/full_a")
    assert value(results, "charging/pulled_a") == pytest.approx(average), "a charger passes what is drawn on average"


@pytest.mark.parametrize("on_first", [False, True])
def test_the_post_in_a_note_against_linear_algebra(on_first: bool) -> None:
    """Two sources of one voltage behind their resistances, joined; the audio hangs on the second or is shared out."""
    design = relayed()
    if on_first:
        design = changed(design, {"links/power-amp-2/from_id": "battery"})
    results = evaluate(design).results
    supply = design.vehicle.supply
    one, two = (battery_resistance_ohm(b.cca_a.value or 0.0, b.cranking_standard) for b in supply.batteries)
    join = studied(results).circuit.second
    assert join is not None
    drawn = {s.part.id: s.figures["current"].value or 0.0 for s in results.supplies if not s.is_main}
    at_first = drawn["amp-2"] if on_first else 0.0
    over_first = (supply.car_draw_a.value or 0.0) + at_first - value(results, "charging/idle_a")
    over_second = sum(drawn.values()) - at_first
    across = 1 / join.join_ohm
    falls = np.linalg.solve([[1 / one + across, -across], [-across, 1 / two + across]], [over_first, over_second])
    assert value(results, "charging/post_in_note_v") == pytest.approx(12.6 - falls[0], abs=1e-6)


def test_each_battery_plays_for_itself() -> None:
    """The radio is on the first one: 4 A of 80 Ah at half is ten hours. What hangs on the other takes nothing from the
    first one while the car stands.
    """
    design = changed(camper(), {f"{SUPPLY}/standby_current_a/value": 0.02, "parts/amp/standby_a": 0.05})
    results = evaluate(design).results
    off, stands = results.engine_off, results.parked
    assert off is not None
    assert stands is not None
    radio, music = off.listening
    assert (radio.battery.id, radio.plays, radio.hours.value) == ("battery", False, 10.0)
    assert (music.battery.id, music.plays) == ("camp", True)
    assert "the car, all asleep" in [term.name for term in stands.asleep]
    assert not any("M300" in term.name for term in stands.asleep)
    moved = evaluate(changed(design, {"links/power-amp/from_id": "battery"})).results
    on_first, there = moved.engine_off, moved.parked
    assert on_first is not None
    assert there is not None
    assert [one.plays for one in on_first.listening] == [True]
    assert any("M300" in term.name for term in there.asleep)
    assert (there.days.value or 0.0) < (stands.days.value or 0.0)
    assert music.post is not None
    falls_v = 12.7 - battery_resistance_ohm(480.0) * value(results, "amp/engine_off_a")
    assert music.post.value == pytest.approx(falls_v)
    for opens, said in ((falls_v - 0.01, False), (falls_v + 0.01, True)):
        titles = [
            f.title for f in evaluate(changed(design, {f"{SUPPLY}/batteries/camp/cut_off_v/value": opens})).findings
        ]
        assert any("a bass note pulls Leisure battery" in title for title in titles) is said


def test_two_batteries_joined_for_good_are_one() -> None:
    """Two starter batteries side by side: one reading serves both, they play and stand together, and a short is fed by
    both (parallel sources, textbook); a house battery joined so is looked at.
    """
    camp = f"{SUPPLY}/batteries/camp"
    values: dict[str, object] = {
        f"{SUPPLY}/split_charging/value": "joined for good", f"{SUPPLY}/standby_current_a/value": 0.02,
        f"{camp}/role": "starter", f"{camp}/capacity_ah/value": 70.0,
        f"{camp}/own_running_v/value": None, f"{camp}/own_resting_v/value": None,
    }  # fmt: skip
    design = changed(camper(), values)
    assert not [f for f in evaluate(design).findings if f.rule in ("second-battery", "fact-missing")]
    results = evaluate(design).results
    off = results.engine_off
    assert off is not None
    (music,) = off.listening
    assert music.hours.name == "Listening on Battery and Leisure battery, engine off"
    assert value(results, "energy/together_ah") == 150.0
    alone = evaluate(changed(design, {"links/power-amp/from_id": "battery", f"{camp}/capacity_ah/value": 0.1}))
    assert alone.results.engine_off is not None
    assert (music.hours.value or 0.0) > 1.5 * (alone.results.engine_off.listening[0].hours.value or 1e9)
    second = studied(results).circuit.second
    assert second is not None
    assert (second.join_ohm, second.feeds) == (0.003, True)
    one, two = battery_resistance_ohm(640.0), battery_resistance_ohm(480.0)
    (entry,) = results.protection
    to_fuse_ohm = sum(t.value for t in entry.near.inputs if t.unit == "ohm" and t.name != "the cable between them")
    both = 1 / (1 / two + 1 / (one + 0.003))
    assert entry.near.value == pytest.approx(12.6 / (both + to_fuse_ohm), rel=1e-6)
    far_ohm = sum(t.value for t in entry.far.inputs if t.unit == "ohm")
    assert entry.far.value == pytest.approx(12.6 / (two + far_ohm), rel=1e-6), "how fast it opens goes by the least"
    apart = evaluate(changed(design, {f"{SUPPLY}/split_charging/value": "DC-DC charger"})).results.protection
    assert all((p.near.value or 0.0) < (entry.near.value or 0.0) for p in apart)
    house = evaluate(changed(design, {f"{camp}/role": "leisure"}))
    assert [f.title for f in house.findings if f.rule == "second-battery"] == [
        "Leisure battery is joined for good with the starter battery"
    ]


def test_a_radio_is_fed_from_the_battery_that_plays_by_one_press() -> None:
    """It draws from the other one then: hours by Peukert's law by hand, nothing plays from the first any more, and the
    first one's standing counts it no longer; what hangs on a feed of the car plays from that feed's battery.
    """
    unit = next(part for part in demo_design(21).parts if part.id == "radio-2").model_copy(update={"standby_a": 0.002})
    new = Edit(op="add", path="parts", value=unit.model_dump(mode="json"))
    design = apply_edits(camper(), [new, Edit(path="use/listens_h", value=6.5)])
    before = evaluate(design)
    (said,) = [f for f in before.findings if f.rule == "starter-played"]
    assert said.text.startswith("After 10.0 h Battery is down to the 50 % kept"), "80 Ah, half of it, 4 A"
    assert said.remedy is not None
    assert "listening-short" not in {f.rule for f in before.findings}, "7.7 h of the 6.5 that are wanted"
    moved = evaluate(apply_edits(design, edits_of(design, said.remedy)))
    assert not {f.rule for f in moved.findings} & {"starter-played", "radio-unswitched", "radio-feed"}
    (one,) = playing(moved)
    full_a = next(term.value for term in one.hours.inputs if term.name.endswith("full level, engine off"))
    rated_a = 95.0 / 20
    gone_a = 0.125 * rated_a * ((full_a + 1.5) / rated_a) ** 1.2 + 0.875 * (0.6 + 1.5)
    assert one.hours.value == pytest.approx(0.5 * 95.0 / gone_a)
    (short,) = [f for f in moved.findings if f.rule == "listening-short"]
    assert short.title == f"Leisure battery plays for {one.hours.value:.1f} h with the engine off; 6.5 h are wanted"
    assert one.enough is not None
    assert one.enough.value is not None
    larger = {f"{SUPPLY}/batteries/camp/capacity_ah/value": one.enough.value}
    assert playing(evaluate(changed(moved.design, larger)))[0].hours.value == pytest.approx(6.5, rel=1e-6)
    gone = Edit(op="remove", path=f"{SUPPLY}/batteries/camp")
    back = Edit(op="add", path=f"{SUPPLY}/batteries", value=design.vehicle.supply.batteries[1].model_dump(mode="json"))
    power = Edit(op="add", path="links", value=next(design.links_of(PowerLink)).model_dump(mode="json"))
    again = evaluate(apply_edits(moved.design, [gone, back, power]))
    (said,) = [f for f in again.findings if f.rule == "starter-played"]
    assert said.remedy is not None
    assert said.remedy.edits, "the feed at the post of a battery that went is not that of the new one"
    asleep = [
        {term.name for term in answer.results.parked.asleep} if answer.results.parked else set()
        for answer in (before, moved)
    ]
    assert asleep[0] - asleep[1] == {f"{unit.name}, switched off"}


def test_a_new_amplifier_is_fed_from_the_leisure_battery_once_it_is_known_how_that_is_charged() -> None:
    """Until then from the first one, and told so; joined for nothing it is no supply."""
    bare = new_design("t", new_vehicle("Oxbow", "Heron", 2013, Body.VAN, Hand.LEFT), demo_design(0).intake, Policy())
    path, edits = add_to_survey(bare, "battery")
    van, mono = apply_edits(bare, edits), next(tree for tree in catalogue() if tree["name"] == "Tessel M300")
    leisure = path.rpartition("/")[2]
    for charged, source in (
        (None, "battery"),
        ("not at all", "battery"),
        ("relay", leisure),
        ("DC-DC charger", leisure),
    ):
        known = changed(van, {f"{SUPPLY}/split_charging/value": charged})
        design = apply_edits(known, added(known, mono))
        (run,) = design.links_of(PowerLink)
        assert run.from_id == source, charged
        told = [f for f in evaluate(design).findings if f.rule == "second-battery" and f.about == run.id]
        assert bool(told) == (source == "battery")
        assert run.engine_space == (source == "battery")


def playing(answer: Evaluation) -> tuple[Listening, ...]:
    off = answer.results.engine_off
    assert off is not None
    return off.listening


def test_a_powered_subwoofer_on_a_feed_of_the_car_plays_from_that_feed_s_battery() -> None:
    """9 A at full level from the radio's feed, an eighth of the time: with the radio and the car that is the hours."""
    design = apply_edits(demo_design(9), [Edit(path=f"{SUPPLY}/batteries/battery/capacity_ah/value", value=60.0)])
    (one,) = playing(evaluate(design))
    assert one.plays
    full_a, rated_a = 9.0, 3.0
    gone_a = 0.125 * rated_a * ((full_a + 4.0) / rated_a) ** 1.2 + 0.875 * rated_a * ((0.3 + 4.0) / rated_a) ** 1.2
    assert one.hours.value == pytest.approx(0.5 * 60.0 / gone_a)


def test_every_battery_in_the_car_is_off_before_anything_is_touched() -> None:
    """A leisure battery that was there keeps its own runs live, and the rest through its relay; one this job brings
    is not connected yet, until the dead checks.
    """
    there, brought = (evaluate(design).results for design in (camper(), relayed()))
    steps = {step.id: step for step in generated(there)}
    assert steps["battery-off"].what.startswith("Negative terminals of Battery and Leisure battery off")
    assert any("Every battery" in words for words in steps["battery-off"].cautions)
    assert steps["battery-on"].what == "Negative terminals of Battery and Leisure battery on, last"
    assert steps["join-post"].what.startswith("Ring on the positive post of Leisure battery")
    camp = next(b for b in there.design.vehicle.supply.batteries if b.id == "camp")
    assert steps["join-post"].where == camp.position.point
    steps = {step.id: step for step in generated(brought)}
    assert steps["battery-off"].what.startswith("Negative terminal off")
    assert not any("Every battery" in words for words in steps["battery-off"].cautions)
    assert "not yet on its post" in steps["join-battery-2"].what
    assert steps["battery-on"].what == "Negative terminals of Battery and Second battery, boot on, last"
    assert steps["join-post"].what == (
        "Rings on the positive posts of Battery and Second battery, boot, the fuses out of their holders"
    )
    for results, name in ((there, "Leisure battery"), (brought, "Second battery, boot")):
        off = next(j.check for gate in results.proof.gates for j in gate.checks if j.check.title == "Batteries off")
        assert f"Battery and {name}" in off.how
    titles = [f.title for f in evaluate(camper()).findings]
    assert "Negative terminals of Battery and Leisure battery off first, on last" in titles


def test_the_post_of_a_battery_that_is_put_in_is_assumed_until_a_meter_was_on_it() -> None:
    """Nobody can read a battery that is not there yet: what it holds is assumed with a range, so that a plan is sized
    and the reading stands among what to measure first. In a car above 12 V the converter's side counts, and a diode
    isolator is not cleared by an assumption.
    """
    plain = Design.model_validate({"vehicle": new_vehicle("Oxbow", "Heron", 2013, Body.ESTATE, Hand.LEFT).model_dump()})
    _, added_by_hand = add_to_survey(plain, "battery")
    relay = next(tree for tree in catalogue() if tree["name"] == "Hob charging relay 100")
    with_relay = apply_edits(plain, added(plain, relay))
    (pressed,) = [f.remedy for f in evaluate(with_relay).findings if f.rule == "charge-cable-missing"]
    assert pressed is not None
    for design in (apply_edits(plain, added_by_hand), apply_edits(with_relay, pressed.edits)):
        second = design.vehicle.supply.batteries[-1]
        for fact in (second.own_running_v, second.own_resting_v):
            assert fact.basis is Basis.ASSUMED
            assert fact.low is not None
            assert fact.high is not None
            assert fact.value is not None
            assert fact.low < fact.value < fact.high
    amp = next(tree for tree in catalogue() if tree["name"] == "Tessel M500")
    fed = apply_edits(plain, added_by_hand)
    fed = apply_edits(fed, added(fed, amp))
    (power,) = fed.links_of(PowerLink)
    fed = changed(fed, {f"links/{power.id}/from_id": fed.vehicle.supply.batteries[-1].id})
    assert not [f.title for f in evaluate(fed).findings if f.rule == "fact-missing" and "own post, engine" in f.title]
    by_diode = changed(fed, {f"{SUPPLY}/split_charging": {"value": "diode isolator", "basis": "documented"}})
    assert "A diode isolator costs about 0.7 V" in {f.title for f in evaluate(by_diode).findings}
    path = f"{SUPPLY}/batteries/{fed.vehicle.supply.batteries[-1].id}/own_running_v"
    read = changed(by_diode, {path: {"value": 14.1, "basis": "measured"}})
    assert "A diode isolator costs about 0.7 V" not in {f.title for f in evaluate(read).findings}
    lorry = changed(plain, {f"{SUPPLY}/system": {"value": "24 V", "basis": "measured"}})
    assert (
        apply_edits(lorry, add_to_survey(lorry, "battery")[1]).vehicle.supply.batteries[-1].own_running_v.value is None
    )
