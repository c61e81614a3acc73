"""The output pairs of the radio or the amplifier whose entry is open, with their facts."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.handles import at, within
from ohmack.web.fields import FactView, fact_view


@dataclass(frozen=True)
class OutputPair:
    """One pair: what it is called, where its own entry is, what hangs on it, and its facts."""

    name: str
    path: str
    drives: tuple[str, ...]
    facts: tuple[FactView, ...]


def output_pairs(design: Design, path: str) -> tuple[OutputPair, ...]:
    """The pairs of the thing with a path; none where it has no outputs.

    Parameters:
        design: the design.
        path: of the radio, a factory amplifier, or anything else.

    Returns:
        one entry a pair: the band it carries, whether it reaches its speaker, what it reads at the plug.
    """
    source = next((one for one in design.vehicle.sources if at(one) == path), None)
    if source is None:
        return ()
    held = at(source, lambda it: it.channels)
    found = []
    for channel in source.channels:
        drives = tuple(s.name for s in design.vehicle.speakers if s.channel_id == channel.id)
        paths = (
            within(held, channel, lambda it: it.band),
            within(held, channel, lambda it: it.reaches),
            within(held, channel, lambda it: it.pair_resistance_ohm),
        )
        found.append(
            OutputPair(channel.name, within(held, channel), drives, tuple(fact_view(design, one) for one in paths))
        )
    return tuple(found)
