"""Invented plugs and pin maps of the demo cars, one with an earlier owner's damage, and a wire hunt in the middle."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.harness import OPEN_OHM
from ohmack.demo.building import measured
from ohmack.formats.entry import EntryError
from ohmack.formats.pin_map_csv import read_pin_map

HEAD = "cavity;use;colour;area_mm2;basis;papers say;found;polarity\n"
Rounds = tuple[tuple[str, tuple[Edit, ...]], ...]

ESTATE = """1;rear right +;green/red;0.75;measured;speaker;;
2;front right +;grey/white;0.75;measured;speaker;;
3;front left +;blue/white;0.75;measured;speaker;;
4;rear left +;brown/yellow;0.75;measured;speaker;;
5;rear right -;green/black;0.75;measured;speaker;;
6;front right -;grey/black;0.75;measured;speaker;;
7;front left -;blue/black;0.75;measured;speaker;;
8;rear left -;brown/black;0.75;measured;speaker;;
9;road speed;white/orange;0.35;documented;road speed;;
10;reverse light;pink;0.35;documented;reverse light;;
11;amplifier remote;light blue;0.5;documented;amplifier remote;;
12;constant;purple/yellow;1.5;measured;constant;;
13;illumination;orange/black;0.5;measured;illumination;;
14;empty;;;documented;empty;;
15;switched;red/white;1;measured;switched;;
16;ground;brown;1.5;measured;ground;;
"""
VAN = """1;constant;yellow;1;measured;constant;spliced;
2;empty;;;documented;empty;;
3;ground;black;1;measured;ground;cut;
4;switched;red/black;0.75;measured;switched;spliced;
5;front left +;white;0.75;documented;speaker;;
6;front left -;white/black;0.75;documented;speaker;;
7;front right +;grey;0.75;documented;speaker;;
8;front right -;grey/black;0.75;documented;speaker;;
"""
TWO_SEATER = """1;constant;red/green;1.5;measured;constant;;
2;switched;green/red;1;measured;switched;;
3;illumination;black/yellow;0.5;documented;illumination;;
4;ground;black;1.5;measured;ground;;
5;amplifier remote;yellow;0.5;measured;amplifier remote;;
6;aerial motor;white/blue;0.5;documented;aerial motor;;
7;front left +;purple/white;0.75;documented;speaker;;
8;front left -;white/purple;0.75;documented;speaker;;
9;front right +;beige/green;0.75;documented;speaker;;
10;front right -;beige/brown;0.75;documented;speaker;;
11;data bus;orange/green;0.35;documented;data bus;;
12;data bus;orange/brown;0.35;documented;data bus;;
"""
SALOON = """1;constant;white/red;1.5;documented;constant;;
2;constant;white/red;1.5;documented;constant;;
3;ground;black/white;1.5;documented;ground;;
4;illumination;grey/red;0.5;documented;illumination;;
5;steering-wheel buttons;brown/white;0.35;documented;steering-wheel buttons;;
6;steering-wheel buttons;brown/red;0.35;documented;steering-wheel buttons;;
7;data bus;green/white;0.35;documented;data bus;;
8;data bus;green;0.35;documented;data bus;;
9;airbag;yellow;0.5;documented;airbag, leave alone;;
10;switched;blue/red;1;documented;switched;;
"""


def _connector(
    name: str, connector_id: str, rows: int, columns: int, keyway: str, design: Design, table: str, **more: Any
) -> Edit:
    report = read_pin_map((HEAD + table).encode(), design.vehicle)
    if report.refused:
        raise EntryError(report.refused[0].reasons)
    housing = {"rows": rows, "columns": columns, "keyway": keyway, **more.pop("housing", {})}
    value = {
        "id": connector_id,
        "name": name,
        "at_id": "radio",
        "housing": housing,
        "cavities": [c.model_dump(mode="json") for c in report.cavities],
        **more,
    }
    return Edit(op="add", path="vehicle/connectors", value=value)


def _tie(connector: str, **feeds: str) -> tuple[Edit, ...]:
    """Which cavity is which feed of the survey."""
    return tuple(
        Edit(path=f"vehicle/connectors/{connector}/cavities/{cavity}/feed_id", value=feed)
        for cavity, feed in feeds.items()
    )


def _meter(connector: str, cavity: str, **readings: float) -> tuple[Edit, ...]:
    return tuple(
        Edit(path=f"vehicle/connectors/{connector}/cavities/{cavity}/{name}", value=value)
        for name, value in readings.items()
    )


def _estate(design: Design) -> Rounds:
    plug = _connector("Radio plug", "radio-plug", 2, 8, "top", design, ESTATE, housing={"wide": [12, 16]})
    pairs = tuple(
        measured(f"vehicle/radio/channels/ch-{i}/pair_resistance_ohm", ohm) for i, ohm in (("fl", 3.6), ("fr", 3.5))
    )
    readings = (
        *_meter("radio-plug", "c12", off_v=12.6, accessory_v=12.4, body_ohm=OPEN_OHM),
        *_meter("radio-plug", "c15", off_v=0.0, accessory_v=12.3),
        *_meter("radio-plug", "c13", off_v=0.0, accessory_v=0.1, lights_v=9.4),
        *_meter("radio-plug", "c16", off_v=0.0, accessory_v=0.0, body_ohm=0.3),
    )
    tied = _tie("radio-plug", c12="radio-constant", c15="radio-switched")
    return (("radio plug mapped", (plug, *tied, *readings, *pairs)),)


def _van(design: Design) -> Rounds:
    plug = _connector("Old radio's plug", "old-plug", 2, 4, "left", design, VAN, gender="socket")
    return (("what is left of the plug", (plug, *_tie("old-plug", c1="radio-constant", c4="radio-switched"))),)


def _two_seater(design: Design) -> Rounds:
    plug = _connector(
        "Radio plug A", "plug-a", 2, 6, "bottom", design, TWO_SEATER, housing={"numbered": "there and back"}
    )
    readings = (
        *_meter("plug-a", "c1", off_v=12.5, accessory_v=12.4),
        *_meter("plug-a", "c2", off_v=0.0, accessory_v=12.3),
    )
    return (("radio plug mapped", (plug, *_tie("plug-a", c1="radio-constant", c2="radio-switched"), *readings)),)


def _saloon(design: Design) -> Rounds:
    plug = _connector("Radio plug", "radio-plug", 2, 5, "top", design, SALOON, housing={"numbered": "down the columns"})
    papers_wrong = _meter("radio-plug", "c2", off_v=0.0, accessory_v=12.2)
    school = Edit(path="policy/joint_school", value="crimp")  # a work car: it stays as it is until it is scrapped
    return (
        (
            "pin map from papers",
            (plug, *_tie("radio-plug", c1="radio-constant", c10="radio-switched"), *papers_wrong, school),
        ),
    )


BUS_COLOURS = (
    ("white", None),
    ("white", "black"),
    ("grey", None),
    ("grey", "black"),
    ("green", "white"),
    ("green", "black"),
    ("purple", None),
    ("purple", "black"),
    ("blue", "yellow"),
    ("yellow", "blue"),
    ("brown", None),
    ("brown", "white"),
    ("orange", "black"),
    ("red", "black"),
    ("pink", None),
    ("beige", None),
)


def _bus(design: Design) -> Rounds:
    """Eight pairs behind the headlining, all on one block nobody has a map of."""
    cavities = [
        {"id": f"c{n}", "number": n, "base": base, "tracer": tracer}
        for n, (base, tracer) in enumerate(BUS_COLOURS, start=1)
    ]
    block = {
        "id": "roof-block",
        "name": "Roof block",
        "at_id": None,
        "housing": {"rows": 2, "columns": 8, "keyway": "none"},
        "cavities": cavities,
    }
    wires = [
        {
            "id": f"w{n}",
            "name": f"{n} {base}{f'/{tracer}' if tracer else ''}",
            "base": base,
            "tracer": tracer,
            "cavity_id": f"c{n}",
        }
        for n, (base, tracer) in enumerate(BUS_COLOURS, start=1)
    ]
    speakers = [s.id for s in design.vehicle.speakers]
    readings = [
        {"id": "r1", "kind": "resistance", "wire_a_id": "w1", "wire_b_id": "w2", "value_ohm": 3.6},
        {"id": "r2", "kind": "resistance", "wire_a_id": "w3", "wire_b_id": "w4", "value_ohm": 3.5},
        {"id": "r3", "kind": "resistance", "wire_a_id": "w9", "wire_b_id": "w10", "value_ohm": OPEN_OHM},
        {"id": "r4", "kind": "one pair at a time", "wire_a_id": "w1", "wire_b_id": "w2", "speaker_id": speakers[0]},
        {"id": "r5", "kind": "resistance", "wire_a_id": "w7", "wire_b_id": "w8", "value_ohm": 3.7},
        {"id": "r6", "kind": "resistance", "wire_a_id": "w5", "wire_b_id": "w6", "value_ohm": 3.6},
        {"id": "r7", "kind": "one pair at a time", "wire_a_id": "w5", "wire_b_id": "w6", "speaker_id": speakers[2]},
        {"id": "r8", "kind": "pop test", "wire_a_id": "w1", "wire_b_id": "w2", "heard": "cone moves out"},
    ]  # fmt: skip
    hunt = {"connector_id": "roof-block", "wires": wires, "speaker_ids": speakers, "grounds": 0, "readings": readings}
    return (
        (
            "wire hunt at the roof block",
            (Edit(op="add", path="vehicle/connectors", value=block), Edit(path="vehicle/hunt", value=hunt)),
        ),
    )


MAPS = {
    ("Marren", "Tilde", 2016): _estate,
    ("Hollin", "Carter", 2009): _van,
    ("Serin", "Fork-Tail", 2015): _two_seater,
    ("Aldwick", "Consort", 2013): _saloon,
    ("Tolland", "Parish", 2006): _bus,
}


def pin_map_rounds(design: Design, rounds: Rounds) -> Rounds:
    """The further rounds of a demo job in which its plugs are mapped; none for the other cars."""
    vehicle = design.vehicle
    make = MAPS.get((vehicle.make, vehicle.model, vehicle.year or 0))
    if make is None:
        return ()
    for _, edits in rounds:
        design = apply_edits(design, edits)
    return make(design)
