"""Pin maps, colours, joints and speaker circuits: against geometry, circuit laws, published colour codes and facts
of the trade.
"""

from __future__ import annotations

from itertools import combinations
from math import pi, sqrt
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.build.order import order_list
from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import cavity_at
from ohmack.core.document.harness import Cavity, CavityUse, Colour, Housing, JointMethod, Polarity
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.sensitivity import said
from ohmack.core.factory.joined_ranges import joined_ranges
from ohmack.core.harness.joint_methods import SCHOOL, ferrule_for_mm2, insulated_mm, rank_methods, shrink_for_mm
from ohmack.core.harness.joints import joint_table, pair_leads
from ohmack.core.harness.pin_map import keyway_of, read_by_meter, spot_of
from ohmack.core.harness.speaker_circuits import speaker_circuits, take_reach
from ohmack.core.harness.wire_colours import colour_words, mirror_pairs, read_colour
from ohmack.core.planning.harness import new_connector, put_map, read_pin
from ohmack.core.planning.hunting import begin_hunt, put_result
from ohmack.core.planning.part_added import added
from ohmack.core.planning.radio_wiring import end_lead
from ohmack.core.planning.speaker_sets import add_sets
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.reference import read_toml, table
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.entry import EntryError
from ohmack.formats.pin_grid import read_grid, typed_row

housings = st.builds(
    Housing,
    rows=st.integers(1, 6),
    columns=st.integers(1, 20),
    numbered=st.sampled_from(["along the rows", "down the columns", "there and back", "lettered rows"]),
    keyway=st.sampled_from(["none", "top", "bottom", "left", "right"]),
    numbers_from=st.sampled_from(["mating side", "wire side"]),
)


@given(housings)
def test_both_faces_are_mirror_images_and_hold_every_cavity_once(housing: Housing) -> None:
    front = [spot_of(housing, n, "mating side") for n in range(1, housing.size + 1)]
    back = [spot_of(housing, n, "wire side") for n in range(1, housing.size + 1)]
    assert {(s.row, s.column) for s in front} == {(r, c) for r in range(housing.rows) for c in range(housing.columns)}
    for a, b in zip(front, back, strict=True):
        assert a.row == b.row
        assert (
            a.column + b.column == housing.columns - 1
        )  # turned over about the upright axis: left for right, not up for down
    swapped = {"left": "right", "right": "left"}
    front_key, back_key = keyway_of(housing, "mating side"), keyway_of(housing, "wire side")
    assert back_key == swapped.get(front_key, front_key)
    with pytest.raises(OutOfRange):
        spot_of(housing, housing.size + 1, "mating side")


def test_numbering_runs_as_its_name_says() -> None:
    rows = Housing(rows=2, columns=3, numbered="along the rows")
    down = Housing(rows=2, columns=3, numbered="down the columns")
    back = Housing(rows=2, columns=3, numbered="there and back")
    at = lambda h: [(s.row, s.column) for s in (spot_of(h, n, "mating side") for n in range(1, 7))]  # noqa: E731
    assert at(rows) == [(0, 0), (0, 1), (0, 2), (1, 0), (1, 1), (1, 2)]
    assert at(down) == [(0, 0), (1, 0), (0, 1), (1, 1), (0, 2), (1, 2)]
    assert at(back) == [(0, 0), (0, 1), (0, 2), (1, 2), (1, 1), (1, 0)]
    assert at(Housing(rows=3, columns=2, numbered="there and back")) == [(0, 0), (0, 1), (1, 1), (1, 0), (2, 0), (2, 1)]


# IEC 60757 two-letter codes, from memory
IEC = {
    "BK": "black",
    "BN": "brown",
    "RD": "red",
    "OG": "orange",
    "YE": "yellow",
    "GN": "green",
    "BU": "blue",
    "VT": "purple",
    "GY": "grey",
    "WH": "white",
    "PK": "pink",
    "TQ": "turquoise",
}


