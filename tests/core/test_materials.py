"""What was bought by the metre and by the piece, and what a strategy costs with it: sums over the plan's own lists."""

from __future__ import annotations

from itertools import permutations
from typing import Any

import pytest

from ohmack.core.build.sundries import piece_price
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import FuseHolder, PoweredSubwoofer
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.strategy_words import line_pairs_wanted
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.physics.conductors import cable_price, conductor
from ohmack.core.physics.protection import family
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.strategy import lay_strategy, priced, total_price
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.supply.holders import room_in
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design


def bought(design: Design, kind: str, **values: Any) -> Design:
    return apply_edits(
        design, [Edit(op="add", path="parts", value={"id": "bought", "kind": kind, "name": "Bought", **values})]
    )


def said(design: Design, rule: str) -> list[tuple[Severity, str]]:
    return [(f.severity, f.title) for f in evaluate(design).findings if f.rule == rule]


def test_a_reel_is_held_against_every_run_of_its_size(estate: Design) -> None:
    rows = [r for r in evaluate(estate).results.wire_rows if r.size == "4 AWG"]
    needed_m = sum(r.length_m or 0 for r in rows)
    assert {r.purpose for r in rows} == {"Power", "Ground"}
    assert said(bought(estate, "wire", wire_size="4 AWG", on_reel_m=round(needed_m + 0.05, 2)), "wire-on-reel") == []
    short = said(bought(estate, "wire", wire_size="4 AWG", on_reel_m=needed_m - 1.0), "wire-on-reel")
    assert short[0][1].endswith("1.00 m short")
    red = next(r.length_m or 0 for r in rows if r.colour == "red")
    assert (
        said(bought(estate, "wire", wire_size="4 AWG", on_reel_m=red + 0.05, colour="red"), "wire-on-reel") == []
    )  # black is on another reel
    kit = said(
        bought(estate, "wire", wire_size="8 AWG", material="copper_clad_aluminium", on_reel_m=6.0), "wire-on-reel"
    )
    assert "No run of this plan takes 8 AWG" in kit[0][1]


@pytest.mark.parametrize(("rating_a", "severity"), [(300.0, Severity.STOP), (30.0, Severity.WATCH)])
def test_a_fuse_of_another_rating(rating_a: float, severity: Severity, estate: Design) -> None:
    """A bigger one leaves the wire unprotected, a smaller one blows: the first stops the job (ABYC E-11, from
    memory).
    """
    assert said(bought(estate, "fuse", rating_a=rating_a), "fuse-bought")[0][0] is severity
    right = evaluate(estate).results.supplies[0].figures["fuse"].value
    assert said(bought(estate, "fuse", rating_a=right), "fuse-bought") == []
    other = said(bought(estate, "fuse", family="maxi", rating_a=right + 20), "fuse-bought")
    assert other == [(Severity.WATCH, "Bought: no maxi blade fuse is wanted in this plan")]


def test_a_block_wants_a_way_for_each_amplifier(estate: Design) -> None:
    fits = {"in_area_max_mm2": 53.0, "out_area_max_mm2": 33.0}
    block = bought(estate, "distribution block", ways=2, **fits)
    assert said(block, "distribution-block") == []
    name = next(p.id for p in block.parts if p.kind == "distribution block")
    wired = apply_edits(block, connect_everything(block, name))
    assert said(wired, "distribution-block") == said(wired, "part-unwired") == []
    main = next(k for k in wired.links if k.kind == "power" and k.to_id == name)
    moved = next(k for k in wired.links if k.id == "power-amp")
    assert (main.from_id, moved.from_id) == ("battery", name)
    before = block.links[[k.id for k in block.links].index("power-amp")]
    assert (main.fuse and main.fuse.from_source_m) == (before.fuse and before.fuse.from_source_m)  # type: ignore[union-attr]
    assert moved.fuse is None  # no fuse on its ways: the main fuse protects them
    assert moved.tape_length_m.value is None
    amp = wired.part("amp").model_dump(mode="json")  # type: ignore[union-attr]
    more = [Edit(op="add", path="parts", value=amp | {"id": f"amp-{n}"}) for n in (2, 3)]
    ways = [
        Edit(op="add", path="links", value={"id": f"p-{n}", "kind": "power", "from_id": name, "to_id": f"amp-{n}"})
        for n in (2, 3)
    ]
    severity, title = said(apply_edits(wired, [*more, *ways]), "distribution-block")[0][:2]
    assert severity is Severity.STOP
    assert "has 2 ways, 3 wires go into it" in title


