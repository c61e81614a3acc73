"""Output pairs typed in row by row: where each plays, what it carries, what it reads, which speaker hangs on it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.document.ids import free_id
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.record import record


@record
class PairRow:
    """One row: the corner, the band, and where they are known the speaker and the ohms at the plug."""

    place: ChannelPlace
    band: Band
    speaker_id: str = ""
    reads_ohm: float | None = None


def add_pairs(design: Design, source_id: str, rows: Sequence[PairRow]) -> tuple[Edit, ...]:
    """Edits that put output pairs on a radio or a factory amplifier.

    Parameters:
        design: the design.
        source_id: the radio or the amplifier.
        rows: the pairs in their order.

    Returns:
        the pairs, bands as from papers and ohms as measured, and the speakers told which pair they hang on.

    Raises:
        UnknownName: no such source or speaker.
        OutOfRange: one speaker on two of the rows.

    Source: nothing is taken from elsewhere than the rows.
    """
    source = next((one for one in design.vehicle.sources if one.id == source_id), None)
    if source is None:
        raise UnknownName("radio or amplifier", source_id)
    speakers = {s.id: s for s in design.vehicle.speakers}
    taken = {name for ids in design.ids().values() for name in ids}
    hung: set[str] = set()
    edits: list[Edit] = []
    for row in rows:
        channel_id = free_id(f"pair-{row.place.value.replace(' ', '-')}", taken)
        taken.add(channel_id)
        tree: dict[str, Any] = {
            "id": channel_id,
            "name": row.place.value.capitalize() + ("" if row.band is Band.FULL else f", {row.band.value}"),
            "place": row.place.value,
            "band": {"value": row.band.value, "basis": Basis.DOCUMENTED.value},
        }
        if row.reads_ohm is not None:
            tree["pair_resistance_ohm"] = {"value": row.reads_ohm, "basis": Basis.MEASURED.value}
        edits.append(Edit(op="add", path=at(source, lambda it: it.channels), value=tree))
        if not row.speaker_id:
            continue
        if row.speaker_id not in speakers:
            raise UnknownName("speaker", row.speaker_id)
        if row.speaker_id in hung:
            raise OutOfRange(speakers[row.speaker_id].name, 2, "pairs", "one: a speaker hangs on one pair")
        hung.add(row.speaker_id)
        edits.append(Edit(path=at(speakers[row.speaker_id], lambda it: it.channel_id), value=channel_id))
    return tuple(edits)
