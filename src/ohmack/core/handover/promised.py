"""What was promised and what came of it: every wish, everything that must keep working, budget and way back, each with
what was measured for it and what the customer said.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.design import Keep, Wish
from ohmack.core.document.handover import Heard, Met
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.policy import with_tax
from ohmack.core.document.responses import MeasuredAt, Response, Taken
from ohmack.core.factory.function_edits import promised_absent
from ohmack.core.factory.functions import Fate
from ohmack.core.handover.settings import ceilings
from ohmack.core.handover.soak import SoakJudged
from ohmack.core.physics.responses import Floats
from ohmack.core.prove.judged import Judged
from ohmack.core.prove.plan_of_proof import PROMISED
from ohmack.core.record import record
from ohmack.core.signal.responses import bass_db, shown, uneven_db
from ohmack.core.supply.engine_off import listening
from ohmack.core.wording import amount, count, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MANY = (Keep.CHIMES, Keep.PARKING, Keep.WHEEL_BUTTONS, Keep.FADE)  # said in the plural


@record
class Promise:
    """One thing that was promised: what was found for it, whether that stands, what the customer said."""

    id: str
    words: str
    found: tuple[str, ...]  # each with its figure or its date; empty where nothing was measured
    stands: bool | None  # None: nothing was measured that could say
    heard: Heard | None = None

    @property
    def settled(self) -> bool:
        """Whether it was measured and stands, or the customer has agreed to it as it is."""
        if self.heard is not None:
            return self.heard.met is not Met.NO
        return self.stands is True


def promises(results: Results) -> tuple[Promise, ...]:
    """Every promise of the intake with what came of it.

    Parameters:
        results: the evaluated plan.

    Returns:
        wishes, then what must keep working, then the rest; what nobody measured is not said to be met.
    """
    last = {h.wish: h for h in results.design.handover.heard}
    made = (*_wishes(results), *_kept(results), *_rest(results))
    return tuple(Promise(p.id, p.words, p.found, p.stands, last.get(p.id)) for p in made)


def _said(judged: Judged | None) -> tuple[str, ...]:
    """A reading in words with its day; none where nothing was read."""
    if judged is None or judged.reading is None:
        return ()
    when = f", {judged.reading.when[:10]}" if judged.reading.when else ""
    expects = f" (expected {judged.expects})" if judged.expects else ""
    return (f"{judged.check.title}: {judged.read_words}{expects}{when}",)


def _all(*judged: Judged | None) -> bool | None:
    """Whether all stand; None where one was not made, or there is none."""
    known = [j for j in judged if j is not None]
    if not known or any(j.reading is None and not j.state.stands for j in known):
        return None
    return all(j.state.stands for j in known)


def _wishes(results: Results) -> Iterator[Promise]:
    for wish in results.design.intake.wishes:
        found, stands = _found_for(results, wish)
        yield Promise(f"wish/{wish.name.lower()}", wish.value[:1].upper() + wish.value[1:], found, stands)
    if results.design.intake.wishes_note:
        yield Promise("wish/words", f"“{results.design.intake.wishes_note}”", (), None)


def _found_for(results: Results, wish: Wish) -> tuple[tuple[str, ...], bool | None]:
    proof = results.proof
    match wish:
        case Wish.BASS:
            subs = [load for load in results.loads if load.driver.is_subwoofer]
            read = [proof.named(f"level/out/{load.scope}") for load in subs] + [proof.named("level/polarity")]
            before = _response_words(results, bass_db, "Bass against the middle")
            return (*(w for j in read for w in _said(j)), *before), _all(*read)
        case Wish.CLARITY:
            read = [j for j in proof.checks if j.check.id.startswith(("level/round/", "level/treble"))]
            clean = tuple(f"Clean up to {c.words}" for c in ceilings(results) if c.read)
            even = _response_words(results, uneven_db, "Uneven by")
            return (*(w for j in read for w in _said(j)), *clean, *even), _all(*read)
        case Wish.SCREEN:
            new = [p.name for p in results.design.parts_of(HeadUnit)]
            read = [j for j in proof.checks if j.check.id.startswith("live/keep/")]
            return (*new, *(w for j in read for w in _said(j))), _all(*read) if new else False
        case Wish.ORIGINAL:
            cuts = results.cuts
            places = count(len(cuts), "place") if cuts else "Nothing"
            return (f"{places} cut, spliced or drilled",), None if cuts else True  # whether that is original enough
        case Wish.RELIABLE:
            drops = [j for j in proof.checks if j.check.id.startswith(("level/drop/", "level/heat/"))]
            soaked = [s for s in results.soak.checks if s.readings]
            tried = (f"{count(len(soaked), 'soak check')} tried over {_days(soaked)}",) if soaked else ()
            stands = _all(*drops)
            return (*(w for j in drops for w in _said(j)), *tried), stands if results.soak.passed else None
        case _:
            return (), None  # whether something is hidden enough is seen, not measured


def _days(soaked: list[SoakJudged]) -> str:
    days = {r.when[:10] for s in soaked for r in s.readings}
    return count(len(days), "day")


def _response_words(
    results: Results, of: Callable[[Floats, Floats], float | None], words: str
) -> tuple[str, ...]:  # fmt: skip
    """The same figure of the response at the seat, before and after; none where one of them was not read."""
    last: dict[Taken, Response] = {
        r.taken: r for r in results.design.vehicle.responses if r.measured_at is MeasuredAt.SEAT
    }
    if not {Taken.BEFORE, Taken.AFTER} <= set(last):
        return ()
    before, after = (of(*shown(last[taken])) for taken in (Taken.BEFORE, Taken.AFTER))
    if before is None or after is None:
        return ()
    return (f"{words}: {amount(before, 'db')} before, {amount(after, 'db')} after",)


def _kept(results: Results) -> Iterator[Promise]:
    absent = promised_absent(results.design)
    for keep in results.design.intake.must_keep:
        words = keep.value[:1].upper() + keep.value[1:]
        if keep in absent:
            yield Promise(f"keep/{keep.name.lower()}", f"{words}: this car has none", ("Looked for, not found",), True)
            continue
        kind = PROMISED[keep]
        verdicts = [v for v in results.ledger if v.function.kind is kind]
        read = [results.proof.named(f"live/function/{v.function.id}") for v in verdicts]
        read = [j for j in read if j is not None] or [results.proof.named(f"live/keep/{keep.name.lower()}")]
        lost = tuple(f"Lost: {lowered(v.why)}" for v in verdicts if v.fate is Fate.LOST)
        found = (*lost, *(w for j in read for w in _said(j)))
        yield Promise(
            f"keep/{keep.name.lower()}",
            f"{words} {'work' if keep in MANY else 'works'} as before",
            found,
            False if lost else _all(*read),
        )


def _rest(results: Results) -> Iterator[Promise]:
    intake = results.design.intake
    if intake.reversible:
        cuts = results.cuts
        words = tuple(f"{c.where}: {c.what}" for c in cuts) or ("Nothing cut, spliced or drilled",)
        yield Promise("rest/reversible", "Can be put back as it was", words, not any(not c.undone for c in cuts))
    if results.design.use.listens_h is not None:
        yield _listens(results, results.design.use.listens_h)
    if intake.budget is not None:
        yield _within(results, intake.budget)


def _listens(results: Results, wanted_h: float) -> Promise:
    """The hours one wants to listen with the engine off, by the batteries of the plan: nobody waits them out."""
    off = listening(results)
    rows = [(one.battery.name, one.hours.value) for one in off.listening] if off is not None else []
    known = [(name, lasts_h) for name, lasts_h in rows if lasts_h is not None]
    found = tuple(f"By the plan {name} plays for {lasts_h:.1f} h" for name, lasts_h in known)
    short = any(lasts_h < wanted_h for _, lasts_h in known)
    return Promise("rest/listens", f"Plays {wanted_h:g} h with the engine off", found, False if short else None)


def _within(results: Results, budget: float) -> Promise:
    """The budget against what was agreed to, else against the quote of the plan, the tax in both."""
    policy, quote, accepted = results.design.policy, results.quote, results.design.work.accepted
    if accepted is not None and accepted.lines:
        net = [sum(getattr(q, end) for q in accepted.lines) / 100 for end in ("low_cents", "high_cents")]
        low, high = (with_tax(policy, price) for price in net)
        said, met = f"Agreed to: {low:.0f} to {high:.0f} {policy.currency} with tax, by {accepted.by}", high <= budget
        return Promise("rest/budget", f"Within {budget:.0f} {policy.currency}", (said,), met)
    low, high = float(quote.sums.low), float(quote.sums.high)
    said = f"Quoted, agreed to by nobody: {low:.0f} to {high:.0f} {policy.currency} with tax"
    if quote.unpriced:
        said = f"{said}, {count(len(quote.unpriced), 'part')} without a price not counted"
    over = False if low > budget else None  # what nobody agreed to is not said to be kept
    return Promise("rest/budget", f"Within {budget:.0f} {policy.currency}", (said,), over)
