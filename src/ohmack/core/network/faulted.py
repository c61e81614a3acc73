"""A power network with something wrong in it: resistance where none belongs, a branch that is open."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.network.model import Branch, PowerNetwork

OPEN_OHM = 1e9  # what an open branch is taken as
MORE = frozenset(
    (FaultKind.BAD_GROUND, FaultKind.CORRODED_HOLDER, FaultKind.LOOSE_RING, FaultKind.BAD_STRAP)
)  # `by` is what is added, in ohms
TIMES = frozenset((FaultKind.THIN_WIRE, FaultKind.CLAD_WIRE))  # `by` is how many times the planned resistance
OPENS = frozenset((FaultKind.OPEN_GROUND, FaultKind.BLOWN_FUSE, FaultKind.RUN_TO_BODY))
RESISTIVE = MORE | TIMES | OPENS


def faulted(network: PowerNetwork, faults: Iterable[Fault]) -> PowerNetwork:
    """A network with faults in its branches.

    Parameters:
        network: the network as planned.
        faults: what is wrong; those that are no resistance, or name no branch, change nothing.

    Returns:
        the network as it then is.
    """
    felt = [fault for fault in faults if fault.kind in RESISTIVE]
    if not felt:
        return network
    return replace(network, branches=tuple(_felt(branch, felt) for branch in network.branches))


def _felt(branch: Branch, faults: list[Fault]) -> Branch:
    ohm, words = branch.resistance_ohm, branch.term.name
    for fault in faults:
        if fault.at != branch.id:
            continue
        if fault.kind in MORE:
            ohm += fault.by
        elif fault.kind in TIMES:
            ohm *= fault.by
        else:
            ohm += OPEN_OHM
        words = f"{words}, {fault.kind.value}"
    if ohm == branch.resistance_ohm:
        return branch
    return replace(branch, term=replace(branch.term, name=words, value=ohm))
