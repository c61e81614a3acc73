"""What a search for a fault holds and says: causes with their odds, what to check next, what is found."""

from __future__ import annotations

from dataclasses import field

from ohmack.core.document.proof import FaultKind, ProofReading, Symptom
from ohmack.core.prove.candidates import Candidate
from ohmack.core.prove.car import Car
from ohmack.core.prove.checks import Check
from ohmack.core.prove.probes import Probe, Taken, take
from ohmack.core.record import record
from ohmack.core.wording import listed

SURE = 0.9  # odds from which it is said to be found; common practice
OF_SIZE = 0.2  # how far a fault of one size spreads round what it does; common practice
OF_ANY_SIZE = 0.5  # the same where one size stands for a whole range; common practice
ANY_SIZE = frozenset((FaultKind.BAD_CRIMP, FaultKind.BAD_JOINT, FaultKind.CAR_DRAINS))


@record(eq=False)
class Cause:
    """One thing, or two at once, that may be wrong; none of them is that nothing is."""

    faults: tuple[Candidate, ...]
    weight: float
    car: Car
    shows: dict[Probe, Taken | None] = field(default_factory=dict)  # what was worked out of it so far

    def shown(self, probe: Probe) -> Taken | None:
        """What it would show at a probe."""
        if probe not in self.shows:
            self.shows[probe] = take(self.car, probe)
        return self.shows[probe]

    @property
    def of_size(self) -> float:
        """How far its size spreads what it does, as a share of that."""
        return OF_SIZE if ANY_SIZE.isdisjoint([c.fault.kind for c in self.faults]) else OF_ANY_SIZE

    @property
    def key(self) -> tuple[tuple[FaultKind, str, str], ...]:
        """What and where, whatever its size."""
        return tuple(sorted((c.fault.kind, c.fault.at, c.fault.other) for c in self.faults))


@record
class Suspect:
    """A cause with its odds, all its sizes together."""

    key: tuple[tuple[FaultKind, str, str], ...]
    faults: tuple[Candidate, ...]
    odds: float

    @property
    def words(self) -> str:
        """What and where."""
        return listed([c.words for c in self.faults]) or "nothing of what Ohmack knows"

    @property
    def remedies(self) -> list[str]:
        """What the trade does about it."""
        return [c.remedy for c in self.faults]


@record
class Outcome:
    """What a check may show, how likely, and what it would mean."""

    words: str
    share: float
    means: tuple[Suspect, ...]


@record
class Proposal:
    """A check to make next: what it is expected to tell, and what each outcome would mean."""

    check: Check
    gain_bits: float
    outcomes: tuple[Outcome, ...]
    again: bool = False  # it was read already, and does not fit the rest


@record
class Search:
    """The search as it stands."""

    suspects: tuple[Suspect, ...]
    proposals: tuple[Proposal, ...]
    evidence: tuple[tuple[Check, ProofReading], ...]
    bits: float
    begun: bool
    unpowered: bool = False  # only what is read with the fuse out was proposed
    unexplained: tuple[Symptom, ...] = ()  # what was said and no single fault brings about
    blind: bool = False  # whether that is all there is to go by: odds would say nothing
    hangs_on: tuple[Check, ...] = ()  # without the one reading of any it would not be found, the quickest first

    @property
    def found(self) -> Suspect | None:
        """The cause that is as good as certain; None while none is."""
        first = self.suspects[0] if self.suspects and not self.blind else None
        return first if first is not None and first.odds >= SURE and first.faults else None

    @property
    def stuck(self) -> tuple[Suspect, ...]:
        """Causes that nothing left to check tells apart; none while a check still tells something, or one is found."""
        if self.proposals or self.found is not None or self.blind or not self.begun:
            return ()
        return tuple(s for s in self.suspects if s.odds > (1 - SURE) / 2)
