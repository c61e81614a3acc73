"""The cabin around a box: how long it is, which sets where a closed one begins to lift the bass, and room for a box."""

from __future__ import annotations

from ohmack.core.box.judged import BoxResult
from ohmack.core.box.proposals import Proposal, edits_of, proposals
from ohmack.core.document.boxed import boxed
from ohmack.core.document.design import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Body, Vehicle
from ohmack.core.fit.built_to_space import rebuilt
from ohmack.core.fit.made_to_measure import Pipes, made_to_measure, nearest_space
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.physics.fitting import room_in_l

OPEN = (Body.ROADSTER, Body.CONVERTIBLE, Body.CART)  # no closed air, no lift
USUAL_BOARD_M = 0.018  # common practice


def cabin_length_m(vehicle: Vehicle) -> float | None:
    """The length a sound runs in a cabin.

    Parameters:
        vehicle: the car.

    Returns:
        dash to tail of the cabin [m]; None for an open body.

    Source: proportions of bodies, common practice.
    """
    if vehicle.body in OPEN:
        return None
    typical = PROPORTIONS[vehicle.body]
    return float((typical.ground - typical.dash) * (vehicle.length_m.value or typical.length_m))


def room_for_a_box_l(design: Design, box_id: str) -> float | None:
    """Net volume of the largest block the space of a box has room for.

    Parameters:
        design: the design.
        box_id: the box.

    Returns:
        litres, the shop's margin and what drivers take off; None where the space was not measured.

    Source: geometry; boards of 18 mm unless the box has its own.
    """
    found = next(((box, subs) for box, subs in boxed(design) if box.id == box_id), None)
    if found is None:
        return None
    box, subs = found
    space = nearest_space(design, box)
    if space is None:
        return None
    sides = space.length_m.value, space.width_m.value, space.height_m.value
    if None in sides:
        return None
    margin_m = design.policy.fit_margin_mm / 1000
    length, width, height = (side - margin_m for side in sides if side is not None)
    board_m = (box.boards.thickness_mm or 1000 * USUAL_BOARD_M) / 1000
    taken = sum(sub.displaced_l or 0.0 for sub in subs)
    return room_in_l(length, width, height, board_m, taken)


def built_as(design: Design, one: BoxResult, proposal: Proposal) -> tuple[Edit, ...]:
    """Edits that make a box of a plan a proposed one; a block the shop builds gets the outside that leaves its air.

    Parameters:
        design: the design.
        one: the box with what is in it.
        proposal: what it becomes.

    Returns:
        kind, air, tuning and vents, and of a block its size; where none of that air goes into its space the outside
        stays and is judged against the air.
    """
    pipe = proposal.pipe
    vents = Pipes(pipe.count, pipe.diameter_mm, pipe.takes_l) if pipe is not None else None
    kept = one.box.model_copy(update={"box_type": proposal.box_type})
    block = made_to_measure(design, kept, one.subs, proposal.net_l, vents)
    sides = () if block is None else rebuilt(one.box, block)
    air = at(one.box, lambda it: it.net_volume_l)
    return (*edits_of(one.box, proposal), *(edit for edit in sides if edit.path != air))


def proposed_for(design: Design, one: BoxResult) -> tuple[Proposal, ...]:
    """Boxes proposed for the drivers in a box of a plan; none where the box itself is not judged."""
    if one.solved is None:
        return ()
    room_l = room_for_a_box_l(design, one.box.id)
    return proposals(one.solved.driver, one.solved.drive, one.box.net_volume_l, room_l)
