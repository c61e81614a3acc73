"""How much a figure is missed that has no value."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import Severity

# Figures nothing is ordered or set by.
GOOD_TO_KNOW = {"resting_v", "traffic_v", "source_power_w", "loud_db", "down_db"}
WATCHED = {  # nothing burns for want of them: few papers give what hiss takes; a small wire that lies there has served
    "noise_dbv", "snr_db", "snr_usual_db", "loss_db", "damping", "feed_wire", "feed_drop_v", "feed_lost_v",
    "feed_back_v",
}  # fmt: skip
# Figures of a choice not made: the rule that judges the choice asks for what it lacks.
ASKED_BY_THEIR_RULE = {"tap_total_a", "tap_room_a", "tap_carries_a", "tap_drop_v", "parked_days", "parked_before_days"}


def weight(figure: Figure) -> Severity | None:
    """How bad it is that a figure has no value; None where a rule of its own asks for what it lacks."""
    kind = figure.id.rsplit("/", 1)[-1]
    if kind in ASKED_BY_THEIR_RULE:
        return None
    return Severity.WATCH if kind in WATCHED else Severity.NOTE if kind in GOOD_TO_KNOW else Severity.STOP


def why_none(figures: Iterable[Figure]) -> str:
    """What the first of some figures without a value waits for, in words; empty where none does."""
    first = next(iter(figures), None)
    if first is None:
        return ""
    gap = next(iter(first.missing), None)
    return f"not known: {gap.name}" if gap is not None else first.refused.rstrip(".")


def lacking(figures: Iterable[Figure]) -> list[Figure]:
    """The figures without a value that a plan cannot be ordered without."""
    return [f for f in figures if (f.missing or f.refused) and weight(f) is Severity.STOP]
