"""Cables cut from what lies on the shelf: which from which, so that the least is opened."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ohmack.core.errors import require
from ohmack.core.record import record

MOST = 60  # cuts or reels in one search


@record
class Cutting:
    """By reel, which cuts come off it; and the cuts no reel is left for."""

    from_reel: tuple[tuple[int, ...], ...]
    short: tuple[int, ...]


@lru_cache(maxsize=256)
def _searched(cuts_m: tuple[float, ...], reels_m: tuple[float, ...]) -> Cutting:
    from scipy.optimize import Bounds, LinearConstraint, milp  # half a second to load, only for those with reels

    n, k = len(cuts_m), len(reels_m)
    # x[i, j]: cut i comes off reel j; y[j]: reel j is opened
    metres = np.concatenate([np.repeat(np.array(cuts_m), k), np.zeros(k)])
    opened = np.concatenate([np.zeros(n * k), np.array(reels_m)])
    once, room = np.zeros((n, n * k + k)), np.zeros((k, n * k + k))
    for i in range(n):
        once[i, i * k : (i + 1) * k] = 1
        room[:, i * k : (i + 1) * k] = np.diag([cuts_m[i]] * k)
    room[:, n * k :] = -np.diag(reels_m)
    rules = [LinearConstraint(once, ub=1), LinearConstraint(room, ub=1e-9)]
    whole = np.ones(n * k + k, dtype=np.int64)
    most = milp(-metres, integrality=whole, bounds=Bounds(0, 1), constraints=rules, options={"time_limit": 2.0})
    found = most
    if most.x is not None:  # with as many metres as may be, the least opened
        kept = LinearConstraint(metres, lb=float(metres @ most.x) - 1e-6)
        least = milp(
            opened, integrality=whole, bounds=Bounds(0, 1), constraints=[*rules, kept], options={"time_limit": 2.0}
        )
        found = least if least.x is not None else most
    taken = np.round(found.x[: n * k]).reshape(n, k) if found.x is not None else np.zeros((n, k))
    off = tuple(tuple(i for i in range(n) if taken[i, j] > 0.5) for j in range(k))
    return Cutting(off, tuple(i for i in range(n) if taken[i].sum() < 0.5))


def cut_from(cuts_m: Sequence[float], reels_m: Sequence[float]) -> Cutting:
    """Which cable is cut from which reel or off-cut.

    Parameters:
        cuts_m: lengths wanted [m].
        reels_m: what lies on the shelf [m].

    Returns:
        by reel its cuts; first as many metres as there is room for, then the least metres of reels opened, so that
        off-cuts are used up and large reels stay whole.

    Raises:
        OutOfRange: a length not above zero, or more than 60 cuts or reels.

    Method: integer programming, scipy's milp. Source: the cutting-stock problem, textbook.
    """
    for name, lengths in (("cut_m", cuts_m), ("reel_m", reels_m)):
        for length_m in lengths:
            require(name, length_m, "m")
    require("cuts", max(len(cuts_m), len(reels_m), 1), "", up_to=MOST)
    if not cuts_m or not reels_m:
        return Cutting(tuple(() for _ in reels_m), tuple(range(len(cuts_m))))
    return _searched(tuple(cuts_m), tuple(reels_m))
