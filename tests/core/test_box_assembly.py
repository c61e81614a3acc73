"""Boxes of a whole design: what drives them, how their drivers are wired, what is built, what is proposed."""

from __future__ import annotations

from math import pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.test_everyday_jobs import empty, with_parts
from ohmack.core.box.cabin import cabin_length_m, room_for_a_box_l
from ohmack.core.box.cutting import CutSheet, centre_of_mass, cut_sheet
from ohmack.core.box.judged import BoxResult
from ohmack.core.box.proposals import edits_of, proposals
from ohmack.core.box.sampled import samples
from ohmack.core.box.suits import suited_drivers
from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.vehicle import Body
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.physics.alignments import closed_q, tuned_box
from ohmack.core.physics.boxes import Chamber, Enclosure, curves, lower_reach_hz
from ohmack.core.physics.fitting import room_in_l
from ohmack.core.physics.round_openings import go_in
from ohmack.core.physics.small_signal import SmallSignal
from ohmack.demo.jobs import demo_design, demo_jobs

WEDGE = next(n for n, job in enumerate(demo_jobs()) if job.title == "A box across the back wall")


def put(**values: object) -> list[Edit]:
    return [Edit(path=f"parts/box/{name.replace('__', '/')}", value=value) for name, value in values.items()]


def box_of(design: Design) -> tuple[Evaluation, BoxResult]:
    evaluation = evaluate(design)
    return evaluation, evaluation.results.boxes[0]


def test_a_box_plays_at_what_its_output_gives_at_most_what_its_driver_takes(estate: Design) -> None:
    """√(P Z) of the wired load, P the smaller of amplifier and driver (textbook); its circuit is what those volts make
    of the driver.
    """
    evaluation, one = box_of(estate)
    load = evaluation.results.loads[0]
    assert load.power.value > load.allowed_w  # 500 W for a driver that takes 450 W
    assert one.solved is not None
    assert one.solved.plain.volts == pytest.approx(sqrt(load.allowed_w * load.chosen.load_ohm))
    assert one.solved.driver.re_ohm == pytest.approx(load.chosen.meter_ohm)
    weaker = apply_edits(estate, [Edit(path="parts/amp/ratings", value=[{"load_ohm": 2.0, "power_w": 200.0}])])
    assert box_of(weaker)[1].solved.plain.volts == pytest.approx(20.0)  # type: ignore[union-attr]
    again = curves(one.solved.driver, Enclosure(Chamber(0.028)), np.array([40.0]), one.solved.plain.volts)
    assert one.solved.loudest_db <= again.level_db[0] + 0.05


def test_how_the_coils_are_wired_changes_the_power_and_not_the_response(estate: Design) -> None:
    """Losses, resonance and reach belong to the driver (textbook); in series the same amplifier gives less."""
    _, parallel = box_of(estate)
    rows = [{"load_ohm": 2.0, "power_w": 400.0}, {"load_ohm": 8.0, "power_w": 100.0}]
    rated = apply_edits(estate, [Edit(path="parts/amp/ratings", value=rows)])
    _, low = box_of(apply_edits(rated, [Edit(path="links/speaker-sub/wiring", value="parallel(1,2)")]))
    _, high = box_of(apply_edits(rated, [Edit(path="links/speaker-sub/wiring", value="series(1,2)")]))
    for one in (low, high):
        assert one.solved is not None
        assert one.solved.reach_hz == pytest.approx(parallel.solved.reach_hz)  # type: ignore[union-attr]
    assert low.solved.travel_mm == pytest.approx(2 * high.solved.travel_mm)  # type: ignore[union-attr]
    level = low.solved.curves.level_db - high.solved.curves.level_db  # type: ignore[union-attr]
    assert level == pytest.approx(np.full(len(level), 20 * np.log10(2)))


