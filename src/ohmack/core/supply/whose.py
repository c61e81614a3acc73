"""Whose supply a sentence is about, where a car has several."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.wording import lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results
    from ohmack.core.supply.results import SupplyResult


def whose(results: Results, supply: SupplyResult, words: str) -> str:
    """Words about one supply, led by the name of what it feeds where there is another supply besides."""
    return f"{supply.part.name}: {lowered(words)}" if len(results.supplies) > 1 else words
