"""A part in another's place that has other channels, or other pairs: what hangs on which is laid out anew."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.planning.channels import speaker_links
from ohmack.core.planning.lines_anew import can_be_laid_anew, relaid


def layout(amplifier: Amplifier) -> tuple[object, ...]:
    """What decides which channel drives what: how many there are, of which groups, and whether they bridge."""
    return (
        amplifier.plugs_in,
        *((group.first, len(group.numbers), bool(group.bridged_ratings)) for group in amplifier.groups),
    )


def outputs_anew(design: Design, amplifier_id: str) -> tuple[Edit, ...]:
    """Edits that move what an amplifier drives to the channels it is best on there.

    Parameters:
        design: the design, the amplifier in the place of another whose outputs it still has.
        amplifier_id: its id.

    Returns:
        the edits: outputs keep their cables, and what was set at them; lines are laid anew. None where something
        would fall silent, so that what stops it is said, or where a line lies in the car or they come from several
        places.
    """
    amplifier = next(part for part in design.parts_of(Amplifier) if part.id == amplifier_id)
    links = [link for link in design.links_of(SpeakerLink) if link.from_id == amplifier_id]
    lines = [link for link in design.links_of(LineLink) if link.to_id == amplifier_id]
    outputs = {link.to_id: link for link in links}
    if not links or len(outputs) < len(links) or amplifier.plugs_in or not can_be_laid_anew(lines):
        return ()
    bare = apply_edits(design, [Edit(op="remove", path=at(link)) for link in (*links, *lines)])
    planned = [tree for tree in speaker_links(bare, amplifier) if tree["to_id"] in outputs]
    if sorted(tree["to_id"] for tree in planned) != sorted(outputs):
        return ()
    moved: list[Edit] = []
    for tree in planned:
        link = outputs[tree["to_id"]]
        goes = {"channel": tree.get("channel", 1), "bridged": tree.get("bridged", False)}
        if goes != {"channel": link.channel, "bridged": link.bridged}:
            coils = {"wiring": tree.get("wiring", ""), "coils": tree.get("coils", ())}
            moved.append(Edit(path=at(link), value={**link.model_dump(mode="json"), **goes, **coils}))
    return (*moved, *relaid(apply_edits(design, moved), lines)) if moved else ()
