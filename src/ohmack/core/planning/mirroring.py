"""The other side of a speaker: a place like it across the car, on a pair like its own, in one press."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace, Module, Radio, RadioChannel
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.planning.equal_places import SHARED, equals_of

SIDES = {"left": "right", "right": "left", "Left": "Right", "Right": "Left"}


def across(words: str) -> str:
    """A name with its side turned round; with "other side" where it names none."""
    turned = " ".join(SIDES.get(word.strip(","), word.strip(",")) + ("," if word.endswith(",") else "") for word in
                      words.split())  # fmt: skip
    return turned if turned != words else f"{words}, other side"


def can_mirror(design: Design, speaker: Speaker) -> bool:
    """Whether a speaker sits to a side and nothing like it is on file across the car."""
    return speaker.side != "" and not equals_of(design, speaker)


def mirrored(design: Design, speaker_id: str) -> tuple[Edit, ...]:
    """Edits that put a speaker like one across the car, with the pair it hangs on where that is not on file.

    Parameters:
        design: the design.
        speaker_id: the speaker.

    Returns:
        the edits, the speaker last. What equal places share is taken over and says whose it is; what is read at each
        speaker is not.

    Raises:
        UnknownName: no such speaker.
        NotPossible: it sits in the middle, or its other side is on file already.
    """
    speaker = next((s for s in design.vehicle.speakers if s.id == speaker_id), None)
    if speaker is None:
        raise UnknownName("speaker", speaker_id)
    if not can_mirror(design, speaker):
        raise NotPossible(speaker_id, f"{speaker.name} has no other side to add.")
    taken = design.taken_ids()
    pairs, channel_id = _pair_across(design, speaker, taken)
    own_id = free_id(_id_across(speaker.id), taken)
    tree: dict[str, Any] = {
        "id": own_id,
        "name": across(speaker.name),
        "position": {"x_m": speaker.position.x_m, "y_m": round(-speaker.position.y_m, 2)},
        "place": speaker.place.value,
        "new_place": speaker.new_place,
        "size": speaker.size,
        "channel_id": channel_id,
    }
    for name in SHARED:
        fact = getattr(speaker, name)
        if fact.value is not None:
            tree[name] = fact.model_dump(mode="json") | {"note": f"as {speaker.name}"}
    return (*pairs, Edit(op="add", path=at_the(Vehicle, lambda it: it.speakers), value=tree))


def _id_across(name: str) -> str:
    """An id with its side turned round; unlike the one it was made from."""
    pieces = [{"left": "right", "right": "left", "l": "r", "r": "l"}.get(piece, piece) for piece in name.split("-")]
    turned = "-".join(pieces)
    return turned if turned != name else f"{name}-across"


def _pair_across(design: Design, speaker: Speaker, taken: set[str]) -> tuple[tuple[Edit, ...], str | None]:
    """(edits that add the pair where it is not on file, its id) of the other side."""
    source = next((s for s in design.vehicle.sources if any(c.id == speaker.channel_id for c in s.channels)), None)
    if source is None:
        return (), None
    own = next(c for c in source.channels if c.id == speaker.channel_id)
    place = _place_across(own)
    used = {s.channel_id for s in design.vehicle.speakers}
    for channel in source.channels:
        like = (channel.place is place and place is not None) or channel.name == across(own.name)
        if like and channel.id != own.id and channel.band.value is own.band.value and channel.id not in used:
            return (), channel.id
    new = {
        "id": free_id(_id_across(own.id), taken),
        "name": across(own.name),
        "place": place.value if place is not None else None,
        "band": own.band.model_dump(mode="json"),
        "mix": own.mix.value,
    }
    return (Edit(op="add", path=_channels_of(source), value=new),), str(new["id"])


def _channels_of(source: Radio | Module) -> str:
    return at(source, lambda it: it.channels)


def _place_across(channel: RadioChannel) -> ChannelPlace | None:
    """The place across the car from a pair's; None for one in the middle."""
    if channel.place is None:
        return None
    turned = across(channel.place.value)
    return ChannelPlace(turned) if turned in set(ChannelPlace) else None
