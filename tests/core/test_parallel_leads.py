"""Several leads beside each other, each with a fuse of its own: what flows in one of them, what is bought, what a short
does.
"""

from __future__ import annotations

from math import pi, sqrt

import pytest

from ohmack.core.build.order import order_list
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.finding import Finding
from ohmack.core.physics.time_current import opening_s
from ohmack.core.planning.less_loss import edits_for
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.reference import table
from ohmack.core.supply.results import SupplyResult, fuse_words
from ohmack.demo.jobs import demo_design, demo_jobs
from references import ngspice_text

RUN = "links/power-amp"
STRIPS_A = (30, 40, 50, 60, 70, 80, 100, 125, 150, 175, 200, 225, 250, 300, 350, 400, 500)  # ISO 8820-5, from memory


def put(path: str, value: object) -> Edit:
    return Edit(path=path, value=value)


@pytest.fixture(scope="module")
def fifteens() -> Design:
    return demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two fifteens")))


def results_of(design: Design, *edits: Edit) -> Results:
    return evaluate(apply_edits(design, list(edits))).results


def run_of(results: Results) -> SupplyResult:
    (supply,) = results.supplies
    return supply


def said(design: Design, rule: str, *edits: Edit) -> list[Finding]:
    return [f for f in evaluate(apply_edits(design, list(edits))).findings if f.rule == rule]


def a_single_lead(design: Design) -> Design:
    return apply_edits(design, [put(f"{RUN}/wire/leads", 1), put(f"{RUN}/fuse_each", False)])


def test_two_leads_carry_what_ngspice_finds_in_each(fifteens: Design) -> None:
    """Both leads written out piece by piece, from battery to amplifier and back, against ours as one. Copper IEC 60028,
    sizes ASTM B258; joints and the fuse's 0.07 V at its rating are common practice.
    """
    results = results_of(fifteens)
    supply = run_of(results)
    assert supply.chosen is not None
    per_m = 1.7241e-8 / (pi / 4 * (0.127e-3 * 92 ** (36 / 39)) ** 2)  # 1/0 AWG
    lengths = [results.runs[link.id].length.value for link in (supply.link, supply.ground) if link is not None]
    joint = {kind: float(table("joints", kind)["resistance_ohm"]) for kind in ("ring", "set_screw")}
    rows = ["* two leads", "Vcell post 0 14.3", "Rback body under 0.0006", "Rstrap under 0 0.0002"]
    for n in (1, 2):
        rows += [
            f"Rpost{n} post a{n} {joint['ring']}", f"Rfuse{n} a{n} b{n} {0.07 / 175}",
            f"Rrun{n} b{n} c{n} {per_m * lengths[0]}", f"Rplus{n} c{n} plus {joint['set_screw']}",
            f"Rminus{n} minus d{n} {joint['set_screw']}", f"Rlead{n} d{n} e{n} {per_m * lengths[1]}",
            f"Rring{n} e{n} body {joint['ring']}",
        ]  # fmt: skip
    rows += ["Bload plus minus I=3000/0.8/V(plus,minus)+2.6", ".nodeset v(plus)=14.3"]
    rows += [".options reltol=1e-9 abstol=1e-12 vntol=1e-12", ".control", "set numdgt=10", "op"]
    rows += ["print v(plus,minus)", "print (v(a1)-v(b1))*2500", "print (v(a2)-v(b2))*2500", ".endc", ".end", ""]
    volts, one_a, other_a = ngspice_text("\n".join(rows))
    assert supply.figures["voltage"].value == pytest.approx(volts, rel=1e-4)
    assert supply.chosen.through_one_a == pytest.approx(one_a, rel=1e-4)
    assert one_a == pytest.approx(other_a)
    assert supply.figures["current"].value == pytest.approx(one_a + other_a, rel=1e-4)


def test_each_fuse_suits_its_own_lead(fifteens: Design) -> None:
    """The next size at or above what one lead carries with head-room; 245 A is 1/0 AWG's 285 A, two in a bundle (0.8,
    IEC 60364-5-52, from memory) and part of it in the engine space (0.85, ABYC E-11, from memory).
    """
    chosen = run_of(results_of(fifteens)).chosen
    assert chosen is not None
    assert chosen.through_one_a is not None
    assert chosen.wire.label == "1/0 AWG × 2"
    assert chosen.behind_one_a == pytest.approx(285 * 0.8 * 0.85)
    assert chosen.fuse_a == min(a for a in STRIPS_A if a >= chosen.through_one_a / 0.8)
    for rating_a, rule in ((200.0, "fuse-above-ampacity"), (125.0, "fuse-below-current")):
        (finding,) = said(fifteens, rule, put(f"{RUN}/fuse/rating_a", rating_a))
        assert f"{rating_a:g} A fuse" in finding.title
    (finding,) = said(fifteens, "fuse-below-current", put(f"{RUN}/fuse/rating_a", 150.0))
    assert "little head-room over 138 A" in finding.title
    assert not said(fifteens, "fuse-below-current")
    assert not said(fifteens, "fuse-above-ampacity")


