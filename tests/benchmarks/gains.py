"""The signal: a ladder of eight ways with their best gain, and eight outputs' filters at five hundred places."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import Band
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.figure import Book
from ohmack.core.physics.equalising import flattened
from ohmack.core.physics.filter_families import bell, high_pass, level_db, low_pass
from ohmack.core.physics.responses import grid_hz
from ohmack.core.signal.equaliser import bands_response
from ohmack.core.signal.levels import compute_signals
from ohmack.demo.jobs import demo_design, demo_jobs

PATHS = 8
HZ = np.geomspace(20.0, 20_000.0, 500)
BANDS = tuple(Band(centre_hz=hz, gain_db=-4.0, q=1.4) for hz in (63.0, 250.0, 1000.0, 4000.0))


def eight_ways() -> Design:
    """A processor of eight pairs into an amplifier of eight channels, a driver on each."""
    five = next(n for n, job in enumerate(demo_jobs()) if job.title == "Two bands, one front")
    design = demo_design(five)
    sub = next(part for part in design.parts if part.kind == "subwoofer").model_dump(mode="json")
    gone = [link.id for link in design.links if link.kind in ("line", "speaker")]
    edits = [Edit(op="remove", path=f"links/{name}") for name in gone]
    edits += [
        Edit(path="parts/processor/output_pairs", value=PATHS),
        Edit(path="parts/amp/further_count", value=0),
        Edit(path="parts/amp/channel_count", value=PATHS),
    ]
    for n in range(1, PATHS + 1):
        own, line = {"id": f"sub-{n}x", "at_ids": []}, {"id": f"line-{n}x", "kind": "line", "pair": n, "channels": [n]}
        edits += [
            Edit(op="add", path="parts", value=sub | own),
            Edit(op="add", path="links", value=line | {"from_id": "processor", "to_id": "amp", "from_port": "line-out",
                                                       "to_port": "line-in"}),
            Edit(op="add", path="links", value={
                "id": f"out-{n}x", "kind": "speaker", "from_id": "amp", "from_port": "channel", "to_id": f"sub-{n}x",
                "to_port": "coils", "channel": n}),
        ]  # fmt: skip
    return apply_edits(design, edits)


def cases() -> list[tuple[str, Callable[[], object], int, str]]:
    """(name, work, times, target in ms) of every case."""
    design = eight_ways()
    results = evaluate(design).results
    assert len(results.signals) == PATHS
    assert all(signal.stages and signal.settings for signal in results.signals)

    def ladder() -> None:
        compute_signals(Book(design), results.sources, results.amplifier_loads, results.supplies, results.volume)

    def filters() -> None:
        for n in range(PATHS):
            high_pass(HZ, 80.0 + n, 24, "Linkwitz-Riley") * low_pass(HZ, 3000.0 + n, 24) * bands_response(BANDS, HZ)

    grid = grid_hz(20.0, 20_000.0, 24)
    bumpy = level_db(bell(grid, 90.0, 6.0, 1.2)) + level_db(bell(grid, 2500.0, -5.0, 2.0))
    return [
        (f"ladder of {PATHS} ways with their best gain, ms", ladder, 50, "under 20"),
        (f"filters and bands of {PATHS} outputs at 500 frequencies, ms", filters, 50, "under 10"),
        ("a response flattened by four bands, ms", lambda: flattened(grid, bumpy, 40.0, 12_000.0), 5, ""),
    ]