def test_two_in_one_chamber_two_in_their_own_and_two_isobaric(estate: Design) -> None:
    """Two drivers in twice the air move as one in its own; isobaric in half of it (textbook)."""
    _, alone = box_of(apply_edits(estate, put(net_volume_l=20.0)))
    sub = estate.part("sub")
    assert sub is not None
    second = sub.model_copy(update={"id": "sub2", "name": "another"}).model_dump(mode="json")
    pair = apply_edits(estate, [Edit(op="add", path="parts", value=second)])
    link = estate.model_dump(mode="json")["links"]
    own = next(k for k in link if k["id"] == "speaker-sub") | {"id": "speaker-sub2", "to_id": "sub2", "wiring": ""}
    pair = apply_edits(pair, [Edit(op="add", path="links", value=own)])
    _, common = box_of(apply_edits(pair, put(net_volume_l=40.0)))
    _, isobaric = box_of(apply_edits(pair, put(net_volume_l=10.0, chambers="isobaric pairs")))
    assert alone.solved is not None
    for one in (common, isobaric):
        assert one.solved is not None, one.reach
        assert one.solved.reach_hz == pytest.approx(alone.solved.reach_hz, rel=1e-3)
    assert common.solved.driver.sd_m2 == pytest.approx(2 * isobaric.solved.driver.sd_m2)  # type: ignore[union-attr]
    odd = evaluate(apply_edits(estate, put(chambers="isobaric pairs"))).figures["box/reach_hz"]
    assert "an even number in isobaric pairs" in odd.refused
    _, unlike = box_of(apply_edits(pair, [Edit(path="parts/sub2/fs_hz", value=50.0)]))
    assert unlike.unlike == "the drivers in it are not alike"
    assert unlike.solved is None


def test_two_boxes_on_one_output_are_each_half_of_it(estate: Design) -> None:
    """Two alike drivers in parallel on one output, a box each: each is one driver at the output's volts (textbook);
    what is not alike is not judged.
    """
    sub, box = estate.part("sub"), estate.part("box")
    assert sub is not None
    assert box is not None
    link = next(k for k in estate.model_dump(mode="json")["links"] if k["id"] == "speaker-sub")
    second = sub.model_copy(update={"id": "sub2", "name": "another"}).model_dump(mode="json")
    beside = box.model_copy(update={"id": "box2", "name": "the other box"}).model_dump(mode="json")
    rated = [{"load_ohm": 1.0, "power_w": 800.0}, {"load_ohm": 2.0, "power_w": 400.0}]
    ready = [Edit(path="parts/amp/lowest_load_ohm", value=1.0), Edit(path="parts/amp/ratings", value=rated)]
    alone = apply_edits(estate, ready)
    two = [Edit(op="add", path="parts", value=tree) for tree in (second, beside)]
    two.append(Edit(op="add", path="links", value=link | {"id": "speaker-sub2", "to_id": "sub2", "wiring": ""}))
    both = apply_edits(alone, [*two, Edit(path="links/speaker-sub/wiring", value="parallel(A1,A2,B1,B2)")])
    _, single = box_of(alone)
    first, other = evaluate(both).results.boxes
    assert single.solved is not None
    for one in (first, other):
        assert one.solved is not None, one.unlike
        assert one.solved.driver.sd_m2 == pytest.approx(single.solved.driver.sd_m2)
        assert one.solved.drive.nominal_ohm == pytest.approx(2.0)
        assert one.solved.travel_mm == pytest.approx(single.solved.travel_mm, rel=1e-6)
    third = apply_edits(both, [Edit(path="parts/sub2/qes", value=0.9)])
    assert evaluate(third).results.boxes[0].unlike == "its output drives something else besides"
    assert any(f.rule == "box-not-judged" for f in evaluate(third).findings)


def test_a_subsonic_filter_holds_the_cone_of_a_vented_box() -> None:
    """Below its tuning a vented box lets go of the cone (textbook); the filter at the tuning is counted."""
    evaluation, one = box_of(demo_design(WEDGE))
    assert one.solved is not None
    assert evaluation.figures["amp/high_pass_hz"].value == 32.0
    below = one.solved.plain.frequency_hz < 24
    assert (one.solved.curves.excursion_m[below] < 0.4 * one.solved.plain.excursion_m[below]).all()
    tuned = apply_edits(demo_design(WEDGE), put(tuning_hz=36.0))
    assert evaluate(tuned).figures["amp/high_pass_hz"].value == 36.0


def test_a_vent_by_its_length_tunes_as_one_by_its_tuning() -> None:
    """The computed length typed in gives the tuning back; three quarters of it tunes higher."""
    evaluation, _ = box_of(demo_design(WEDGE))
    length = evaluation.figures["box/vent_mm"].value
    typed, _ = box_of(apply_edits(demo_design(WEDGE), put(vents__length_mm=length)))
    assert typed.figures["box/tuned_hz"].value == pytest.approx(32.0)
    short, _ = box_of(apply_edits(demo_design(WEDGE), put(vents__length_mm=0.75 * length)))
    assert short.figures["box/tuned_hz"].value > 34
    assert short.figures["box/reach_hz"].value != pytest.approx(evaluation.figures["box/reach_hz"].value)


