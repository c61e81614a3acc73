"""Changes to the harness: a new connector, a pin read, a hunt begun, a reading taken, its result put into the pin
map.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_id, at_the, cavity_at
from ohmack.core.document.harness import (
    Cavity,
    CavityUse,
    Connector,
    Fault,
    Heard,
    Hunt,
    HuntReading,
    Polarity,
    TestKind,
)
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.harness.pin_map import read_by_meter
from ohmack.core.harness.wire_colours import colour_words
from ohmack.core.harness.wire_finder import CERTAIN, Found, find
from ohmack.core.physics.labelled_matching import MOST_WIRES
from ohmack.core.planning.survey import next_id

MOST_CAVITIES = 500


def connector_of(design: Design, connector_id: str) -> Connector:
    """A connector by id.

    Raises:
        UnknownName: no such connector.
    """
    found = next((c for c in design.vehicle.connectors if c.id == connector_id), None)
    if found is None:
        raise UnknownName("connector", connector_id)
    return found


def hunt_of(design: Design) -> Hunt:
    """The hunt of the car.

    Raises:
        UnknownName: none has been begun.
    """
    if design.vehicle.hunt is None:
        raise UnknownName("hunt", "for unknown wires", "none has been begun")
    return design.vehicle.hunt


def new_connector(design: Design, name: str, rows: int, columns: int, **housing: Any) -> tuple[Edit, ...]:
    """The edit that adds a connector with every cavity of its housing, each still to be found out.

    Parameters:
        design: the design.
        name: what it is called.
        rows: rows of the housing.
        columns: columns of the housing.
        housing: keyway, numbered, and the gender as `gender`.

    Returns:
        the edit.

    Raises:
        OutOfRange: more cavities than a map takes.
    """
    if not 1 <= rows * columns <= MOST_CAVITIES:
        raise OutOfRange("cavities", rows * columns, "cavities", f"1 to {MOST_CAVITIES}")
    taken = {name for ids in design.ids().values() for name in ids}
    gender = housing.pop("gender", "plug")
    tree = {
        "id": next_id("connector", taken), "name": name, "at_id": design.vehicle.radio.id, "gender": gender,
        "housing": {"rows": rows, "columns": columns, **housing},
        "cavities": [{"id": f"c{n}", "number": n} for n in range(1, rows * columns + 1)],
    }  # fmt: skip
    return (Edit(op="add", path=at_the(Vehicle, lambda it: it.connectors), value=tree),)


def put_map(connector: Connector, cavities: Sequence[Cavity]) -> tuple[Edit, ...]:
    """The edit that replaces a connector's map."""
    return (
        Edit(
            path=at(connector, lambda it: it.cavities),
            value=[c.model_dump(mode="json") for c in cavities],
        ),
    )


def read_pin(design: Design, connector_id: str, cavity_id: str, readings: dict[str, float | None]) -> tuple[Edit, ...]:
    """Edits that take what the meter showed; what nobody knew or what agrees becomes measured, a contradiction is
    left to the person.

    Parameters:
        design: the design.
        connector_id: the connector.
        cavity_id: the cavity.
        readings: off_v, accessory_v, lights_v [v] and body_ohm [ohm].

    Returns:
        the edits.

    Raises:
        UnknownName: no such cavity.
    """
    connector = connector_of(design, connector_id)
    cavity = next((c for c in connector.cavities if c.id == cavity_id), None)
    if cavity is None:
        raise UnknownName("cavity", cavity_id)
    path = cavity_at(connector, cavity)
    edits = [Edit(path=f"{path}/{name}", value=value) for name, value in readings.items()]
    found = read_by_meter(cavity.model_copy(update=readings))
    if found is not None and cavity.taken_for in (None, found):
        edits.append(Edit(path=f"{path}/use", value={"value": found.value, "basis": "measured", "how": "by meter"}))
    return tuple(edits)


def unknown_cavities(connector: Connector) -> tuple[Cavity, ...]:
    """Cavities with a wire nobody knows, and speaker wires nobody has told apart."""
    return tuple(
        c
        for c in connector.cavities
        if c.taken_for is None or (c.taken_for is CavityUse.SPEAKER and c.channel_id is None)
    )


def begin_hunt(
    design: Design, connector_id: str, cavity_ids: Sequence[str], speaker_ids: Sequence[str], grounds: int
) -> tuple[Edit, ...]:
    """The edit that begins a hunt over some cavities of a connector.

    Parameters:
        design: the design.
        connector_id: the connector; "" for loose wires, which are then numbered.
        cavity_ids: the cavities with unknown wires; for loose wires as many empty texts.
        speaker_ids: the speakers they may lead to.
        grounds: grounds among them.

    Returns:
        the edit.

    Raises:
        OutOfRange: more wires than a hunt takes.
        UnknownName: no such connector.
    """
    if not 1 <= len(cavity_ids) <= MOST_WIRES:
        raise OutOfRange("wires", len(cavity_ids), "wires", f"1 to {MOST_WIRES}")
    wires = []
    if connector_id:
        known = {c.id: c for c in connector_of(design, connector_id).cavities}
        for name in cavity_ids:
            if name not in known:
                raise UnknownName("cavity", name)
            cavity = known[name]
            colour = colour_words(cavity.base, cavity.tracer)
            wires.append(
                {
                    "id": f"w{cavity.number}",
                    "name": f"{cavity.number} {colour}".strip(),
                    "base": cavity.base,
                    "tracer": cavity.tracer,
                    "cavity_id": cavity.id,
                }
            )
    else:
        wires = [{"id": f"w{n}", "name": f"wire {n}"} for n in range(1, len(cavity_ids) + 1)]
    tree = {
        "connector_id": connector_id or None,
        "wires": wires,
        "speaker_ids": list(speaker_ids),
        "grounds": grounds,
        "readings": [],
    }
    return (Edit(path=at_the(Vehicle, lambda it: it.hunt), value=tree),)


