"""What is put into speakers' leads and line pairs: where each net, capacitor, coil, pad, resistor and isolator sits."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby
from typing import TYPE_CHECKING

from ohmack.core.document.factory import Module, Radio, RadioChannel
from ohmack.core.document.links import LineLink
from ohmack.core.document.small_parts import (
    CrossoverNet,
    LineIsolator,
    LoadResistor,
    SeriesCapacitor,
    SeriesCoil,
    SpeakerPad,
)
from ohmack.core.loads.drivers import Drive
from ohmack.core.physics.geometry import Point
from ohmack.core.record import record
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

InLinePart = SeriesCapacitor | SeriesCoil | SpeakerPad | LoadResistor | CrossoverNet | LineIsolator
JOINTS = {"series capacitor": 2, "series coil": 2, "speaker pad": 4, "load resistor": 2}  # the others have terminals


@record
class Piece:
    """One piece of a part that goes into leads: where, and what comes off before."""

    part: InLinePart
    at_id: str  # the speaker, channel or link it sits in
    words: str
    where: Point | None
    behind_radio: bool
    speaker_ids: tuple[str, ...] = ()  # the places it is reached from or leads to
    hot: bool = False

    @property
    def joints(self) -> int:
        """How many joints it takes, beside terminals of its own."""
        return JOINTS.get(self.part.kind, 0)


def pieces_in_line(results: Results) -> list[Piece]:
    """Every piece that goes into leads, in the order of the parts.

    Parameters:
        results: the evaluated plan.

    Returns:
        one a place, pair or channel of each such part; none for a part that says no place, or was there before.
    """
    found: list[Piece] = []
    for part in results.design.parts:
        if part.in_car:
            continue
        if isinstance(part, CrossoverNet):
            found += _nets(results, part)
        elif isinstance(part, LineIsolator):
            found += _isolators(results, part)
        elif isinstance(part, SeriesCapacitor | SeriesCoil | SpeakerPad | LoadResistor):
            found += (one for at_id in part.at_ids if (one := _piece(results, part, at_id)) is not None)
    return found


def _piece(
    results: Results, part: SeriesCapacitor | SeriesCoil | SpeakerPad | LoadResistor, at_id: str
) -> Piece | None:
    vehicle = results.design.vehicle
    speaker = next((s for s in vehicle.speakers if s.id == at_id), None)
    if speaker is not None:
        before = "before" if isinstance(part, SpeakerPad) else "in line with the plus of"
        return Piece(part, at_id, f"{part.name} {before} {speaker.name}", speaker.position.point, False, (at_id,))
    found = next(((source, c) for source in vehicle.sources for c in source.channels if c.id == at_id), None)
    if found is None:
        return None
    source, channel = found
    across = isinstance(part, LoadResistor)
    words = f"{part.name} {'across' if across else 'in line with'} the {_pair(channel)} pair"
    return Piece(part, at_id, f"{words}, {at_its_plug(source)}", source.position.point, isinstance(source, Radio),
                 hot=across)  # fmt: skip


def _nets(results: Results, net: CrossoverNet) -> Iterator[Piece]:
    """One a channel: behind the radio or at the amplifier whose pair it parts, beside the woofer where a new cable
    leads there.
    """
    drives = [d for d in results.drives if d.speaker.id in net.at_ids and d.driven]

    def of(drive: Drive) -> str:
        cable = next((k for load in results.loads for k in load.links if k.to_id == drive.speaker.id), None)
        return f"{cable.from_id}/{cable.channel}" if cable is not None else drive.speaker.channel_id or ""

    for _, group in groupby(sorted(drives, key=of), key=of):
        behind = list(group)
        names = tuple(d.speaker.id for d in behind)
        out = f"out to {listed([d.speaker.name.lower() for d in behind])}"
        first = next((d for d in behind if not d.tweeter), behind[0])
        channel, source = first.channel, first.source
        if first.by_amplifier or channel is None or source is None:
            words = f"{net.name} beside {first.speaker.name}: {out}"
            yield Piece(net, first.speaker.id, words, first.speaker.position.point, False, names)
            continue
        words = f"{net.name} into the {_pair(channel)} pair, {at_its_plug(source)}: {out}"
        yield Piece(net, channel.id, words, source.position.point, isinstance(source, Radio), names)


def _isolators(results: Results, part: LineIsolator) -> Iterator[Piece]:
    line = next((k for k in results.design.links_of(LineLink) if k.id == part.in_line_id), None)
    into = results.design.part(line.to_id) if line is not None else None
    if line is not None and into is not None:
        where = into.position.point if into.position is not None else None
        yield Piece(part, line.id, f"{part.name} into the line pair at {into.name}", where, False)


def at_its_plug(source: Radio | Module) -> str:
    """Where one works at what the plug of a source leads to."""
    return "behind the radio" if isinstance(source, Radio) else f"at {source.name}"


def _pair(channel: RadioChannel) -> str:
    return channel.name.lower()