def test_colours_are_read_in_every_usual_way_and_order_matters() -> None:
    for code, name in IEC.items():
        assert read_colour(code) == (Colour(name), None)
        assert read_colour(f"WH/{code}")[1] is Colour(name)
    white_red = (Colour.WHITE, Colour.RED)
    for text in ("white/red", "WH-RD", "wht/red", "White with red stripe", "white red", "white, red tracer"):
        assert read_colour(text) == white_red, text
    assert read_colour("red/white") == white_red[::-1]
    assert read_colour("light green red") == (Colour.LIGHT_GREEN, Colour.RED)
    assert read_colour(" ") == (None, None)
    for bad in ("tartan", "red/green/blue", "x"):
        with pytest.raises(UnknownName):
            read_colour(bad)


@given(st.sampled_from(list(Colour)), st.none() | st.sampled_from(list(Colour)))
def test_what_is_written_reads_back(base: Colour, tracer: Colour | None) -> None:
    assert read_colour(colour_words(base, tracer)) == (base, tracer if tracer is not base else None)


def test_mirror_colours_are_found_and_solid_ones_are_not() -> None:
    def pin(n: int, text: str) -> Cavity:
        base, tracer = read_colour(text)
        return Cavity(id=f"c{n}", number=n, base=base, tracer=tracer)

    pins = [
        pin(n, t)
        for n, t in enumerate(
            ("white/red", "red/white", "white/red", "white", "red", "blue/blue", "black/white"), start=1
        )
    ]
    assert [(a.number, b.number) for a, b in mirror_pairs(pins)] == [(1, 2), (2, 3)]


@pytest.mark.parametrize(
    ("readings", "use"),
    [  # a meter on a radio plug, common practice, no source
        ({"off_v": 12.6, "accessory_v": 12.4}, CavityUse.CONSTANT),
        ({"off_v": 0.0, "accessory_v": 12.3}, CavityUse.SWITCHED),
        ({"off_v": 0.0, "accessory_v": 0.0, "lights_v": 11.8}, CavityUse.ILLUMINATION),
        ({"off_v": 0.02, "accessory_v": 0.0, "lights_v": 4.5}, CavityUse.ILLUMINATION),
        ({"off_v": 0.0, "accessory_v": 0.0, "body_ohm": 0.2}, CavityUse.GROUND), ({"body_ohm": 0.2}, CavityUse.GROUND),
        ({"accessory_v": 12.3}, None), ({"off_v": 0.0, "accessory_v": 0.0}, None), ({"body_ohm": 40.0}, None),
        ({"off_v": 6.0, "body_ohm": 0.1}, None),
    ],
)  # fmt: skip
def test_what_the_meter_says(readings: dict[str, float], use: CavityUse | None) -> None:
    assert read_by_meter(Cavity(id="c1", number=1, **readings)) is use


def test_a_reading_confirms_or_contradicts_and_never_overwrites(estate: Design) -> None:
    path = "vehicle/connectors/radio-plug/cavities"
    fresh = apply_edits(estate, [Edit(path=f"{path}/c9/use", value={}), Edit(path=f"{path}/c9/expected", value=None)])
    found = apply_edits(
        fresh,
        read_pin(fresh, "radio-plug", "c9", {"off_v": 0.0, "accessory_v": 12.2, "lights_v": None, "body_ohm": None}),
    )
    cavity = next(c for c in found.vehicle.connectors[0].cavities if c.id == "c9")
    assert (cavity.use.value, said(cavity.use.basis, "")) == (CavityUse.SWITCHED, "measured")
    wrong = apply_edits(
        estate,
        read_pin(estate, "radio-plug", "c12", {"off_v": 0.0, "accessory_v": 12.2, "lights_v": None, "body_ohm": None}),
    )
    assert next(c for c in wrong.vehicle.connectors[0].cavities if c.id == "c12").use.value is CavityUse.CONSTANT
    speaks = next(f for f in evaluate(wrong).findings if f.rule == "pin-found")
    assert "switched, not constant" in speaks.title
    assert speaks.remedy is not None
    assert not [
        f
        for f in evaluate(apply_edits(wrong, speaks.remedy.edits)).findings
        if f.rule == "pin-found" and f.severity == "stop"
    ]


# -- joints ---------------------------------------------------------------------------------------------------------


