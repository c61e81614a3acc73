"""Practice: faults hidden by a seed, and what finding them took beside what the finder's own strategy takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random

from ohmack.core.document import Design
from ohmack.core.document.looking import Remembered
from ohmack.core.document.proof import Fault, FaultKind, Practice, Proof, ProofReading, Symptom
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.prove.candidates import Candidate, candidates
from ohmack.core.prove.car import Car, Setting
from ohmack.core.prove.checks import Check
from ohmack.core.prove.faults import stricken
from ohmack.core.prove.judged import is_good
from ohmack.core.prove.probes import take
from ohmack.core.prove.symptoms import symptoms_of
from ohmack.instruments.true_car import Meter, true_car

LEVELS = {
    1: "one fault that is plain to hear or see", 2: "one fault of any kind and size", 3: "two faults at once",
}  # fmt: skip
MOST_CHECKS = 40


def as_planned(design: Design) -> Design:
    """The plan without anything that was read, so that a car does not hang on what is found in it."""
    return design.model_copy(update={"proof": Proof()})


def hidden(design: Design, practice: Practice) -> tuple[Candidate, ...]:
    """What is wrong in a practice car.

    Parameters:
        design: the plan.
        practice: its seed and level.

    Returns:
        one fault, or two; the same for the same plan, seed and level. None where nothing can be wrong.
    """
    results, noticed = noticed_in(design)
    chance = Random(practice.seed * 10 + practice.level)
    found = [c for c in noticed if _may_hide(results, practice, c)]
    if practice.level == 1:
        found = [c for c in found if c.fault.kind not in SUBTLE]
    if not found:
        return ()
    first = chance.choices(found, [c.weight for c in found])[0]
    if practice.level < 3:
        return (first,)
    others = [c for c in found if c.fault.at != first.fault.at and symptoms_with(results, (first, c))]
    return (first, chance.choices(others, [c.weight for c in others])[0]) if others else (first,)


_noticed: Remembered[tuple[Results, tuple[Candidate, ...]]] = Remembered(4)


def noticed_in(design: Design) -> tuple[Results, tuple[Candidate, ...]]:
    """What a plan comes to without anything that was read, and the faults of it that are heard or seen; a practice asks
    for both again with every reading.
    """
    planned = as_planned(design)

    def find() -> tuple[Results, tuple[Candidate, ...]]:
        results = evaluate(planned).results
        return results, tuple(c for c in candidates(results) if symptoms_with(results, (c,)))

    rests_on = tuple(getattr(design, name) for name in type(design).model_fields if name != "proof")
    return _noticed.get(rests_on, None, find)


def _may_hide(results: Results, practice: Practice, candidate: Candidate) -> bool:
    """Whether a practice may hide a fault: one begun before some were known must go on hiding what it hid."""
    kind = candidate.fault.kind
    if practice.edition < 4 and kind is FaultKind.NOT_CHARGING and results.design.vehicle.above_12_v:
        return False  # it showed nowhere behind a converter
    if practice.edition < 3 and (
        kind in SINCE_3 or (kind is FaultKind.NOT_CHARGING and Setting.BATTERY not in results.car.emf_v)
    ):
        return False
    if practice.edition > 1:
        return True
    return kind is not FaultKind.STAYS_ON and not _at_the_plug(results, candidate)


# A weak battery was heard and seen by nothing before.
SINCE_3 = (
    FaultKind.WEAK_BATTERY,
    FaultKind.KEEPS_ON,
    FaultKind.CAR_DRAINS,
    FaultKind.CHARGE_OFF,
    FaultKind.RELAY_STUCK,
)


def _at_the_plug(results: Results, candidate: Candidate) -> bool:
    """Whether only a new radio on the car's plug suffers from a fault."""
    brought = [small for small in results.car.small if small.at_plug]
    used = {fed.source_id for fed in results.car.fed} | {s.feed_id for s in results.car.small if not s.at_plug}
    ours = {name for small in brought for name in (small.id, small.part_id, small.feed_id)}
    return candidate.fault.at in ours - used


SUBTLE = (FaultKind.CLAD_WIRE, FaultKind.THIN_WIRE, FaultKind.GROUND_LOOP, FaultKind.WRONG_COILS,
          FaultKind.EARLY_ON)  # fmt: skip


def symptoms_with(results: Results, faults: Sequence[Candidate]) -> frozenset[Symptom]:
    """What is heard and seen of some faults."""
    tweeters = [d.speaker.id for d in results.drives if d.tweeter]
    bass = [load.driver.id for load in results.loads if load.driver.is_subwoofer]
    return symptoms_of(stricken(results.car, [c.fault for c in faults]), results.car, tweeters, bass)


