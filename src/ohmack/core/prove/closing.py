"""What the work has to wait for: no fuse before the first gate, no trim before everything was proved."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.wording import amount, count, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FUSE_STEP = "main-fuse"


def fuse_gate(results: Results) -> str:
    """Why the main fuse stays out yet.

    Parameters:
        results: the evaluated plan.

    Returns:
        a sentence; empty where nothing stands against it.
    """
    first = next((g for g in results.proof.gates if g.number == 1), None)
    if first is None or first.behind:
        return ""
    left = count(len(first.left), "dead check")
    return f"Not before Prove's first gate is through: {left} open, {lowered(first.left[0].check.title)} next."


def closing_gate(results: Results) -> str:
    """Why nothing is put back yet.

    Parameters:
        results: the evaluated plan.

    Returns:
        a sentence; empty where nothing stands against it.
    """
    tried = results.work_plan.named("first-power")
    if tried is not None and not tried.done:
        return f"Not before step {tried.number}: {tried.step.what}."
    for test in results.drop_tests:
        for section in test.sections:
            if section.good is False:
                more = amount(section.more_ohm, "ohm", results.design.policy.length_unit)
                where = f"{test.supply.part.name}, {section.section.value}"
                return f"Not while the drop test says no: {where}, {more} more than planned. Mend it and read again."
    against = results.proof.against_closing
    if against:
        others = f" and {count(len(against) - 1, 'more check')}" if len(against) > 1 else ""
        return f"Not before Prove says so: {lowered(against[0].check.title)} is {against[0].state.value}{others}."
    return ""


def waits_for_proof(results: Results, step_id: str) -> str:
    """Why a step of the work waits for Prove; empty where it does not."""
    if step_id.startswith("back-"):
        return closing_gate(results)
    return fuse_gate(results) if step_id == FUSE_STEP else ""