def test_leads_wear_the_trades_colours(estate: Design) -> None:
    """Trade convention, common practice, no source: white, grey, green, purple; the striped one is negative."""
    bases = {"ch-fl": "white", "ch-fr": "grey", "ch-rl": "green", "ch-rr": "purple"}
    for channel, base in bases.items():
        plus, minus = pair_leads(estate, channel)
        assert (plus.colour, plus.polarity) == (base, Polarity.PLUS)
        assert (minus.colour, minus.polarity) == (f"{base}/black", Polarity.MINUS)
    leads = {row[0]: "/".join(c for c in row[1:3] if c) for row in read_toml("harness")["leads"]["rows"]}
    assert leads == {
        "constant": "yellow",
        "switched": "red",
        "ground": "black",
        "illumination": "orange",
        "aerial motor": "blue",
        "amplifier remote": "blue/white",
    }


def test_every_lead_of_a_new_radio_finds_its_own_cavity_or_is_named() -> None:
    design = demo_design(6)  # the two-seater with a new radio
    table = joint_table(design)
    assert len({(j.connector.id, j.cavity.id) for j in table.joints}) == len(table.joints)
    for joint in table.joints:
        assert joint.cavity.taken_for is joint.lead.use
        assert joint.cavity.polarity is joint.lead.polarity
        assert joint.cavity.channel_id == joint.lead.channel_id
    used = {c.id for j in table.joints for c in [j.cavity]}
    left = [c for c in design.vehicle.connectors[0].cavities if c.id not in used]
    assert [e for e in table.loose if not e.missing and "plug" in e.what.lower()] or not left
    bare = apply_edits(
        design,
        [
            Edit(
                path="vehicle/connectors/plug-a/cavities/c4/use", value={"value": "something else", "basis": "measured"}
            )
        ],
    )
    ends = {e.what: e for e in joint_table(bare).loose}
    assert [what for what, e in ends.items() if e.missing] == ["Quillon S2 screen radio: ground"]
    assert ends["Quillon S2 screen radio: ground"].ending == "find its wire first"
    assert all(e.ending != "find its wire first" for e in ends.values() if not e.missing)
    assert any(f.rule == "lead-missing" and f.severity == "stop" for f in evaluate(bare).findings)


@given(st.sampled_from(sorted(SCHOOL)), st.floats(0.2, 6), st.floats(0.2, 6), st.booleans(), st.booleans())
def test_the_first_method_is_never_one_that_does_not_suit(
    school: str, car: float, lead: float, tap: bool, reversible: bool
) -> None:
    ranked = rank_methods(school, car, lead, tap=tap, reversible=reversible)
    assert {way.method for way in ranked} == set(JointMethod)
    rows = read_toml("harness")["joints"]
    suits = [
        m
        for m, _, _ in ranked
        if rows[m.value]["low_mm2"] <= min(car, lead)
        and max(car, lead) <= rows[m.value]["high_mm2"]
        and max(car, lead) / min(car, lead) <= rows[m.value]["ratio"]
        and (rows[m.value]["whole"] or not reversible)
        and m is not JointMethod.TAP
    ]
    if suits:
        assert ranked[0].method in suits
        order = [m for m in SCHOOL[school] if m in suits]
        assert not order or ranked[0].method is order[0]


def test_schools_differ_where_the_car_leaves_the_choice() -> None:
    """Plug adapters keep the car whole; permanent joints cost less and last; both are practised (common practice)."""
    first = {school: rank_methods(school, 0.75, 0.8, tap=False, reversible=False)[0].method for school in SCHOOL}
    assert first == {
        "plug adapter first": JointMethod.ADAPTER,
        "crimp": JointMethod.CRIMP,
        "solder": JointMethod.SOLDER,
    }
    whole = {rank_methods(school, 0.75, 0.8, tap=False, reversible=True)[0].method for school in SCHOOL}
    assert whole <= {JointMethod.ADAPTER, JointMethod.SCREW_LOCK}


@given(st.floats(0.2, 6), st.floats(0.2, 6))
def test_heat_shrink_goes_over_the_thick_wire_and_closes_on_the_thin(one: float, other: float) -> None:
    tube = shrink_for_mm(one, other)
    thick, thin = insulated_mm(max(one, other)), insulated_mm(min(one, other))
    assert thick > 2 * sqrt(max(one, other) / pi)  # never thinner than solid bare copper of that area (geometry)
    if tube is not None:
        assert tube > thick
        assert tube / 2 <= thin  # two-to-one tube
    else:
        assert thick * 1.2 > 2 * thin * 0.66  # only wires far apart, or between sizes, find none


