"""Odds over causes: what evidence makes of them, and which next question tells them apart soonest."""

from __future__ import annotations

from collections.abc import Sequence
from math import erf, sqrt

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange

Floats = NDArray[np.float64]
APART_SIGMAS = 2.0  # causes whose readings lie nearer than so many deviations are one outcome


def posterior(prior: Floats, likelihoods: Sequence[Floats]) -> Floats:
    """Odds after evidence.

    Parameters:
        prior: (n) weights of n causes, none below zero, not all nought.
        likelihoods: (n) each: how likely each piece of evidence is under every cause.

    Returns:
        (n) odds that add up to 1.

    Raises:
        OutOfRange: no cause has any weight, or the evidence is impossible under every cause.

    Source: Bayes' theorem.

    >>> posterior(np.array([1.0, 1.0]), [np.array([0.9, 0.3])]).round(3).tolist()
    [0.75, 0.25]
    """
    logs = np.full(len(prior), -np.inf)
    held = prior > 0
    logs[held] = np.log(prior[held])
    for one in likelihoods:
        with np.errstate(divide="ignore"):
            logs = logs + np.log(one)
    if not len(logs) or not np.isfinite(logs.max()):
        raise OutOfRange("prior", 0.0, "", "a weight on at least one cause that the evidence leaves possible")
    weights = np.exp(logs - logs.max())
    odds: Floats = weights / weights.sum()
    return odds


def entropy_bits(odds: Floats) -> float:
    """How much is not known yet.

    Parameters:
        odds: (n) that add up to 1.

    Returns:
        entropy in bits; 0 where one cause is certain.

    Source: Shannon 1948.

    >>> entropy_bits(np.array([0.5, 0.5, 0.0]))
    1.0
    """
    held = odds[odds > 0]
    return float(-(held * np.log2(held)).sum()) + 0.0


def gain_bits(odds: Floats, outcomes: Floats) -> float:
    """What an answer is expected to tell.

    Parameters:
        odds: (n) of the causes now.
        outcomes: (n, k) how likely each of k outcomes is under every cause; rows add up to 1.

    Returns:
        expected loss of entropy in bits, at least 0.

    Source: mutual information, Shannon 1948.
    """
    of_outcome = odds @ outcomes
    inner = np.where(outcomes > 0, outcomes * np.log2(np.where(outcomes > 0, outcomes, 1.0)), 0.0).sum(axis=1)
    held = of_outcome[of_outcome > 0]
    return max(0.0, float((odds * inner).sum() - (held * np.log2(held)).sum()))


def normal_share(low: float, high: float, mean: float, sigma: float) -> float:
    """The share of a normal distribution between two ends.

    Parameters:
        low: lower end.
        high: upper end.
        mean: of the distribution.
        sigma: its deviation, above zero.

    Returns:
        share, 0 to 1.

    Source: textbook.
    """
    return 0.5 * (erf((high - mean) / (sigma * sqrt(2))) - erf((low - mean) / (sigma * sqrt(2))))


def boundaries(means: Sequence[float], sigmas: Sequence[float]) -> list[float]:
    """Where readings fall apart into outcomes.

    Parameters:
        means: what each cause would show.
        sigmas: how far each of those spreads.

    Returns:
        bounds between neighbours that lie at least two deviations apart, rising; none where all are alike.

    Source: common practice.
    """
    rows = sorted(zip(means, sigmas, strict=True))
    found = []
    for (low, one), (high, other) in zip(rows, rows[1:], strict=False):
        if high - low > APART_SIGMAS * (one + other) / 2:
            found.append((low * other + high * one) / (one + other))
    return found
