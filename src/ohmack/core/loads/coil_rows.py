"""Every coil of an output at full power: its volts and amperes, what it takes at its nominal and at its DC resistance,
how loud it is against the loudest.
"""

from __future__ import annotations

from math import log10

from ohmack.core.loads.bench import bench_of
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.record import record


@record
class CoilRow:
    """One coil: volts across it and amperes through it [rms], power [w], level against the loudest [db]."""

    name: str
    driver: str
    volts: float
    current_a: float
    power_w: float
    dc_power_w: float  # with the same volts at the output and every coil at its DC resistance
    level_db: float


def coil_rows(load: LoadResult) -> tuple[CoilRow, ...]:
    """Every coil of an output at the voltage of full power.

    Parameters:
        load: the output.

    Returns:
        one row a coil; none where the output has no load or no rating.

    Source: nodal analysis at nominal impedances and at DC resistances; level by power and, where every driver's is on
    file, by sensitivity at 1 W.
    """
    full_v = load.full_scale.value
    if full_v is None or not load.chosen.stays:
        return ()
    bench = bench_of(load)
    nominal, at_dc = _powers(bench, full_v, dc=False), _powers(bench, full_v, dc=True)
    known = all(driven.sensitivity_db is not None for driven in load.driven)
    loud: dict[str, float] = {}
    for driven in load.driven:
        extra = driven.sensitivity_db if known and driven.sensitivity_db is not None else 0.0
        for coil in driven.coils:
            watts = nominal[coil.name][2]
            loud[coil.name] = extra + 10 * log10(watts) if watts > 1e-9 else float("-inf")
    loudest = max(loud.values(), default=0.0)
    return tuple(
        CoilRow(coil.name, driven.name, *nominal[coil.name], at_dc[coil.name][2], loud[coil.name] - loudest)
        for driven in load.driven
        for coil in driven.coils
    )


def _powers(bench: BenchWiring, full_v: float, dc: bool) -> dict[str, tuple[float, float, float]]:
    """By coil: (volts, amperes, watts)."""
    solution = bench.solution(dc)
    return {
        coil.name: (
            full_v * abs(float(solution.volts[coil.name][0].real)),
            full_v * abs(float(solution.current_a[coil.name][0].real)),
            full_v**2 * float(solution.power_w(coil.name)[0]),
        )
        if coil.name in solution.volts
        else (0.0, 0.0, 0.0)
        for coil in bench.each
    }


def half_ohm(load: LoadResult) -> float | None:
    """What each half of a bridge sees: half of the load, textbook [ohm]; None without a bridge or a load."""
    return load.chosen.load_ohm / 2 if load.link.bridged and load.chosen.stays else None
