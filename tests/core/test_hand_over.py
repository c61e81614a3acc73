"""The hand-over: the soak over its days, what holds a car, the fuse map, what is promised, said and signed for."""

from __future__ import annotations

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handover import HandOver
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.document.proof import Practice
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.handover.leaflet import leaflet
from ohmack.core.handover.left_open import Kind
from ohmack.core.handover.soak import SoakState, soak_checks
from ohmack.core.handover.state import digest_of
from ohmack.core.planning.cutting import note_hole
from ohmack.core.planning.handing_over import Tried, accept_soak, hear, hold, note_try, sign, take_back
from ohmack.core.prove.car import Setting
from ohmack.core.prove.judged import State
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved

NOW = "2026-12-01T18:00"
NUMBERS = range(len(demo_jobs()))


@pytest.fixture(scope="module")
def done() -> Design:
    """The theatre's estate, proved to the end."""
    return proved(demo_design(0))


def tried(design: Design, check: str, when: str, value: float | None = None, passed: bool | None = None) -> Design:
    found = next(c for c in soak_checks(evaluate(design).results) if c.id == check)
    return apply_edits(design, note_try(design, found, Tried(value, passed, when, "Wen"), NOW))


def soaked(design: Design, but: str = "") -> Design:
    """Everything tried as often as it asks for, and good."""
    good = {Quantity.HEAT: 45.0, Quantity.ASLEEP_MA: 12.0, Quantity.DC_V: 12.6}
    for check in soak_checks(evaluate(design).results):
        for n in range(check.times if check.id != but else 0):
            edits = note_try(design, check, Tried(good.get(check.quantity), True, f"2026-11-{20 + n}T07:00"), NOW)
            design = apply_edits(design, edits)
    return design


def heard_out(design: Design, but: str = "") -> Design:
    """Soaked, and the customer content with everything nothing was measured for."""
    design = soaked(design, but)
    for promise in evaluate(design).results.promises:
        if not promise.settled:
            edits = hear(evaluate(design).results, promise.id, "as wished", "", "2026-11-28")
            design = apply_edits(design, edits)
    return design


def results(design: Design) -> Results:
    return evaluate(design).results


# -- soak -----------------------------------------------------------------------------------------------------------


def test_what_is_tried_follows_from_the_plan(done: Design) -> None:
    checks = {c.id: c for c in soak_checks(results(done))}
    assert {"soak/cold-start", "soak/drive", "soak/rattle", "soak/sleep", "soak/heat/amp", "soak/tight"} <= set(checks)
    # the morning's volts are the network's, asleep, less what meter and facts leave open
    car = results(done)
    name, plus, minus = car.car.posts[0]
    window = car.windows.of(Probe(Quantity.DC_V, plus, minus, Setting.ASLEEP))
    assert window is not None
    assert checks[f"soak/morning/{name}"].low == pytest.approx(window.low)
    assert 12.0 < window.low < 12.61, "under what was read at rest, and no flat battery"
    assert checks["soak/sleep"].high == car.proof.named("level/asleep").window.high  # type: ignore[union-attr]
    assert not soak_checks(results(done.model_copy(update={"parts": (), "links": ()})))


@pytest.mark.parametrize(
    ("tries", "state", "good"),
    [
        ([], SoakState.OPEN, 0),
        ([("20T07:00", 12)], SoakState.BEGUN, 1),
        ([("20T07:00", 12), ("20T12:00", 12), ("20T19:00", 12)], SoakState.BEGUN, 3),  # one day is not two
        ([("20T07:00", 12), ("20T19:00", 12), ("21T07:00", 12)], SoakState.PASSED, 3),
        ([("20T07:00", 12), ("20T19:00", 900), ("21T07:00", 12)], SoakState.BEGUN, 1),  # counted from the bad one on
        ([("20T07:00", 12), ("20T19:00", 12), ("21T07:00", 900)], SoakState.OFF, 0),
        ([("21T07:00", 12), ("20T19:00", 900), ("22T07:00", 12), ("23T07:00", 12)], SoakState.PASSED, 3),  # by time
    ],
)
def test_sleep_is_tried_three_times_over_two_days(
    done: Design, tries: list[tuple[str, float]], state: SoakState, good: int
) -> None:
    design = done
    for when, milliamperes in tries:
        design = tried(design, "soak/sleep", f"2026-11-{when}", milliamperes)
    judged = results(design).soak.named("soak/sleep")
    assert judged is not None
    assert (judged.state, judged.good) == (state, good)