def test_a_block_gathers_grounds_or_feeds_and_never_both(estate: Design) -> None:
    """Common practice, no source: a block is one piece of metal; no fuse in a ground. A press never lays plus into a
    block of grounds.
    """
    fits = {"ways": 2, "in_area_max_mm2": 53.0, "out_area_max_mm2": 33.0, "position": {"x_m": 3.9, "y_m": 0.2}}

    def unwired(design: Design) -> list[Finding]:
        return [f for f in evaluate(design).findings if f.rule == "part-unwired"]

    def gathering(fused: bool) -> Design:
        block = bought(estate, "distribution block", fused=fused, **fits)
        return apply_edits(block, [Edit(path="links/ground-amp/to_id", value="bought")])

    hanging = gathering(False)
    (lacks,) = unwired(hanging)
    assert lacks.remedy is not None
    assert "no lead goes from it to bare metal" in lacks.title
    grounded = apply_edits(hanging, edits_of(hanging, lacks.remedy))
    assert [(k.from_id, k.to_id) for k in grounded.links if "bought" in ends_of(k)] == [
        ("amp", "bought"), ("bought", "ground-rear"),
    ]  # fmt: skip
    assert unwired(grounded) == []
    bare = apply_edits(grounded, [Edit(path="links/ground-amp/to_id", value="ground-rear")])
    (idle,) = unwired(bare)
    assert "nothing grounds at it" in idle.title
    assert idle.remedy is not None
    without = apply_edits(bare, edits_of(bare, idle.remedy))
    assert [k.id for k in without.links if k.kind == "ground"] == ["ground-amp"]
    assert connect_everything(grounded, "amp") == (), "the run to the amplifier stays where it is"
    (fuses,) = unwired(apply_edits(grounded, [Edit(path="parts/bought/fused", value=True)]))
    assert fuses.severity is Severity.WATCH
    feed = {"id": "power-block", "kind": "power", "from_id": "battery", "to_id": "bought"}
    both = apply_edits(
        grounded,
        [Edit(op="add", path="links", value=feed), Edit(path="links/power-amp/from_id", value="bought")],
    )
    (shorted,) = unwired(both)
    assert (shorted.severity, "plus and ground" in shorted.title) == (Severity.STOP, True)
    assert shorted.remedy is not None
    apart = apply_edits(both, edits_of(both, shorted.remedy))
    assert unwired(apart) == []
    assert [(k.from_id, k.to_id) for k in apart.links if k.kind == "ground"] == [("amp", "ground-rear")]


def test_a_block_that_lost_its_main_run_gets_it_back_by_a_press(estate: Design) -> None:
    block = bought(estate, "distribution block", ways=2, in_area_max_mm2=53.0, out_area_max_mm2=33.0)
    wired = apply_edits(block, connect_everything(block, "bought"))
    main = next(k for k in wired.links if k.kind == "power" and k.to_id == "bought")
    cut = apply_edits(wired, [Edit(op="remove", path=f"links/{main.id}")])
    again = apply_edits(cut, connect_everything(cut, "bought"))
    assert [(k.from_id, k.to_id) for k in again.links_of(PowerLink)] == [("bought", "amp"), ("battery", "bought")]
    later = apply_edits(wired, [Edit(path=f"links/{main.id}/phase", value="later")])
    (waits,) = [f for f in evaluate(later).findings if f.rule == "part-unwired"]
    assert waits.remedy is not None
    now = apply_edits(later, edits_of(later, waits.remedy))
    assert {k.phase.value for k in now.links} == {"now"}


def test_what_a_strategy_would_cost_is_what_is_laid_in() -> None:
    """The sum shown before the choice is the sum of the parts after it, for every way on every demo car that has no
    parts.
    """
    tried = 0
    for number in (2, 8, 10, 11):
        design = demo_design(number).model_copy(
            update={"parts": (), "links": (), "interventions": (), "strategy": None}
        )
        for way in (c for c in advise(design).ranked if c.possible):
            rows = priced(design, way, catalogue())
            laid = apply_edits(design, lay_strategy(design, way.key.value, catalogue()).edits)
            prices = [part.price for part in laid.parts]
            assert [r.part for r in rows if r.part] == [part.name for part in laid.parts], way.key
            if all(p is not None for p in prices) and all(r.part for r in rows):
                assert total_price(rows) == pytest.approx(sum(p or 0 for p in prices))
                tried += 1
            again = priced(laid, way, catalogue())
            assert all(r.here for r in again if r.part)
    assert tried >= 8


def test_line_pairs_follow_axles_and_bass() -> None:
    """Front, rear and subwoofer need three pairs, or fade is lost (common practice, no source)."""
    four = demo_design(0)
    assert line_pairs_wanted(four) == 3
    van = demo_design(5)
    assert line_pairs_wanted(van) == 2  # front doors only, and a subwoofer
    front_only = van.model_copy(
        update={"parts": (), "links": (), "intake": van.intake.model_copy(update={"wishes": ()})}
    )
    assert line_pairs_wanted(front_only) == 1
    unit = {"id": "unit", "kind": "radio", "name": "Two-pair radio", "depth_mm": 150.0, "line_v": 4.0, "line_pairs": 2}
    bypass = next(
        c
        for c in advise(
            apply_edits(
                demo_design(11),
                (
                    [Edit(op="remove", path="parts/radio-2"), Edit(op="add", path="parts", value=unit)]
                    if demo_design(11).part("radio-2")
                    else []
                ),
            )
        ).ranked
        if "bypassed" in c.key.value
    )
    assert "line pair" in bypass.channels


