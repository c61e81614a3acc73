"""More work on a car that a job of ours left: what is in it is there, and nothing is advised or bought twice."""

from __future__ import annotations

from core.test_strategies import car, way
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import Act
from ohmack.core.document.links import LineLink, Pickup, SpeakerLink, TapLink
from ohmack.core.document.parts import Driver, HeadUnit, Subwoofer
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.pickup_places import TAKEN_OVER
from ohmack.core.factory.roles import ON_ONE
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.copying import as_it_was_built
from ohmack.core.planning.role_parts import choose_part
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.reference import read_toml
from ohmack.demo.building import catalogue


def test_a_second_job_counts_on_what_the_first_one_left() -> None:
    """Common practice, no source: bass for a car whose doors have an amplifier with free channels takes a subwoofer and
    a box. What the car has costs nothing again, and a way whose sound is in the car is no advice.
    """
    first, trees = car(Tier.PLAIN, Wish.CLARITY), list(catalogue())
    built = apply_edits(first, lay_strategy(first, StrategyKey.DOORS_AMPLIFIED.value, trees).edits)
    second = as_it_was_built(built, "bass")
    assert second.strategy is None
    second = apply_edits(second, [Edit(path="intake/wishes", value=[Wish.BASS.value])])
    bass, fresh = way(second, StrategyKey.RADIO_PICKUP), way(car(Tier.PLAIN, Wish.BASS), StrategyKey.RADIO_PICKUP)
    assert advise(second).best == bass
    assert set(bass.needs) - set(bass.there) == {"subwoofer", "box"}
    prices = read_toml("strategies")["roles"]["price"]
    assert bass.cost == tuple(prices["subwoofer"][i] + prices["box"][i] for i in (0, 1))
    assert 0.4 * fresh.minutes[0] <= bass.minutes[0] < fresh.minutes[0]
    cheapest = min((t for t in trees if t["kind"] == "subwoofer"), key=lambda t: t["price"])
    dearer = {
        "name": "One coil",
        "price": cheapest["price"] + 40,
        "coils": [{"impedance_ohm": 4.0}],
        "power_rms_w": 200.0,
    }
    trees += [{**cheapest, **dearer}, {**cheapest, **dearer, "name": "Too weak", "price": 20.0, "power_rms_w": 60.0}]
    laid = apply_edits(second, lay_strategy(second, StrategyKey.RADIO_PICKUP.value, trees).edits)
    assert {part.kind for part in laid.parts if not part.in_car} == {"subwoofer", "box"}
    (to_sub,) = [k for k in laid.links_of(SpeakerLink) if k.to_id not in ("spk-fl", "spk-fr")]
    assert (to_sub.channel, to_sub.bridged) == (3, True)
    (load,) = [one for one in evaluate(laid).results.loads if one.driver.is_subwoofer]
    assert load.power.value is not None
    (sub,) = laid.parts_of(Subwoofer)
    assert laid.policy.match_low <= load.power.value / sub.power_rms_w <= laid.policy.match_high
    gone = way(apply_edits(second, [Edit(path="intake/wishes", value=[])]), StrategyKey.DOORS_AMPLIFIED)
    assert gone.possible, "the rear doors have none yet"
    rear = apply_edits(second, [Edit(path="parts/driver/at_ids", value=["spk-fl", "spk-fr", "spk-rl", "spk-rr"])])
    assert way(rear, StrategyKey.DOORS_AMPLIFIED).why_not == "what makes its sound is in the car already"
    assert not way(rear, StrategyKey.DRIVER_SWAP).possible


def test_a_car_that_never_had_a_radio_has_the_one_it_got() -> None:
    """More work on it: the lines of the radio in it are there to play from, without a converter or an adapter on a plug
    that nobody made; no way puts a second radio in or says there is none.
    """
    first = car(Tier.NONE, Wish.CLARITY)
    assert "there is no radio" in way(first, StrategyKey.RADIO_PICKUP).why_not
    built = apply_edits(first, lay_strategy(first, StrategyKey.NEW_RADIO.value, catalogue()).edits)
    (unit,) = built.parts_of(HeadUnit)
    second = apply_edits(as_it_was_built(built, "More"), [Edit(path="intake/wishes", value=["more bass"])])
    best = advise(second).best
    assert best is not None
    assert best.key is StrategyKey.RADIO_PICKUP
    assert not {"converter", "plug adapter", "radio"} & set(best.needs)
    assert "in the car already" in way(second, StrategyKey.ALL_NEW).why_not
    assert "no radio" not in " ".join(one.why_not for one in advise(second).ranked)
    laid = evaluate(apply_edits(second, lay_strategy(second, best.key.value, catalogue()).edits))
    assert {line.from_id for line in laid.design.links_of(LineLink)} == {unit.id}
    assert [f.title for f in laid.findings if f.severity is Severity.STOP] == []
    bare = apply_edits(second, [Edit(path=f"parts/{unit.id}/line_pairs", value=0)])
    spliced = apply_edits(bare, lay_strategy(bare, StrategyKey.RADIO_PICKUP.value, catalogue()).edits)
    assert [tap.method for tap in spliced.links_of(TapLink)] == [Pickup.SPLICE]
    promised = apply_edits(spliced, [Edit(path="intake/reversible", value=True)])
    for both in (spliced, promised):  # no wire of the works is cut
        assert [f.title for f in evaluate(both).findings if f.severity is Severity.STOP] == []
    plain = apply_edits(promised, [Edit(path="vehicle/radio/tier/value", value=Tier.PLAIN.value)])
    for year, remedy in ((1978, "See the other ways"), (2015, "Use a plug adapter")):  # an adapter nobody makes, or one
        said = evaluate(apply_edits(plain, [Edit(path="vehicle/year", value=year)])).findings
        (cut,) = [f for f in said if f.rule == "splice-on-reversible"]
        assert cut.remedy is not None
        assert (cut.severity, cut.remedy.label) == (Severity.STOP, remedy)