def test_a_limit_is_the_last_good_value(done: Design) -> None:
    limit = next(c for c in soak_checks(results(done)) if c.id == "soak/heat/amp").high
    assert limit is not None
    for value, state in ((limit, SoakState.PASSED), (limit + 0.1, SoakState.OFF)):
        judged = results(tried(done, "soak/heat/amp", "2026-11-20T12:00", value)).soak.named("soak/heat/amp")
        assert judged is not None
        assert judged.state is state


def test_what_was_tried_before_something_was_mended_does_not_count(done: Design) -> None:
    design = tried(done, "soak/drive", "2026-11-20T12:00", passed=True)
    mend = {"id": "m", "kind": "a loose ring", "at": "x", "when": "2026-11-21"}
    design = apply_edits(design, [Edit(op="add", path="proof/mends", value=mend)])
    judged = results(design).soak.named("soak/drive")
    assert judged is not None
    assert judged.state is SoakState.AGAIN
    after = results(tried(design, "soak/drive", "2026-11-21T12:00", passed=True)).soak.named("soak/drive")
    assert after is not None
    assert after.state is SoakState.PASSED


def test_nobody_judges_what_nothing_is_known_of(done: Design) -> None:
    """A limit that rests on an unknown makes a reading that nothing is held against: never green."""
    supply = done.vehicle.supply
    unread = supply.model_copy(update={"post_resting_v": supply.post_resting_v.model_copy(update={"value": None})})
    design = done.model_copy(update={"vehicle": done.vehicle.model_copy(update={"supply": unread})})
    check = next(c for c in soak_checks(results(design)) if c.id.startswith("soak/morning/"))
    judged = results(tried(design, check.id, "2026-11-20T07:00", 12.6)).soak.named(check.id)
    assert judged is not None
    if check.low is None:
        assert judged.state is SoakState.UNJUDGED
    else:
        assert judged.state is SoakState.PASSED, "where a charged battery is assumed"


@pytest.mark.parametrize(
    ("check", "said", "words"),
    [
        ("soak/sleep", Tried(None, None, "2026-11-20T07:00"), "Enter what it shows"),
        ("soak/sleep", Tried(0.021, None, "2026-11-20T07:00"), "type 21"),
        ("soak/sleep", Tried(-3, None, "2026-11-20T07:00"), "never below nothing"),
        ("soak/heat/amp", Tried(460, None, "2026-11-20T07:00"), "more than any car"),
        ("soak/drive", Tried(None, None, "2026-11-20T07:00"), "whether it was good"),
        ("soak/drive", Tried(None, True, "2026-12-01T18:01"), "still to come"),
    ],
)
def test_nonsense_is_refused_in_a_sentence(done: Design, check: str, said: Tried, words: str) -> None:
    found = next(c for c in soak_checks(results(done)) if c.id == check)
    with pytest.raises(NotPossible, match=words):
        note_try(done, found, said, NOW)


# -- may it go ------------------------------------------------------------------------------------------------------


