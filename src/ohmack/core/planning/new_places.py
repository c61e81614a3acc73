"""New places for a speaker that is picked already: made and taken in one step."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import NotPossible
from ohmack.core.planning.survey import NEW_PLACE, TOGETHER, add_to_survey

MADE = (*TOGETHER, NEW_PLACE)


def places_to_make(design: Design, part_id: str) -> tuple[str, ...]:
    """What new places a planned speaker could get in this car.

    Parameters:
        design: the design.
        part_id: any part.

    Returns:
        names of MADE; none where the part is no speaker for a place in the car.
    """
    if not isinstance(design.part(part_id), Driver):
        return ()
    return tuple(what for what in MADE if _can_be_made(design, what))


def _can_be_made(design: Design, what: str) -> bool:
    try:
        add_to_survey(design, what)
    except NotPossible:
        return False
    return True


def into_new_places(design: Design, part_id: str, what: str) -> tuple[Edit, ...]:
    """The edits that make new places and put a planned speaker there; where it was, the car's own stays.

    Parameters:
        design: the design.
        part_id: a speaker.
        what: one of MADE.

    Returns:
        the edits.

    Raises:
        NotPossible: the part is no speaker, nothing is chosen, or this car has no room for such places.
        UnknownName: nothing of that name can be made.
    """
    part = design.part(part_id)
    if not isinstance(part, Driver):
        raise NotPossible("part", "Only a speaker goes into a new place.")
    if what not in MADE:
        raise NotPossible("what", "Choose what kind of place it gets.")
    _, made = add_to_survey(design, what)
    speakers = at_the(Vehicle, lambda it: it.speakers)
    ids = [edit.value["id"] for edit in made if edit.path == speakers]
    return (*made, Edit(op="set", path=at(part, lambda it: it.at_ids), value=ids))
