"""The crossover net that parts tweeters from what plays beside them: between which places, and the part."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at_the
from ohmack.core.figures.finding import Remedy, adding
from ohmack.core.loads.drivers import Drive
from ohmack.core.loads.line_parts import tweeter_hz
from ohmack.core.wording import trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def net_between(results: Results, place_id: str) -> Remedy | None:
    """A crossover net for a place, and for every other pair of the car that wants the same.

    Parameters:
        results: the evaluated plan.
        place_id: a tweeter, or what plays on one channel with it.

    Returns:
        the remedy, to one net's part with all its places; None where the place shares its channel with nothing a net
        would part it from. Where tweeters are high-passed is common practice.
    """
    groups = [group for group in _shared(results) if _wants_a_net(group)]
    if not any(drive.speaker.id == place_id for group in groups for drive in group):
        return None
    drives = {drive.speaker.id: drive for group in groups for drive in group}
    ohms = [ohm for drive in drives.values() if not drive.tweeter and (ohm := drive.nominal_ohm) is not None]
    part = {
        "id": f"net-{place_id}"[:40],
        "kind": "crossover net",
        "name": f"Crossover net {trimmed(tweeter_hz())} Hz",
        "crossover_hz": tweeter_hz(),
        "at_ids": list(drives)[:MOST_PLACES],
        **({"made_for_ohm": ohms[0]} if ohms else {}),
    }
    return Remedy("Put a crossover net between them", (adding(at_the(Design, lambda it: it.parts), part),))


MOST_PLACES = 8  # a net's part holds


def _wants_a_net(group: list[Drive]) -> bool:
    """Whether tweeters and others play on one channel, and nothing keeps the bass from the tweeters."""
    bare = [drive for drive in group if drive.tweeter and not drive.high_pass]
    return bool(bare) and any(not drive.tweeter and not drive.net for drive in group)


def _shared(results: Results) -> Iterator[list[Drive]]:
    """What plays together: on each channel of an amplifier, and on each pair of the car."""
    drives = {drive.speaker.id: drive for drive in results.drives if drive.driven}
    for load in results.loads:
        yield [drives[link.to_id] for link in load.links if link.to_id in drives]
    for row in results.channel_loads:
        yield [drives[s.id] for s in row.speakers if s.id in drives and not drives[s.id].by_amplifier]