def test_the_verdict_follows_the_car(done: Design) -> None:
    """Proved, soaking, held, may go, handed over, changed: each from the one before."""
    assert evaluate(done).verdict.headline == "Done"
    begun = tried(done, "soak/drive", "2026-11-20T12:00", passed=True)
    assert evaluate(begun).verdict.headline == "Soaking"
    off = tried(begun, "soak/drive", "2026-11-21T12:00", passed=False)
    assert evaluate(off).verdict.headline == "Hold"
    assert any(f.rule == "soak-off" and "A drive: not good" in f.title for f in evaluate(off).findings)
    unheard = soaked(done)
    assert (evaluate(unheard).verdict.headline, evaluate(unheard).verdict.state) == ("Soaked", "open")
    assert not results(unheard).hand_over.may_go, "what nobody measured and nobody answered for is not met"
    assert "5 promises nobody has answered for" in results(unheard).hand_over.verdict, (
        "a stud was bored, and no way back"
    )
    whole = heard_out(done)
    assert (evaluate(whole).verdict.headline, evaluate(whole).verdict.state) == ("May go", "ready")
    assert results(whole).hand_over.may_go
    held = apply_edits(whole, hold(whole, "Odile", "felt strip comes on Tuesday", "2026-11-28"))
    assert evaluate(held).verdict.headline == "Hold"
    assert "Odile keeps it here: felt strip" in evaluate(held).verdict.detail
    gone = apply_edits(held, take_back(held, held.handover.holds[0].id))
    assert evaluate(gone).verdict.headline == "May go"
    signed = apply_edits(gone, sign(results(gone), "Ada Lark", [[(1, 2), (3, 4)]], 7, 7, "2026-11-28"))
    assert evaluate(signed).verdict.headline == "Handed over to Ada Lark"
    later = apply_edits(signed, [Edit(path="policy/slack_fraction", value=0.2)])
    state = results(later).hand_over
    assert not state.signed_stands
    assert any(f.rule == "changed-since-signed" and "revision 7" in f.text for f in evaluate(later).findings)
    assert evaluate(later).verdict.headline != "Handed over to Ada Lark"


@pytest.mark.parametrize(
    ("break_it", "words"),
    [
        (lambda d: d.model_copy(update={"proof": d.proof.model_copy(update={"readings": d.proof.readings[:-2]})}),
         "2 checks of the proof not made"),
        (lambda d: apply_edits(d, [Edit(path="links/power-amp/fuse/rating_a", value=200.0)]), "the plan is stopped: "),
        (lambda d: apply_edits(d, [Edit(op="add", path="work/taken", value={"id": "t", "name": "Sill trim",
                                                                            "fasteners": 3})]), "is not back"),
        (lambda d: apply_edits(d, [Edit(op="add", path="proof/faults", value={
            "id": "f", "kind": "a weak battery", "at": "battery"})]), "fault that was found is still in the car"),
        (lambda d: heard_out(d.model_copy(update={"handover": HandOver()}), but="soak/tight"), "1 soak check to"),
    ],
)  # fmt: skip
def test_each_of_these_alone_holds_the_car(done: Design, break_it: object, words: str) -> None:
    broken = break_it(heard_out(done))  # type: ignore[operator]
    state = results(broken).hand_over
    assert not state.may_go
    assert any(words in a.words for a in state.against), [a.words for a in state.against]
    with pytest.raises(NotPossible, match="held"):
        sign(results(broken), "Ada Lark", [], 1, 1, "2026-11-28")


def test_a_soak_check_stands_only_by_name_and_reason(done: Design) -> None:
    design = tried(heard_out(done, but="soak/rattle"), "soak/rattle", "2026-11-20T12:00", passed=False)
    for by, why in (("", "it always did"), ("Odile", "x")):
        with pytest.raises(NotPossible):
            accept_soak(results(design), "soak/rattle", by, why, "2026-11-28")
    let = apply_edits(design, accept_soak(results(design), "soak/rattle", "Odile", "it always did", "2026-11-28"))
    assert results(let).hand_over.may_go
    assert any(p.kind is Kind.ACCEPTED and p.whose == "Odile" and "rattle" in p.what for p in results(let).left_open)
    again = tried(let, "soak/rattle", "2026-11-22T12:00", passed=False)
    assert not results(again).hand_over.may_go, "it held for what was tried then"


def test_who_is_not_content_keeps_the_car(done: Design) -> None:
    design = heard_out(done)
    wish = results(design).promises[0]
    no = apply_edits(design, hear(results(design), wish.id, "not as wished", "too soft", "2026-11-28"))
    assert "not content" in results(no).hand_over.against[0].words
    yes = apply_edits(no, hear(results(no), wish.id, "as wished", "", "2026-11-29"))
    assert results(yes).hand_over.may_go
    assert [h.met.value for h in yes.handover.heard if h.wish == wish.id] == ["not as wished", "as wished"], "both kept"
    with pytest.raises(NotPossible):
        hear(results(yes), "wish/nothing", "as wished", "", "")


