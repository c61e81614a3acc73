"""Supply: what amplifiers draw, and the voltage that is left at their terminals, solved."""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import NoOperatingPoint, require
from ohmack.core.record import record

RATED_SUPPLY_V = 14.4  # ANSI/CTA-2006 rating voltage (from memory)


@record
class Load:
    """What hangs at one node: constant power, constant conductance and constant current together."""

    power_w: float = 0.0
    conductance_s: float = 0.0
    current_a: float = 0.0
    at_least_a: float = 0.0  # by the school that designs for the amplifier's own fuses

    def current_at(self, voltage_v: float) -> float:
        """Current drawn at a voltage.

        Parameters:
            voltage_v: voltage at the load [v].

        Returns:
            current [a].

        Raises:
            OutOfRange: the voltage is not above zero.
        """
        require("voltage_v", voltage_v, "V")
        return max(self.natural_at(voltage_v), self.at_least_a)

    def natural_at(self, voltage_v: float) -> float:
        """Current drawn at a voltage, whatever the least one is designed for.

        Parameters:
            voltage_v: voltage at the load, above zero [v].

        Returns:
            current [a].
        """
        return self.power_w / voltage_v + self.conductance_s * voltage_v + self.current_a


def amplifier_load(power_w: float, efficiency: float, idle_current_a: float, regulated: bool) -> Load:
    """The load an amplifier at full power puts on the supply.

    Parameters:
        power_w: rated output at the wired load and 14.4 V [w].
        efficiency: output over input at full power, above 0 and up to 1.
        idle_current_a: idle current [a].
        regulated: True where the output does not follow the supply.

    Returns:
        constant power for a regulated supply; a conductance where the output follows (V/14.4)².

    Raises:
        OutOfRange: power, efficiency or idle current outside their range.

    Formula: I = P / (efficiency V) + I_idle; unregulated P = P_rated (V/14.4)². Source: common practice.
    """
    require("power_w", power_w, "W")
    require("efficiency", efficiency, "", up_to=1)
    require("idle_current_a", idle_current_a, "A", above=-1e-12)
    if regulated:
        return Load(power_w=power_w / efficiency, current_a=idle_current_a)
    return Load(conductance_s=power_w / (efficiency * RATED_SUPPLY_V**2), current_a=idle_current_a)


def amplifier_current_a(
    power_w: float, efficiency: float, idle_current_a: float, regulated: bool, voltage_v: float
) -> float:
    """Current an amplifier draws at full power from the voltage at its terminals.

    Parameters:
        power_w: rated output at the wired load and 14.4 V [w].
        efficiency: output over input at full power, above 0 and up to 1.
        idle_current_a: idle current [a].
        regulated: True where the output does not follow the supply.
        voltage_v: voltage at the amplifier [v].

    Returns:
        current [a].

    Raises:
        OutOfRange: power, efficiency, idle current or voltage outside their range.

    Formula: as `amplifier_load`. Source: common practice.
    """
    return amplifier_load(power_w, efficiency, idle_current_a, regulated).current_at(voltage_v)


def power_behind_fuses_w(fused_a: float, voltage_v: float, efficiency: float, headroom: float) -> float:
    """The most an amplifier can give for long, by its own fuses; a bound, where no rating is at hand.

    Parameters:
        fused_a: its own fuses together [a].
        voltage_v: voltage at the amplifier [v].
        efficiency: output over input at full power, above 0 and up to 1.
        headroom: the current it draws at full power over its fuses, above 0 and up to 1.

    Returns:
        output of all channels together [w].

    Raises:
        OutOfRange: a value outside its range.

    Formula: P = I headroom V efficiency. Source: common practice.
    """
    require("fused_a", fused_a, "A")
    require("voltage_v", voltage_v, "V")
    require("efficiency", efficiency, "", up_to=1)
    require("headroom", headroom, "", up_to=1)
    return fused_a * headroom * voltage_v * efficiency


def output_power_at_w(power_w: float, regulated: bool, voltage_v: float) -> float:
    """Output an amplifier gives at a supply voltage.

    Parameters:
        power_w: rated output at 14.4 V [w].
        regulated: True where the output does not follow the supply.
        voltage_v: voltage at the amplifier [v].

    Returns:
        output power [w].

    Source: ANSI/CTA-2006 rating voltage (from memory); square law common practice.
    """
    return power_w if regulated else power_w * (voltage_v / RATED_SUPPLY_V) ** 2


