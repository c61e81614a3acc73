"""Rules on left and right: what plays on one side of the car and not on the other."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, rule, watch
from ohmack.core.loads.drivers import Drive
from ohmack.core.loads.sides import mirror_of
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("sides-unlike", "loads", PRACTICE)
def sides_unlike(results: Results) -> Iterator[Draft]:
    """A place plays by another speaker, or from another kind of output, than the place across the car."""
    drives = {drive.speaker.id: drive for drive in results.drives}
    for drive in (d for d in results.drives if d.driven and d.speaker.side == "left"):
        across = mirror_of(results.design.vehicle, drive.speaker)
        other = drives.get(across.id) if across is not None else None
        if other is None or not other.driven:
            continue  # one that falls silent is said by itself
        here, there = _plays(drive), _plays(other)
        if here != there:
            yield watch(
                drive.speaker.id,
                f"{drive.speaker.name} plays {here}, {lowered(other.speaker.name)} {there}",
                "What one side does louder or brighter pulls the music to it. Both sides want the same speaker from"
                " the same kind of output.",
                Remedy("Look at it", path=at(drive.speaker)),
            )


def _plays(drive: Drive) -> str:
    """What plays at a place and from where, in words."""
    what = f"{drive.driver.name}" if drive.driver is not None else "the car's own speaker"
    if drive.by_amplifier:
        return f"{what} from an amplifier"
    return f"{what} from a radio's pair" if drive.by_new_radio else what
