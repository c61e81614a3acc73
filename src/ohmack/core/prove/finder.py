"""The search for a fault: odds over everything that can be wrong, and the check that decides most a minute."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import combinations
from math import hypot, inf, sqrt
from typing import TYPE_CHECKING

import numpy as np

from ohmack.core.document.proof import FaultKind, ProofReading, Symptom
from ohmack.core.physics.odds import Floats, boundaries, entropy_bits, gain_bits, normal_share, posterior
from ohmack.core.prove.candidates import Candidate, candidates, with_fault
from ohmack.core.prove.car import Car, Setting
from ohmack.core.prove.checks import Check
from ohmack.core.prove.counted import Evidence, counted
from ohmack.core.prove.extra_checks import extra_checks
from ohmack.core.prove.faults import stricken
from ohmack.core.prove.free_probing import free_check
from ohmack.core.prove.judged import SHOWS_NOTHING_OHM, less_leads
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.prove.probes import Ask, Quantity
from ohmack.core.prove.search import Cause, Outcome, Proposal, Search, Suspect
from ohmack.core.prove.symptoms import symptoms_of
from ohmack.core.prove.windows import Windows, meter_sigma
from ohmack.core.reference import table
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

TELLS_NOTHING = 0.03  # bits under which a check is not worth it; common practice
HOLDS = 0.5  # odds it keeps without one reading, for that not to be read again first; common practice
PAIRED = 8  # so many of the likeliest are tried two at a time
ASKABLE = (Ask.PLAYS, Ask.SIDE, Ask.POP, Ask.TREBLE, Ask.BASS, Ask.WHINE, Ask.THUMP, Ask.SEEN)


# What a check asks an ear for, as somebody says it: said or denied already, hearing it again tells little.
HEARD_AS = {
    Ask.WHINE: Symptom.WHINE, Ask.THUMP: Symptom.POPS, Ask.TREBLE: Symptom.NO_TREBLE, Ask.BASS: Symptom.THIN_BASS
}  # fmt: skip
AGAIN = 0.25  # of what it would tell to who has not heard it: the same ear, the same sound; common practice
ONCE_MORE = 0.5  # the same of a reading taken again: by the same hand, at the same place; common practice
ANEW = ("another value than was read", "the same again")


class Finder:
    """The search for one plan: causes, their cars, and what each would show. Of cables nobody read, `unread`, none is
    thinner than planned.
    """

    def __init__(self, results: Results, unread: frozenset[str] = frozenset()) -> None:
        self.results = results
        self.planned: Car = results.car
        self.windows: Windows = results.windows
        self.checks = tuple(c for c in (*plan_of_proof(results), *extra_checks(results)) if _tells(c))
        tweeters = [d.speaker.id for d in results.drives if d.tweeter]
        self.places = tweeters, [load.driver.id for load in results.loads if load.driver.is_subwoofer]
        single = [c for c in candidates(results) if not _of_the_plan(c, unread)]
        none = float(table("proof", "errors")["none_wrong"])
        total = sum(c.weight for c in single) or 1.0
        self.causes = [Cause((), none * total, self.planned)]
        self.causes += [Cause((c,), c.weight, with_fault(self.planned, c)) for c in single]
        self._total = total

    def search(
        self,
        readings: Sequence[ProofReading],
        symptoms: Iterable[Symptom],
        not_symptoms: Iterable[Symptom] = (),
        begin: bool = True,
        unpowered: bool = False,
    ) -> Search:
        """The odds after what is known, and the checks that tell most.

        Parameters:
            readings: in their order, those from before a mend left out; the last one of a check counts, and is believed
                more where the one before it was the same.
            symptoms: what is said to be wrong.
            not_symptoms: what is said not to be.
            begin: whether anything is wrong at all; else nothing is proposed.
            unpowered: whether the fuse is still out, so that only ohms and a look tell something.

        Returns:
            suspects, the likeliest first (of a search that is blind they say nothing); proposals, the one that tells
            most a minute first, hearing again what was said counted for less; to read again what does not fit, where
            that tells most.

        Source: Bayes' theorem; priors, spreads and minutes common practice.
        """
        by_id = {c.id: c for c in self.checks}
        by_id |= {r.check: c for r in readings if (c := free_check(self.results, r.check)) is not None}
        evidence = counted((by_id[r.check], r) for r in readings if r.check in by_id)
        said, denied = frozenset(symptoms), frozenset(not_symptoms)
        causes = list(self.causes)
        prior, told = self._told(causes, evidence, said, denied)
        odds = posterior(prior, told)
        if evidence or said:
            causes += self._pairs(causes, odds)
            prior, told = self._told(causes, evidence, said, denied)
            odds = posterior(prior, told)
        suspects = _together(causes, odds)
        known = {one.check.id for one in evidence}
        heard = {ask for ask, symptom in HEARD_AS.items() if symptom in said | denied}
        checks = [
            c for c in self.checks if c.id not in known and not (unpowered and c.probe.setting is not Setting.DEAD)
        ]
        doubtful = [
            one
            for one in evidence
            if not one.twice and one.check in self.checks
            and not (unpowered and one.check.probe.setting is not Setting.DEAD)
        ]  # fmt: skip
        unexplained = self._unexplained(said)
        blind = begin and not evidence and bool(unexplained) and said == set(unexplained)
        asks = begin and len(causes) > 1 and not blind
        proposals = self._proposals(checks, doubtful, causes, odds, heard) if asks else ()
        bits = entropy_bits(np.array([s.odds for s in suspects]))
        shown = tuple((one.check, one.reading) for one in evidence)
        search = Search(suspects, proposals, shown, bits, begin, unpowered, unexplained, blind)
        if search.found is None:
            return search
        alone = [
            one.check
            for n, one in enumerate(evidence)
            if one in doubtful and not _holds(causes, posterior(prior, [*told[:n], *told[n + 1 :]]), search.found)
        ]
        return replace(search, hangs_on=tuple(sorted(alone, key=lambda check: check.minutes)))

    def _pairs(self, causes: Sequence[Cause], odds: Floats) -> list[Cause]:
        """The likeliest single causes two at a time."""
        at_once = float(table("proof", "priors")["two_at_once"])
        best: dict[tuple[object, ...], Cause] = {}
        for n in np.argsort(-odds):
            if causes[n].faults and len(best) < PAIRED:
                best.setdefault(causes[n].key, causes[n])
        found = []
        for one, other in combinations(best.values(), 2):
            a, b = one.faults[0], other.faults[0]
            if a.fault.at == b.fault.at:
                continue
            car = stricken(one.car, (b.fault,))
            found.append(Cause((a, b), at_once * a.weight * b.weight / self._total, car))
        return found

    def _unexplained(self, said: frozenset[Symptom]) -> tuple[Symptom, ...]:
        """What was said that no single fault brings about."""
        left = set(said)
        for cause in self.causes:
            if left and cause.faults:
                left -= symptoms_of(cause.car, self.planned, *self.places)
        return tuple(symptom for symptom in Symptom if symptom in left)

    def _told(
        self,
        causes: Sequence[Cause],
        evidence: Sequence[Evidence],
        said: frozenset[Symptom],
        denied: frozenset[Symptom],
    ) -> tuple[Floats, list[Floats]]:
        """The weights of the causes, and how likely under each is what was read, one by one, and what was said."""
        likelihoods = [np.array([sum(self._likely(cause, one)) for cause in causes]) for one in evidence]
        if said or denied:
            likelihoods.append(np.array([self._said(cause, said, denied) for cause in causes]))
        return np.array([cause.weight for cause in causes]), likelihoods

    def _said(self, cause: Cause, said: frozenset[Symptom], denied: frozenset[Symptom]) -> float:
        """How likely what was said is under a cause."""
        errors = table("proof", "errors")
        unsaid = float(errors["unsaid_symptom"])
        shows = symptoms_of(cause.car, self.planned, *self.places)
        likely = 1.0
        for symptom in said:
            likely *= 1 - unsaid if symptom in shows else _false(symptom)
        for symptom in denied:
            likely *= unsaid if symptom in shows else 1 - _false(symptom)
        return likely

    def spread(self, check: Check, value: float, of_size: float) -> float:
        """How far readings of a check spread round what a cause shows, whose size spreads it so far [in its unit]."""
        window = self.windows.of(check.probe)
        if window is None:
            return meter_sigma(check.probe.quantity, value) + of_size * abs(value)
        beyond = value - window.value
        idles = _IDLES if check.setting is Setting.ASLEEP and check.probe.quantity in CURRENTS else 0.0
        return hypot(window.sigma, of_size * beyond, idles * beyond)

    def _likely(self, cause: Cause, one: Evidence) -> tuple[float, float]:
        """How likely a reading is under a cause: as what is there, and as a mistake, which is seldom made twice."""
        errors, check, reading = table("proof", "errors"), one.check, one.reading
        wild, wrong = (float(errors[name]) ** (2 if one.twice else 1) for name in ("wild_reading", "wrong_answer"))
        there = cause.shown(check.probe)
        if there is None:
            return 1.0, 0.0
        if check.probe.quantity is Quantity.ANSWER:
            return (1 - wrong, 0.0) if there.passed == reading.passed else (0.0, wrong)
        value = less_leads(check, reading)
        over = reading.over or (check.probe.quantity is Quantity.OHM and (value or 0.0) >= SHOWS_NOTHING_OHM)
        if over:
            return (1 - wild, 0.0) if there.over else (0.0, wild)
        if there.over:  # a number where nothing connects: it may lie anywhere, as the densities below are by its unit
            return 0.0, wild / _wide(check.probe.quantity, value or 0.0)
        if value is None:  # a file may say “good” of what a number is asked for
            return 1.0, 0.0
        at = there.value or 0.0
        if check.probe.quantity is Quantity.DROP_MV and reading.current_a:
            at *= _current_ratio(cause.car, check, reading)
        sigma = self.spread(check, at, cause.of_size)
        density = np.exp(-0.5 * ((value - at) / sigma) ** 2) / (sigma * np.sqrt(2 * np.pi))
        return float((1 - wild) * density), wild / _wide(check.probe.quantity, at)

    # -- what to check next -------------------------------------------------------------------------------------------

    def _proposals(
        self,
        checks: Sequence[Check],
        doubtful: Sequence[Evidence],
        causes: Sequence[Cause],
        odds: Floats,
        heard: set[Ask],
    ) -> tuple[Proposal, ...]:
        """The checks that tell most a minute, the best first; what an ear was asked already tells less. One that was
        read is read again for what it tells whether that was a mistake.
        """
        kept = [int(n) for n in np.flatnonzero(odds > 1e-4)]
        few = odds[kept] / odds[kept].sum()
        near = [causes[n] for n in kept]
        tells = [(check, *self._outcomes(near, check), False) for check in checks]
        tells += [(one.check, self._mistaken(near, one), [], True) for one in doubtful]
        gains = [(gain_bits(few, rows), check, rows, bounds, again) for check, rows, bounds, again in tells
                 if rows is not None]  # fmt: skip
        ranked = [row for row in gains if row[0] > TELLS_NOTHING]
        less = [AGAIN if check.probe.ask in heard else ONCE_MORE if again else 1.0 for _, check, _, _, again in ranked]
        order = sorted(range(len(ranked)), key=lambda n: -ranked[n][0] / ranked[n][1].minutes * less[n])
        return tuple(
            Proposal(check, gain, self._meanings(near, few, rows, ANEW if again else _words(check, bounds)), again)
            for gain, check, rows, bounds, again in (ranked[n] for n in order[:6])
        )

    def _mistaken(self, causes: Sequence[Cause], one: Evidence) -> Floats:
        """((n, 2) how likely a reading was a mistake under every cause, and that it was none."""
        parts = [self._likely(cause, one) for cause in causes]
        shares = np.array([by_mistake / (meant + by_mistake) for meant, by_mistake in parts])
        return np.column_stack([shares, 1 - shares])

    def _outcomes(self, causes: Sequence[Cause], check: Check) -> tuple[Floats | None, list[float]]:
        """((n, k) how likely each outcome is under every cause, the bounds between numbers); None where all are alike.

        Outcomes are good and not good; or no connection, then the numbers from low to high.
        """
        shown = [cause.shown(check.probe) for cause in causes]
        if any(s is None for s in shown):
            return None, []
        errors = table("proof", "errors")
        if check.probe.quantity is Quantity.ANSWER:
            wrong = float(errors["wrong_answer"])
            good = np.array([1 - wrong if s is not None and s.passed else wrong for s in shown])
            return (None if np.ptp(good) == 0 else np.column_stack([good, 1 - good])), []
        wild = float(errors["wild_reading"])
        each = [(None if s is None or s.over else s.value, c.of_size) for c, s in zip(causes, shown, strict=True)]
        spreads = {one: self.spread(check, one[0] or 0.0, one[1]) for one in set(each)}  # many show the same
        means = [(one[0], spreads[one]) for one in each if one[0] is not None]
        bounds = boundaries(*zip(*means, strict=True)) if means else []
        shares = {one: _shares(one[0], sigma, bounds, wild) for one, sigma in spreads.items()}
        rows = np.array([shares[one] for one in each])
        return (None if np.ptp(rows, axis=0).max() < 1e-6 else rows), bounds

    def _meanings(
        self, causes: Sequence[Cause], odds: Floats, rows: Floats, words: Sequence[str]
    ) -> tuple[Outcome, ...]:  # fmt: skip
        found = []
        for column in range(rows.shape[1]):
            weights = odds * rows[:, column]
            share = float(weights.sum())
            if share < 0.01:
                continue
            means = tuple(s for s in _together(causes, weights / share)[:3] if s.odds > 0.02)
            found.append(Outcome(words[column], share, means))
        return tuple(found)


def _of_the_plan(candidate: Candidate, unread: frozenset[str]) -> bool:
    """Whether a fault is that something is not as planned which nobody planned, and nobody read."""
    kind, link_id = candidate.fault.kind, candidate.fault.at.rsplit("/", 1)[0]
    return kind in (FaultKind.THIN_WIRE, FaultKind.CLAD_WIRE) and link_id in unread


def _shares(at: float | None, sigma: float, bounds: list[float], wild: float) -> list[float]:
    """How likely each outcome is where a value is there, or where nothing connects."""
    k = len(bounds) + 2
    if at is None:
        return [1 - wild, *[wild / (k - 1)] * (k - 1)]
    ends = [-inf, *bounds, inf]
    inside = [normal_share(a, b, at, sigma) for a, b in zip(ends, ends[1:], strict=False)]
    return [wild / k, *[(1 - wild) * share + wild / k for share in inside]]


def _false(symptom: Symptom) -> float:
    """How often a symptom is said that is not there: what is heard by an ear oftener than a car that does not start."""
    errors = table("proof", "errors")
    return float(errors["false_plain" if symptom.name in errors["plain"] else "false_symptom"])


def _tells(check: Check) -> bool:
    """Whether a fault of the model can show in a check."""
    if check.probe.quantity is Quantity.ANSWER:
        return check.probe.ask in ASKABLE
    return check.probe.quantity not in (Quantity.STEP, Quantity.HEAT)


def _current_ratio(car: Car, check: Check, reading: ProofReading) -> float:
    """How many times the planned current flowed while a drop was read."""
    live = car.live(Setting.LEVEL)
    planned_a = live.current_a.get(check.probe.subject, 0.0) if live is not None else 0.0
    return (reading.current_a or planned_a) / planned_a if planned_a > 0 else 1.0


CURRENTS = (Quantity.CURRENT, Quantity.ASLEEP_MA)
_IDLES = float(table("proof", "spreads")["idle"]) / sqrt(3)  # one standard deviation of what a part on draws asleep
WIDE = {Quantity.OHM: 20.0, Quantity.DC_V: 15.0, Quantity.DROP_MV: 2000.0, Quantity.ASLEEP_MA: 2000.0}


def _wide(quantity: Quantity, at: float) -> float:
    """The width over which a reading that means nothing may lie."""
    return max(4 * abs(at), WIDE.get(quantity, 50.0))


def _together(causes: Sequence[Cause], odds: Floats) -> tuple[Suspect, ...]:
    """Causes with their sizes together, the likeliest first."""
    found: dict[tuple[tuple[FaultKind, str, str], ...], tuple[Cause, float, float]] = {}
    for cause, share in zip(causes, odds, strict=True):
        best, most, whole = found.get(cause.key, (cause, -1.0, 0.0))
        found[cause.key] = (cause if share > most else best, max(most, float(share)), whole + float(share))
    rows = [Suspect(key, cause.faults, whole) for key, (cause, _, whole) in found.items()]
    return tuple(sorted(rows, key=lambda s: -s.odds))


def _holds(causes: Sequence[Cause], odds: Floats, found: Suspect) -> bool:
    """Whether other odds still make a suspect the likeliest by far."""
    first = _together(causes, odds)[0]
    return first.key == found.key and first.odds >= HOLDS


def _words(check: Check, bounds: list[float]) -> list[str]:
    """The outcomes of a check in words."""
    if check.probe.quantity is Quantity.ANSWER:
        return ["good", "not good"]
    said = [amount(b, check.probe.quantity.unit) for b in bounds]
    if not said:
        return ["no connection", "any value" if check.nothing else "a value"]
    between = [f"{low} to {high}" for low, high in zip(said, said[1:], strict=False)]
    return ["no connection", f"under {said[0]}", *between, f"over {said[-1]}"]
