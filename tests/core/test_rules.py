"""Every rule with a failing and a passing design: the estate passes, each case breaks it one way."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import RULES, Severity
from ohmack.core.planning.remedies import edits_of
from ohmack.demo.building import catalogue_part, measured
from ohmack.demo.jobs import demo_design, demo_jobs


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def fact(path: str, value: Any) -> Edit:
    return measured(path, value)


def remove(path: str) -> Edit:
    return Edit(op="remove", path=path)


def amp(**changes: Any) -> list[Edit]:
    return [put(f"parts/amp/{name}", value) for name, value in changes.items()]


def add(path: str, value: Any) -> Edit:
    return Edit(op="add", path=path, value=value)


def read(check: str, **said: Any) -> Edit:
    return add("proof/readings", {"id": "r", "check": check, **said})


P, G, F = "links/power-amp", "links/ground-amp", "links/feed-converter"
V = "vehicle"
PLAIN_CAR: list[Edit] = [
    remove(f"parts/{i}") for i in ("amp", "sub", "box", "converter", "holder", "adapter", "consumables")
]

DOORS = catalogue_part("Pell & Fenn Coax 65, pair", "doors", 1.9, 0.0, at_ids=["spk-fl", "spk-fr"], position=None)
SMALL = catalogue_part(
    "Pell & Fenn Coax 65, pair", "small", 1.9, 0.0, at_ids=["spk-fl"], position=None, cut_out_mm=76.0
)
IN_LINE = Edit(
    op="add", path="parts", value={"id": "c", "kind": "series capacitor", "name": "C", "capacitance_uf": 100.0}
)
DAMAGE = Edit(
    op="add",
    path=f"{V}/alterations",
    value={
        "id": "cut",
        "name": "Rear left pair",
        "kind": "cut wire",
        "position": {"x_m": 1.7, "y_m": 0.0},
        "about_id": "ch-rl",
        "work_min": {"value": 15.0, "low": 10.0, "high": 30.0},
    },
)
LEISURE = Edit(op="add", path=f"{V}/supply/batteries", value={
    "id": "camp", "name": "Leisure battery", "role": "leisure", "position": {"x_m": 3.9, "y_m": -0.5}})  # fmt: skip
CAMPED = [LEISURE, put(f"{P}/from_id", "camp"), fact(f"{V}/supply/split_charging", "relay")]
SECOND = Edit(op="add", path=f"{V}/supply/batteries", value={
    "id": "second", "name": "Second battery", "position": {"x_m": 3.9, "y_m": -0.5}})  # fmt: skip
CHARGED = Edit(op="add", path="links", value={
    "id": "charge", "kind": "charge", "from_id": "battery", "to_id": "second", "ground_point_id": None})  # fmt: skip
ROLLED = {50.0: [(10, 1.0), (14, 1.6), (18, 2.2), (22, 2.5)], 1000.0: [(10, 1.0), (14, 1.6), (18, 2.6), (22, 4.2)]}


def reading(step: float, tone_hz: float, volts: float) -> Edit:
    value = {
        "id": f"r-{step:g}-{tone_hz:g}",
        "step": step,
        "tone_hz": tone_hz,
        "voltage_v": {"value": volts, "basis": "measured"},
    }
    return Edit(op="add", path=f"{V}/volume_steps", value=value)


HZ = [40.0 * 2**n for n in range(9)]
LEAN = [-12.0 if hz < 150 else 0.0 for hz in HZ]
# 1.5 dB a step up to 4.5 V at step 20, where it flattens
VOLUME = [reading(step, 1000.0, min(4.5 * 10 ** (1.5 * (step - 20) / 20), 4.7)) for step in range(10, 27, 2)]


LATER_RADIO = Edit(
    op="add",
    path="parts",
    value={
        "id": "later-radio",
        "kind": "radio",
        "name": "Later radio",
        "depth_mm": 100.0,
        "line_pairs": 2,
        "line_v": 4.0,
        "phase": "later",
    },
)
HUB = Edit(op="add", path=f"{V}/modules", value={"id": "hub", "name": "Hub", "position": {"x_m": 1.2, "y_m": 0.1}})


FLAT = Edit(
    op="add",
    path="parts",
    value={
        "id": "flat",
        "kind": "powered subwoofer",
        "name": "Flat",
        "power_rms_w": 80.0,
        "supply_current_a": 8.0,
        "speaker_level_high_v": 5.0,
    },
)


PINS = "vehicle/connectors/radio-plug/cavities"
HIGH_PAIR = Edit(
    op="add",
    path="vehicle/radio/channels",
    value={
        "id": "high",
        "name": "Front left, high",
        "place": "front left",
        "band": {"value": "high range", "basis": "documented"},
    },
)
NEW_RADIO = Edit(op="add", path="parts", value={"id": "unit", "kind": "radio", "name": "Unit", "depth_mm": 150.0})
RADIO_LATER = Edit(
    op="add", path="parts", value={"id": "unit", "kind": "radio", "name": "Unit", "depth_mm": 150.0, "phase": "later"}
)


def part_(kind: str, **values: Any) -> Edit:
    return Edit(op="add", path="parts", value={"id": "bought", "kind": kind, "name": "Bought", **values})


def behind(number: int) -> Edit:
    """A power run from the block that was bought to the amplifier."""
    return Edit(
        op="add", path="links", value={"id": f"way-{number}", "kind": "power", "from_id": "bought", "to_id": "amp"}
    )


# the amplifier behind a block, a fuse before it and one behind
BLOCKED = [
    part_(
        "distribution block", ways=2, in_area_max_mm2=33.0, out_area_max_mm2=33.0, position={"x_m": 3.4, "y_m": -0.5}
    ),
    remove("links/power-amp"),
    behind(1),
    Edit(op="add", path="links", value={"id": "main", "kind": "power", "from_id": "battery", "to_id": "bought"}),
]


def happens(act: str) -> Edit:
    return Edit(op="add", path="interventions", value={"id": "radio", "act": act})


def feeds(from_id: str, to_id: str) -> Edit:
    value = {"id": f"f-{from_id}-{to_id}", "kind": "feed", "from_id": from_id, "to_id": to_id}
    return Edit(op="add", path=f"{V}/factory_links", value=value)


RADIO_OUT = Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"})
FIXED_AMP = [
    fact(f"{V}/radio/tier", "radio with amplifier"),
    Edit(op="add", path=f"{V}/modules", value={
        "id": "famp", "name": "Works amplifier", "kind": "amplifier", "position": {"x_m": 2.1, "y_m": -0.4},
        "level": {"value": "fixed", "basis": "measured"}, "source_voltage_v": {"value": 18.0, "basis": "measured"},
        "tap_low_hz": {"value": 25.0, "basis": "measured"},
        "channels": [{"id": "famp-rl", "name": "Rear left, amplified"}]}),
]  # fmt: skip


LINE_TO_AMP = Edit(
    op="add",
    path=f"{V}/factory_links",
    value={"id": "line", "kind": "analogue line", "from_id": "radio", "to_id": "famp"},
)

KEPT_AMP = put(f"{V}/modules/famp/kind", "amplifier")
LINE_RADIO = Edit(op="add", path="parts", value={
    "id": "unit", "kind": "radio", "name": "Unit", "depth_mm": 150.0, "line_v": 4.0, "line_pairs": 2})  # fmt: skip


# rule -> (severity, edits that break the estate)
PLUG_WITHOUT_A_SWITCHED_WIRE = Edit(
    path=f"{V}/connectors",
    value=[
        {
            "id": "bus-plug",
            "name": "Radio plug",
            "at_id": "radio",
            "housing": {"rows": 1, "columns": 2},
            "cavities": [
                {"id": "c1", "number": 1, "use": {"value": "constant", "basis": "measured"}},
                {"id": "c2", "number": 2, "use": {"value": "ground", "basis": "measured"}},
            ],
        }
    ],
)
SMALL_SUB = (
    Edit(op="add", path="parts", value={
        "kind": "subwoofer", "id": "sub2", "name": "Small", "coils": [{"impedance_ohm": 8.0}], "power_rms_w": 450.0,
    }),
    Edit(op="add", path="links", value={
        "id": "speaker-sub2", "kind": "speaker", "from_id": "amp", "to_id": "sub2", "channel": 1,
    }),
)  # fmt: skip
VENTED = (put("parts/box/box_type", "vented"), put("parts/box/tuning_hz", 32.0))
WIDE_VENT = put("parts/box/vents/diameter_mm", 40.0)
HIDDEN = Edit(
    op="add",
    path="interventions",
    value={"id": "radio", "act": "taken out", "keep_alive": ["stays powered and connected, out of sight"]},
)
THERE = {"position": {"x_m": 3.3, "y_m": 0.0}, "present": {"value": True, "basis": "assumed"}}
FOLDED = add(f"{V}/zones", {"id": "zone-roof", "kind": "folding roof", "name": "Folded roof", **THERE})
FAILING: dict[str, tuple[Severity, list[Edit]]] = {
    "fact-missing": (Severity.STOP, [put(f"{V}/supply/post_running_v", {"value": None})]),
    "link-missing": (Severity.STOP, [remove("links/ground-amp")]),
    "signal-missing": (Severity.STOP, [remove("links/line-amp")]),
    "part-unplaced": (Severity.STOP, [put("parts/amp/position", None)]),
    "figure-refused": (
        Severity.STOP,
        [
            put("parts/amp/lowest_load_ohm", 1.0),
            put("parts/sub/coils", [{"impedance_ohm": 2.0}] * 2),
            put("links/speaker-sub/wiring", "parallel(1,2)"),
        ],
    ),
    "reading-implausible": (Severity.WATCH, [fact(f"{V}/supply/post_running_v", 12.7)]),
    "speaker-reading": (Severity.WATCH, [fact(f"{V}/speakers/spk-rl/dc_resistance_ohm", 7.1)]),
    "fit": (Severity.STOP, [DOORS, fact(f"{V}/speakers/spk-fl/window_depth_mm", 50.0)]),
    "in-its-cup": (
        Severity.NOTE,
        [
            catalogue_part("Morrowick T25 tweeter, pair", "t", 1.9, 0.0, at_ids=["spk-fl", "spk-fr"], position=None),
            put("parts/t/on_surface", True),
        ],
    ),
    "driver-homeless": (Severity.STOP, [DOORS, put("parts/doors/at_ids", [])]),
    "shared-return": (
        Severity.STOP,
        [fact(f"{V}/radio/shared_return", True), put("links/speaker-sub/factory_wire", True)],
    ),
    "small-over-doors": (
        Severity.WATCH,
        [put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"), put(f"{V}/speakers/spk-rl/place", "dash"), DOORS],
    ),
    "channels-unused": (Severity.NOTE, [put("parts/amp/channel_count", 2)]),
    "load-reading": (Severity.STOP, [fact("links/speaker-sub/reads_ohm", 3.5)]),
    "uneven-sharing": (Severity.WATCH, [*SMALL_SUB, put("links/speaker-sub/wiring", "series(parallel(A1,A2),B1)")]),
    "tweeter-in-series": (
        Severity.STOP,
        [
            put(f"{V}/speakers/spk-fl/tweeter", True),
            add("links", {"id": "extra", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 1}),
            put("links/speaker-sub/wiring", "series(parallel(A1,A2),B)"),
        ],
    ),
    "leads-make-no-load": (Severity.STOP, [put("links/speaker-sub/wiring", "leads(+=1+,1-=2+,2-=-,+=-)")]),
    "polarity-reversed": (Severity.STOP, [put("links/speaker-sub/wiring", "leads(+=1+,1-=2-,2+=-)")]),
    "terminals-near-metal": (
        Severity.NOTE,
        [DOORS, *(fact(f"{V}/speakers/spk-f{s}/cut_out_mm", 130.0) for s in "lr")],
    ),
    "rating-table": (
        Severity.WATCH,
        [put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 90.0}, {"load_ohm": 4.0, "power_w": 160.0}])],
    ),
    "split-coils": (
        Severity.STOP,
        [Edit(op="add", path="links", value={"id": "again", "kind": "speaker", "from_id": "amp", "to_id": "sub"})],
    ),
    "wiring-gone": (Severity.WATCH, [put("links/speaker-sub/wiring", "series(1,2,3)")]),
    "box-not-judged": (Severity.NOTE, [put("parts/sub/vas_l", None)]),
    "box-driver-papers": (Severity.WATCH, [put("parts/sub/qts", 0.8)]),
    "box-travel": (Severity.WATCH, [put("parts/sub/xmax_mm", 12.0)]),
    "box-vent-speed": (Severity.WATCH, [*VENTED, put("parts/box/vents/diameter_mm", 60.0)]),
    "box-vent-length": (Severity.STOP, [*VENTED, put("parts/box/tuning_hz", 150.0), WIDE_VENT]),
    "box-corners": (
        Severity.WATCH,
        [
            put("parts/box/boards/thickness_mm", 18.0),
            put(
                "parts/box/boards/corners",
                [{"behind_mm": x, "up_mm": z} for x, z in ((0, 0), (500, 0), (300, 420), (0, 420))],
            ),
        ],
    ),
    "free-air": (Severity.NOTE, [put("parts/box/box_type", "free air"), put("parts/box/net_volume_l", 380.0)]),
    "box-volume": (Severity.WATCH, [put("parts/box/boards/thickness_mm", 18.0)]),
    "box-driver-fits": (
        Severity.STOP,
        [
            put("parts/box/boards/thickness_mm", 18.0),
            put("parts/box/length_m", 0.15),
            put("parts/box/boards/fronts", 2),
        ],
    ),
    "box-vents": (
        Severity.WATCH,
        [
            put("parts/box/box_type", "vented"),
            put("parts/box/tuning_hz", 33.0),
            put("parts/box/boards/thickness_mm", 18.0),
            put("parts/box/height_m", 0.4),
            put("parts/box/vents/diameter_mm", 260.0),
        ],
    ),
    "box-openings": (
        Severity.STOP,
        [
            catalogue_part("Morrowick 10 D4", "sub-2", 3.9, 0.0),
            Edit(
                op="add",
                path="links",
                value={"id": "speaker-2", "kind": "speaker", "from_id": "amp", "to_id": "sub-2", "channel": 1},
            ),
        ],
    ),
    "radio-unjoined": (
        Severity.STOP,
        [
            put(f"{V}/connectors", []),
            remove("parts/adapter"),
            catalogue_part("Quillon Q1 plain radio", "unit", 1.6, 0.0),
        ],
    ),
    "box-boomy": (Severity.WATCH, [put("parts/box/net_volume_l", 4.0)]),
    "box-unheld": (Severity.NOTE, [put("parts/box/depth_mm", None)]),
    "box-space-unknown": (Severity.NOTE, [remove(f"{V}/spaces/space-rear")]),
    "opening-unknown": (Severity.NOTE, [catalogue_part("Quillon Q1 plain radio", "unit", 1.6, 0.0)]),
    "zone": (
        Severity.WATCH,
        [put("links/line-amp/way_points", [{"x_m": 1.86, "y_m": 0.38}, {"x_m": 3.62, "y_m": 0.38}])],
    ),
    "bulkhead-way": (Severity.WATCH, [put(f"{P}/way_points", [{"x_m": 0.74, "y_m": 0.5}, {"x_m": 3.62, "y_m": 0.5}])]),
    "outside-body": (Severity.STOP, [put("parts/box/position", {"x_m": 5.4, "y_m": 0.2})]),
    "facts-contradict": (Severity.WATCH, [fact(f"{V}/supply/post_resting_v", 14.4)]),
    "tap-channels": (Severity.STOP, [fact(f"{V}/radio/channels/ch-{i}/band", "high range") for i in ("rl", "rr")]),
    "made-for-which": (Severity.NOTE, [part_("accessory", category="interface")]),
    "pair-bare": (Severity.STOP, [NEW_RADIO, HIGH_PAIR]),
    "radio-alone": (Severity.STOP, [NEW_RADIO, *(remove(f"{V}/speakers/spk-{at}") for at in ("fl", "fr", "rl", "rr"))]),
    "speakers-unseen": (
        Severity.STOP,
        [
            NEW_RADIO,
            fact(f"{V}/radio/tier", "no radio"),
            put(f"{V}/speakers/spk-fl/impedance_ohm", {"value": 4.0, "basis": "assumed"}),
        ],
    ),
    "channel-load": (Severity.STOP, [DOORS, put("parts/doors/impedance_ohm", 2.0)]),
    "line-pairs": (Severity.STOP, [NEW_RADIO, put("links/line-amp/from_id", "unit")]),
    "caution-ceiling": (Severity.NOTE, [DOORS, put(f"{V}/speakers/spk-fl/place", "ceiling")]),
    "caution-door-water": (Severity.NOTE, [DOORS]),
    "caution-seat-cable": (Severity.NOTE, [put(f"{V}/speakers/spk-fl/place", "headrest")]),
    "stud-on-reversible": (Severity.NOTE, []),
    "drilled-on-reversible": (
        Severity.STOP,
        [fact(f"{V}/ground_points/ground-rear/kind", "self-tapping screw")],
    ),
    "charging-budget": (Severity.STOP, [fact(f"{V}/supply/alternator_rating_a", 40.0)]),
    "run-on-the-pack": (
        Severity.STOP,
        [
            fact(f"{V}/supply/system", "24 V"),
            part_("voltage converter", in_low_v=20.0, in_high_v=32.0, current_a=60.0),
        ],
    ),
    "feed-volts": (Severity.STOP, [fact(f"{V}/supply/system", "24 V")]),
    "step-left-out": (
        Severity.STOP,
        [Edit(op="add", path="work/marks", value={"id": "m", "step": "dead-checks", "left_out": "in a hurry"})],
    ),
    "steps-in-a-circle": (
        Severity.STOP,
        [
            Edit(
                op="add",
                path="work/own_steps",
                value={"id": "a", "what": "turn round", "after": ["fix-amp"], "before": ["off-radio"]},
            )
        ],
    ),
    "step-moved-in-vain": (
        Severity.WATCH,
        [Edit(op="add", path="work/moved", value={"id": "m", "step": "main-fuse", "before": "dead-checks"})],
    ),
    "hole-not-noted": (
        Severity.WATCH,
        [Edit(op="add", path="work/holes", value={"id": "h", "name": "Sill, left", "diameter_mm": 8.0})],
    ),
    "closed-with-something-out": (
        Severity.STOP,
        [Edit(op="add", path="work/taken", value={"id": "t", "name": "Sill", "fasteners": 3, "back": True})],
    ),
    "reading-off": (Severity.STOP, [read("live/amp/amp/running", value=11.2)]),
    "reading-unjudged": (
        Severity.WATCH,
        [put(f"{V}/radio/clip_step", {"value": None}), read("level/clip/radio", value=22.0)],
    ),
    "proved-not-here": (Severity.NOTE, [read("dead/ground/amp", value=0.04)]),
    "fault-left-in": (
        Severity.STOP,
        [add("proof/faults", {"id": "f", "kind": "a bad ground", "at": "ground-amp/end", "by": 0.02})],
    ),
    "gate-passed-open": (
        Severity.WATCH,
        [
            add(
                "proof/jumps",
                {
                    "id": "j",
                    "gate": 1,
                    "by": "Wen",
                    "reason": "the meter is away",
                    "open": ["dead/fuse", "dead/battery"],
                },
            )
        ],
    ),
    "accepted-as-it-is": (
        Severity.NOTE,
        [add("proof/deviations", {"id": "d", "check": "live/lamps", "by": "Wen", "reason": "a bulb is on order"})],
    ),
    "soak-off": (
        Severity.STOP,
        [add("handover/soak", {"id": "s", "check": "soak/drive", "passed": False, "when": "2026-11-28T12:00"})],
    ),
    "held": (Severity.STOP, [add("handover/holds", {"id": "h", "by": "Odile", "reason": "felt strip on Tuesday"})]),
    "not-content": (
        Severity.STOP,
        [add("handover/heard", {"id": "h", "wish": "wish/bass", "met": "not as wished", "words": "too soft"})],
    ),
    "changed-since-signed": (
        Severity.WATCH,
        [add("handover/signatures", {"id": "s", "by": "Ada", "revision": 3, "digest": "0" * 64})],
    ),
    "signed-while-held": (
        Severity.WATCH,
        [add("handover/signatures", {"id": "s", "by": "Ada", "revision": 3, "digest": "0" * 64})],
    ),
    "quote-over-budget": (Severity.WATCH, [put("intake/budget", 800.0)]),
    "quote-changed": (Severity.WATCH, [put("work/accepted", {"by": "Ada", "lines": []})]),
    "seat-bolt-torque": (
        Severity.STOP,
        [Edit(op="add", path="work/taken", value={"id": "t", "name": "Front left seat", "fasteners": 4})],
    ),
    "usual-drive": (
        Severity.WATCH,
        [
            fact(f"{V}/supply/alternator_rating_a", 60.0),
            fact(f"{V}/supply/batteries/battery/capacity_ah", 60.0),
            put("use/trip", "town, 20 minutes"),
        ],
    ),
    "charger-average": (
        Severity.WATCH,
        [
            part_("charging relay", current_a=6.0, how="DC-DC charger"),
            SECOND,
            CHARGED,
            put("links/charge/through_id", "bought"),
            put(f"{P}/from_id", "second"),
            fact(f"{V}/supply/batteries/second/own_running_v", 13.8),
        ],
    ),
    "crossover-net": (Severity.STOP, [part_("crossover net")]),
    "load-resistor": (Severity.STOP, [part_("load resistor", resistance_ohm=10.0, rated_w=50.0)]),
    "radio-feed": (
        Severity.STOP,
        [
            LINE_RADIO,
            put("parts/unit/supply_current_a", 25.0),
            Edit(
                op="add",
                path="links",
                value={"id": "feed-unit", "kind": "feed", "from_id": "radio-constant", "to_id": "unit"},
            ),
        ],
    ),
    "start-chain": (
        Severity.STOP,
        [
            Edit(path=f"{V}/functions", value=[]),
            Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"}),
            fact(f"{V}/radio/starts_without", False),
        ],
    ),
    "tap-combs": (
        Severity.STOP,
        [
            Edit(op="add", path=f"{V}/radio/channels", value={"id": "mid", "name": "Centre", "place": "centre"}),
            put("links/tap-converter/from_ids", ["ch-rl", "ch-rr", "mid"]),
        ],
    ),
    "feed-not-on-plug": (
        Severity.STOP,
        [
            PLUG_WITHOUT_A_SWITCHED_WIRE,
            Edit(
                op="add",
                path="links",
                value={"id": "wake", "kind": "remote", "from_id": "radio-switched", "to_id": "amp"},
            ),
        ],
    ),
    "speaker-broken": (
        Severity.STOP,
        [
            Edit(
                path=f"{V}/hunt",
                value={
                    "wires": [{"id": "a", "name": "a"}, {"id": "b", "name": "b"}],
                    "speaker_ids": ["spk-fl"],
                    "shorted_ids": ["spk-fl"],
                },
            )
        ],
    ),
    "kept-level": (Severity.WATCH, [*FIXED_AMP, LINE_TO_AMP, KEPT_AMP, LINE_RADIO]),
    "kept-hum": (Severity.WATCH, [*FIXED_AMP, LINE_TO_AMP, KEPT_AMP, LINE_RADIO]),
    "kept-switch-on": (
        Severity.STOP,
        [*FIXED_AMP, LINE_TO_AMP, KEPT_AMP, LINE_RADIO, fact(f"{V}/modules/famp/woken_by", "the data bus")],
    ),
    "spare-input": (Severity.STOP, [LINE_RADIO, HIDDEN]),
    "speaker-pad": (Severity.STOP, [part_("speaker pad", takes_off_db=3.0, rated_w=20.0)]),
    "switching-relay": (
        Severity.STOP,
        [part_("switching relay", contact_a=0.001), put("links/remote-amp/relay", True)],
    ),
    "tweeter-level": (
        Severity.WATCH,
        [
            DOORS,
            put("parts/doors/at_ids", ["spk-fl"]),
            put("parts/doors/role", "woofer"),
            catalogue_part("Morrowick T25 tweeter, pair", "high", 1.9, 0.0, at_ids=["spk-fr"], position=None),
            put("parts/high/sensitivity_db", 99.0),
            put(f"{V}/speakers/spk-fr/channel_id", "ch-fl"),
            part_("crossover net", at_ids=["spk-fl", "spk-fr"]),
        ],
    ),
    "line-isolator": (Severity.STOP, [part_("line isolator", limit_v=5.0)]),
    "parts-overlap": (Severity.STOP, [part_("box", net_volume_l=20.0, mass_kg=9.0, position={"x_m": 4.1, "y_m": 0.2})]),
    "fuse-size": (Severity.WATCH, [put(f"{P}/fuse/rating_a", 77.0)]),
    "screws-over-hole": (Severity.WATCH, [DOORS, *(fact(f"{V}/speakers/spk-f{s}/cut_out_mm", 142.0) for s in "lr")]),
    "signal-detour": (
        Severity.NOTE,
        [
            put("links/tap-converter/place", "leads at the speakers"),
            put("links/tap-converter/method", "splice"),
            put("intake/reversible", False),
        ],
    ),
    "capacitor-wired": (Severity.STOP, [part_("capacitor")]),
    "capacitor-overvoltage": (Severity.STOP, [part_("capacitor", rated_v=12.0)]),
    "charge-cable": (Severity.STOP, [SECOND, CHARGED]),
    "charge-cable-missing": (Severity.STOP, [part_("charging relay", current_a=100.0)]),
    "headrest-fit": (Severity.WATCH, [DOORS, put(f"{V}/speakers/spk-fl/place", "headrest")]),
    "capacitor-voltage": (
        Severity.STOP,
        [SMALL, part_("series capacitor", capacitance_uf=150.0, rated_v=6.3, at_ids=["ch-fl"])],
    ),
    "small-speaker": (Severity.WATCH, [SMALL]),
    "load-dips": (
        Severity.NOTE,
        [
            put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"),
            DOORS,
            part_("series capacitor", capacitance_uf=47.0, at_ids=["spk-rl"]),
        ],
    ),
    "resonance-lifts": (
        Severity.WATCH,
        [
            put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"),
            catalogue_part("Pell & Fenn Dash 80, pair", "dash", 1.9, 0.0, at_ids=["spk-rl"], position=None),
            part_("series capacitor", capacitance_uf=220.0, at_ids=["spk-rl"]),
        ],
    ),
    "capacitor-rating": (
        Severity.STOP,
        [
            DOORS,
            put("links/speaker-sub/to_id", "spk-fl"),
            part_("series capacitor", capacitance_uf=100.0, rated_v=16.0, at_ids=["spk-fl"]),
        ],
    ),
    "coil-power": (
        Severity.WATCH,
        [
            DOORS,
            put("links/speaker-sub/to_id", "spk-fl"),
            part_("series coil", inductance_mh=0.3, rated_w=5.0, at_ids=["spk-fl"]),
        ],
    ),
    "beside-power": (
        Severity.WATCH,
        [
            DOORS,
            put("links/speaker-sub/to_id", "spk-fl"),
            Edit(
                op="add",
                path="links",
                value={"id": "mid", "kind": "speaker", "from_id": "amp", "to_id": "spk-rl", "channel": 1},
            ),
            catalogue_part("Pell & Fenn Dash 80, pair", "dash", 1.9, 0.0, at_ids=["spk-rl"], position=None),
            part_("series capacitor", capacitance_uf=220.0, at_ids=["spk-rl"]),
        ],
    ),
    "no-such-filter": (
        Severity.WATCH,
        [put("links/speaker-sub/filter_family", "Linkwitz-Riley"), put("links/speaker-sub/filter_slope_db", 18)],
    ),
    "high-pass-low": (
        Severity.WATCH,
        [DOORS, put("links/speaker-sub/to_id", "spk-fl"), put("links/speaker-sub/high_pass_hz", 30.0)],
    ),
    "crossover-apart": (
        Severity.WATCH,
        [
            put("parts/amp/channel_count", 2),
            DOORS,
            Edit(
                op="add",
                path="links",
                value={"id": "door", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 2},
            ),
            put("links/speaker-sub/low_pass_hz", 40.0),
        ],
    ),
    "boost-costs": (
        Severity.WATCH,
        [put("links/speaker-sub/bands", [{"kind": "low shelf", "centre_hz": 60.0, "gain_db": 9.0, "q": 0.7}])],
    ),
    "tap-bands": (
        Severity.STOP,
        [
            DOORS,
            put("links/speaker-sub/to_id", "spk-fl"),
            *(fact(f"{V}/radio/channels/ch-r{side}/band", "low range") for side in "lr"),
        ],
    ),
    "driven-twice": (
        Severity.STOP,
        [
            DOORS,
            put("links/speaker-sub/to_id", "spk-fl"),
            Edit(
                op="add",
                path="links",
                value={"id": "s2", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 2},
            ),
        ],
    ),
    "wired-twice": (
        Severity.STOP,
        [Edit(op="add", path="links", value={"id": "t2", "kind": "tap", "from_ids": ["ch-fl"], "to_id": "converter"})],
    ),
    "radio-twice": (Severity.STOP, [LINE_RADIO, part_("radio", depth_mm=160.0)]),
    "parked": (Severity.WATCH, [put("parts/amp/standby_a", 0.06)]),
    "tap-dead": (Severity.STOP, [RADIO_OUT]),
    "tap-read-before": (Severity.WATCH, [*FIXED_AMP, LINE_RADIO, put("links/tap-converter/from_ids", ["famp-rl"])]),
    "tap-axle": (Severity.WATCH, [DOORS, put("links/speaker-sub/to_id", "spk-fl")]),
    "tap-response": (
        Severity.WATCH,
        [Edit(op="add", path=f"{V}/responses", value={"id": "r", "name": "Rear", "hz": HZ, "level_db": LEAN})],
    ),
    "response-worse": (
        Severity.NOTE,
        [
            Edit(
                op="add",
                path=f"{V}/responses",
                value={
                    "id": f"r{n}",
                    "name": "Seat",
                    "measured_at": "at the driver's head",
                    "taken": taken,
                    "hz": HZ,
                    "level_db": [n * level for level in LEAN],
                },
            )
            for n, taken in ((1, "before the work"), (3, "after it"))
        ],
    ),
    "drop-test": (
        Severity.WATCH,
        [
            Edit(
                op="add",
                path="drop_readings",
                value={
                    "id": "d",
                    "consumer_id": "amp",
                    "section": "body there to body at the battery",
                    "current_a": 10.0,
                    "voltage_v": {"value": 0.03, "basis": "measured"},
                },
            )
        ],
    ),
    "fuse-opens-late": (
        Severity.STOP,
        [put(f"{P}/wire/size", "14 AWG"), put(f"{P}/fuse/rating_a", 300.0)],
    ),
    "breaking-capacity": (Severity.NOTE, [put("parts/holder/family", "maxi")]),
    "not-selective": (Severity.NOTE, BLOCKED),
    "player-turned-down": (Severity.WATCH, [fact(f"{V}/radio/player_under_db", 6.0)]),
    "player-levels": (
        Severity.WATCH,
        [
            *VOLUME,
            put(f"{V}/volume_steps/r-12-1000/source_level", "half"),
            put(f"{V}/volume_steps/r-14-1000/source_level", "full"),
        ],
    ),
    "usual-step-distorts": (Severity.WATCH, [*VOLUME, fact(f"{V}/radio/usual_step", 24.0)]),
    "gain-kept": (Severity.STOP, [put("parts/converter/gain_kept_db", -1.0)]),
    "sensitivity-kept": (Severity.STOP, [put("links/speaker-sub/sensitivity_kept_v", 2.0)]),
    "volume-contradiction": (Severity.WATCH, VOLUME),
    "hiss": (
        Severity.WATCH,
        [*VOLUME, fact(f"{V}/radio/usual_step", 11.0), *amp(noise_dbv=-70.0), put("parts/converter/noise_dbv", -55.0)],
    ),
    "filters-stacked": (
        Severity.WATCH,
        [put("links/line-amp/low_pass_hz", 80.0), put("links/speaker-sub/low_pass_hz", 80.0)],
    ),
    "pair-set-twice": (
        Severity.STOP,
        [
            Edit(
                op="add",
                path="links",
                value={
                    "id": "line-b",
                    "kind": "line",
                    "from_id": "converter",
                    "to_id": "amp",
                    "pair": 1,
                    "low_pass_hz": 90.0,
                },
            )
        ],
    ),
    "centre-one-side": (
        Severity.WATCH,
        [
            Edit(
                op="add",
                path=f"{V}/speakers",
                value={
                    "id": "spk-c",
                    "name": "Centre",
                    "place": "dash",
                    "position": {"x_m": 1.5, "y_m": 0.0},
                    "impedance_ohm": {"value": 4.0, "basis": "documented"},
                },
            ),
            put("links/speaker-sub/to_id", "spk-c"),
            *amp(channel_count=2),
        ],
    ),
    "bands-unequal": (
        Severity.NOTE,
        [
            DOORS,
            put("parts/doors/role", "woofer"),
            put("parts/doors/sensitivity_db", 98.0),
            put("links/speaker-sub/to_id", "spk-fl"),
            *amp(channel_count=2),
            put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"),
            Edit(
                op="add",
                path="parts",
                value={**DOORS.value, "id": "treble", "at_ids": ["spk-rl"], "role": "tweeter", "sensitivity_db": 90.0},
            ),
            Edit(
                op="add",
                path="links",
                value={"id": "speaker-t", "kind": "speaker", "from_id": "amp", "to_id": "spk-rl", "channel": 2},
            ),
        ],
    ),
    "treble-twice": (
        Severity.NOTE,
        [
            DOORS,
            put("parts/doors/role", "woofer"),
            put("links/speaker-sub/to_id", "spk-fl"),
            *amp(channel_count=2),
            put(f"{V}/speakers/spk-rl/tweeter", True),
            put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"),
            Edit(
                op="add",
                path="links",
                value={"id": "speaker-t", "kind": "speaker", "from_id": "amp", "to_id": "spk-rl", "channel": 2},
            ),
        ],
    ),
    "bass-lost-in-transformer": (Severity.WATCH, [put("parts/converter/low_hz", 30.0)]),
    "pad-grounds-bridged": (Severity.STOP, [put("parts/converter/principle", "resistors")]),
    "audio-sensing": (
        Severity.STOP,
        [
            *VOLUME,
            fact(f"{V}/radio/usual_step", 11.0),
            put("parts/converter/senses_audio", True),
            put("parts/converter/sense_v", 3.0),
        ],
    ),
    "cable-takes-treble": (
        Severity.WATCH,
        [put("parts/converter/output_ohm", 60_000.0), *amp(input_ohm=60_000.0)],
    ),
    "hum-expected": (
        Severity.WATCH,
        [fact(f"{V}/supply/body_return_ohm", 0.02), *amp(idle_current_a=3.0)],
    ),
    "delay-nowhere": (Severity.WATCH, [put("links/speaker-sub/delay_ms", 2.0)]),
    "crossing-hole": (Severity.NOTE, [put("links/speaker-sub/delay_ms", 6.0)]),
    "in-line-idle": (Severity.STOP, [IN_LINE]),
    "crossover": (
        Severity.WATCH,
        [put("parts/amp/low_pass_low_hz", 100.0), put("parts/amp/low_pass_high_hz", 250.0)],
    ),
    "box-opening": (Severity.STOP, [put("parts/sub/cut_out_mm", 232.0), put("parts/box/cut_out_mm", 278.0)]),
    "line-channels": (Severity.STOP, [put("links/line-amp/channels", [1, 4])]),
    "line-from-old-radio": (Severity.STOP, [NEW_RADIO, put("links/line-amp/from_id", "radio")]),
    "pair-reading": (Severity.WATCH, [fact(f"{V}/radio/channels/ch-fl/pair_resistance_ohm", 60.0)]),
    "bass-rolled-off": (Severity.WATCH, [reading(s, hz, v) for hz, rows in ROLLED.items() for s, v in rows]),
    "standby": (
        Severity.WATCH,
        [fact(f"{V}/supply/standby_current_a", 0.35), fact(f"{V}/supply/batteries/battery/capacity_ah", 60.0)],
    ),
    "earlier-damage": (Severity.STOP, [DAMAGE]),
    "function-lost": (Severity.STOP, [happens("taken out")]),
    "phase-rework": (Severity.NOTE, [put("parts/amp/phase", "later")]),
    "stage-due": (
        Severity.NOTE,
        [
            *PLAIN_CAR,
            DOORS,
            put("parts/doors/stands", "already in the car"),
            catalogue_part("Tessel M300", "next", 3.3, 0.0, phase="later"),
        ],
    ),
    "parts-waiting": (Severity.NOTE, [put("parts/amp/lead_days", 12)]),
    "customer-part": (Severity.NOTE, [put("parts/amp/by_customer", True)]),
    "self-fed": (
        Severity.STOP,
        [
            Edit(
                op="add",
                path="parts",
                value={"id": "flat", "kind": "accessory", "name": "Flat box", "category": "other", "current_a": 9.0},
            )
        ],
    ),
    "speaker-level-input": (
        Severity.STOP,
        [
            FLAT,
            Edit(
                op="add", path="links", value={"id": "tap-flat", "kind": "tap", "from_ids": ["ch-rl"], "to_id": "flat"}
            ),
        ],
    ),
    "bass-beside-own": (
        Severity.NOTE,
        [
            put(f"{V}/radio/channels/ch-rr/place", "subwoofer"),
            *amp(channel_count=2),
            add("links", {"id": "own", "kind": "speaker", "from_id": "amp", "to_id": "spk-rr", "channel": 2}),
        ],
    ),
    "runs-side-by-side": (
        Severity.NOTE,
        [
            catalogue_part("Tessel M300", "amp2", 4.1, 0.1),
            add("links", {"id": "p2", "kind": "power", "from_id": "battery", "to_id": "amp2", "fuse": {}}),
        ],
    ),
    "fresh-through-doors": (
        Severity.NOTE,
        [
            put("intake/reversible", False),
            put("links/speaker-sub/to_id", "spk-fl"),
            *amp(channel_count=2, ratings=[{"load_ohm": 4.0, "power_w": 60.0}]),
            add("links", {"id": "r", "kind": "speaker", "from_id": "amp", "to_id": "spk-fr", "channel": 2}),
        ],
    ),
    "factory-wire-power": (Severity.WATCH, [put("links/speaker-sub/factory_wire", True)]),
    "pin-number": (Severity.STOP, [put(f"{PINS}/c9/number", 10)]),
    "pin-found": (Severity.STOP, [put(f"{PINS}/c15/off_v", 12.4)]),
    "pin-mirror": (Severity.WATCH, [put(f"{PINS}/c13/base", "white"), put(f"{PINS}/c13/tracer", "red")]),
    "pin-colour": (Severity.WATCH, [put(f"{PINS}/c12/base", "black"), put(f"{PINS}/c12/tracer", None)]),
    "pin-airbag": (Severity.NOTE, [fact(f"{PINS}/c10/use", "airbag, leave alone")]),
    "pin-damage": (Severity.STOP, [put(f"{PINS}/c4/condition", "cut")]),
    "speaker-negative-ground": (Severity.STOP, [put(f"{PINS}/c4/body_ohm", 1.2)]),
    "joint-double": (Severity.STOP, [put(f"{PINS}/c3/channel_id", "ch-rl")]),
    "joint-gauge": (Severity.STOP, [put(f"{PINS}/c4/joint", "crimp butt"), put(f"{PINS}/c4/area_mm2", 0.2)]),
    "joint-later": (Severity.WATCH, [put(f"{PINS}/c4/joint", "crimp butt"), RADIO_LATER]),
    "lead-missing": (Severity.STOP, [NEW_RADIO, fact(f"{PINS}/c16/use", "something else")]),
    "pair-reach": (Severity.WATCH, [fact(f"{V}/radio/channels/ch-fl/pair_resistance_ohm", 7.4)]),
    "channel-clash": (Severity.STOP, [put("links/speaker-sub/channel", 2)]),
    "wire-on-reel": (Severity.WATCH, [part_("wire", wire_size="4 AWG", on_reel_m=2.0)]),
    "line-cable-bought": (Severity.WATCH, [part_("line cable", length_m=2.0)]),
    "laid-unread": (Severity.STOP, [SECOND, CHARGED, put("links/charge/in_car", True)]),
    "fuse-unread": (Severity.NOTE, [put("links/power-amp/in_car", True)]),
    "coils-unread": (Severity.STOP, [put("links/speaker-sub/in_car", True)]),
    "laid-for-what-stays": (Severity.NOTE, amp(stands="already in the car")),
    "place-empty": (
        Severity.STOP,
        [
            add(
                "coming_out",
                {
                    "id": "unit",
                    "goes": "part out",
                    "name": "Screen",
                    "is_radio": True,
                    "instead": "Factory radio",
                    "instead_is": "not there any more",
                },
            )
        ],
    ),
    "place-waiting": (
        Severity.STOP,
        [
            add(
                f"{V}/speakers",
                {"id": "new", "name": "Dash corner", "position": {"x_m": 1.3, "y_m": 0.4}, "new_place": True},
            )
        ],
    ),
    "pieces-over": (Severity.NOTE, [DOORS, put("parts/doors/pieces", 4)]),
    "radio-unswitched": (
        Severity.STOP,
        [
            NEW_RADIO,
            add(
                "links",
                {
                    "id": "unit-feed",
                    "kind": "feed",
                    "from_id": "radio-constant",
                    "to_id": "unit",
                    "ground_point_id": "ground-radio",
                },
            ),
        ],
    ),
    "plug-in-level": (
        Severity.WATCH,
        [
            part_("accessory", category="amplifier adapter"),
            catalogue_part("Tessel P5 plug-in amplifier", "five", 1.9, 0.0),
        ],
    ),
    "adapter-risk": (
        Severity.NOTE,
        [
            part_("accessory", category="amplifier adapter", line_v=2.0, line_pairs=2),
            put("links/line-amp/from_id", "bought"),
        ],
    ),
    "way-lacks": (Severity.STOP, [put("strategy", "factory radio hidden, a screen on its input")]),
    "papers-silent": (Severity.WATCH, [put("parts/amp/taken_as_usual", ["ratings"])]),
    "pack-short": (Severity.STOP, [DOORS, put("parts/doors/pieces", 1)]),
    "woofer-alone": (Severity.WATCH, [DOORS, put("parts/doors/role", "woofer")]),
    "sides-unlike": (Severity.WATCH, [SMALL]),
    "ring-hollow": (
        Severity.STOP,
        [part_("mounting ring", thickness_mm=12.0, opening_mm=142.0, outer_mm=142.0)],
    ),
    "part-idle": (Severity.WATCH, [part_("fuse holder", family="strip", terminal_area_max_mm2=33.0)]),
    "fuse-bought": (Severity.STOP, [part_("fuse", rating_a=300.0)]),
    "distribution-block": (
        Severity.STOP,
        [
            part_("distribution block", ways=2, in_area_max_mm2=53.0, out_area_max_mm2=33.0),
            *(behind(n) for n in (1, 2, 3)),
        ],
    ),
    "module-graph": (Severity.WATCH, [HUB, feeds("radio", "hub"), feeds("hub", "radio")]),
    "second-battery": (Severity.WATCH, [LEISURE]),
    "starter-played": (Severity.NOTE, CAMPED),
    "listening-short": (
        Severity.WATCH,
        [fact(f"{V}/supply/batteries/battery/capacity_ah", 40.0), put("use/listens_h", 50.0)],
    ),
    "load-below-permitted": (
        Severity.STOP,
        [put("parts/amp/lowest_load_ohm", 4.0), put("links/speaker-sub/wiring", "parallel(1,2)")],
    ),
    "driver-underpowered": (Severity.WATCH, [put("links/speaker-sub/wiring", "series(1,2)")]),
    "driver-overpowered": (
        Severity.WATCH,
        [put("parts/sub/power_rms_w", 200.0), put("links/speaker-sub/wiring", "parallel(1,2)")],
    ),
    "fuse-above-ampacity": (Severity.STOP, [put(f"{P}/fuse/rating_a", 150.0)]),
    "fuse-below-current": (Severity.STOP, [put(f"{P}/fuse/rating_a", 40.0)]),
    "fuse-missing": (Severity.STOP, [put(f"{P}/fuse", None)]),
    "fuse-too-far": (Severity.STOP, [fact(f"{P}/fuse/from_source_m", 0.8)]),
    "drop-over-policy": (Severity.STOP, [put(f"{P}/wire/size", "8 AWG")]),
    "ground-lead": (Severity.STOP, [put(f"{G}/wire/size", "8 AWG")]),
    "ground-place": (Severity.STOP, [fact(f"{V}/ground_points/ground-rear/kind", "seat bolt")]),
    "terminal-too-small": (Severity.STOP, [put(f"{P}/wire/size", "1/0 AWG")]),
    "supply-system": (Severity.STOP, [fact(f"{V}/supply/system", "24 V")]),
    "smart-alternator": (
        Severity.NOTE,
        [put(f"{V}/supply/kind", "smart alternator"), fact(f"{V}/supply/post_traffic_v", 12.4)],
    ),
    "dc-dc-limit": (
        Severity.STOP,
        [put(f"{V}/supply/kind", "DC-DC converter"), fact(f"{V}/supply/dc_dc_limit_a", 40.0)],
    ),
    "feed-fuse": (Severity.STOP, [put(f"{F}/fuse/rating_a", 30.0)]),
    "feed-drop": (
        Severity.WATCH,
        [
            put("parts/converter/supply_current_a", 12.0),
            put(f"{F}/wire/size", "16 AWG"),
            fact(f"{F}/tape_length_m", 2.0),
        ],
    ),
    "feed-return": (
        Severity.WATCH,
        [put("parts/converter/supply_current_a", 12.0), fact(f"{V}/supply/body_return_ohm", 0.03)],
    ),
    "feed-unneeded": (Severity.WATCH, [put("parts/converter/active", False)]),
    "frame-floats": (Severity.WATCH, [put(f"{V}/body", "cart"), put(f"{V}/supply/body_return_ohm/basis", "assumed")]),
    "place-twice": (Severity.STOP, [DOORS, SMALL]),
    "box-for-a-speaker": (
        Severity.WATCH,
        [DOORS, put(f"{V}/speakers/spk-fl/place", "box of its own"), put(f"{V}/speakers/spk-fl/new_place", True)],
    ),
    "power-claimed": (Severity.WATCH, [put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 1200.0}])]),
    "factory-system": (Severity.STOP, [fact(f"{V}/radio/tier", "digital or optical ring")]),
    "hidden-room": (Severity.NOTE, [LINE_RADIO, HIDDEN]),
    "system-unsaid": (Severity.WATCH, [fact(f"{V}/radio/tier", "digital or optical ring")]),
    "tap-band": (Severity.WATCH, [fact(f"{V}/radio/tap_low_hz", 80.0)]),
    "converter-overloaded": (Severity.STOP, [put("parts/converter/input_limit_v", 9.0)]),
    "sensitivity-out-of-range": (
        Severity.WATCH,
        [put("parts/converter/gain_high_db", -23.0), put("parts/amp/sensitivity_low_v", 2.0)],
    ),
    "bridged-output-grounded": (Severity.STOP, [put("links/tap-converter/negative_to_body", True)]),
    "power-beside-signal": (
        Severity.WATCH,
        [put("links/line-amp/way_points", [{"x_m": 1.86, "y_m": -0.6}, {"x_m": 3.62, "y_m": -0.6}])],
    ),
    "switch-on": (Severity.STOP, [put("links/remote-amp/from_id", "radio-constant")]),
    "converter-feed-states": (Severity.WATCH, [put(f"{F}/from_id", "radio-switched")]),
    "cost-over-budget": (Severity.WATCH, [put("intake/budget", 300.0)]),
    "splice-on-reversible": (Severity.STOP, [put("links/tap-converter/method", "splice")]),
    "must-keep": (Severity.NOTE, []),
    "supply-unreached": (
        Severity.STOP,
        [
            part_("distribution block", in_area_max_mm2=53.0, out_area_max_mm2=33.0),
            put("links/power-amp/from_id", "bought"),
        ],
    ),
    "supply-twice": (
        Severity.STOP,
        [
            Edit(
                op="add",
                path="links",
                value={"id": "again", "kind": "ground", "from_id": "amp", "to_id": "ground-rear"},
            )
        ],
    ),
    "supply-collapses": (Severity.STOP, [fact(f"{V}/supply/body_return_ohm", 0.078)]),
    "function-part": (Severity.STOP, [happens("replaced")]),
    "promise-absent": (Severity.NOTE, [fact(f"{V}/functions/fn-chimes/has_it", False)]),
    "one-filter": (
        Severity.WATCH,  # a subwoofer's low-pass beside a door's high-pass
        [
            put("parts/amp/channel_count", 2),
            add("links", {"id": "to-fl", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 2}),
        ],
    ),
    "one-knob": (
        Severity.WATCH,
        [
            put("parts/amp/channel_count", 2),
            put("parts/amp/speaker_level_high_v", 20.0),
            *(
                add(
                    "links",
                    {"id": f"to-{name}", "kind": "speaker", "from_id": "amp", "to_id": name, "channel": n} | kept,
                )
                for n, name, kept in ((1, "spk-fl", {"sensitivity_kept_v": 4.0}), (2, "spk-fr", {}))
            ),
        ],
    ),
    "stereo": (
        Severity.WATCH,
        [
            add("links", {"id": f"to-{name}", "kind": "speaker", "from_id": "amp", "to_id": name, "channel": 1})
            for name in ("spk-fl", "spk-fr")
        ],
    ),
    "chimes-asleep": (
        Severity.WATCH,
        [
            add("links", {"id": "front", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 1}),
            put("links/remote-amp/from_id", "radio-switched"),
        ],
    ),
    "radio-unsaid": (
        Severity.STOP,
        [
            put("intake/must_keep", ["hands-free"]),
            add(f"{V}/functions", {"id": "talk", "kind": "hands-free", "made_by_id": "radio"}),
            NEW_RADIO,
        ],
    ),
    "camera-picture": (
        Severity.NOTE,
        [happens("replaced"), add(f"{V}/functions", {"id": "cam", "kind": "reversing camera", "made_by_id": "radio"})],
    ),
    "camera-on-reversible": (Severity.NOTE, [put("intake/reversible", True), part_("accessory", category="camera")]),
    "camera-unseen": (Severity.STOP, [part_("accessory", category="camera")]),
    "promise-unjudged": (Severity.STOP, [put(f"{V}/functions", [])]),
    "speaker-silent": (Severity.STOP, [happens("taken out")]),
    "treble-alone": (
        Severity.STOP,
        [catalogue_part("Morrowick T25 tweeter, pair", "domes", 1.5, 0.0, at_ids=["spk-fl", "spk-fr"], position=None)],
    ),
    "tweeter-unprotected": (
        Severity.STOP,
        [catalogue_part("Morrowick T25 tweeter, pair", "domes", 1.5, 0.0, at_ids=["spk-fl", "spk-fr"], position=None)],
    ),
    "tweeter-resonance": (
        Severity.WATCH,
        [
            catalogue_part(
                "Morrowick T25 tweeter, pair",
                "domes",
                1.5,
                0.0,
                at_ids=["spk-fl", "spk-fr"],
                position=None,
                fs_hz=1700.0,
            ),
            catalogue_part("Morrowick X3 crossover, pair", "net", 1.5, 0.0, at_ids=["spk-fl", "spk-fr"], position=None),
        ],
    ),
    "amplifier-unfed": (Severity.STOP, [*FIXED_AMP, LINE_TO_AMP, happens("replaced")]),
    "part-unwired": (Severity.STOP, [part_("distribution block", ways=2, in_area_max_mm2=53.0, out_area_max_mm2=33.0)]),
    "nothing-judged": (Severity.STOP, [*PLAIN_CAR, part_("wire", wire_size="4 AWG", on_reel_m=5.0)]),
    "driver-boxless": (Severity.STOP, [remove("parts/box")]),
    "speaker-cable": (
        Severity.WATCH,
        [put("links/speaker-sub/wire/size", "18 AWG"), fact("links/speaker-sub/tape_length_m", 4.0)],
    ),
    "stays-awake": (Severity.STOP, [put("parts/converter/senses_audio", False)]),
    "leads-one-fuse": (Severity.WATCH, [put(f"{P}/wire/leads", 2), put(f"{P}/wire/size", "8 AWG")]),
    "leads-fed-back": (
        Severity.WATCH,
        [put(f"{P}/wire/leads", 3), put(f"{P}/fuse_each", True), put(f"{P}/wire/size", "8 AWG")],
    ),
    "holder-full": (Severity.STOP, [put(f"{F}/fuse/holder_id", "holder")]),
    "inputs-joined": (
        Severity.NOTE,
        [
            remove("parts/converter"),
            *amp(channel_count=4, speaker_level_high_v=20.0),
            add("links", {"id": "tap", "kind": "tap", "from_ids": ["ch-rl", "ch-rr"], "to_id": "amp"}),
            add("links", {"id": "door", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 3}),
        ],
    ),
    "lines-idle": (
        Severity.NOTE,
        [put(f"{V}/radio/tier/value", "aftermarket radio"), fact(f"{V}/radio/line_pairs", 3)],
    ),
    "adapter-missing": (Severity.STOP, [remove("parts/adapter")]),
    "caution-licensed": (Severity.NOTE, []),
    "caution-negative-first": (Severity.NOTE, []),
    "caution-airbags": (Severity.NOTE, []),
    "caution-high-voltage": (Severity.WATCH, [put(f"{V}/powertrain", "hybrid")]),
    "caution-video": (Severity.NOTE, [put("intake/wishes", ["a modern screen"])]),
    "caution-drilling": (Severity.NOTE, []),
    "caution-battery-gas": (Severity.NOTE, []),
    "caution-capacitor": (Severity.NOTE, [catalogue_part("1 farad capacitor", "cap", 3.5, 0.3)]),
    "caution-hearing": (Severity.NOTE, []),
    "caution-heavy-box": (Severity.NOTE, []),
    "caution-anchors": (Severity.NOTE, []),
    "caution-roof": (Severity.NOTE, [FOLDED]),
}

# Rules whose trigger the estate has: what takes it away.
PASSING: dict[str, list[Edit]] = {
    "made-for-which": [put("parts/adapter/stands", "ordered")],
    "usual-drive": [fact(f"{V}/supply/batteries/battery/capacity_ah", 70.0)],
    "opening-unknown": [],
    "must-keep": [put("intake/must_keep", [])],
    "caution-negative-first": [remove("links/power-amp")],
    "caution-airbags": [fact(f"{V}/seat_airbags", False)],
    "caution-drilling": [fact(f"{V}/ground_points/ground-rear/kind", "factory ground bolt")],
    "stud-on-reversible": [fact(f"{V}/ground_points/ground-rear/kind", "factory ground bolt")],
    "caution-battery-gas": [remove("links/power-amp")],
    "caution-hearing": [put("parts/sub/sensitivity_db", None)],
    "caution-heavy-box": [put("parts/box/mass_kg", 2.0)],
    "caution-anchors": PLAIN_CAR,
}

# Other ways the same rule speaks: (rule, severity, edits, words in the title).
MORE: list[tuple[str, Severity, list[Edit], str]] = [
    (
        "fuse-unread",
        Severity.NOTE,
        [put("links/power-amp/in_car", True), put("links/power-amp/wire/size", "4 AWG")],
        "to Tessel M500 was not read: one of 60 A goes in",
    ),
    ("fuse-unread", Severity.NOTE, [SECOND, CHARGED, put("links/charge/in_car", True)], "to Second battery was not"),
    (
        "fuse-unread",
        Severity.NOTE,
        [put("links/feed-converter/in_car", True), put("links/feed-converter/wire/size", "18 AWG")],
        "to Sprig LC2 active was not read: one of 5 A",
    ),
    (
        "bass-lost-in-transformer",
        Severity.WATCH,
        [put("parts/converter/principle", "transformers"), put("parts/converter/low_hz", None)],
        "works by transformers: how low it plays is not on file",
    ),
    ("ground-lead", Severity.WATCH, [fact(f"{G}/tape_length_m", 1.4)], "1.40 m long"),
    ("fuse-size", Severity.NOTE, [put("parts/amp/fuses_a", [62.0]), put(f"{P}/fuse/rating_a", 100.0)], "100 A where"),
    (
        "power-claimed",  # energy: two fuses of 30 A at the 14.4 V of the rating standard are 864 W
        Severity.STOP,
        [put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 1300.0}])],
        "1300 W RMS claimed, 864 W go in",
    ),
    (
        "screws-over-hole",
        Severity.STOP,
        [DOORS, put("parts/doors/frame_mm", 150.0), fact(f"{V}/speakers/spk-fr/cut_out_mm", 151.0)],
        "falls through",
    ),
    (
        "feed-drop",  # 25 A over 2 m of 1.31 mm² (ASTM B258, from memory), 13.2 mΩ a metre
        Severity.STOP,
        [
            put("parts/converter/supply_current_a", 25.0),
            put(f"{F}/wire/size", "16 AWG"),
            fact(f"{F}/tape_length_m", 2.0),
        ],
        "0.66 V lost in 16 AWG from Radio constant feed",
    ),
    ("ground-place", Severity.STOP, [fact(f"{V}/ground_points/ground-rear/kind", "seat-belt bolt")], "Never ground"),
    ("ground-place", Severity.STOP, [put(f"{V}/ground_points/ground-rear/kind", {"value": None})], "Not known"),
    (
        "ground-place",
        Severity.WATCH,
        [fact(f"{V}/ground_points/ground-rear/kind", "self-tapping screw")],
        "self-tapping",
    ),
    ("ground-place", Severity.NOTE, [fact(f"{V}/ground_points/ground-rear/kind", "factory ground bolt")], "factory"),
    ("ground-place", Severity.STOP, [fact(f"{V}/ground_points/ground-radio/kind", "seat-belt bolt")], "Never ground"),
    ("ground-place", Severity.STOP, [put(f"{V}/ground_points/ground-radio/kind", {"value": None})], "Not known"),
    (
        "drilled-on-reversible",
        Severity.WATCH,
        [put(f"{V}/passages/bulkhead/needs_drilling", {"value": None})],
        "must be",
    ),
    ("fuse-below-current", Severity.WATCH, [put(f"{P}/fuse/rating_a", 50.0)], "little head-room"),
    ("fuse-missing", Severity.STOP, [put(f"{F}/fuse", None)], "converter's feed"),
    ("fuse-too-far", Severity.STOP, [put(f"{P}/fuse/from_source_m", {"value": None})], "Not known"),
    (
        "drop-over-policy",
        Severity.WATCH,
        [put("policy/drop_limit_v", 0.40), put(f"{P}/wire/size", "4 AWG")],
        "Hot, the loss passes the limit: 0.41 V",
    ),
    (
        "terminal-too-small",
        Severity.STOP,
        [put("parts/holder/terminal_area_max_mm2", 10.0), put(f"{P}/wire/size", "4 AWG")],
        "fuse holder",
    ),
    (
        "sensitivity-out-of-range",
        Severity.STOP,
        [
            put("parts/converter/gain_low_db", -1.0),
            put("parts/converter/gain_high_db", 0.0),
            put("parts/converter/output_limit_v", 9.5),
        ],
        "spans",
    ),
    (
        "converter-overloaded",
        Severity.STOP,
        [put("parts/converter/gain_low_db", -1.0), put("parts/converter/gain_high_db", 0.0)],
        "output clips",
    ),
    (
        "switch-on",
        Severity.STOP,
        [put("links/remote-amp/from_id", "radio-switched"), fact(f"{V}/feeds/radio-switched/limit_a", 0.04)],
        "gives 0.04 A",
    ),
    (
        "switch-on",
        Severity.STOP,
        [
            put("links/remote-amp/from_id", "radio-switched"),
            fact(f"{V}/feeds/radio-switched/limit_a", 0.16),
            put("parts/amp/remote_current_a", 0.2),
        ],
        "gives 0.16 A, 0.20 A",
    ),
    (
        "switch-on",
        Severity.STOP,
        [put("links/remote-amp/from_id", "radio-switched"), put(f"{V}/feeds/radio-switched/live", {"value": None})],
        "Not known",
    ),
    (
        "switch-on",
        Severity.WATCH,
        [put("links/remote-amp/from_id", "radio-switched"), fact(f"{V}/feeds/radio-switched/live", ["on", "cranking"])],
        "not live in accessory",
    ),
    (
        "factory-system",
        Severity.WATCH,
        [fact(f"{V}/radio/tier", "radio with amplifier"), put(f"{V}/radio/tap_low_hz/value", None)],
        "factory amplifier",
    ),
    ("box-travel", Severity.NOTE, [put("parts/sub/xmax_mm", None)], "its papers give no Xmax"),
    ("tap-band", Severity.NOTE, [put("links/tap-converter/channel_ids", ["ch-rl"])], "one side"),
    ("converter-feed-states", Severity.STOP, [put(f"{F}/ground_point_id", None)], "no ground"),
    (
        "bridged-output-grounded",
        Severity.STOP,
        [put("links/tap-converter/negative_to_body", True), put(f"{V}/radio/bridged", {"value": None})],
        "Never ground",
    ),
    (
        "dc-dc-limit",
        Severity.WATCH,
        [put(f"{V}/supply/kind", "DC-DC converter"), fact(f"{V}/supply/dc_dc_limit_a", 80.0)],
        "DC-DC",
    ),
    ("link-missing", Severity.STOP, [remove("links/feed-converter")], "feed of its own"),
    ("supply-system", Severity.STOP, [fact(f"{V}/supply/system", "6 V")], "6 V car: refused"),
    ("supply-system", Severity.STOP, [put(f"{V}/supply/system", {"value": None})], "whether it is a 12 V car"),
    ("supply-system", Severity.WATCH, [put(f"{V}/supply/positive_ground", {"value": None})], "which pole"),
    ("fit", Severity.WATCH, [DOORS, fact(f"{V}/speakers/spk-fl/window_depth_mm", 57.0)], "only 2 mm spare"),
    (
        "fit",
        Severity.STOP,
        [DOORS, fact(f"{V}/speakers/spk-fr/trim_clearance_mm", 10.0)],
        "room in front, 2 mm missing",
    ),
    ("fit", Severity.STOP, [fact(f"{V}/spaces/space-rear/height_m", 0.30)], "in its space, 40 mm missing"),
    ("fit", Severity.STOP, [fact(f"{V}/spaces/space-rear/opening_height_m", 0.30)], "through the way in"),
    (
        "channel-load",
        Severity.WATCH,
        [
            DOORS,
            put("parts/doors/impedance_ohm", 4.0),
            *(fact(f"{V}/speakers/spk-f{s}/impedance_ohm", 8.0) for s in "lr"),
        ],
        "4 Ω where 8 Ω was",
    ),
    (
        "caution-video",
        Severity.NOTE,
        [put("intake/wishes", []), NEW_RADIO, put("parts/unit/screen", True)],
        "The video lock stays",
    ),
    ("channel-load", Severity.NOTE, [DOORS, put("parts/doors/impedance_ohm", 8.0)], "8 Ω where 4 Ω was"),
    (
        "channel-load",
        Severity.STOP,
        [
            DOORS,
            put(f"{V}/speakers/spk-rl/channel_id", "ch-fl"),
            put(f"{V}/speakers/spk-rl/paired_with_id", "spk-fl"),
            put("parts/doors/impedance_ohm", 2.0),
        ],
        "1.33 Ω on Front left, which wants 4 Ω",
    ),
    ("factory-system", Severity.STOP, [fact(f"{V}/radio/tier", "no radio")], "no radio to take a signal from"),
    ("factory-system", Severity.STOP, [*FIXED_AMP], "Fixed level before"),
    (
        "factory-system",
        Severity.WATCH,
        [*FIXED_AMP, fact(f"{V}/modules/famp/load_sensing", True), put("links/tap-converter/channel_ids", ["famp-rl"])],
        "senses its load",
    ),
    (
        "factory-system",
        Severity.WATCH,
        [*FIXED_AMP, fact(f"{V}/modules/famp/equalised", True), put("links/tap-converter/channel_ids", ["famp-rl"])],
        "equalises",
    ),
    (
        "factory-system",
        Severity.STOP,
        [*FIXED_AMP, fact(f"{V}/modules/famp/fitted", False), put("links/tap-converter/channel_ids", ["famp-rl"])],
        "not fitted",
    ),
    (
        "tap-channels",
        Severity.STOP,
        [*FIXED_AMP, put("links/tap-converter/channel_ids", ["famp-rl", "ch-rr"])],
        "two different boxes",
    ),
    ("tap-channels", Severity.NOTE, [fact(f"{V}/radio/channels/ch-rl/reaches", False)], "leads to no speaker"),
    ("earlier-damage", Severity.NOTE, [DAMAGE], "10 to 30 min extra, 10 to 30 EUR"),
    ("function-lost", Severity.WATCH, [happens("taken out")], "Clock would be lost"),
    (
        "phase-rework",
        Severity.NOTE,
        [LATER_RADIO, put("links/tap-converter/method", "splice")],
        "cut again for the later radio",
    ),
    (
        "tap-channels",
        Severity.STOP,
        [put("parts/converter/input_pairs", 1)],
        "2 pairs into Sprig LC2 active, which takes 1",
    ),
    (
        "terminal-too-small",
        Severity.STOP,
        [
            part_(
                "distribution block",
                ways=2,
                in_area_max_mm2=8.5,
                out_area_max_mm2=33.0,
                position={"x_m": 3.4, "y_m": -0.5},
            ),
            remove("links/power-amp"),
            behind(1),
            Edit(
                op="add",
                path="links",
                value={
                    "id": "main",
                    "kind": "power",
                    "from_id": "battery",
                    "to_id": "bought",
                    "wire": {"size": "4 AWG"},
                },
            ),
        ],
        "does not fit Bought's way in (8 AWG at most)",
    ),
    ("phase-rework", Severity.NOTE, [LATER_RADIO], "is bought for the time until"),
    ("function-part", Severity.STOP, [happens("replaced")], "kept by an interface, and none is among the parts"),
    ("function-lost", Severity.STOP, [put(f"{V}/speakers/spk-fl/channel_id", None)], "Chimes: not traced yet"),
    (
        "earlier-damage",
        Severity.NOTE,
        [DAMAGE, put(f"{V}/alterations/cut/about_id", "ch-fl")],
        "Cut wire: Rear left pair",
    ),
    (
        "starter-played",
        Severity.WATCH,
        [*CAMPED, put("use/listens_h", 3.0)],
        "Factory radio still plays from Battery",
    ),
    (
        "listening-short",
        Severity.WATCH,
        [*CAMPED, put("use/listens_h", 3.0)],
        "Whether Leisure battery plays for 3 h with the engine off was not judged",
    ),
    (
        "second-battery",
        Severity.STOP,
        [LEISURE, put(f"{P}/from_id", "camp")],
        "Not known: how Leisure battery is charged",
    ),
    (
        "second-battery",
        Severity.STOP,
        [LEISURE, put(f"{P}/from_id", "camp"), fact(f"{V}/supply/split_charging", "not at all")],
        "not charged on the road",
    ),
    (
        "second-battery",
        Severity.WATCH,
        [LEISURE, put(f"{P}/from_id", "camp"), fact(f"{V}/supply/split_charging", "diode isolator")],
        "0.7 V",
    ),
    (
        "second-battery",
        Severity.WATCH,
        [
            LEISURE,
            put(f"{P}/from_id", "camp"),
            fact(f"{V}/supply/split_charging", "relay"),
            fact(f"{V}/supply/batteries/camp/cut_off_v", 12.5),
            fact(f"{V}/supply/batteries/camp/own_resting_v", 12.6),
        ],
        "Cut-off at 12.50 V",
    ),
    (
        "fact-missing",
        Severity.STOP,
        [LEISURE, put(f"{P}/from_id", "camp")],
        "Leisure battery: own post, engine running",
    ),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/supply/post_cranking_v", 12.9)], "cranking"),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/supply/system", "24 V")], "24 V system, 12.61 V at rest"),
    ("facts-contradict", Severity.WATCH, [put(f"{V}/powertrain", "electric")], "electric car with an alternator"),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/radio/bridged", False)], "not bridged"),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/radio/source_voltage_v", 18.0)], "from a plain radio"),
    (
        "facts-contradict",
        Severity.WATCH,
        [*FIXED_AMP, fact(f"{V}/radio/tier", "plain radio"), fact(f"{V}/modules/famp/fitted", True)],
        "is fitted",
    ),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/speakers/spk-rl/own_capacitor", True)], "through a capacitor"),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/feeds/radio-constant/live", ["asleep"])], "dead with the key on"),
    ("facts-contradict", Severity.WATCH, [fact(f"{V}/wheelbase_m", 4.5)], "Wheelbase 4.50 m"),
    ("outside-body", Severity.STOP, [put(f"{V}/length_m", {"value": 3.4, "basis": "documented"})], "outside the body"),
    ("zone", Severity.WATCH, [put("parts/box/position", {"x_m": 3.25, "y_m": 0.3})], "child-seat anchor"),
    ("reading-implausible", Severity.WATCH, [fact(f"{V}/supply/body_return_ohm", 0.009)], "is unusual"),
    (
        "tap-dead",
        Severity.STOP,
        [
            put("links/line-amp/from_id", "radio"),
            Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"}),
        ],
        "Nothing plays where Tessel M500 takes its signal",
    ),
    ("supply-system", Severity.STOP, [fact(f"{V}/supply/system", "36 or 48 V pack")], "needs a converter"),
    ("supply-system", Severity.STOP, [fact(f"{V}/supply/positive_ground", True)], "refused"),
    (
        "smart-alternator",
        Severity.WATCH,
        [
            put(f"{V}/supply/kind", "smart alternator"),
            fact(f"{V}/supply/post_traffic_v", 12.4),
            fact(f"{V}/ground_points/ground-rear/kind", "battery negative"),
        ],
        "battery sensor",
    ),
    (
        "speaker-cable",
        Severity.STOP,
        [put("links/speaker-sub/wire/size", "18 AWG"), fact("links/speaker-sub/tape_length_m", 10.0)],
        "1.7 dB lost in 18 AWG speaker cable; the shop allows 0.2 dB",
    ),
    (
        "speaker-cable",
        Severity.STOP,
        [put("links/speaker-sub/wire/size", "22 AWG"), fact("links/speaker-sub/tape_length_m", 0.5)],
        "15.8 A in a 22 AWG speaker cable, which may carry 6 A",
    ),
    (
        "stays-awake",
        Severity.STOP,
        [put("parts/converter/senses_audio", False)],
        "never sleeps: 0.35 A day and night, 8.4 Ah a day",
    ),
    (
        "stays-awake",
        Severity.WATCH,
        [put("parts/converter/senses_audio", False), put("parts/converter/supply_current_a", 0.03)],
        "0.03 A day and night, 0.7 Ah a day",
    ),
    (
        "ground-lead",
        Severity.WATCH,
        [put(f"{G}/wire/material", "copper_clad_aluminium")],
        "Ground lead 4 AWG in copper-clad aluminium conducts less",
    ),
    (
        "function-part",
        Severity.STOP,
        [happens("replaced")],
        "Radio reception: kept by an aerial adapter, and none is among the parts",
    ),
    (
        "speaker-silent",
        Severity.STOP,
        [happens("taken out")],
        "4 speakers fall silent: Front left door, Front right door, Rear left door and Rear right door",
    ),
    (
        "supply-collapses",
        Severity.STOP,
        [fact(f"{V}/supply/body_return_ohm", 0.078)],
        "The supply of Tessel M500 collapses",
    ),
    ("fact-missing", Severity.NOTE, [put(f"{V}/supply/kind", "smart alternator")], "in traffic"),
    (
        "box-volume",
        Severity.STOP,
        [put("parts/box/boards/thickness_mm", 60.0), put("parts/box/height_m", 0.1)],
        "inside",
    ),
    (
        "box-volume",
        Severity.NOTE,
        [put("parts/box/boards/thickness_mm", 18.0), put("parts/sub/displaced_l", None)],
        "the air Morrowick 10 D4 takes is not on file",
    ),
    (
        "shared-return",
        Severity.STOP,
        [NEW_RADIO, put("links/line-amp/from_id", "unit"), fact(f"{V}/radio/shared_return", True)],
        "on speakers that share one return",
    ),
    ("box-driver-fits", Severity.STOP, [put("parts/box/boards/thickness_mm", 60.0)], "wants a hole of 233 mm"),
    (
        "box-driver-fits",
        Severity.WATCH,
        [
            put("parts/box/boards/thickness_mm", 18.0),
            put("parts/sub/mounting_depth_mm", None),
            put("parts/sub/cut_out_mm", None),
        ],
        "its papers give no mounting depth and cut-out",
    ),
    ("box-vent-length", Severity.WATCH, [*VENTED, put("parts/box/vents/diameter_mm", 150.0)], "the box 432 mm inside"),
    ("box-driver-papers", Severity.WATCH, [put("parts/sub/mms_g", 60.0)], "moving mass 60 g in its papers, 147 g by"),
    (
        "fact-missing",
        Severity.NOTE,
        [put(f"{V}/supply/batteries/battery/cca_a", {"value": None})],
        "cold cranking amps",
    ),
]


def speaking(design: Design, rule: str) -> list[Any]:
    return [f for f in evaluate(design, sweep_facts=RULES[rule].last).findings if f.rule == rule]


def test_findings_are_counted_by_their_stage(estate: Design) -> None:
    answer = evaluate(apply_edits(estate, FAILING["fuse-size"][1]))
    stages = {f.stage for f in answer.findings}
    for severity in Severity:
        listed = [f.stage for f in answer.findings if f.severity is severity]
        assert answer.count(severity) == len(listed) == sum(answer.count(severity, stage) for stage in stages)
        assert all(answer.count(severity, stage) == listed.count(stage) for stage in stages)
    assert answer.count(Severity.WATCH, "supply") > 0


def test_every_rule_has_a_case() -> None:
    assert set(FAILING) == set(RULES)


@pytest.mark.parametrize("rule", sorted(FAILING))
def test_rule_speaks_and_is_silent(rule: str, estate: Design) -> None:
    severity, edits = FAILING[rule]
    found = speaking(apply_edits(estate, edits), rule)
    assert found, f"{rule} is silent on its failing design"
    assert found[0].severity is severity
    assert found[0].title
    assert len(found[0].text) > 20 or rule == "feed-fuse"
    assert found[0].source.text
    if rule == "caution-licensed":
        return  # it always speaks
    passing = apply_edits(estate, PASSING[rule]) if rule in PASSING else estate
    allowed = [f for f in speaking(passing, rule) if f.severity is Severity.NOTE and rule == "ground-place"]
    assert speaking(passing, rule) == allowed, f"{rule} speaks on its passing design"


MENDED = [(rule, edits) for rule, (_, edits) in FAILING.items()] + [(rule, edits) for rule, _, edits, _ in MORE]


@pytest.mark.parametrize(("rule", "edits"), MENDED, ids=[rule for rule, _ in MENDED])
def test_what_a_finding_offers_mends_it(rule: str, edits: list[Edit], estate: Design) -> None:
    """Whatever a rule offers to do at a press, done by itself, leaves nothing as grave said of the same thing."""
    design = apply_edits(estate, edits)
    for finding in speaking(design, rule):
        if finding.remedy is None or not (finding.remedy.edits or finding.remedy.connect):
            continue
        after = speaking(apply_edits(design, edits_of(design, finding.remedy)), rule)
        left = [f.title for f in after if (f.about, f.severity) == (finding.about, finding.severity)]
        assert left == [], f"{finding.title}: {finding.remedy.label}"


@pytest.mark.parametrize(("rule", "severity", "edits", "words"), MORE)
def test_other_ways_a_rule_speaks(rule: str, severity: Severity, edits: list[Edit], words: str, estate: Design) -> None:
    found = speaking(apply_edits(estate, edits), rule)
    assert any(f.severity is severity and words in f.title for f in found), [f.title for f in found]


def _worst(design: Design) -> Callable[[str], int]:
    return lambda rule: min((f.severity.rank for f in speaking(design, rule)), default=9)


def test_machine_remedies_mend_what_they_name(estate: Design) -> None:
    """Applying a remedy silences its finding or lowers it, whatever the case."""
    tried = 0
    for rule, (_, edits) in FAILING.items():
        broken = apply_edits(estate, edits)
        for finding in speaking(broken, rule):
            if finding.remedy and finding.remedy.edits:
                mended = apply_edits(broken, edits_of(broken, finding.remedy))
                after = [f for f in speaking(mended, rule) if f.about == finding.about]
                assert all(f.severity.rank > finding.severity.rank for f in after), finding.title
                tried += 1
    assert tried >= 12


def test_no_demo_job_is_left_without_its_cautions() -> None:
    for number in range(len(demo_jobs())):
        rules = {f.rule for f in evaluate(demo_design(number)).findings}
        assert "caution-licensed" in rules
    assert "caution-high-voltage" in {f.rule for f in evaluate(demo_design(2)).findings}
