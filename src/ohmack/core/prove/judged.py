"""The proof as it stands: every check judged by what was read, every gate, and what may be done."""

from __future__ import annotations

from enum import StrEnum
from typing import TYPE_CHECKING

from ohmack.core.document.proof import Deviation, Jump, ProofReading
from ohmack.core.prove.checks import GATES, Check
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.prove.probes import Quantity
from ohmack.core.prove.windows import Window, Windows, window_about
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.wording import amount, count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

SHOWS_NOTHING_OHM = 100_000.0  # from here two leads are said not to touch; common practice
ONLY_UPWARDS = (Quantity.DROP_MV, Quantity.ASLEEP_MA, Quantity.HEAT, Quantity.DISTORTION)  # less than planned is well


class State(StrEnum):
    """How a check stands."""

    OPEN = "open"
    PASSED = "as predicted"
    OFF = "not as predicted"
    UNJUDGED = "read, nothing to hold it against"
    AGAIN = "to be made again"
    ACCEPTED = "accepted as it is"

    @property
    def stands(self) -> bool:
        """Whether a gate may be passed over it."""
        return self in (State.PASSED, State.ACCEPTED)


@record
class Judged:
    """One check with its window, its last reading and how it stands."""

    check: Check
    window: Window | None
    reading: ProofReading | None  # the last one, as taken
    earlier: tuple[ProofReading, ...]  # corrected, or taken before
    value: float | None  # with the meter's zero taken off
    state: State
    deviation: Deviation | None = None
    scaled: Window | None = None  # for the current that flowed while it was read

    @property
    def shown(self) -> Window | None:
        """The window a reading is held against."""
        return self.scaled or self.window

    @property
    def lacks_current(self) -> bool:
        """Whether it is a drop nobody noted the current of: a small one may be that of a small current."""
        return self.check.asks_current and self.reading is not None and not self.reading.current_a

    @property
    def expects(self) -> str:
        """What must show, in words; empty for what is answered."""
        return expected(self.check, self.shown)

    @property
    def why(self) -> str:
        """Why that must show, in words; empty for what is answered, and where nothing is known."""
        said = why(self.check, self.window)
        if said and self.scaled is not None and self.reading is not None:
            return f"{said} For the {amount(self.reading.current_a or 0.0, 'a')} that flowed as much less or more."
        return said

    @property
    def read_words(self) -> str:
        """What was read, in words; empty without a reading."""
        return read_words(self.check, self.reading, self.value)


@record
class Gate:
    """One gate: its checks, whether it is passed, jumped, or waits for the one before it."""

    number: int
    checks: tuple[Judged, ...]
    jump: Jump | None
    waits: bool

    @property
    def title(self) -> str:
        """What it stands before."""
        return GATES[self.number]

    @property
    def left(self) -> tuple[Judged, ...]:
        """What stands against it."""
        return tuple(j for j in self.checks if not j.state.stands)

    @property
    def passed(self) -> bool:
        """Whether every check of it stands, and none of them could not be made."""
        return not self.left

    @property
    def behind(self) -> bool:
        """Whether what comes after it may begin."""
        return self.passed or self.jump is not None


