"""The coils of one driver on channels of their own, and back on one."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.finding import adding, set_to
from ohmack.core.loads.wirings import LoadResult, output_rows
from ohmack.core.physics.speaker_loads import rated_power_w
from ohmack.core.record import record
from ohmack.core.wording import amount, listed


@record
class Split:
    """A way to put the coils of a driver on channels, or all of them on one: in words, and as edits."""

    words: str
    gives: str
    edits: tuple[Edit, ...]


def split_of(design: Design, load: LoadResult) -> Split | None:
    """What can be done with the coils of a lone driver on an output.

    Parameters:
        design: the design.
        load: the output.

    Returns:
        each coil on a channel of its own, where the amplifier has as many alike that are free and may drive one; all
        on one channel again, where they are apart; None where neither can be.

    Source: circuit theory; two coils move one cone, so their channels have to play one signal: common practice.
    """
    sub = next((s for s in design.parts_of(Subwoofer) if s.id == load.link.to_id), None)
    if sub is None or len(sub.coils) < 2 or len(load.links) > 1:
        return None
    if load.link.coils:
        return _together(design, load, sub)
    return _apart(design, load, sub)


def _together(design: Design, load: LoadResult, sub: Subwoofer) -> Split | None:
    others = [k for k in design.links_of(SpeakerLink) if k.to_id == sub.id and k.id != load.link.id]
    if others and others[0].id < load.link.id:
        return None  # said once, at the first of them
    edits = [Edit(op="remove", path=at(link)) for link in others]
    edits += [set_to(at(load.link, lambda it: it.coils), []), set_to(at(load.link, lambda it: it.wiring), "")]
    return Split(f"All coils of {sub.name} on channel {load.link.channel}", "wired together again", tuple(edits))


def _apart(design: Design, load: LoadResult, sub: Subwoofer) -> Split | None:
    amplifier, link = load.amplifier, load.link
    used = {n for k in design.links_of(SpeakerLink) if k.from_id == amplifier.id and k.id != link.id for n in k.takes}
    group = amplifier.group_of(link.channel)
    free = [n for n in group.numbers if n not in used]
    if len(free) < len(sub.coils) or link.channel not in free:
        return None
    first = free.index(link.channel)
    chosen = (free[first:] + free[:first])[: len(sub.coils)]
    ohms = {coil.impedance_ohm for coil in sub.coils}
    rows, lowest_ohm = output_rows(amplifier, link.channel, bridged=False)
    if len(ohms) > 1 or min(ohms) < lowest_ohm * (1 - 1e-9):
        return None
    try:
        each_w = rated_power_w(rows, min(ohms))
    except OutOfRange:
        return None
    edits = [
        set_to(at(link, lambda it: it.coils), [1]),
        set_to(at(link, lambda it: it.wiring), ""),
        set_to(at(link, lambda it: it.bridged), False),
        set_to(at(link, lambda it: it.channel), chosen[0]),
    ]
    held = at_the(Design, lambda it: it.links)
    for n, channel in enumerate(chosen[1:], 2):
        tree = {
            "id": f"{link.id}-coil-{n}"[:40], "kind": "speaker", "from_id": amplifier.id, "to_id": sub.id,
            "channel": channel, "coils": [n], "high_pass_hz": link.high_pass_hz, "low_pass_hz": link.low_pass_hz,
        }  # fmt: skip
        edits.append(adding(held, tree))
    numbers = listed([str(n) for n in sorted(chosen)])
    gives = (
        f"{amount(min(ohms), 'ohm')} and {amount(each_w, 'w')} a channel, {amount(each_w * len(chosen), 'w')} in all"
    )
    return Split(f"Each coil of {sub.name} on a channel of its own: {numbers}", gives, tuple(edits))
