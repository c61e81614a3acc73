"""Two channels for one output: where bridging gives what hangs there the power it takes."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.finding import Remedy, set_to
from ohmack.core.loads.wirings import LoadResult, output_rows
from ohmack.core.physics.speaker_loads import rated_power_w
from ohmack.core.wording import amount, count


def bridged_with_free(design: Design, loads: Sequence[LoadResult]) -> Remedy | None:
    """A press that gives each of some outputs of an amplifier two channels, those that drive nothing taken with them.

    Parameters:
        design: the design, for the shop's window of power.
        loads: outputs of one amplifier, alike in what hangs on them.

    Returns:
        the press; None where channels are short, the papers rate no bridge into that load or do not permit it, or it
        would still be too little, or too much.

    Source: the papers' ratings; the window is the shop's.
    """
    amplifier, first = loads[0].amplifier, loads[0]
    pairs = _pairs_for(design, amplifier, loads)
    if any(load.link.bridged or load.links[1:] for load in loads) or len(pairs) < len(loads) or not first.allowed_w:
        return None
    rows, lowest_ohm = output_rows(amplifier, pairs[0][0], bridged=True)
    load_ohm = first.chosen.load_ohm
    if not rows or load_ohm < lowest_ohm * (1 - 1e-9):
        return None
    try:
        each_w = rated_power_w(rows, load_ohm)
    except OutOfRange:
        return None
    if not design.policy.match_low <= each_w / first.allowed_w <= design.policy.match_high:
        return None
    edits = []
    for load, (channel, _) in zip(loads, pairs, strict=False):
        edits += [set_to(at(load.link, lambda it: it.channel), channel)]
        edits += [set_to(at(load.link, lambda it: it.bridged), True)]
    two = "two channels" if len(loads) == 1 else f"{count(2 * len(loads), 'channel')}"
    return Remedy(f"Bridge {two}: {amount(each_w, 'w')}{' each' if len(loads) > 1 else ''}", tuple(edits))


def _pairs_for(design: Design, amplifier: Amplifier, loads: Sequence[LoadResult]) -> list[tuple[int, int]]:
    """The pairs of alike channels that nothing but these outputs hangs on."""
    own = {load.link.id for load in loads}
    taken = {n for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id and k.id not in own for n in k.takes}
    group = amplifier.group_of(loads[0].link.channel)
    if amplifier.processor or amplifier.plugs_in or any(load.link.channel not in group.numbers for load in loads):
        return []
    pairs = zip(group.numbers[::2], group.numbers[1::2], strict=False)
    return [pair for pair in pairs if not taken.intersection(pair)]
