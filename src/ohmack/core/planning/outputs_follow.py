"""What an amplifier drives follows a speaker that is put into other places."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker


def outputs_follow(design: Design, after: Design) -> Iterator[Edit]:
    """Edits that hang outputs on where their speakers are now.

    Parameters:
        design: the design before speakers went elsewhere.
        after: the design with them there.

    Returns:
        the edits: an output whose place a new speaker has left goes to one of its places that no amplifier drives
        yet, on the same side where there is one. What lies in the car, or plays another new speaker there, stays.
    """
    was = {part.id: part.at_ids for part in design.parts_of(Driver)}
    taken = {name for part in after.parts_of(Driver) for name in part.at_ids}
    driven = {link.to_id for link in after.links_of(SpeakerLink)}
    places = {place.id: place for place in after.vehicle.speakers}
    for part in after.parts_of(Driver):
        left = [name for name in was.get(part.id, ()) if name not in taken and name in places]
        waiting = [places[name] for name in part.at_ids if name in places and name not in driven]
        for link in after.links_of(SpeakerLink):
            if link.to_id in left and not link.in_car and waiting:
                to = _on_its_side(places[link.to_id], waiting)
                waiting.remove(to)
                yield from _hung_on(link, to)


def _on_its_side(place: Speaker, waiting: list[Speaker]) -> Speaker:
    """The first waiting place of the same side; the first of all where none is."""
    return next((other for other in waiting if other.side == place.side), waiting[0])


def _hung_on(link: SpeakerLink, to: Speaker) -> Iterator[Edit]:
    """A cable to another place: what was taped of the old way says nothing of the new one, and no works wire goes to a
    place the car did not have.
    """
    yield Edit(path=at(link, lambda it: it.to_id), value=to.id)
    if link.tape_length_m.basis is not Basis.ASSUMED:
        yield Edit(path=at(link, lambda it: it.tape_length_m), value={"value": None})
    if link.factory_wire and to.new_place:
        yield Edit(path=at(link, lambda it: it.factory_wire), value=False)