def test_a_signature_holds_for_one_revision_and_one_design(done: Design) -> None:
    design = heard_out(done)
    with pytest.raises(NotPossible, match="revision 8 is in force now, 7 was shown"):
        sign(results(design), "Ada Lark", [], 7, 8, "2026-11-28")
    with pytest.raises(NotPossible, match="Write the name"):
        sign(results(design), " ", [[(1, 1)]], 8, 8, "2026-11-28")
    assert digest_of(design) == digest_of(done), "the hand-over itself is not signed for"
    assert digest_of(design) == digest_of(Design.model_validate_json(design.model_dump_json())), "nor how it is stored"
    moved = apply_edits(design, [Edit(path="vehicle/supply/post_running_v/value", value=14.1)])
    assert digest_of(moved) != digest_of(design)


# -- fuses ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("number", NUMBERS)
def test_without_a_fuse_just_what_the_map_says_is_cut_off(number: int) -> None:
    """Against networkx: the power links as a graph, the fuse's link taken out."""
    found = results(demo_design(number))
    graph = nx.MultiDiGraph((k.from_id, k.to_id, k.id) for k in found.design.links_of(PowerLink))
    sources = [n for n in graph if not graph.in_degree(n)]  # batteries, and a converter that makes 12 V
    names = {p.id: p.name for p in found.design.parts if not isinstance(p, DistributionBlock)}

    def reached(without: str) -> set[str]:
        rest = nx.MultiDiGraph((a, b, k) for a, b, k in graph.edges(keys=True) if k != without)
        rest.add_nodes_from(graph.nodes)
        return {n for b in sources if b in rest for n in nx.descendants(rest, b)}

    mains = [s for s in found.supplies if s.link.fuse is not None]
    drawn = [f for f in found.fuse_map if f.kind != "its own"][: len(mains)]
    assert len(drawn) == len(mains)
    for supply, spot in zip(mains, drawn, strict=True):
        lost = reached("") - reached(supply.link.id)
        assert sorted(spot.feeds) == sorted({names[n] for n in lost if n in names}), spot.where
        assert spot.rating_a == supply.figures["fuse"].value
    places = {p.name: p.position.point for p in found.design.parts if p.position is not None}
    for spot in found.fuse_map:
        if spot.kind == "its own":
            assert spot.point == places.get(spot.feeds[0]), "an amplifier's own fuse is where the amplifier is"
    assert [f.number for f in found.fuse_map] == list(range(1, len(found.fuse_map) + 1))


def test_every_fuse_of_the_list_is_on_the_map() -> None:
    for number in NUMBERS:
        found = results(demo_design(number))
        listed = sorted(r.rating_a for r in found.fuse_rows if r.rating_a is not None)
        assert listed == sorted(f.rating_a for f in found.fuse_map if f.rating_a is not None and f.kind != "its own")


# -- settings, promises, the page for the customer ------------------------------------------------------------------


def test_the_settings_are_those_that_were_read(done: Design) -> None:
    found = results(done)
    out = next(j for j in found.proof.checks if j.check.id.startswith("level/out/"))
    row = next(s for s in found.settings if s.group == "Gain" and s.read == out.read_words)
    assert (row.planned, row.stands) == (out.expects, True)
    converter = next(s for s in found.settings if s.what.startswith("gain "))
    gain = next(f.value for name, f in found.book.figures.items() if name.endswith("/gain_db"))
    assert f"gain {gain:.1f} dB".replace("-", "−") in converter.what
    bare = results(demo_design(0)).settings
    assert [s.read for s in bare] == [""] * len(bare)
    assert all(s.stands is None for s in bare), "nobody looked: nothing is said to stand"