def test_net_volume_is_what_the_boards_leave() -> None:
    """Gross by hand, less the driver, the pipe and half a brace."""
    evaluation, one = box_of(demo_design(WEDGE))
    lean = sqrt(0.08**2 + 0.44**2) / 0.44
    depth = 0.30 - 0.08 / 2 - 2 * 0.018 - 0.018 * lean  # the middle height; a double front
    inside = (0.86 - 0.036) * (0.44 - 0.036)
    pipe = pi * 0.0625**2 * evaluation.figures["box/vent_mm"].value / 1000
    by_hand = 1000 * (inside * depth - pipe - inside * 0.018 / 2) - 2.8
    assert evaluation.figures["box/net_l"].value == pytest.approx(by_hand)
    assert one.made is not None
    assert one.made.board_area_m2 == pytest.approx(sum(p.length_m * p.width_m for p in one.made.panels))


def test_two_drivers_want_two_openings_that_go_beside_each_other() -> None:
    """Two of 281 mm and 28 mm between their flanges are 590 mm (plane geometry); a bought box has as many openings as
    its papers say.
    """
    names = ("Tessel M1200", "Morrowick 12 D2", "Morrowick 12 D2", "Box built in the shop")
    made = with_parts(empty(Body.ESTATE), *names)
    design = apply_edits(made, put(length_m=0.36, width_m=0.44, height_m=0.36, net_volume_l=40.0))

    def said(design: Design) -> list[Finding]:
        return [f for f in evaluate(design).findings if f.rule == "box-openings"]

    assert not said(made), "one that is built comes as large as its drivers want"
    (stopped,) = said(design)
    assert stopped.severity is Severity.STOP
    assert stopped.title == (
        "2 drivers want 590 mm beside each other, the front of Box built in the shop is 404 × 324 mm inside its boards"
    )
    assert stopped.remedy is not None
    assert stopped.remedy.label == "Make it 627 mm wide"
    assert not said(apply_edits(design, stopped.remedy.edits))
    assert not said(apply_edits(design, put(chambers="isobaric pairs"))), "two share one opening"
    (low,) = said(apply_edits(design, put(height_m=0.25)))
    assert low.remedy is not None
    assert low.remedy.label.startswith("Build it "), "no width helps a front of 214 mm"
    built = apply_edits(apply_edits(design, put(height_m=0.25)), low.remedy.edits)
    assert not {"box-openings", "box-driver-fits", "box-volume"} & {f.rule for f in evaluate(built).findings}
    (wedge,) = said(apply_edits(design, [*put(height_m=0.25), Edit(path="parts/box/boards/top_length_m", value=0.3)]))
    assert wedge.remedy is not None
    assert wedge.remedy.label == "Look at its size", "a wedge stays one"
    cornerwise = apply_edits(design, put(width_m=0.56, height_m=0.56))
    assert not said(cornerwise), "hypot(524 - 281, 524 - 281) is 344, more than 309"
    assert said(apply_edits(design, put(width_m=0.52, height_m=0.52)))
    for unknown, lacks in (
        (put(height_m=None), "the box's height"),
        ([Edit(path="parts/sub-2/cut_out_mm", value=None)], "a cut-out"),
    ):
        (asked,) = said(apply_edits(design, unknown))
        assert (asked.severity, asked.title) == (
            Severity.WATCH,
            f"Nobody judged whether 2 drivers go into the front of Box built in the shop: {lacks} is not on file",
        )
    bought = with_parts(empty(Body.ESTATE), *names[:3], "Cooperage 28 closed")
    assert [f.title for f in said(bought)] == ["2 drivers into Cooperage 28 closed, which has 1 opening"]
    assert not said(apply_edits(bought, put(openings=2)))
    assert not said(with_parts(empty(Body.ESTATE), names[0], names[1], "Cooperage 28 closed"))


