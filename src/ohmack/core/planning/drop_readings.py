"""The edit that keeps a reading of a drop test."""

from __future__ import annotations

from ohmack.core.document import Basis, Design
from ohmack.core.document.drop_readings import Section
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Verified
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.errors import NotPossible


def drop_reading(
    design: Design, consumer_id: str, section: str, voltage_v: float, current_a: float, when: str
) -> tuple[Edit, ...]:
    """The edits that note one reading; a second one between the same points takes the first one's place.

    Parameters:
        design: the design.
        consumer_id: whose loop.
        section: between which points, in the words of `Section`.
        voltage_v: what the meter read [v].
        current_a: what flowed meanwhile [a].
        when: date of the reading.

    Returns:
        the edits.

    Raises:
        NotPossible: no such points, or no current.
    """
    if section not in {one.value for one in Section}:
        raise NotPossible("section", "Choose the two points the probes sat at.")
    if not current_a > 0:
        raise NotPossible(
            "current", "Without a current there is no drop: play a tone, or switch a lamp on, and clamp it."
        )
    old = [r for r in design.drop_readings if (r.consumer_id, r.section.value) == (consumer_id, section)]
    tree = {
        "id": free_id("drop", {r.id for r in design.drop_readings}),
        "consumer_id": consumer_id,
        "section": section,
        "voltage_v": {
            "value": voltage_v, "basis": Basis.MEASURED.value, "how": Verified.METER.value, "when": when,
        },
        "current_a": current_a,
    }  # fmt: skip
    gone = [Edit(op="remove", path=at(reading)) for reading in old]
    return (*gone, Edit(op="add", path=at_the(Design, lambda it: it.drop_readings), value=tree))
