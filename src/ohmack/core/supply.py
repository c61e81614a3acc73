"""Supply: what amplifiers draw, and the voltage that is left at their terminals, solved."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import NoOperatingPoint, require

RATED_SUPPLY_V = 14.4  # ANSI/CTA-2006 rating voltage (from memory)


@dataclass(frozen=True, slots=True)
class Load:
    """What hangs at one node: constant power, constant conductance and constant current together."""

    power_w: float = 0.0
    conductance_s: float = 0.0
    current_a: float = 0.0

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
        raise NoOperatingPoint("load", load.power_w, source_v)
    return (b + sqrt(discriminant)) / (2 * a)


def network_voltages_v(source_v: float, resistance_ohm: NDArray[np.float64], loads: Sequence[Load]) -> list[float]:
    """Voltages at several loads fed through shared resistances: the high-voltage solution.

    Parameters:
        source_v: source voltage [v].
        resistance_ohm: shape (n, n) [ohm], entry (j, k) is the resistance the paths to j and k share.
        loads: n loads.

    Returns:
        n voltages [v].

    Raises:
        NoOperatingPoint: the power cannot be delivered.
        OutOfRange: source not above zero.

    Method: conductances are folded into the network; then Newton from the unloaded voltages, which for a
    resistive network falls monotonically onto the highest solution (monotone Newton theorem for concave
    M-functions). When a step leaves that path there is no solution. Source: textbook numerical analysis.
    """
    require("source_v", source_v, "V")
    n = len(loads)
    power_w = np.array([load.power_w for load in loads])
    folded = np.eye(n) + resistance_ohm @ np.diag([load.conductance_s for load in loads])
    shared = np.linalg.solve(folded, resistance_ohm)
    unloaded = np.linalg.solve(folded, np.full(n, source_v)) - shared @ np.array([load.current_a for load in loads])
    if (unloaded <= 0).any():
        raise NoOperatingPoint("load", float(power_w.sum()), source_v)
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
        if np.abs(step).max() < 1e-12 * source_v:
            return [float(v) for v in volts]
    raise NoOperatingPoint("load", float(power_w.sum()), source_v)
