"""What a press on a finding's remedy does: its edits, a part wired up, a cable laid round."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.errors import NotPossible
from ohmack.core.figures.finding import Remedy
from ohmack.core.planning.laying import follow, laid, lay_anew
from ohmack.core.planning.part_added import lying_there
from ohmack.core.planning.wiring import connect_everything

LINKS = at_the(Design, lambda it: it.links)


def _beside_later(design: Design, edits: Sequence[Edit]) -> tuple[Edit, ...]:
    """Edits found in what is fitted now, for a design that plans more for later: a wire they add that is planned for
    later becomes theirs, and another wire of that id keeps it.
    """
    there, taken, found = {link.id: link for link in design.links}, design.taken_ids(), []
    for edit in edits:
        tree = edit.value if edit.op == "add" and edit.path == LINKS and isinstance(edit.value, dict) else {}
        later = there.get(str(tree.get("id")))
        if later is None:
            found.append(edit)
        elif (later.kind, later.to_id) == (tree["kind"], tree["to_id"]):
            found.append(Edit(path=at(later), value=tree))
        else:
            found.append(Edit(op="add", path=LINKS, value=tree | {"id": free_id(later.id, taken)}))
    return tuple(found)


def edits_of(design: Design, remedy: Remedy) -> Sequence[Edit]:
    """The edits a remedy stands for.

    Parameters:
        design: the design it was found in.
        remedy: one that a press applies.

    Returns:
        its own edits with what follows from them; the links a part lacks, after its own edits where it has some, as
        lying there while nothing new is planned; or another way for a link.

    Raises:
        NotPossible: there is nothing to wire the part to, or no other way for the cable.
    """
    if not remedy.connect:
        adds = any(edit.op == "add" and edit.path == LINKS for edit in remedy.edits)
        return laid(design, _beside_later(design, remedy.edits)) if adds else follow(design, remedy.edits)
    if any(link.id == remedy.connect for link in design.links):
        ways = lay_anew(design, [remedy.connect])
        if not ways:
            raise NotPossible(
                "way",
                "No way round it is known: it begins or ends there, or zones close every way. Move an end of it, or"
                " correct the zone.",
            )
        return ways
    so_far = apply_edits(design, remedy.edits)
    wires = connect_everything(so_far, remedy.connect, remedy.own)
    if not wires:
        raise NotPossible("wire", "There is nothing to wire it to yet: first pick what it drives or hears.")
    return (*remedy.edits, *(lying_there(so_far, wires) if so_far.all_in_car else wires))
