"""An output with a coil that failed: the load then, what the others get, and what the meter shows."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ohmack.core.errors import OutOfRange
from ohmack.core.loads.bench import bench_of
from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wirings import LoadResult, output_of
from ohmack.core.physics.bench_wiring import MINUS, PLUS, BenchWiring
from ohmack.core.physics.nodal import OPEN_OHM
from ohmack.core.physics.speaker_loads import rated_power_w
from ohmack.core.record import record


@record
class Fault:
    """One coil open or shorted: what it is, the load [ohm], what a meter shows [ohm], and who gets how much."""

    words: str
    load_ohm: float
    meter_ohm: float
    lowest_ohm: float
    powers_w: tuple[tuple[str, float, float | None], ...]  # driver, what reaches it, what it takes; none where cut off

    @property
    def opens(self) -> bool:
        """Whether nothing flows any more."""
        return self.load_ohm >= OPEN_OHM / 1000

    @property
    def permitted(self) -> bool:
        """Whether the output may go on driving it."""
        return self.load_ohm >= self.lowest_ohm * (1 - 1e-9)

    @property
    def hardest(self) -> tuple[str, float, float | None] | None:
        """The driver that works hardest then: its name, what reaches it [w], what it takes [w]."""
        return max(self.powers_w, key=lambda one: one[1] / one[2] if one[2] else one[1], default=None)


def coil_faults(load: LoadResult) -> tuple[Fault, ...]:
    """Every single coil of an output open, then shorted; alike ones of a driver once.

    Parameters:
        load: the output.

    Returns:
        one fault a driver and kind, in the order of the drivers; none for an output that is shorted or open as it is.

    Source: nodal analysis of the nominal and the DC network; power by the rating table.
    """
    if not load.chosen.stays:
        return ()
    found: dict[tuple[str, float, float], Fault] = {}
    for driven in load.driven:
        for fault in _of(load, driven):
            found.setdefault((fault.words, round(fault.load_ohm, 6), round(fault.meter_ohm, 6)), fault)
    return tuple(found.values())


def _of(load: LoadResult, driven: Driven) -> Iterator[Fault]:
    bench = bench_of(load)
    names = [d.name for d in load.driven]
    letter = driven.coils[0].name.rstrip("0123456789")
    called = f"{driven.name} {letter}".strip() if names.count(driven.name) > 1 else driven.name
    for kind in ("open", "shorted"):
        for coil in driven.coils:
            words = f"{called} {kind}" if len(driven.coils) == 1 else f"a coil of {called} {kind}"
            yield _fault(load, words, _failed(bench, coil.name, kind))


def _failed(bench: BenchWiring, name: str, kind: str) -> BenchWiring:
    """The leads with one coil open, or with a lead across it."""
    if kind == "shorted":
        return BenchWiring((*bench.leads, (f"{name}{PLUS}", f"{name}{MINUS}")), bench.each)
    each = tuple(
        replace(c, impedance_ohm=OPEN_OHM, dc_resistance_ohm=OPEN_OHM) if c.name == name else c for c in bench.each
    )
    return BenchWiring(bench.leads, each)


def _fault(load: LoadResult, words: str, bench: BenchWiring) -> Fault:
    load_ohm, meter_ohm = bench.resistance_ohm(), bench.resistance_ohm(dc=True)
    rows, lowest_ohm = output_of(load.amplifier, load.link)
    powers: tuple[tuple[str, float, float | None], ...] = ()
    try:
        power_w = rated_power_w(rows, load_ohm)
    except OutOfRange:  # below what is rated: it shuts down
        power_w = 0.0
    if power_w and not bench.opened:
        shares = bench.shares()
        letters = len({d.name for d in load.driven}) < len(load.driven)
        powers = tuple(
            (
                f"{d.name} {d.coils[0].name.rstrip('0123456789')}" if letters else d.name,
                power_w * sum(shares[c.name] for c in d.coils),
                _left_w(d, shares),
            )
            for d in load.driven
        )
    return Fault(words, load_ohm, meter_ohm, lowest_ohm, powers)


def _left_w(driven: Driven, shares: dict[str, float]) -> float | None:
    """What the coils of a driver take that still get something [w]."""
    if driven.power_rms_w is None:
        return None
    playing = sum(shares[coil.name] > 1e-6 for coil in driven.coils)
    return driven.power_rms_w * playing / len(driven.coils) or None
