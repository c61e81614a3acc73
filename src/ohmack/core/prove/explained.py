"""What is heard or seen that needs no fault: what was planned, or what lies in the car, brings it about by itself."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document.proof import Symptom
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.record import record
from ohmack.core.reference import table


@record
class Explained:
    """A symptom, and a finding that would bring it about."""

    symptom: Symptom
    finding: Finding


def explained(symptoms: Iterable[Symptom], findings: Iterable[Finding]) -> tuple[Explained, ...]:
    """What the design as it stands on file would bring about, of what is heard or seen.

    Parameters:
        symptoms: those that are there.
        findings: of the design.

    Returns:
        each Stop or Watch that would bring one about, the worst first; a finding once for a symptom.

    Source: which rule finds what brings which symptom about: common practice, no source.
    """
    brings, judged = table("proof", "explains"), tuple(findings)
    said = [
        Explained(symptom, finding)
        for symptom in symptoms
        for finding in judged
        if finding.rule in brings[symptom.name] and finding.severity is not Severity.NOTE
    ]
    return tuple(sorted(said, key=lambda it: it.finding.severity.rank))
