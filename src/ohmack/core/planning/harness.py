"""Changes to the harness: a new connector, its map, a pin read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the, cavity_at
from ohmack.core.document.harness import Cavity, Connector
from ohmack.core.document.ids import free_id
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.harness.pin_map import read_by_meter

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
    taken = design.taken_ids()
    gender = housing.pop("gender", "plug")
    tree = {
        "id": free_id("connector", taken), "name": name, "at_id": design.vehicle.radio.id, "gender": gender,
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