def test_the_last_clean_step_is_read_before_it_is_documented(done: Design) -> None:
    clip = next(j for j in results(done).proof.checks if j.check.id.startswith("level/clip/"))
    assert clip.reading is not None
    loud = leaflet(results(done)).loud[0]
    assert f"step {clip.reading.value:g} of 40 (read in this car" in loud
    assert "step 27 of 40, by its papers; nobody tried it" in leaflet(results(demo_design(0))).loud[0]
    nobody = apply_edits(demo_design(0), [Edit(path="vehicle/radio/clip_step/value", value=None)])
    assert "nobody has read how far it is clean" in leaflet(results(nobody)).loud[0]


@pytest.mark.parametrize("number", NUMBERS)
def test_nothing_is_called_met_that_nobody_measured(number: int) -> None:
    """Before a proof only what follows from the plan alone may stand: nothing cut, a budget agreed to."""
    for promise in results(demo_design(number)).promises:
        assert promise.stands is not True or promise.id in ("wish/original", "rest/reversible", "rest/budget")
        assert promise.found or promise.stands is None or promise.id == "wish/screen"


def test_a_wish_stands_by_its_readings(done: Design) -> None:
    bass = next(p for p in results(done).promises if p.id == "wish/bass")
    assert bass.stands is True
    assert any(w.startswith("Out of") and " V (expected " in w for w in bass.found)
    quiet = apply_edits(done, [Edit(op="add", path="proof/readings", value={
        "id": "again", "check": next(j.check.id for j in results(done).proof.checks
                                     if j.check.id.startswith("level/out/")), "value": 3.0})])  # fmt: skip
    assert next(p for p in results(quiet).promises if p.id == "wish/bass").stands is False
    kept = [p for p in results(done).promises if p.id.startswith("keep/")]
    assert len(kept) == len(done.intake.must_keep)
    assert all(p.stands for p in kept)
    lost = [j for j in results(done).proof.checks if j.state is State.OFF]
    assert not lost


@pytest.mark.parametrize("number", NUMBERS)
def test_the_customers_page_names_fuses_that_are_there_and_nobodys_money(number: int) -> None:
    found = results(demo_design(number))
    page = leaflet(found)
    words = " ".join([*page.loud, *(w for s in page.stops for w in s.steps), *page.leave_alone, *page.care])
    numbers = {int(w.rstrip(",")) for before, w in zip(words.split(), words.split()[1:], strict=False)
               if before.lower() == "fuse" and w.rstrip(",").isdigit()}  # fmt: skip
    assert numbers <= {f.number for f in found.fuse_map}
    assert found.design.policy.currency not in words
    if found.design.parts:
        assert any("ears" in w for w in page.care)
    names = [s.noticed for s in page.stops]
    assert len(names) == len(set(names))


@pytest.mark.parametrize(("airbags", "said"), [(True, True), (None, True), (False, False)])
def test_yellow_plugs_are_named_unless_somebody_looked(airbags: bool | None, said: bool) -> None:
    value = {"value": airbags, "basis": "assumed" if airbags is None else "measured"}
    design = apply_edits(demo_design(0), [Edit(path="vehicle/seat_airbags", value=value)])
    assert any("Yellow plugs" in w for w in leaflet(results(design)).leave_alone) is said


def test_what_was_cut_says_how_and_what_undoes_it() -> None:
    """An adapter plug and an opening that is only drawn cut nothing; a hole, a splice and an opening do."""
    assert not results(demo_design(0)).cuts
    hole = {"id": "h", "name": "Rear stud", "diameter_mm": 14, "sealed": "Zinc primer", "undone_by": "Blind plug"}
    opening = {"id": "o", "name": "Shelf", "kind": "round opening", "width_mm": 120}
    design = apply_edits(demo_design(0), [Edit(op="add", path="work/holes", value=hole),
                                          Edit(op="add", path="work/openings", value=opening)])  # fmt: skip
    drilled, cut = results(design).cuts
    assert (drilled.what, drilled.how, drilled.undone) == ("drilled", "14 mm, sealed with zinc primer", "Blind plug")
    assert (cut.what, cut.how) == ("cut open", "round opening, 120 mm")
    promise = next(p for p in results(design).promises if p.id == "rest/reversible")
    assert promise.stands is False, "the opening cannot be undone"
    spliced = results(demo_design([j.title for j in demo_jobs()].index("Bass from the rear leads"))).cuts
    assert [(c.what, c.where) for c in spliced] == [
        ("spliced", "Rear left door, its leads"), ("spliced", "Rear right door, its leads"),
    ], "whoever takes it out finds both"  # fmt: skip


