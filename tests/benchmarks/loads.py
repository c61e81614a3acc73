"""Loads and boxes: a dozen coils on four channels, curves of a box, boxes proposed for a space, a cut plan."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ohmack.core.box import proposals as proposing
from ohmack.core.document.amplifiers import Amplifier, Rating
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads import spreads, wiring_judge
from ohmack.core.loads.wiring_judge import OnChannel
from ohmack.core.physics.boxes import Chamber, Enclosure, Vent, curves
from ohmack.core.physics.nesting import nest
from ohmack.core.physics.small_signal import SmallSignal
from ohmack.core.physics.speaker_loads import Coil
from ohmack.demo.jobs import demo_design, demo_jobs

FOUR = Amplifier(
    id="amp", name="Four", channel_count=4, lowest_load_ohm=2, lowest_bridged_ohm=4, terminal_area_max_mm2=21,
    ratings=(Rating(load_ohm=2, power_w=150), Rating(load_ohm=4, power_w=100)),
    bridged_ratings=(Rating(load_ohm=4, power_w=300),), sensitivity_low_v=0.2, sensitivity_high_v=5,
)  # fmt: skip
DRIVER = SmallSignal(28.0, 6.0, 0.46, 0.060, 0.033, 3.4, 0.0012, 0.012)


def _spread(drivers: int, coils: int) -> None:
    """Every spread of so many coils over four channels, nothing remembered."""
    for cached in (spreads._every, wiring_judge.best_wiring, wiring_judge.all_wirings):
        cached.cache_clear()
    each = tuple(
        (OnChannel(f"sub {n}", tuple(Coil(f"c{k}", 4.0, 3.4, 50.0) for k in range(coils)), 100.0), f"link{n}")
        for n in range(drivers)
    )
    spreads._every(FOUR, each, 0.75, 1.5)


def _proposed() -> None:
    one = evaluate(demo_design(0)).results.boxes[0]
    assert one.solved is not None
    proposing.proposals.cache_clear()
    proposing.proposals(one.solved.driver, one.solved.drive, 28.0, 120.0)


def cases() -> list[tuple[str, Callable[[], object], int, str]]:
    """(name, work, times, target in ms) of every case."""
    box, hz = Enclosure(Chamber(0.045, Vent(0.0079, 0.22))), np.geomspace(10, 300, 500)
    wedge = next(n for n, job in enumerate(demo_jobs()) if job.title == "A box across the back wall")
    made = evaluate(demo_design(wedge)).results.boxes[0].made
    assert made is not None
    return [
        ("6 drivers of 2 coils over 4 channels, every spread, ms", lambda: _spread(6, 2), 5, "under 1000"),
        ("12 drivers of 1 coil over 4 channels, every spread, ms", lambda: _spread(12, 1), 5, "under 1000"),
        ("curves of a vented box at 500 frequencies, ms", lambda: curves(DRIVER, box, hz, 40.0), 50, "under 5"),
        ("boxes proposed for a driver and a space, ms", _proposed, 10, "under 300"),
        ("cut plan of a wedge, nine panels, ms", lambda: nest(made.panels, 2.5, 1.25, 0.0032), 5, ""),
    ]
