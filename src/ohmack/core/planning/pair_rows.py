"""Output pairs typed in row by row: where each plays, what it carries, what it reads, which speaker hangs on it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, ChannelPlace, Module, Radio, RadioChannel
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
        the pairs, bands as from papers and ohms as measured, and the speakers told which pair they hang on. A pair
        that was only taken for granted at a place becomes the one of the rows that carries the bass there.

    Raises:
        UnknownName: no such source or speaker.
        OutOfRange: one speaker on two of the rows.

    Source: nothing is taken from elsewhere than the rows.
    """
    source = next((one for one in design.vehicle.sources if one.id == source_id), None)
    if source is None:
        raise UnknownName("radio or amplifier", source_id)
    speakers = {s.id: s for s in design.vehicle.speakers}
    taken = design.taken_ids()
    hung: set[str] = set()
    edits: list[Edit] = []
    pairs = at(source, lambda it: it.channels)
    becomes = _takes_over(source, rows)
    for number, row in enumerate(rows):
        guess = becomes.get(number)
        channel_id = guess.id if guess else free_id(f"pair-{row.place.value.replace(' ', '-')}", taken)
        taken.add(channel_id)
        tree: dict[str, Any] = {
            "id": channel_id,
            "name": row.place.value.capitalize() + ("" if row.band is Band.FULL else f", {row.band.value}"),
            "place": row.place.value,
            "band": {"value": row.band.value, "basis": Basis.DOCUMENTED.value},
        }
        if row.reads_ohm is not None:
            tree["pair_resistance_ohm"] = {"value": row.reads_ohm, "basis": Basis.MEASURED.value}
        if guess is not None:
            fields = ("name", "band", "pair_resistance_ohm")
            edits += [Edit(path=f"{pairs}/{guess.id}/{name}", value=tree[name]) for name in fields if name in tree]
        else:
            edits.append(Edit(op="add", path=pairs, value=tree))
        if not row.speaker_id:
            continue
        if row.speaker_id not in speakers:
            raise UnknownName("speaker", row.speaker_id)
        if row.speaker_id in hung:
            raise OutOfRange(speakers[row.speaker_id].name, 2, "pairs", "one: a speaker hangs on one pair")
        hung.add(row.speaker_id)
        edits.append(Edit(path=at(speakers[row.speaker_id], lambda it: it.channel_id), value=channel_id))
    return tuple(edits)


def _takes_over(source: Radio | Module, rows: Sequence[PairRow]) -> dict[int, RadioChannel]:
    """The pair nobody looked at yet that a row with bass stands for, by the number of the row."""
    found: dict[int, RadioChannel] = {}
    for pair in source.channels:
        here = next((n for n, row in enumerate(rows) if row.place is pair.place and row.band.has_bass), None)
        untouched = pair.band.basis is Basis.ASSUMED and pair.band.value in (None, Band.FULL)
        read = pair.pair_resistance_ohm.value is not None or pair.reaches.value is not None or pair.pair_colours
        if here is not None and here not in found and untouched and not read:
            found[here] = pair
    return found
