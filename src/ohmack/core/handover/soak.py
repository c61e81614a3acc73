"""The soak: what is tried after the proof, over days, before the car goes; each with its limit and its dates."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import TYPE_CHECKING

from ohmack.core.document.boxes import Box
from ohmack.core.document.handover import SoakReading
from ohmack.core.document.proof import Deviation
from ohmack.core.prove.car import Setting
from ohmack.core.prove.judged import reads
from ohmack.core.prove.plan_of_proof import posts_asked
from ohmack.core.prove.points import is_itself, itself
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.wording import count, listed, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MOST_PANELS = 6  # named in one sentence


class SoakState(StrEnum):
    """How a soak check stands."""

    OPEN = "open"
    BEGUN = "begun"
    PASSED = "good"
    OFF = "not good"
    UNJUDGED = "read, nothing to hold it against"
    AGAIN = "to be tried again: something was mended since"
    ACCEPTED = "accepted as it is"

    @property
    def stands(self) -> bool:
        """Whether the car may go with it."""
        return self in (SoakState.PASSED, SoakState.ACCEPTED)


@record
class SoakCheck:
    """One thing that is tried: how, what must show, how many times, over how many days."""

    id: str
    title: str
    how: str
    minutes: float
    quantity: Quantity = Quantity.ANSWER
    low: float | None = None
    high: float | None = None
    times: int = 1
    days: int = 1
    about: str = ""
    caution: str = ""
    sheet: str = ""

    @property
    def is_read(self) -> bool:
        """Whether a number is read."""
        return self.quantity is not Quantity.ANSWER

    @property
    def expects(self) -> str:
        """What must show, in words."""
        if not self.is_read:
            return ""
        if self.low is not None and self.high is not None:
            return f"{reads(self.quantity, self.low)} to {reads(self.quantity, self.high)}"
        if self.high is not None:
            return f"at most {reads(self.quantity, self.high)}"
        if self.low is not None:
            return f"at least {reads(self.quantity, self.low)}"
        return "nothing is predicted: something it rests on is not known"


@record
class SoakJudged:
    """One soak check with what was tried, and how it stands."""

    check: SoakCheck
    readings: tuple[SoakReading, ...]  # every one, as tried
    good: int  # of those that count
    state: SoakState
    deviation: Deviation | None = None

    @property
    def last(self) -> SoakReading | None:
        """The last try."""
        return self.readings[-1] if self.readings else None

    @property
    def read_words(self) -> str:
        """What the last try showed."""
        return said(self.check, self.last) if self.last is not None else ""

    @property
    def left(self) -> str:
        """What is still to be tried, in words; empty where it stands."""
        if self.state.stands:
            return ""
        more, days = self.check.times - self.good, self.check.days
        if self.check.times == 1:
            return ""
        if more > 0:
            return f"{count(more, 'more time', 'more times')}, over at least {count(days, 'day')}"
        return f"once more on another day: {count(days, 'day')} at least"


def said(check: SoakCheck, reading: SoakReading) -> str:
    """One try in words."""
    if not check.is_read or reading.value is None:
        return "good" if reading.passed else "not good"
    return reads(check.quantity, reading.value)


def soak_checks(results: Results) -> tuple[SoakCheck, ...]:
    """Everything that is tried before a car goes.

    Parameters:
        results: the evaluated plan.

    Returns:
        the checks, in the order of a night, a drive and the days after; none where nothing is fitted.

    Source: what is tried, how long and how often: common practice; volts and milliamperes as the proof's windows.
    """
    if not results.design.changes_something:
        return ()
    return (*_after_a_night(results), *_on_the_road(results), *_asleep(results))


def _minutes(kind: str) -> float:
    return float(table("handover", "minutes")[kind])


def _answer(check_id: str, title: str, how: str, kind: str, caution: str = "", sheet: str = "") -> SoakCheck:
    return SoakCheck(f"soak/{check_id}", title, how, _minutes(kind), caution=caution, sheet=sheet)


def _after_a_night(results: Results) -> Iterator[SoakCheck]:
    cold = "After a night outside: key, start. No lamp that was not there, no thump, clock and stations are kept."
    yield _answer("cold-start", "Cold start", cold, "cold-start")
    vehicle = results.design.vehicle
    posts = {name: (plus, minus) for name, plus, minus in results.car.posts}
    for name in (name for name, _, _ in posts_asked(results) if not is_itself(name)):
        own = posts.get(itself(name), None if vehicle.above_12_v else posts[name])  # not what its converter gives
        window = results.windows.of(Probe(Quantity.DC_V, *own, Setting.ASLEEP)) if own is not None else None
        battery = next(b for b in vehicle.supply.batteries if b.id == name)
        how = "Before the first start, doors closed: meter on DC volts, at the posts."
        yield SoakCheck(
            f"soak/morning/{name}", f"{battery.name} in the morning", how, _minutes("morning"), Quantity.DC_V,
            low=window.low if window is not None else None, about=name,
        )  # fmt: skip


def _on_the_road(results: Results) -> Iterator[SoakCheck]:
    design, minutes = results.design, int(table("handover", "soak")["drive_minutes"])
    drive = f"{minutes} min, rough road and motorway, music at the usual step: it never cuts out, nothing whines."
    yield _answer("drive", "A drive", drive, "drive", "Set it before driving off; somebody else listens and reads.")
    most = float(table("proof", "limits")["heat_c"])
    fed = results.car.network.consumers if results.car.network is not None else ()
    names = {part.id: part.name for part in design.parts}
    for consumer in fed:
        yield SoakCheck(
            f"soak/heat/{consumer.id}", f"{names.get(consumer.id, consumer.id)} after the drive",
            "Thermometer on the case, at once.", _minutes("heat"), Quantity.HEAT, high=most, about=consumer.id,
        )  # fmt: skip
    if fed:
        how = "Hand on the fuse holder, the block and the ground bolt after the drive: none is more than hand-warm."
        yield _answer("warm", "Fuse, block and ground stay cool", how, "warm", "Touch with the back of the hand.")
    panels = list(dict.fromkeys(lowered(item.name) for item in design.work.taken))
    more = f" and {len(panels) - MOST_PANELS} more" if len(panels) > MOST_PANELS else ""
    off = f": {listed(panels[:MOST_PANELS])}{more}" if panels else ""
    rattle = f"Sweep of 20 to 200 Hz at the last clean step, a hand on everything that was off{off}. Doors, windows up"
    yield _answer("rattle", "No rattle, nothing buzzes", f"{rattle} and down, lids, plate.", "rattle",
                  "Ears protected.", "tones")  # fmt: skip
    if design.links or any(design.parts_of(Box)):
        how = "After the drive: terminals, ground bolt and what holds box and amplifier; none has settled."
        yield _answer("tight", "Tightened again", how, "tight", "Seat and belt bolts by their maker's torque only.")


def _asleep(results: Results) -> Iterator[SoakCheck]:
    """Sleep cycles: it falls asleep, draws little, wakes, plays."""
    if not results.design.links:
        return
    soak = table("handover", "soak")
    judged = results.proof.named("level/asleep")
    window = judged.window if judged is not None else None
    how = (
        f"Locked, {soak['settle_minutes']} min, then meter on DC milliamperes without waking it. Then open, key: the"
        " sound is back at once. One entry a cycle."
    )
    yield SoakCheck(
        "soak/sleep", "Asleep and awake again", how, _minutes("sleep"), Quantity.ASLEEP_MA,
        high=window.high if window is not None else None, times=int(soak["cycles"]), days=int(soak["days"]),
    )  # fmt: skip


def judge_soak(results: Results) -> tuple[SoakJudged, ...]:
    """Every soak check held against what was tried.

    Parameters:
        results: the evaluated plan.

    Returns:
        the checks in order; what was tried before something was mended does not count any more.
    """
    hand = results.design.handover
    since = max((mend.when for mend in results.design.proof.mends), default="")
    found = []
    for check in soak_checks(results):
        tried = tuple(sorted((r for r in hand.soak if r.check == check.id), key=lambda r: r.when))
        last = tried[-1].id if tried else ""
        accepted = next((d for d in reversed(hand.accepted) if d.check == check.id and d.reading == last), None)
        found.append(_judged(check, tried, since, accepted))
    return tuple(found)


def _judged(check: SoakCheck, tried: tuple[SoakReading, ...], since: str, accepted: Deviation | None) -> SoakJudged:
    fresh = [r for r in tried if r.when >= since]
    run: list[SoakReading] = []  # good ones since the last that was not
    for reading in fresh:
        run = [*run, reading] if is_good(check, reading) else []
    good = len(run)
    if fresh and is_good(check, fresh[-1]) is None:
        state = SoakState.UNJUDGED
    elif fresh and not good:
        state = SoakState.OFF
    elif good >= check.times and len({r.when[:10] for r in run}) >= check.days:
        state = SoakState.PASSED
    elif good:
        state = SoakState.BEGUN
    else:
        state = SoakState.AGAIN if tried else SoakState.OPEN
    if accepted is not None and state is not SoakState.PASSED:
        state = SoakState.ACCEPTED
    return SoakJudged(check, tried, good, state, accepted)


def is_good(check: SoakCheck, reading: SoakReading) -> bool | None:
    """Whether a try is as it must be; None where nothing is known to hold it against."""
    if not check.is_read:
        return reading.passed
    if reading.value is None:
        return False
    if check.low is None and check.high is None:
        return None
    return (check.low is None or reading.value >= check.low) and (check.high is None or reading.value <= check.high)
