"""The supply: thirty amplifiers behind five blocks solved and sized together, the dip of a minute, a day."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.evaluation.door import evaluate
from ohmack.core.network.solve import ports, solve
from ohmack.core.network.states import State
from ohmack.core.physics.dip import Capacitor, Circuit, burst, dipped
from ohmack.core.supply import wire_choice
from ohmack.core.supply.sizing import study
from ohmack.demo.jobs import demo_design, demo_jobs

CAR = Circuit(12.6, 0.0045, 0.08, 0.008, 25.0, 0.8, 14.2, 55.0, 0.15, Capacitor(1.0, 0.004))


def many(blocks: int = 5, each: int = 6) -> Design:
    """The estate of two amplifiers with as many more of them: each block on its own main run behind a first one."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
    tree = demo_design(number).model_dump(mode="json")
    amp = next(p for p in tree["parts"] if p["kind"] == "amplifier" and p["channel_count"] == 1)
    block = next(p for p in tree["parts"] if p["kind"] == "distribution block")
    own = next(k for k in tree["links"] if k["kind"] == "power" and k["to_id"] == amp["id"])
    main = next(k for k in tree["links"] if k["kind"] == "power" and k["to_id"] == block["id"])
    ground = next(k for k in tree["links"] if k["kind"] == "ground" and k["from_id"] == amp["id"])
    speaker = next(k for k in tree["links"] if k["kind"] == "speaker" and k["from_id"] == amp["id"])
    driver = next(p for p in tree["parts"] if p["id"] == speaker["to_id"])
    block |= {"in_area_max_mm2": 120.0, "out_area_max_mm2": 35.0}
    for holder in (p for p in tree["parts"] if p["kind"] == "fuse holder"):
        holder["terminal_area_max_mm2"] = 120.0
    for b in range(blocks):
        tree["parts"].append({**block, "id": f"b{b}", "name": f"Block {b}"})
        tree["links"].append({**main, "id": f"main{b}", "from_id": block["id"], "to_id": f"b{b}"})
        for a in range(each):
            name = f"a{b}-{a}"
            rating = {"load_ohm": 2.0, "power_w": 20.0 + 2 * a}
            tree["parts"] += [{**amp, "id": name, "name": name, "ratings": [rating]},
                              {**driver, "id": f"d{b}-{a}", "name": f"Driver {b} {a}"}]  # fmt: skip
            tree["links"] += [
                {**own, "id": f"run-{name}", "from_id": f"b{b}", "to_id": name},
                {**ground, "id": f"ground-{name}", "from_id": name},
                {**speaker, "id": f"out-{name}", "from_id": name, "to_id": f"d{b}-{a}"},
            ]
    tree["policy"]["drop_limit_v"] = 0.7  # relaxed, so that all of it can be had
    return Design.model_validate(tree)


def cases() -> list[tuple[str, Callable[[], object], int, str]]:
    """(name, work, times, target in ms) of every case."""
    design = many()
    results = evaluate(design).results
    made = results.power
    assert made.network is not None
    assert len(made.network.consumers) >= 30, len(made.network.consumers)
    condition = made.conditions[State.RUNNING]
    network = made.network

    def solved() -> None:
        solve(network, ports(network, condition.emf_v, condition.inner_ohm), condition.loads)

    def sized() -> None:
        wire_choice.choose_wire.cache_clear()
        study(results.book, made.demands, made.lengths_m)

    beats = burst(600.0, 0.5, 0.25, 0.25, 60.0)
    blocks = sum(isinstance(design.part(k.to_id), DistributionBlock) for k in design.links_of(PowerLink))
    return [
        (f"{len(network.consumers)} consumers behind {blocks} blocks solved, ms", solved, 30, "under 2"),
        ("the same sized together, ms", sized, 3, "under 300"),
        ("a dip of 60 s at 1 kHz, ms", lambda: dipped(CAR, beats, np.zeros(len(beats))), 3, "under 500"),
    ]