def test_ferrules_are_the_next_size_up() -> None:
    # DIN 46228 part 4 rated areas, from memory
    assert [ferrule_for_mm2(a) for a in (0.5, 0.6, 1.0, 1.2, 2.5, 9.0, 60.0)] == [0.5, 0.75, 1.0, 1.5, 2.5, 10.0, None]
    with pytest.raises(OutOfRange):
        insulated_mm(0.0)


def test_a_later_radio_asks_for_a_plug_today() -> None:
    """A converter spliced in now, a radio on the same pairs later: cut twice, unless a plug adapter goes in today."""
    design = apply_edits(
        demo_design(0), [Edit(path="policy/joint_school", value="crimp"), Edit(path="intake/reversible", value=False)]
    )
    unit = {"id": "unit", "kind": "radio", "name": "Later radio", "depth_mm": 150.0, "phase": "later"}
    later = apply_edits(
        design,
        [
            Edit(op="add", path="parts", value=unit),
            Edit(path=f"links/{next(k.id for k in design.links if k.kind == 'tap')}/method", value="splice"),
        ],
    )
    joints = [j for j in joint_table(later).joints if j.phase == "now" and j.lead.use is CavityUse.SPEAKER]
    assert joints
    assert all(j.later == "Later radio" for j in joints)
    cut = apply_edits(
        later, [Edit(path=f"vehicle/connectors/radio-plug/cavities/{joints[0].cavity.id}/joint", value="crimp butt")]
    )
    speaks = [f for f in evaluate(cut).findings if f.rule == "joint-later"]
    assert len(speaks) == 1
    assert "socket" in speaks[0].text  # the loom carries a plug
    assert speaks[0].remedy is not None
    assert not [f for f in evaluate(apply_edits(cut, speaks[0].remedy.edits)).findings if f.rule == "joint-later"]