@given(st.lists(st.floats(50.0, 400.0), min_size=1, max_size=4), st.floats(100.0, 1500.0), st.floats(100.0, 900.0))
def test_openings_that_go_in_have_room(diameters: list[float], width: float, height: float) -> None:
    """By area and by length no claim is too bold; a board lengthened until they stand in a row always does."""
    if go_in(diameters, width, height, 25.0):
        assert max(diameters) <= min(width, height)
        assert sum(pi * (d / 2) ** 2 for d in diameters) <= width * height * pi / sqrt(12)  # densest packing: textbook
    assert go_in(diameters, sum(diameters) + 25.0 * (len(diameters) - 1) + 1e-6, max(diameters), 25.0)


def test_the_cut_sheet_has_every_panel_and_the_openings_and_its_weight_sits_low_in_front() -> None:
    """A wedge with a double front: nine panels, its centre below the middle and before it."""
    box = demo_design(WEDGE).part("box")
    assert isinstance(box, Box)
    subs = box_of(demo_design(WEDGE))[1].subs
    sheet = cut_sheet(box, subs)
    assert isinstance(sheet, CutSheet)
    assert sorted(p.panel.name for p in sheet.nest.placed) == sorted(p.name for p in sheet.panels)
    assert [hole.diameter_mm for hole in sheet.openings] == [281.0, 125.0]
    assert sheet.boards_kg < 750 * sheet.made.wood_m3
    height, behind = centre_of_mass(sheet, subs, box.mass_kg)
    assert height < 0.22
    assert behind < 0.15
    assert cut_sheet(box.model_copy(update={"height_m": None}), subs) is None


def test_a_proposal_taken_is_the_box_that_was_shown(estate: Design) -> None:
    """Every box of the list, taken, reaches as low as the list said; closed ones have the Q they name."""
    _, one = box_of(estate)
    assert one.solved is not None
    room = room_for_a_box_l(estate, "box")
    assert room is not None
    assert room < 1000 * 1.02 * 1.04 * 0.58
    listed = proposals(one.solved.driver, one.solved.drive, one.box.net_volume_l, room)
    assert len({p.words for p in listed}) == len(listed) >= 4
    small, unmeasured = (
        {p.words for p in proposals(one.solved.driver, one.solved.drive, one.box.net_volume_l, litres)}
        for litres in (40.0, None)
    )
    assert "closed, all the space has room for" in small - unmeasured
    for proposal in listed:
        evaluation, taken = box_of(apply_edits(estate, edits_of(one.box, proposal)))
        assert taken.solved is not None
        wanted = proposal.solved.reach_hz
        assert wanted is None or evaluation.figures["box/reach_hz"].value == pytest.approx(wanted, rel=0.01)
        if proposal.q is not None:
            assert evaluation.figures["box/q"].value == pytest.approx(proposal.q, abs=0.01)
        if proposal.pipe is not None:
            assert proposal.pipe.length_mm <= 1300 * (proposal.net_l / 1000) ** (1 / 3) + 1e-6
            assert evaluation.figures["box/vent_mm"].value == pytest.approx(proposal.pipe.length_mm, rel=0.02)
            speed = evaluation.figures["box/air_speed_m_s"].value
            assert speed == pytest.approx(proposal.pipe.air_speed_m_s, rel=0.03)


def test_the_room_for_a_box_is_what_boards_and_drivers_leave() -> None:
    """By hand: 1.0 by 0.5 by 0.4 m in 25 mm boards is 0.95 by 0.45 by 0.35 m inside, 149.6 l; a driver takes 5 of
    them.
    """
    assert room_in_l(1.0, 0.5, 0.4, 0.025, 5.0) == pytest.approx(149.625 - 5.0)
    assert room_in_l(1.0, 0.5, 0.05, 0.025, 0.0) == 0.0
    assert room_in_l(0.2, 0.2, 0.2, 0.019, 5.0) == 0.0  # 4.3 l: less than the driver takes


def test_an_open_car_has_no_cabin_and_a_hatch_less_than_its_length() -> None:
    for number in range(len(demo_jobs())):
        vehicle = demo_design(number).vehicle
        cabin = cabin_length_m(vehicle)
        assert (cabin is None) == (vehicle.body.value in ("roadster", "convertible", "cart"))
        assert cabin is None or 0.5 < cabin < 0.8 * (vehicle.length_m.value or 6.0)


