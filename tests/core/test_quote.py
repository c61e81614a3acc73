"""The quote: sums to the cent in decimal arithmetic, labour from the steps, and what changed since somebody agreed."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.build.quote import CABLE, FOUND, LABOUR, LATER, PARTS, Changed, Margin, Quote, money
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.work import accept_quote, leave_out
from ohmack.demo.jobs import demo_design, demo_jobs


def quote(design: Design) -> Quote:
    return evaluate(design).results.quote


@given(st.integers(0, 10**8))
def test_money_is_rounded_half_a_cent_upwards(tenths: int) -> None:
    """Against whole numbers: so many tenths of a cent."""
    assert int(money(Decimal(tenths) / 1000) * 100) == (tenths + 5) // 10


def test_a_quote_is_the_sum_of_its_lines_by_hand(estate: Design) -> None:
    """Parts at their prices, cable as the plan costs it, labour minutes at the shop's rate, tax on top."""
    taxed = apply_edits(
        estate,
        [Edit(path="policy/tax_percent", value=19.0), Edit(path="policy/labour_rate", value=75.5),
         Edit(path="policy/deposit_percent", value=30.0)],
    )  # fmt: skip
    results = evaluate(taxed).results
    found = results.quote
    parts = sum(Decimal(str(p.price)) for p in taxed.parts if p.price is not None)
    assert sum(n.low for n in found.group(PARTS)) == parts
    cable = sum(n.low for n in found.group(CABLE) if n.key.startswith("cable/"))
    cost = results.cost.value if results.cost is not None else None
    assert float(parts + cable) == pytest.approx(cost, abs=0.03)
    (labour,) = found.group(LABOUR)
    minutes = [
        sum(getattr(p.step, end) * p.step.people for p in results.work_plan.steps) for end in ("low_min", "high_min")
    ]
    assert [float(labour.low), float(labour.high)] == pytest.approx([m / 60 * 75.5 for m in minutes], abs=0.006)
    net = sum(n.low for n in found.lines if n.group != LATER)
    assert found.sums.net_low == net
    assert found.sums.tax_low == money(net * Decimal("0.19"))
    assert found.sums.low == found.sums.net_low + found.sums.tax_low
    assert found.deposit == money(found.sums.low * Decimal("0.3"))
    assert all(n.low == n.low.quantize(Decimal("0.01")) and n.low <= n.high for n in found.lines)
    none = apply_edits(taxed, [Edit(path="policy/tax_percent", value=0.0)])
    assert quote(none).sums.high == quote(none).sums.net_high


def test_what_the_customer_brings_costs_nothing_and_what_has_no_price_is_named(estate: Design) -> None:
    part = next(p for p in estate.parts if p.price)
    brought = quote(apply_edits(estate, [Edit(path=f"parts/{part.id}/by_customer", value=True)]))
    assert next(n for n in brought.lines if n.key == f"part:{part.id}").low == 0
    bare = apply_edits(estate, [Edit(path=f"parts/{part.id}/price", value=None)])
    assert quote(bare).unpriced == (part.name,)
    assert quote(bare).sums.net_low == quote(estate).sums.net_low - Decimal(str(part.price))
    with pytest.raises(NotPossible, match="Without a price"):
        accept_quote(bare, quote(bare), "Ada", "", "d")


def test_later_parts_stand_apart_and_earlier_damage_has_its_own_lines() -> None:
    later = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("One driver now"))
    found = quote(demo_design(later))
    assert found.group(LATER)
    assert found.sums.net_high == sum(n.high for n in found.lines if n.group != LATER)
    van = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Camper sound"))
    results = evaluate(demo_design(van)).results
    minutes = sum(a.work_min.value or 0 for a in results.design.vehicle.alterations)
    assert minutes > 0
    assert float(sum(n.low for n in results.quote.group(FOUND))) == pytest.approx(minutes, abs=0.05), "60 an hour"


