"""Rules on what comes out of the car: its place is filled again, or somebody said that it stays empty."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.outgoing import open_places
from ohmack.core.document.handles import at
from ohmack.core.document.outgoing import Whereabouts
from ohmack.core.figures.finding import Draft, Remedy, rule, stop, watch
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("place-empty", "plan", PRACTICE)
def place_empty(results: Results) -> Iterator[Draft]:
    """A part comes out whose place was the car's own, and nobody said whether that is still there."""
    for one in open_places(results):
        path = at(one, lambda it: it.instead_is)
        if one.instead_is is Whereabouts.UNKNOWN:
            yield watch(
                path,
                f"{one.called} comes out: nobody said whether {one.instead} is still there",
                "Ask the customer before the car is taken apart; a hole in the dash or a door without a speaker is no"
                " car as it was.",
                Remedy("Say where it is", path=path),
            )
        elif one.instead_is is Whereabouts.GONE:
            yield stop(
                path,
                f"{one.called} comes out, and {one.instead} is not there any more",
                "Nothing goes in its place. Plan a new one, or leave in what is there.",
                Remedy("Find one", sheet="find", query="kind=" + ("radio" if one.is_radio else "driver")),
            )
