"""Rules on the hand-over: who holds the car, what a try showed, what changed after somebody signed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handover import Met
from ohmack.core.figures.finding import HANDOVER, Draft, Remedy, note, rule, stop, watch
from ohmack.core.handover.soak import SoakState
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import lowered, sentence

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("soak-off", HANDOVER, PRACTICE)
def soak_off(results: Results) -> Iterator[Draft]:
    """Something did not stand the soak, or nobody can say."""
    if not results.design.handover.soak:
        return
    for judged in results.soak.checks:
        check = judged.check
        here = Remedy("See the check", sheet="handover", query=f"show=check:{check.id}")
        if judged.state is SoakState.OFF:
            expects = f", expected {check.expects}" if check.expects else ""
            yield stop(f"check:{check.id}", f"{check.title}: {judged.read_words}{expects}",
                       "Find out why and try again; or let it stand by name.", here)  # fmt: skip
        elif judged.state is SoakState.UNJUDGED:
            yield watch(f"check:{check.id}", f"{check.title}: {judged.read_words}, judged by nobody",
                        "Something its limit rests on is not known: enter it in the survey, or accept it by name.",
                        here)  # fmt: skip


@rule("held", HANDOVER, PRACTICE)
def held(results: Results) -> Iterator[Draft]:
    """Somebody keeps the car here."""
    for hold in results.design.handover.holds:
        yield stop(f"hold:{hold.id}", f"{hold.by} keeps the car here", sentence(hold.reason),
                   Remedy("See the hand-over", sheet="handover"))  # fmt: skip


@rule("not-content", HANDOVER, PRACTICE)
def not_content(results: Results) -> Iterator[Draft]:
    """The customer has heard it, and it is not what was wished."""
    if not results.design.handover.heard:
        return
    for promise in results.promises:
        if promise.heard is not None and promise.heard.met is not Met.YES:
            say = stop if promise.heard.met is Met.NO else note
            words = f": “{promise.heard.words}”" if promise.heard.words else ""
            yield say(f"wish:{promise.id}", f"{promise.words}: {promise.heard.met.value}",
                      f"The customer says so{words}.", Remedy("See what was heard", sheet="promises"))  # fmt: skip


@rule("changed-since-signed", HANDOVER, PRACTICE)
def changed_since_signed(results: Results) -> Iterator[Draft]:
    """The design is another one than was signed for."""
    state = results.hand_over if results.design.handover.signatures else None
    if state is not None and state.signature is not None and not state.signed_stands:
        yield watch(
            "signature", f"Changed since {state.signature.by} signed",
            f"Signed for revision {state.signature.revision}. Sign again, or go back to it by its history.",
            Remedy("See the signature", sheet="pack"),
        )  # fmt: skip


@rule("signed-while-held", HANDOVER, PRACTICE)
def signed_while_held(results: Results) -> Iterator[Draft]:
    """It was signed for, and something holds it all the same."""
    state = results.hand_over if results.design.handover.signatures else None
    if state is not None and state.against:
        yield watch("signature", "Signed for, and held", f"{lowered(state.against[0].words).capitalize()}.",
                    Remedy("See what holds it", sheet=state.against[0].sheet))  # fmt: skip
