"""The supply as a whole car has it: 24 V, a second battery, clad ground, fuse school, equal amplifiers, cranking
amps, coils and cables.
"""

from __future__ import annotations

from math import pi
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.vehicle import CrankingStandard
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.network.states import battery_resistance_ohm
from ohmack.core.physics.speaker_loads import Coil, wirings
from ohmack.core.planning.part_added import added
from ohmack.core.supply.results import SupplyResult
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.picture import begin
from ohmack.drawing.volts import trace
from references import published

S = "vehicle/supply"


def supply_of(design: Design, part: str = "amp") -> SupplyResult:
    return next(s for s in evaluate(design).results.supplies if s.part.id == part)


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


@pytest.mark.parametrize(
    ("named_a", "holder", "made", "told"),
    [
        (7.5, "", "Regular blade", False),
        (15.0, "", "Regular blade", False),
        (15.0, "strip", "Bolt-down strip", True),
        (15.0, "blade", "Regular blade", False),
        (20.0, "", "Maxi blade", False),
        (30.0, "", "Bolt-down strip", False),
        (30.0, "strip", "Bolt-down strip", False),
        (35.0, "maxi", "Maxi blade", True),
    ],
)
def test_a_fuse_is_of_a_family_that_is_made_in_the_rating_its_maker_names(
    estate: Design, named_a: float, holder: str, made: str, told: bool
) -> None:
    """Maxi blades begin at 20 A and bolt-down strips at 30 A (ISO 8820-3 and -5, from memory): what no holder decides
    is ordered in a family that has the size, and a holder whose family has it not is told.
    """
    bass = next(tree for tree in catalogue() if tree["name"] == "Cooperage Underseat 8") | {"fuse_a": named_a}
    bare = apply_edits(estate, [Edit(op="remove", path=f"parts/{name}") for name in ("amp", "sub", "holder")])
    design = apply_edits(bare, added(bare, bass))
    if holder:
        tree = {"kind": "fuse holder", "name": "Holder", "family": holder, "terminal_area_max_mm2": 21.0}
        design = apply_edits(design, added(design, tree))
    found = evaluate(design)
    assert supply_of(design, "bass").figures["fuse"].value == named_a
    ordered = [row.what for row in found.results.order if row.group == "Fuses" and "Holder" not in row.what]
    assert f"{made} {named_a:g} A" in ordered
    said = [f for f in found.findings if f.rule == "fuse-size"]
    assert [f.title for f in said] == (
        [f"Cooperage Underseat 8: its maker names {named_a:g} A, no size of {made.lower()}"] if told else []
    )
    assert all(f.remedy and f.remedy.query == "kind=fuse+holder&instead=holder" for f in said)


def test_amperes_on_the_12_v_side_decide_in_a_24_v_car(estate: Design) -> None:
    """A converter's 12 V side is about 13.8 V (common practice, no source), so a truck's run is sized like a car's
    and not for half the current.
    """
    truck = apply_edits(
        estate,
        [measured(f"{S}/system", "24 V"), measured(f"{S}/post_running_v", 28.2), measured(f"{S}/post_resting_v", 25.2)],
    )
    supply, car = supply_of(truck), supply_of(estate)
    assert supply.source_v == 13.8
    volts, current = supply.figures["voltage"].value, supply.figures["current"].value
    assert current == pytest.approx(500 / 0.8 / volts + 0.8)  # the power balance at the terminals
    assert 1.0 < current / (car.figures["current"].value or 0) < 1.1
    assert supply.figures["fuse"].value == 60.0
    assert "supply-system" in {f.rule for f in evaluate(truck).findings if f.severity is Severity.STOP}
    assert not [f for f in evaluate(truck).findings if f.rule == "reading-implausible"], (
        "28.2 V is what a 24 V bus shows"
    )
    odd = apply_edits(truck, [measured(f"{S}/post_running_v", 25.0)])
    assert [f for f in evaluate(odd).findings if f.rule == "reading-implausible"], (
        "25.0 V is a 24 V bus that does not charge"
    )


