"""The work in the bay at its largest: three hundred steps put in order and placed."""

from __future__ import annotations

import random
from collections.abc import Callable

from ohmack.core.build.bay import Hours, Visit, clashes, free_place
from ohmack.core.physics.schedule import Task, in_order, longest_chain, placed


def work_cases() -> list[tuple[str, Callable[[], object], int, str]]:
    """(name, work, times, aim)."""
    seeded = random.Random(17)
    tasks = [
        Task(
            f"s{n}", tuple(f"s{m}" for m in seeded.sample(range(n), min(n, 3))), float(seeded.randint(3, 25)),
            seeded.choice((1, 1, 1, 2)),
        )
        for n in range(300)
    ]  # fmt: skip

    def whole() -> None:
        in_order(tasks)
        longest_chain(tasks)
        placed(tasks, 1)
        placed(tasks, 2)

    hours = Hours(480, 1020, False, 6)
    visits = [
        Visit(f"J-{n}", "t", float(seeded.randint(60, 900)), seeded.randint(1, 6), 740_000 + seeded.randint(0, 60), 480)
        for n in range(80)
    ]
    wanted = Visit("new", "t", 400.0)
    return [
        ("300 steps ordered, chained, placed for one and two, ms", whole, 20, "under 50"),
        ("80 visits: clashes and the first free place, ms",
         lambda: (clashes(visits, hours), free_place(visits, wanted, hours, 740_000)), 10, "under 50"),
    ]  # fmt: skip