def test_what_a_new_radio_left_in_the_car_is_played_from_its_lines() -> None:
    """More work on a car that got a new radio, doors and bass on one amplifier: its radio has lines now, nothing that
    is in the car is advised again, and what is bought goes into the doors that are left.
    """
    first = car(Tier.PLAIN, Wish.BASS, Wish.CLARITY)
    built = apply_edits(first, lay_strategy(first, StrategyKey.ALL_NEW.value, catalogue()).edits)
    (unit,) = built.parts_of(HeadUnit)
    second = as_it_was_built(built, "More")
    radio = second.vehicle.radio
    said = radio.tier.value, radio.line_pairs.value, radio.line_v.value
    assert said == (Tier.AFTERMARKET, unit.line_pairs, unit.line_v)
    for wishes, key in ((["clarity"], StrategyKey.DOORS_AMPLIFIED), (["more bass"], StrategyKey.POWERED_SUB)):
        asked = apply_edits(second, [Edit(path="intake/wishes", value=wishes)])
        best = advise(asked).best
        assert best is not None
        assert best.key is key
        assert not {"converter", "plug adapter"} & set(best.needs)
    for whole in ON_ONE:
        assert way(second, whole).why_not.startswith("its bass is in the car already")
    asked = apply_edits(second, [Edit(path="intake/wishes", value=["clarity"])])
    laid = apply_edits(asked, lay_strategy(asked, StrategyKey.DOORS_AMPLIFIED.value, catalogue()).edits)
    (fresh,) = laid.new_parts_of(Driver)
    holes = {s.id: s.cut_out_mm.value for s in laid.vehicle.speakers}
    assert all(fresh.cut_out_mm <= (holes[name] or 0.0) for name in fresh.at_ids)
    about = {f.about for f in evaluate(laid).findings if f.rule in ("fit", "screws-over-hole", "hole-unknown")}
    assert about <= {fresh.id}, "what is in went in"


def second_job(key: StrategyKey, wish: str) -> Design:
    """More work on a car whose works amplifier an earlier job put something in place of, or played after."""
    first = car(Tier.AMPLIFIED, Wish.BASS, Wish.CLARITY)
    built = apply_edits(first, lay_strategy(first, key.value, catalogue()).edits)
    return apply_edits(as_it_was_built(built, "More"), [Edit(path="intake/wishes", value=[wish])])


def test_more_work_counts_with_what_became_of_the_works_amplifier() -> None:
    """What an earlier job put in its place drives the speakers: nothing is picked up behind it or put in its place once
    more. A radio an earlier job put in plays from its lines. What plays after the amplifier keeps it in the car.
    """
    replaced = second_job(StrategyKey.REPLACE_AMPLIFIER, "more bass")
    for key in (
        StrategyKey.AFTER_AMPLIFIER,
        StrategyKey.REPLACE_AMPLIFIER,
        StrategyKey.RADIO_BYPASS,
        StrategyKey.RADIO_KEEP_AMPLIFIER,
    ):
        assert way(replaced, key).why_not == TAKEN_OVER, key
    for key in (StrategyKey.DOORS_AMPLIFIED, *ON_ONE):
        assert "amplifier of an earlier job" in way(replaced, key).why_not
    best = advise(replaced).best
    assert best is not None
    assert best.key is StrategyKey.RADIO_PICKUP
    bypassed = second_job(StrategyKey.RADIO_BYPASS, "more bass")
    pickup = way(bypassed, StrategyKey.RADIO_PICKUP)
    assert (pickup.possible, "converter" in pickup.needs) == (True, False)
    (unit,) = bypassed.parts_of(HeadUnit)
    laid = apply_edits(bypassed, lay_strategy(bypassed, StrategyKey.RADIO_PICKUP.value, catalogue()).edits)
    (amplifier,) = (part for part in laid.new_parts_of(Amplifier))
    assert {line.from_id for line in laid.links_of(LineLink) if line.to_id == amplifier.id} == {unit.id}
    behind = second_job(StrategyKey.AFTER_AMPLIFIER, "clarity")
    for key in (StrategyKey.REPLACE_AMPLIFIER, StrategyKey.RADIO_BYPASS):
        assert "plays after the factory amplifier" in way(behind, key).why_not
    assert way(behind, StrategyKey.RADIO_KEEP_AMPLIFIER).possible
    first = car(Tier.AMPLIFIED, Wish.BASS, Wish.CLARITY)
    planned = apply_edits(first, lay_strategy(first, StrategyKey.AFTER_AMPLIFIER.value, catalogue()).edits)
    assert way(planned, StrategyKey.REPLACE_AMPLIFIER).possible, "what is only planned gives way"