def test_what_changed_since_somebody_agreed_is_shown_line_by_line(estate: Design) -> None:
    with pytest.raises(NotPossible, match="name"):
        accept_quote(estate, quote(estate), " ", "", "d")
    agreed = apply_edits(estate, accept_quote(estate, quote(estate), "Lantern Lane Players", "", "d"))
    assert quote(agreed).changed == ()
    assert not [f for f in evaluate(agreed).findings if f.rule == "quote-changed"]
    part = next(p for p in estate.parts if p.price)
    dearer = apply_edits(agreed, [Edit(path=f"parts/{part.id}/price", value=float(part.price or 0) + 12.5)])
    (one,) = quote(dearer).changed
    assert one.what == part.name
    assert one.by_low == one.by_high == Decimal("12.5")
    (said,) = [f for f in evaluate(dearer).findings if f.rule == "quote-changed"]
    assert (said.severity, said.title) == (Severity.NOTE, "1 line of the quote changed: 12 EUR more")
    agreed_on = sum(line.high for line in quote(estate).lines if line.group != LATER)
    for by, severity in ((agreed_on / 50, Severity.NOTE), (agreed_on / 50 + 1, Severity.WATCH)):
        moved = apply_edits(agreed, [Edit(path=f"parts/{part.id}/price", value=float(part.price or 0) + float(by))])
        assert [f.severity for f in evaluate(moved).findings if f.rule == "quote-changed"] == [severity]
    free = apply_edits(agreed, [Edit(path=f"parts/{part.id}/price", value=None)])
    assert [f.severity for f in evaluate(free).findings if f.rule == "quote-changed"] == [Severity.WATCH], "it went"
    asked = {m.path for m in evaluate(agreed, sweep_facts=True).measure_first}
    assert asked == {m.path for m in evaluate(estate, sweep_facts=True).measure_first}, "no tape for a euro of cable"
    with pytest.raises(NotPossible, match="why it changed"):
        accept_quote(dearer, quote(dearer), "Lantern Lane Players", "", "d")
    again = apply_edits(
        dearer, accept_quote(dearer, quote(dearer), "Lantern Lane Players", "the maker's new list", "d")
    )
    assert quote(again).changed == ()
    plan = evaluate(agreed).results.work_plan
    less = apply_edits(agreed, leave_out(agreed, plan, "gains", "set by the customer"))
    (labour,) = quote(less).changed
    assert labour.what == "Labour"
    assert labour.by_high < 0


def test_the_whole_price_is_held_against_the_budget_before_it_is_promised(estate: Design) -> None:
    """Parts within it and labour past it is said, from the lowest price on as a watch; what was agreed to is not."""
    sums = quote(estate).sums
    low, high = float(sums.low), float(sums.high)

    def said(budget: float, *edits: Edit) -> dict[str, tuple[Severity, str]]:
        changed = apply_edits(estate, [Edit(path="intake/budget", value=budget), *edits])
        answer = evaluate(changed, sweep_facts=True)
        assert not [f for f in evaluate(changed).findings if f.rule == "quote-over-budget"], "asked with the sweep"
        return {f.rule: (f.severity, f.title) for f in answer.findings if f.about == "intake/budget"}

    assert said(low - 100) == {"quote-over-budget": (Severity.WATCH, "100 EUR over the budget at least")}
    assert said(low + 1) == {"quote-over-budget": (Severity.NOTE, "The budget may not be enough")}
    assert said(high + 1) == {}
    assert set(said(300.0)) == {"cost-over-budget"}, "once is enough"
    assert said(low - 100, *accept_quote(estate, quote(estate), "Ada", "", "d")) == {}
    taken = {"id": "s", "by": "Ada", "revision": 1, "digest": "0" * 64}
    assert said(low - 100, Edit(op="add", path="handover/signatures", value=taken)) == {}, "the car is gone"


def test_what_comes_new_costs_all_of_it_and_what_goes_gives_it_back() -> None:
    span = (Decimal(10), Decimal(12))
    assert (Changed("new", None, span).by_low, Changed("new", None, span).by_high) == span
    assert (Changed("gone", span, None).by_low, Changed("gone", span, None).by_high) == (-span[0], -span[1])
    assert Margin(Decimal(200), Decimal(150), ()).share_percent == 25  # 50 of 200
    assert Margin(Decimal(0), Decimal(0), ()).share_percent == 0


@pytest.mark.parametrize(("to", "cents"), [("0.01", 1), ("0.05", 5), ("1", 100), ("5", 500)])
def test_the_end_is_rounded_as_the_shop_rounds(estate: Design, to: str, cents: int) -> None:
    """To the nearest multiple in whole cents, a half upwards; lines, net and tax stay exact."""
    exact, found = quote(estate), quote(apply_edits(estate, [Edit(path="policy/quote_round_to", value=to)]))
    assert (found.lines, found.sums.net_low, found.sums.tax_high) == (
        exact.lines,
        exact.sums.net_low,
        exact.sums.tax_high,
    )
    for end in ("low", "high"):
        whole = int((getattr(exact.sums, f"net_{end}") + getattr(exact.sums, f"tax_{end}")) * 100)
        assert int(getattr(found.sums, end) * 100) == (2 * whole + cents) // (2 * cents) * cents


