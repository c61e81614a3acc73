"""What comes out of the car, and what takes its place: the car's own piece, a new part of the plan, or nothing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.outgoing import Outgoing, Whereabouts
from ohmack.core.document.parts import HeadUnit

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def open_places(results: Results) -> Iterator[Outgoing]:
    """What comes out of a place where the car had a piece of its own, and no new part of the plan goes there."""
    radio = any(True for _ in results.design.parts_of(HeadUnit))
    filled = {d.speaker.id for d in results.drives if d.driver is not None and not d.driver.in_car}
    for one in results.design.coming_out:
        if one.instead and not (radio if one.is_radio else one.speaker_id in filled):
            yield one


def going_back(results: Results) -> list[Outgoing]:
    """Of these, where the car's own piece goes back in, as far as nobody said that it is gone."""
    return [one for one in open_places(results) if one.instead_is is not Whereabouts.GONE]