def load_voltage_v(source_v: float, resistance_ohm: float, load: Load) -> float:
    """Voltage at one load behind one resistance: the high-voltage solution.

    Parameters:
        source_v: source voltage [v].
        resistance_ohm: whole loop [ohm].
        load: what hangs there.

    Returns:
        voltage at the load [v].

    Raises:
        NoOperatingPoint: the power cannot be delivered.
        OutOfRange: source not above zero, resistance below zero.

    Formula: (1 + R G) v² - (E - R I) v + R P = 0, larger root. Source: textbook circuit theory.
    """
    require("source_v", source_v, "V")
    require("resistance_ohm", resistance_ohm, "ohm", above=-1e-15)
    a = 1 + resistance_ohm * load.conductance_s
    b = source_v - resistance_ohm * load.current_a
    discriminant = b * b - 4 * a * resistance_ohm * load.power_w
    if b <= 0 or discriminant < 0:
        raise NoOperatingPoint("load", load.current_at(source_v) * source_v, source_v)
    return (b + sqrt(discriminant)) / (2 * a)


def held_voltage_v(source_v: float, resistance_ohm: float, load: Load) -> float:
    """Voltage at one load behind one resistance, its least current minded.

    Parameters:
        source_v: source voltage [v].
        resistance_ohm: whole loop [ohm].
        load: what hangs there.

    Returns:
        voltage at the load [v].

    Raises:
        NoOperatingPoint: neither what it draws nor the least it is designed for can be delivered.
        OutOfRange: source not above zero, resistance below zero.

    Formula: as `load_voltage_v`; where that draws less than the least current, E - R I_least. Source: textbook
    circuit theory.
    """
    volts_v = load_voltage_v(source_v, resistance_ohm, load)
    if load.natural_at(volts_v) >= load.at_least_a:
        return volts_v
    volts_v = source_v - load.at_least_a * resistance_ohm
    if volts_v <= 0 or load.natural_at(volts_v) > load.at_least_a * (1 + 1e-12):
        raise NoOperatingPoint("load", load.current_at(source_v) * source_v, source_v)
    return volts_v


def network_voltages_v(
    open_v: float | Sequence[float], resistance_ohm: NDArray[np.float64], loads: Sequence[Load]
) -> list[float]:
    """Voltages at several loads fed through shared resistances: the high-voltage solution.

    Parameters:
        open_v: voltage at every load while nothing draws, one for all or shape (n,) [v].
        resistance_ohm: shape (n, n) [ohm], entry (j, k) is what a current of load k takes from the voltage at load j.
        loads: n loads.

    Returns:
        n voltages [v].

    Raises:
        NoOperatingPoint: the power cannot be delivered.
        OutOfRange: source not above zero.

    Method: conductances are folded into the network; then Newton from the unloaded voltages, which for a
    resistive network falls monotonically onto the highest solution (monotone Newton theorem for concave
    M-functions). When a step leaves that path there is no solution. Where currents pass a shared piece against each
    other, as to two batteries, there is no such theorem: the loads are raised in steps and the solution is followed up
    to the first fold. A least current is a bound: who draws less is
    held at it; where holding it and letting it go contradict each other there is no solution either.
    Source: textbook numerical analysis.
    """
    volts_v = np.full(len(loads), open_v, dtype=float)
    for volt_v in volts_v:
        require("source_v", float(volt_v), "V")
    if len(loads) == 1:
        return [held_voltage_v(float(volts_v[0]), float(resistance_ohm[0, 0]), loads[0])]
    held: set[int] = set()
    for _ in range(2 * len(loads) + 2):
        now = [Load(current_a=load.at_least_a) if k in held else load for k, load in enumerate(loads)]
        found = _newton_v(volts_v, resistance_ohm, now)
        below = {k for k, load in enumerate(loads) if load.natural_at(found[k]) < load.at_least_a}
        if below == held:
            return found
        held = below
    raise NoOperatingPoint("load", _asked_w(loads, volts_v), float(volts_v.max()))


def _asked_w(loads: Sequence[Load], volts_v: NDArray[np.float64]) -> float:
    return float(sum(load.current_at(float(v)) * v for load, v in zip(loads, volts_v, strict=True)))