def test_a_car_that_plays_has_the_holes_it_was_planned_with(done: Design) -> None:
    """Whatever steps are ticked: with the fuse in its ground is bored, and “back as it was” is not met until somebody
    said what undoes it. On the bench of practice nothing is.
    """
    assert not done.work.marks
    (stud,) = results(done).cuts
    assert (stud.what, stud.undone) == ("drilled", "")
    assert next(p for p in results(done).promises if p.id == "rest/reversible").stands is False
    said = [f for f in evaluate(done).findings if f.rule == "hole-not-noted"]
    assert ["how wide" in f.text for f in said] == [True]
    (row,) = results(done).holes
    values = {"diameter_mm": 8.0, "looked_for": "nothing", "sealed": "primer", "undone_by": "blind plug"}
    noted = apply_edits(done, note_hole(done, results(done).work_plan, row.key, values, "2026-11-20"))
    assert next(p for p in results(noted).promises if p.id == "rest/reversible").stands is True
    told = [any(f.rule == "stud-on-reversible" for f in evaluate(d).findings) for d in (done, noted)]
    assert told == [True, False], "once somebody said what undoes it"
    assert not [f for f in evaluate(noted).findings if f.rule == "hole-not-noted"]
    dead = [reading for reading in done.proof.readings if reading.check.startswith("dead/")]
    for proof in ({"readings": dead}, {"practice": Practice(seed=1)}):
        unbored = done.model_copy(update={"proof": done.proof.model_copy(update=proof)})
        assert not results(unbored).cuts


def test_a_setting_that_stands_by_name_says_so(done: Design) -> None:
    """Not read, and accepted: it stands, and shows no reading."""
    kept = tuple(r for r in done.proof.readings if not r.check.startswith("level/filter/"))
    name = next(r.check for r in done.proof.readings if r.check.startswith("level/filter/"))
    bare = done.model_copy(update={"proof": done.proof.model_copy(update={"readings": kept})})
    assert next(s for s in results(bare).settings if s.group == "Filters").stands is None
    let = {"id": "d", "check": name, "by": "Wen", "reason": "seen by the customer"}
    named = apply_edits(bare, [Edit(op="add", path="proof/deviations", value=let)])
    row = next(s for s in results(named).settings if s.group == "Filters")
    assert (row.stands, row.read) == (True, "")


def test_a_budget_is_kept_to_the_cent_with_the_tax() -> None:
    """A customer's budget is what is paid in the end: 500 to 700 and a fifth on top. Until somebody agreed the quote of
    the plan says only what is above it: what nobody agreed to is not said to be kept.
    """
    lines = [{"key": "a", "what": "a", "low_cents": 30_000, "high_cents": 40_000},
             {"key": "b", "what": "b", "low_cents": 20_000, "high_cents": 30_000}]  # fmt: skip
    agreed = apply_edits(demo_design(0), [Edit(path="work/accepted", value={"by": "Ada", "lines": lines})])
    for budget, stands in ((840.0, True), (839.99, False)):
        design = apply_edits(agreed, [Edit(path="intake/budget", value=budget)])
        promise = next(p for p in results(design).promises if p.id == "rest/budget")
        assert promise.stands is stands
        assert promise.found == ("Agreed to: 600 to 840 EUR with tax, by Ada",)
    sums = results(demo_design(0)).quote.sums
    for budget, within in ((float(sums.high), None), (float(sums.low) - 0.01, False), (float(sums.low), None)):
        design = apply_edits(demo_design(0), [Edit(path="intake/budget", value=budget)])
        assert next(p for p in results(design).promises if p.id == "rest/budget").stands is within
        unpriced = apply_edits(design, [Edit(path="parts/amp/price", value=None)])
        ample = apply_edits(unpriced, [Edit(path="intake/budget", value=9000.0)])
        assert next(p for p in results(ample).promises if p.id == "rest/budget").stands is None


