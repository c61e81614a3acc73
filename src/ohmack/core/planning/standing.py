"""Where a job stands on its way through the shop, read off its plan."""

from __future__ import annotations

from enum import StrEnum

from ohmack.core.document import Basis, Design
from ohmack.core.document.part import Phase, Stands
from ohmack.core.document.paths import design_facts


class Standing(StrEnum):
    """The states of a job, in the order of its way; "put away" is said of a job in any of them."""

    ASKED = "asked"
    SURVEYED = "surveyed"
    PLANNED = "planned"
    WAITING = "waiting for parts"
    IN_THE_BAY = "in the bay"
    TO_HAND_OVER = "to hand over"
    DONE = "done"


def standing(design: Design) -> Standing:
    """Where a job stands.

    Done is what was signed for; to hand over is what is driven and heard; in the bay is what is taken apart, built or
    proved; parts are waited for once a quote was accepted or one was ordered, until all of them are here.

    Source: common practice, no source.
    """
    handover, work, proof = design.handover, design.work, design.proof
    if handover.signatures:
        return Standing.DONE
    if handover.soak or handover.heard:
        return Standing.TO_HAND_OVER
    if work.taken or work.holes or any(mark.done for mark in work.marks) or proof.readings:
        return Standing.IN_THE_BAY
    if design.changes_something:
        ours = [p for p in design.parts if p.phase is Phase.NOW and not p.by_customer]
        bought = work.accepted is not None or any(p.stands in (Stands.ORDERED, Stands.HERE) for p in ours)
        to_come = any(p.stands in (Stands.WANTED, Stands.ORDERED) for p in ours)
        return Standing.WAITING if bought and to_come else Standing.PLANNED
    return Standing.SURVEYED if _is_surveyed(design) else Standing.ASKED


def _is_surveyed(design: Design) -> bool:
    return any(fact.basis is Basis.MEASURED for _, fact, *_ in design_facts(design))
