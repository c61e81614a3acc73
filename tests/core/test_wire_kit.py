"""A wire kit: its parts, what this car says to them, and what is cut from which reel."""

from __future__ import annotations

from random import Random
from typing import Any

import networkx
import pytest

from ohmack.core.build.cut_list import cut_list
from ohmack.core.build.line_cables import lay_in
from ohmack.core.build.lists import WireRow
from ohmack.core.build.sundries import piece_price
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import GroundLink, PowerLink, RemoteLink
from ohmack.core.document.parts import CableReel, LineCable
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
    assert [f.remedy and f.remedy.edits for f in (red, black)] == [(), ()], "no press that brings a stop"
    assert "8 AWG, to Tessel M500, even of copper: over the shop's 0.50 V" in red.text
    assert "8 AWG, to Tessel M500: conducts less than the 4 AWG power wire." in black.text
    clad = {"size": "8 AWG", "material": "copper_clad_aluminium"}
    named = [
        Edit(path=f"links/{run.id}/wire/{name}", value=value)
        for run in design.links if isinstance(run, PowerLink | GroundLink) for name, value in clad.items()
    ]  # fmt: skip
    laid = apply_edits(design, named)
    (short,) = said(laid, "wire-on-reel")
    assert short.title == "Kit 8: red wire is 0.40 m short"
    (fuse,) = said(laid, "fuse-bought")
    assert (fuse.severity.value, fuse.title) == ("stop", "Kit 8: fuse: the plan wants 50 A")
    assert fuse.remedy is not None
    assert fuse.remedy.edits == (Edit(op="remove", path="parts/fuse"),)
    assert said(laid, "drop-over-policy")


def test_a_reel_too_thick_for_a_terminal_is_not_laid_with_a_press(estate: Design) -> None:
    """Tessel M500 takes 4 AWG, 21.2 mm²; 1/0 AWG has 53.5 (ASTM B258): what no terminal takes is offered to no run."""
    (thick, *_) = said(apply_edits(estate, kit_added(estate, kit(wire_size="1/0 AWG"))), "wire-on-reel")
    assert thick.remedy is not None
    assert (thick.remedy.label, thick.remedy.edits) == ("See the wire list", ())
    assert "1/0 AWG, to Tessel M500: does not go into its terminal." in thick.text
    taken = [*kit_added(estate, kit(wire_size="6 AWG", material="copper")), Edit(path="policy/drop_limit_v", value=0.9)]
    slack = apply_edits(estate, [*taken, Edit(path="links/power-amp/wire/size", value="4 AWG")])
    (red, *_) = said(slack, "wire-on-reel")
    assert red.remedy is not None
    assert red.remedy.label == "Lay the power run with it"
    laid = apply_edits(slack, red.remedy.edits)
    assert next(laid.links_of(PowerLink)).wire.size == "6 AWG"
    assert not [f for f in evaluate(laid).findings if f.rule in ("drop-over-policy", "terminal-too-small")]


def test_a_run_that_is_not_sized_yet_takes_no_reel(estate: Design) -> None:
    """Whatever was laid, nobody could say whether it does: no press while nothing hangs on the amplifier."""
    bare = apply_edits(estate, [Edit(op="remove", path="parts/sub")])
    red, *_ = said(apply_edits(bare, kit_added(bare, kit(wire_size="4 AWG", material="copper"))), "wire-on-reel")
    assert "4 AWG, to Tessel M500: what flows there is not known yet." in red.text
    assert red.remedy is not None
    assert red.remedy.edits == ()