def second_battery(estate: Design, x_m: float) -> Design:
    camp = {
        "id": "camp",
        "name": "Second battery",
        "role": "leisure",
        "position": {"x_m": x_m, "y_m": -0.4},
        "own_running_v": {"value": 13.4, "basis": "measured"},
        "own_resting_v": {"value": 12.7, "basis": "measured"},
        "cca_a": {"value": 500.0, "basis": "documented"},
    }
    return apply_edits(
        estate,
        [
            Edit(op="add", path=f"{S}/batteries", value=camp),
            put("links/power-amp/from_id", "camp"),
            put("links/power-amp/way_points", []),
        ],
    )


def test_a_second_battery_beside_the_ground_has_no_body_in_its_loop(estate: Design) -> None:
    """Kirchhoff: the current returns to the battery it came from; the chart starts at that battery's voltage."""
    beside = supply_of(second_battery(estate, 3.9))
    assert beside.source_v == 13.4
    back = {g.place: g.resistance_ohm for g in beside.pieces}
    assert back["body"] == 0.0
    assert back["strap"] == pytest.approx(0.0004)
    assert beside.figures["drop"].value == pytest.approx(sum(g.drop_v for g in beside.segments))
    far = supply_of(second_battery(estate, 0.8))
    assert {g.place: g.resistance_ohm for g in far.pieces}["body"] == pytest.approx(0.0013)
    evaluation = evaluate(second_battery(estate, 3.9))
    line = trace(begin(evaluation, lambda _: ""), evaluation.results.supplies[0])
    assert line is not None
    assert line.positive[0][1] == 13.4


def test_a_neighbour_on_another_battery_does_not_load_this_ones_return(estate: Design) -> None:
    tree = estate.part("amp").model_dump(mode="json")  # type: ignore[union-attr]
    driver = estate.part("sub").model_dump(mode="json")  # type: ignore[union-attr]
    more = [
        Edit(op="add", path="parts", value=driver | {"id": "sub-2"}),
        Edit(op="add", path="parts", value=tree | {"id": "amp-2", "name": "Second amplifier"}),
        Edit(
            op="add", path="links", value={"id": "speaker-2", "kind": "speaker", "from_id": "amp-2", "to_id": "sub-2"}
        ),
        Edit(
            op="add",
            path="links",
            value={"id": "ground-2", "kind": "ground", "from_id": "amp-2", "to_id": "ground-rear"},
        ),
    ]
    both = [
        *more,
        Edit(
            op="add",
            path="links",
            value={"id": "power-2", "kind": "power", "from_id": "battery", "to_id": "amp-2"},
        ),
    ]
    split = [
        *more,
        Edit(
            op="add",
            path="links",
            value={"id": "power-2", "kind": "power", "from_id": "camp", "to_id": "amp-2"},
        ),
    ]
    alone = supply_of(estate).figures["drop"].value or 0
    shared = supply_of(apply_edits(estate, both)).figures["drop"].value or 0
    camp = second_battery(estate, 3.9)
    on_first = apply_edits(camp, [put("links/power-amp/from_id", "battery"), *split])
    apart = (
        supply_of(
            apply_edits(
                on_first, [put("links/power-amp/way_points", [p.model_dump() for p in estate.links[0].way_points])]
            )
        )
        .figures["drop"]
        .value
        or 0
    )
    assert shared > alone + 0.05, "two amplifiers over one body return"
    assert apart == pytest.approx(alone, rel=0.02)


def test_a_clad_ground_without_a_size_is_clad(estate: Design) -> None:
    """The same size in copper-clad aluminium has 1/0.63 of copper's resistance (ASTM B566, from memory)."""
    clad = apply_edits(estate, [put("links/ground-amp/wire/material", "copper_clad_aluminium")])
    copper = {g.place: g.resistance_ohm for g in supply_of(estate).pieces}
    lead = {g.place: g.resistance_ohm for g in supply_of(clad).pieces}
    assert lead["ground lead"] / copper["ground lead"] == pytest.approx(1 / 0.63)
    assert lead["run"] == copper["run"]
    assert (supply_of(clad).figures["drop"].value or 0) > (supply_of(estate).figures["drop"].value or 0)


