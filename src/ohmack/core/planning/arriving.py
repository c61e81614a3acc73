"""Everything of a job said to be ordered, or to be here, in one act."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.part import Phase, Stands

BEFORE = {Stands.ORDERED: (Stands.WANTED,), Stands.HERE: (Stands.WANTED, Stands.ORDERED)}


def brought_to(design: Design, stands: Stands) -> tuple[Edit, ...]:
    """Edits that say of every part fitted now, of wire, fuses and small parts, that they are ordered or here.

    Parameters:
        design: the design.
        stands: ordered or here; anything else changes nothing.

    Returns:
        the edits. Nothing goes back a step; what comes later stays, and what the customer brings nobody orders.
    """
    before = BEFORE.get(stands, ())
    ours = [p for p in design.parts if p.phase is Phase.NOW and not (p.by_customer and stands is Stands.ORDERED)]
    edits = [Edit(path=at(p, lambda it: it.stands), value=stands.value) for p in ours if p.stands in before]
    if design.work.materials in before:
        edits.append(Edit(path=at_the(Design, lambda it: it.work.materials), value=stands.value))
    return tuple(edits)
