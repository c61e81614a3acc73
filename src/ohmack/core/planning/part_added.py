"""A part put into a plan with the wires it makes possible: a new one, or one that is in the car already."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.part import Stands
from ohmack.core.planning.dealing import dealt_anew, plays_elsewhere
from ohmack.core.planning.laying import follow
from ohmack.core.planning.lines_anew import pairs_anew
from ohmack.core.planning.nets import nets_anew
from ohmack.core.planning.placing import place_part, placed_late, put_in_line
from ohmack.core.planning.switching_on import leads_anew
from ohmack.core.planning.tapping import taps_anew
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.wording import listed


def added(design: Design, tree: dict[str, Any], *, in_car: bool = False) -> tuple[Edit, ...]:
    """Edits that place a part and lay the wires it makes possible.

    Parameters:
        design: the design.
        tree: the part's data without id and place.
        in_car: whether it is in the car already; then the wires between it and what else is there lie there too.

    Returns:
        the edits.
    """
    placed = follow(design, place_part(design, {**tree, "stands": Stands.IN_THE_CAR.value} if in_car else tree))
    if not in_car:
        placed = (*placed, *nets_anew(apply_edits(design, placed)))
        if tree["kind"] == "driver":
            placed = (*placed, *placed_late(design, apply_edits(design, placed)))
    wired = connect_everything(apply_edits(design, placed))
    if in_car:
        return (*placed, *lying_there(design, wired))
    if any(mark.done for mark in design.work.marks):
        return (*placed, *wired)  # what was laid in the bay stays where it is
    now = apply_edits(design, (*placed, *wired))
    dealt = dealt_anew(design, now)
    now = apply_edits(now, dealt)
    anew = (*pairs_anew(design, now), *taps_anew(design, now), *leads_anew(design, now))
    return (*placed, *wired, *dealt, *anew, *put_in_line(design, apply_edits(now, anew)))


def said_of(design: Design, words: str, edits: Sequence[Edit]) -> str:
    """What adding a part did: the words for it, and what plays from another amplifier now, or from none."""
    moved, off = plays_elsewhere(design, apply_edits(design, edits))
    words = f"{words}; {listed(moved)} on another amplifier now" if moved else words
    return f"{words}; {listed(off)} off the amplifier" if off else words


def lying_there(design: Design, wires: Sequence[Edit]) -> tuple[Edit, ...]:
    """The edits that lay wires, as wires that lie in the car where nothing new is at their ends."""
    new = {part.id for part in design.parts if not part.in_car}
    return tuple(_there(edit, new) for edit in wires)


def _there(edit: Edit, new: set[str]) -> Edit:
    """An edit that adds a link, as one that lies in the car where nothing new is at its ends."""
    if edit.op != "add" or not isinstance(edit.value, dict) or "kind" not in edit.value or "to_id" not in edit.value:
        return edit
    ends = {edit.value["to_id"], edit.value.get("from_id", "")}
    return edit if ends & new else edit.model_copy(update={"value": {**edit.value, "in_car": True}})