def test_a_box_names_the_drivers_it_makes_flat() -> None:
    """Each of them, put into it, is 3 dB down where theory says: at fc when closed, at the tuning when vented."""
    closed = Box(id="b", name="B", net_volume_l=30.0, mass_kg=10)
    vented = closed.model_copy(update={"box_type": "vented", "tuning_hz": 35.0})
    for suits in suited_drivers(closed):
        driver = SmallSignal(30.0, 1e6, suits.qts, suits.vas_l / 1000, 0.03, 3.5)
        assert closed_q(driver, 0.03) == pytest.approx(0.7071, abs=1e-3)
    (flat,) = suited_drivers(vented)
    assert flat.fs_hz is not None
    driver = SmallSignal(flat.fs_hz, 1e6, flat.qts, flat.vas_l / 1000, 0.03, 3.5)
    found = curves(driver, tuned_box(0.03, 35.0, 1e7), np.geomspace(10, 400, 400), 1.0)
    assert found.response_db.max() < 0.05
    assert lower_reach_hz(found) == pytest.approx(35.0, rel=0.01)
    assert suited_drivers(closed.model_copy(update={"box_type": "bandpass"})) == ()


def test_stuffing_acts_as_more_air_and_a_bandpass_wants_its_front_chamber(estate: Design) -> None:
    """Full stuffing is 18 % more volume (common practice); a bandpass box without a front is asked for it."""
    stuffed, _ = box_of(apply_edits(estate, put(stuffing="full")))
    larger, _ = box_of(apply_edits(estate, put(net_volume_l=28.0 * 1.18)))
    for name in ("box/reach_hz", "box/travel_mm", "box/q"):
        assert stuffed.figures[name].value == pytest.approx(larger.figures[name].value)
    band = apply_edits(estate, put(box_type="bandpass", tuning_hz=50.0, vents__diameter_mm=100.0))
    missing = evaluate(band).figures["box/reach_hz"].missing
    assert [gap.path for gap in missing] == ["parts/box/front_volume_l"]
    whole, one = box_of(apply_edits(band, put(front_volume_l=20.0)))
    assert one.solved is not None
    assert one.solved.enclosure.front is not None
    assert whole.figures["box/vent_mm"].value > 0
    passive = apply_edits(estate, put(box_type="passive radiator"))
    asked = {gap.path for gap in evaluate(passive).figures["box/reach_hz"].missing}
    assert asked == {f"parts/box/radiators/{name}" for name in ("area_cm2", "mass_g", "air_l")}
    given = put(radiators__area_cm2=480.0, radiators__mass_g=350.0, radiators__air_l=80.0, radiators__travel_mm=8.0)
    _, cone = box_of(apply_edits(passive, given))
    assert cone.solved is not None
    assert "radiator" in cone.solved.most.binds


CORNERS: dict[str, list[object]] = {
    "parts/box/box_type": ["closed", "vented", "passive radiator", "bandpass"],
    "parts/box/net_volume_l": [0.01, 28.0, 900.0], "parts/box/front_volume_l": [None, 0.1, 20.0],
    "parts/box/tuning_hz": [None, 6.0, 33.0, 190.0], "parts/box/chambers": ["one chamber", "isobaric pairs"],
    "parts/box/vents/shape": ["round", "slot"], "parts/box/vents/diameter_mm": [None, 5.0, 100.0, 1400.0],
    "parts/box/vents/width_mm": [None, 300.0], "parts/box/vents/height_mm": [None, 1.0, 50.0],
    "parts/box/vents/length_mm": [None, 1.0, 1400.0], "parts/box/radiators/area_cm2": [None, 500.0],
    "parts/box/radiators/mass_g": [None, 1.0, 400.0], "parts/box/radiators/air_l": [None, 80.0],
    "parts/box/boards/thickness_mm": [None, 3.0, 18.0, 60.0], "parts/box/boards/top_length_m": [None, 0.05, 2.9],
    "parts/box/length_m": [0.02, 0.3, 2.9], "parts/box/height_m": [None, 0.05, 0.4],
    "parts/sub/fs_hz": [None, 6.0, 199.0], "parts/sub/qms": [0.01, 5.0], "parts/sub/qes": [0.01, 0.5, 90.0],
    "parts/sub/vas_l": [0.01, 50.0, 1000.0], "parts/sub/xmax_mm": [None, 0.1, 12.0],
    "parts/sub/displaced_l": [None, 0.0, 50.0],
}  # fmt: skip