# -- what a pair reaches ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("read_ohm", "words"),
    [(1.7, "in parallel"), (7.4, "in series"), (900.0, "nothing is at the other end"), (3.6, "as the survey says"),
     (100.0, "no speaker of the survey")],
)  # fmt: skip
def test_two_four_ohm_speakers_read_as_the_trade_says(estate: Design, read_ohm: float, words: str) -> None:
    """Two 4 ohm in parallel read about 1.7, in series about 7 (common practice, no source)."""
    edits = [measured(f"vehicle/speakers/spk-{i}/impedance_ohm", 4.0) for i in ("fl", "fr", "rl", "rr")]
    design = apply_edits(estate, [*edits, measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", read_ohm)])
    circuit = next(c for c in speaker_circuits(design) if c.channel.id == "ch-fl")
    assert words in circuit.verdict


@given(st.floats(0.8, 18.0))
def test_every_group_that_could_read_so_is_listed(read_ohm: float) -> None:
    """Against all subsets of the side's speakers by Kirchhoff's laws, 75 to 105 % of nominal and the leads."""
    design = apply_edits(demo_design(0), [measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", read_ohm)])
    circuit = next(c for c in speaker_circuits(design) if c.channel.id == "ch-fl")
    left = {s.id: s for s in design.vehicle.speakers if "left" in s.name.lower()}
    wanted = set()
    for size in (1, 2):
        for group in combinations(sorted(left), size):
            spans = [
                (0.93 * r, 1.07 * r) if (r := left[n].dc_resistance_ohm.value) else (0.75 * z, 1.05 * z)
                for n in group
                if (z := left[n].impedance_ohm.value)
            ]
            for series in (False, True) if size > 1 else (False,):
                low = sum(a for a, _ in spans) if series else 1 / sum(1 / a for a, _ in spans)
                high = (sum(b for _, b in spans) if series else 1 / sum(1 / b for _, b in spans)) + 0.6
                if low <= read_ohm <= high:
                    wanted.add((group, series))
    assert {(tuple(sorted(r.speaker_ids)), r.in_series) for r in circuit.reaches} == wanted


def test_a_low_range_pair_is_thought_to_lead_to_the_door_and_a_high_one_to_the_dash(estate: Design) -> None:
    """Separate ranges (trade fact, common practice): the door carries bass, the dash treble."""
    tweeter = {
        "id": "dash-l",
        "name": "Front left dash",
        "place": "dash",
        "position": {"x_m": 1.4, "y_m": -0.6},
        "impedance_ohm": {"value": 4.0, "basis": "measured"},
    }
    known = [
        Edit(op="add", path="vehicle/speakers", value=tweeter),
        measured("vehicle/speakers/spk-fl/impedance_ohm", 4.0),
        Edit(path="vehicle/speakers/spk-fl/channel_id", value=None),
        Edit(path="vehicle/speakers/spk-rl/impedance_ohm", value={"value": 8.0, "basis": "measured"}),
    ]
    base = apply_edits(estate, [*known, measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", 3.5)])
    for band, first in (
        ("low range", "spk-fl"),
        ("high range", "dash-l"),
        ("low and mid range", "spk-fl"),
        ("mid and high range", "dash-l"),
    ):
        design = apply_edits(base, [measured("vehicle/radio/channels/ch-fl/band", band)])
        circuit = next(c for c in speaker_circuits(design) if c.channel.id == "ch-fl")
        assert circuit.reaches[0].speaker_ids == (first,), band
    centre = apply_edits(base, [Edit(path="vehicle/radio/channels/ch-fl/mix", value="left and right summed")])
    both_sides = next(c for c in speaker_circuits(centre) if c.channel.id == "ch-fl")
    assert any(
        "spk-rr" in r.speaker_ids or "spk-fr" in r.speaker_ids for r in both_sides.reaches
    )  # a summed pair may lead to either side


def test_what_is_taken_over_is_what_loads_calculates_with(estate: Design) -> None:
    edits = [measured(f"vehicle/speakers/spk-{i}/impedance_ohm", 4.0) for i in ("fl", "fr", "rl", "rr")]
    design = apply_edits(
        estate,
        [
            *edits,
            *(Edit(path=f"vehicle/speakers/spk-{i}/dc_resistance_ohm", value={}) for i in ("fl", "rl")),
            measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", 1.7),
        ],
    )
    circuit = next(c for c in speaker_circuits(design) if c.channel.id == "ch-fl")
    both = next(r for r in circuit.reaches if len(r.speaker_ids) == 2 and not r.in_series)
    after = apply_edits(design, take_reach(design, "ch-fl", both.speaker_ids))
    load = next(c for c in evaluate(after).results.channel_loads if c.channel.id == "ch-fl")
    assert load.load.value == pytest.approx(2.0)  # two 4 ohm in parallel
    assert next(c for c in speaker_circuits(after) if c.channel.id == "ch-fl").on_file is not None
    with pytest.raises(UnknownName):
        take_reach(design, "ch-fl", ("spk-fr",))
    with pytest.raises(UnknownName):
        take_reach(design, "ch-xx", ("spk-fl",))


# -- the document -----------------------------------------------------------------------------------------------------


def test_a_hunts_result_goes_into_the_map_as_measured(estate: Design) -> None:
    plug = apply_edits(estate, new_connector(estate, "Loose block", 1, 4))
    made = plug.vehicle.connectors[-1]
    hunting = apply_edits(plug, begin_hunt(plug, made.id, [c.id for c in made.cavities], ["spk-fl", "spk-fr"], 0))
    readings: list[dict[str, Any]] = [
        {"id": "r1", "kind": "one pair at a time", "wire_a_id": "w1", "wire_b_id": "w3", "speaker_id": "spk-fl"},
        {"id": "r2", "kind": "pop test", "wire_a_id": "w1", "wire_b_id": "w3", "heard": "cone moves in"},
    ]
    known = apply_edits(hunting, [Edit(op="add", path="vehicle/hunt/readings", value=r) for r in readings])
    done = apply_edits(known, put_result(known))
    pins = {c.number: c for c in done.vehicle.connectors[-1].cavities}
    assert (pins[1].channel_id, pins[1].polarity, pins[3].polarity) == ("ch-fl", Polarity.MINUS, Polarity.PLUS)
    assert pins[1].use.basis == "measured"
    assert (pins[2].channel_id, pins[2].polarity) == ("ch-fr", None)  # the rest follows, its polarity does not
    gone = apply_edits(done, [Edit(op="remove", path="vehicle/hunt/wires/w1")])
    assert gone.vehicle.hunt is not None
    assert gone.vehicle.hunt.readings == ()
    without = apply_edits(known, [Edit(op="remove", path=f"vehicle/connectors/{made.id}")])
    assert without.vehicle.hunt is not None
    assert {w.cavity_id for w in without.vehicle.hunt.wires} == {None}


def test_five_hundred_pins_hold_and_one_more_is_refused(estate: Design) -> None:
    big = apply_edits(estate, new_connector(estate, "Big", 10, 50))
    assert len(big.vehicle.connectors[-1].cavities) == 500
    assert evaluate(big, sweep_facts=True).verdict is not None
    with pytest.raises(OutOfRange):
        new_connector(estate, "Too big", 12, 60)


@pytest.mark.parametrize(("pairing", "reads_ohm", "settled"), [("series", 7.2, True), ("parallel", 7.2, False)])
def test_speakers_whose_own_pair_reads_right_belong_to_no_other(
    estate: Design, pairing: str, reads_ohm: float, settled: bool
) -> None:
    """Two of 4 ohm read 6 to 8.4 ohm in series and a quarter of that in parallel (75 to 105 % of nominal)."""
    design = apply_edits(
        estate,
        [
            Edit(path="vehicle/speakers/spk-rl/paired_with_id", value="spk-rr"),
            Edit(path="vehicle/speakers/spk-rl/pairing", value=pairing),
            Edit(path="vehicle/speakers/spk-rr/channel_id", value="ch-rl"),
            *(Edit(path=f"vehicle/speakers/spk-{s}/dc_resistance_ohm/value", value=None) for s in ("rl", "rr")),
            *(measured(f"vehicle/speakers/spk-{s}/impedance_ohm", 4.0) for s in ("rl", "rr")),
            measured("vehicle/radio/channels/ch-rl/pair_resistance_ohm", reads_ohm),
            measured("vehicle/radio/channels/ch-rr/pair_resistance_ohm", 3.6),
        ],
    )
    other = next(c for c in speaker_circuits(design) if c.channel.id == "ch-rr")
    claimed = {name for reach in other.reaches for name in reach.speaker_ids}
    assert ("spk-rr" not in claimed) == settled


# -- lettered cavities, a typed map, what ends a lead --------------------------------------------------------


def test_lettered_rows_are_called_and_found_again() -> None:
    """Rows are letters, columns numbers (common practice on connector faces): a round trip over every cavity."""
    housing = Housing(rows=3, columns=11, numbered="lettered rows")
    names = [housing.called(n) for n in range(1, housing.size + 1)]
    assert (names[0], names[10], names[11], names[-1]) == ("A1", "A11", "B1", "C11")
    assert [housing.number_of(name.lower()) for name in names] == list(range(1, 34))
    assert [housing.number_of(bad) for bad in ("D1", "A12", "A0", "", "1B", "AA")] == [None] * 6
    plain = Housing(rows=2, columns=4)
    assert (plain.called(7), plain.number_of("7"), plain.number_of("b3")) == ("7", 7, 7)
    spot = spot_of(housing, 12, "mating side")
    assert (spot.row, spot.column) == (1, 0)


def bus_car() -> Design:
    """A car with tweeters on pairs of their own and a radio plug without a switched wire."""
    car = Design(vehicle=new_vehicle("Dravel", "Heron", 2016, Body.TWO_SEATER, Hand.LEFT))
    car = apply_edits(car, add_sets(car, {"tweeter": "on a pair of its own"}))
    car = apply_edits(car, new_connector(car, "Radio plug", 2, 6, numbered="lettered rows"))
    plug = car.vehicle.connectors[0]
    typed = {
        "c1": "Dauerplus", "c2": "Masse", "c3": "CAN", "c4": "CAN", "c5": "Lenkradtasten", "c6": "leer",
        "c7": "vorne links +", "c8": "front left -", "c9": "Front tweeter left +", "c10": "Front tweeter left -",
        "c11": "vr +", "c12": "front right -",
    }  # fmt: skip
    rows = {name: {"use": use, "colour": "gy/bk" if name == "c8" else ""} for name, use in typed.items()}
    return apply_edits(car, put_map(plug, read_grid(plug, car.vehicle, rows, Basis.DOCUMENTED)))


def test_a_map_is_typed_as_a_grid_and_an_emptied_cell_clears() -> None:
    car = bus_car()
    plug = car.vehicle.connectors[0]
    by_id = {c.id: c for c in plug.cavities}
    assert (by_id["c1"].use.value, by_id["c1"].expected) == ("constant", "constant")
    assert (by_id["c7"].channel_id, by_id["c7"].polarity, by_id["c8"].tracer) == ("ch-fl", "plus", "black")
    assert by_id["c9"].channel_id == "pair-tweeter-left"
    shown = {c.id: typed_row(c, car.vehicle) for c in plug.cavities}
    assert shown["c7"]["use"] == "Front left +"
    assert read_grid(plug, car.vehicle, shown, Basis.MEASURED) == plug.cavities, "what is as shown says nothing"
    cleared = read_grid(plug, car.vehicle, {"c8": {"use": "", "colour": ""}}, Basis.MEASURED)
    gone = next(c for c in cleared if c.id == "c8")
    assert (gone.use.value, gone.expected, gone.channel_id, gone.base) == (None, None, None, None)
    seen = read_grid(plug, car.vehicle, {"c1": {"use": "switched"}}, Basis.MEASURED)
    found = next(c for c in seen if c.id == "c1")
    assert (found.use.value, found.use.basis, found.expected) == ("switched", "measured", "constant")
    with pytest.raises(EntryError, match=r"Cavity B1: .*warp"):
        read_grid(plug, car.vehicle, {"c7": {"use": "warp drive"}}, Basis.MEASURED)


def test_a_data_bus_car_gets_its_switched_wire_from_the_interface_and_the_joined_pair_is_judged() -> None:
    """Job K. Nothing at the plug is switched: the radio's red lead ends at the bus interface; bus and wheel buttons
    meet the interface; two 4 ohm speakers on one output are 2 ohm (parallel), and the tweeter would get the bass.
    """
    radio = {
        "kind": "radio",
        "id": "unit",
        "name": "Radio",
        "price": 100.0,
        "line_pairs": 2,
        "line_v": 4.0,
        "depth_mm": 120.0,
    }
    car = apply_edits(bus_car(), [Edit(op="add", path="parts", value=radio)])
    car = apply_edits(car, connect_everything(car))
    bare = evaluate(car)
    stop = next(f for f in bare.findings if f.rule == "lead-missing")
    assert "switched" in stop.title
    assert stop.remedy is not None
    assert stop.remedy.sheet == "find"
    assert next(e for e in bare.results.joints.loose if e.missing).use == "switched"
    ground = next(
        cavity_at(plug, c) for plug in car.vehicle.connectors for c in plug.cavities if c.taken_for is CavityUse.GROUND
    )
    other = {"value": "something else", "basis": "measured"}
    both = evaluate(apply_edits(car, [Edit(path=f"{ground}/use", value=other)]))
    worse = next(f for f in both.findings if f.rule == "lead-missing")
    assert worse.remedy is not None
    assert worse.remedy.sheet == "harness", "a ground comes from no interface"
    box = {"kind": "accessory", "id": "box", "name": "Interface", "category": "interface", "remote_out_limit_a": 0.5}
    boxed = apply_edits(car, [Edit(op="add", path="parts", value=box)])
    again = next(f for f in evaluate(boxed).findings if f.rule == "lead-missing")
    assert again.remedy is not None
    assert again.remedy.connect == "unit"
    done = apply_edits(boxed, end_lead(boxed, "unit", "switched", "box"))
    assert {k.id for k in apply_edits(boxed, connect_everything(boxed)).links} == {k.id for k in done.links}
    answer = evaluate(done)
    assert not [f for f in answer.findings if f.rule in ("lead-missing", "feed-not-on-plug")]
    ends = {e.use: e.ending for e in answer.results.joints.loose}
    assert ends[CavityUse.SWITCHED] == "to Interface, its switched output"
    at_box = {j.connector.called(j.cavity): j.lead.use for j in answer.results.joints.joints if j.unit_id == "box"}
    assert at_box == {"A3": "data bus", "A4": "data bus", "A5": "steering-wheel buttons"}
    load = next(r for r in answer.results.channel_loads if r.group[0].id == "ch-fl")
    assert [c.id for c in load.group] == ["ch-fl", "pair-tweeter-left"]
    assert load.load.value == pytest.approx(2.0)
    rules = {(f.rule, f.severity.value) for f in answer.findings}
    assert {("channel-load", "stop"), ("tweeter-unprotected", "stop")} <= rules
    tweeters = [d.speaker.id for d in answer.results.drives if d.tweeter]
    cap = {"id": "cap", "kind": "series capacitor", "name": "Cap", "capacitance_uf": 4.7, "at_ids": tweeters}
    parted = evaluate(apply_edits(done, [Edit(op="add", path="parts", value=cap)]))
    for one, told in ((answer, True), (parted, False)):
        ranges = list(joined_ranges(one.results.channel_loads, one.results.drives))
        assert ranges
        assert ["would get the bass" in joined.words for joined in ranges] == [told] * len(ranges)
    with pytest.raises(UnknownName):
        end_lead(done, "unit", "switched", "radio-switched")  # the plug has no such wire


def test_two_maps_of_one_box_that_claim_the_same_wire_and_a_cameras_leads() -> None:
    car = bus_car()
    twin = apply_edits(car, new_connector(car, "Second plug", 1, 3))
    plug = twin.vehicle.connectors[-1]
    rows = {"c1": {"use": "front left +"}, "c2": {"use": "video"}, "c3": {"use": "reverse light"}}
    both = apply_edits(twin, put_map(plug, read_grid(plug, twin.vehicle, rows, Basis.MEASURED)))
    stops = [f.title for f in evaluate(both).findings if f.rule == "joint-double" and "Second plug 1" in f.title]
    assert stops == ["Front left + on Radio plug B1 and on Second plug 1"]
    inline = apply_edits(both, [Edit(path=f"vehicle/connectors/{plug.id}/at_id", value=None)])
    assert not [f for f in evaluate(inline).findings if "Second plug 1" in f.title], "a plug in the loom may repeat it"
    for screen in (True, False):
        radio = {"kind": "radio", "id": "unit", "name": "Radio", "depth_mm": 120.0, "screen": screen}
        joints = evaluate(apply_edits(inline, [Edit(op="add", path="parts", value=radio)])).results.joints.joints
        taken = {j.lead.use for j in joints if j.connector.id == plug.id}
        assert ({CavityUse.VIDEO, CavityUse.REVERSE} <= taken) == screen


def test_a_joint_holds_two_wires_as_far_apart_as_it_is_made_for_and_no_farther() -> None:
    rows = table("harness", "joints")
    for method in JointMethod:
        thin, ratio = rows[method.value]["low_mm2"], rows[method.value]["ratio"]
        for apart, refused in ((ratio, False), (1.02 * ratio, True)):
            if apart * thin > rows[method.value]["high_mm2"]:
                continue
            ranked = rank_methods(next(iter(SCHOOL)), thin, apart * thin, tap=False, reversible=False)
            judged = next(j for j in ranked if j.method is method)
            assert ("times apart" in judged.reason) is refused, (method, apart)


def test_joints_of_a_new_radio_through_an_adapter_want_one_among_the_parts() -> None:
    """The shop's school takes an adapter for every lead; until one is bought that is a stop and a line of the order."""
    design = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == "Screen radio, dash uncut"))
    found = [f for f in evaluate(design).findings if f.rule == "adapter-missing"]
    assert [f.title.partition(" by plug")[0] for f in found] == ["10 joints of Quillon S2 screen radio"]
    rows = [row.note for row in order_list(evaluate(design).results) if row.what.startswith("Plug adapter")]
    assert rows == ["leads of Quillon S2 screen radio"]
    assert found[0].remedy is not None
    joined = apply_edits(design, found[0].remedy.edits)
    bought = apply_edits(design, added(design, next(t for t in catalogue() if t["name"].startswith("Radio plug"))))
    for mended in (joined, bought):
        results = evaluate(mended)
        assert not [f for f in results.findings if f.rule == "adapter-missing"]
        methods = {j.method for j in results.results.joints.joints}
        assert (JointMethod.ADAPTER in methods) is (mended is bought)
    kept_whole = apply_edits(design, [Edit(path="intake/reversible", value=True)])
    (said,) = [f for f in evaluate(kept_whole).findings if f.rule == "adapter-missing"]
    assert said.remedy is not None
    assert not said.remedy.edits