def _newton_v(open_v: NDArray[np.float64], resistance_ohm: NDArray[np.float64], loads: Sequence[Load]) -> list[float]:
    """The method of `network_voltages_v`, least currents left aside."""
    n, none = len(loads), NoOperatingPoint("load", _asked_w(loads, open_v), float(open_v.max()))
    if n == 2 and (resistance_ohm > 0).all():
        pair = _pair_v(open_v.tolist(), resistance_ohm.tolist(), loads)
        if pair is None:
            raise none
        return pair
    power_w = np.array([load.power_w for load in loads])
    folded = np.eye(n) + resistance_ohm @ np.diag([load.conductance_s for load in loads])
    shared = np.asarray(np.linalg.solve(folded, resistance_ohm), dtype=np.float64)
    unloaded = np.linalg.solve(folded, open_v) - shared @ np.array([load.current_a for load in loads])
    if (unloaded <= 0).any():
        raise none
    if (shared < -1e-15).any():
        found = _followed_v(unloaded, shared, power_w)
        if found is None:
            raise none
        return found
    volts = unloaded.copy()
    for _ in range(200):
        residual = unloaded - shared @ (power_w / volts) - volts
        jacobian = np.eye(n) - shared @ np.diag(power_w / volts**2)
        try:
            inverse = np.linalg.inv(jacobian)
        except np.linalg.LinAlgError:
            break
        if (inverse < -1e-12).any():  # no longer an M-matrix: the fold has been passed
            break
        step = inverse @ residual
        volts = volts + step
        if (volts <= 0).any():
            break
        if np.abs(step).max() < 1e-12 * open_v.max():
            return [float(v) for v in volts]
    raise none


def _pair_v(open_v: list[float], ohm: list[list[float]], loads: Sequence[Load]) -> list[float] | None:
    """The same for two loads that share no resistance against each other, without matrices: a run to a block is judged
    by it for every size. None where there is no solution.
    """
    (r11, r12), (r21, r22) = ohm
    g1, g2 = loads[0].conductance_s, loads[1].conductance_s
    a11, a12, a21, a22 = 1 + r11 * g1, r12 * g2, r21 * g1, 1 + r22 * g2
    det = a11 * a22 - a12 * a21
    s11, s12 = (a22 * r11 - a12 * r21) / det, (a22 * r12 - a12 * r22) / det
    s21, s22 = (a11 * r21 - a21 * r11) / det, (a11 * r22 - a21 * r12) / det
    i1, i2 = loads[0].current_a, loads[1].current_a
    u1 = (a22 * open_v[0] - a12 * open_v[1]) / det - s11 * i1 - s12 * i2
    u2 = (a11 * open_v[1] - a21 * open_v[0]) / det - s21 * i1 - s22 * i2
    if u1 <= 0 or u2 <= 0:
        return None
    p1, p2, least = loads[0].power_w, loads[1].power_w, 1e-12 * max(open_v)
    v1, v2 = u1, u2
    for _ in range(200):
        d1, d2 = p1 / (v1 * v1), p2 / (v2 * v2)
        j11, j12, j21, j22 = 1 - s11 * d1, -s12 * d2, -s21 * d1, 1 - s22 * d2
        det = j11 * j22 - j12 * j21
        if det == 0 or min(j22 / det, -j12 / det, -j21 / det, j11 / det) < -1e-12:
            return None  # no longer an M-matrix: the fold has been passed
        f1, f2 = u1 - s11 * d1 * v1 - s12 * d2 * v2 - v1, u2 - s21 * d1 * v1 - s22 * d2 * v2 - v2
        step1, step2 = (j22 * f1 - j12 * f2) / det, (j11 * f2 - j21 * f1) / det
        v1, v2 = v1 + step1, v2 + step2
        if v1 <= 0 or v2 <= 0:
            return None
        if max(abs(step1), abs(step2)) < least:
            return [v1, v2]
    return None


FOLLOWED_STEPS = 20


def _followed_v(
    unloaded: NDArray[np.float64], shared: NDArray[np.float64], power_w: NDArray[np.float64]
) -> list[float] | None:
    """The solution that grows out of the unloaded one as all loads rise together; None where it ends before they are
    full.
    """
    volts = unloaded.copy()
    for step in range(1, FOLLOWED_STEPS + 1):
        now_w = power_w * step / FOLLOWED_STEPS
        for _ in range(50):
            jacobian = np.eye(len(volts)) - shared @ np.diag(now_w / volts**2)
            if np.linalg.det(jacobian) <= 0:
                return None
            change = np.linalg.solve(jacobian, unloaded - shared @ (now_w / volts) - volts)
            volts = volts + change
            if (volts <= 0).any():
                return None
            if np.abs(change).max() < 1e-12 * unloaded.max():
                break
        else:
            return None
    return [float(v) for v in volts]
