"""A surveyed vehicle as a template: its facts come back as papers with their date, never as measured."""

from __future__ import annotations

from typing import Any

from ohmack.core.document.facts import Basis, Fact, Verified
from ohmack.core.document.harness import Condition, Connector
from ohmack.core.document.paths import facts, replace
from ohmack.core.document.vehicle import Vehicle

# What belongs to the single car and not to its kind: nobody may inherit another car's reading of these.
OF_THIS_CAR = (
    "post_running_v",
    "post_traffic_v",
    "post_resting_v",
    "cca_a",
    "body_return_ohm",
    "battery_strap_ohm",
    "dc_resistance_ohm",
    "post_cranking_v",
    "post_loaded_v",
    "standby_current_a",
    "own_running_v",
    "own_resting_v",
    "pair_resistance_ohm",
    "reaches",
)


def as_papers(vehicle: Vehicle, job_number: str) -> Vehicle:
    """The vehicle as it is kept for the next car of its kind.

    Parameters:
        vehicle: the surveyed car.
        job_number: where the facts come from; it stands in each fact's note.

    Returns:
        a vehicle whose measured and documented facts are documented, with their date; what was assumed stays assumed,
        and readings that belong to the single car, with what an earlier owner did to it, are forgotten.
    """
    added = {module.id for module in vehicle.modules if module.by_owner}
    result = vehicle.model_copy(
        update={
            "alterations": (), "answers": (), "volume_steps": (), "hunt": None,
            "connectors": tuple(_map_of_its_kind(c) for c in vehicle.connectors),
            "modules": tuple(m for m in vehicle.modules if not m.by_owner),
            "factory_links": tuple(k for k in vehicle.factory_links if not added & {k.from_id, k.to_id}),
        }
    )  # fmt: skip
    for path, fact, _, field in list(facts(result)):
        result = replace(result, path, _of_its_kind(fact, field, job_number))
    return result


def _map_of_its_kind(connector: Connector) -> Connector:
    """A pin map for the next car: what was found is what papers say there; readings, damage and joints are of this
    one.
    """
    fresh = dict.fromkeys(("off_v", "accessory_v", "lights_v", "body_ohm", "joint"), None)
    cavities = tuple(
        c.model_copy(update={"expected": c.taken_for, "condition": Condition.WHOLE, **fresh})
        for c in connector.cavities
    )
    return connector.model_copy(update={"cavities": cavities})


def _of_its_kind(fact: Fact[Any], field: str, job_number: str) -> Fact[Any]:
    if field in OF_THIS_CAR and fact.basis is Basis.MEASURED:
        note = f"{job_number} read {fact.value:g} on another car" if isinstance(fact.value, float) else ""
        return fact.model_copy(
            update={"basis": Basis.ASSUMED, "how": Verified.NOT_CHECKED, "who": "", "when": "", "note": note}
        )
    if fact.basis is Basis.ASSUMED:
        return fact
    note = f"from {job_number}" + (f": {fact.note}" if fact.note else "")
    return fact.model_copy(update={"basis": Basis.DOCUMENTED, "how": Verified.PAPERS, "note": note[:2000]})
