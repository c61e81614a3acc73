"""The edits of the hand-over: soak tries, what is held and let go, what was heard, open points, signatures."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.handover import MOST_POINTS, HandOver, Met, Signature
from ohmack.core.document.ids import free_id
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.results import Results
from ohmack.core.handover.soak import SoakCheck, SoakState
from ohmack.core.handover.state import digest_of
from ohmack.core.planning.proving import MOST, refuse_nameless
from ohmack.core.prove.probes import Quantity
from ohmack.core.record import record
from ohmack.core.wording import amount

SOAK = at_the(HandOver, lambda it: it.soak)
ACCEPTED = at_the(HandOver, lambda it: it.accepted)
HOLDS = at_the(HandOver, lambda it: it.holds)
HEARD = at_the(HandOver, lambda it: it.heard)
OPEN_POINTS = at_the(HandOver, lambda it: it.open_points)
SIGNATURES = at_the(HandOver, lambda it: it.signatures)
LIKE_AMPERES = 1.0  # a current asleep under this was read in amperes


@record
class Tried:
    """What somebody tried: a value or an answer, when, who."""

    value: float | None = None
    passed: bool | None = None
    when: str = ""
    who: str = ""
    note: str = ""


def asked_soak(results: Results, check_id: str) -> SoakCheck:
    """The soak check an id names.

    Raises:
        NotPossible: the plan does not ask for it any more.
    """
    judged = results.soak.named(check_id)
    if judged is None:
        raise NotPossible("check", "The plan does not ask for this check any more: it has changed.")
    return judged.check


def note_try(design: Design, check: SoakCheck, tried: Tried, now: str) -> tuple[Edit, ...]:
    """Note one try of a soak check.

    Parameters:
        design: the design.
        check: which check.
        tried: what was tried, and when; ISO minutes.
        now: the time now, ISO minutes: nothing is tried tomorrow.

    Returns:
        the edits.

    Raises:
        NotPossible: nothing was said, no meter in a car shows that, or it has not happened yet.
    """
    if check.is_read:
        _refuse_nonsense(check, tried.value)
    elif tried.passed is None:
        raise NotPossible("passed", "Say whether it was good.")
    if tried.when > now:
        raise NotPossible("when", "That is still to come: enter when it was tried.")
    tree = {
        "id": free_id("soak", {r.id for r in design.handover.soak}), "check": check.id,
        "value": tried.value if check.is_read else None, "passed": None if check.is_read else tried.passed,
        "when": tried.when, "who": tried.who[:120], "note": tried.note[:2000],
    }  # fmt: skip
    return (Edit(op="add", path=SOAK, value=tree),)


def _refuse_nonsense(check: SoakCheck, value: float | None) -> None:
    unit = check.quantity.unit
    if value is None:
        raise NotPossible("value", "Enter what it shows.")
    if value < 0:
        raise NotPossible("value", f"{amount(value, unit)} cannot be: it is never below nothing.")
    if check.quantity is Quantity.ASLEEP_MA and 0 < value < LIKE_AMPERES:
        raise NotPossible("value", f"{value:g} mA is less than any car sleeps with: were it amperes, type"
                          f" {1000 * value:g}.")  # fmt: skip
    if value > MOST[check.quantity]:
        raise NotPossible("value", f"{amount(value, unit)} is more than any car shows there: look at the range.")


def accept_soak(results: Results, check_id: str, by: str, reason: str, when: str) -> tuple[Edit, ...]:
    """Let a soak check stand as it is, in somebody's name and for a reason.

    Raises:
        NotPossible: no name, no reason, or it stands already.
    """
    judged = results.soak.named(check_id)
    if judged is None:
        raise NotPossible("check", "The plan does not ask for this check any more: it has changed.")
    if judged.state in (SoakState.PASSED, SoakState.ACCEPTED):
        raise NotPossible("check", "It stands already.")
    refuse_nameless(by, reason)
    tree = {
        "id": free_id("let", {d.id for d in results.design.handover.accepted}), "check": check_id,
        "reading": judged.last.id if judged.last is not None else "", "by": by.strip()[:120],
        "reason": reason.strip()[:2000], "when": when,
    }  # fmt: skip
    return (Edit(op="add", path=ACCEPTED, value=tree),)


def hold(design: Design, by: str, reason: str, when: str) -> tuple[Edit, ...]:
    """Keep the car here, in somebody's name.

    Raises:
        NotPossible: no name or no reason.
    """
    refuse_nameless(by, reason)
    tree = {
        "id": free_id("hold", {h.id for h in design.handover.holds}), "by": by.strip()[:120],
        "reason": reason.strip()[:2000], "when": when,
    }  # fmt: skip
    return (Edit(op="add", path=HOLDS, value=tree),)


def take_back(design: Design, thing_id: str) -> tuple[Edit, ...]:
    """Take back a hold, an acceptance or an open point; none where it is gone already."""
    hand = design.handover
    lists = ((HOLDS, hand.holds), (ACCEPTED, hand.accepted), (OPEN_POINTS, hand.open_points))
    for path, known in lists:
        if any(item.id == thing_id for item in known):
            return (Edit(op="remove", path=f"{path}/{thing_id}"),)
    return ()


def hear(results: Results, wish: str, met: str, words: str, when: str) -> tuple[Edit, ...]:
    """Note what the customer says of a wish; a later word goes before an earlier one, which stays.

    Raises:
        NotPossible: no such wish, or nothing was said.
    """
    if all(p.id != wish for p in results.promises):
        raise NotPossible("wish", "That is not among what was promised any more.")
    if met not in [m.value for m in Met]:
        raise NotPossible("met", "Choose what the customer says.")
    known = results.design.handover.heard
    tree = {
        "id": free_id("heard", {h.id for h in known}), "wish": wish, "met": met, "words": words.strip()[:2000],
        "when": when,
    }  # fmt: skip
    return (Edit(op="add", path=HEARD, value=tree),)


def leave_open(design: Design, what: str, whose: str) -> tuple[Edit, ...]:
    """Write down something that is left to do.

    Raises:
        NotPossible: nothing was written.
    """
    if len(what.strip()) < 3:
        raise NotPossible("what", "Say what is left.")
    tree = {
        "id": free_id("open", {p.id for p in design.handover.open_points}), "what": what.strip()[:120],
        "whose": whose.strip()[:120],
    }  # fmt: skip
    return (Edit(op="add", path=OPEN_POINTS, value=tree),)


def sign(
    results: Results, by: str, drawn: list[list[tuple[int, int]]], seen: int, here: int, when: str
) -> tuple[Edit, ...]:  # fmt: skip
    """The customer signs for the car as it is.

    Parameters:
        results: the evaluated plan.
        by: the name.
        drawn: lines of the pen, perhaps none: then the name is typed.
        seen: the revision that was on the screen.
        here: the revision in force.
        when: the day, ISO.

    Returns:
        the edits.

    Raises:
        NotPossible: no name, another revision than was seen, or the car may not go.
    """
    if len(by.strip()) < 2:
        raise NotPossible("by", "Write the name too: a line of the pen alone names nobody.")
    if seen != here:
        raise NotPossible("signature", f"The plan changed while it was signed: revision {here} is in force now, "
                          f"{seen} was shown. Look at it and sign again.")  # fmt: skip
    if results.hand_over.against:
        raise NotPossible("signature", f"It is held: {results.hand_over.against[0].words}.")
    if sum(len(stroke) for stroke in drawn) > MOST_POINTS:
        raise NotPossible("drawn", f"A signature has at most {MOST_POINTS} points: draw it again, in a few lines.")
    known = results.design.handover.signatures
    signature = Signature.model_validate({
        "id": free_id("sign", {s.id for s in known}), "by": by.strip()[:120], "revision": here,
        "digest": digest_of(results.whole_design), "drawn": [{"points": stroke} for stroke in drawn if stroke],
        "when": when,
    })  # fmt: skip
    return (Edit(op="add", path=SIGNATURES, value=signature.model_dump(mode="json")),)