@settings(deadline=None, max_examples=60)
@given(st.dictionaries(st.sampled_from(sorted(CORNERS)), st.integers(0, 3), min_size=2, max_size=9))
def test_no_box_however_typed_ends_in_an_error_or_a_silent_number(picked: dict[str, int]) -> None:
    """Every figure has a value, or says what is missing or why it is refused; lists, curves and cut sheets are made."""
    design = demo_design(WEDGE)
    for path, which in picked.items():
        design = apply_edits(design, [Edit(path=path, value=CORNERS[path][which % len(CORNERS[path])])])
    evaluation, one = box_of(design)
    for name, figure in evaluation.figures.items():
        if name.startswith("box/"):
            assert figure.value is not None or figure.missing or figure.refused, name
            assert figure.value is None or np.isfinite(figure.value), name
    if one.solved is not None:
        assert proposals(one.solved.driver, one.solved.drive, one.box.net_volume_l, 200.0) is not None
        assert np.isfinite(one.solved.most.level_db).all()
    sheet = cut_sheet(one.box, one.subs)
    if isinstance(sheet, CutSheet):
        assert all(np.isfinite(centre_of_mass(sheet, one.subs, one.box.mass_kg)))


def test_the_table_is_read_off_the_curves() -> None:
    """At a computed frequency the table has what was computed there."""
    _, one = box_of(demo_design(WEDGE))
    assert one.solved is not None
    rows = {row.hz: row for row in samples(one.solved)}
    near = int(abs(one.solved.curves.frequency_hz - 63.0).argmin())
    assert rows[63.0].level_db == pytest.approx(float(one.solved.curves.level_db[near]), abs=0.3)
    assert rows[63.0].travel_mm == pytest.approx(1000 * float(one.solved.curves.excursion_m[near]), rel=0.05)
    assert rows[63.0].delay_ms > rows[125.0].delay_ms
    assert rows[40.0].most_db == pytest.approx(one.solved.loudest_db, abs=1e-6)


@pytest.mark.parametrize("name", ["fs_hz", "qms", "qes", "vas_l", "sd_cm2"])
def test_without_any_one_parameter_nothing_is_claimed(name: str) -> None:
    sub = next(demo_design(WEDGE).parts_of(Subwoofer)).id
    evaluation, one = box_of(apply_edits(demo_design(WEDGE), [Edit(path=f"parts/{sub}/{name}", value=None)]))
    assert one.solved is None
    assert "box-not-judged" in {f.rule for f in evaluation.findings if f.about == one.box.id}


def test_vents_that_do_not_go_into_the_front_beside_the_driver() -> None:
    """By hand, inside 404 × 324 mm with a hole of 281 mm and 28 mm between: a vent of 120 mm goes in cornerwise,
    hypot(203.5, 123.5) = 238 over 200.5 + 28; one of 150 mm does not, hypot(188.5, 108.5) = 217 under 215.5 + 28. A
    slot along an edge takes its height and a board of 18 mm.
    """
    design = with_parts(empty(Body.ESTATE), "Tessel M1200", "Morrowick 12 D2", "Box built in the shop")
    vented = apply_edits(design, put(box_type="vented", tuning_hz=32.0))

    def said(**vents: object) -> list[str]:
        tried = apply_edits(
            vented, [Edit(path=f"parts/box/vents/{name}", value=value) for name, value in vents.items()]
        )
        return [f.title for f in evaluate(tried).findings if f.rule == "box-vents"]

    unknown = "Nobody judged the vents of Box built in the shop: their size is not on file"
    assert said() == said(shape="slot", width_mm=400.0) == [unknown]
    assert not said(diameter_mm=120.0)
    assert said(diameter_mm=150.0) == [
        "1 vent of 150 mm does not go into the front of Box built in the shop beside 281 mm"
    ]
    assert not said(diameter_mm=75.0, count=2), "in a row of their own under the driver"
    assert said(diameter_mm=120.0, count=2)[0].startswith("2 vents of 120 mm do not go")
    assert not said(shape="slot", width_mm=400.0, height_mm=20.0)
    assert said(shape="slot", width_mm=400.0, height_mm=30.0)
    assert said(shape="slot", width_mm=410.0, height_mm=20.0), "wider than the front"
    closed = apply_edits(vented, [*put(box_type="closed"), Edit(path="parts/box/vents/diameter_mm", value=150.0)])
    assert not [f for f in evaluate(closed).findings if f.rule == "box-vents"]