def test_a_kits_line_cable_and_switch_on_wire_are_held_against_their_runs(estate: Design) -> None:
    """The line run is 2.61 m and the switch-on wire 18 AWG: a cable with plugs is not cut and not pieced together."""

    def with_kit(**more: Any) -> Design:
        return apply_edits(estate, kit_added(estate, kit(**more)))

    lacking = with_kit(switch_on_size="16 AWG", switch_on_m=5.0, line_m=2.5)
    (short,) = said(lacking, "line-cable-bought")
    assert short.title == "Kit 8: line cable is 0.11 m short from Sprig LC2 active to Tessel M500"
    assert short.remedy is not None
    assert (short.remedy.sheet, short.remedy.query) == ("find", "kind=line+cable&instead=rca")
    blue = next(f for f in said(lacking, "wire-on-reel") if f.about == "reel-3")
    assert blue.remedy is not None
    assert blue.remedy.label == "Lay the switch-on wire with it"
    laid = apply_edits(lacking, blue.remedy.edits)
    assert next(laid.links_of(RemoteLink)).wire.size == "16 AWG"
    assert "18 AWG, blue" in {row.what for row in evaluate(lacking).results.order}
    assert not any("blue" in row.what for row in evaluate(laid).results.order)

    def screened(design: Design) -> list[str]:
        return [row.amount for row in evaluate(design).results.order if row.what.startswith("Screened")]

    assert screened(lacking) == ["3 m"]
    reaching = with_kit(line_m=2.7, line_pieces=2)
    assert screened(reaching) == []
    (many,) = said(reaching, "line-cable-bought")
    assert (many.title, many.remedy and many.remedy.label) == (
        "Kit 8: line cable: 1 too many", "Take as many as there are runs",
    )  # fmt: skip
    assert many.remedy is not None
    kept = apply_edits(reaching, many.remedy.edits)
    assert not said(kept, "line-cable-bought")
    (made,) = cut_list(evaluate(kept).results).ready
    assert (made[0].name, made[1].row.purpose) == ("Kit 8: line cable", "Line level")
    assert made[1] not in [piece.cable for piece in cut_list(evaluate(kept).results).to_buy]
    bare = apply_edits(kept, [Edit(op="remove", path="links/line-amp")])
    assert [f.title for f in said(bare, "line-cable-bought")] == ["Kit 8: line cable: no line run takes it"]
    with pytest.raises(NotPossible):
        kit_parts(kit(switch_on_m=5.0))


def runs(*lengths_m: float) -> list[WireRow]:
    return [WireRow(f"line-{n}", "Line level", "", "", "screened", m, "", "", "") for n, m in enumerate(lengths_m)]


def test_as_many_runs_as_can_be_get_a_cable_that_reaches() -> None:
    """Against networkx, whose largest matching of runs and cables is another algorithm."""
    chance = Random(7)
    for _ in range(60):
        cables = [
            LineCable(id=f"c{n}", name="c", length_m=round(chance.uniform(0.5, 6), 1), pieces=chance.randint(1, 2))
            for n in range(chance.randint(0, 4))
        ]
        rows = runs(*(round(chance.uniform(0.5, 6), 1) for _ in range(chance.randint(0, 5))))
        found = lay_in(cables, rows)
        graph = networkx.Graph()
        pieces = [(c, k) for c in cables for k in range(c.pieces)]
        graph.add_edges_from(
            ((c.id, k), row.link_id) for c, k in pieces for row in rows if c.length_m >= (row.length_m or 0.0)
        )
        starts = [node for node in ((c.id, k) for c, k in pieces) if node in graph]
        most = len(networkx.bipartite.maximum_matching(graph, starts)) // 2 if starts else 0
        assert len(found.laid) == most
        assert all(cable.length_m >= (row.length_m or 0.0) for cable, row in found.laid)
        assert (len(found.laid) + len(found.spare), len(found.laid) + len(found.open_rows)) == (len(pieces), len(rows))


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


def test_line_cable_by_the_metre_is_in_the_sum_until_one_with_plugs_is_bought(estate: Design) -> None:
    by_metre = evaluate(estate).figures
    length_m = evaluate(estate).results.runs["line-amp"].length.value
    assert by_metre["cable/line"].value == pytest.approx(piece_price("line_lead_m") * length_m)
    cable = {"kind": "line cable", "id": "line", "name": "Five", "length_m": 5.0, "price": 17.0}
    bought = evaluate(apply_edits(estate, [Edit(op="add", path="parts", value=cable)])).figures
    assert "cable/line" not in bought
    assert bought["cost"].value == pytest.approx(by_metre["cost"].value - by_metre["cable/line"].value + 17.0)
    short = apply_edits(estate, [Edit(op="add", path="parts", value={**cable, "length_m": 1.0})])
    assert "cable/line" in evaluate(short).figures, "it does not reach"
