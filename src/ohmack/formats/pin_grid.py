"""A pin map typed as a grid: a row a cavity, in the words of a file; an emptied cell clears what was there."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from ohmack.core.document.facts import Basis, Fact
from ohmack.core.document.harness import Cavity, CavityUse, Connector, Polarity
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OhmackError
from ohmack.core.harness.wire_colours import colour_words
from ohmack.formats.entry import EntryError
from ohmack.formats.pin_map_csv import FIELDS_OF, cavity_tree

COLUMNS = ("use", "colour", "area_mm2", "goes to")
MOST_ROWS = 64  # beyond that a file is quicker, and the page stays light
_EMPTIED: dict[str, Any] = {
    "use": Fact[CavityUse](), "expected": None, "channel_id": None, "polarity": None, "base": None, "tracer": None,
    "area_mm2": None, "destination": "",
}  # fmt: skip


def typed_row(cavity: Cavity, vehicle: Vehicle) -> dict[str, str]:
    """One cavity as a person would type it.

    Parameters:
        cavity: the cavity.
        vehicle: the car, whose pairs it may name.

    Returns:
        text by column; "" for what nobody knows.
    """
    channel = next((c.name for c in vehicle.channels if c.id == cavity.channel_id), "")
    sign = {Polarity.PLUS: " +", Polarity.MINUS: " -"}[cavity.polarity] if cavity.polarity else ""
    taken = cavity.taken_for
    is_pair = taken is CavityUse.SPEAKER and bool(channel)
    return {
        "use": f"{channel}{sign}" if is_pair else taken.value if taken else "",
        "colour": colour_words(cavity.base, cavity.tracer),
        "area_mm2": f"{cavity.area_mm2:g}" if cavity.area_mm2 else "",
        "goes to": cavity.destination,
    }


def read_grid(
    connector: Connector, vehicle: Vehicle, typed: Mapping[str, Mapping[str, str]], basis: Basis
) -> tuple[Cavity, ...]:
    """The cavities of a connector after what was typed.

    Parameters:
        connector: the connector.
        vehicle: the car, whose pairs the rows name.
        typed: text by column, by cavity; a cell that is as it was shown says nothing.
        basis: what the uses rest on.

    Returns:
        every cavity of the connector, those that changed with what was typed.

    Raises:
        EntryError: a cell cannot be read; it names the cavity.
    """
    result = []
    for cavity in connector.cavities:
        shown = typed_row(cavity, vehicle)
        cells = {column: typed.get(cavity.id, {}).get(column, shown[column]).strip() for column in COLUMNS}
        changed = {column: text for column, text in cells.items() if text != shown[column]}
        try:
            result.append(_after(cavity, changed, vehicle, connector, basis))
        except (OhmackError, EntryError) as error:
            raise EntryError(f"Cavity {connector.called(cavity)}: {error}") from None
        except ValidationError as error:
            raise EntryError(f"Cavity {connector.called(cavity)}: {error.errors()[0]['msg']}.") from None
    return tuple(result)


def _after(cavity: Cavity, changed: Mapping[str, str], vehicle: Vehicle, connector: Connector, basis: Basis) -> Cavity:
    said = {column: text for column, text in changed.items() if text}
    new = Cavity.model_validate(
        cavity_tree({"cavity": str(cavity.number), "basis": basis.value, **said}, vehicle, connector.housing)
    )
    taken: dict[str, Any] = {}
    for column, text in changed.items():
        fields = (*FIELDS_OF[column], *(("channel_id", "polarity") if column == "use" else ()))
        for field in fields:
            if field == "expected" and basis is not Basis.DOCUMENTED and text:
                continue  # what was found says nothing of the papers
            taken[field] = getattr(new, field) if text else _EMPTIED[field]
    return cavity.model_copy(update=taken)
