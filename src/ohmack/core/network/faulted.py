"""A power network with something wrong in it: resistance where none belongs, a branch that is open."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from ohmack.core.document.handles import at
from ohmack.core.document.proof import Fault, FaultKind
from ohmack.core.figures.figure import Book, Formula, Term, fixed
from ohmack.core.network.model import Branch, Place, PowerNetwork
from ohmack.core.reference import PHYSICS

OPEN_OHM = 1e9  # what an open branch is taken as
MORE = frozenset(
    (FaultKind.BAD_GROUND, FaultKind.CORRODED_HOLDER, FaultKind.LOOSE_RING, FaultKind.BAD_STRAP, FaultKind.BAD_CRIMP)
)  # `by` is what is added, in ohms
TIMES = frozenset((FaultKind.THIN_WIRE, FaultKind.CLAD_WIRE))  # `by` is how many times the planned resistance
OPENS = frozenset((FaultKind.OPEN_GROUND, FaultKind.BLOWN_FUSE, FaultKind.RUN_TO_BODY, FaultKind.OPEN_RUN))
RESISTIVE = MORE | TIMES | OPENS


ADDED = Formula("With what is wrong in it", "ohm", "R + what it adds", lambda ohm, more: ohm + more, PHYSICS)
OPENED = Formula("With what is wrong in it", "ohm", "R + 10⁹ Ω, open", lambda ohm: ohm + OPEN_OHM, PHYSICS)
SO_MANY = Formula("With what is wrong in it", "ohm", "R × so many times", lambda ohm, times: ohm * times, PHYSICS)


def faulted(network: PowerNetwork, faults: Iterable[Fault]) -> PowerNetwork:
    """A network with faults in its branches, as a search tries them.

    Parameters:
        network: the network as planned.
        faults: what is wrong; those that are no resistance, or name no branch, change nothing.

    Returns:
        the network as it then is.
    """
    return _everywhere(network, faults, lambda b, here: replace(b.term, value=with_faults_ohm(b.resistance_ohm, here)))


def with_known(book: Book, network: PowerNetwork, faults: Iterable[Fault]) -> PowerNetwork:
    """A network with the faults that are known to be in the car: each such resistance is a figure with its working.

    Parameters:
        book: the book of the design.
        network: the network as planned.
        faults: what was found and not mended.

    Returns:
        the network as it is.
    """

    def felt(branch: Branch, here: Sequence[Fault]) -> Term:
        term = branch.term
        for fault in here:
            name, by = f"{term.name}, {fault.kind.value}", list[Term]()
            if fault.kind not in OPENS:
                unit = "" if fault.kind in TIMES else "ohm"
                by = [fixed(fault.kind.value, fault.by, unit, at(fault, lambda it: it.by))]
            term = book.figure(with_fault_id(branch, fault), _formula(fault), term, *by, name=name).term
        return term

    return _everywhere(network, faults, felt)


def with_faults_ohm(planned_ohm: float, faults: Iterable[Fault]) -> float:
    """A resistance with faults in it, one after the other.

    Parameters:
        planned_ohm: as planned [ohm].
        faults: those of its branch.

    Returns:
        the resistance [ohm].

    Source: resistances in series add; a thinner or poorer wire has so many times its resistance.
    """
    ohm = planned_ohm
    for fault in faults:
        ohm = _formula(fault).compute(*((ohm,) if fault.kind in OPENS else (ohm, fault.by)))
    return ohm


def with_fault_id(branch: Branch, fault: Fault) -> str:
    """What the resistance of a branch with a known fault is filed under."""
    return f"{branch.id}/{fault.id}_ohm"


def _formula(fault: Fault) -> Formula:
    return OPENED if fault.kind in OPENS else SO_MANY if fault.kind in TIMES else ADDED


def of_branch(network: PowerNetwork, branch: Branch, faults: Iterable[Fault]) -> list[Fault]:
    """The faults that change the resistance of a branch."""
    return [fault for fault in faults if fault.kind in RESISTIVE and changed_by(network, fault) == branch.id]


def changed_by(network: PowerNetwork, fault: Fault) -> str:
    """The branch whose resistance a fault changes: its own, but a run that touches the body blows the fuse before it.

    Parameters:
        network: the network.
        fault: the fault.

    Returns:
        the branch's id; the run's own where no fuse is before it, and it burns off.
    """
    if fault.kind is not FaultKind.RUN_TO_BODY:
        return fault.at
    by_end = {branch.end: branch for branch in network.branches}
    here = next((branch for branch in network.branches if branch.id == fault.at), None)
    while here is not None and here.place is not Place.FUSE:
        here = by_end.get(here.start)  # up to the post, which no branch ends at
    return here.id if here is not None else fault.at


def _everywhere(
    network: PowerNetwork, faults: Iterable[Fault], felt: Callable[[Branch, Sequence[Fault]], Term]
) -> PowerNetwork:  # fmt: skip
    known = [fault for fault in faults if fault.kind in RESISTIVE]
    if not known:
        return network
    branches = tuple(
        replace(branch, term=felt(branch, here)) if (here := of_branch(network, branch, known)) else branch
        for branch in network.branches
    )
    return replace(network, branches=branches)