def test_a_row_of_the_table_says_what_comes_when_it_is_taken(fifteens: Design) -> None:
    """What is lost, and the fuse of each lead; one that is named too large for a lead is said in its row."""
    rows = {row.wire.size: row for row in run_of(results_of(fifteens)).candidates}
    for size in ("2", "1", "2/0"):
        taken = run_of(results_of(fifteens, put(f"{RUN}/wire/size", f"{size} AWG"))).chosen
        assert taken is not None
        assert (taken.fuse_a, taken.fuses) == (rows[size].fuse_a, 2)
        assert rows[size].drop_v == pytest.approx(taken.drop_v, rel=1e-6)
        assert rows[size].through_one_a == pytest.approx(taken.through_one_a, rel=1e-6)
    named = run_of(results_of(fifteens, put(f"{RUN}/fuse/rating_a", 200.0))).candidates
    reasons = {row.wire.size: row.reason for row in named}
    assert "may carry 194 A each, too little for a 200 A fuse" in reasons["1/0"]
    assert "too little for" not in reasons["2/0"]


def test_one_cable_does_not_do_and_the_remedy_takes_a_lead_to_each_terminal(fifteens: Design) -> None:
    one = a_single_lead(fifteens)
    (finding,) = said(one, "fuse-below-current")
    assert finding.remedy is not None
    assert finding.remedy.label == "Take 2 leads, each fused"
    mended = apply_edits(one, list(finding.remedy.edits))
    supply = run_of(evaluate(mended).results)
    assert supply.chosen is not None
    assert supply.chosen.fits
    assert supply.link.fuse_count == 2
    helped = edits_for(evaluate(one), "leads-power-amp")
    assert helped is not None
    assert apply_edits(one, list(helped)).links == mended.links
    (finding,) = said(one, "fuse-below-current", put("parts/amp/terminal_count", 1))
    assert finding.remedy is None or "leads" not in finding.remedy.label


def test_a_second_cable_between_the_same_ends_becomes_two_leads_of_one_run(fifteens: Design) -> None:
    one = a_single_lead(fifteens)
    run = next(link for link in one.links if link.id == "power-amp").model_dump(mode="json")
    again = Edit(op="add", path="links", value={"id": "again", **{k: run[k] for k in ("kind", "from_id", "to_id")}})
    (finding,) = said(one, "supply-twice", again)
    assert finding.remedy is not None
    mended = apply_edits(one, [again, *finding.remedy.edits])
    (supply,) = evaluate(mended).results.supplies
    assert (supply.link.wire.leads, supply.link.fuse_count) == (2, 2)
    assert not said(mended, "supply-twice")
    laid = apply_edits(one, [put(f"{RUN}/in_car", True), put(f"{RUN}/wire/size", "4 AWG"), again])
    (finding,) = said(laid, "supply-twice")
    assert finding.remedy is not None
    assert finding.remedy.label == "Take it out"


def test_a_terminal_of_its_own_for_every_lead(fifteens: Design) -> None:
    """Two 1/0 AWG are 107 mm²: into one terminal of 53.5 mm² they do not go, and the drop has one screw the more."""
    two, one = (run_of(results_of(fifteens, put("parts/amp/terminal_count", n))) for n in (2, 1))
    assert two.chosen is not None
    assert not two.chosen.too_thick
    wide = next(c for c in one.candidates if c.wire.label == "1/0 AWG × 2")
    assert "does not fit the amplifier's terminal " in wide.too_thick
    assert "holder" not in wide.too_thick
    narrow = next(s for s in two.segments if s.name.startswith("Positive terminal"))
    assert narrow.resistance_ohm == pytest.approx(next(s.resistance_ohm for s in one.segments if s.id == narrow.id) / 2)


