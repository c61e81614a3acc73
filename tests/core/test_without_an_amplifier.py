"""Jobs with a radio only: a veteran truck, a works cart on a pack, cars that have to be refused."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import ModuleKind, Tier
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, RemoteLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import FEED_PATTERNS, Body, Feed, FeedRole, Hand, Powertrain, SpeakerPlace
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.system import questions
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.physics.conductors import ampacity_a, conductor
from ohmack.core.planning.laying import follow
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.planning.survey import add_to_survey
from ohmack.core.planning.system_answers import answer_question
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.supply.feed_taps import feed_refuses
from ohmack.demo.building import measured
from ohmack.demo.jobs import catalogue

TREES = {tree["name"]: tree for tree in catalogue()}
RADIO, BOXES, CONVERTER = "Quillon Q1 plain radio", "Kettleworth boxed 130, pair", "Hob converter 36/48 to 12 V, 20 A"


def bare(body: Body, year: int, powertrain: Powertrain = Powertrain.COMBUSTION) -> Design:
    """A vehicle with no radio, the opening cut to the usual size, two boxes to come behind the seat."""
    vehicle = new_vehicle("Hask", "Furrow", year, body, Hand.RIGHT, powertrain)
    design = Design.model_validate({"vehicle": vehicle.model_dump(), "intake": {"wishes": ["clarity"]}})
    opening = [measured(f"vehicle/radio/opening_{n}_mm", mm) for n, mm in (("width", 183.0), ("height", 55.0))]
    design = apply_edits(design, [
        measured("vehicle/radio/tier", "no radio"), measured("vehicle/radio/opening_depth_mm", 190.0), *opening,
    ])  # fmt: skip
    gone = [Edit(op="remove", path=f"vehicle/speakers/{speaker.id}") for speaker in vehicle.speakers]
    return apply_edits(design, [*gone, *add_to_survey(design, "pair of boxes")[1]])


def with_a_radio(year: int) -> Design:
    """A saloon as it left the works."""
    return Design.model_validate({"vehicle": new_vehicle("Hask", "Rill", year, Body.SALOON, Hand.RIGHT).model_dump()})


def with_parts(design: Design, *names: str) -> Design:
    for name in names:
        design = apply_edits(design, place_part(design, dict(TREES[name])))
        design = apply_edits(design, connect_everything(design))
    return design


def feeds(design: Design) -> dict[str, Feed]:
    return {feed.id: feed for feed in design.vehicle.feeds}


def said(evaluation: Evaluation, severity: Severity) -> list[str]:
    return [f.title for f in evaluation.findings if f.severity is severity]


def test_a_truck_gets_a_whole_build_sheet_without_an_amplifier() -> None:
    """Radio feed on constant and on the key, fused; one ground; a pair to each box; 4 Ω on channels that want 4 Ω."""
    result = evaluate(with_parts(bare(Body.TRUCK, 1978), RADIO, BOXES))
    assert said(result, Severity.STOP) == []
    rows = [(row.purpose, row.start, row.end) for row in result.results.wire_rows]
    assert rows == [
        ("Feed", "Radio constant feed", RADIO),
        ("Ground", RADIO, "Radio ground bolt"),
        ("Feed", "Radio switched feed", RADIO),
        ("Speaker", f"{RADIO}, its leads, rear left pair", "Box left"),
        ("Speaker", f"{RADIO}, its leads, rear right pair", "Box right"),
    ]
    assert all(row.length_m for row in result.results.wire_rows)
    assert [row.rating_a for row in result.results.fuse_rows] == [10.0, 10.0], "as its maker names"
    loads = {c.name: (c.load.value, c.lowest.value) for c in result.results.channel_loads}
    assert loads == {"Rear left": (4.0, 4.0), "Rear right": (4.0, 4.0)}
    assert not any("cut-out" in f.title or "adapter" in f.title for f in result.findings), "a box is a box"
    best = advise(bare(Body.TRUCK, 1978)).best
    assert best is not None
    assert best.needs == ("radio", "driver"), "nobody sells a plug adapter for it"
    laid = apply_edits(bare(Body.TRUCK, 1978), lay_strategy(bare(Body.TRUCK, 1978), best.key.value, catalogue()).edits)
    assert {part.at_ids for part in laid.parts_of(Driver)} == {tuple(s.id for s in laid.vehicle.speakers)}
    assert not any("small speakers" in f.title for f in evaluate(laid).findings), "no hole on file asks for small ones"
    later = with_parts(apply_edits(bare(Body.TRUCK, 2004), [measured("vehicle/radio/tier", "plain radio")]), RADIO)
    assert not list(later.links_of(FeedLink)), "the plug of the works feeds it"


def test_a_cart_takes_a_converter_and_its_stop_is_cleared() -> None:
    cart = with_parts(bare(Body.CART, 2020, Powertrain.ELECTRIC), RADIO, BOXES)
    assert "A 36 or 48 V pack supply needs a converter to 12 V" in said(evaluate(cart), Severity.STOP)
    held = with_parts(cart, CONVERTER)
    result = evaluate(held)
    assert said(result, Severity.STOP) == []
    assert said(result, Severity.WATCH) == [
        f"{CONVERTER} takes 30 to 60 V: what the pack holds is not known",
        "Not known: whether Radio ground bolt reaches the pack's negative",
    ]
    frame = measured("vehicle/supply/body_return_ohm", 0.002)  # from the frame to the pack's minus
    read = apply_edits(held, [measured("vehicle/supply/post_resting_v", 50.4), frame])
    assert said(evaluate(read), Severity.WATCH) == []
    other = apply_edits(held, [measured("vehicle/supply/post_resting_v", 74.0)])
    assert f"{CONVERTER} takes 30 to 60 V, the pack holds 74 V" in said(evaluate(other), Severity.STOP)
    weak = evaluate(apply_edits(read, [Edit(path="parts/dcdc/current_a", value=4.0)]))
    assert f"{CONVERTER} gives 4.00 A, 5.00 A are drawn" in said(weak, Severity.STOP)


@pytest.mark.parametrize(
    ("path", "value", "word"),
    [("vehicle/supply/system", "6 V", "6 V"), ("vehicle/supply/positive_ground", True, "positive pole")],
)
def test_what_cannot_be_done_is_refused_first_and_in_every_way(path: str, value: Any, word: str) -> None:
    design = apply_edits(with_parts(bare(Body.TRUCK, 1952), RADIO, BOXES), [measured(path, value)])
    stops = [f for f in evaluate(design).findings if f.severity is Severity.STOP]
    assert stops[0].rule == "supply-system"
    ways = advise(design).ranked
    assert advise(design).best is None
    assert all(word in c.why_not for c in ways)


def test_an_answer_is_a_fact_and_is_not_asked_again() -> None:
    design = Design.model_validate({"vehicle": new_vehicle("A", "B", 1994, Body.COUPE, Hand.LEFT).model_dump()})
    asked = {q.id: q for q in questions(design.vehicle)}
    none = apply_edits(design, answer_question(design, asked["speakers-count"], "none", "Wen", "2026-11-26"))
    assert none.vehicle.speakers == ()
    looked = apply_edits(design, [measured("vehicle/speakers/spk-fl/depth_mm", 61.0)])
    left = apply_edits(looked, answer_question(looked, asked["speakers-count"], "none", "Wen", "2026-11-26"))
    assert [s.id for s in left.vehicle.speakers] == ["spk-fl"], "somebody had a ruler in there"
    amplified = apply_edits(design, [measured("vehicle/radio/tier", "radio with amplifier")])
    amplified = apply_edits(amplified, modules_for(amplified, amplified.vehicle.radio.tier.value))
    seen = answer_question(amplified, asked["box-found"], "yes, many wires", "Wen", "2026-11-26")
    fitted = apply_edits(amplified, seen).vehicle.modules[0].fitted
    assert (fitted.value, fitted.basis.value) == (True, "measured")


def test_a_converter_stands_between_the_whole_pack_and_the_radio_with_a_fuse_and_a_wire() -> None:
    """20 A at 13.8 V out of 30 V at 85 % is 10.8 A (power in is power out over efficiency). A pack of 24 cells charges
    to 57.6 V, which no blade breaks (32 V, ISO 8820-3, from memory) and a bolt-down strip does (58 V, ISO 8820-5,
    from memory), the smallest of 30 A; both poles are wired.
    """
    result = evaluate(with_parts(bare(Body.CART, 2020, Powertrain.ELECTRIC), RADIO, BOXES, CONVERTER))
    figures = result.figures
    assert figures["dcdc/pack_current_a"].value == pytest.approx(20 * 13.8 / (0.85 * 30))
    assert figures["dcdc/pack_fuse_a"].value == 30.0
    row = next(r for r in result.results.wire_rows if r.end == CONVERTER)
    assert row.start == "Battery, both poles of the whole pack"
    assert row.size == f"{figures['dcdc/pack_wire'].value} × 2"
    assert ampacity_a(conductor(figures["dcdc/pack_wire"].value), engine_space=False) >= 30.0
    assert row.length_m
    metre_ohm = conductor(figures["dcdc/pack_wire"].value).resistance_ohm_per_m
    lost_v = 2 * figures["dcdc/pack_current_a"].value * metre_ohm * row.length_m
    assert figures["dcdc/pack_lost_v"].value == pytest.approx(lost_v)
    orders = {(r.what, r.amount): r.note for r in result.results.order}
    assert CONVERTER in orders["Holder for a bolt-down strip fuse", "1"]
    assert (f"Ring terminal for {figures['dcdc/pack_wire'].value}", "2") in orders
    size = figures["dcdc/pack_wire"].value
    cable = result.figure(f"cable/{size}".replace(" ", "-").lower())
    assert [t.value for t in cable.inputs[1:]].count(row.length_m) == 2  # both its leads are bought
    assert any(
        f.rating_a == 30.0 and f.family == "Bolt-down strip" and f.place.startswith("At Battery")
        for f in result.results.fuse_rows
    )
    assert any("30 A" in r.what for r in result.results.order if r.group == "Fuses")
    for rests_v, kind, rating_a in ((27.0, "Regular blade", 15.0), (38.2, "Bolt-down strip", 30.0), (51.0, "", None)):
        read = evaluate(apply_edits(result.design, [measured("vehicle/supply/post_resting_v", rests_v)]))
        row = next(f for f in read.results.fuse_rows if f.place.startswith("At Battery"))
        assert row.rating_a == rating_a
        assert not kind or row.family == kind
        assert kind or any("what a fuse on file breaks" in f.text for f in read.findings if f.rule == "figure-refused")


def test_by_the_engine_the_leads_to_a_pack_carry_less_and_what_nobody_read_follows_the_system() -> None:
    """40 A at 13.8 V out of 20 V at 85 % want a 40 A fuse: 12 AWG carries 45 A (ABYC E-11, from memory), 0.85 of it in
    the engine space, so 10 AWG; twelve cells rest at twice what six do.
    """
    truck = bare(Body.TRUCK, 2011)
    to_24 = [measured("vehicle/supply/system", "24 V")]
    truck = apply_edits(truck, list(follow(truck, to_24)))
    rests = truck.vehicle.supply.post_resting_v
    assert (rests.value, rests.low, rests.high, rests.basis.value) == (25.2, 24.4, 25.6, "assumed")
    assert truck.vehicle.supply.post_running_v.value == 28.4
    old = apply_edits(truck, list(follow(truck, [measured("vehicle/supply/system", "6 V")])))
    assert (old.vehicle.supply.post_resting_v.value, old.vehicle.supply.post_running_v.value) == (6.3, 7.1)
    pack = apply_edits(truck, list(follow(truck, [measured("vehicle/supply/system", "36 or 48 V pack")])))
    assert pack.vehicle.supply.post_resting_v.value is None
    read = apply_edits(truck, [measured("vehicle/supply/post_resting_v", 24.9)])
    back = follow(read, [measured("vehicle/supply/system", "12 V")])
    assert [edit.path for edit in back] == [
        "vehicle/supply/system",
        "vehicle/supply/post_running_v",
    ]  # what was read stays
    result = evaluate(with_parts(truck, RADIO, BOXES, "Hob converter 24 to 12 V, 40 A"))
    assert result.figures["dcdc/pack_fuse_a"].value == 40.0
    assert result.figures["dcdc/pack_wire"].value == "10 AWG"
    assert not [f for f in result.findings if f.rule == "supply-system"]
    low = apply_edits(result.design, [Edit(path="parts/dcdc/in_low_v", value=24.9)])
    said_low = [f.title for f in evaluate(low).findings if f.rule == "supply-system"]
    assert "works from 24.9 V" in said_low[0]


def test_a_12_v_radio_on_the_plug_of_a_24_v_truck_goes_behind_the_converter_by_a_press() -> None:
    """Its constant lead hangs on the converter's output, its switched one through a relay on the truck's own key feed;
    the relay is bought with a coil for 24 V, and a coil for 12 V is stopped.
    """
    truck = Design.model_validate({"vehicle": new_vehicle("Hask", "Ox", 2011, Body.TRUCK, Hand.LEFT).model_dump()})
    truck = apply_edits(truck, list(follow(truck, [measured("vehicle/supply/system", "24 V")])))
    truck = apply_edits(truck, [measured(at(feed, lambda it: it.reads_v), 24.5) for feed in truck.vehicle.feeds])

    def stopped(design: Design) -> list[Finding]:
        return [f for f in evaluate(design).findings if f.rule == "feed-volts"]

    alone = apply_edits(truck, place_part(truck, dict(TREES[RADIO])))
    assert {f.remedy.query for f in stopped(alone) if f.remedy is not None} == {"kind=voltage+converter"}
    both = apply_edits(alone, place_part(alone, dict(TREES["Hob converter 24 to 12 V, 40 A"])))
    said = stopped(both)
    assert [f.title.partition(" reads")[0] for f in said] == ["Radio constant feed", "Radio switched feed"]
    assert said[0].remedy is not None
    fed = apply_edits(both, edits_of(both, said[0].remedy))
    assert stopped(fed) == []
    links = {feeds(fed)[link.from_id].role: link for link in fed.links_of(FeedLink)}
    assert links[FeedRole.CONSTANT].ground_point_id is not None
    key = feeds(fed)[links[FeedRole.SWITCHED].from_id]
    assert (key.relay_on_id, key.reads_v.value) == ("radio-switched", 13.8)
    assert key.live.value == feeds(truck)["radio-switched"].live.value
    assert [r.what for r in evaluate(fed).results.order if "relay" in r.what] == [
        "Small automotive relay with socket, coil for 24 V"
    ]
    path = "vehicle/feeds/radio-switched/live"
    read = [Edit(path=path, value={"value": ["on"], "basis": "measured"})]
    after = feeds(apply_edits(fed, list(follow(fed, read))))[key.id].live
    assert (after.value, after.basis.value) == (("on",), "measured"), "it follows what works its relay"
    plan = evaluate(fed).results.work_plan
    relay, holder = plan.named(f"join-relay-{key.id}"), plan.named("fix-fuse-dcdc")
    assert relay is not None
    assert "its coil between Radio switched feed and the body" in relay.step.what
    assert holder is not None
    assert holder.step.what.startswith("Fuse holder at Battery, in the plus to Hob converter")
    plugged = apply_edits(fed, place_part(fed, dict(TREES["Radio plug adapter, 16 way"])))
    for design, said_so in (
        (plugged, True),
        (apply_edits(both, place_part(both, dict(TREES["Radio plug adapter, 16 way"]))), False),
    ):
        joined = evaluate(design).results.work_plan.named("join-plug")
        assert joined is not None
        assert any("stay open" in mind for mind in joined.step.cautions) is said_so
    later = [Edit(path="parts/dcdc/phase", value="later")]
    today = [f for f in evaluate(apply_edits(fed, later)).findings if f.rule == "feed-volts"]
    assert {f.title for f in today} >= {"Hob converter 24 to 12 V, 40 A, 12 V side: its converter comes later"}
    bare = apply_edits(fed, [Edit(op="remove", path="parts/dcdc")])
    assert (len(bare.vehicle.feeds), list(bare.links_of(FeedLink))) == (2, []), "what came from it goes with it"
    for name, titles in (("Hob relay 30 A with socket", ["burns"]), ("Hob relay, 24 V coil, with socket", [])):
        with_one = apply_edits(fed, place_part(fed, dict(TREES[name])))
        assert ["burns" for f in stopped(with_one) if "It burns" in f.text] == titles
        assert not [r for r in evaluate(with_one).results.order if "relay with socket, coil" in r.what]
        assert not [f for f in evaluate(with_one).findings if f.rule in ("switching-relay", "part-idle")]
    coil = apply_edits(fed, place_part(fed, dict(TREES["Hob relay, 24 V coil, with socket"])))
    for reads_v, words in ((31.0, ""), (20.0, ""), (18.5, "It does not pull"), (32.0, "It burns")):  # 0.8 and 1.3 times
        at_it = apply_edits(coil, [measured("vehicle/feeds/radio-switched/reads_v", reads_v)])
        assert [f.text.partition(".")[0] for f in stopped(at_it)] == [words] * bool(words)
    maxi = apply_edits(fed, place_part(fed, dict(TREES["Hob maxi holder"])))
    assert any("Holder for" in r.what for r in evaluate(fed).results.order)
    assert not any("Holder for" in r.what for r in evaluate(maxi).results.order), "the one among the parts does"
    assert not [f for f in evaluate(maxi).findings if f.rule == "part-idle"]
    strip = apply_edits(fed, place_part(fed, dict(TREES["Hob strip holder"])))
    assert any("Holder for a maxi" in r.what for r in evaluate(strip).results.order), (
        "a strip holder takes no such fuse"
    )
    assert [f.about for f in evaluate(strip).findings if f.rule == "part-idle"] == ["holder"]


def test_an_amplifier_is_switched_by_a_24_v_feed_through_a_relay_alone() -> None:
    lorry = evaluate(with_parts(bare(Body.TRUCK, 2011), "Hob converter 24 to 12 V, 40 A", "Tessel Two 200")).design
    remote = {"id": "on", "kind": "remote", "from_id": "radio-switched", "to_id": "amp"}
    lorry = apply_edits(lorry, [
        measured("vehicle/supply/system", "24 V"), measured("vehicle/radio/tier", "plain radio"),
        measured("vehicle/feeds/radio-switched/reads_v", 24.5), Edit(op="add", path="links", value=remote),
    ])  # fmt: skip
    (said,) = [f for f in evaluate(lorry).findings if f.rule == "feed-volts" and f.about.startswith("radio-switched")]
    assert said.remedy is not None
    relayed = apply_edits(lorry, edits_of(lorry, said.remedy))
    assert all(link.relay for link in relayed.links_of(RemoteLink))
    assert not [
        f for f in evaluate(relayed).findings if f.rule == "feed-volts" and f.about.startswith("radio-switched")
    ]


def test_a_screen_over_a_hidden_radio_has_its_own_feed_and_a_line_into_it() -> None:
    """The hidden radio keeps its plug: nothing of it feeds the screen."""
    ring = ring_car()
    laid = apply_edits(ring, lay_strategy(ring, StrategyKey.SCREEN_ON_TOP.value, catalogue()).edits)
    result = evaluate(laid)
    rows = {(row.purpose, row.end) for row in result.results.wire_rows}
    assert ("Feed", "Quillon S2 screen radio") in rows
    assert ("Line level", "Factory radio, its free input") in rows
    assert any(f.rule == "spare-input" for f in result.findings)
    assert not any(f.rule == "function-lost" for f in result.findings)
    assert any("its length is not known yet" in row.unknown for row in result.results.order)


def ring_car() -> Design:
    """A saloon with a ring and what such a system has, a screen wanted."""
    saloon = new_vehicle("Hallam", "Warden", 2010, Body.SALOON, Hand.LEFT)
    ring = Design.model_validate({"vehicle": saloon.model_dump(), "intake": {"wishes": ["a modern screen"]}})
    ring = apply_edits(ring, [measured("vehicle/radio/tier", "digital or optical ring")])
    return apply_edits(ring, modules_for(ring, Tier.RING))


def test_a_screen_over_a_hidden_radio_draws_beside_it() -> None:
    """Both hang on the feed: 4 A there and 5 A of the screen are 9 A, which a 10 A fuse does not give for long
    (Kirchhoff's current law; the head-room of 80 % is common practice). In the place of the old one it is 5 A.
    """
    laid = apply_edits(ring_car(), lay_strategy(ring_car(), StrategyKey.SCREEN_ON_TOP.value, catalogue()).edits)
    feed = "vehicle/feeds/radio-constant"

    def said(design: Design) -> set[str]:
        return {f.title for f in evaluate(design).findings if f.rule == "radio-feed"}

    assert said(laid) == {"Not known: what Radio constant feed carries already"}
    read = apply_edits(laid, [measured(f"{feed}/old_load_a", 4.0), measured(f"{feed}/fuse_a", 10.0)])
    (found,) = evaluate(read).results.radio_feeds
    assert (found.tap.total.value, found.tap.verdict) == (9.0, "refused")
    assert said(read) == {"Radio constant feed hardly carries Quillon S2 screen radio"}
    roomy = apply_edits(read, [measured(f"{feed}/fuse_a", 15.0), measured(f"{feed}/limit_a", 15.0)])
    assert not said(roomy)
    (constant,) = [f for f in read.vehicle.feeds if f.id == "radio-constant"]
    assert feed_refuses(read, constant, 0.5), "4 A there, 5 A of the screen and half an ampere more are over 8 A"
    assert not feed_refuses(apply_edits(read, [Edit(op="remove", path="interventions/radio")]), constant, 0.5)
    gone = apply_edits(read, [Edit(op="remove", path="interventions/radio")])
    (found,) = evaluate(gone).results.radio_feeds
    assert found.tap.total.value == 5.0


def test_a_second_feed_that_is_no_key_feed_does_not_lose_the_radio_its_ground() -> None:
    """The ground goes with the constant feed; a fed radio without any is stopped."""
    laid = apply_edits(ring_car(), lay_strategy(ring_car(), StrategyKey.SCREEN_ON_TOP.value, catalogue()).edits)
    always = apply_edits(laid, [measured("vehicle/feeds/radio-switched/live", list(FEED_PATTERNS["constant"]))])

    def bare(design: Design) -> list[str]:
        return [f.title for f in evaluate(design).findings if f.title.endswith("has no ground")]

    assert not bare(always)
    feeds = [link for link in laid.links_of(FeedLink) if link.ground_point_id is not None]
    assert bare(apply_edits(always, [Edit(path=f"links/{k.id}/ground_point_id", value=None) for k in feeds]))


def test_a_system_that_was_found_out_is_not_judged_without_its_amplifier() -> None:
    """Known to be a ring and nothing on file but the radio: said, laid in by the press, and the ways open up."""
    saloon = new_vehicle("Hallam", "Warden", 2010, Body.SALOON, Hand.LEFT)
    bare = Design.model_validate({"vehicle": saloon.model_dump()})

    def told(design: Design) -> list[Finding]:
        return [f for f in evaluate(design).findings if f.rule == "system-unsaid"]

    def barred(design: Design) -> str:
        return next(c for c in advise(design).ranked if c.key is StrategyKey.REPLACE_AMPLIFIER).why_not

    for tier in (Tier.RING, Tier.AMPLIFIED, Tier.SUB_AMPLIFIER):
        design = apply_edits(bare, [measured("vehicle/radio/tier", tier.value)])
        (found,) = told(design)
        if tier is not Tier.SUB_AMPLIFIER:
            assert barred(design) == "its factory amplifier is not on file yet"
        assert found.remedy is not None
        filled = apply_edits(design, edits_of(design, found.remedy))
        assert not told(filled)
        assert any(module.amplifies for module in filled.vehicle.modules)
        if tier is not Tier.SUB_AMPLIFIER:
            assert barred(filled) == ""
        other = ModuleKind.AMPLIFIER if tier is Tier.SUB_AMPLIFIER else ModuleKind.SUB_AMPLIFIER
        turned = [Edit(path=f"vehicle/modules/{m.id}/kind", value=other.value)
                  for m in filled.vehicle.modules if m.amplifies]  # fmt: skip
        assert told(apply_edits(filled, turned)), "another kind of amplifier is not the one such a system has"
        out = apply_edits(filled, [measured(f"vehicle/modules/{m.id}/fitted", False) for m in filled.vehicle.modules])
        assert not told(out), "somebody looked: there is none"
        assert "not on file yet" not in barred(out)
    assert not told(apply_edits(bare, [Edit(path="vehicle/radio/tier/value", value=Tier.RING.value)])), "only assumed"
    assert not told(apply_edits(bare, [measured("vehicle/radio/tier", Tier.PLAIN.value)]))


def test_a_new_radio_is_not_ready_until_it_meets_the_cars_plug() -> None:
    """By an adapter for that plug, or wire by wire off a map; a car too old for such plugs has its leads joined."""
    radio = "Quillon S2 screen radio"

    def asked(design: Design) -> bool:
        return any(f.rule == "radio-unjoined" for f in evaluate(design).findings)

    plain = with_parts(with_a_radio(2012), radio)
    assert asked(plain)
    assert not asked(with_parts(plain, "Radio plug adapter, 16 way"))
    assert asked(with_parts(plain, "Quillon aerial adapter")), "an aerial adapter is none for the plug"
    plug = {"id": "radio-plug", "name": "Radio plug", "position": {"x_m": 1.6, "y_m": 0.0}, "cavities": [
        {"id": "one", "number": "1", "use": {"value": "constant", "basis": "measured"}}]}  # fmt: skip
    mapped = apply_edits(plain, [Edit(op="add", path="vehicle/connectors", value=plug)])
    assert not asked(mapped)
    assert any("No wire on the map for" in f.title for f in evaluate(mapped).findings), "the map is judged instead"
    assert not asked(with_parts(with_a_radio(1972), radio))


DOORS = "Pell & Fenn Coax 65, pair"


def pairs_give(design: Design) -> list[tuple[float, float]]:
    """(volts rms, clean power) of the front pairs."""
    rows = evaluate(design).results.channel_loads
    return [(row.given.value, row.power.value) for row in rows if row.channel.id.startswith("ch-f")]


@pytest.mark.parametrize(("stated", "power_w"), [("rms", 81 / 4), ("peak", 81 / 8)])
def test_what_a_pair_gives_its_new_speakers_peak_or_rms(stated: str, power_w: float) -> None:
    """9 V into 4 ohm: 20 W stated as rms, 10 W stated as peak (arithmetic of the sine)."""
    read = [measured("vehicle/radio/source_voltage_v", 9.0), Edit(path="vehicle/radio/source_stated_as", value=stated)]
    design = with_parts(apply_edits(with_a_radio(2010), read), DOORS)
    assert [power for _, power in pairs_give(design)] == pytest.approx([power_w] * 2)


def test_what_a_new_radio_gives_is_its_rating_whatever_was_read_at_the_old_one() -> None:
    """18 W into 4 ohm are 8.49 V (V = sqrt(P Z)), and so they stay when 12 V were read before."""
    old = apply_edits(with_a_radio(2010), [measured("vehicle/radio/source_voltage_v", 12.0)])
    design = with_parts(apply_edits(old, lay_strategy(old, StrategyKey.NEW_RADIO.value, ()).edits), DOORS)
    design = with_parts(design, "Quillon Q1 plain radio")
    assert pairs_give(design) == [(pytest.approx(72**0.5), pytest.approx(18.0))] * 2


def test_a_radio_without_a_speaker_is_no_plan_and_a_pair_goes_into_boxes() -> None:
    """A truck that never had a radio: its pattern has speakers in the doors, and nobody has seen any. Gone from the
    file, the radio plays into nothing until a pair is taken, which goes into boxes on its rear leads.
    """
    truck = bare(Body.TRUCK, 1976)
    doors = [speaker.id for speaker in new_vehicle("A", "B", 1976, Body.TRUCK, Hand.RIGHT).speakers]
    assert doors
    typical = Design.model_validate({"vehicle": new_vehicle("A", "B", 1976, Body.TRUCK, Hand.RIGHT).model_dump()})
    typical = apply_edits(typical, [measured("vehicle/radio/tier", "no radio")])
    unseen = next(f for f in evaluate(with_parts(typical, RADIO)).findings if f.rule == "speakers-unseen")
    assert unseen.remedy is not None
    assert [edit.path for edit in unseen.remedy.edits] == [f"vehicle/speakers/{name}" for name in doors]
    read = [measured(f"vehicle/speakers/{name}/dc_resistance_ohm", 3.4) for name in doors]
    for seen in ([*read], [Edit(op="remove", path=f"vehicle/speakers/{name}") for name in doors]):
        after = evaluate(with_parts(apply_edits(typical, seen), RADIO))
        assert [f.rule for f in after.findings if f.rule in ("speakers-unseen", "radio-alone")] == (
            [] if seen == read else ["radio-alone"]
        )
    made = [Edit(path=f"vehicle/speakers/{name}/new_place", value=True) for name in doors]
    assert "speakers-unseen" not in {f.rule for f in evaluate(with_parts(apply_edits(typical, made), RADIO)).findings}
    none = [Edit(op="remove", path=f"vehicle/speakers/{speaker.id}") for speaker in truck.vehicle.speakers]
    held = evaluate(with_parts(apply_edits(truck, none), RADIO, BOXES))
    assert said(held, Severity.STOP) == []
    (pair,) = held.design.parts_of(Driver)
    assert [s.place for s in held.design.vehicle.speakers if s.id in pair.at_ids] == [SpeakerPlace.BOX] * 2
    ends = [(row.start, row.end) for row in held.results.wire_rows if row.purpose == "Speaker"]
    assert ends == [(f"{RADIO}, its leads, rear {side} pair", f"Box {side}") for side in ("left", "right")]


def about_boxes(design: Design) -> list[Severity]:
    return [f.severity for f in evaluate(design).findings if f.rule == "box-for-a-speaker"]


def test_bare_speakers_for_boxes_ask_for_boxes_and_boxed_ones_go_into_no_hole() -> None:
    """What a bare pair is screwed into must come from somewhere; a box does not go into a door."""
    truck = bare(Body.TRUCK, 1978)
    assert about_boxes(with_parts(truck, RADIO, BOXES)) == []
    coaxials = with_parts(truck, RADIO, DOORS)
    (pair,) = coaxials.parts_of(Driver)
    assert {s.place for s in coaxials.vehicle.speakers if s.id in pair.at_ids} == {SpeakerPlace.BOX}
    assert about_boxes(coaxials) == [Severity.WATCH]
    assert about_boxes(apply_edits(coaxials, [Edit(path=f"parts/{pair.id}/own_box", value=True)])) == []
    hatch = with_a_radio(2012)
    beside = with_parts(hatch, BOXES)
    (boxed,) = beside.parts_of(Driver)
    assert {s.place for s in beside.vehicle.speakers if s.id in boxed.at_ids} == {SpeakerPlace.BOX}
    assert about_boxes(beside) == []
    doors = [s.id for s in hatch.vehicle.speakers if s.in_door][:2]
    into = apply_edits(beside, [Edit(path=f"parts/{boxed.id}/at_ids", value=doors)])
    assert about_boxes(into) == [Severity.STOP]
    for car, way, in_boxes in ((truck, StrategyKey.NEW_RADIO, True), (hatch, StrategyKey.DRIVER_SWAP, False)):
        laid = apply_edits(car, lay_strategy(car, way.value, list(TREES.values())).edits)
        assert {driver.own_box for driver in laid.parts_of(Driver)} == {in_boxes}


def test_a_box_has_no_trim_and_a_car_without_a_radio_none_to_take_out() -> None:
    """A box is strapped and leaves no hole; a cover comes off where no radio was; a radio's stations are not noted."""
    results = evaluate(with_parts(bare(Body.TRUCK, 1978), RADIO, BOXES)).results
    steps = {planned.step.id: planned.step.what for planned in results.work_plan.steps}
    assert not [name for name in steps if name.startswith("off-box")]
    assert "strapped or bolted" in steps["fix-box-speaker-left"]
    assert steps["off-radio"] == "Cover of the radio's opening out of the dash"
    assert "stations" not in steps["note"] + steps["settings-back"]
    there = evaluate(with_parts(with_a_radio(2012), RADIO)).results.work_plan.steps
    words = {planned.step.id: planned.step.what for planned in there}
    assert "stations" in words["note"]
    assert words["off-radio"] == "Factory radio out of the dash"
