"""Where a further part goes: its usual place, or the nearest one beside it where nothing stands yet."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product
from math import hypot
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.parts import Part, PoweredSubwoofer
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.planning.routing import Rect, floor_of

# What a thing takes up on the plan, along and across the car [m]; common practice, with room to work.
TAKES_M = {
    "amplifier": (0.46, 0.44), "plug-in amplifier": (0.46, 0.44), "distribution block": (0.16, 0.22),
    "capacitor": (0.14, 0.14), "charging relay": (0.14, 0.14), "processor": (0.20, 0.22), "converter": (0.20, 0.22),
}  # fmt: skip
BATTERY_M = (0.30, 0.26)
STEP_M, REACH_M = 0.05, 1.0
EDGE_M = 0.08  # kept free along the body


def _around(x_m: float, y_m: float, along_m: float, across_m: float) -> Rect:
    return (x_m - along_m / 2, x_m + along_m / 2, y_m - across_m / 2, y_m + across_m / 2)


def _meet(a: Rect, b: Rect) -> bool:
    return a[0] < b[1] and b[0] < a[1] and a[2] < b[3] and b[2] < a[3]


def takes_m(part: Part) -> tuple[float, float] | None:
    """How much of the plan a part takes up, along and across [m]; None for what is in something else, or is small."""
    if isinstance(part, (Box, PoweredSubwoofer)):
        return (part.length_m, part.width_m)
    return TAKES_M.get(part.kind)


def _taken(design: Design) -> Iterator[Rect]:
    for battery in design.vehicle.supply.batteries:
        yield _around(battery.position.x_m, battery.position.y_m, *BATTERY_M)
    for part in design.parts:
        size = takes_m(part)
        if size is not None and part.position is not None:
            yield _around(part.position.x_m, part.position.y_m, *size)


def free_place(design: Design, tree: dict[str, Any], wanted: dict[str, float] | None) -> dict[str, float] | None:
    """The nearest free place to the usual one of a kind.

    Parameters:
        design: the design, the part not in it yet.
        tree: the part's data.
        wanted: `x_m` and `y_m` of its usual place [m]; None where it has none.

    Returns:
        a place clear of batteries, other parts, seats and the body's sides; the wanted one where there is none, or the
        part has no size.
    """
    own = tree["kind"] in ("box", "powered subwoofer")
    size = (tree.get("length_m", 0.4), tree.get("width_m", 0.5)) if own else TAKES_M.get(tree["kind"])
    if wanted is None or size is None:
        return wanted
    floor, typical = floor_of(design), PROPORTIONS[design.vehicle.body]
    usual = _around(wanted["x_m"], wanted["y_m"], *size)
    seats = [seat for seat in floor.seats if not _meet(usual, seat)]
    taken = [*_taken(design), *seats]
    rear_m = (design.vehicle.length_m.value or typical.length_m) - EDGE_M
    side = -1.0 if wanted["y_m"] > 0 else 1.0
    steps = [n * STEP_M for n in range(-int(REACH_M / STEP_M), int(REACH_M / STEP_M) + 1)]
    around = sorted(
        product(steps, steps), key=lambda d: (round(hypot(3 * d[0], d[1]), 6), -side * d[1], d[0])
    )  # beside it first, then before and behind
    for along_m, across_m in around:
        x_m, y_m = round(wanted["x_m"] + along_m, 2), round(wanted["y_m"] + across_m, 2)
        here = _around(x_m, y_m, *size)
        inside = here[1] <= rear_m and max(abs(here[2]), abs(here[3])) <= floor.half_m - EDGE_M
        cabin = (x_m > floor.bulkhead_m) == (wanted["x_m"] > floor.bulkhead_m)
        if inside and cabin and not any(_meet(here, other) for other in taken):
            return {"x_m": x_m, "y_m": y_m}
    return wanted