def test_every_lead_is_bought_cut_and_fused(fifteens: Design) -> None:
    results = results_of(fifteens)
    rows = {row.what: row for row in order_list(results)}
    length_m = results.runs["power-amp"].length.value
    assert rows["Bolt-down strip 175 A"].amount == "2"
    assert rows["Holder for a bolt-down strip fuse"].amount == "1"  # the holder bought has room for the other
    assert "takes 1/0 AWG" in rows["Holder for a bolt-down strip fuse"].note
    assert float(rows["1/0 AWG, red"].amount.removesuffix(" m")) == pytest.approx(2 * length_m, abs=0.5)
    assert rows["Ring terminal for 1/0 AWG"].amount == "4"
    planned = [one.step for one in results.work_plan.steps]
    step = next(s for s in planned if s.id == "fix-fuse-power-amp")
    assert step.what.startswith("2 fuse holders")
    assert "one in each lead" in step.what
    assert fuse_words(run_of(results)).startswith("2 × 175 A")
    assert any("2 of them" in row.place and row.rating_a == 175 for row in results.fuse_rows)
    (check,) = [c for c in plan_of_proof(results) if c.id == "level/shared/power-amp"]
    assert "about 138 A each" in check.how


def test_a_short_at_the_terminals_is_shared_by_the_fuses(fifteens: Design) -> None:
    """With a fuse for both at once the same loop gives all of it to one fuse; Ohm's law says the rest."""
    named = put(f"{RUN}/wire/size", "1/0 AWG")
    own, shared = results_of(fifteens, named), results_of(fifteens, named, put(f"{RUN}/fuse_each", False))
    (one,), (both,) = own.protection, shared.protection
    loop_ohm = sum(s.resistance_ohm for s in run_of(own).pieces)
    inner_ohm = (12.6 - 7.2) / 800 / 2
    assert one.far.value == pytest.approx(12.6 / (inner_ohm + loop_ohm) / 2, rel=1e-6)
    both_ohm = sum(s.resistance_ohm for s in run_of(shared).pieces)
    assert both.far.value == pytest.approx(12.6 / (inner_ohm + both_ohm), rel=1e-6)
    assert one.wire.leads == 1
    assert one.wire.area_mm2 == pytest.approx(both.wire.area_mm2 / 2)
    assert one.opens.value == pytest.approx(opening_s("strip", 175.0, one.far.value)[1])
    assert one.near.value > one.far.value * sqrt(2)


def test_three_leads_feed_a_short_in_one_of_them(fifteens: Design) -> None:
    three = [put("parts/amp/terminal_count", 3), put(f"{RUN}/wire/leads", 3)]
    (finding,) = said(fifteens, "leads-fed-back", *three, put(f"{RUN}/wire/size", "2 AWG"))
    rating_a = run_of(results_of(fifteens, *three, put(f"{RUN}/wire/size", "2 AWG"))).chosen
    assert rating_a is not None
    assert f"{2 * rating_a.fuse_a:.0f} A" in finding.text
    assert not said(fifteens, "leads-fed-back")


def test_one_fuse_before_two_leads_is_told(fifteens: Design) -> None:
    (finding,) = said(fifteens, "leads-one-fuse", put(f"{RUN}/fuse_each", False), put(f"{RUN}/wire/size", "1/0 AWG"))
    assert "194 A each" in finding.title
    assert finding.remedy is not None
    back = apply_edits(fifteens, [put(f"{RUN}/fuse_each", False)])
    assert not said(back, "leads-one-fuse", *finding.remedy.edits)


def test_two_fuses_before_a_block_let_twice_through() -> None:
    """A branch behind a block: its fuse meets two beside each other, each of which takes half of what flows; without
    one of its own its wire has to stand what both let through (common practice, no source).
    """
    design = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers")))
    results = evaluate(design).results
    main = next(one.link for one in results.supplies if one.is_main)
    (_, first, _) = results.protection
    twice = [put(f"links/{main.id}/wire/leads", 2), put(f"links/{main.id}/fuse_each", True)]
    rating = put(f"links/{main.id}/fuse/rating_a", first.rating_a)  # each as small as the branch's own
    both, branch, _ = results_of(design, *twice, rating).protection
    assert (both.rating_a, both.link.fuse_count) == (first.rating_a, 2)
    assert branch.selective is not None
    sure_a = branch.selective.value
    assert sure_a > 1.2 * first.rating_a, "alone, two equal fuses open together"
    for current_a in (first.rating_a * 1.4, sure_a):
        slowest_s = opening_s(branch.family, branch.rating_a, current_a)[1]
        assert slowest_s <= opening_s(both.family, both.rating_a, current_a / 2)[0]
    runs = results_of(design, *twice, put(f"links/{branch.link.id}/fuse", None)).supplies
    bare = next(s for s in runs if s.link.id == branch.link.id)
    each_a = next(s for s in runs if s.is_main).figures["fuse"].value
    assert bare.figures["fuse"].value == 2 * each_a
    assert bare.chosen is not None
    assert 2 * each_a <= bare.chosen.ampacity_a