@record
class ProofState:
    """All of it."""

    gates: tuple[Gate, ...]
    orphans: tuple[ProofReading, ...]  # of checks the plan does not ask for any more
    begun: bool

    @property
    def checks(self) -> tuple[Judged, ...]:
        """Every check, in order."""
        return tuple(j for gate in self.gates for j in gate.checks)

    def named(self, check_id: str) -> Judged | None:
        """A check by id."""
        return next((j for j in self.checks if j.check.id == check_id), None)

    @property
    def next_one(self) -> Judged | None:
        """The check to make now: the first of the first gate that is not behind, whose needs are met."""
        states = {j.check.id: j.state for j in self.checks}
        for gate in sorted(self.gates, key=lambda g: (g.jump is not None, g.number)):
            open_ones = [j for j in gate.left if j.state in (State.OPEN, State.AGAIN)]
            ready = [j for j in open_ones if all(states.get(n) is not State.OPEN for n in j.check.needs)]
            if ready or open_ones:
                return (ready or open_ones)[0]
            if not gate.behind:
                return next(iter(gate.left), None)
        return None

    @property
    def gate_now(self) -> Gate | None:
        """The gate that is being worked on; None where all are behind."""
        return next((g for g in self.gates if not g.behind), None)

    @property
    def off(self) -> tuple[Judged, ...]:
        """What was read otherwise than predicted, and not accepted."""
        return tuple(j for j in self.checks if j.state is State.OFF)

    @property
    def accepted(self) -> tuple[Judged, ...]:
        """What stands only because somebody said so."""
        return tuple(j for j in self.checks if j.state is State.ACCEPTED)

    @property
    def against_closing(self) -> tuple[Judged, ...]:
        """What stands against closing the trim: a jumped gate is no proof of what it was jumped over."""
        jumped = {name for gate in self.gates if gate.jump is not None for name in gate.jump.open}
        return tuple(
            j for j in self.checks
            if j.check.closing and not j.state.stands and not (j.check.id in jumped and j.state is State.OPEN)
        )  # fmt: skip

    @property
    def passed_over(self) -> tuple[Judged, ...]:
        """What nobody made because its gate was passed by name: it may be closed over, and is not proved."""
        return tuple(j for g in self.gates if g.jump is not None for j in g.left if j.state is State.OPEN)

    @property
    def may_close(self) -> bool:
        """Whether the trim may go back on."""
        return bool(self.checks) and not self.against_closing

    @property
    def done(self) -> bool:
        """Whether every check is passed or accepted in writing."""
        return bool(self.checks) and all(j.state.stands for j in self.checks)

    @property
    def verdict(self) -> str:
        """One sentence of verdict."""
        if not self.checks:
            return "Nothing to prove yet: the plan changes nothing"
        if self.done:
            many = len(self.accepted)
            if many:
                return f"Done: {len(self.checks) - many} of {len(self.checks)} checks proved, {many} accepted by name"
            return f"Done: all {len(self.checks)} checks are proved"
        if self.off:
            return f"Not proved: {count(len(self.off), 'reading is', 'readings are')} not as predicted"
        if self.may_close and self.passed_over:
            return f"May be closed, not proved: {count(len(self.passed_over), 'check')} passed over by name"
        if self.may_close:
            later = sum(not j.state.stands for j in self.checks)
            return f"Ready to close the trim; {count(later, 'check')} left after that"
        left = len([j for j in self.checks if not j.state.stands])
        return f"{len(self.checks) - left} of {len(self.checks)} checks made"


def proof_state(results: Results) -> ProofState:
    """How the proof of a plan stands.

    Parameters:
        results: the evaluated plan, its design with the readings.

    Returns:
        every check judged by its last reading; gates in order.

    Source: three gates, none before the one before it: common practice.
    """
    checks = plan_of_proof(results)
    windows, proof = results.windows, results.design.proof
    asked = {check.id for check in checks}
    by_check: dict[str, list[tuple[int, ProofReading]]] = {}
    for number, reading in enumerate(proof.readings):
        by_check.setdefault(reading.check, []).append((number, reading))
    again = mended_since(results)
    judged = [judge(results, c, windows, by_check.get(c.id, []), again.get(c.id, 0)) for c in checks]
    gates: list[Gate] = []
    for number in GATES:
        own = tuple(j for j in judged if j.check.gate == number)
        jump = next((j for j in reversed(proof.jumps) if j.gate == number), None)
        if own:
            gates.append(Gate(number, own, jump, any(not g.behind for g in gates)))
    orphans = tuple(r for r in proof.readings if r.check not in asked and not _is_extra(r.check))
    return ProofState(tuple(gates), orphans, bool(proof.readings or proof.jumps or proof.deviations))


EXTRA = "find/"  # what the search for a fault asks besides the plan


def _is_extra(check_id: str) -> bool:
    return check_id.startswith(EXTRA)


def mended_since(results: Results) -> dict[str, int]:
    """By check, how many readings had been taken when what it said was mended."""
    found: dict[str, int] = {}
    for mend in results.design.proof.mends:
        for check_id in mend.checks:
            found[check_id] = max(found.get(check_id, 0), mend.after)
    return found


def judge(
    results: Results, check: Check, windows: Windows, readings: list[tuple[int, ProofReading]], since: int
) -> Judged:
    """One check held against its readings, the last one deciding.

    Parameters:
        results: the evaluated plan.
        check: the check.
        windows: the windows of its car.
        readings: those of this check with their number, in the order they were taken.
        since: readings with a smaller number were taken before something was mended.

    Returns:
        the judgement; a window is only worked out for what was read, or is asked next.
    """
    last = readings[-1] if readings else None
    reading = last[1] if last is not None else None
    earlier = tuple(r for _, r in readings[:-1])
    window = window_of(check, windows)
    deviations = [d for d in results.design.proof.deviations if d.check == check.id]
    deviation = next(
        (d for d in reversed(deviations) if d.reading == (reading.id if reading is not None else "")), None
    )
    if reading is None or last is None:
        return Judged(check, window, None, (), None, State.ACCEPTED if deviation else State.OPEN, deviation)
    value = less_leads(check, reading)
    scaled = _scaled(results, check, window, reading)
    good = is_good(check, scaled or window, reading, value)
    if good and check.asks_current and not reading.current_a:
        good = None
    state = State.UNJUDGED if good is None else State.PASSED if good else State.OFF
    if last[0] < since and state is not State.PASSED:
        state = State.AGAIN
    elif deviation is not None and state is not State.PASSED:
        state = State.ACCEPTED
    return Judged(check, window, reading, earlier, value, state, deviation, scaled)


