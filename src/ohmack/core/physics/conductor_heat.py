"""How warm a wire runs: heat made in it against what leaves by air and by radiation, and the current it holds."""

from __future__ import annotations

from math import log, pi, sqrt

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.conductors import Conductor, resistance_factor

STEFAN_BOLTZMANN = 5.670374e-8  # W/(m² K⁴), exact by the SI
GRAVITY = 9.81
EMISSIVITY = 0.9  # of a plastic skin: common practice
INSULATION_W_MK = 0.17  # conductivity of PVC: from memory
PACKED = 1.15  # outer diameter of strands over that of the same copper solid: common practice
AIR_RANGE_C = -40.0, 200.0
ZERO_C = 273.15


def air(film_c: float) -> tuple[float, float, float]:
    """Dry air at sea level.

    Parameters:
        film_c: mean of surface and air [c].

    Returns:
        (conductivity in W/(m K), kinematic viscosity in m²/s, Prandtl number).

    Raises:
        OutOfRange: outside −40 to 200 °C.

    Formula: Sutherland's law for viscosity and conductivity, ideal gas for density. Source: textbook; constants from
    memory.
    """
    require("film_c", film_c, "c", above=AIR_RANGE_C[0], up_to=AIR_RANGE_C[1])
    kelvin = film_c + ZERO_C
    viscosity = 1.716e-5 * (kelvin / 273.15) ** 1.5 * (273.15 + 110.4) / (kelvin + 110.4)
    conductivity = 0.02414 * (kelvin / 273.15) ** 1.5 * (273.15 + 194.0) / (kelvin + 194.0)
    density = 101_325.0 / (287.05 * kelvin)
    return conductivity, viscosity / density, viscosity * 1005.0 / conductivity


def nusselt(rayleigh: float, prandtl: float) -> float:
    """Free convection round a long horizontal cylinder.

    Parameters:
        rayleigh: by its diameter, up to 1e12.
        prandtl: of the air.

    Returns:
        Nusselt number.

    Raises:
        OutOfRange: a number not above zero.

    Formula: {0.60 + 0.387 Ra^(1/6) / [1 + (0.559/Pr)^(9/16)]^(8/27)}². Source: Churchill and Chu, Int. J. Heat Mass
    Transfer 18 (1975), from memory.
    """
    require("rayleigh", rayleigh, "", up_to=1e12)
    require("prandtl", prandtl, "")
    return float((0.60 + 0.387 * rayleigh ** (1 / 6) / (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)) ** 2)


def outer_mm(wire: Conductor) -> tuple[float, float]:
    """(conductor, insulation) outer diameters of a stranded primary wire [mm]. Source: a wall of 0.6 mm and a tenth of
    the conductor's diameter: common practice.
    """
    bare = PACKED * sqrt(4 * wire.area_mm2 / pi)
    return bare, bare + 2 * (0.6 + 0.1 * bare)


def given_off_w_m(surface_c: float, ambient_c: float, diameter_mm: float) -> float:
    """What a metre of a wire gives off by air and by radiation.

    Parameters:
        surface_c: of its insulation [c].
        ambient_c: of the air and of what it sees [c].
        diameter_mm: of its insulation [mm].

    Returns:
        heat in W/m.

    Raises:
        OutOfRange: a surface no warmer than the air, or a diameter not above zero.

    Formula: π D h (Ts − Ta) + π D ε σ (Ts⁴ − Ta⁴). Source: textbook heat transfer.
    """
    require("diameter_mm", diameter_mm, "mm")
    require("surface_c", surface_c, "c", above=ambient_c)
    metres, rise = diameter_mm / 1000, surface_c - ambient_c
    conductivity, kinematic, prandtl = air((surface_c + ambient_c) / 2)
    expansion = 1 / ((surface_c + ambient_c) / 2 + ZERO_C)
    rayleigh = GRAVITY * expansion * rise * metres**3 / kinematic**2 * prandtl
    by_air = pi * conductivity * nusselt(rayleigh, prandtl) * rise
    hot, cold = surface_c + ZERO_C, ambient_c + ZERO_C
    return float(by_air + pi * metres * EMISSIVITY * STEFAN_BOLTZMANN * (hot**4 - cold**4))


def runs_at_c(wire: Conductor, current_a: float, ambient_c: float) -> float:
    """How warm a conductor gets in still air with a current that stays.

    Parameters:
        wire: the conductor.
        current_a: current [a].
        ambient_c: air round it [c].

    Returns:
        temperature of the conductor [c].

    Raises:
        OutOfRange: a current not above zero, or one that takes it over 200 °C.

    Formula: I² R(T) = given off by the surface; the insulation between loses q ln(D/d) / (2π k). Source: textbook heat
    transfer; by bisection.
    """
    require("current_a", current_a, "a")
    bare, whole = outer_mm(wire)

    def surplus(conductor_c: float) -> float:
        """Heat made less heat given off with the conductor at a temperature [W/m]."""
        made = current_a**2 * wire.resistance_ohm_per_m * resistance_factor(conductor_c, wire.material)
        surface = conductor_c - made * log(whole / bare) / (2 * pi * INSULATION_W_MK)
        return made - (given_off_w_m(surface, ambient_c, whole) if surface > ambient_c else 0.0)

    low, high = ambient_c, AIR_RANGE_C[1] - 1
    if surplus(high) > 0:
        raise OutOfRange("current_a", current_a, "a", "less: the wire would pass 200 °C")
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if surplus(middle) > 0 else (low, middle)
    return high


def holds_a(wire: Conductor, limit_c: float, ambient_c: float) -> float:
    """The current that holds a conductor just at a temperature in still air.

    Parameters:
        wire: the conductor.
        limit_c: what its insulation is made for [c].
        ambient_c: air round it [c].

    Returns:
        current [a].

    Raises:
        OutOfRange: a limit no warmer than the air.

    Source: see `runs_at_c`; by bisection on the surface.
    """
    require("limit_c", limit_c, "c", above=ambient_c, up_to=AIR_RANGE_C[1])
    bare, whole = outer_mm(wire)
    low, high = ambient_c + 1e-6, limit_c
    for _ in range(60):
        surface = (low + high) / 2
        lost = given_off_w_m(surface, ambient_c, whole)
        inside = surface + lost * log(whole / bare) / (2 * pi * INSULATION_W_MK)
        low, high = (surface, high) if inside < limit_c else (low, surface)
    ohm_per_m = wire.resistance_ohm_per_m * resistance_factor(limit_c, wire.material)
    return sqrt(given_off_w_m(low, ambient_c, whole) / ohm_per_m)