def test_a_ground_that_follows_a_wire_too_thick_for_the_terminal_is_told_once(estate: Design) -> None:
    """Its own size is told where it has one; else the power wire's press mends both."""
    thick = [Edit(path="links/power-amp/wire/size", value="1/0 AWG")]
    own = [*thick, Edit(path="links/ground-amp/wire/size", value="1/0 AWG")]

    def said(edits: list[Edit]) -> set[str]:
        found = evaluate(apply_edits(estate, edits)).findings
        return {f.rule for f in found if f.rule in ("terminal-too-small", "ground-lead")}

    assert said(thick) == {"terminal-too-small"}
    assert said(own) == {"terminal-too-small", "ground-lead"}


def test_the_fuse_school_never_speaks_of_negative_volts(estate: Design) -> None:
    """Fuses of 400 A over 18 AWG would leave the amplifier below zero: that is a collapse, not a voltage."""
    school = apply_edits(
        estate,
        [
            put("policy/current_school", "amplifier fuses"),
            put("parts/amp/fuses_a", [200.0, 200.0]),
            put("links/power-amp/wire/size", "18 AWG"),
        ],
    )
    evaluation = evaluate(school)
    assert "supply-collapses" in {f.rule for f in evaluation.findings if f.severity is Severity.STOP}
    for candidate in evaluation.results.supplies[0].candidates:
        assert candidate.at_amplifier_v is None or candidate.at_amplifier_v > 0


def test_two_equal_amplifiers_have_two_stops(estate: Design) -> None:
    broken = apply_edits(
        estate,
        [
            put("parts/amp/lowest_load_ohm", 1.0),
            put("parts/sub/coils", [{"impedance_ohm": 2.0}] * 2),
            put("links/speaker-sub/wiring", "parallel(1,2)"),
        ],
    )
    amp, sub = (broken.part(name).model_dump(mode="json") for name in ("amp", "sub"))  # type: ignore[union-attr]
    twice = apply_edits(
        broken,
        [
            Edit(op="add", path="parts", value=sub | {"id": "sub-2"}),
            Edit(op="add", path="parts", value=amp | {"id": "amp-2"}),
            Edit(
                op="add",
                path="links",
                value={
                    "id": "speaker-2",
                    "kind": "speaker",
                    "from_id": "amp-2",
                    "to_id": "sub-2",
                    "wiring": "parallel(1,2)",
                },
            ),
        ],
    )
    refused = [f.about.split("/")[0] for f in evaluate(twice).findings if f.rule == "figure-refused"]
    assert sorted(refused) == ["amp", "amp-2"]


def test_a_collapse_together_refuses_every_voltage(estate: Design) -> None:
    """Each alone would do, both together pass what the body return lets through: no voltage may be left standing."""
    tree = estate.part("amp").model_dump(mode="json")  # type: ignore[union-attr]
    driver = estate.part("sub").model_dump(mode="json")  # type: ignore[union-attr]
    pair = apply_edits(
        estate,
        [
            measured(f"{S}/body_return_ohm", 0.040),
            Edit(op="add", path="parts", value=driver | {"id": "sub-2"}),
            Edit(op="add", path="parts", value=tree | {"id": "amp-2", "name": "Second amplifier"}),
            Edit(
                op="add", path="links", value={"id": "power-2", "kind": "power", "from_id": "battery", "to_id": "amp-2"}
            ),
            Edit(
                op="add",
                path="links",
                value={"id": "ground-2", "kind": "ground", "from_id": "amp-2", "to_id": "ground-rear"},
            ),
            Edit(
                op="add",
                path="links",
                value={"id": "speaker-2", "kind": "speaker", "from_id": "amp-2", "to_id": "sub-2"},
            ),
        ],
    )
    evaluation: Evaluation = evaluate(pair)
    said = [f for f in evaluation.findings if f.rule == "supply-collapses"]
    assert {f.about for f in said} == {"power-amp", "power-2"}
    assert all(evaluation.figures[f"{name}/at_amplifier_v"].value is None for name in ("amp", "amp-2"))


