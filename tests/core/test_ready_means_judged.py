"""Ready means judged: over generated designs, nothing is green that lacks a figure, a wire, a load, a supply, a
place or an answer.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design, Fact
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import design_facts
from ohmack.core.errors import BadDocument, UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import Retracing, evaluate
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue, catalogue_part, measured
from ohmack.demo.jobs import demo_design, demo_jobs

DESIGNS = [demo_design(n) for n in range(len(demo_jobs()))]
BARE = apply_edits(DESIGNS[0], [Edit(op="remove", path=f"parts/{part.id}") for part in DESIGNS[0].parts])
TREES = {tree["name"]: tree for tree in catalogue()}
NOT_ORDERED_BY = {
    "resting_v",
    "traffic_v",
    "source_power_w",
    "tap_total_a",
    "tap_room_a",
    "tap_carries_a",
    "tap_drop_v",
    "parked_days",
    "parked_before_days",
}


def stops(evaluation: Evaluation) -> set[str]:
    return {f.rule for f in evaluation.findings if f.severity is Severity.STOP}


def assert_judged(design: Design, evaluation: Evaluation) -> None:
    """What ready promises, looked up in the design by other means than the rules use."""
    today = evaluation.results.design
    tied: dict[str, set[str]] = {}
    for link in today.links:
        for end in (link.to_id, getattr(link, "from_id", "")):
            tied.setdefault(end, set()).add(link.kind)
    for part in today.parts:
        has = tied.get(part.id, set())
        match part.kind:
            case "amplifier":
                assert {"power", "ground", "speaker", "remote"} <= has, part.name
                assert has & {"line", "tap"}, part.name
                for name in ("wire", "ground_wire", "fuse_a", "drop_v", "at_amplifier_v"):
                    assert evaluation.figures[f"{part.id}/{name}"].value is not None, (part.name, name)
                assert any(load.amplifier.id == part.id and load.power.value for load in evaluation.results.loads), (
                    part.name
                )
            case "subwoofer" if part.at_ids:
                row = next(r for r in evaluation.results.channel_loads if r.speakers[0].id in part.at_ids)
                assert row.load.value is not None
            case "subwoofer":
                assert "speaker" in has, part.name
                assert any(p.kind == "box" for p in today.parts)
            case "powered subwoofer":
                assert has & {"tap", "line"}, part.name
                assert has & {"power", "feed"}, part.name
            case "converter" | "processor":
                assert {"line", *(("feed",) if part.active else ())} <= has, part.name
                assert "tap" in has or any(k.kind == "line" and k.to_id == part.id for k in today.links), part.name
            case "charging relay":
                assert any(k.kind == "charge" and k.through_id == part.id for k in today.links), part.name
            case "series capacitor":
                assert part.at_ids, part.name
            case "driver":
                assert part.at_ids, part.name
                for name in part.at_ids:  # each place has a pair of the car or a channel of its own
                    place = next(s for s in today.vehicle.speakers if s.id == name)
                    assert place.channel_id or "speaker" in tied.get(name, set()), (part.name, name)
            case "distribution block":
                assert {"power"} <= has or {"ground"} <= has, part.name
                assert any(getattr(k, "from_id", "") == part.id for k in today.links), part.name
        if part.kind in ("amplifier", "powered subwoofer", "converter", "box", "subwoofer"):
            assert part.position is not None or part.kind == "subwoofer"
    for row in evaluation.results.wire_rows:
        assert row.size or row.in_car, row
        assert row.length_m, row
    for fuse in evaluation.results.fuse_rows:
        assert fuse.rating_a or fuse.family == "its own", fuse
    promised = set(today.intake.must_keep)
    fates = {KEPT.get(v.function.kind): v.fate for v in evaluation.results.ledger}
    for keep in promised & set(fates):
        assert fates[keep] in (Fate.KEPT, Fate.ADAPTED), keep
    assert promised <= {KEPT.get(f.kind) for f in today.vehicle.functions}


def assert_nothing_is_empty(evaluation: Evaluation) -> None:
    """A figure without a value says why, and one that something is ordered by stops the job."""
    said = stops(evaluation)
    for figure in evaluation.figures.values():
        if figure.value is None:
            assert figure.missing or figure.refused, figure.id
            if figure.id.rsplit("/", 1)[-1] not in NOT_ORDERED_BY:
                assert said & {"fact-missing", "figure-refused", "supply-collapses"}, figure.id


FACTS: list[list[tuple[str, Any]]] = [
    [
        (path, fact)
        for path, fact, _, _ in design_facts(d)
        if path.startswith(("vehicle/supply", "vehicle/radio", "vehicle/speakers", "links/"))
    ]
    for d in DESIGNS
]


@st.composite
def changed_designs(draw: st.DrawFn) -> Design:
    """A demo design with parts added, wires cut, facts unlearnt or absurd, phases and acts changed."""
    number = draw(st.integers(0, len(DESIGNS) - 1))
    design = DESIGNS[number] if draw(st.booleans()) else BARE
    for _ in range(draw(st.integers(1, 5))):
        act = draw(st.sampled_from(["add", "wire", "cut", "drop", "unlearn", "absurd", "later", "act", "times"]))
        edits: list[Edit] = []
        try:
            if act == "add":
                edits = list(place_part(design, TREES[draw(st.sampled_from(sorted(TREES)))]))
            elif act == "wire":
                edits = list(connect_everything(design))
            elif act == "cut" and design.links:
                edits = [Edit(op="remove", path=f"links/{draw(st.sampled_from([k.id for k in design.links]))}")]
            elif act == "drop" and design.parts:
                edits = [Edit(op="remove", path=f"parts/{draw(st.sampled_from([p.id for p in design.parts]))}")]
            elif act in ("unlearn", "absurd"):
                path, fact = draw(st.sampled_from(FACTS[number]))
                value = None if act == "unlearn" else draw(st.sampled_from([0.02, 0.5, 30.0, 300.0]))
                if act == "absurd" and not isinstance(fact.value, float):
                    continue
                edits = [Edit(path=path, value=Fact[Any](value=value).model_dump(mode="json"))]
            elif act == "later" and design.parts:
                edits = [Edit(path=f"parts/{draw(st.sampled_from([p.id for p in design.parts]))}/phase", value="later")]
            elif act == "act":
                edits = [
                    Edit(
                        path="interventions",
                        value=[{"id": "radio", "act": draw(st.sampled_from(["taken out", "replaced"]))}],
                    )
                ]
            elif act == "times":
                edits = [
                    Edit(
                        path=f"parts/{p.id}/ratings",
                        value=[{"load_ohm": r.load_ohm, "power_w": r.power_w * 8} for r in p.ratings],
                    )
                    for p in design.parts
                    if p.kind == "amplifier"
                ]
            design = apply_edits(design, edits)
        except (BadDocument, UnknownName):
            continue
    return design


@given(changed_designs())
@settings(max_examples=60)
def test_ready_means_that_everything_was_judged(design: Design) -> None:
    evaluation = evaluate(design, sweep_facts=True)
    assert_nothing_is_empty(evaluation)
    if evaluation.verdict.state == "ready":
        assert not stops(evaluation)
        assert_judged(design, evaluation)


def test_the_demo_shop_has_ready_jobs_and_they_are_judged() -> None:
    ready = [(d, e) for d in DESIGNS if (e := evaluate(d, sweep_facts=True)).verdict.state == "ready"]
    assert ready, "a property over ready designs needs some"
    for design, evaluation in ready:
        assert_judged(design, evaluation)


READINGS = {"pair-reading", "reading-implausible", "standby"}  # they judge the reading itself


@pytest.mark.parametrize("number", range(len(DESIGNS)))
def test_what_is_not_known_is_never_better_than_what_is(number: int) -> None:
    """A fact is forgotten: for every stop or watch that goes, something is said in its place, if only that it is not
    known.
    """
    design = DESIGNS[number]
    before = evaluate(design)
    tracing = Retracing(design, before)
    for path, fact, _, _ in design_facts(design):
        if fact.value is None or path not in tracing.read:
            continue
        after = tracing.after(path, None)
        was, now = said(before), said(after)
        gone = {key for key in was - now if key[0] not in READINGS}
        asked = {f.title for f in after.findings} - {f.title for f in before.findings}
        assert not gone or asked, (path, gone)
        assert len(gone) <= len(now - was) or any("not known" in t.lower() for t in asked), (path, gone, asked)


def said(evaluation: Evaluation) -> set[tuple[str, str, str]]:
    """Stops and watches of an evaluation."""
    asks = (Severity.STOP, Severity.WATCH)
    return {(f.rule, f.about, f.title) for f in evaluation.findings if f.severity in asks and not f.caution}


# -- false greens of hard use, each with what must be said -----------------------------------------------------------

OTHER_CAR = apply_edits(BARE, [Edit(path="intake/must_keep", value=[])])


def planned(*parts: Edit, base: Design = OTHER_CAR) -> Evaluation:
    return evaluate(apply_edits(base, parts), sweep_facts=True)


def test_a_guess_without_a_range_is_asked_over_what_is_plausible(estate: Design) -> None:
    """A body return somebody typed as assumed, and gave no range: up to 5 mΩ it loses too much, so it is asked."""
    guess = [Edit(path="vehicle/supply/body_return_ohm", value={"value": 0.0015, "basis": "assumed"})]
    evaluation = evaluate(apply_edits(estate, guess), sweep_facts=True)
    (asked,) = [m for m in evaluation.measure_first if m.path == "vehicle/supply/body_return_ohm"]
    assert (asked.low, asked.value, asked.high) == (0.0005, 0.0015, 0.005)
    assert evaluation.verdict.headline == "Not ready to order"


def test_a_driver_without_load_wire_or_box_is_not_ready() -> None:
    evaluation = planned(catalogue_part("Morrowick 10 D4", "sub", 4.1, 0.2))
    assert evaluation.verdict.state == "stopped"
    assert {"link-missing", "driver-boxless"} <= stops(evaluation)


def test_a_part_of_26_a_without_supply_is_not_ready() -> None:
    bass = {
        **TREES["Cooperage Underseat 8"],
        "id": "bass",
        "supply_current_a": 26.0,
        "position": {"x_m": 2.0, "y_m": 0.3},
    }
    evaluation = planned(Edit(op="add", path="parts", value=bass))
    titles = [f.title for f in evaluation.findings if f.severity is Severity.STOP]
    assert any("has no signal, supply and switch-on" in title for title in titles), titles
    assert any("26.0 A and no supply" in title for title in titles), titles


def test_an_empty_build_sheet_is_not_ready() -> None:
    evaluation = planned(catalogue_part("Rings, sleeves, loom, ties", "kit", 3.0, 0.0))
    assert stops(evaluation) == {"nothing-judged"}


def test_a_new_radio_touches_the_functions_without_being_told() -> None:
    base = apply_edits(BARE, [Edit(path="intake/must_keep", value=["chimes", "reversing camera"])])
    unit = catalogue_part("Quillon Q1 plain radio", "unit", 1.6, 0.0)
    evaluation = planned(unit, base=base)
    assert not [v for v in evaluation.results.ledger if v.why == "untouched"]
    assert {"function-part", "promise-unjudged"} <= stops(evaluation)
    titles = [f.title for f in evaluation.findings if f.rule in ("function-part", "promise-unjudged")]
    assert any("interface, and none is among the parts" in t for t in titles), titles
    assert "Promised, and not looked at: reversing camera" in titles
    bought = [
        catalogue_part(n, i, 1.5, 0.0)
        for n, i in (("Quillon bus interface", "face"), ("Quillon aerial adapter", "aerial"))
    ]
    assert "function-part" not in stops(planned(unit, *bought, base=base))


@pytest.mark.parametrize(("pairing", "load", "stopped"), [("parallel", 2.0, True), ("series", 8.0, False)])
def test_two_new_4_ohm_speakers_on_a_radio_channel(pairing: str, load: float, stopped: bool) -> None:
    """Nearly every radio wants 4 ohm (common practice, no source): parallel is stopped, series allowed, and neither
    is “as before”.
    """
    seats = [
        Edit(
            op="add",
            path="vehicle/speakers",
            value={
                "id": f"seat-{i}",
                "name": f"Headrest {i}",
                "position": {"x_m": 2.2, "y_m": y},
                "channel_id": "ch-rl",
                "new_place": True,
                "paired_with_id": None,
                "pairing": pairing,
                "impedance_ohm": {"value": 4.0, "basis": "measured"},
            },
        )
        for i, y in (("a", -0.4), ("b", -0.2))
    ]
    tie = [Edit(path="vehicle/speakers/seat-a/paired_with_id", value="seat-b")]
    moved = [
        Edit(path="vehicle/speakers/spk-rl/channel_id", value=None),
        Edit(path="vehicle/speakers/spk-rl/left_silent", value=True),
    ]
    driver = {
        **TREES["Pell & Fenn Coax 65, pair"],
        "id": "seats",
        "at_ids": ["seat-a", "seat-b"],
        "impedance_ohm": 4.0,
        "position": None,
    }
    evaluation = planned(*seats, *tie, *moved, Edit(op="add", path="parts", value=driver))
    row = next(r for r in evaluation.results.channel_loads if r.channel.id == "ch-rl")
    assert row.load.value == pytest.approx(load)
    assert row.lowest.value == 4.0
    assert row.was is None, "new places are not before"
    assert ("channel-load" in stops(evaluation)) == stopped
    if stopped:  # one press wires them in series, and the channel takes it
        remedy = next(f.remedy for f in evaluation.findings if f.rule == "channel-load")
        assert remedy is not None
        assert remedy.label == "Wire the two in series: 8 Ω"
        mended = evaluate(apply_edits(evaluation.design, list(remedy.edits)))
        assert "channel-load" not in stops(mended)
        again = next(r for r in mended.results.channel_loads if r.channel.id == "ch-rl")
        assert again.load.value == pytest.approx(8.0)
        assert again.in_series_ohm is None, "they are in series already"
    allowed = apply_edits(evaluation.design, [measured("vehicle/radio/lowest_load_ohm", 2.0)])
    assert "channel-load" not in stops(evaluate(allowed)), "a radio whose papers permit 2 ohm may drive it"


def test_a_bypass_counts_speakers_bands_and_tweeters() -> None:
    """Eight speakers of a split system on an amplifier of five channels: three silent, and a tweeter on the full
    range stops.
    """
    names = [
        ("fl", "front left", "low range"),
        ("fr", "front right", "low range"),
        ("tl", "front left", "high range"),
        ("tr", "front right", "high range"),
        ("rl", "rear left", "full range"),
        ("rr", "rear right", "full range"),
        ("c", "centre", "mid range"),
        ("s", "subwoofer", "low range"),
    ]
    channels = [
        {"id": f"x-{i}", "name": f"Pair {i}", "place": place, "band": {"value": band, "basis": "measured"}}
        for i, place, band in names
    ]
    module = {
        "id": "works",
        "name": "Works amplifier",
        "kind": "amplifier",
        "position": {"x_m": 3.0, "y_m": 0.0},
        "channels": channels,
    }
    speakers = [
        {
            "id": f"s-{i}",
            "name": f"Speaker {i}",
            "position": {"x_m": 1.5, "y_m": 0.1},
            "channel_id": f"x-{i}",
            "impedance_ohm": {"value": 4.0, "basis": "measured"},
            "takes_w": {"value": 40.0, "basis": "documented"},
        }
        for i, *_ in names
    ]
    car = apply_edits(
        OTHER_CAR,
        [
            Edit(op="add", path="vehicle/modules", value=module),
            Edit(path="vehicle/functions", value=[]),
            Edit(path="vehicle/connectors", value=[]),
            Edit(path="vehicle/speakers", value=[]),
        ],
    )
    car = apply_edits(car, [Edit(op="add", path="vehicle/speakers", value=s) for s in speakers])
    car = apply_edits(car, [Edit(path="interventions", value=[{"id": "works", "act": "bypassed"}])])
    five = {**TREES["Tessel Four 70"], "id": "amp", "channel_count": 5, "position": {"x_m": 3.4, "y_m": 0.0}}
    wired = [
        Edit(
            op="add",
            path="links",
            value={"id": f"w-{n}", "kind": "speaker", "from_id": "amp", "to_id": f"s-{i}", "channel": n},
        )
        for n, (i, *_) in enumerate(names[:5], start=1)
    ]
    evaluation = planned(Edit(op="add", path="parts", value=five), *wired, base=car)
    silent = next(f for f in evaluation.findings if f.rule == "speaker-silent")
    assert silent.severity is Severity.STOP
    assert silent.title == "3 speakers fall silent: Speaker rr, Speaker c and Speaker s"
    tweeters = [f for f in evaluation.findings if f.rule == "tweeter-unprotected"]
    assert [(f.severity, f.title.split(":")[0]) for f in tweeters] == [
        (Severity.STOP, "Speaker tl"),
        (Severity.STOP, "Speaker tr"),
    ]
    capped = [measured(f"vehicle/speakers/s-{i}/own_capacitor", True) for i in ("tl", "tr")]
    assert "tweeter-unprotected" not in stops(evaluate(apply_edits(evaluation.design, capped)))
    on_purpose = apply_edits(evaluation.design, silent.remedy.edits)  # type: ignore[union-attr]
    assert "speaker-silent" not in stops(evaluate(on_purpose))


def test_a_new_radio_joins_high_and_low_pairs_and_their_load() -> None:
    """Woofer and tweeter of one corner, 4 ohm each and no capacitor: 2 ohm on one output, and the bass in the
    tweeter.
    """
    extra = [
        {
            "id": "ch-fl-high",
            "name": "Front left, high",
            "place": "front left",
            "band": {"value": "high range", "basis": "measured"},
        }
    ]
    base = apply_edits(
        OTHER_CAR,
        [
            Edit(op="add", path="vehicle/radio/channels", value=extra[0]),
            Edit(path="vehicle/radio/channels/ch-fl/place", value="front left"),
            Edit(
                op="add",
                path="vehicle/speakers",
                value={
                    "id": "dome",
                    "name": "Left dome",
                    "position": {"x_m": 1.4, "y_m": -0.7},
                    "channel_id": "ch-fl-high",
                    "place": "pillar or mirror corner",
                    "impedance_ohm": {"value": 4.0, "basis": "measured"},
                    "own_capacitor": {"value": False, "basis": "measured"},
                },
            ),
        ],
    )
    evaluation = planned(catalogue_part("Quillon Q1 plain radio", "unit", 1.6, 0.0), base=base)
    found = {f.title for f in evaluation.findings if f.severity is Severity.STOP}
    assert any(t.startswith("2 Ω on Front left and Front left, high, which wants 4 Ω") for t in found), found
    assert "Left dome: a tweeter without a high-pass" in found
    capped = apply_edits(evaluation.design, [measured("vehicle/speakers/dome/own_capacitor", True)])
    assert not {"channel-load", "tweeter-unprotected"} & stops(evaluate(capped))


def test_the_order_list_has_everything_by_size_and_metre() -> None:
    """Sums against the wire list, fuses against the supplies; what cannot be ordered yet says why."""
    evaluation = evaluate(DESIGNS[0])
    rows = evaluation.results.order
    assert {row.what for row in rows if row.group == "Parts"} == {p.name for p in DESIGNS[0].parts}
    red = next(row for row in rows if row.group == "Wire" and row.what == "4 AWG, red")
    assert red.amount == "5.5 m"  # 5.4 m of tape, sold by the half metre
    fuses = {row.what: row.amount for row in rows if row.what.endswith(" A")}
    assert fuses == {"Regular blade 5 A": "1", "Bolt-down strip 60 A": "1"}
    assert next(row for row in rows if row.what == "Ring terminal for 4 AWG").amount == "2"
    bought = apply_edits(
        DESIGNS[0],
        [
            Edit(
                op="add",
                path="parts",
                value={"id": "f", "kind": "fuse", "name": "Strip 60", "rating_a": 60.0, "pieces": 2},
            )
        ],
    )
    assert not [row for row in evaluate(bought).results.order if row.what == "Bolt-down strip 60 A"]
    open_ = apply_edits(DESIGNS[0], [Edit(path="vehicle/supply/post_running_v", value={"value": None})])
    unknown = [row for row in evaluate(open_).results.order if row.unknown]
    assert {row.group for row in unknown} >= {"Fuses", "Wire"}
