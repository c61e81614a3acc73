"""Whether the car may go: the soak, the proof, what is still out, who holds it, who signed for what."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handover import Met, Signature
from ohmack.core.figures.finding import OF_THE_CAR, RULES, Finding, Severity, findings_of
from ohmack.core.handover.soak import SoakJudged, SoakState, judge_soak
from ohmack.core.record import record
from ohmack.core.wording import count, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class Against:
    """One thing that holds the car: what, and the sheet where it is settled."""

    words: str
    sheet: str
    by_name: bool = False  # somebody holds it in writing
    to_hear: bool = False  # the customer is only to be heard yet


@record
class Soak:
    """The soak of one car."""

    checks: tuple[SoakJudged, ...]

    @property
    def left(self) -> tuple[SoakJudged, ...]:
        """What does not stand yet."""
        return tuple(j for j in self.checks if not j.state.stands)

    @property
    def passed(self) -> bool:
        """Whether everything was tried and stands; nothing is passed where nothing is asked."""
        return bool(self.checks) and not self.left

    def named(self, check_id: str) -> SoakJudged | None:
        """A check by id."""
        return next((j for j in self.checks if j.check.id == check_id), None)


@record
class HandOverState:
    """How the hand-over stands."""

    soak: Soak
    against: tuple[Against, ...]
    signature: Signature | None  # the last one
    signed_stands: bool  # whether the design is still the one it was signed for

    @property
    def may_go(self) -> bool:
        """Whether nothing holds the car."""
        return bool(self.soak.checks) and not self.against

    @property
    def only_to_hear(self) -> bool:
        """Whether nothing is left but to hear the customer."""
        return bool(self.against) and all(a.to_hear for a in self.against)

    @property
    def verdict(self) -> str:
        """One sentence."""
        if not self.soak.checks:
            return "Nothing is fitted that could be handed over"
        if self.only_to_hear:
            return f"Soaked: {self.against[0].words}"
        if self.against:
            more = f", and {len(self.against) - 1} more" if len(self.against) > 1 else ""
            return f"Hold: {self.against[0].words}{more}"
        if self.signature is not None and self.signed_stands:
            return f"Handed over to {self.signature.by}"
        return "May go"


def soak_of(results: Results) -> Soak:
    """The soak of an evaluated plan."""
    return Soak(judge_soak(results))


def hand_over(results: Results) -> HandOverState:
    """How the hand-over of an evaluated plan stands.

    Parameters:
        results: the evaluated plan.

    Returns:
        what holds the car, gravest first: a person's word, a fault, a Stop, the proof, what is out, the soak.
    """
    soak = results.soak
    signatures = results.design.handover.signatures
    last = signatures[-1] if signatures else None
    stands = last is not None and last.digest == digest_of(results.whole_design)
    return HandOverState(soak, tuple(_against(results, soak)) if soak.checks else (), last, stands)


def digest_of(design: Design) -> str:
    """What a signature holds for: SHA-256 over the design without its hand-over, as its own file format writes it.

    Values left at their defaults are left out, so that a newer Ohmack finds the same.
    """
    return sha256(design.model_dump_json(exclude={"handover"}, exclude_defaults=True).encode()).hexdigest()


def _against(results: Results, soak: Soak) -> Iterator[Against]:
    hand, proof = results.design.handover, results.proof
    for hold in hand.holds:
        yield Against(f"{hold.by} keeps it here: {lowered(hold.reason)}", "handover", by_name=True)
    if results.design.proof.faults:
        yield Against("a fault that was found is still in the car", "fault")
    if stops := _stops(results):
        more = f" and {len(stops) - 1} more" if len(stops) > 1 else ""
        yield Against(f"the plan is stopped: {lowered(stops[0].title)}{more}", stops[0].stage)
    if proof.off:
        yield Against(f"{count(len(proof.off), 'reading')} not as predicted", "prove")
    left = [j for j in proof.checks if not j.state.stands and j not in proof.off]
    if left:
        yield Against(f"{count(len(left), 'check')} of the proof not made", "prove")
    if not results.teardown.may_close:
        yield Against("something that came off is not back", "teardown")
    off = [j for j in soak.checks if j.state is SoakState.OFF]
    for judged in off:
        yield Against(f"{lowered(judged.check.title)}: {judged.read_words}", "handover")
    rest = [j for j in soak.left if j not in off]
    if rest:
        yield Against(f"{count(len(rest), 'soak check')} to try", "handover")
    for promise in results.promises:
        if promise.heard is not None and promise.heard.met is Met.NO:
            yield Against(f"the customer is not content: {lowered(promise.words)}", "promises")
    unheard = [p for p in results.promises if p.heard is None and not p.settled]
    if unheard:
        yield Against(f"{count(len(unheard), 'promise')} nobody has answered for", "promises", to_hear=True)


def _stops(results: Results) -> list[Finding]:
    """What the rules about the plan say is not to be built like this."""
    of_plan = (rule for rule in RULES.values() if rule.stage not in OF_THE_CAR)
    return [f for rule in of_plan for f in findings_of(rule, results) if f.severity is Severity.STOP]
