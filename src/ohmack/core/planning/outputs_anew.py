"""A part in another's place that has other channels, or other pairs: what hangs on which is laid out anew."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.planning.channels import speaker_links
from ohmack.core.planning.laying import laid
from ohmack.core.planning.lines import line_links, source_of_lines
from ohmack.core.signal.ways import line_source


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
        would fall silent, so that what stops it is said, or where a line lies in the car.
    """
    amplifier = next(part for part in design.parts_of(Amplifier) if part.id == amplifier_id)
    outputs = {link.to_id: link for link in design.links_of(SpeakerLink) if link.from_id == amplifier_id}
    several = sum(link.from_id == amplifier_id for link in design.links_of(SpeakerLink)) > len(outputs)
    lines = [link for link in design.links_of(LineLink) if link.to_id == amplifier_id]
    if not outputs or several or amplifier.plugs_in or any(line.in_car for line in lines):
        return ()
    bare = apply_edits(design, [Edit(op="remove", path=at(link)) for link in (*outputs.values(), *lines)])
    planned = speaker_links(bare, amplifier)
    to = {tree["to_id"]: tree for tree in planned if tree["to_id"] in outputs}
    if set(to) != set(outputs) or len([tree for tree in planned if tree["to_id"] in outputs]) > len(outputs):
        return ()
    moved: list[Edit] = []
    for name, link in outputs.items():
        goes = (to[name].get("channel", 1), to[name].get("bridged", False))
        if goes != (link.channel, link.bridged):
            coils = {"wiring": to[name].get("wiring", ""), "coils": to[name].get("coils", ())}
            tree = {**link.model_dump(mode="json"), "channel": goes[0], "bridged": goes[1], **coils}
            moved.append(Edit(path=at(link), value=tree))
    return (*moved, *_lines_anew(design, bare, amplifier, lines, list(to.values()))) if moved else ()


def lines_anew(design: Design, source_id: str) -> tuple[Edit, ...]:
    """Edits that lay the lines from a converter anew: each part it feeds gets the pairs there are now.

    Parameters:
        design: the design, the converter in the place of another whose lines it still has.
        source_id: its id.

    Returns:
        the edits; none where a line lies in the car.
    """
    source = line_source(design, source_id)
    lines = [link for link in design.links_of(LineLink) if link.from_id == source_id]
    if any(line.in_car for line in lines):
        return ()
    off = [Edit(op="remove", path=at(line)) for line in lines]
    now, on = apply_edits(design, off), []
    for part in design.parts:
        if isinstance(part, Amplifier | PoweredSubwoofer) and any(line.to_id == part.id for line in lines):
            for tree in list(line_links(now, part, source)):
                own = free_id(str(tree["id"]), now.taken_ids())
                on.append(Edit(op="add", path=at_the(Design, lambda it: it.links), value={**tree, "id": own}))
                now = apply_edits(now, on[-1:])
    return laid(design, (*off, *on))


def _lines_anew(
    design: Design, bare: Design, amplifier: Amplifier, lines: list[LineLink], outputs: list[dict[str, object]]
) -> tuple[Edit, ...]:
    source = source_of_lines(bare)
    if source is None or not lines:
        return ()
    off = [Edit(op="remove", path=at(line)) for line in lines]
    taken, on = bare.taken_ids() | {link.id for link in design.links_of(SpeakerLink)}, []
    for tree in line_links(bare, amplifier, source, outputs):
        taken.add(own := free_id(str(tree["id"]), taken))
        on.append(Edit(op="add", path=at_the(Design, lambda it: it.links), value={**tree, "id": own}))
    return laid(design, (*off, *on))
