"""Rules about responses that were measured."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Converter
from ohmack.core.document.responses import MeasuredAt, Taken
from ohmack.core.figures.finding import Draft, Remedy, note, rule, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.responses import Measured
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MISSING_DB = -6.0  # bass against the middle: a subwoofer behind it has half the voltage; common practice
WORSE_DB = 1.0


@rule("tap-response", "signal", PRACTICE)
def tap_response(results: Results) -> Iterator[Draft]:
    """What was measured at the tap lacks the bass a subwoofer behind it needs."""
    restored = any(part.restores_bass for part in results.design.parts_of(Converter))
    bass = [o for s in results.signals for o in s.outputs if s.way.tap and any(d.is_subwoofer for d in o.load.driven)]
    if not bass or restored or not any(results.design.links_of(TapLink)):
        return
    for one in results.responses:
        lacks_db = one.bass.value if one.bass is not None else None
        if one.response.measured_at is not MeasuredAt.TAP or lacks_db is None or lacks_db > MISSING_DB:
            continue
        step = f" at step {one.response.step}" if one.response.step else ""
        yield watch(
            at(one.response),
            f"{one.response.name}{step}: {amount(-lacks_db, 'db')} less bass than midrange",
            f"{bass[0].load.driven_name} plays what is there. Take the signal before the factory equaliser, a converter"
            " that restores bass, or flatten it in a processor.",
            Remedy("See the responses", sheet="responses"),
        )


@rule("response-worse", "signal", PRACTICE)
def response_worse(results: Results) -> Iterator[Draft]:
    """At the seat it is less even after the work than before."""
    seat = [one for one in results.responses if one.response.measured_at is MeasuredAt.SEAT]
    before, after = _last(seat, Taken.BEFORE), _last(seat, Taken.AFTER)
    if before is None or after is None or before.uneven is None or after.uneven is None:
        return
    was_db, is_db = before.uneven.value, after.uneven.value
    if is_db > was_db + WORSE_DB:
        yield note(
            at(after.response),
            f"Less even than before: {amount(is_db, 'db')} against {amount(was_db, 'db')}",
            "Levels between the outputs first, then polarity and delays at the crossover; an equaliser last.",
            Remedy("See the responses", sheet="responses"),
        )


def _last(found: list[Measured], taken: Taken) -> Measured | None:
    return next((one for one in reversed(found) if one.response.taken is taken), None)
