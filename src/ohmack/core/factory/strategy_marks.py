"""Marks of a way from 0 to 1, and what a way takes in parts and hours."""

from __future__ import annotations

from collections.abc import Mapping
from math import ceil

from ohmack.core.document import Design
from ohmack.core.document.functions import Intervention
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.factory.evidence import USUAL_CHANNELS, Evidence, pairs_driven
from ohmack.core.factory.roles import in_the_car
from ohmack.core.factory.way_acts import way_of
from ohmack.core.reference import read_toml

NO_BUDGET, HALF_DAY_MIN = 900.0, 240.0  # what cost and time are held against where nothing is said
MIN_A_CHANNEL = 35.0  # to find, join and set one more channel, common practice
MIN_PROCESSOR = 120.0  # to set bands, levels and delays by ear and analyser, common practice
STILL_TO_DO = 0.4  # of a way's time where next to nothing of it is to be fitted any more, common practice
Span = tuple[float, float]


def limit_mark(value: float, limit: float) -> float:
    """How well a cost or a time keeps to its limit: 1 for nothing, 0.5 at the limit, 0 from one and a half times on.

    Parameters:
        value, limit: in one unit, the limit above zero.

    Returns:
        mark from 0 to 1, falling all the way, so that of two ways inside a budget the cheaper is better.
    """
    share = value / limit
    return max(0.0, 1.0 - 0.5 * share if share <= 1 else 1.5 - share)


def weigh(marks: Mapping[str, float], weights: Weights) -> float:
    """The weighted mean of marks.

    Parameters:
        marks: criterion to mark, 0 to 1.
        weights: what counts how much; only their ratios matter.

    Returns:
        0 to 1; the plain mean where every weight is zero.
    """
    given: dict[str, float] = {name: getattr(weights, name) for name in marks}
    total = sum(given.values())
    if total <= 0:
        return sum(marks.values()) / len(marks)
    return sum(marks[name] * given[name] for name in marks) / total


def _price(needs: tuple[str, ...]) -> float:
    """What roles cost about."""
    prices = read_toml("strategies")["roles"]["price"]
    return sum(float(low) + float(high) for low, high in (prices[role] for role in needs)) / 2


def spans(
    design: Design, key: StrategyKey, needs: tuple[str, ...], acts: tuple[Intervention, ...]
) -> tuple[Span, Span]:
    """What a way takes, from low to high.

    Parameters:
        design: the design.
        key: the way.
        needs: the roles its parts fill.
        acts: what happens to radio and modules, with what keeps them alive.

    Returns:
        parts in the shop's currency and time [min], each (low, high). What is in the car already costs nothing, and
        takes its share of the time less, as far as the car need not be opened all the same. A way that drives many
        outputs anew takes an
        amplifier for every five and time for each.

    Source: common practice.
    """
    prices = read_toml("strategies")["roles"]["price"]
    whole, needs = needs, tuple(role for role in needs if not in_the_car(design, role))
    share = max(STILL_TO_DO, _price(needs) / _price(whole)) if whole else 1.0
    minutes = [float(m) * share for m in way_of(key)["minutes"]]
    measures = [read_toml("functions")["measures"][m.value] for i in acts for m in i.keep_alive]
    bare = [m for m in measures if not m["part"]]  # done without a part of its own
    parts = [sum(float(prices[n][i]) for n in needs) + sum(float(m["price"][i]) for m in bare) for i in (0, 1)]
    took = [minutes[i] + sum(float(m["minutes"][i]) for m in measures) for i in (0, 1)]
    if key is StrategyKey.RADIO_BYPASS:
        more = max(0, pairs_driven(design) - USUAL_CHANNELS)
        parts = [parts[i] + ceil(more / USUAL_CHANNELS) * float(prices["amplifier"][i]) for i in (0, 1)]
        took = [t + (more + (USUAL_CHANNELS if more else 0)) * MIN_A_CHANNEL * (1 + i) for i, t in enumerate(took)]
        took = [t + (MIN_PROCESSOR if "processor" in needs else 0.0) * (1 + i) for i, t in enumerate(took)]
    return (parts[0], parts[1]), (took[0], took[1])


def moved(marks: Mapping[str, float], known: tuple[Evidence, ...]) -> dict[str, float]:
    """Marks with what is known about this car counted in, still from 0 to 1; what nobody judged stays so."""
    found = dict(marks)
    for one in (one for one in known if one.criterion in marks):
        found[one.criterion] = min(1.0, max(0.0, found[one.criterion] + one.change))
    return found