def more(tier: Tier, key: StrategyKey, wish: str, then: StrategyKey) -> tuple[Design, Design]:
    """(the car as a job left it, the same with another way laid in)."""
    first = car(tier, Wish.BASS, Wish.CLARITY, Wish.SCREEN)
    built = apply_edits(first, lay_strategy(first, key.value, catalogue()).edits)
    left = apply_edits(as_it_was_built(built, "More"), [Edit(path="intake/wishes", value=[wish])])
    return left, apply_edits(left, lay_strategy(left, then.value, catalogue()).edits)


def test_what_an_earlier_job_did_to_radio_and_modules_stays_done() -> None:
    """What keeps the functions alive, and what is silent on purpose, is not undone by a way that does not speak of it;
    a way that does has the say.
    """
    left, laid = more(Tier.RING, StrategyKey.RADIO_BYPASS, "clarity", StrategyKey.DRIVER_SWAP)
    assert left.interventions
    assert {act.id: act for act in laid.interventions} == {act.id: act for act in left.interventions}
    lost = [f.title for f in evaluate(left).findings if f.rule in ("function-lost", "function-part")]
    assert [f.title for f in evaluate(laid).findings if f.rule in ("function-lost", "function-part")] == lost
    left, laid = more(Tier.SUB_AMPLIFIER, StrategyKey.ALL_NEW, "clarity", StrategyKey.DOORS_AMPLIFIED)
    assert [s.left_silent for s in laid.vehicle.speakers] == [s.left_silent for s in left.vehicle.speakers]
    assert not [f for f in evaluate(laid).findings if f.rule == "amplifier-unfed"]
    _, laid = more(Tier.AMPLIFIED, StrategyKey.RADIO_KEEP_AMPLIFIER, "more bass", StrategyKey.RADIO_BYPASS)
    assert len({act.id for act in laid.interventions}) == len(laid.interventions), "a way that does has the say"
    left, laid = more(Tier.AMPLIFIED, StrategyKey.RADIO_KEEP_AMPLIFIER, "more bass", StrategyKey.REPLACE_AMPLIFIER)
    (amplifier,) = (m for m in left.vehicle.modules if m.amplifies)
    assert [act.act for act in laid.interventions if act.id == amplifier.id] == [Act.REPLACED]
    assert [act for act in laid.interventions if act.id == "radio"] == [
        act for act in left.interventions if act.id == "radio"
    ]


def test_speakers_of_an_earlier_job_do_not_choose_the_new_amplifier() -> None:
    """An amplifier for doors has two channels, whatever plays elsewhere in the car."""
    _, laid = more(Tier.PLAIN, StrategyKey.RADIO_PICKUP, "clarity", StrategyKey.DOORS_AMPLIFIED)
    (amplifier,) = laid.new_parts_of(Amplifier)
    assert amplifier.channels >= 2
    assert len([link for link in laid.new_links_of(SpeakerLink) if link.from_id == amplifier.id]) == 2
    assert not {"link-missing", "signal-missing"} & {f.rule for f in evaluate(laid).findings}


def test_an_amplifier_is_rated_for_the_speakers_it_drives() -> None:
    """Whatever an earlier job put into other doors: it is driven by something else."""
    first = car(Tier.PLAIN, Wish.CLARITY)
    laid = apply_edits(first, lay_strategy(first, StrategyKey.DOORS_AMPLIFIED.value, catalogue()).edits)
    (driver,) = laid.parts_of(Driver)
    suits = choose_part(laid, "amplifier", catalogue())
    frail = apply_edits(laid, [Edit(path=f"parts/{driver.id}/power_rms_w", value=15.0)])
    assert suits is not None
    assert suits != choose_part(frail, "amplifier", catalogue()), "what they take chooses it"
    there = {**driver.model_dump(mode="json"), "id": "old", "at_ids": ["spk-rl", "spk-rr"], "power_rms_w": 15.0}
    there["stands"] = "already in the car"
    both = apply_edits(laid, [Edit(op="add", path="parts", value=there)])
    assert choose_part(both, "amplifier", catalogue()) == suits
