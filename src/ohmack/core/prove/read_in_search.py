"""What was read while a fault was looked for, beside the checks of the plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.document.proof import ProofReading
from ohmack.core.prove.extra_checks import extra_checks
from ohmack.core.prove.free_probing import free_check
from ohmack.core.prove.judged import EXTRA, Judged, judge, mended_since

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def read_in_search(results: Results) -> tuple[Judged, ...]:
    """Checks that only a search asks for, or that somebody chose the points of, and that were read.

    Parameters:
        results: the evaluated plan.

    Returns:
        each held against its last reading, in the order in which they were first read; without those of points that are
        not in this car any more.
    """
    read: dict[str, list[tuple[int, ProofReading]]] = {}
    for number, reading in enumerate(results.design.proof.readings):
        if reading.check.startswith(EXTRA):
            read.setdefault(reading.check, []).append((number, reading))
    if not read:
        return ()
    there = results.searched_in
    named, since = {check.id: check for check in extra_checks(there)}, mended_since(results)
    found = ((named.get(name) or free_check(there, name), readings) for name, readings in read.items())
    return tuple(
        judge(there, check, there.windows, readings, since.get(check.id, 0))
        for check, readings in found
        if check is not None
    )
