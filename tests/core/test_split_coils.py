"""The two coils of one driver on two channels: half of it each, one signal, every coil once."""

from __future__ import annotations

from typing import Any

import pytest

from core.test_channels import FOUR
from core.test_spreads import subs_on_four
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads.coil_split import split_of
from ohmack.core.planning.laying import follow
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design


def dual(estate: Design, **changes: Any) -> Design:
    """One subwoofer of 2 × 4 Ω on the first of four channels alike."""
    design = subs_on_four(estate, 1, 4.0, 4.0, takes_w=200.0)
    return apply_edits(design, [Edit(path=f"parts/amp/{name}", value=value) for name, value in changes.items()])


def split(design: Design) -> Design:
    load = evaluate(design).results.loads[0]
    offered = split_of(design, load)
    assert offered is not None
    return apply_edits(design, follow(design, offered.edits))


def said(design: Design) -> list[tuple[str, str]]:
    return [(f.severity.value, f.title) for f in evaluate(design).findings if f.rule == "split-coils"]


def test_each_coil_on_a_channel_of_its_own_and_back(estate: Design) -> None:
    """4 Ω a channel instead of 2 or 8; each coil takes half of what the driver takes, and the box gets both."""
    plain = dual(estate)
    apart = split(plain)
    results = evaluate(apart).results
    loads = results.loads
    assert [load.load.value for load in loads] == [4.0, 4.0]
    assert [load.link.channel for load in loads] == [1, 2]
    assert [load.allowed_w for load in loads] == [100.0, 100.0]
    rated = next(row["power_w"] for row in FOUR["ratings"] if row["load_ohm"] == 4.0)
    each = loads[0].power.value
    assert each == loads[1].power.value
    assert each is not None
    assert each >= rated * 0.5  # the four channels of the estate's amplifier, whatever its table
    assert [severity for severity, _ in said(apart)] == ["note"]
    assert len(results.cables) == 2  # a cable a coil
    back = split(apart)
    assert [(k.coils, k.channel) for k in back.links if k.kind == "speaker"] == [((), 1)]
    again = evaluate(back).results.loads[0]
    assert again.load.value == evaluate(plain).results.loads[0].load.value


def test_two_signals_on_one_cone_are_a_stop(estate: Design) -> None:
    apart = split(dual(estate))
    second = next(k.id for k in apart.links if k.kind == "speaker" and k.coils == (2,))
    for path, value, word in (
        (f"links/{second}/low_pass_hz", 55.0, "filters differ"),
        (f"links/{second}/coils", [1], "two outputs"),
        (f"links/{second}/coils", [3], "no coil 3"),
    ):
        found = said(apply_edits(apart, [Edit(path=path, value=value)]))
        assert any(severity == "stop" and word in title for severity, title in found), (path, found)
    stronger = {"bridged_ratings": [], "lowest_bridged_ohm": None, "channel_count": 1, "further_count": 3,
                "further_lowest_ohm": 2.0, "further_ratings": [{"load_ohm": 4.0, "power_w": 400.0}]}  # fmt: skip
    tree = next(apart.parts_of(Amplifier)).model_dump(mode="json") | stronger
    unlike = [Edit(path="parts/amp", value=tree)]
    assert any("not of a kind" in title for _, title in said(apply_edits(apart, unlike)))
    lone = apply_edits(apart, [Edit(op="remove", path=f"links/{second}")])
    assert [severity for severity, title in said(lone) if "hangs on nothing" in title] == ["watch"]


def test_it_is_offered_only_where_it_can_be(estate: Design) -> None:
    def offered(design: Design) -> object:
        return split_of(design, evaluate(design).results.loads[0])

    assert offered(dual(estate)) is not None
    assert offered(estate) is None  # one channel
    assert (
        offered(apply_edits(dual(estate), [Edit(path="parts/sub/coils", value=[{"impedance_ohm": 1.0}] * 2)])) is None
    )
    assert offered(subs_on_four(estate, 1, 4.0)) is None
    at_the_limit = dual(estate, ratings=[{"load_ohm": 2.0, "power_w": 90.0}, {"load_ohm": 4.0, "power_w": 60.0}],
                        lowest_load_ohm=2.0)  # fmt: skip
    coils = [Edit(path="parts/sub/coils", value=[{"impedance_ohm": 2.0}] * 2)]
    assert offered(apply_edits(at_the_limit, coils)) is not None, "2 Ω a coil where 2 Ω is permitted"
    assert offered(subs_on_four(estate, 2, 4.0, 4.0)) is None


def test_the_box_is_the_same_for_two_coils_on_two_channels(estate: Design) -> None:
    """Both coils at their volts are one driver with its coils in parallel at those volts: as much power, as much
    travel.
    """
    design = dual(estate)
    boxes = evaluate(split(design)).results.boxes
    (one,) = [b for b in boxes if b.solved is not None] or [None]
    if one is None:
        pytest.skip("the estate's driver has no small-signal papers")
    assert one.solved is not None
    load = evaluate(split(design)).results.loads[0]
    assert one.solved.drive.nominal_ohm == pytest.approx(2.0)
    assert one.solved.full_w == pytest.approx(2 * min(load.power.value or 0.0, load.allowed_w or 0.0))


def test_one_speaker_of_the_car_on_two_outputs_is_a_stop_and_twice_on_one_is_counted_as_two() -> None:
    """Two outputs drive each other; one press takes the last wire off again."""
    design = demo_design(13)
    for channel, words in ((1, "channel 1 of Tessel Five 75+350 twice"), (3, "and channel 3 of Tessel Five 75+350")):
        again = {"id": "again", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": channel}
        both = apply_edits(design, [Edit(op="add", path="links", value=again)])
        (found,) = [f for f in evaluate(both).findings if f.rule == "driven-twice"]
        assert found.title.startswith("Front left door hangs on channel 1 of Tessel Five 75+350")
        assert found.title.endswith(words)
        assert ("drive each other" in found.text) == (channel == 3)
        assert found.remedy is not None
        assert apply_edits(both, found.remedy.edits) == design


def test_speakers_too_low_for_their_output_are_looked_for_in_the_place_of_those_there() -> None:
    """3 Ω woofers on outputs that permit 4 Ω; another pair of the plan is not named."""
    woofers = next(tree for tree in catalogue() if tree["name"] == "Morrowick W65 woofer, pair")
    design = demo_design(3)
    ours = {**woofers, "id": "low", "at_ids": ["spk-rl", "spk-rr"]}
    works = next(m for m in design.vehicle.modules if m.channels)
    permits = measured(f"vehicle/modules/{works.id}/lowest_load_ohm", 4.0)
    low = apply_edits(design, [Edit(op="add", path="parts", value=ours), permits])
    found = [f for f in evaluate(low).findings if f.rule == "channel-load" and "wants" in f.title]
    assert found
    assert {f.remedy.query for f in found if f.remedy is not None} == {"kind=driver&instead=low"}