def still_in(design: Design) -> tuple[Fault, ...]:
    """The hidden faults nobody has mended yet."""
    practice = design.proof.practice
    if practice is None:
        return ()
    mended = {(m.kind, m.at) for m in design.proof.mends}
    return tuple(c.fault for c in hidden(design, practice) if (c.fault.kind, c.fault.at) not in mended)


def car_of(design: Design) -> tuple[Car, int]:
    """(the practice car as it stands now, the seed of its next reading)."""
    practice = design.proof.practice
    seed = practice.seed if practice is not None else 1
    return true_car(as_planned(design), seed, still_in(design)), seed * 1000 + len(design.proof.readings)


@dataclass(frozen=True, slots=True)
class Way:
    """How something was found: in so many checks and minutes, and whether rightly."""

    checks: int
    minutes: float
    right: bool


@dataclass(frozen=True, slots=True)
class Score:
    """A practice as it stands: what was hidden, what the person took, what the strategy takes."""

    faults: tuple[Candidate, ...]
    found: tuple[Candidate, ...]
    wrong: int  # mends of what was whole
    person: Way
    strategy: Way

    @property
    def over(self) -> bool:
        """Whether everything hidden was found and mended."""
        return len(self.found) == len(self.faults)


def score(design: Design) -> Score:
    """How a practice stands.

    Parameters:
        design: the practice job.

    Returns:
        the score; the strategy follows its own proposals on the same car.

    Source: the strategy is the one that proposes; its minutes are common practice.
    """
    practice = design.proof.practice or Practice()
    faults = hidden(design, practice)
    keys = {(c.fault.kind, c.fault.at) for c in faults}
    mended = [(m.kind, m.at) for m in design.proof.mends]
    found = tuple(c for c in faults if (c.fault.kind, c.fault.at) in mended)
    results, _ = noticed_in(design)
    minutes = {c.id: c.minutes for c in results.finder.checks}
    readings = design.proof.readings
    took = sum(minutes.get(r.check, 1.0) for r in readings)
    person = Way(len(readings), took, len(found) == len(faults))
    return Score(faults, found, sum(m not in keys for m in mended), person, by_the_strategy(design, results, faults))


def shows_at(design: Design, fault: Candidate) -> tuple[str, ...]:
    """Where a fault shows: the checks of the plan that are not as predicted with it in, the quickest first."""
    results, _ = noticed_in(design)
    car, found = stricken(results.car, (fault.fault,)), []
    for judged in results.proof.checks:
        taken = take(car, judged.check.probe)
        if taken is None:
            continue
        reading = ProofReading(id="r", check=judged.check.id, value=None if taken.over else taken.value,
                               over=taken.over, passed=taken.passed)  # fmt: skip
        if is_good(judged.check, judged.window, reading, taken.value) is False:
            found.append(judged.check)
    return tuple(check.title for check in sorted(found, key=lambda c: c.minutes))


def by_the_strategy(design: Design, results: Results, faults: Sequence[Candidate]) -> Way:
    """What following every proposal takes to find some faults, one after the other."""
    practice = design.proof.practice or Practice()
    left, checks, took = list(faults), 0, 0.0
    while left:
        meter = Meter(true_car(as_planned(design), practice.seed, [c.fault for c in left]), practice.seed)
        symptoms = symptoms_with(results, left)
        readings: list[ProofReading] = []
        named: set[tuple[FaultKind, str]] = set()
        while len(readings) < MOST_CHECKS:
            search = results.finder.search(readings, symptoms)
            suspects = search.found.faults if search.found is not None else ()
            if suspects or not search.proposals:
                stuck = [c for s in search.stuck for c in s.faults]
                named = {(c.fault.kind, c.fault.at) for c in (*suspects, *stuck)}
                break
            check = search.proposals[0].check
            readings.append(as_read(meter, check, len(readings)))
            took += check.minutes
        checks += len(readings)
        rest = [c for c in left if (c.fault.kind, c.fault.at) not in named]
        if len(rest) == len(left):
            return Way(checks, took, False)
        left = rest
    return Way(checks, took, True)


def as_read(meter: Meter, check: Check, number: int) -> ProofReading:
    """A reading of a practice car as it is kept."""
    taken = meter.at(check)
    return ProofReading(
        id=f"r-{number}", check=check.id, value=None if taken.over else taken.value, over=taken.over,
        passed=taken.passed, zero_ohm=meter.leads_ohm,
    )  # fmt: skip