def add_reading(
    design: Design, kind: str, wires: Sequence[str], *, value_ohm: float | None = None, outcome: str = ""
) -> tuple[Edit, ...]:
    """The edit that adds a reading to the hunt.

    Parameters:
        design: the design.
        kind: one of TestKind.
        wires: the wires it was taken on; for a pop test the cell's plus is on the first.
        value_ohm: the ohms of a resistance [ohm].
        outcome: what happened, one of Heard, or the speaker that sounded.

    Returns:
        the edit.

    Raises:
        UnknownName: no such test.
    """
    hunt = hunt_of(design)
    if kind not in set(TestKind):
        raise UnknownName("test", kind, ", ".join(TestKind))
    number = 1 + max((int(r.id[1:]) for r in hunt.readings if r.id[1:].isdigit()), default=0)
    tree: dict[str, Any] = {
        "id": f"r{number}",
        "kind": kind,
        "wire_a_id": wires[0],
        "wire_b_id": wires[1] if len(wires) > 1 else None,
        "value_ohm": value_ohm,
    }
    if outcome in hunt.speaker_ids:
        tree["speaker_id"] = outcome
    elif outcome:
        tree["heard"] = outcome if outcome in set(Heard) else None
    return (Edit(op="add", path=at_the(Hunt, lambda it: it.readings), value=tree),)


def take_fault(design: Design, fault: str, speaker_id: str) -> tuple[Edit, ...]:
    """Edits that take a speaker of the hunt for dead or shorted, or for whole again.

    Parameters:
        design: the design, a hunt begun.
        fault: dead, shorted, or nothing for whole.
        speaker_id: the speaker.

    Returns:
        the edits.

    Raises:
        UnknownName: no hunt, or the speaker is not in it.
    """
    hunt = hunt_of(design)
    if speaker_id not in hunt.speaker_ids:
        raise UnknownName("speaker of the hunt", speaker_id)
    edits = []
    for kind, path, ids in (
        (Fault.DEAD, at_the(Hunt, lambda it: it.dead_ids), hunt.dead_ids),
        (Fault.SHORTED, at_the(Hunt, lambda it: it.shorted_ids), hunt.shorted_ids),
    ):
        wanted = [*(name for name in ids if name != speaker_id), *([speaker_id] if kind.value == fault else [])]
        if wanted != list(ids):
            edits.append(Edit(path=path, value=wanted))
    return tuple(edits)


def withdraw(reading: HuntReading) -> Edit:
    """The edit that withdraws a reading, or takes it up again."""
    return Edit(path=at(reading, lambda it: it.withdrawn), value=not reading.withdrawn)


def put_result(design: Design, found: Found | None = None) -> tuple[Edit, ...]:
    """Edits that put what is certain into the pin map as measured facts.

    Parameters:
        design: the design.
        found: what the readings say; found anew where not given.

    Returns:
        the edits; polarity only where a pop test has shown it, wires without a cavity are left out.

    Raises:
        UnknownName: no hunt has been begun.
        OutOfRange: the hunt's wires do not come out even.
    """
    hunt = hunt_of(design)
    found = found or find(design.vehicle, hunt)
    wires = {w.id: w for w in hunt.wires}
    channels = {s.id: s.channel_id for s in design.vehicle.speakers}
    names = {s.id: s.name for s in design.vehicle.speakers}
    edits: list[Edit] = []

    def measured(wire_id: str, use: CavityUse, **values: Any) -> None:
        cavity_id = wires[wire_id].cavity_id
        if cavity_id is None or hunt.connector_id is None:
            return
        path = f"{at_id(Connector, hunt.connector_id, lambda it: it.cavities)}/{cavity_id}"
        edits.append(
            Edit(
                path=f"{path}/use",
                value={"value": use.value, "basis": "measured", "how": "by meter", "note": "wire hunt"},
            )
        )
        edits.extend(Edit(path=f"{path}/{name}", value=value) for name, value in values.items())

    for guess in found.certain:
        for wire_id in guess.wires:
            sure = guess.plus_odds > CERTAIN
            sign = (Polarity.PLUS if wire_id == guess.plus else Polarity.MINUS).value if sure else None
            measured(
                wire_id,
                CavityUse.SPEAKER,
                channel_id=channels[guess.speaker_id],
                polarity=sign,
                destination=names[guess.speaker_id],
            )
    for wire_id in found.grounds:
        measured(wire_id, CavityUse.GROUND)
    return tuple(edits)
