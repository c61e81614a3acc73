"""Rules on crossovers: filters an amplifier does not have."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Converter, PoweredSubwoofer
from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import Draft, Remedy, note, rule, watch
from ohmack.core.loads.wirings import what_plays_on
from ohmack.core.reference import Grade, Source
from ohmack.core.signal.crossovers import Crossover

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

SHEET = Source("the parts' data sheets; starting points common practice", Grade.PRACTICE)
Span = tuple[float | None, float | None]


def _low_pass_of(part: Amplifier | PoweredSubwoofer) -> Span:
    return part.low_pass_low_hz, part.low_pass_high_hz


def _high_pass_of(part: Amplifier | PoweredSubwoofer) -> Span:
    return (part.high_pass_low_hz, part.high_pass_high_hz) if isinstance(part, Amplifier) else (None, None)


def _names(results: Results, entries: list[Crossover]) -> str:
    """What is fed by some outputs, or the subwoofer that is one itself."""
    scopes = {entry.scope for entry in entries}
    return what_plays_on(load for load in results.loads if load.scope in scopes) or entries[0].name


@rule("crossover", "signal", SHEET)
def crossover(results: Results) -> Iterator[Draft]:
    """A filter is wanted that the amplifier cannot be set to, or of which nothing is on file."""
    elsewhere = any(c.kind == "processor" for c in results.design.parts_of(Converter))
    asked: set[tuple[str, str]] = set()
    past: dict[tuple[str, str, float], list[Crossover]] = {}  # what wants the same of an amplifier that has it not
    for entry in results.crossovers:
        wanted: list[tuple[str, Figure | None, Span]] = [("low-pass", entry.low_pass, _low_pass_of(entry.part))]
        if not entry.sub:
            wanted.append(("high-pass", entry.high_pass, _high_pass_of(entry.part)))
        for word, figure, (low_hz, high_hz) in wanted:
            if figure is None or figure.value is None or elsewhere:
                continue
            if low_hz is None or high_hz is None:
                if isinstance(entry.part, Amplifier) and entry.part.processor:
                    continue  # it filters every channel where one wants it
                if (entry.part.id, word) not in asked:
                    asked.add((entry.part.id, word))
                    yield note(
                        entry.part.id,
                        f"Whether {entry.part.name} has a {word} is not on file",
                        f"{entry.name} wants {figure.value:.0f} Hz. Look in its papers, or set it in the radio.",
                        Remedy("Enter its range", path=at(entry.part)),
                    )
            elif not low_hz <= figure.value <= high_hz:
                past.setdefault((entry.part.id, word, figure.value), []).append(entry)
    for (_, word, hz), entries in past.items():
        entry = entries[0]
        low_hz, high_hz = _low_pass_of(entry.part) if word == "low-pass" else _high_pass_of(entry.part)
        yield watch(
            entry.part.id,
            f"{_names(results, entries)}: {word} {hz:.0f} Hz, and {entry.part.name} goes from"
            f" {low_hz:.0f} to {high_hz:.0f} Hz",
            "Set it as near as it goes, or filter in the radio or a processor; two filters in a row add up.",
            Remedy("Choose another", path=at(entry.link) if entry.link else at(entry.part)),
        )
