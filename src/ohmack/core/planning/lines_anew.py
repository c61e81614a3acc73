"""Which line pair feeds what, laid anew once its source has other pairs, or other things hang on what it feeds."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.links import LineLink
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.planning.laying import laid
from ohmack.core.planning.lines import line_links
from ohmack.core.signal.ways import line_source

CABLE = {"tape_length_m", "wire", "way_points", "by_hand", "phase"}  # what is of a cable, whatever runs in it
OF_THE_PAIR = {"level_db", "input_ids", "filter_slope_db", "filter_family"}  # what is set at a source for a pair
Pairs = frozenset[tuple[int, tuple[int, ...], float | None, float | None]]


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
    return relaid(design, lines) if can_be_laid_anew(lines) else ()


def pairs_anew(before: Design, after: Design) -> tuple[Edit, ...]:
    """Edits that lay the lines anew which feed other pairs, or through other filters, than suit what plays now.

    Parameters:
        before: the design before some parts were added.
        after: the design with them, wired.

    Returns:
        the edits; none for lines whose pairs, channels or filters somebody chose, nor where one lies in the car.
    """
    edits: list[Edit] = []
    for part in (*after.parts_of(Amplifier), *after.parts_of(PoweredSubwoofer)):
        now = apply_edits(after, edits)
        lines, old = _lines_to(now, part.id), _lines_to(before, part.id)
        ours = not old or _pairs(old) == _suits(before, part.id, old)
        if lines and ours and can_be_laid_anew(lines) and _pairs(lines) != _suits(now, part.id, lines):
            edits += relaid(now, lines)
    return tuple(edits)


def _lines_to(design: Design, part_id: str) -> list[LineLink]:
    return [line for line in design.links_of(LineLink) if line.to_id == part_id]


def _pairs(lines: Sequence[LineLink]) -> Pairs:
    return frozenset((line.pair, tuple(line.channels), line.high_pass_hz, line.low_pass_hz) for line in lines)


def _suits(design: Design, part_id: str, lines: Sequence[LineLink]) -> Pairs:
    """The pairs a part would be fed by had it no lines yet, and how they would be filtered."""
    bare, part = apply_edits(design, [Edit(op="remove", path=at(line)) for line in lines]), design.part(part_id)
    if not isinstance(part, Amplifier | PoweredSubwoofer):
        return frozenset()
    trees = line_links(bare, part, line_source(bare, lines[0].from_id))
    return _pairs([LineLink.model_validate(tree) for tree in trees])


def can_be_laid_anew(lines: Sequence[LineLink]) -> bool:
    """Whether lines come from one place, and none lies in the car."""
    return len({line.from_id for line in lines}) < 2 and not any(line.in_car for line in lines)


def relaid(design: Design, lines: Sequence[LineLink]) -> tuple[Edit, ...]:
    """Edits that lay lines from one source anew, by the outputs there are: a cable keeps its length, its way and its
    stage, a pair its level and the shape of its filters.
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
            level = {} if same is None else same.model_dump(mode="json", include=OF_THE_PAIR)
            own = free_id(str(tree["id"]), now.taken_ids())
            on.append(Edit(op="add", path=at_the(Design, lambda it: it.links),
                           value={**kept, **level, **tree, "id": own}))  # fmt: skip
            now = apply_edits(now, on[-1:])
    return laid(design, (*off, *on))
