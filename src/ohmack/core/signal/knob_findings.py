"""Rules on what channels of an amplifier share: one gain knob, one filter."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, watch
from ohmack.core.loads.sides import mirrors
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.crossovers import Crossover
from ohmack.core.signal.gain_findings import GIVEN_AWAY_DB
from ohmack.core.signal.knobs import ALIKE_DB, less_gain_db, sensitivity_v, shared_knobs
from ohmack.core.signal.levels import OutputSignal
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ALIKE = 1.1  # corners so near are one setting of a knob; common practice


@rule("one-knob", "signal", PRACTICE)
def one_knob(results: Results) -> Iterator[Draft]:
    """Two outputs hang on one gain knob and want it at two places."""
    for both in shared_knobs(results.signals):
        least, most = both
        apart_db, least_v, most_v = less_gain_db(least, most), sensitivity_v(least), sensitivity_v(most)
        if apart_db <= ALIKE_DB or least_v is None or most_v is None:
            continue
        link = most.load.link
        kept = least.load.link.sensitivity_kept_v or link.sensitivity_kept_v
        far = apart_db > GIVEN_AWAY_DB and not _left_and_right(results, least.load.link, link)
        yield (watch if far or kept else note)(
            f"{at(link)}/knob",
            f"{least.load.channel_name} and {most.load.channel_name}: one knob, two gains",
            f"{least.load.driven_name} wants {amount(least_v, 'v')}, {most.load.driven_name}"
            f" {amount(most_v, 'v')}, and one knob sets both. It is set for the first, and the other plays"
            f" {amount(apart_db, 'db')} below what it could.",
            Remedy(f"Set both at {amount(least_v, 'v')}", tuple(_kept_at(both, least_v)))
            if (least.figures["sensitivity"].value or 0.0) <= least.span_v[1]  # else no knob makes it right
            else Remedy("Look at its channel", path=at(link, lambda it: it.channel)),
        )


def _kept_at(outputs: Sequence[OutputSignal], volts: float) -> Iterator[Edit]:
    """A knob kept for all that hangs on its outputs, to three figures."""
    for link in (link for output in outputs for link in output.load.links):
        yield set_to(at(link, lambda it: it.sensitivity_kept_v), float(f"{volts:.3g}"))


@rule("one-filter", "signal", PRACTICE)
def one_filter(results: Results) -> Iterator[Draft]:
    """Two outputs hang on one filter of the amplifier and want it at two settings."""
    for one, other in combinations(results.crossovers, 2):
        part, links = one.part, (one.link, other.link)
        if part is not other.part or not isinstance(part, Amplifier) or links[0] is None or links[1] is None:
            continue
        if links[1].channel not in part.pair_of(links[0].channel) or _as_one(one, other):
            continue
        kinds = [(bool(_corner(e.high_pass)), bool(_corner(e.low_pass))) for e in (one, other)]
        title = f"{one.name} and {other.name}: one filter, two settings"
        wants = f"{one.words or 'No filter'} for the one, {other.words or 'none'} for the other"
        if kinds[0] != kinds[1]:
            yield (note if _left_and_right(results, links[0], links[1]) else watch)(
                f"{at(links[1])}/filter",
                title,
                f"{wants}, and a pair of channels has one switch. Give each a pair of its own, or filter before the"
                " amplifier.",
                Remedy("Look at its channel", path=at(links[1], lambda it: it.channel)),
            )
        else:
            edits = tuple(_alike(one, other))
            yield note(
                f"{at(links[1])}/filter",
                title,
                f"{wants}, and a pair of channels has one corner. The one that spares both serves both.",
                Remedy("Set both alike", edits),
            )


def _left_and_right(results: Results, one: SpeakerLink, other: SpeakerLink) -> bool:
    """Whether two outputs play the same place on either side: what sets them apart is seldom more than a guess."""
    places = {speaker.id: speaker for speaker in results.design.vehicle.speakers}
    here, across = places.get(one.to_id), places.get(other.to_id)
    return here is not None and across is not None and mirrors(here, across)


def _corner(figure: Figure | None) -> float:
    return float(figure.value or 0.0) if figure is not None else 0.0


def _as_one(one: Crossover, other: Crossover) -> bool:
    """Whether one setting does for both."""
    pairs = [(_corner(one.high_pass), _corner(other.high_pass)), (_corner(one.low_pass), _corner(other.low_pass))]
    return all(a == b or (min(a, b) > 0 and max(a, b) <= ALIKE * min(a, b)) for a, b in pairs)


def _alike(one: Crossover, other: Crossover) -> Iterator[Edit]:
    """The higher high-pass and the lower low-pass for both."""
    links: list[SpeakerLink] = [link for link in (one.link, other.link) if link is not None]
    high, low = (_corner(one.high_pass), _corner(other.high_pass)), (_corner(one.low_pass), _corner(other.low_pass))
    for link in links:
        if min(high) > 0 and max(high) > ALIKE * min(high):
            yield set_to(at(link, lambda it: it.high_pass_hz), max(high))
        if min(low) > 0 and max(low) > ALIKE * min(low):
            yield set_to(at(link, lambda it: it.low_pass_hz), min(low))