def window_of(check: Check, windows: Windows) -> Window | None:
    """The window of a check: its own limits, else what a sound car shows."""
    if check.at_most is not None:
        planned = check.planned if check.planned is not None else check.at_most
        return Window(planned, check.at_least, check.at_most, 0.0)
    window = None if check.nothing or check.ways else windows.of(check.probe)
    off_v = float(table("proof", "limits")["off_v"])
    if window is not None and check.probe.quantity is Quantity.DC_V and window.high < off_v:
        return Window(window.value, -off_v, off_v, window.sigma)  # a lead that is off, and floats
    return window


def less_leads(check: Check, reading: ProofReading) -> float | None:
    """What was read, without the meter's own leads.

    Parameters:
        check: what was read.
        reading: the reading; with ohms what its leads read when held together.

    Returns:
        in the unit of the check; None where nothing was read. No resistance is below nothing: what is read under the
        leads' own is the error of both readings.
    """
    if reading.value is None or check.probe.quantity is not Quantity.OHM:
        return reading.value
    return max(0.0, reading.value - reading.zero_ohm)


def _scaled(results: Results, check: Check, window: Window | None, reading: ProofReading) -> Window | None:
    """The window of a drop at the current that flowed, where it was noted."""
    if check.probe.quantity is not Quantity.DROP_MV or window is None or not reading.current_a:
        return None
    live = results.car.live(check.setting)
    planned_a = live.current_a.get(check.probe.subject, 0.0) if live is not None else 0.0
    if planned_a <= 0:
        return None
    times = reading.current_a / planned_a
    middle = (window.low + window.high) / 2
    return window_about(window.value * times, middle * times, window.sigma * times)


def is_good(check: Check, window: Window | None, reading: ProofReading, value: float | None) -> bool | None:
    """Whether a reading is as predicted; None where there is nothing to hold it against."""
    if not check.is_read:
        return reading.passed
    if check.nothing:
        return reading.over or (value is not None and value >= SHOWS_NOTHING_OHM)
    if reading.over or value is None:
        return False
    if window is None:
        return None
    if check.probe.quantity in ONLY_UPWARDS:
        return value <= window.high
    return window.holds(value)


NEAR_NOTHING = 0.005


def expected(check: Check, window: Window | None) -> str:
    """What must show, in words."""
    if not check.is_read:
        return ""
    if check.nothing:
        return "no connection"
    if check.ways:
        return f"{' or '.join(check.ways)}, to plan with"
    if window is None and check.probe.quantity is Quantity.STEP:
        return "any step: it is found here, and planned with"
    if window is None:
        return "nothing is predicted: something it rests on is not known"
    quantity = check.probe.quantity
    capped = check.at_most is not None and not check.at_least
    if check.planned is None and (capped or quantity in ONLY_UPWARDS):
        return f"at most {reads(quantity, window.high)}"
    if check.probe.quantity is Quantity.STEP:
        return f"step {window.low:g} to {window.high:g}"
    if window.low <= NEAR_NOTHING:
        return f"under {reads(quantity, window.high)}"
    return f"{reads(quantity, window.low)} to {reads(quantity, window.high)}"


def why(check: Check, window: Window | None) -> str:
    """Why a check expects what it does: what is planned, and what makes the window so wide."""
    if not check.is_read or window is None:
        return ""
    if not window.moves:
        return "A limit and no prediction: common practice."
    quantity = check.probe.quantity
    moves = listed([f"{m.words} (± {reads(quantity, m.by)})" for m in window.moves])
    share = round(100 * float(table("proof", "window")["share"]))
    return f"Planned {reads(quantity, window.value)}. Moved by {moves}. {share} of 100 sound cars read inside."


def reads(quantity: Quantity, value: float) -> str:
    """A value as a meter on that quantity shows it: small ohms stay ohms, small volts volts."""
    if quantity is Quantity.OHM and abs(value) < WHOLE_OHM:
        return f"{value:z.2f} Ω".replace("-", "−")
    if quantity is Quantity.DC_V:
        return f"{value:z.2f} V".replace("-", "−")
    return amount(value, quantity.unit)


WHOLE_OHM = 100.0


def read_words(check: Check, reading: ProofReading | None, value: float | None) -> str:
    """What was read, in words."""
    if reading is None:
        return ""
    if not check.is_read:
        return "good" if reading.passed else "not good"
    if reading.over:
        return "no connection"
    if check.probe.quantity is Quantity.STEP:
        return f"step {value:g}"
    return reads(check.probe.quantity, value or 0.0)
