"""A wire kit: its parts, what this car says to them, and what is cut from which reel."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.build.cut_list import cut_list
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import CableReel
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.planning.wire_kit import WireKit, kit_added, kit_parts

LABEL = {"name": "Kit 8", "price": 39.0, "wire_size": "8 AWG", "material": "copper_clad_aluminium", "red_m": 5.0,
         "black_m": 1.0, "rating_a": 60.0}  # fmt: skip


def kit(**changes: Any) -> WireKit:
    return WireKit.model_validate(LABEL | changes)


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


def test_a_kit_is_its_reels_its_holder_and_its_fuse() -> None:
    parts = kit_parts(kit())
    assert [(p["kind"], p["name"], p["price"]) for p in parts] == [
        ("wire", "Kit 8: red wire", 39.0), ("wire", "Kit 8: black wire", 0.0), ("fuse holder", "Kit 8: holder", 0.0),
        ("fuse", "Kit 8: fuse", 0.0)]  # fmt: skip
    assert [p["on_reel_m"] for p in parts[:2]] == [5.0, 1.0]
    assert parts[2]["terminal_area_max_mm2"] == 8.4  # 8 AWG by ASTM B258
    assert kit_parts(kit(terminal_area_max_mm2=33.6))[2]["terminal_area_max_mm2"] == 33.6
    assert [p["kind"] for p in kit_parts(kit(black_m=0.0, rating_a=None))] == ["wire", "fuse holder"]
    assert kit_parts(kit(red_m=0.0))[0]["price"] == 39.0
    with pytest.raises(NotPossible):
        kit_parts(kit(red_m=0.0, black_m=0.0))
    with pytest.raises(UnknownName):
        kit_parts(kit(wire_size="37 AWG"))


def test_a_kit_is_held_against_the_car_it_goes_into(estate: Design) -> None:
    """60 A wants 4 AWG of copper here; clad 8 AWG of 5.40 m loses twice what the shop allows."""
    design = apply_edits(estate, kit_added(estate, kit()))
    red, black = said(design, "wire-on-reel")
    assert red.title == black.title == "No run of this plan takes 8 AWG of clad aluminium"
    assert red.remedy is not None
    assert black.remedy is not None
    assert (red.remedy.label, black.remedy.label) == ("Lay the power run with it", "Lay the ground run with it")
    laid = apply_edits(design, (*red.remedy.edits, *black.remedy.edits))
    for run in (next(laid.links_of(PowerLink)), next(laid.links_of(GroundLink))):
        assert (run.wire.size, run.wire.material) == ("8 AWG", "copper_clad_aluminium")
    (short,) = said(laid, "wire-on-reel")
    assert short.title == "Kit 8: red wire is 0.40 m short"
    (fuse,) = said(laid, "fuse-bought")
    assert (fuse.severity.value, fuse.title) == ("stop", "Kit 8: fuse: the plan wants 50 A")
    assert said(laid, "drop-over-policy")


def reel(name: str, **values: Any) -> Edit:
    tree = {"id": name, "kind": "wire", "name": name, "wire_size": "4 AWG", "on_reel_m": 20.0, **values}
    return Edit(op="add", path="parts", value=tree)


def wire_ordered(design: Design) -> dict[str, str]:
    return {
        row.what: row.amount for row in evaluate(design).results.order if row.group == "Wire" and "4 AWG" in row.what
    }


def test_what_is_cut_from_a_reel_is_of_its_metal_and_its_colour_and_is_there_once(estate: Design) -> None:
    assert wire_ordered(estate) == {"4 AWG, red": "5.5 m", "4 AWG, black": "0.5 m"}
    clad = apply_edits(estate, [reel("clad", material="copper_clad_aluminium")])
    assert wire_ordered(clad) == wire_ordered(estate), "clad aluminium is no copper"
    assert said(clad, "wire-on-reel")
    assert not cut_list(evaluate(clad).results).reels[0].pieces
    tinned = apply_edits(estate, [reel("tinned", material="tinned_copper")])
    assert wire_ordered(tinned) == {}
    assert not said(tinned, "wire-on-reel")
    red = apply_edits(estate, [reel("red", colour="red")])
    assert wire_ordered(red) == {"4 AWG, black": "0.5 m"}
    some = apply_edits(estate, [reel("any", on_reel_m=5.4)])
    assert sum(float(amount.split()[0]) for amount in wire_ordered(some).values()) == 0.5, "its metres are there once"
    two = apply_edits(estate, [reel("any", on_reel_m=3.0), reel("red", on_reel_m=3.0, colour="red")])
    assert wire_ordered(two) == {}, "red first from its own reel"
    cut = {one.reel.id: len(one.pieces) for one in cut_list(evaluate(red).results).reels}
    assert cut == {"red": 1}
    assert [part.material for part in clad.parts_of(CableReel)] == ["copper_clad_aluminium"]
    black = apply_edits(estate, [reel("black", on_reel_m=0.2, colour="black")])
    (short,) = said(black, "wire-on-reel")
    assert short.title.startswith("black is 0.25 m short"), "the red run is none of its business"
    clear = apply_edits(estate, [reel("clear", colour="transparent")])
    assert not said(clear, "wire-on-reel"), "of a colour no run has"
    assert wire_ordered(clear) == {}
    assert [len(one.pieces) for one in cut_list(evaluate(clear).results).reels] == [2]