def test_what_the_shop_earns_is_reckoned_of_what_it_knows(estate: Design) -> None:
    priced = [p for p in estate.parts if p.price]
    costs = [Edit(path=f"parts/{p.id}/cost_price", value=round(p.price * 0.6, 2)) for p in priced[1:]]
    margin = quote(apply_edits(estate, costs)).margin
    assert margin.unknown == (priced[0].name,)
    assert float(margin.sold) == pytest.approx(sum(p.price for p in priced[1:]))
    assert float(margin.earned) == pytest.approx(0.4 * float(margin.sold), abs=0.03)
    assert quote(estate).margin.sold == 0
    brought = apply_edits(estate, [*costs, Edit(path=f"parts/{priced[1].id}/by_customer", value=True)])
    assert float(quote(brought).margin.sold) == pytest.approx(sum(p.price for p in priced[2:]))


def test_a_line_says_where_its_part_stands(estate: Design) -> None:
    edits = [Edit(path="parts/amp/stands", value="ordered"), Edit(path="parts/amp/lead_days", value=9)]
    (line,) = [n for n in quote(apply_edits(estate, edits)).lines if n.key == "part:amp"]
    assert line.note == "ordered, 9 days from the supplier"


def test_a_changed_line_is_called_as_it_is_now_or_as_it_was(estate: Design) -> None:
    agreed = apply_edits(estate, accept_quote(estate, quote(estate), "Ada", "", "d"))
    part = next(p for p in estate.parts if p.price)
    renamed = apply_edits(
        agreed, [Edit(path=f"parts/{part.id}/name", value="Another"), Edit(path=f"parts/{part.id}/price", value=1.0)]
    )
    assert [c.what for c in quote(renamed).changed] == ["Another"]
    free = apply_edits(agreed, [Edit(path=f"parts/{part.id}/price", value=None)])
    assert [(c.what, c.now) for c in quote(free).changed] == [(part.name, None)]


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_everything_that_is_ordered_is_paid_for_or_named(number: int) -> None:
    """Each line of the order has a price, or is in a line of the quote by the metre or by the joint, or is named as
    without a price; the small pieces of the order are those of the quote.
    """
    results = evaluate(demo_design(number)).results
    quote = results.quote
    lines = {line.key: line for line in quote.lines}
    for row in results.order:
        if row.price is None and not row.unknown:
            metres = (
                row.group == "Wire"
                and not row.what.startswith("Screened")
                and any(k.startswith("cable/") for k in lines)
            )
            mapped = row.group == "Ends and joints" and "joints" in lines
            assert metres or mapped or row.what in quote.unpriced, row
    apart = ("Parts", "Ties and loom")
    small = sum(
        (Decimal(str(r.price)) for r in results.order if r.price is not None and r.group not in apart), Decimal(0)
    )
    assert (lines["small"].low if "small" in lines else Decimal(0)) == money(small)


def test_a_kit_of_small_pieces_is_not_paid_for_twice(estate: Design) -> None:
    """Rings, ties, loom and tape come out of it; grommets, fuses and holders do not."""
    kit = {"kind": "accessory", "id": "kit", "name": "Kit", "category": "consumables", "price": 24.0}
    bare = apply_edits(estate, [Edit(op="remove", path=at(p)) for p in estate.parts if p.name.startswith("Rings")])
    without, within = (
        evaluate(d).results for d in (bare, apply_edits(bare, [Edit(op="add", path="parts", value=kit)]))
    )

    def by_group(results: Results, *groups: str) -> float:
        return sum(row.price or 0.0 for row in results.order if row.group in groups)

    assert by_group(without, "Rings") > 0
    assert by_group(within, "Rings") == 0
    held = [row for row in within.order if row.group in ("Rings", "Ties and loom") and "out of Kit" in row.note]
    assert {row.what.partition(",")[0] for row in held} >= {"Cable ties", "Split loom"}
    assert by_group(within, "Fuses") == by_group(without, "Fuses") > 0
    saved = sum(float(row.price) for row in without.sundries if "grommet" not in row.what.lower())
    saved += by_group(without, "Rings")
    paid = [sum(float(line.low) for line in r.quote.lines if line.group in (PARTS, CABLE)) for r in (without, within)]
    assert paid[0] - paid[1] == pytest.approx(saved - 24.0, abs=0.02)
    later = apply_edits(bare, [Edit(op="add", path="parts", value=kit | {"phase": "later"})])
    assert by_group(evaluate(later).results, "Rings") > 0, "it is not there yet"