@pytest.mark.parametrize(("standard", "held_v"), published("cranking"))
def test_cranking_amps_mean_what_their_standard_says(standard: str, held_v: float, estate: Design) -> None:
    ohm = battery_resistance_ohm(560, CrankingStandard(standard))
    assert ohm == pytest.approx((12.6 - held_v) / 560 / 2)
    stated = apply_edits(estate, [put(f"{S}/batteries/battery/cranking_standard", standard)])
    figure = supply_of(stated).figures["resting"]
    volts, loop = figure.value, supply_of(stated).figures["loop"].value + ohm
    assert (12.61 - volts) / loop * volts == pytest.approx(500 / 0.8 + 0.8 * volts)  # the power balance, engine off
    assert standard in figure.source or {"SAE": "J537", "EN": "50342", "DIN": "43539"}[standard] in figure.source


def test_coils_of_unlike_rating_are_not_interchangeable() -> None:
    """Four coils of 4 ohm, two of 50 W and two of 100 W: (strong + strong) || (weak + weak) is another network than
    mixed pairs.
    """
    mixed = [
        Coil("A", 4.0, 3.4, 50.0),
        Coil("B", 4.0, 3.4, 50.0),
        Coil("C", 4.0, 3.4, 100.0),
        Coil("D", 4.0, 3.4, 100.0),
    ]
    equal = [Coil(name, 4.0, 3.4, 50.0) for name in "ABCD"]
    assert len(wirings(equal)) == 10  # OEIS A000084
    assert len(wirings(mixed)) > len(wirings(equal))

    def best(coils: list[Coil]) -> float:
        """The most net power any wiring takes before its weakest coil has its fill."""
        rated = {c.name: c.power_w or 0.0 for c in coils}
        return max(min(rated[n] / share for n, share in w.shares().items()) for w in wirings(coils))

    orders = [[mixed[i] for i in order] for order in ((0, 1, 2, 3), (2, 0, 3, 1), (3, 2, 1, 0), (0, 2, 1, 3))]
    assert len({round(best(order), 9) for order in orders}) == 1, "the order of links must not change the answer"


def test_a_permitted_load_beats_a_forbidden_one_where_no_papers_rate_the_bridge(estate: Design) -> None:
    """A dual 4 ohm driver bridged on an amplifier of 2 ohm a channel: 4 ohm at least bridged, so 8 and not 2."""
    bridged = apply_edits(
        estate,
        [
            put("parts/amp/channel_count", 2),
            put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 200.0}]),
            put("links/speaker-sub/bridged", True),
        ],
    )
    load = evaluate(bridged).results.loads[0]
    assert load.lowest_ohm == 4.0
    best = next(option for option in load.options if option.best)
    assert (best.load_ohm, best.permitted) == (8.0, True)


