"""A part in another's place that has other channels, or other pairs: what hangs on which is laid out anew."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.planning.channels import speaker_links
from ohmack.core.planning.laying import laid
from ohmack.core.planning.lines import CENTRE, MIDRANGES, TWEETERS, kept_apart, line_links, source_of_lines
from ohmack.core.signal.ways import line_source

CABLE = {"tape_length_m", "wire", "way_points", "by_hand", "phase"}  # what is of a cable, whatever runs in it


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
    if not links or len(outputs) < len(links) or amplifier.plugs_in or not _can_be_laid_anew(lines):
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
    return (*moved, *_laid_anew(apply_edits(design, moved), lines)) if moved else ()


def lines_anew(design: Design, source_id: str) -> tuple[Edit, ...]:
    """Edits that lay the lines from a converter anew: each amplifier and subwoofer it feeds gets the pairs there are
    now.

    Parameters:
        design: the design, the converter in the place of another whose lines it still has.
        source_id: its id.

    Returns:
        the edits; none where a line lies in the car.
    """
    lines = [
        link
        for link in design.links_of(LineLink)
        if link.from_id == source_id and isinstance(design.part(link.to_id), Amplifier | PoweredSubwoofer)
    ]
    return _laid_anew(design, lines) if _can_be_laid_anew(lines) else ()


def parted_anew(design: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that give the lines of a processor other pairs and filters once new speakers make three bands of two, a
    centre is added, or a crossover net parts the tweeters.

    Parameters:
        design: the design before the new speakers.
        after: the design with them, wired.

    Returns:
        the edits; none where the processor keeps apart what it kept apart before.
    """
    source = source_of_lines(after)
    if source is None or source != source_of_lines(design):
        return ()
    was, now = kept_apart(design, source), kept_apart(after, source)
    parts = {MIDRANGES, CENTRE} & set(now) or TWEETERS in set(was) - set(now)
    return lines_anew(after, source.id) if was != now and parts else ()


def _can_be_laid_anew(lines: Sequence[LineLink]) -> bool:
    """Whether lines come from one place, and none lies in the car."""
    return len({line.from_id for line in lines}) < 2 and not any(line.in_car for line in lines)


def _laid_anew(design: Design, lines: Sequence[LineLink]) -> tuple[Edit, ...]:
    """Edits that lay lines from one source anew, by the outputs there are: a cable keeps its length, its way and its
    stage, a pair its level.
    """
    off = [Edit(op="remove", path=at(line)) for line in lines]
    now, on = apply_edits(design, off), []
    for name in dict.fromkeys(line.to_id for line in lines):
        part, old = design.part(name), [line for line in lines if line.to_id == name]
        if not isinstance(part, Amplifier | PoweredSubwoofer):
            continue
        for tree in list(line_links(now, part, line_source(now, lines[0].from_id))):
            same = next((line for line in old if line.pair == tree["pair"]), None)
            cable = same or old[0]
            kept = cable.model_dump(mode="json", include=CABLE if cable.by_hand else CABLE - {"way_points"})
            level = {} if same is None else {"level_db": same.level_db, "input_ids": same.input_ids}
            own = free_id(str(tree["id"]), now.taken_ids())
            on.append(Edit(op="add", path=at_the(Design, lambda it: it.links),
                           value={**kept, **level, **tree, "id": own}))  # fmt: skip
            now = apply_edits(now, on[-1:])
    return laid(design, (*off, *on))
