"""The history of one car over all its jobs: surveyed, changed, found broken, mended, handed over; what the papers had
wrong.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from enum import StrEnum

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.outgoing import Goes
from ohmack.core.document.part import Stands
from ohmack.core.document.paths import design_facts
from ohmack.core.document.proof import FaultKind
from ohmack.core.prove.plan_of_proof import MADE_GOOD
from ohmack.core.record import record
from ohmack.core.wording import count, listed

MOST_NAMED = 4


class Happened(StrEnum):
    """What happened to a car."""

    OPENED = "came in"
    SURVEYED = "surveyed"
    CHANGED = "changed"
    CUT = "drilled"
    BROKEN = "found broken"
    MENDED = "mended"
    PROVED = "proved"
    TRIED = "soaked"
    HELD = "held"
    SIGNED = "handed over"


@record
class CarJob:
    """One job of a car: its number, its title, the day it was opened, its design in force."""

    number: str
    title: str
    opened: str
    design: Design


@record
class Event:
    """One thing that happened."""

    when: str  # ISO day; empty where nobody noted it
    job: str
    kind: Happened
    words: str


def timeline(jobs: Sequence[CarJob]) -> tuple[Event, ...]:
    """What happened to a car, newest first.

    Parameters:
        jobs: every job of the car, oldest first.

    Returns:
        the events; of one day in the order they follow each other in a job. What has no day stands at its job's.
    """
    events: list[tuple[str, int, int, Event]] = []
    before: dict[str, str] = {}
    for n, job in enumerate(jobs):
        for event in _of_job(job, before):
            events.append((event.when or job.opened, n, list(Happened).index(event.kind), event))
        before |= {p.id: p.name for p in job.design.parts}
    return tuple(e for *_, e in sorted(events, key=lambda entry: entry[:3], reverse=True))


def made_good(job: CarJob) -> tuple[str, ...]:
    """The joints undone and the holes closed: those whose step is done, or all once somebody looked at them."""
    design = job.design
    done = {mark.step for mark in design.work.marks if mark.done}
    looked = any(r.check == MADE_GOOD and r.passed for r in design.proof.readings)
    wanted = {Goes.JOINT: "undo", Goes.HOLE: "close"}
    return tuple(
        one.name
        for one in design.coming_out
        if one.goes in wanted and (looked or f"{wanted[one.goes]}-{one.id}" in done)
    )


def _worked(design: Design) -> bool:
    return any(mark.done for mark in design.work.marks) or bool(design.proof.readings)


def _of_job(job: CarJob, before: dict[str, str]) -> Iterator[Event]:
    design = job.design
    yield Event(job.opened, job.number, Happened.OPENED, job.title)
    yield from _surveyed(job)
    proof, hand = design.proof, design.handover
    worked = _worked(design)
    fitted = (p for p in design.parts if worked or p.stands is Stands.IN_THE_CAR)
    if new := [p.name for p in fitted if before.get(p.id) != p.name]:
        yield Event(_worked_on(design), job.number, Happened.CHANGED, f"in the car: {_named(new)}")
    if worked and (gone := [one.name for one in design.coming_out if one.goes is Goes.PART]):
        yield Event(_worked_on(design), job.number, Happened.CHANGED, f"out of the car: {_named(gone)}")
    for hole in design.work.holes:
        wide = f", {hole.diameter_mm:g} mm" if hole.diameter_mm else ""
        yield Event(hole.when[:10], job.number, Happened.CUT, f"{hole.name}{wide}")
    if proof.symptoms:
        said = listed([s.value for s in proof.symptoms])
        yield Event(
            _first(r.when for r in proof.readings) or job.opened, job.number, Happened.BROKEN, f"reported: {said}"
        )
    for fault in proof.faults:
        yield Event("", job.number, Happened.BROKEN, f"{fault.kind.value}, not mended")
    for mend in proof.mends:
        kind = FaultKind(mend.kind).value
        yield Event(mend.when[:10], job.number, Happened.MENDED, f"{kind}{f': {mend.words}' if mend.words else ''}")
    if proof.readings:
        accepted = f", {count(len(proof.deviations), 'deviation')} by name" if proof.deviations else ""
        yield Event(max(r.when[:10] for r in proof.readings), job.number, Happened.PROVED,
                    f"{count(len(proof.readings), 'reading')}{accepted}")  # fmt: skip
    if hand.soak:
        tried = {r.when[:10] for r in hand.soak}
        yield Event(max(tried), job.number, Happened.TRIED, f"over {count(len(tried), 'day')}")
    for hold in hand.holds:
        yield Event(hold.when[:10], job.number, Happened.HELD, f"{hold.by}: {hold.reason}")
    for signature in hand.signatures:
        yield Event(signature.when[:10], job.number, Happened.SIGNED, f"signed by {signature.by}")


def _worked_on(design: Design) -> str:
    """The last day a step was done, or something was read."""
    days = [m.when[:10] for m in design.work.marks if m.done and m.when]
    return max(days or [r.when[:10] for r in design.proof.readings], default="")


def _surveyed(job: CarJob) -> Iterator[Event]:
    days = Counter(f.when[:10] for _, f, _, _ in design_facts(job.design) if f.basis is Basis.MEASURED and f.when)
    for day, many in days.items():
        yield Event(day, job.number, Happened.SURVEYED, f"{count(many, 'fact')} read")


def _named(names: list[str]) -> str:
    some = list(dict.fromkeys(names))
    more = f" and {len(some) - MOST_NAMED} more" if len(some) > MOST_NAMED else ""
    return f"{', '.join(some[:MOST_NAMED])}{more}" if more else listed(some)


def _first(days: Iterable[str]) -> str:
    return min((day[:10] for day in days if day), default="")


@record
class Otherwise:
    """A fact that came out otherwise than papers said: what they said, what was read, when."""

    path: str
    papers: Fact[object]
    read: Fact[object]


def came_out_otherwise(revisions: Iterable[Design]) -> tuple[Otherwise, ...]:
    """Facts that papers had wrong for this car.

    Parameters:
        revisions: the revisions of a design, oldest first.

    Returns:
        by path, what papers said last and what was measured after that, where the two are not the same.
    """
    papers: dict[str, Fact[object]] = {}
    found: dict[str, Otherwise] = {}
    there: set[str] = set()
    for design in revisions:
        there = {path for path, *_ in design_facts(design)}
        for path, fact, _, _ in design_facts(design):
            if fact.basis is Basis.DOCUMENTED and fact.value is not None:
                papers[path] = fact
                found.pop(path, None)
            elif fact.basis is Basis.MEASURED and path in papers and fact.value != papers[path].value:
                found[path] = Otherwise(path, papers[path], fact)
            elif path in found:
                found.pop(path)
    return tuple(one for path, one in found.items() if path in there)