def test_each_cable_of_a_shared_channel_is_judged_by_what_hangs_at_its_end(estate: Design) -> None:
    """Two 4 ohm doors in parallel on one channel of 100 W at 2 ohm: 50 W and √(50/4) A in each cable (Ohm's law)."""
    doors = {
        "id": "doors",
        "kind": "driver",
        "name": "Doors",
        "at_ids": ["spk-fl", "spk-fr"],
        "impedance_ohm": 4.0,
        "power_rms_w": 60.0,
        "mounting_depth_mm": 40.0,
        "cut_out_mm": 120.0,
        "frame_mm": 140.0,
        "front_height_mm": 5.0,
    }
    design = apply_edits(
        estate,
        [
            Edit(op="remove", path="parts/sub"),
            Edit(op="add", path="parts", value=doors),
            put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 100.0}]),
            *(
                Edit(
                    op="add",
                    path="links",
                    value={
                        "id": f"s-{i}",
                        "kind": "speaker",
                        "from_id": "amp",
                        "to_id": f"spk-f{i}",
                        "wire": {"size": "18 AWG"},
                        "tape_length_m": {"value": 5.0, "basis": "measured"},
                    },
                )
                for i in "lr"
            ),
            put("links/s-l/wiring", "parallel(A,B)"),
        ],
    )
    cables = {c.link.id: c for c in evaluate(design).results.cables}
    for cable in cables.values():
        assert cable.current.value == pytest.approx((50 / 4) ** 0.5)
        # 18 AWG has 20.95 mΩ a metre (AWG tables at 20 °C, from memory): 10 m there and back against 4 ohm
        assert cable.loss.value == pytest.approx(0.4456, abs=0.004)
    series = evaluate(apply_edits(design, [put("links/s-l/wiring", "series(A,B)")])).results.cables
    assert {round(c.current.value, 6) for c in series} == {
        round((100 * 2 / 8 / 8) ** 0.5, 6)
    }  # one current through both


def test_a_size_somebody_named_is_judged_once_among_the_others(estate: Design) -> None:
    """Named and on the list it is chosen there; counted strands come between the metric sizes."""
    listed = [c.wire.label for c in supply_of(estate).candidates]
    thick = listed[-2]
    named = supply_of(apply_edits(estate, [put("links/power-amp/wire/size", thick)]))
    assert [c.wire.label for c in named.candidates] == listed
    assert [c.wire.label for c in named.candidates if c.chosen] == [thick]
    counted = {"strand_count": 900, "strand_diameter_mm": 0.2}
    edits = [put(f"links/power-amp/wire/{field}", value) for field, value in counted.items()]
    own = supply_of(apply_edits(estate, edits))
    areas = [c.wire.area_mm2 for c in own.candidates]
    assert areas == sorted(set(areas))
    assert [c.wire.area_mm2 for c in own.candidates if c.chosen] == [pytest.approx(900 * pi / 4 * 0.2**2)]


@pytest.mark.parametrize(
    ("edits", "offered"),
    [
        ({"links/ground-amp/tape_length_m": 25.0, "links/ground-amp/wire/size": "18 AWG"}, "Look at the ground lead"),
        ({"vehicle/supply/body_return_ohm": 0.5}, "Measure it again"),
        ({"links/power-amp/tape_length_m": 28.0, "links/power-amp/wire/size": "18 AWG"}, "Look at the run"),
    ],
)
def test_what_collapses_a_supply_is_where_it_is_mended(edits: dict[str, Any], offered: str, estate: Design) -> None:
    """The piece with the most resistance: a thin long ground lead, a bad body, a thin long run."""
    strong = [Edit(path="parts/amp/ratings", value=[{"load_ohm": 2.0, "power_w": 3000.0}])]
    made = [
        Edit(path=path, value=value if isinstance(value, str) else {"value": value, "basis": "measured"})
        for path, value in edits.items()
    ]
    said = [f for f in evaluate(apply_edits(estate, [*strong, *made])).findings if f.rule == "supply-collapses"]
    assert said
    assert said[0].remedy is not None
    assert said[0].remedy.label.startswith(offered)


def test_with_several_supplies_a_sentence_says_whose_it_is(estate: Design) -> None:
    two = next(d for d in map(demo_design, range(len(demo_jobs()))) if d.title == "Two amplifiers, and lamps that dim")
    strict = Edit(path="policy/drop_limit_v", value=0.1)
    for design, named in ((two, True), (estate, False)):
        evaluation = evaluate(apply_edits(design, [strict]))
        told = [f.title for f in evaluation.findings if f.rule == "drop-over-policy"]
        fed = [supply.part.name for supply in evaluation.results.supplies]  # a main run by its block
        assert len(told) == len(fed)
        assert all(any(title.startswith(f"{name}: ") for title in told) is named for name in fed)
