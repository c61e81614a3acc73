"""Cables cut from the shelf: against every way of cutting them, and the list of a plan by hand."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.stock_cutting import cut_from


@settings(max_examples=40)
@given(st.lists(st.integers(3, 60), min_size=1, max_size=5), st.lists(st.integers(10, 90), min_size=1, max_size=3))
def test_the_least_is_opened_of_all_ways_to_cut(cuts_dm: list[int], reels_dm: list[int]) -> None:
    """Every cut off every reel or off none, tried one by one: as many metres as may be, then the least opened."""
    cuts, reels = [c / 10 for c in cuts_dm], [r / 10 for r in reels_dm]
    best: tuple[float, float] | None = None
    for way in product(range(-1, len(reels)), repeat=len(cuts)):
        used = [sum(c for c, w in zip(cuts, way, strict=True) if w == j) for j in range(len(reels))]
        if all(u <= r + 1e-9 for u, r in zip(used, reels, strict=True)):
            opened = sum(r for u, r in zip(used, reels, strict=True) if u > 0)
            mark = (-round(sum(used), 6), round(opened, 6))
            best = mark if best is None or mark < best else best
    found = cut_from(cuts, reels)
    used = [sum(cuts[i] for i in numbers) for numbers in found.from_reel]
    assert all(u <= r + 1e-6 for u, r in zip(used, reels, strict=True))
    named = sorted([i for numbers in found.from_reel for i in numbers] + list(found.short))
    assert named == list(range(len(cuts))), "each cut once"
    opened = sum(r for u, r in zip(used, reels, strict=True) if u > 0)
    assert best == (pytest.approx(-sum(used), abs=1e-5), pytest.approx(opened, abs=1e-5))


def test_bad_lengths_are_refused() -> None:
    for cuts, reels in (([0.0], [5.0]), ([1.0], [-2.0]), ([1.0] * 61, [100.0])):
        with pytest.raises(OutOfRange):
            cut_from(cuts, reels)
    assert cut_from([1.0], []).short == (0,)


def test_the_list_of_a_plan_is_its_wire_list_and_uses_its_reels(estate: Design) -> None:
    """One number a cable; the power cable off the reel of its size and colour, the rest is bought by the metre."""
    results = evaluate(estate).results
    cuts = results.cut_list
    assert [c.row for c in cuts.cables] == results.wire_rows
    assert [c.number for c in cuts.cables] == [f"C{n}" for n in range(1, len(results.wire_rows) + 1)]
    whole = sum(c.whole_m or 0.0 for c in cuts.cables)
    assert sum(p.length_m for p in cuts.to_buy) == pytest.approx(whole)
    power = next(c for c in cuts.cables if c.row.purpose == "Power")
    reel = {"id": "reel", "kind": "wire", "name": "Red 4 AWG", "wire_size": "4 AWG", "colour": "red", "on_reel_m": 6.0}
    shelf = apply_edits(estate, [Edit(op="add", path="parts", value=reel)])
    found = evaluate(shelf).results.cut_list
    (one,) = found.reels
    assert [p.cable.row.link_id for p in one.pieces] == [power.row.link_id]
    assert one.left_m == pytest.approx(6.0 - (power.row.length_m or 0.0))
    assert sum(p.length_m for p in found.to_buy) == pytest.approx(whole - (power.row.length_m or 0.0))
    small = apply_edits(shelf, [Edit(path="parts/reel/on_reel_m", value=2.0)])
    assert evaluate(small).results.cut_list.reels[0].pieces == (), "no piece of it is long enough"
    other = apply_edits(shelf, [Edit(path="parts/reel/colour", value="blue")])
    assert evaluate(other).results.cut_list.reels[0].pieces == ()
