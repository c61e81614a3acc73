"""Whether the trim may go back on: not before everything was tried, nor while a reading says no."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


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
    return ""
