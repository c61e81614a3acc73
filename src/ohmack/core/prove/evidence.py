"""What counts in the search for a fault: what was read since something was mended last."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.document.facts import Basis
from ohmack.core.document.proof import Proof, ProofReading
from ohmack.core.prove.search import Search

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def evidence_of(proof: Proof) -> tuple[ProofReading, ...]:
    """The readings a search rests on.

    Parameters:
        proof: with every reading ever taken.

    Returns:
        those taken since something was mended last, in their order; of a check the last one counts.
    """
    return proof.readings[max((mend.after for mend in proof.mends), default=0) :]


def pairs_read(results: Results) -> tuple[ProofReading, ...]:
    """What pairs read at their amplifier where that stands with the output alone, as readings of the check that asks
    for it; none once it was made, or after a mend.
    """
    proof = results.design.proof
    made = {reading.check for reading in proof.readings}
    found = []
    for load in results.loads if not proof.mends else ():
        fact, check = load.link.reads_ohm, f"dead/pair/{load.scope}"
        if fact.value is not None and fact.basis is Basis.MEASURED and check not in made:
            found.append(
                ProofReading(id=f"of-{load.link.id}", check=check, value=fact.value, who=fact.who, when=fact.when)
            )
    return tuple(found)


def searched(results: Results) -> Search:
    """The search for a fault as the design stands."""
    proof = results.design.proof
    read = (*pairs_read(results), *evidence_of(proof))
    begin = bool(proof.symptoms) or bool(results.proof.off)
    return results.finder.search(
        read, proof.symptoms, proof.not_symptoms, begin, fuse_is_out(results)
    )  # fmt: skip


def fuse_is_out(results: Results) -> bool:
    """Whether nothing live may be read yet: the first gate of new work is not through, and nobody practises."""
    first = next(iter(results.proof.gates), None)
    waits = first is not None and first.number == 1 and not first.behind
    return waits and results.design.proof.practice is None and not results.design.all_in_car
