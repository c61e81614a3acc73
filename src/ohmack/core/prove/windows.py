"""Windows: between what and what a sound car reads, its own spread and the meter's both counted."""

from __future__ import annotations

from dataclasses import replace
from math import hypot, sqrt

from ohmack.core.errors import require
from ohmack.core.prove.car import Car, Setting
from ohmack.core.prove.probes import Probe, Quantity, Taken, take
from ohmack.core.prove.spans import Span, moved, planned_of, said_of, spans_of, touches
from ohmack.core.record import record
from ohmack.core.reference import table

METERS = {Quantity.OHM: "ohm", Quantity.DC_V: "v", Quantity.DROP_MV: "mv", Quantity.CURRENT: "a",
          Quantity.ASLEEP_MA: "ma", Quantity.AC_V: "v_ac", Quantity.DISTORTION: "percent", Quantity.HEAT: "c",
          Quantity.STEP: "step"}  # fmt: skip


@record
class Moves:
    """What is not known exactly, and how far it moves a reading either way, in its unit."""

    words: str
    by: float


@record
class Window:
    """What a sound car shows: the value that is likeliest, the ends, and one standard deviation."""

    value: float
    low: float
    high: float
    sigma: float
    moves: tuple[Moves, ...] = ()  # what makes it so wide, the most first, the meter among them

    def holds(self, value: float) -> bool:
        """Whether a reading falls inside, as finely as it is shown."""
        return self.low <= value <= self.high


def meter_sigma(quantity: Quantity, value: float) -> float:
    """One standard deviation of what a meter makes of a value: half of what its maker allows it.

    Parameters:
        quantity: what is read.
        value: what is there, in the quantity's unit.

    Returns:
        in the same unit.

    Source: accuracies of hand-held meters: common practice.
    """
    share, step = table("proof", "meters")[METERS[quantity]]
    return (float(share) * abs(value) + float(step)) / 2


def spread_sigma(deltas: tuple[tuple[float, float], ...]) -> tuple[float, float]:
    """How far values that lie anywhere between two ends move a reading.

    Parameters:
        deltas: by value, the reading at its lower and at its upper end, less the planned reading.

    Returns:
        (how far the middle of all moves, one standard deviation) in the reading's unit.

    Formula: middle Σ (a + b)/2; variance Σ (b − a)²/12, as of even distributions that do not know of each other.
    Source: GUM (JCGM 100:2008) 4.3.7 and 5.1.2, from memory.
    """
    middle = sum((a + b) / 2 for a, b in deltas)
    return middle, sqrt(sum((b - a) ** 2 for a, b in deltas) / 12)


class Windows:
    """The windows of one car; what was solved for one reading serves the others."""

    def __init__(self, car: Car) -> None:
        self.car = car
        self._spans = spans_of(car)
        self._ends: dict[tuple[Span, float], Car] = {}
        self._known: dict[Probe, Window | None] = {}

    def of(self, probe: Probe) -> Window | None:
        """The window of a reading; None where it is no number, or nothing is known of it, or nothing should show."""
        if probe not in self._known:
            self._known[probe] = self._made(probe)
        return self._known[probe]

    def _made(self, probe: Probe) -> Window | None:
        if probe.quantity is Quantity.ANSWER:
            return None
        planned = take(self.car, probe)
        if planned is None or planned.value is None:
            return None
        felt = [s for s in self._spans if self._matters(s, probe)]
        deltas = tuple(self._moves(span, probe, planned) for span in felt)
        middle, spread = spread_sigma(deltas)
        value = planned.value + middle
        meter = meter_sigma(probe.quantity, value)
        sigma = sqrt(spread**2 + meter**2)
        by: dict[str, float] = {METER: 2 * meter}
        for span, (a, b) in zip(felt, deltas, strict=True):
            words = said_of(self.car, span)
            by[words] = hypot(by.get(words, 0.0), (b - a) / 2)
        most = sorted((Moves(words, much) for words, much in by.items() if much > COUNTS * sigma), key=lambda m: -m.by)
        return replace(window_about(planned.value, value, sigma), moves=tuple(most[:MOST_SAID]))

    def _matters(self, span: Span, probe: Probe) -> bool:
        """Whether a value moves a reading by more than a tenth of a meter's last digit."""
        if not touches(span, probe.setting, probe.subject or probe.plus.rpartition(" amplifier")[0]):
            return False
        if span.kind != "branch":
            return True
        width_ohm = span.high - span.low
        if probe.setting is Setting.DEAD:
            return width_ohm > DEAD_OHM
        live = self.car.live(probe.setting)
        through_a = abs(live.solution.branch_a.get(span.of, 0.0)) if live is not None else 0.0
        return width_ohm * through_a > (DROP_V if probe.quantity is Quantity.DROP_MV else VOLTS_V)

    def _moves(self, span: Span, probe: Probe, planned: Taken) -> tuple[float, float]:
        """(at its lower end, at its upper end) the reading less the planned one. A branch moves it along a straight
        line, found where its resistance is farther from what is planned.
        """
        if span.kind != "branch":
            return self._at(span, span.low, probe, planned), self._at(span, span.high, probe, planned)
        at = planned_of(self.car, span)
        far = span.high if span.high - at >= at - span.low else span.low
        if far == at:
            return 0.0, 0.0
        slope = self._at(span, far, probe, planned) / (far - at)
        return slope * (span.low - at), slope * (span.high - at)

    def _at(self, span: Span, value: float, probe: Probe, planned: Taken) -> float:
        """The reading with one value elsewhere, less the planned one."""
        key = (span, value)
        if key not in self._ends:
            self._ends[key] = moved(self.car, {span: value})
        there = take(self._ends[key], probe)
        if there is None or there.value is None or planned.value is None:
            return 0.0
        return there.value - planned.value


METER = "the meter"
COUNTS, MOST_SAID = 0.3, 4  # what moves a reading by less of a deviation is not named, nor more than so many
DEAD_OHM, VOLTS_V, DROP_V = 0.002, 2e-4, 2e-5  # what moves a reading by less is left out


def window_about(planned: float, middle: float, sigma: float) -> Window:
    """A window that holds the stated share of sound cars.

    Parameters:
        planned: what the plan says.
        middle: where the middle of all sound cars lies.
        sigma: their standard deviation, the meter's counted in.

    Returns:
        the window; nothing that is read is below zero by more than the meter's own step.

    Raises:
        OutOfRange: a deviation below zero.

    Source: the share of a normal distribution within so many deviations; the share is common practice.
    """
    require("sigma", sigma, "", above=-1e-15)
    half = float(table("proof", "window")["sigmas"]) * sigma
    low = middle - half
    return Window(planned, max(0.0, low) if planned >= 0 else low, middle + half, sigma)
