"""Jobs in the shop's bays over its opening hours: where each stands when, what clashes, where the next one fits.

Days are ordinals (day 1 is 1 January of year 1, a Monday), times minutes of the day.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import combinations

from ohmack.core.document.policy import Policy
from ohmack.core.errors import NotPossible
from ohmack.core.record import record
from ohmack.core.wording import count, listed

MOST_DAYS = 400  # how far ahead a place is looked for
STEP_MIN = 15  # visits begin on the quarter hour


@record
class Hours:
    """When the shop is open, and how many cars stand inside."""

    opens_min: int
    closes_min: int
    saturday: bool
    bays: int

    def is_open(self, day: int) -> bool:
        """Whether anybody works on a day."""
        weekday = (day - 1) % 7
        return weekday < 5 or (weekday == 5 and self.saturday)

    @property
    def day_min(self) -> int:
        """Working minutes of a day [min]."""
        return self.closes_min - self.opens_min


def hours_of(policy: Policy) -> Hours:
    """The shop's hours by its policy; at least an hour a day."""
    opens = round(policy.opens_h * 60)
    closes = max(round(policy.closes_h * 60), opens + 60)
    return Hours(opens, min(closes, 24 * 60), policy.saturday == "open", policy.bays)


@record
class Visit:
    """A job as the bay plan sees it."""

    job: str
    title: str
    work_min: float  # with the people at work on it
    bay: int = 1
    day: int | None = None  # None while it waits for one
    minute: int = 0
    due: int | None = None
    parts_day: int | None = None  # when the last part is here; None where all are
    waits_for: tuple[str, ...] = ()  # parts that are not here
    no_date: tuple[str, ...] = ()  # of them, those nobody knows a lead time of


@record
class Piece:
    """A stretch of one job in one bay on one day."""

    job: str
    bay: int
    day: int
    from_min: int
    to_min: int


@record
class Clash:
    """What does not go together."""

    jobs: tuple[str, ...]
    words: str


def pieces(visit: Visit, hours: Hours) -> list[Piece]:
    """A visit spread over the days the shop is open.

    Parameters:
        visit: the visit; one without a day has none.
        hours: the shop's.

    Returns:
        a piece a day, from when it comes in until its work is done; the first begins when the shop opens where the
        visit would begin before.
    """
    if visit.day is None:
        return []
    found, day, at_min, left = [], visit.day, max(visit.minute, hours.opens_min), round(visit.work_min)
    for _ in range(MOST_DAYS):
        if left <= 0:
            break
        if hours.is_open(day) and at_min < hours.closes_min:
            here = min(left, hours.closes_min - at_min)
            found.append(Piece(visit.job, visit.bay, day, at_min, at_min + here))
            left -= here
        day, at_min = day + 1, hours.opens_min
    return found


def clashes(visits: Sequence[Visit], hours: Hours) -> list[Clash]:
    """What of a plan does not go together.

    Parameters:
        visits: all of them.
        hours: the shop's.

    Returns:
        each named once: two jobs in one bay, a bay that is none, closed doors, parts that are not here, a day that
        cannot be kept.
    """
    placed = {v.job: pieces(v, hours) for v in visits}
    found = [c for v in visits if v.day is not None for c in _of_one(v, placed[v.job], hours)]
    for a, b in combinations([v for v in visits if placed[v.job]], 2):
        if any(_overlap(p, q) for p in placed[a.job] for q in placed[b.job]):
            found.append(Clash((a.job, b.job), f"{a.job} and {b.job} stand in bay {a.bay} at the same time"))
    return found


def _of_one(visit: Visit, placed: list[Piece], hours: Hours) -> Iterator[Clash]:
    assert visit.day is not None
    if not placed:
        yield Clash((visit.job,), f"{visit.job} is booked, and has no work planned yet")
    if visit.bay > hours.bays:
        yield Clash((visit.job,), f"{visit.job} is booked into bay {visit.bay}: there {_are(hours.bays)}")
    if not hours.is_open(visit.day):
        yield Clash((visit.job,), f"{visit.job} comes in on a day the shop is closed")
    elif not hours.opens_min <= visit.minute < hours.closes_min:
        yield Clash((visit.job,), f"{visit.job} comes in while the shop is closed")
    if visit.parts_day is not None and visit.parts_day > visit.day:
        days = count(visit.parts_day - visit.day, "day")
        yield Clash((visit.job,), f"{visit.job} comes in {days} before {listed(list(visit.waits_for))}")
    if visit.no_date:
        yield Clash((visit.job,), f"{visit.job}: nobody knows when {listed(list(visit.no_date))} will be here")
    if visit.due is not None and placed and placed[-1].day > visit.due:
        days = count(placed[-1].day - visit.due, "day")
        yield Clash((visit.job,), f"{visit.job} is ready {days} after it was promised")


def _are(bays: int) -> str:
    return "is one" if bays == 1 else f"are {bays}"


def _overlap(a: Piece, b: Piece) -> bool:
    return (a.bay, a.day) == (b.bay, b.day) and a.from_min < b.to_min and b.from_min < a.to_min


def free_place(visits: Iterable[Visit], wanted: Visit, hours: Hours, from_day: int, from_min: int = 0) -> Visit:
    """The first place a job fits.

    Parameters:
        visits: the others.
        wanted: the job; it waits for its parts.
        hours: the shop's.
        from_day: the first day that may be.
        from_min: on that day, not before this minute of the day [min].

    Returns:
        the visit with its bay and time: the earliest that is free, in the lowest bay.

    Raises:
        NotPossible: nobody knows when its parts will be here, or nothing is free for more than a year.
    """
    if wanted.no_date:
        names = listed(list(wanted.no_date))
        raise NotPossible(
            "starts", f"Nobody knows when {names} will be here: note the lead time at the part, or that it is here."
        )
    others = [p for v in visits if v.job != wanted.job for p in pieces(v, hours)]
    first = max(from_day, wanted.parts_day or 0)
    for day in range(first, first + MOST_DAYS):
        if not hours.is_open(day):
            continue
        earliest = max(hours.opens_min, from_min if day == from_day else 0)
        for at_min in range(-(-earliest // STEP_MIN) * STEP_MIN, hours.closes_min, STEP_MIN):
            for bay in range(1, hours.bays + 1):
                tried = replace(wanted, bay=bay, day=day, minute=at_min)
                if not any(_overlap(p, q) for p in pieces(tried, hours) for q in others):
                    return tried
    raise NotPossible("starts", "No bay is free for more than a year.")
