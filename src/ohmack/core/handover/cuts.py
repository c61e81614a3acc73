"""What was cut, spliced and drilled in the car: the next installer asks for it first."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.harness import JointMethod
from ohmack.core.document.links import Pickup, TapLink
from ohmack.core.fit.runs import leads_of, tapped_at
from ohmack.core.record import record
from ohmack.core.wording import lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

UNDONE = (JointMethod.ADAPTER, JointMethod.SCREW_LOCK)  # comes apart and leaves the car's wire whole


@record
class Cut:
    """One place where the car's own metal or wire was touched."""

    what: str  # cut, spliced, drilled, cut open
    where: str
    how: str
    undone: str = ""  # by what it could be undone; empty where nobody said


def cuts_of(results: Results) -> tuple[Cut, ...]:
    """Everything this plan and this work cut, spliced or drilled.

    Parameters:
        results: the evaluated plan.

    Returns:
        splices by connector and cavity, taps, holes, openings; an adapter plug is none.
    """
    return (*_joints(results), *_taps(results), *_holes(results), *_openings(results))


def _joints(results: Results) -> Iterator[Cut]:
    for joint in results.joints.to_make:
        if joint.method not in UNDONE:
            yield Cut("spliced", f"{joint.connector.name} {joint.connector.called(joint.cavity)}",
                      f"{joint.method.value}, {lowered(joint.lead.words)}")  # fmt: skip


def _taps(results: Results) -> Iterator[Cut]:
    mapped = {joint.unit_id for joint in results.joints.joints}
    for tap in results.design.new_links_of(TapLink):
        if tap.method is Pickup.SPLICE and tap.to_id not in mapped:
            run = results.runs.get(tap.id)
            where = run.start_name if run is not None else "speaker wires"
            further = [leads_of(here[0]) for here in tapped_at(results.design, tap)[1:]]
            for place in (where, *further):
                yield Cut("spliced", place, f"signal for {run.end_name if run is not None else 'the new parts'}")


def _holes(results: Results) -> Iterator[Cut]:
    for hole in results.holes:
        if hole.drilled:
            noted = hole.noted
            wide = f"{noted.diameter_mm:g} mm" if noted is not None and noted.diameter_mm else "how wide is not noted"
            sealed = f", sealed with {lowered(noted.sealed)}" if noted is not None and noted.sealed else ""
            yield Cut("drilled", hole.name, f"{wide}{sealed}", noted.undone_by if noted is not None else "")


def _openings(results: Results) -> Iterator[Cut]:
    for opening in results.design.work.openings:
        yield Cut("cut open", opening.name, f"{opening.kind.value}, {opening.width_mm:g} mm")
