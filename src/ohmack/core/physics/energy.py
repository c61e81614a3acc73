"""Energy over a day: what an alternator gives over speed, what a drive does to the charge, how long one may listen."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from math import exp, log

from ohmack.core.errors import require
from ohmack.core.physics.charging import RATE_H, average_current_a
from ohmack.core.record import record


def alternator_a(rated_a: float, idle_a: float, engine_rpm: float, idle_rpm: float, rated_rpm: float) -> float:
    """What an alternator gives at a speed of the engine, warm and asked for all it has.

    Parameters:
        rated_a: its rating [a].
        idle_a: what it gives with the engine idling, below its rating [a].
        engine_rpm: speed asked about [rpm].
        idle_rpm: idling speed [rpm].
        rated_rpm: speed of the engine from which it gives its rating [rpm].

    Returns:
        current [a]; nothing below half the idling speed, its rating from the rated speed on.

    Raises:
        OutOfRange: a value not above zero, or an output at idle that no curve from half the idling speed on has.

    Formula: I = I_rated (1 − e^(−(n − n0) / t)) / (1 − e^(−(n_rated − n0) / t)), n0 half the idling speed, t such that
    it gives I_idle at idle. Source: the usual shape of makers' curves, common practice; ISO 8854 states the two
    points at 1500 and 6000 turns of the alternator (from memory).

    >>> [round(alternator_a(120, 60, n, 800, 2200)) for n in (300, 800, 1500, 2200, 4000)]
    [0, 60, 105, 120, 120]
    """
    for name, value in (("rated_a", rated_a), ("idle_a", idle_a), ("idle_rpm", idle_rpm)):
        require(name, value, "")
    require("rated_rpm", rated_rpm, "rpm", above=idle_rpm)
    start = idle_rpm / 2
    straight = (idle_rpm - start) / (rated_rpm - start)
    require("idle_a", idle_a, "A", above=straight * rated_a, up_to=0.98 * rated_a)
    if engine_rpm <= start:
        return 0.0
    if engine_rpm >= rated_rpm:
        return rated_a
    reach = rated_rpm - start
    return rated_a * _given_share(engine_rpm - start, reach, _bend(idle_a / rated_a, idle_rpm - start, reach))


def _given_share(turns: float, reach: float, bend: float) -> float:
    """The share of its rating so many turns above its start, of the turns to its rating."""
    return (1 - exp(-turns / bend)) / (1 - exp(-reach / bend))


@lru_cache(maxsize=256)  # a plan asks for the same alternator at every speed of its drive
def _bend(wanted: float, idle: float, reach: float) -> float:
    """The bend of the curve that gives a share at idle."""
    return _where(lambda bend: _given_share(idle, reach, bend) - wanted, reach / 60, 1e3 * reach)


HALVINGS = 60


def _where(falling: Callable[[float], float], low: float, high: float) -> float:
    """Where a falling function crosses nothing, between two places where it has either sign."""
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if falling(middle) > 0:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def used_a(current_a: float, capacity_ah: float, exponent: float) -> float:
    """How fast a current uses up a battery's rated capacity.

    Parameters:
        current_a: drawn [a].
        capacity_ah: at the 20 h rate [ah].
        exponent: Peukert's, from 1 up.

    Returns:
        the rated capacity that is gone per hour [a]: the current itself up to the rated one, above it more.

    Raises:
        OutOfRange: a value outside its range.

    Formula: I_rated (I / I_rated)^k. Source: Peukert's law in its form with the rated time.
    """
    require("current_a", current_a, "A", above=-1e-12)
    require("capacity_ah", capacity_ah, "Ah")
    require("exponent", exponent, "", above=1 - 1e-12)
    rated_a = capacity_ah / RATE_H
    return current_a if current_a <= rated_a else rated_a * (current_a / rated_a) ** exponent


@record
class Burst:
    """A current that flows some share of the time."""

    share: float
    current_a: float


Player = tuple[float, float, bool]  # full and idle current [a], whether its current follows its level


def bursts_of(share: float, beside_a: float, players: Sequence[Player]) -> tuple[Burst, ...]:
    """What players draw together over music of some average power.

    Parameters:
        share: the music's average power over full sine power, 0 to 1.
        beside_a: what is drawn whatever plays [a].
        players: their currents; class D plays in bursts of full power, class AB follows the level.

    Returns:
        currents with their shares of the time: all loud at once, which is the worst, or all quiet.

    Raises:
        OutOfRange: a current or a share outside its range.

    Source: as `charging.average_current_a`; all at once: a choice.
    """
    quiet_a = beside_a + sum(idle_a for _, idle_a, _ in players)
    if share <= 0:
        return (Burst(1.0, quiet_a),)
    loud_a = quiet_a = beside_a
    for full_a, idle_a, follows in players:
        steady_a = average_current_a(max(full_a, idle_a), idle_a, share, True) if follows else None
        loud_a += full_a if steady_a is None else steady_a
        quiet_a += idle_a if steady_a is None else steady_a
    return (Burst(1.0, loud_a),) if share >= 1 else (Burst(share, loud_a), Burst(1 - share, quiet_a))


def listening_h(capacity_ah: float, bursts: Sequence[Burst], keep: float, exponent: float) -> float:
    """How long a full battery gives a current that comes in bursts until only what is kept is left.

    Parameters:
        capacity_ah: at the 20 h rate [ah].
        bursts: currents with their shares of the time, which add up to one.
        keep: share of the charge that is kept, from 0 to below 1.
        exponent: Peukert's.

    Returns:
        time [h].

    Raises:
        OutOfRange: a value outside its range, nothing drawn at all.

    Formula: (1 − keep) C / Σ share × used(I): every burst weighs by its own current; the mean current put into
    Peukert's law would promise more. Source: as `used_a`.
    """
    require("share kept", 1 - keep, "", up_to=1)
    mean_a = sum(b.share * used_a(b.current_a, capacity_ah, exponent) for b in bursts)
    require("current_a", mean_a, "A")
    return (1 - keep) * capacity_ah / mean_a


def enough_ah(hours: float, bursts: Sequence[Burst], keep: float, exponent: float) -> float:
    """The capacity from which a full battery gives such a current for some hours.

    Parameters:
        hours: how long [h].
        bursts: currents with their shares of the time, which add up to one.
        keep: share of the charge that is kept, from 0 to below 1.
        exponent: Peukert's.

    Returns:
        capacity at the 20 h rate [ah].

    Raises:
        OutOfRange: a value outside its range, nothing drawn at all.

    Formula: `listening_h` turned round; it grows with the capacity. Source: as it.
    """
    require("hours", hours, "h")
    require("share kept", 1 - keep, "", up_to=1)
    mean_a = sum(b.share * b.current_a for b in bursts)
    require("current_a", mean_a, "A")
    least_ah = hours * mean_a / (1 - keep)  # where nothing is lost to Peukert, which holds from the other end on
    most_ah = max(least_ah, RATE_H * max(b.current_a for b in bursts))
    return _where(lambda ah: hours - listening_h(ah, bursts, keep, exponent), least_ah, most_ah)


def parked_days(capacity_ah: float, standby_a: float, per_day: float, keep: float) -> float:
    """How long a full battery stands until only what is kept is left.

    Parameters:
        capacity_ah: at the 20 h rate [ah].
        standby_a: what the sleeping car draws [a].
        per_day: share of its charge it loses a day by itself.
        keep: share of the charge that is kept.

    Returns:
        time [days].

    Raises:
        OutOfRange: a value outside its range; neither draw nor loss.

    Formula: dQ/dt = −I − s Q, so t = ln((C + I/s) / (keep C + I/s)) / s. Source: calculus.
    """
    require("capacity_ah", capacity_ah, "Ah")
    require("share kept", 1 - keep, "", up_to=1)
    require("standby_a", standby_a, "A", above=-1e-12)
    require("per_day", per_day, "", above=-1e-12)
    drawn_ah = 24 * standby_a
    require("standby_a", drawn_ah + per_day * capacity_ah, "A")
    if per_day < 1e-9:
        return (1 - keep) * capacity_ah / drawn_ah
    return log((capacity_ah + drawn_ah / per_day) / (keep * capacity_ah + drawn_ah / per_day)) / per_day


@record
class Leg:
    """A part of a drive: how long it lasts, what is given, and what is drawn in which bursts."""

    minutes: float
    given_a: float
    drawn: tuple[Burst, ...]


@record
class Cell:
    """The battery over a drive."""

    capacity_ah: float
    start: float  # share of its charge
    takes_a_per_ah: float  # what it takes while it is not yet nearly full, over its capacity
    stored: float  # share of what goes in that stays
    exponent: float


@record
class Driven:
    """The charge over a drive: at every minute, in shares of the capacity."""

    minutes: tuple[float, ...]
    charge: tuple[float, ...]

    @property
    def change_percent(self) -> float:
        """What the drive leaves more, or less than it found [percent of the capacity]."""
        return 100 * (self.charge[-1] - self.charge[0])


NEARLY_FULL = 0.8  # from here on what a battery takes falls, to nothing when it is full; common practice


def driven(legs: Sequence[Leg], cell: Cell) -> Driven:
    """The charge of a battery over a drive.

    Parameters:
        legs: the drive.
        cell: the battery.

    Returns:
        the charge at every minute; it never falls below nothing.

    Raises:
        OutOfRange: a capacity not above zero.

    Formula: minute by minute: of every burst, what is given beyond it goes in, at most what the battery takes at its
    charge, and what lacks is used up as `used_a` says. Source: none: bookkeeping; the falling acceptance is common
    practice.
    """
    require("capacity_ah", cell.capacity_ah, "Ah")
    minutes, charge = [0.0], [cell.start]
    for leg in legs:
        left = leg.minutes
        while left > 1e-9:
            step = min(1.0, left)
            now = charge[-1]
            takes_a = cell.takes_a_per_ah * cell.capacity_ah * min(1.0, max(0.0, (1 - now) / (1 - NEARLY_FULL)))
            into_a = 0.0
            for burst in leg.drawn:
                over_a = leg.given_a - burst.current_a
                into_a += burst.share * (
                    cell.stored * min(over_a, takes_a)
                    if over_a >= 0
                    else -used_a(-over_a, cell.capacity_ah, cell.exponent)
                )
            charge.append(min(1.0, max(0.0, now + into_a * step / 60 / cell.capacity_ah)))
            minutes.append(minutes[-1] + step)
            left -= step
    return Driven(tuple(minutes), tuple(charge))


def even_percent(change: Callable[[float], float], most: float = 100.0) -> float:
    """The loudest programme at which a drive still leaves the battery as it found it.

    Parameters:
        change: what the drive does to the charge at a programme, falling.
        most: where the search ends [percent].

    Returns:
        programme [percent]; 0 where even silence takes some out, `most` where nothing does.
    """
    if change(0.0) < 0:
        return 0.0
    if change(most) >= 0:
        return most
    return _where(change, 0.0, most)