def test_supply_words_come_from_the_check() -> None:
    design = demo_design(9)  # the box under the seat, its feed looked at
    way = next(c for c in advise(design).ranked if c.key.value == "powered subwoofer")
    assert "carries 9 A more" in way.supply
    small = apply_edits(design, [Edit(path="vehicle/feeds/radio-constant/fuse_a/value", value=10.0)])
    refused = next(c for c in advise(small).ranked if c.key is way.key)
    assert refused.supply.startswith("its own fused run")
    assert "11.4 A on a 10.0 A fuse" in refused.supply
    unknown = next(c for c in advise(demo_design(1)).ranked if c.key is way.key)
    assert "only if its" in unknown.supply
    assert design.vehicle.radio.tier.value is Tier.PLAIN


def test_the_cost_is_the_parts_and_the_wire_list_by_the_metre(estate: Design) -> None:
    """Every row of the wire list at the planning price of its size, pairs twice, line cable by the metre; what has no
    length costs nothing.
    """

    def by_hand(design: Design) -> float:
        results = evaluate(design).results
        total = sum(p.price or 0.0 for p in design.parts)
        for row in results.wire_rows:
            size, _, count = row.size.partition(" × ")
            twice = int(count) if count else 2 if row.purpose == "Speaker" else 1
            if size == "screened":
                total += piece_price("line_lead_m") * (row.length_m or 0.0)
            elif size:
                total += twice * cable_price(conductor(size), row.length_m or 0.0)
        return total

    assert evaluate(estate).figures["cost"].value == pytest.approx(by_hand(estate))
    taped = [Edit(path=f"links/{link.id}/tape_length_m", value={"value": None}) for link in estate.links]
    nowhere = apply_edits(estate, [*taped, Edit(path="parts/amp/position", value=None)])
    assert any(row.length_m is None for row in evaluate(nowhere).results.wire_rows)
    assert evaluate(nowhere).figures["cost"].value == pytest.approx(by_hand(nowhere))
    assert by_hand(nowhere) < by_hand(estate)


def test_every_run_has_a_holder_with_room_for_its_fuse() -> None:
    """An in-line holder holds one fuse (common practice): of two runs from the battery the second has one of its own on
    the order; the maxi holder goes to the run that takes a maxi blade. A size nobody makes is not ordered.
    """
    design = demo_design(0)
    trees = {tree["name"]: tree for tree in catalogue()}
    empty = apply_edits(design, [Edit(op="remove", path=f"parts/{part.id}") for part in design.parts])
    for names in permutations(("Tessel M500", "Cooperage Underseat 8", "Hob maxi holder")):
        bare = empty
        for name in names:
            bare = apply_edits(bare, added(bare, trees[name]))
        (holder,) = bare.parts_of(FuseHolder)
        runs = {link.to_id: link.fuse for link in bare.links_of(PowerLink)}
        (sub,), (amplifier,) = bare.parts_of(PoweredSubwoofer), bare.parts_of(Amplifier)
        assert sub.fuse_a not in family(holder.family).ratings_a
        if names[0] == sub.name and names[1] == holder.name:  # the only run there was when somebody picked it
            assert len(said(bare, "fuse-size")) == 1, "and that it is no holder for it is said"
            continue
        assert [fuse.holder_id for fuse in (runs[amplifier.id], runs[sub.id]) if fuse] == [holder.id, None], names
        assert room_in(bare, holder) == 0
    another = apply_edits(bare, added(bare, trees["Tessel Four 70"]))
    assert [link.fuse.holder_id for link in another.links_of(PowerLink) if link.fuse].count(holder.id) == 1
    bare = empty
    for name in ("Tessel M500", "Cooperage Underseat 8", "Hob maxi holder"):
        bare = apply_edits(bare, added(bare, trees[name]))
    rows = [row for row in evaluate(bare).results.order if row.what.startswith("Holder for a")]
    assert [row.what for row in rows] == ["Holder for a regular blade fuse"]
    assert not said(bare, "fuse-size")
    both = apply_edits(bare, [Edit(path=f"links/power-{sub.id}/fuse/holder_id", value=holder.id)])
    assert said(both, "holder-full") == [(Severity.STOP, "Hob maxi holder holds 1 fuse, 2 are planned in it")]
    fuses = {row.what: row.unknown for row in evaluate(both).results.order if row.group == "Fuses"}
    assert fuses[f"Maxi blade {sub.fuse_a:g} A"].startswith("no such size")
    two = apply_edits(both, [Edit(path=f"parts/{holder.id}/circuits", value=2)])
    assert not said(two, "holder-full")
