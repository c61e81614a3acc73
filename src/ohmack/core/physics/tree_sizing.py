"""Sizes for a whole tree of runs together: the cheapest ones that leave every end enough volts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ohmack.core.errors import UnknownName
from ohmack.core.record import record


@record
class Choice:
    """One size a run may have: what it and all that takes its size resists, and what it costs."""

    ohm: float
    hot_ohm: float
    price: float


@record
class Run:
    """One run of a tree, with the current in it and the sizes that fit its ends and carry its fuse, thin to thick."""

    id: str
    after: str | None  # the run before it; None at the source
    current_a: float
    hot_a: float
    choices: tuple[Choice, ...]
    left_v: float = float("inf")  # of a run to a consumer: what may be lost in it and in the runs before it
    left_hot_v: float = float("inf")


def cheapest(runs: Sequence[Run]) -> Mapping[str, int] | None:
    """The cheapest sizes of all runs together, with the currents given.

    Parameters:
        runs: the tree, or several; each before those behind it.

    Returns:
        by run, which of its choices; None where no choice leaves some end enough. What is lost falls and what is paid
        rises from one choice of a run to the next.

    Raises:
        UnknownName: a run behind one that is not there, or later in the row.

    Method: every size of every run that others hang behind; with what it loses the runs behind are apart from each
    other, and a last run takes the thinnest size that is left enough. Branches dearer than the best so far are cut.
    Source: none: dynamic programming over a tree.
    """
    behind: dict[str | None, list[Run]] = {None: []}
    for run in runs:
        if run.after not in behind:
            raise UnknownName("run", str(run.after), ", ".join(map(str, behind)))
        behind[run.after].append(run)
        behind[run.id] = []
    taken: dict[str, int] = {}
    for root in behind[None]:
        found = _cheapest(root, behind, 0.0, 0.0, float("inf"))
        if found is None:
            return None
        taken |= found[1]
    return taken


def _cheapest(
    run: Run, behind: Mapping[str | None, list[Run]], lost_v: float, lost_hot_v: float, below: float
) -> tuple[float, dict[str, int]] | None:
    """(price, choices) of a run and all behind it; None where nothing does, or nothing cheaper than `below`."""
    best: tuple[float, dict[str, int]] | None = None
    for number, choice in enumerate(run.choices):
        if choice.price >= below:
            break
        cool_v, hot_v = lost_v + run.current_a * choice.ohm, lost_hot_v + run.hot_a * choice.hot_ohm
        if cool_v > run.left_v or hot_v > run.left_hot_v:
            continue
        price, taken = choice.price, {run.id: number}
        for next_one in behind[run.id]:
            found = _cheapest(next_one, behind, cool_v, hot_v, below - price)
            if found is None:
                break
            price += found[0]
            taken |= found[1]
        else:
            if price < below:
                best, below = (price, taken), price
                if not behind[run.id]:
                    break
    return best