def test_hours_with_the_engine_off_are_a_promise_of_the_plan() -> None:
    """Nobody waits them out: the plan says how long, too short is not met, long enough is the customer's to say."""
    camper = demo_design([j.title for j in demo_jobs()].index("Camper sound from the leisure battery"))
    lasts = [one.hours.value for one in results(camper).engine_off.listening]
    shortest = min(h for h in lasts if h is not None)
    for wanted_h, stands in ((shortest + 0.1, False), (shortest - 0.1, None)):
        design = apply_edits(camper, [Edit(path="use/listens_h", value=wanted_h)])
        promise = next(p for p in results(design).promises if p.id == "rest/listens")
        assert promise.stands is stands
        assert f"plays for {shortest:.1f} h" in " ".join(promise.found)
    silent = apply_edits(camper, [Edit(path="use/listens_h", value=None)])
    assert not [p for p in results(silent).promises if p.id == "rest/listens"]


@given(st.lists(st.sampled_from(["wish", "hold", "open"]), max_size=6))
def test_taking_back_twice_changes_nothing(order: list[str]) -> None:
    design = demo_design(0)
    for n, what in enumerate(order):
        if what == "hold":
            design = apply_edits(design, hold(design, "Odile", f"reason {n}", ""))
    for held in design.handover.holds:
        design = apply_edits(design, take_back(design, held.id))
        assert not take_back(design, held.id)
    assert not design.handover.holds


TITLES = [job.title for job in demo_jobs()]


@pytest.mark.parametrize(
    ("title", "words"),
    [
        ("Hidden bass, radio stays", "The radio has a fuse of its own"),  # its doors play without us
        ("Bass behind the seat, out in winter", "The radio has a fuse of its own"),
        ("Two amplifiers, and lamps that dim", "Look at fuse 1,"),  # every speaker hangs behind the main fuse
        ("Five channels, four doors and a box", "Look at fuse 1,"),
        ("To the coast and back", "Look at fuse 1,"),
        ("The forecast in the field", "Look at fuse 1, at Radio constant feed, 10 A and fuse 2,"),  # a new radio's two
    ],
)
def test_when_all_is_silent_the_fuse_that_feeds_all_is_named(title: str, words: str) -> None:
    page = leaflet(results(demo_design(TITLES.index(title))))
    silent = next(s for s in page.stops if s.noticed == "Everything is silent")
    assert words in " ".join(silent.steps)


@pytest.mark.parametrize("number", NUMBERS)
def test_soak_checks_are_told_apart_and_say_what_they_want(number: int) -> None:
    found = results(demo_design(number))
    checks = soak_checks(found)
    assert bool(checks) is bool(found.design.parts)
    for names in ([c.id for c in checks], [c.title for c in checks]):
        assert len(names) == len(set(names)), names
    consumers = found.car.network.consumers if found.car.network is not None else ()
    assert {c.about for c in checks if c.id.startswith("soak/heat/")} == {c.id for c in consumers}
    for check in checks:
        assert check.how.endswith(".")
        assert check.minutes > 0
        assert check.times >= check.days
        assert bool(check.expects) is check.is_read


def test_what_holds_a_car_names_a_sheet_there_is(done: Design) -> None:
    """Each reason leads to where it is settled."""
    design = apply_edits(done, [
        Edit(op="add", path="proof/faults", value={"id": "f", "kind": "a weak battery", "at": "battery"}),
        Edit(op="add", path="work/taken", value={"id": "t", "name": "Sill trim", "fasteners": 3}),
        Edit(path="links/power-amp/fuse/rating_a", value=200.0),
        *hold(done, "Odile", "felt strip on Tuesday", ""),
    ])  # fmt: skip
    state = results(design).hand_over
    sheets = [a.sheet for a in state.against]
    assert sheets[:3] == ["handover", "fault", "supply"], "a person's word, a fault, a Stop of the plan"
    assert {"teardown", "promises"} <= set(sheets)
    assert [a.by_name for a in state.against].count(True) == 1
    assert state.verdict.startswith("Hold: Odile keeps it here: felt strip on Tuesday, and ")
