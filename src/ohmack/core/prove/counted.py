"""The readings that count in a search: the last one of each check, believed more where it was the same twice."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document.proof import ProofReading
from ohmack.core.prove.checks import Check
from ohmack.core.prove.probes import Quantity
from ohmack.core.prove.windows import meter_sigma
from ohmack.core.record import record

SAME = 0.1  # two readings of one thing lie no farther apart, as a share of them; common practice


@record
class Evidence:
    """A reading that counts, and whether it was taken twice and was the same both times."""

    check: Check
    reading: ProofReading
    twice: bool


def counted(readings: Iterable[tuple[Check, ProofReading]]) -> tuple[Evidence, ...]:
    """The last reading of each check.

    Parameters:
        readings: every one with its check, in the order they were taken.

    Returns:
        one a check, those read last at the end.
    """
    found: dict[str, Evidence] = {}
    for check, reading in readings:
        before = found.pop(check.id, None)
        found[check.id] = Evidence(check, reading, before is not None and _alike(before, reading))
    return tuple(found.values())


def _alike(before: Evidence, reading: ProofReading) -> bool:
    """Whether a check was read the same again, as far as a meter does."""
    quantity, one = before.check.probe.quantity, before.reading
    if quantity is Quantity.ANSWER or one.over or reading.over or one.value is None or reading.value is None:
        return (one.passed, one.over) == (reading.passed, reading.over)
    apart = max(2 * meter_sigma(quantity, one.value), SAME * abs(one.value))
    return abs(one.value - reading.value) <= apart
